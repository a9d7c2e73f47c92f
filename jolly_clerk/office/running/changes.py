"""What was done to the office itself, for whoever asks later; and who may do it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import NotAllowed
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.store.running import OfficeChange

What = Literal["setting", "register", "copy", "no copy", "outbox"]
#: so many of them are shown
SHOWN = 20


@dataclass(frozen=True, slots=True)
class ChangeTold:
    """Something that was done to the office: when, by whom, in words."""

    at: datetime
    who: str
    said: str


def need_lead(who: Who) -> None:
    """Raise NotAllowed unless this person minds the office."""
    if not who.may.minds_people:
        raise NotAllowed(say("Only a lead minds the office."))


def note_change(office: Office, session: Session, who: str, what: What, name: str, said: str) -> None:
    """Keep what was done, in the caller's transaction; ``who`` is a person's id, empty for a command."""
    session.add(OfficeChange(at=office.now(), who=who, what=what, name=name[:200], said=said))


def changes(session: Session) -> tuple[ChangeTold, ...]:
    """The last of them, newest first."""
    rows = list(session.scalars(select(OfficeChange).order_by(OfficeChange.at.desc(), OfficeChange.id.desc()).limit(SHOWN)))
    known = names_in(session, {row.who for row in rows})
    return tuple(ChangeTold(row.at, known.get(row.who, "") or say("by command"), row.said) for row in rows)
