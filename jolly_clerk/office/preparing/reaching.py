"""When a filing reached the office that the office records, and how it came."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, time
from typing import TYPE_CHECKING, cast

from sqlalchemy.orm import Session

from jolly_clerk.core.recording import Came
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.office.errors import NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.beside import Upload
from jolly_clerk.store.counter import CounterFiling, Turning
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Draft

if TYPE_CHECKING:
    from jolly_clerk.office.preparing.drafts import OpenDraft


@dataclass(frozen=True, slots=True)
class RecordedAs:
    """How a filing came, and the instant that counts as the filing."""

    came: Came
    reached: datetime


def instant_of(row: CounterFiling, calendar: Calendar, now: datetime) -> datetime:
    """The instant that counts as the filing: noon of the day on which it reached the office, or now if that is today."""
    if row.reached >= calendar.local_day(now):
        return now
    return datetime.combine(row.reached, time(12), calendar.zone)


def reached_at(office: Office, session: Session, draft: Draft) -> datetime | None:
    """The instant that counts as the filing of a draft that the office records or that was turned from another kind; None for any other."""
    row, turned = session.get(CounterFiling, draft.id), session.get(Turning, draft.id)
    if turned is not None:
        return turned.filed_at
    return instant_of(row, office_calendar(office, session), office.now()) if row else None


def recorded_as(office: Office, who: Who, ready: OpenDraft) -> RecordedAs | None:
    """How a filing came that somebody of the office files; None if the applicant files. Raises NotReady without a signature: the office
    never signs for anybody."""
    if who.may.moves == "applicant":
        return None
    with read_session(office.engine) as session:
        row = session.get_one(CounterFiling, ready.draft.id)
    if ready.dossier.signature is None:
        raise NotReady(say("The consent of the applicant is not noted yet: the signed sheet, or the name with you as witness."))
    return RecordedAs(cast(Came, row.came), instant_of(row, ready.known.calendar, office.now()))


def is_recorded(office: Office, draft: str = "", upload: str = "") -> bool:
    """True for a draft that the office records, or for an upload that goes into one."""
    with read_session(office.engine) as session:
        row = session.get(Upload, upload) if upload else None
        return session.get(CounterFiling, row.draft_id if row else draft) is not None


def note_recorded(session: Session, draft_id: str, reference: str) -> None:
    """Note under which reference a recorded filing was filed, in the caller's write."""
    row = session.get(CounterFiling, draft_id)
    if row is not None:
        row.reference = reference
