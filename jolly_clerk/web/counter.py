"""Routes of the counter: filings that the office records, people found, consent, a pile that holds several filings, things that came."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import File, Query, UploadFile
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field

from jolly_clerk.core.recording import Came
from jolly_clerk.core.sorting.likely import Likely
from jolly_clerk.office.keeping.looks import looked
from jolly_clerk.office.preparing import counter, photographing
from jolly_clerk.web.applicant import Started, changed
from jolly_clerk.web.asking import Asker, Seen, TheOffice
from jolly_clerk.web.changed import DraftChanged
from jolly_clerk.web.turns import router_of

router = router_of("/api/counter", "office")

Id = Annotated[str, Field(max_length=40)]
Kind = Annotated[str, Field(pattern="^[A-Z]{2}$")]
Piece = Annotated[str, Field(max_length=80)]


class WhoApplies(BaseModel):
    """Whoever applies: an account or contact by its id, or the name and postal address of somebody without one."""

    person: Id = ""
    name: str = Field(default="", max_length=120)
    address: str = Field(default="", max_length=300)
    telephone: str = Field(default="", max_length=40)

    def contact(self) -> counter.Contact:
        """The same for the office."""
        return counter.Contact(self.person, self.name, self.address, self.telephone)


class BeginRecording(WhoApplies):
    """A filing to be recorded: its kind, how it came, and the day on which it reached the office."""

    kind: Kind
    came: Came
    reached: date


class SplitOff(WhoApplies):
    """Papers of a pile that are another filing."""

    kind: Kind
    pieces: list[Piece] = Field(min_length=1, max_length=300)


class Consent(BaseModel):
    """The name of whoever applies, as signed on the paper that came or as said before a witness."""

    name: str = Field(max_length=120)
    on_paper: bool


class ItCame(BaseModel):
    """Where something lies that came, and in which condition it is."""

    place: str = Field(max_length=80)
    condition: str = Field(default="", max_length=200)


@router.get("/filings")
def recordings(office: TheOffice, who: Asker) -> list[counter.Recording]:
    """What is being recorded, and what was of late."""
    rows = counter.recordings(office, who)
    looked(office, who, "list", detail="counter")
    return rows


@router.post("/filings")
def begin_recording(body: BeginRecording, office: TheOffice, who: Asker) -> Started:
    """Begin to record a filing."""
    return Started(id=counter.begin_recording(office, who, body.kind, body.came, body.reached, body.contact()))


@router.delete("/filings/{draft}", status_code=204)
def discard(draft: str, office: TheOffice, who: Asker) -> None:
    """Throw away what was begun."""
    counter.discard(office, who, draft)


@router.put("/filings/{draft}/consent", response_model=DraftChanged)
def consent(draft: str, body: Consent, office: TheOffice, who: Asker, seen: Seen) -> JSONResponse:
    """Note that whoever applies consents."""
    counter.need_counter(who)
    return changed(office, who, draft, seen, lambda: counter.note_consent(office, who, draft, body.name, body.on_paper, seen))


@router.post("/filings/{draft}/split")
def split(draft: str, body: SplitOff, office: TheOffice, who: Asker) -> Started:
    """Papers of the pile are another filing."""
    return Started(id=counter.split(office, who, draft, body.pieces, body.kind, body.contact()))


@router.get("/filings/{draft}/likely")
def likely(draft: str, pieces: Annotated[list[Piece], Query(max_length=60)], office: TheOffice, who: Asker) -> list[Likely]:
    """For which kinds papers of the pile may be."""
    return counter.likely_kinds(office, who, draft, pieces)


@router.get("/people")
def people(words: Annotated[str, Query(max_length=80)], office: TheOffice, who: Asker) -> list[counter.FoundPerson]:
    """People by name or mail address."""
    rows = counter.people_found(office, who, words)
    looked(office, who, "search", detail="people")
    return rows


@router.get("/things/{docket}")
def thing(docket: str, office: TheOffice, who: Asker) -> counter.Thing:
    """What lies on a docket."""
    return counter.thing(office, who, docket)


@router.post("/things/{docket}")
def thing_came(docket: str, body: ItCame, office: TheOffice, who: Asker) -> counter.Thing:
    """Something that was announced came."""
    return counter.thing_came(office, who, docket, body.place, body.condition)


@router.post("/photographs")
def photographed(file: Annotated[UploadFile, File()], office: TheOffice, who: Asker) -> counter.Thing:
    """What lies on the docket whose code is in a photograph, which is not kept."""
    return photographing.thing_photographed(office, who, file.file.read(photographing.MOST_BYTES + 1))
