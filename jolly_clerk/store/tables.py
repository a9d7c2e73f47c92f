"""The tables. What is true stands in ``entries`` and ``versions``; ``cases`` is a projection for lists."""

from __future__ import annotations

from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import JSON, Date, DateTime, ForeignKey, Index, String, Text, UniqueConstraint
from sqlalchemy.engine import Dialect
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column
from sqlalchemy.types import TypeDecorator

from jolly_clerk.core.roles import Role
from jolly_clerk.core.states import State


class Instant(TypeDecorator[datetime]):
    """An instant, kept in UTC and given back with its zone."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """To UTC without a zone, as SQLite keeps it."""
        return value.astimezone(UTC).replace(tzinfo=None) if value else None

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """From UTC."""
        return value.replace(tzinfo=UTC) if value else None


#: stands where a case has no limit, so that it comes last
NO_LIMIT = datetime(9999, 12, 31, tzinfo=UTC)


class Base(DeclarativeBase):
    """Base of all tables."""

    type_annotation_map = {datetime: Instant, date: Date, dict[str, Any]: JSON, list[Any]: JSON}


class Person(Base):
    """Somebody who can sign in. ``confirmed`` tells that the address was shown to be the person's; among those, each is there once.
    ``kinds`` are the kinds that somebody of the office is limited to; none means all. A ``guest`` came by the link of an invitation and has
    no password yet. ``mobile`` is a number for text messages that is known to be the person's, ``news`` by which way each kind of news
    goes (see :mod:`jolly_clerk.core.news`). A firm signs in by its people alone (:class:`jolly_clerk.store.beside.FirmMember`)."""

    __tablename__ = "people"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    role: Mapped[Role] = mapped_column(String(20), index=True)
    mail: Mapped[str] = mapped_column(String(200), default="", index=True)
    password_hash: Mapped[str] = mapped_column(String(200), default="")
    left_at: Mapped[datetime | None] = mapped_column(default=None)
    address: Mapped[str] = mapped_column(String(300), default="")
    telephone: Mapped[str] = mapped_column(String(40), default="")
    born: Mapped[date | None] = mapped_column(default=None)
    firm: Mapped[str] = mapped_column(String(120), default="")
    language: Mapped[str] = mapped_column(String(10), default="")
    letters: Mapped[str] = mapped_column(String(10), default="")
    mobile: Mapped[str] = mapped_column(String(40), default="")
    code_by_text: Mapped[bool] = mapped_column(default=False)
    news: Mapped[dict[str, Any]] = mapped_column(default=dict)
    confirmed: Mapped[bool] = mapped_column(default=True)
    guest: Mapped[bool] = mapped_column(default=False)
    is_firm: Mapped[bool] = mapped_column(default=False)
    kinds: Mapped[list[Any]] = mapped_column(default=list)
    made_at: Mapped[datetime | None] = mapped_column(default=None)


class OneTimeLink(Base):
    """A link that works once: what it allows, for whom, until when; only the hash of its secret is kept."""

    __tablename__ = "one_time_links"
    secret_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    allows: Mapped[str] = mapped_column(String(30))
    until: Mapped[datetime]


class RegisterAnswer(Base):
    """What a register said to somebody who prepares a filing; ``row`` is null if it has no such entry."""

    __tablename__ = "register_answers"
    register: Mapped[str] = mapped_column(String(40), primary_key=True)
    key: Mapped[str] = mapped_column(String(120), primary_key=True)
    row: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    asked_at: Mapped[datetime]


class SignIn(Base):
    """A session; only the hash of its token is kept. ``seen_at`` is when it was last used, to within some minutes; ``acts_as`` the firm as
    which the person goes on."""

    __tablename__ = "sign_ins"
    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    csrf: Mapped[str] = mapped_column(String(64))
    until: Mapped[datetime]
    seen_at: Mapped[datetime | None] = mapped_column(default=None)
    acts_as: Mapped[str] = mapped_column(String(40), default="")


class Draft(Base):
    """What an applicant is preparing: a new filing, or the answers of a case (``case_id``) in one of its lanes, or what it ``adds`` to one
    without being asked (a part, or the place of a question).

    ``removed`` are the files last taken out, which can be put back; one thrown away is kept for some days. ``offered_to`` is the
    address of whom it is transferred to once they accept it, ``writers`` who wrote in each part last, and when.
    """

    __tablename__ = "drafts"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    owner_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    kind: Mapped[str] = mapped_column(String(2))
    case_id: Mapped[str | None] = mapped_column(ForeignKey("cases.id"), index=True)
    lane: Mapped[str] = mapped_column(String(60), default="")
    adds: Mapped[str] = mapped_column(String(80), default="")
    own_reference: Mapped[str] = mapped_column(String(80), default="")
    folder: Mapped[str] = mapped_column(String(60), default="")
    offered_to: Mapped[str] = mapped_column(String(200), default="", index=True)
    writers: Mapped[dict[str, Any]] = mapped_column(default=dict)
    dossier: Mapped[dict[str, Any]]
    words: Mapped[dict[str, Any]]
    revision: Mapped[int] = mapped_column("counter", default=1)
    kept_at: Mapped[datetime]
    removed: Mapped[list[Any]] = mapped_column(default=list)
    thrown_away_at: Mapped[datetime | None] = mapped_column(default=None)


class DraftChange(Base):
    """One change of a draft: the revision that it made, and what stood before at the places that it touched (a list with the value,
    or an empty one), so that a window that saw an older state can be merged."""

    __tablename__ = "draft_changes"
    draft_id: Mapped[str] = mapped_column(String(40), primary_key=True)
    revision: Mapped[int] = mapped_column(primary_key=True)
    who_id: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime]
    before: Mapped[dict[str, Any]]


class Case(Base):
    """The row of a case for lists: a projection of its history that can be rebuilt. It holds limits, never days left.

    ``tray`` is in which in-tray it lies (``intake``, ``review``, or none any more), ``waits`` that it waits for its applicant;
    ``sort_at`` is its limit, or :data:`NO_LIMIT`; ``place`` is where it stands among its applicant's own; ``next_look_at`` is when
    the clock job looks at it next and ``leaves_at`` when a step that is ready leaves: these two are no part of the projection.
    ``at_once`` tells that it can be finished in minutes, ``changed_by`` who did the last thing.
    One that is ``kept`` as it came from elsewhere has no history of its own; see :class:`jolly_clerk.store.beside.KeptCase`.
    """

    __tablename__ = "cases"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    reference: Mapped[str] = mapped_column(String(20), unique=True)
    kind: Mapped[str] = mapped_column(String(2))
    edition_sha256: Mapped[str] = mapped_column(String(64))
    applicant_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    officer_id: Mapped[str | None] = mapped_column(ForeignKey("people.id"), index=True)
    title: Mapped[str] = mapped_column(String(300))
    state: Mapped[State] = mapped_column(String(30))
    holder: Mapped[str] = mapped_column(String(20))
    filed_at: Mapped[datetime]
    changed_at: Mapped[datetime]
    version: Mapped[int]
    limit_at: Mapped[datetime | None]
    limit_day: Mapped[date | None]
    step: Mapped[str] = mapped_column(String(20))
    limit_of: Mapped[str] = mapped_column(String(120), default="")
    their_limit_of: Mapped[str] = mapped_column(String(120), default="")
    their_limit_day: Mapped[date | None] = mapped_column(default=None)
    next_officer: Mapped[str] = mapped_column(String(200))
    next_applicant: Mapped[str] = mapped_column(String(200))
    squares: Mapped[list[Any]]
    outcome: Mapped[dict[str, Any]] = mapped_column(default=dict)
    entries: Mapped[int]
    own_reference: Mapped[str] = mapped_column(String(80), default="")
    reviewer_id: Mapped[str | None] = mapped_column(ForeignKey("people.id"), index=True, default=None)
    permit_code: Mapped[str | None] = mapped_column(String(40), index=True, default=None)
    tray: Mapped[str] = mapped_column(String(10), default="")
    waits: Mapped[bool] = mapped_column(default=False)
    sort_at: Mapped[datetime] = mapped_column(default=NO_LIMIT)
    place: Mapped[str] = mapped_column(String(10), default="")
    counted_after: Mapped[date | None] = mapped_column(default=None)
    at_once: Mapped[bool] = mapped_column(default=False)
    changed_by: Mapped[str] = mapped_column(String(40), default="")
    next_look_at: Mapped[datetime | None] = mapped_column(default=None, index=True)
    leaves_at: Mapped[datetime | None] = mapped_column(default=None, index=True)
    erased_at: Mapped[datetime | None] = mapped_column(default=None)
    kept: Mapped[bool] = mapped_column(default=False)
    __table_args__ = (
        Index(
            "cases_in_tray", "tray", "waits", "sort_at", "reference", "kind", "state", "officer_id", "holder", "limit_day",
            "their_limit_day", "at_once",
        ),
        Index("cases_counted", "tray", "kind", "state", "waits", "at_once"),
        Index("cases_of_officer", "tray", "officer_id", "kind", "state", "waits", "at_once"),
        Index("cases_soon", "tray", "waits", "limit_day", "kind", "state", "officer_id", "holder", "at_once"),
        Index("cases_by_officer", "tray", "officer_id", "waits", "sort_at", "reference", "kind", "state", "limit_day", "holder", "at_once"),
        Index("cases_by_reviewer", "tray", "reviewer_id", "waits", "sort_at", "reference", "kind", "state", "limit_day", "holder", "at_once"),
        Index("cases_of_applicant", "applicant_id", "place", "changed_at", "reference"),
    )  # fmt: skip


class FiledVersion(Base):
    """A filed version, whole and immutable; the chain holds its salted hash."""

    __tablename__ = "versions"
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), primary_key=True)
    no: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    dossier: Mapped[str] = mapped_column(Text)
    salt: Mapped[str] = mapped_column(String(32))


class HistoryEntry(Base):
    """One entry of a case's history. ``personal`` stands beside the chain, which holds its salted hash."""

    __tablename__ = "entries"
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), primary_key=True)
    no: Mapped[int] = mapped_column(primary_key=True)
    body: Mapped[str] = mapped_column(Text)
    personal: Mapped[str | None] = mapped_column(Text)
    salt: Mapped[str] = mapped_column(String(32))
    previous: Mapped[str] = mapped_column(String(64))
    hash: Mapped[str] = mapped_column(String(64))


