"""Routes of the rulebooks: editions written, checked and tried by the rule-keeper, confirmed by a lead."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain
from typing import Annotated, Any

from fastapi import Path
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field, TypeAdapter

from jolly_clerk.core.rulebook.completing import Completion
from jolly_clerk.office.rules import calendars, translating, trying_out, writing
from jolly_clerk.office.rules.replaying import Progress
from jolly_clerk.web.applicant import Started
from jolly_clerk.web.asking import Asker, Seen, TheOffice
from jolly_clerk.web.bodies import Number
from jolly_clerk.web.turns import router_of

router = router_of("/api/rules", "rules")
EditionId = Annotated[str, Path(max_length=40)]
Text = Annotated[str, Field(max_length=writing.MOST_LETTERS)]
_PROGRESS = TypeAdapter(Progress)


class BeginEdition(BaseModel):
    """An edition to be begun: from a published one (``of``, by its hash), or of a new ``kind``."""

    of: Annotated[str, Field(pattern="^([0-9a-f]{64})?$")] = ""
    kind: Annotated[str, Field(max_length=2)] = ""


class KeepEdition(BaseModel):
    """What was typed."""

    text: Text


class KeepCalendar(BaseModel):
    """What was typed in the calendar, over which revision of it."""

    text: Annotated[str, Field(max_length=calendars.MOST_LETTERS)]
    seen: Number


class CompleteHere(BaseModel):
    """A place in a text: its line (from 1) and column (from 0)."""

    text: Text
    line: Annotated[int, Field(ge=1, le=100_000)]
    column: Annotated[int, Field(ge=0, le=100_000)]


class TryOut(BaseModel):
    """Answers over which a form is tried, by part and question; without them those of an ``example``."""

    example: Annotated[str, Field(max_length=60)] = ""
    answers: dict[str, dict[str, Any] | list[dict[str, Any]]] | None = None


class SayIn(BaseModel):
    """A text of an edition, by its own words, and how it is said in another language."""

    text: Text
    language: Annotated[str, Field(max_length=10)]
    original: Annotated[str, Field(max_length=8000)]
    says: Annotated[str, Field(max_length=8000)]


class EditionText(BaseModel):
    """The text of an edition."""

    text: str


class Published(BaseModel):
    """The hash of an edition that is published now."""

    sha256: str


@router.get("")
def shelf(office: TheOffice, who: Asker) -> list[writing.KindLine]:
    """Every kind with its editions and what is being written."""
    return writing.shelf(office, who)


@router.post("/editions", status_code=201)
def begin(body: BeginEdition, office: TheOffice, who: Asker) -> Started:
    """Begin an edition."""
    return Started(id=writing.begin(office, who, body.of, body.kind))


@router.get("/calendar")
def calendar(office: TheOffice, who: Asker) -> calendars.CalendarPage:
    """The calendar for editions to come, and what is being written of it."""
    return calendars.calendar_page(office, who)


@router.put("/calendar")
def keep_calendar(body: KeepCalendar, office: TheOffice, who: Asker) -> calendars.CalendarPage:
    """Keep what was typed in the calendar."""
    return calendars.keep_calendar(office, who, body.text, body.seen)


@router.delete("/calendar")
def throw_calendar_away(office: TheOffice, who: Asker) -> calendars.CalendarPage:
    """Throw away what is being written of the calendar."""
    return calendars.throw_calendar_away(office, who)


@router.post("/calendar/asking")
def ask_for_calendar(office: TheOffice, who: Asker) -> calendars.CalendarPage:
    """Lay the calendar before a lead."""
    return calendars.ask_for_calendar(office, who)


@router.post("/calendar/taking-back")
def take_calendar_back(office: TheOffice, who: Asker) -> calendars.CalendarPage:
    """Take the calendar back from the lead, or send it back."""
    return calendars.take_calendar_back(office, who)


@router.post("/calendar/confirmation")
def confirm_calendar(office: TheOffice, who: Asker) -> calendars.CalendarPage:
    """A lead confirms the calendar."""
    return calendars.confirm_calendar(office, who)


@router.get("/editions/{edition}")
def open_edition(edition: EditionId, office: TheOffice, who: Asker) -> writing.WrittenEdition:
    """An edition that is being written, with what the check says of it."""
    return writing.open_edition(office, who, edition)


@router.put("/editions/{edition}")
def keep(edition: EditionId, body: KeepEdition, office: TheOffice, who: Asker, seen: Seen) -> writing.WrittenEdition:
    """Keep what was typed, and check it."""
    return writing.keep(office, who, edition, body.text, seen)


@router.delete("/editions/{edition}", status_code=204)
def throw_away(edition: EditionId, office: TheOffice, who: Asker) -> None:
    """Throw away what is being written."""
    writing.throw_away(office, who, edition)


@router.post("/translated")
def translated(body: SayIn, who: Asker) -> EditionText:
    """The text of an edition in which one of its texts is said so in another language."""
    return EditionText(text=translating.with_translation(who, body.text, body.language, body.original, body.says))


@router.post("/completions")
def complete(body: CompleteHere, who: Asker) -> list[Completion]:
    """What may stand at a place of a text."""
    return writing.complete(who, body.text, body.line, body.column)


@router.post("/editions/{edition}/trial")
def try_out(edition: EditionId, body: TryOut, office: TheOffice, who: Asker) -> trying_out.Tried:
    """Its form, filled in; nothing is kept."""
    return trying_out.try_out(office, who, edition, body.example, body.answers)


@router.get("/editions/{edition}/differences")
def differences(edition: EditionId, office: TheOffice, who: Asker) -> list[str]:
    """What differs from the edition that it was begun from, in words."""
    return writing.differences(office, who, edition)


@router.get("/editions/{edition}/translations")
def side_by_side(edition: EditionId, office: TheOffice, who: Asker) -> list[translating.Translation]:
    """Its texts beside those of each language that it names, those without a text first."""
    return translating.translations(office, who, edition)


@router.get("/editions/{edition}/replay", response_class=StreamingResponse)
def replay(edition: EditionId, office: TheOffice, who: Asker) -> StreamingResponse:
    """What it would have done to past cases, as it goes on: one JSON document a line."""
    told = writing.try_on_past(office, who, edition)
    first = next(told, None)  # what stands against it is answered before anything is sent

    def lines() -> Iterator[bytes]:
        for progress in chain([first] if first else [], told):
            yield _PROGRESS.dump_json(progress) + b"\n"

    return StreamingResponse(lines(), media_type="application/x-ndjson", headers={"Cache-Control": "no-store"})


@router.post("/editions/{edition}/asking")
def ask_for_confirmation(edition: EditionId, office: TheOffice, who: Asker) -> writing.WrittenEdition:
    """Lay it before a lead."""
    return writing.ask_for_confirmation(office, who, edition)


@router.post("/editions/{edition}/taking-back")
def take_back(edition: EditionId, office: TheOffice, who: Asker) -> writing.WrittenEdition:
    """Take it back from the lead, or send it back."""
    return writing.take_back(office, who, edition)


@router.post("/editions/{edition}/confirmation")
def confirm(edition: EditionId, office: TheOffice, who: Asker) -> Published:
    """A lead confirms it: it is published."""
    return Published(sha256=writing.confirm(office, who, edition))


@router.delete("/published/{sha256}", status_code=204)
def withdraw_edition(sha256: Annotated[str, Path(pattern="^[0-9a-f]{64}$")], office: TheOffice, who: Asker) -> None:
    """Take back a published edition before its day; it is written on."""
    writing.withdraw_edition(office, who, sha256)
