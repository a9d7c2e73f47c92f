"""The tables beside the cases: what is found, named, looked at, told, tried, read and erased."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, Integer, String, Text
from sqlalchemy.orm import Mapped, mapped_column

from jolly_clerk.store.tables import Base


class MailCode(Base):
    """The code that was sent to an address to confirm it; only its hash is kept."""

    __tablename__ = "mail_codes"
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"), primary_key=True)
    code_hash: Mapped[str] = mapped_column(String(64))
    until: Mapped[datetime]
    tries_left: Mapped[int]


class TextCode(Base):
    """A code that was sent to a number by text message, and what it is for; only its hash is kept."""

    __tablename__ = "text_codes"
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"), primary_key=True)
    purpose: Mapped[str] = mapped_column(String(20), primary_key=True)
    number: Mapped[str] = mapped_column(String(40))
    code_hash: Mapped[str] = mapped_column(String(64))
    until: Mapped[datetime]
    tries_left: Mapped[int]


class Try(Base):
    """How often something was tried of late; ``key`` is a hash of what it was tried on."""

    __tablename__ = "tries"
    what: Mapped[str] = mapped_column(String(20), primary_key=True)
    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    count: Mapped[int]
    last_at: Mapped[datetime] = mapped_column(index=True)


class SearchRow(Base):
    """What a case is found by, folded; see :mod:`jolly_clerk.store.searching`."""

    __tablename__ = "searched"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), unique=True)
    reference: Mapped[str] = mapped_column(String(40), index=True, default="")
    person: Mapped[str] = mapped_column(String(200), index=True, default="")
    person_last: Mapped[str] = mapped_column(String(200), index=True, default="")
    fields: Mapped[str] = mapped_column(Text, default="")
    words: Mapped[str] = mapped_column(Text, default="")


class ToRead(Base):
    """A file that waits to be read, or is being read until ``taken_until``; ``wanted`` tells that somebody waits for it. Once its fast
    facts are kept, ``page`` is the scanned page whose text is read next (0 before)."""

    __tablename__ = "to_read"
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[str] = mapped_column(String(40), index=True)
    put_at: Mapped[datetime]
    wanted: Mapped[bool] = mapped_column(default=False)
    taken_by: Mapped[str] = mapped_column(String(40), default="")
    taken_until: Mapped[datetime | None] = mapped_column(default=None)
    tries: Mapped[int] = mapped_column(default=0)
    page: Mapped[int] = mapped_column(default=0)


class TerminalNotice(Base):
    """What a terminal told of an order, once; what of it is not placed stands in the ledger (:mod:`jolly_clerk.store.ledger`)."""

    __tablename__ = "terminal_notices"
    notice: Mapped[str] = mapped_column(String(80), primary_key=True)
    order: Mapped[str] = mapped_column(String(80), index=True)
    at: Mapped[datetime]
    outcome: Mapped[str] = mapped_column(String(12))
    amount: Mapped[str] = mapped_column(String(30))
    currency: Mapped[str] = mapped_column(String(3))


class Look(Base):
    """Who looked at what that is personal: a case, a file, a list; ``detail`` says which."""

    __tablename__ = "looks"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    at: Mapped[datetime] = mapped_column(index=True)
    person_id: Mapped[str] = mapped_column(String(40), index=True)
    what: Mapped[str] = mapped_column(String(20))
    reference: Mapped[str] = mapped_column(String(40), index=True, default="")
    detail: Mapped[str] = mapped_column(String(200), default="")


class FileUse(Base):
    """Which cases name a file: an upload, a letter, a permit."""

    __tablename__ = "file_uses"
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), primary_key=True, index=True)


class PageSign(Base):
    """What a page of a file is known by; pages that are alike nearly always share one."""

    __tablename__ = "page_signs"
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    page: Mapped[int] = mapped_column(Integer, primary_key=True)
    sign: Mapped[str] = mapped_column(String(12), primary_key=True, index=True)


class EndedDraft(Base):
    """Where a draft went that was filed or sent, so that its old address leads to the case."""

    __tablename__ = "ended_drafts"
    draft_id: Mapped[str] = mapped_column(String(40), primary_key=True)
    owner_id: Mapped[str] = mapped_column(String(40))
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), index=True)


class Erasure(Base):
    """What is put on the list to be erased: a case or a person (``target_id``), by whom, confirmed by another, and when it was done.

    ``public`` is what everybody may go on to know of a permit; ``files`` are those that are still to be removed.
    """

    __tablename__ = "erasures"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    what: Mapped[str] = mapped_column(String(10))
    target_id: Mapped[str] = mapped_column(String(40), unique=True)
    called: Mapped[str] = mapped_column(String(40))
    reason: Mapped[str] = mapped_column(String(300))
    asked_by: Mapped[str] = mapped_column(String(40))
    asked_at: Mapped[datetime]
    confirmed_by: Mapped[str] = mapped_column(String(40), default="")
    done_at: Mapped[datetime | None] = mapped_column(default=None)
    public: Mapped[dict[str, Any]] = mapped_column(default=dict)
    files: Mapped[list[Any]] = mapped_column(default=list)


class Event(Base):
    """Something changed: a case, a draft, the readings of somebody's files. ``handed`` tells that a case lies with a reviewer."""

    __tablename__ = "events"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    at: Mapped[datetime] = mapped_column(index=True)
    what: Mapped[str] = mapped_column(String(10))
    name: Mapped[str] = mapped_column(String(40))
    revision: Mapped[int]
    owner_id: Mapped[str] = mapped_column(String(40))
    kind: Mapped[str] = mapped_column(String(2), default="")
    handed: Mapped[bool] = mapped_column(default=False)
    __table_args__ = {"sqlite_autoincrement": True}


