"""Routes of meetings: planned, called off, their agendas in order, what is minuted, their papers."""

from __future__ import annotations

from datetime import date, time
from typing import Annotated

from fastapi import Response
from pydantic import BaseModel, Field

from jolly_clerk.office.keeping.looks import looked
from jolly_clerk.office.meetings import agenda, looking, planning, tabling
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.attached import attached
from jolly_clerk.web.turns import router_of

router = router_of("/api", "meetings")
Id = Annotated[str, Field(max_length=40)]


class PlanMeeting(BaseModel):
    """Who meets (the id of the body), on which day, at which hour of the office's clock, and where."""

    body: str = Field(max_length=60)
    on: date
    at: time
    place: str = Field(max_length=200)


class Planned(BaseModel):
    """The id of a meeting that was planned."""

    id: str


class CallOff(BaseModel):
    """Why a meeting does not take place."""

    because: str = Field(max_length=400)


class Order(BaseModel):
    """All cases of an agenda, in the order that it is to have."""

    references: list[Annotated[str, Field(max_length=20)]] = Field(max_length=2 * planning.MOST_ITEMS)


@router.get("/meetings")
def meetings(office: TheOffice, who: Asker) -> looking.MeetingsPage:
    """All meetings, and what waits for an agenda."""
    looked(office, who, "list", detail="meetings")
    return looking.meetings_page(office, who)


@router.post("/meetings", status_code=201)
def plan(body: PlanMeeting, office: TheOffice, who: Asker) -> Planned:
    """Plan a meeting."""
    return Planned(id=planning.plan(office, who, body.body, body.on, body.at, body.place))


@router.get("/meetings/{meeting}")
def meeting(meeting: Id, office: TheOffice, who: Asker) -> looking.MeetingView:
    """A meeting with its agenda."""
    view = looking.meeting_view(office, who, meeting)
    looked(office, who, "list", detail=f"{view.line.title} {view.line.day}")
    return view


@router.put("/meetings/{meeting}/order")
def order(meeting: Id, body: Order, office: TheOffice, who: Asker) -> looking.MeetingView:
    """Bring an agenda into an order."""
    planning.reorder(office, who, meeting, body.references)
    return looking.meeting_view(office, who, meeting)


@router.post("/meetings/{meeting}/called-off")
def call_off(meeting: Id, body: CallOff, office: TheOffice, who: Asker) -> looking.MeetingView:
    """Call a meeting off."""
    planning.call_off(office, who, meeting, body.because)
    return looking.meeting_view(office, who, meeting)


@router.get("/meetings/{meeting}/agenda", response_class=Response)
def agenda_paper(meeting: Id, office: TheOffice, who: Asker) -> Response:
    """The agenda, or the minutes once there are any, as a PDF."""
    made = agenda.agenda_paper(office, who, meeting)
    looked(office, who, "list", detail=meeting)
    return attached(made, "application/pdf", "agenda.pdf")


@router.get("/meetings/{meeting}/papers", response_class=Response)
def papers(meeting: Id, office: TheOffice, who: Asker) -> Response:
    """The agenda with the papers of its cases as one PDF."""
    made, references = agenda.papers(office, who, meeting)
    for reference in references:
        looked(office, who, "file", reference, meeting)
    return attached(made, "application/pdf", "papers.pdf")


@router.get("/cases/{reference}/agendas")
def agendas(reference: str, office: TheOffice, who: Asker) -> tuple[tabling.Choice, ...]:
    """The meetings to come on whose agenda a case may go."""
    looked(office, who, "case", reference)
    return tabling.choices(office, who, reference)
