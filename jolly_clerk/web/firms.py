"""Routes of firms: founded, who belongs to them, and going on as a firm."""

from __future__ import annotations

from pydantic import BaseModel, Field

from jolly_clerk.office.people import firms
from jolly_clerk.web.applicant import Applicant
from jolly_clerk.web.asking import Cookie, TheOffice
from jolly_clerk.web.turns import router_of

router = router_of("/api", "firms")


class FoundFirm(BaseModel):
    """What a firm is called."""

    name: str = Field(max_length=200)


class AskMember(BaseModel):
    """Who is asked to belong to a firm; a ``keeper`` says who belongs to it."""

    mail: str = Field(max_length=300)
    name: str = Field(max_length=200)
    keeper: bool = False


class SetKeeper(BaseModel):
    """Whether somebody is a keeper."""

    keeper: bool


class ActAs(BaseModel):
    """The firm as which one goes on; nothing for oneself."""

    firm: str = Field(max_length=40)


@router.get("/firms")
def own_firms(office: TheOffice, who: Applicant) -> list[firms.FirmView]:
    """The firms to which one belongs, or was asked to belong."""
    return firms.firms_of(office, who)


@router.post("/firms", status_code=201)
def found(body: FoundFirm, office: TheOffice, who: Applicant) -> list[firms.FirmView]:
    """Found a firm."""
    return firms.found(office, who, body.name)


@router.post("/firms/{firm}/acceptance")
def accept(firm: str, office: TheOffice, who: Applicant) -> list[firms.FirmView]:
    """Accept that one belongs to a firm."""
    return firms.accept(office, who, firm)


@router.post("/firms/{firm}/members", status_code=201)
def ask(firm: str, body: AskMember, office: TheOffice, who: Applicant) -> list[firms.FirmView]:
    """Ask somebody to belong to a firm."""
    return firms.ask(office, who, firm, body.mail, body.name, body.keeper)


@router.put("/firms/{firm}/members/{member}")
def set_keeper(firm: str, member: str, body: SetKeeper, office: TheOffice, who: Applicant) -> list[firms.FirmView]:
    """Make somebody a keeper, or no longer."""
    return firms.set_keeper(office, who, firm, member, body.keeper)


@router.delete("/firms/{firm}/members/{member}")
def end(firm: str, member: str, office: TheOffice, who: Applicant) -> list[firms.FirmView]:
    """Somebody belongs to a firm no more."""
    return firms.end(office, who, firm, member)


@router.put("/session/acting", status_code=204)
def act_as(body: ActAs, office: TheOffice, who: Applicant, cookie: Cookie) -> None:
    """Go on as a firm, or as oneself."""
    firms.act_as(office, who, cookie, body.firm)
