"""Routes: signing in and out."""

from __future__ import annotations

from datetime import date

from fastapi import Request, Response
from pydantic import BaseModel, Field

from jolly_clerk.core.roles import STAFF, Moves, Page, Role
from jolly_clerk.core.say import say
from jolly_clerk.core.states import STATES, State, Tone
from jolly_clerk.office.events import newest
from jolly_clerk.office.office import Who
from jolly_clerk.office.people import directory
from jolly_clerk.office.people.directory import signed_in
from jolly_clerk.office.rules.rulebooks import zone_calendar
from jolly_clerk.web.accounts import keep_cookie
from jolly_clerk.web.asking import COOKIE, TheOffice, TheSession
from jolly_clerk.web.turns import router_of

router = router_of("/api/session", "session")


class PersonOut(BaseModel):
    """A person: who is signed in, or who can be by one click in a demo. ``confirmed`` tells that the mail address is known to be
    the person's; until then nothing can be filed. A ``guest`` came by an invitation and has no password yet."""

    id: str
    name: str
    first_name: str
    role: Role
    confirmed: bool
    guest: bool


class MayOut(BaseModel):
    """What the role of whoever is signed in may do at all: the places it may go to, the moves it makes."""

    pages: list[Page]
    moves: Moves
    staff: bool
    sees_all: bool
    decides_fees: bool
    writes_rules: bool


class StateOut(BaseModel):
    """What holds of a state by itself: what its stamp says, its colour, whether it is tilted, whether anything follows."""

    state: State
    said: str
    tone: Tone
    closes_intake: bool
    final: bool
    checking: bool


class SessionOut(BaseModel):
    """The session: who is signed in (null if nobody) and the token for changes.

    ``acts_as`` is the name of the firm as which the person goes on.

    ``cards`` tells that cards can be paid with, ``account`` is the office's bank account; ``mail`` is the own address; ``zone`` is
    the time zone of the office, in which every screen tells the time; ``roles`` and ``states`` are the tables that the screen needs;
    ``events`` is the newest event of the office, from which on a page wants to be told.
    """

    person: PersonOut | None
    acts_as: str
    csrf: str
    demo: bool
    cards: bool
    account: str
    mail: str
    office: str
    zone: str
    today: date
    events: int
    may: MayOut | None
    states: list[StateOut]
    staff_roles: list[Role]
    people: list[PersonOut]


class SignInByClick(BaseModel):
    """Which person to sign in."""

    person: str = Field(max_length=40)


@router.get("")
def session(request: Request, office: TheOffice) -> SessionOut:
    """Who is signed in; in a demo also whom one can be."""
    found = signed_in(office, request.cookies.get(COOKIE, ""))
    everybody = [_person(p) for p in directory.people(office)] if office.demo else []
    who = _person(found.who) if found else None
    calendar = zone_calendar(office)
    may = found.who.may if found else None
    return SessionOut(
        person=who,
        acts_as=found.who.name if found and found.who.hand else "",
        csrf=found.csrf if found else "",
        demo=office.demo,
        cards=office.takes_cards,
        account=office.settings.account,
        mail=found.mail if found else "",
        office=office.name,
        zone=calendar.zone_name if calendar else "UTC",
        today=calendar.local_day(office.now()) if calendar else office.now().date(),
        events=newest(office) if found else 0,
        may=MayOut(
            pages=list(may.pages),
            moves=may.moves,
            staff=may.staff,
            sees_all=may.sees_all,
            decides_fees=may.decides_fees,
            writes_rules=may.writes_rules,
        )
        if may
        else None,
        states=[
            StateOut(state=s, said=say(s), tone=i.tone, closes_intake=i.closes_intake, final=i.final, checking=i.checking)
            for s, i in STATES.items()
        ],
        staff_roles=list(STAFF),
        people=everybody,
    )


def _person(who: Who) -> PersonOut:
    name = who.hand_name or who.name
    first = name.partition(" ")[0]
    return PersonOut(id=who.signs, name=name, first_name=first, role=who.role, confirmed=who.confirmed, guest=who.guest)


@router.post("/by-click", status_code=204)
def by_click(click: SignInByClick, response: Response, office: TheOffice) -> None:
    """Sign a person of the demo in."""
    begun = directory.sign_in_by_click(office, click.person)
    keep_cookie(response, office, begun)


@router.delete("", status_code=204)
def sign_out(request: Request, response: Response, office: TheOffice, _: TheSession) -> None:
    """Sign out."""
    directory.sign_out(office, request.cookies.get(COOKIE, ""))
    response.delete_cookie(COOKIE)
    response.headers["Clear-Site-Data"] = '"cache"'