class CaseRead(Base):
    """Who read a case, and when."""

    __tablename__ = "case_reads"
    __table_args__ = (Index("case_reads_of", "person_id", "case_id", "at"),)
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), index=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    at: Mapped[datetime]


class ReadyStep(Base):
    """A step that is ready and leaves at ``leaves_at``: its finished ``entries``, the letter that goes out with it (``out``: key, subject,
    sha256), and the requirements that it ``relies_on``."""

    __tablename__ = "ready_steps"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), index=True)
    move: Mapped[str] = mapped_column(String(40))
    lane: Mapped[str] = mapped_column(String(60), default="")
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    put_at: Mapped[datetime]
    leaves_at: Mapped[datetime] = mapped_column(index=True)
    entries: Mapped[list[Any]] = mapped_column(default=list)
    out: Mapped[dict[str, Any]] = mapped_column(default=dict)
    relies_on: Mapped[list[Any]] = mapped_column(default=list)
    __table_args__ = {"sqlite_autoincrement": True}


class WaitingWord(Base):
    """An entry of a case that waits for somebody of the office; see :mod:`jolly_clerk.core.waiting_words`. ``seen_at`` is when whoever may
    answer had it before the eyes, ``over`` that it waits no more."""

    __tablename__ = "waiting_words"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), index=True)
    no: Mapped[int]
    what: Mapped[str] = mapped_column(String(20))
    to_id: Mapped[str] = mapped_column(String(40), default="")
    by_id: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime]
    text: Mapped[str] = mapped_column(String(200))
    seen_at: Mapped[datetime | None] = mapped_column(default=None)
    over: Mapped[bool] = mapped_column(default=False)
    __table_args__ = (Index("waiting_words_open", "over", "seen_at", "what", "at"),)


class KeptCase(Base):
    """A case that ended elsewhere and is kept as it came: its JSON, whose hash stands in its one entry."""

    __tablename__ = "kept_cases"
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), primary_key=True)
    told: Mapped[str] = mapped_column(Text)


class Upload(Base):
    """An upload that is under way; how much of it has come says its file."""

    __tablename__ = "uploads"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    person_id: Mapped[str] = mapped_column(String(40), index=True)
    draft_id: Mapped[str] = mapped_column(String(40))
    slot: Mapped[str] = mapped_column(String(60))
    name: Mapped[str] = mapped_column(String(200))
    length: Mapped[int]
    made_at: Mapped[datetime]


class PileItem(Base):
    """Something that came in a pile of a draft and is not placed yet: a file, or some of its sheets (``first`` to ``last``, 0 for all).
    ``within`` tells in which archive or mail it came, ``told`` what that said of it (who sent it, when); ``fixed`` that a person cut it."""

    __tablename__ = "pile_items"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    draft_id: Mapped[str] = mapped_column(String(40), index=True)
    put_at: Mapped[datetime]
    no: Mapped[int]
    sha256: Mapped[str] = mapped_column(String(64))
    size: Mapped[int]
    name: Mapped[str] = mapped_column(String(200))
    within: Mapped[str] = mapped_column(String(200), default="")
    told: Mapped[str] = mapped_column(String(300), default="")
    first: Mapped[int] = mapped_column(default=0)
    last: Mapped[int] = mapped_column(default=0)
    fixed: Mapped[bool] = mapped_column(default=False)


class Invitation(Base):
    """Somebody who was invited by its owner to work in a filing, and in the case that it becomes: by which address, with which
    ``rights`` (of :mod:`jolly_clerk.core.sharing`), in which ``parts`` (none means all). ``used`` tells what was done with it:
    for each thing when first, when last and how often. Of the link and of the code that was mailed only hashes are kept; ``reminded`` is how
    often a signature was asked for again."""

    __tablename__ = "invitations"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    draft_id: Mapped[str] = mapped_column(String(40), index=True)
    case_id: Mapped[str | None] = mapped_column(ForeignKey("cases.id"), index=True)
    by_id: Mapped[str] = mapped_column(String(40))
    mail: Mapped[str] = mapped_column(String(200), index=True)
    name: Mapped[str] = mapped_column(String(120))
    rights: Mapped[list[Any]]
    parts: Mapped[list[Any]]
    used: Mapped[dict[str, Any]] = mapped_column(default=dict)
    made_at: Mapped[datetime]
    ended_at: Mapped[datetime | None] = mapped_column(default=None)
    link_hash: Mapped[str] = mapped_column(String(64), default="", index=True)
    link_until: Mapped[datetime | None] = mapped_column(default=None)
    code_hash: Mapped[str] = mapped_column(String(64), default="")
    code_until: Mapped[datetime | None] = mapped_column(default=None)
    tries_left: Mapped[int] = mapped_column(default=0)
    reminded: Mapped[int] = mapped_column(default=0)
    reminded_at: Mapped[datetime | None] = mapped_column(default=None)


