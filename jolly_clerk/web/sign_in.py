"""Routes: signing in and out."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field

from jolly_clerk.office import people
from jolly_clerk.office.people import signed_in
from jolly_clerk.web.accounts import keep_cookie
from jolly_clerk.web.asking import COOKIE, TheOffice, TheSession
from jolly_clerk.web.problems import RESPONSES

router = APIRouter(prefix="/api/session", tags=["session"], responses=RESPONSES)


class PersonOut(BaseModel):
    """A person who can be signed in by one click in a demo."""

    id: str
    name: str
    role: str


class SessionOut(BaseModel):
    """The session: who is signed in (null if nobody) and the token for changes. ``cards`` tells that cards can be paid with."""

    person: PersonOut | None
    csrf: str
    demo: bool
    cards: bool
    office: str
    people: list[PersonOut]


class Click(BaseModel):
    """Which person to sign in."""

    person: str = Field(max_length=40)


@router.get("")
def session(request: Request, office: TheOffice) -> SessionOut:
    """Who is signed in; in a demo also whom one can be."""
    found = signed_in(office, request.cookies.get(COOKIE, ""))
    everybody = [PersonOut(id=p.id, name=p.name, role=p.role) for p in people.people(office)] if office.demo else []
    who = PersonOut(id=found.who.id, name=found.who.name, role=found.who.role) if found else None
    return SessionOut(
        person=who,
        csrf=found.csrf if found else "",
        demo=office.demo,
        cards=office.takes_cards,
        office=office.name,
        people=everybody,
    )


@router.post("/by-click", status_code=204)
def by_click(click: Click, response: Response, office: TheOffice) -> None:
    """Sign a person of the demo in."""
    begun = people.sign_in_by_click(office, click.person)
    keep_cookie(response, office, begun)


@router.delete("", status_code=204)
def sign_out(request: Request, response: Response, office: TheOffice, _: TheSession) -> None:
    """Sign out."""
    people.sign_out(office, request.cookies.get(COOKIE, ""))
    response.delete_cookie(COOKIE)
    response.headers["Clear-Site-Data"] = '"cache"'
