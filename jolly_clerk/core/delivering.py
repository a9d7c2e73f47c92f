"""What an issuer sends straight to the office: its entry in the history, where it is put, and what whoever applied may know of it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta
from decimal import Decimal
from typing import Literal

from pydantic import Field

from jolly_clerk.core.dossier.changing import attach
from jolly_clerk.core.dossier.model import Attachment, Dossier, FromIssuer, Version
from jolly_clerk.core.happened import Happened
from jolly_clerk.core.in_words import day
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar

#: days that an issuer has where nobody says otherwise, and the longest that may be given
DAYS_TO_SEND, MOST_DAYS = 14, 365
#: days in which what comes later has to be paid
DAYS_TO_PAY = 14


class CameLater(Happened):
    """Something came after filing without being asked for, as a new version: ``place`` is where it stands, ``title`` what it is called,
    ``issuer`` from whom; the applicant, if nobody is named. ``due`` is what it costs, to be paid by the end of ``until``.

    It pauses nothing and changes no state.
    """

    what: Literal["came later"] = "came later"
    place: str
    title: str
    issuer: str = ""
    version: int
    dossier_hash: str = ""
    due: Decimal = Field(default=Decimal(0), ge=0, exclude_if=lambda kept: not kept)
    until: date | None = Field(default=None, exclude_if=lambda kept: kept is None)


class TakenOut(Happened):
    """What came later was not paid in time and counts as not having come: ``of`` is the version that it made, ``version`` the one without
    it, ``amount`` what was to be paid."""

    what: Literal["taken out"] = "taken out"
    of: int
    place: str
    title: str
    amount: Decimal = Field(gt=0)
    version: int
    dossier_hash: str = ""


def put_delivered(
    dossier: Dossier, versions: Sequence[Version], slot: str, name: str, sha256: str, size: int, issuer: FromIssuer
) -> Dossier:
    """With an issuer's file in its slot. Raises AlreadyThere for the same content."""
    made = attach(dossier, versions, slot, name, sha256, size)
    there = {a.id for a in dossier.attachments}
    files = tuple(a if a.id in there else a.model_copy(update={"issuer": issuer}) for a in made.attachments)
    return made.model_copy(update={"attachments": files})


def sealed_files(dossiers: Sequence[Dossier]) -> frozenset[str]:
    """The SHA-256 of all files that whoever applied may not look into."""
    return frozenset(a.sha256 for dossier in dossiers for a in dossier.attachments if a.sealed)


def day_of_arrival(attachment: Attachment, calendar: Calendar | None) -> date | None:
    """The day on which an issuer's file came, by which its age is taken; None for any other file."""
    return calendar.local_day(attachment.issuer.at) if attachment.issuer and calendar else None


def came_from(attachment: Attachment, calendar: Calendar | None) -> str:
    """From whom a file came straight to the office, and on which day; nothing for any other."""
    issuer, arrived = attachment.issuer, day_of_arrival(attachment, calendar)
    if issuer is None or arrived is None:
        return ""
    return say(
        "Has come on {day} from {name}, {firm}, straight to the office.", day=day(arrived), name=issuer.name, firm=issuer.firm
    )


def wanted_on(today: date) -> date:
    """The day by which an issuer is asked to send where nobody names one."""
    return today + timedelta(days=DAYS_TO_SEND)


def to_pay_by(today: date) -> date:
    """The last day to pay what comes later."""
    return today + timedelta(days=DAYS_TO_PAY)


def no_day_to_send(wanted: date, today: date) -> str:
    """Why an issuer cannot be asked to send by a day; nothing if that is one."""
    if wanted < today:
        return say("This day is over. Choose one that is still to come.")
    return say("This is too far away. Choose a day within a year.") if wanted > today + timedelta(days=MOST_DAYS) else ""


#: how it stands with what an issuer was asked for
Asking = Literal["asked", "opened", "late", "link over", "come"]


def asking(come: bool, opened: bool, wanted: date, today: date, link_works: bool) -> Asking:
    """How it stands with what an issuer was asked for."""
    if come:
        return "come"
    if today > wanted:
        return "late"
    return "link over" if not link_works else "opened" if opened else "asked"
