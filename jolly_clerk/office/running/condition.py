"""The condition of the office in words: what works, what could not be sent and why, which copies were taken."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jolly_clerk.core.in_words import day
from jolly_clerk.core.say import say
from jolly_clerk.core.things import things
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.lifetimes import BEHIND, COPY_OLD, MAIL_LATE, before
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.mailing import NUMBER, deliver_soon, message_of
from jolly_clerk.office.rules.rulebooks import zone_calendar
from jolly_clerk.office.running.changes import ChangeTold, changes, need_lead, note_change
from jolly_clerk.office.running.copies import is_taking, on_the_same_disk
from jolly_clerk.office.running.registers import RegisterTold, registers
from jolly_clerk.office.running.settling import SettingTold, settings_told
from jolly_clerk.reading.read import scans_can_be_read
from jolly_clerk.store.beside import ToRead
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.outside import last_noted
from jolly_clerk.store.running import OfficeChange
from jolly_clerk.store.tables import Case, Outgoing


@dataclass(frozen=True, slots=True)
class OfficePart:
    """A part of the office, how it is in words, and whether somebody should look after it."""

    name: str
    says: str
    well: bool


@dataclass(frozen=True, slots=True)
class Stuck:
    """Something that could not be sent: to whom, about what, why, and since when it lies there."""

    key: str
    to: str
    subject: str
    reference: str
    why: str
    since: datetime


@dataclass(frozen=True, slots=True)
class OfficePage:
    """The office as a lead minds it. ``more_stuck`` are so many more that could not be sent; ``copying``
    tells that a copy is being taken."""

    parts: tuple[OfficePart, ...]
    stuck: tuple[Stuck, ...]
    more_stuck: int
    settings: tuple[SettingTold, ...]
    registers: tuple[RegisterTold, ...]
    changes: tuple[ChangeTold, ...]
    copying: bool


#: so many items that could not be sent are shown; so many bytes should be free
MOST_STUCK, FREE = 50, 2_000_000_000


def office_page(office: Office, who: Who) -> OfficePage:
    """The office as a lead minds it. Raises NotAllowed for everybody else."""
    need_lead(who)
    with read_session(office.engine) as session:
        stuck, more = _stuck(session)
        parts = tuple(_parts(office, session, len(stuck) + more))
        told = changes(session)
    return OfficePage(parts, stuck, more, settings_told(office), registers(office), told, is_taking(office))


def mail_of_outbox(office: Office, who: Who, key: str) -> bytes:
    """Something of the outbox as a mail (RFC 5322), as it leaves or left. Raises NotAllowed for everybody but a lead, NotFound."""
    need_lead(who)
    with read_session(office.engine) as session:
        found = select(Outgoing, Case.reference).outerjoin(Case, Case.id == Outgoing.case_id).where(Outgoing.key == key)
        row = session.execute(found).tuples().first()
    if row is None or row[0].to.startswith(NUMBER):
        raise NotFound(say("There is no such mail."))
    return message_of(office, row[0], row[1] or "").as_bytes()


def send_again(office: Office, who: Who, key: str) -> None:
    """Try once more to send what was set aside. Raises NotAllowed for everybody but a lead, NotFound."""
    need_lead(who)
    with write_session(office.engine) as session:
        row = session.get(Outgoing, key)
        if row is None or not row.trouble:
            raise NotFound(say("Nothing of that name was set aside."))
        note_change(office, session, who.id, "outbox", key, say("{subject} is sent once more", subject=row.subject))
        row.trouble = ""
    deliver_soon(office)


def _stuck(session: Session) -> tuple[tuple[Stuck, ...], int]:
    aside = Outgoing.delivered_at.is_(None), Outgoing.trouble != ""
    wanted = select(Outgoing, Case.reference).outerjoin(Case, Case.id == Outgoing.case_id).where(*aside)
    rows = session.execute(wanted.order_by(Outgoing.put_at.desc()).limit(MOST_STUCK)).tuples()
    count = session.scalar(select(func.count()).select_from(Outgoing).where(*aside)) or 0
    told = tuple(Stuck(out.key, out.to, out.subject, reference or "", out.trouble, out.put_at) for out, reference in rows)
    return told, count - len(told)


def _parts(office: Office, session: Session, stuck: int) -> Iterator[OfficePart]:
    now = office.now()
    last = last_noted(office.folder)
    behind = last is not None and now < before(last.at, BEHIND)
    clock = say("It stands before what happened last. Nothing can be written until somebody puts it right.")
    yield OfficePart(say("Clock"), clock if behind else say("It goes right."), not behind)
    disk = shutil.disk_usage(office.folder)
    free = say("{free} GB of {all} GB are free.", free=f"{disk.free / 1e9:.0f}", all=f"{disk.total / 1e9:.0f}")
    yield OfficePart(say("Disk"), free, disk.free > FREE)
    reading = session.scalar(select(func.count()).select_from(ToRead)) or 0
    scans = "" if scans_can_be_read() else say(" The reader for the text of scans is not installed.")
    waits = say("{files} are being read.", files=things(reading, "file")) if reading else say("Nothing waits to be read.")
    yield OfficePart(say("Files"), waits + scans, not scans)
    yield _mail(office, session, now, stuck)
    yield _copies(office, session, now)


def _mail(office: Office, session: Session, now: datetime, stuck: int) -> OfficePart:
    waiting = Outgoing.delivered_at.is_(None), Outgoing.trouble == "", Outgoing.by_post.is_(False)
    count, oldest = session.execute(select(func.count(), func.min(Outgoing.put_at)).where(*waiting)).tuples().one()
    late = oldest is not None and oldest < before(now, MAIL_LATE)
    told = [
        say("{mails} wait to be sent.", mails=things(count, "mail")) if count else say("Nothing waits to be sent."),
        say("The mail server did not take them for an hour.") if late else "",
        say("{mails} could not be sent, see below.", mails=things(stuck, "mail")) if stuck else "",
        "" if office.settings.smtp_host else say("No mail server is set: everything lies in the post room of the office."),
    ]
    return OfficePart(say("Mail"), " ".join(t for t in told if t), not late and not stuck)


def _copies(office: Office, session: Session, now: datetime) -> OfficePart:
    copies = select(OfficeChange).order_by(OfficeChange.at.desc(), OfficeChange.id.desc())
    last = session.scalars(copies.where(OfficeChange.what == "copy")).first()
    tried = session.scalars(copies.where(OfficeChange.what.in_(("copy", "no copy")))).first()
    if tried is not None and tried.what == "no copy":
        return OfficePart(say("Copies"), tried.said, False)
    if last is None:
        return OfficePart(say("Copies"), say("No copy of this office was ever taken."), False)
    calendar = zone_calendar(office)
    on = calendar.local_day(last.at) if calendar else last.at.date()
    old = last.at < before(now, COPY_OLD)
    told = say("The last was taken on {day}: {said}.", day=day(on), said=last.said)
    if old:
        told = say("{told} That is more than two days ago.", told=told)
    if on_the_same_disk(office):
        told = say("{told} Copies taken here lie on the disk of the office: carry them elsewhere.", told=told)
    return OfficePart(say("Copies"), told, not old)