class Head(Base):
    """The length and last hash of a chain, kept outside it, so that a lost tail shows; ``row_hash`` seals the list row."""

    __tablename__ = "heads"
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), primary_key=True)
    count: Mapped[int]
    hash: Mapped[str] = mapped_column(String(64))
    row_hash: Mapped[str] = mapped_column(String(64), default="")


class StoredFile(Base):
    """A file in the vault."""

    __tablename__ = "files"
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    size: Mapped[int]
    kept_at: Mapped[datetime]


class StoredReading(Base):
    """What a reader of one version read in a file."""

    __tablename__ = "readings"
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    reader: Mapped[str] = mapped_column(String(40), primary_key=True)
    reading: Mapped[str] = mapped_column(Text)
    read_at: Mapped[datetime]


class PublishedEdition(Base):
    """A published edition; its text lies in the vault and is never read from the tree again."""

    __tablename__ = "editions"
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    kind: Mapped[str] = mapped_column(String(2))
    in_force: Mapped[date]
    published_at: Mapped[datetime]
    calendar_sha256: Mapped[str] = mapped_column(String(64))
    __table_args__ = (UniqueConstraint("kind", "in_force"),)


class Closure(Base):
    """A day on which the office was shut, or hours of it: ``told`` as the core says it. Cases filed before such a day get its entry;
    ``done_at`` is when it was told in every case that lived."""

    __tablename__ = "closures"
    id: Mapped[int] = mapped_column(primary_key=True)
    day: Mapped[date] = mapped_column(index=True)
    told: Mapped[str] = mapped_column(Text)
    declared_by: Mapped[str] = mapped_column(ForeignKey("people.id"))
    declared_at: Mapped[datetime]
    done_at: Mapped[datetime | None] = mapped_column(default=None, index=True)


