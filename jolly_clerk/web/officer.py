"""Routes of the officer: the in-tray and the desk."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from jolly_clerk.core.history import GivenStanding
from jolly_clerk.office import checking, lists, looking
from jolly_clerk.office.casework import Loaded
from jolly_clerk.office.office import Office, Who
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.cases import PDF
from jolly_clerk.web.problems import RESPONSES

router = APIRouter(prefix="/api", tags=["officer"], responses=RESPONSES)


class Seen(BaseModel):
    """How many entries the person had before the eyes."""

    seen: int | None = None


class SeenInLane(Seen):
    """In which lane it is done; nothing for the common one."""

    lane: str = Field(default="", max_length=60)


class Judge(Seen):
    """Give a requirement its standing; null takes it back."""

    requirement: str = Field(max_length=120)
    standing: GivenStanding | None
    reason: str = Field(default="", max_length=2000)


class Word(Seen):
    """The officer's words for a point."""

    requirement: str = Field(max_length=120)
    text: str = Field(max_length=4000)


class AskAgain(SeenInLane):
    """Ask an answered point again, with new words if there are any."""

    text: str = Field(default="", max_length=4000)


class Take(Seen):
    """Take a change that nobody asked for."""

    place: str = Field(max_length=120)


class AskAbout(Take):
    """Ask about a change that nobody asked for."""

    text: str = Field(default="", max_length=4000)


@router.get("/tray")
def tray(
    office: TheOffice,
    who: Asker,
    whose: lists.Whose = "mine",
    kind: Annotated[str, Query(max_length=2)] = "",
    view: lists.KeptView = "",
    words: Annotated[str, Query(max_length=100)] = "",
) -> lists.Tray:
    """The in-tray; a reviewer's holds what was handed over."""
    return lists.tray(office, who, whose, words, kind, view)


@router.get("/search")
def search(office: TheOffice, who: Asker, words: Annotated[str, Query(max_length=100)] = "") -> list[lists.Row]:
    """Find a case by reference, person or place."""
    return list(lists.search(office, who, words))


def view_of(office: Office, who: Who, done: Loaded) -> looking.CaseView:
    """The case as this person sees it after a move."""
    return looking.case_view(office, who, done)


@router.post("/cases/{reference}/checking")
def begin(reference: str, body: Seen, office: TheOffice, who: Asker) -> looking.CaseView:
    """Begin checking."""
    return view_of(office, who, checking.begin_checking(office, who, reference, body.seen))


@router.post("/cases/{reference}/judgements")
def judge(reference: str, body: Judge, office: TheOffice, who: Asker) -> looking.CaseView:
    """Judge a requirement."""
    return view_of(office, who, checking.judge(office, who, reference, body.requirement, body.standing, body.reason, body.seen))


@router.post("/cases/{reference}/words")
def word(reference: str, body: Word, office: TheOffice, who: Asker) -> looking.CaseView:
    """Keep the words of a point."""
    return view_of(office, who, checking.word_point(office, who, reference, body.requirement, body.text, body.seen))


@router.get("/cases/{reference}/letter", response_class=Response, responses=PDF)
def preview(reference: str, office: TheOffice, who: Asker, lane: Annotated[str, Query(max_length=60)] = "") -> Response:
    """The correction letter of a lane as it would be sent now."""
    content = checking.preview_letter(office, who, reference, lane)
    return Response(content, media_type="application/pdf", headers={"Cache-Control": "no-store"})


@router.post("/cases/{reference}/letter")
def send(reference: str, body: SeenInLane, office: TheOffice, who: Asker) -> looking.CaseView:
    """Send the letter and pause the clock."""
    return view_of(office, who, checking.send_letter(office, who, reference, body.seen, body.lane))


@router.post("/cases/{reference}/points/{no}/close")
def close(reference: str, no: int, body: SeenInLane, office: TheOffice, who: Asker) -> looking.CaseView:
    """Close an answered point."""
    return view_of(office, who, checking.close_point(office, who, reference, no, body.seen, body.lane))


@router.post("/cases/{reference}/points/{no}/again")
def again(reference: str, no: int, body: AskAgain, office: TheOffice, who: Asker) -> looking.CaseView:
    """Ask an answered point again."""
    return view_of(office, who, checking.ask_again(office, who, reference, no, body.text, body.seen, body.lane))


@router.post("/cases/{reference}/changes")
def take(reference: str, body: Take, office: TheOffice, who: Asker) -> looking.CaseView:
    """Take a change that nobody asked for."""
    return view_of(office, who, checking.take_change(office, who, reference, body.place, body.seen))


@router.post("/cases/{reference}/questions")
def ask_about(reference: str, body: AskAbout, office: TheOffice, who: Asker) -> looking.CaseView:
    """Ask about a change that nobody asked for."""
    return view_of(office, who, checking.ask_about(office, who, reference, body.place, body.text, body.seen))


@router.post("/cases/{reference}/acceptance")
def accept(reference: str, body: SeenInLane, office: TheOffice, who: Asker) -> looking.CaseView:
    """Accept as complete."""
    return view_of(office, who, checking.accept(office, who, reference, body.seen, body.lane))
