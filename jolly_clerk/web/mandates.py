"""Routes of mandates: given, accepted, ended; what one may do for others, and what was sent until a mandate's end."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import Response
from pydantic import BaseModel, Field

from jolly_clerk.office.preparing import mandates
from jolly_clerk.web.applicant import Applicant
from jolly_clerk.web.asking import TheOffice
from jolly_clerk.web.bodies import Number
from jolly_clerk.web.cases import PDF, served
from jolly_clerk.web.turns import router_of

router = router_of("/api", "applicant")
Names = list[Annotated[str, Field(max_length=40)]]


class GiveMandate(BaseModel):
    """Who acts, in what (all without kinds and cases), and when (from today, without an end)."""

    mail: str = Field(max_length=300)
    name: str = Field(max_length=200)
    rights: Names = Field(max_length=10)
    kinds: Names = Field(default=[], max_length=20)
    cases: Names = Field(default=[], max_length=40)
    first_day: date | None = None
    last_day: date | None = None


@router.get("/mandates")
def given(office: TheOffice, who: Applicant) -> list[mandates.MandateView]:
    """The mandates that one gave, and those by which one acts or was asked to."""
    return mandates.given(office, who)


@router.post("/mandates")
def give(body: GiveMandate, office: TheOffice, who: Applicant) -> list[mandates.MandateView]:
    """Give a mandate."""
    told = body.mail, body.name, body.rights, body.kinds, body.cases, body.first_day, body.last_day
    return mandates.give(office, who, *told)


@router.post("/mandates/{mandate}/acceptance", status_code=204)
def accept(mandate: str, office: TheOffice, who: Applicant) -> None:
    """Accept a mandate."""
    mandates.accept(office, who, mandate)


@router.delete("/mandates/{mandate}", status_code=204)
def end(mandate: str, office: TheOffice, who: Applicant) -> None:
    """End a mandate, or decline it."""
    mandates.end(office, who, mandate)


@router.get("/mandates/{mandate}/papers")
def papers(mandate: str, office: TheOffice, who: Applicant) -> list[mandates.SentPaper]:
    """What was sent in the cases of a mandate until it ended."""
    return mandates.sent_until_its_end(office, who, mandate)


@router.get("/mandates/{mandate}/papers/{reference}/{no}", response_class=Response, responses=PDF)
def sent_paper(mandate: str, reference: str, no: Number, office: TheOffice, who: Applicant) -> Response:
    """One of these papers."""
    name, pdf = mandates.sent_paper(office, who, mandate, reference, no)
    return served(pdf, "application/pdf", name)


@router.get("/acting-for")
def acting_for(office: TheOffice, who: Applicant) -> list[mandates.ActingFor]:
    """For whom one may begin filings."""
    return mandates.acting_for(office, who)


@router.get("/acting-in")
def acting_in(office: TheOffice, who: Applicant) -> list[mandates.ActingIn]:
    """The filings and cases in which one may act for others."""
    return mandates.acting_in(office, who)