class IssuerAsked(Base):
    """A third party that was asked to send one document straight to the office: for which slot of a draft or a case, by whom, until when.

    Of the one-time link only a hash is kept. ``opened`` is how often it was opened; ``came_name`` and ``came_firm`` are who delivered."""

    __tablename__ = "issuers_asked"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    draft_id: Mapped[str] = mapped_column(String(40), index=True)
    case_id: Mapped[str | None] = mapped_column(ForeignKey("cases.id"), index=True)
    by_id: Mapped[str] = mapped_column(String(40), index=True)
    slot: Mapped[str] = mapped_column(String(60))
    mail: Mapped[str] = mapped_column(String(200))
    name: Mapped[str] = mapped_column(String(120))
    words: Mapped[str] = mapped_column(Text)
    wanted_by: Mapped[date]
    made_at: Mapped[datetime]
    link_hash: Mapped[str] = mapped_column(String(64), default="", index=True)
    link_until: Mapped[datetime | None] = mapped_column(default=None)
    opened: Mapped[int] = mapped_column(default=0)
    opened_at: Mapped[datetime | None] = mapped_column(default=None)
    reminded: Mapped[int] = mapped_column(default=0)
    reminded_at: Mapped[datetime | None] = mapped_column(default=None)
    came_at: Mapped[datetime | None] = mapped_column(default=None)
    came_name: Mapped[str] = mapped_column(String(120), default="")
    came_firm: Mapped[str] = mapped_column(String(120), default="")
    shown: Mapped[bool] = mapped_column(default=False)
    ended_at: Mapped[datetime | None] = mapped_column(default=None)


class MandateGiven(Base):
    """A mandate that somebody gives to whoever has a mail address: for which kinds and cases (by reference; none of both means all), from
    which day to which, with which ``rights`` of :mod:`jolly_clerk.core.mandates`. It holds once it is accepted."""

    __tablename__ = "mandates"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    owner_id: Mapped[str] = mapped_column(String(40), index=True)
    mail: Mapped[str] = mapped_column(String(200), index=True)
    name: Mapped[str] = mapped_column(String(120))
    rights: Mapped[list[Any]]
    kinds: Mapped[list[Any]]
    cases: Mapped[list[Any]]
    first_day: Mapped[date]
    last_day: Mapped[date | None] = mapped_column(default=None)
    made_at: Mapped[datetime]
    accepted_at: Mapped[datetime | None] = mapped_column(default=None)
    ended_at: Mapped[datetime | None] = mapped_column(default=None)
    ended_day: Mapped[date | None] = mapped_column(default=None)
    told_over: Mapped[bool] = mapped_column(default=False)


class FirmMember(Base):
    """Somebody of a firm, by mail address; ``keeper`` says who belongs to it. It holds once it is accepted, until it is ended."""

    __tablename__ = "firm_members"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    firm_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    mail: Mapped[str] = mapped_column(String(200), index=True)
    name: Mapped[str] = mapped_column(String(120))
    keeper: Mapped[bool]
    made_at: Mapped[datetime]
    accepted_at: Mapped[datetime | None] = mapped_column(default=None)
    ended_at: Mapped[datetime | None] = mapped_column(default=None)


class Absence(Base):
    """Somebody of the office is away from one day to another, both with them; ``deputy_id`` stands in."""

    __tablename__ = "absences"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    deputy_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    first_day: Mapped[date]
    last_day: Mapped[date]
    made_by: Mapped[str] = mapped_column(String(40))
    made_at: Mapped[datetime]


class Basket(Base):
    """Several cases that are paid at the terminal at once: ``parts`` are their references with what of it is for each, as texts."""

    __tablename__ = "baskets"
    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    by_id: Mapped[str] = mapped_column(String(40), index=True)
    parts: Mapped[list[Any]]
    amount: Mapped[str] = mapped_column(String(30))
    currency: Mapped[str] = mapped_column(String(3))
    state: Mapped[str] = mapped_column(String(12))
    asked_at: Mapped[datetime]


#: what stands beside a case and goes with it when it is erased
GO_WITH_A_CASE = (SearchRow, CaseRead, EndedDraft, ReadyStep, WaitingWord, Invitation, IssuerAsked)
#: what stands beside a draft and goes with it when it is thrown away for good
GO_WITH_A_DRAFT = (PileItem, Invitation, IssuerAsked)
