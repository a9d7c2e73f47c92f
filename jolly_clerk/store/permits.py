"""Which permits short filings are on, who holds those that were transferred, and the hours at which inspections are booked."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column

from jolly_clerk.store.tables import Base


class FiledStep(Base):
    """A short filing, by its case, and the permit that it is on; ``done_at`` once what it does is written there."""

    __tablename__ = "filed_steps"
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), primary_key=True)
    permit_case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), index=True)
    reference: Mapped[str] = mapped_column(String(20))
    permit: Mapped[str] = mapped_column(String(20))
    kind: Mapped[str] = mapped_column(String(2))
    done_at: Mapped[datetime | None] = mapped_column(default=None, index=True)


class HeldPermit(Base):
    """A permit that was transferred: by which short filing (``step``), to which mail address it is offered (nothing once it was accepted or
    declined), and the account that accepted it and holds it now (None: whoever applied still does)."""

    __tablename__ = "held_permits"
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), primary_key=True)
    step: Mapped[str] = mapped_column(String(20))
    offered_to: Mapped[str] = mapped_column(String(200), default="", index=True)
    holder_id: Mapped[str | None] = mapped_column(ForeignKey("people.id"), default=None, index=True)


class ReplacedCode(Base):
    """The code of a document that was replaced by another one, and the day from which it counts no more."""

    __tablename__ = "replaced_codes"
    code: Mapped[str] = mapped_column(String(40), primary_key=True)
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), index=True)
    day: Mapped[date]


class BookedHour(Base):
    """An hour at which somebody inspects, of a kind: it is booked once. ``no`` is the number of the inspection in its case."""

    __tablename__ = "booked_hours"
    kind: Mapped[str] = mapped_column(String(2), primary_key=True)
    begins: Mapped[datetime] = mapped_column(primary_key=True)
    day: Mapped[date] = mapped_column(index=True)
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), index=True)
    no: Mapped[int]
