"""Views of the in-tray that somebody keeps under a name of their own."""

from __future__ import annotations

from dataclasses import dataclass
from typing import get_args

from sqlalchemy import select

from jolly_clerk.core.say import say
from jolly_clerk.office.cases.in_tray import KeptView, Whose
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, TooLarge
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.store.counter import OwnView
from jolly_clerk.store.database import read_session, write_session

MOST = 20


@dataclass(frozen=True, slots=True)
class View:
    """A view that was kept: its name, whose cases it shows, of which kind, only which."""

    id: str
    name: str
    whose: str
    kind: str
    view: str


def views(office: Office, who: Who) -> list[View]:
    """One's own views by name. Raises NotAllowed for whoever has no in-tray."""
    if not who.sees_all:
        raise NotAllowed(say("This is for the people of the office."))
    with read_session(office.engine) as session:
        rows = session.scalars(select(OwnView).where(OwnView.person_id == who.id).order_by(OwnView.name))
        return [View(row.id, row.name, row.whose, row.kind, row.view) for row in rows]


def keep(office: Office, who: Who, name: str, whose: str, kind: str, view: str) -> list[View]:
    """Keep a view; one of the same name is replaced. Raises NotAllowed, Invalid, TooLarge."""
    name, there = " ".join(name.split())[:40], views(office, who)
    if len(name) < 2:
        raise Invalid(say("Give the view a name."), "name")
    if whose not in ("", *get_args(Whose)) or view not in ("", *get_args(KeptView)):
        raise Invalid(say("There is no such view."), "view")
    if len(there) >= MOST and name not in {one.name for one in there}:
        raise TooLarge(say("There are {most} views already; drop one first.", most=MOST))
    with write_session(office.engine) as session:
        for row in session.scalars(select(OwnView).where(OwnView.person_id == who.id, OwnView.name == name)):
            session.delete(row)
        session.add(OwnView(id=new_id(), person_id=who.id, name=name, whose=whose, kind=kind, view=view))
    return views(office, who)


def drop(office: Office, who: Who, view: str) -> list[View]:
    """Drop a view. Raises NotAllowed, NotFound."""
    views(office, who)
    with write_session(office.engine) as session:
        row = session.get(OwnView, view)
        if row is None or row.person_id != who.id:
            raise NotFound(say("There is no such view."))
        session.delete(row)
    return views(office, who)
