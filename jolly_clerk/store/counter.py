"""The counter: filings that the office records for somebody, and what it has learnt about papers that were proposed wrong."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column

from jolly_clerk.store.tables import Base


class CounterFiling(Base):
    """A filing that the office records: for whom, who records it, how and on which day it ``reached`` the office. ``reference`` once it
    is filed; ``thrown_away`` if nothing came of it."""

    __tablename__ = "counter_filings"
    draft_id: Mapped[str] = mapped_column(String(40), primary_key=True)
    owner_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    recorded_by: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    kind: Mapped[str] = mapped_column(String(2))
    came: Mapped[str] = mapped_column(String(10))
    reached: Mapped[date]
    begun_at: Mapped[datetime]
    reference: Mapped[str] = mapped_column(String(20), default="", index=True)


class PutRightByHand(Base):
    """A paper that was offered one place and put into another: the ``words`` it began with, by kind; how the next one alike is offered."""

    __tablename__ = "put_right_by_hand"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    kind: Mapped[str] = mapped_column(String(2), index=True)
    slot: Mapped[str] = mapped_column(String(80))
    words: Mapped[str] = mapped_column(String(300))
    at: Mapped[datetime]
    by_id: Mapped[str] = mapped_column(String(40))


class DocketSent(Base):
    """In which case a docket stands, so that what it lies on is known when it comes."""

    __tablename__ = "dockets_sent"
    no: Mapped[str] = mapped_column(String(20), primary_key=True)
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), index=True)


class CalendarFeed(Base):
    """A link at which a calendar reads the limits of somebody's cases, or of a whole team; only the hash of its secret is kept. It ends
    when it is taken back or the person leaves."""

    __tablename__ = "calendar_feeds"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    team: Mapped[bool] = mapped_column(default=False)
    secret_hash: Mapped[str] = mapped_column(String(64), unique=True)
    made_at: Mapped[datetime]
    read_at: Mapped[datetime | None] = mapped_column(default=None)


class Turning(Base):
    """A case that the office proposes to turn into another kind: the draft that was prepared for it, why, when it had been filed;
    ``became`` is the new case once the applicant filed it, ``done_at`` when the old one had ended and its money was placed."""

    __tablename__ = "turnings"
    draft_id: Mapped[str] = mapped_column(String(40), primary_key=True)
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), index=True)
    reference: Mapped[str] = mapped_column(String(20))
    kind: Mapped[str] = mapped_column(String(2))
    proposed_by: Mapped[str] = mapped_column(String(40))
    because: Mapped[str] = mapped_column(String(1000))
    proposed_at: Mapped[datetime]
    filed_at: Mapped[datetime]
    became: Mapped[str] = mapped_column(String(20), default="", index=True)
    done_at: Mapped[datetime | None] = mapped_column(default=None)


class OwnView(Base):
    """A view of the in-tray that somebody kept under a name: whose cases, of which kind, only which."""

    __tablename__ = "own_views"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    name: Mapped[str] = mapped_column(String(40))
    whose: Mapped[str] = mapped_column(String(20), default="")
    kind: Mapped[str] = mapped_column(String(2), default="")
    view: Mapped[str] = mapped_column(String(30), default="")