class TerminalPayment(Base):
    """A payment at the terminal, from asked to booked; ``debt`` is the one that it is for, if it is for one alone."""

    __tablename__ = "terminal_payments"
    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), index=True)
    amount: Mapped[str] = mapped_column(String(30))
    prepaid: Mapped[str] = mapped_column(String(30), default="0")
    state: Mapped[str] = mapped_column(String(12))
    asked_at: Mapped[datetime]
    currency: Mapped[str] = mapped_column(String(3), default="")
    debt: Mapped[str] = mapped_column(String(40), default="")


class Outgoing(Base):
    """Something for the post room; ``key`` makes delivering it twice harmless. ``trouble`` says why it can never go; it is
    set aside then and holds up nothing. ``secret_until`` is how long a link or code in its text works; the text is dropped when it
    was mailed, at the latest then. What goes ``by_post`` waits in the print queue."""

    __tablename__ = "outbox"
    key: Mapped[str] = mapped_column(String(120), primary_key=True)
    case_id: Mapped[str | None] = mapped_column(ForeignKey("cases.id"))
    to: Mapped[str] = mapped_column(String(200))
    subject: Mapped[str] = mapped_column(String(200))
    text: Mapped[str] = mapped_column(Text, default="")
    pdf_sha256: Mapped[str] = mapped_column(String(64), default="")
    put_at: Mapped[datetime]
    delivered_at: Mapped[datetime | None]
    trouble: Mapped[str] = mapped_column(String(200), default="")
    secret_until: Mapped[datetime | None] = mapped_column(default=None)
    by_post: Mapped[bool] = mapped_column(default=False)
    __table_args__ = (Index("outbox_waiting", "delivered_at", "trouble", "put_at"),)


class Counter(Base):
    """A running number without gaps: case numbers by kind and year, receipts by year."""

    __tablename__ = "counters"
    name: Mapped[str] = mapped_column(String(40), primary_key=True)
    last: Mapped[int]
