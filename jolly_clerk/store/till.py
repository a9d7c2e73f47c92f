"""The till: statements of the bank and their movements, the days of a drawer, files of payments, and which case awaits money."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String, Text
from sqlalchemy.orm import Mapped, mapped_column

from jolly_clerk.store.tables import Base


class BankStatement(Base):
    """A file of the bank that was read; the file itself lies in the vault. Balances are empty where it states none."""

    __tablename__ = "statements"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    sha256: Mapped[str] = mapped_column(String(64), index=True)
    name: Mapped[str] = mapped_column(String(200))
    number: Mapped[str] = mapped_column(String(100))
    account: Mapped[str] = mapped_column(String(60))
    currency: Mapped[str] = mapped_column(String(3))
    opening: Mapped[str] = mapped_column(String(30), default="")
    closing: Mapped[str] = mapped_column(String(30), default="")
    movements: Mapped[int]
    read_at: Mapped[datetime] = mapped_column(index=True)
    read_by: Mapped[str] = mapped_column(String(40))


class BankMovement(Base):
    """A movement of a statement; ``key`` is the account and the bank's own number, so that none is read twice.

    ``done`` says what became of it, and is empty while it is to be looked at; ``plan`` is what was decided (parts with amounts, a
    payment, a refund), ``underway`` while that is not all carried out. ``money_id`` is the money in that it became.
    """

    __tablename__ = "movements"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    statement_id: Mapped[str] = mapped_column(ForeignKey("statements.id"), index=True)
    position: Mapped[int]
    key: Mapped[str] = mapped_column(String(130), unique=True)
    mark: Mapped[str] = mapped_column(String(60))
    booked: Mapped[date]
    value_day: Mapped[date]
    amount: Mapped[str] = mapped_column(String(30))
    currency: Mapped[str] = mapped_column(String(3))
    payer: Mapped[str] = mapped_column(String(140), default="")
    account: Mapped[str] = mapped_column(String(40), default="")
    text: Mapped[str] = mapped_column(String(400), default="")
    end_to_end: Mapped[str] = mapped_column(String(35), default="")
    returned: Mapped[bool] = mapped_column(default=False)
    reason: Mapped[str] = mapped_column(String(105), default="")
    done: Mapped[str] = mapped_column(String(20), default="")
    why: Mapped[str] = mapped_column(String(300), default="")
    plan: Mapped[list[Any]] = mapped_column(default=list)
    underway: Mapped[bool] = mapped_column(default=False, index=True)
    done_at: Mapped[datetime | None] = mapped_column(default=None, index=True)
    done_by: Mapped[str] = mapped_column(String(40), default="")
    money_id: Mapped[str | None] = mapped_column(String(40), default=None)
    __table_args__ = (Index("movements_open", "done", "booked"),)


class TillDay(Base):
    """A day of a drawer, from the counted float to the counted drawer. ``number`` is that of the closing, without gaps; ``told`` is what
    the day came to when it was closed. While ``counted`` stands and ``closed_at`` does not, a second person has to look."""

    __tablename__ = "till_days"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    till: Mapped[str] = mapped_column(String(40), index=True)
    day: Mapped[date]
    currency: Mapped[str] = mapped_column(String(3))
    begins: Mapped[datetime]
    opened_at: Mapped[datetime]
    opened_by: Mapped[str] = mapped_column(String(40))
    opened_with: Mapped[str] = mapped_column(String(30))
    counted: Mapped[str] = mapped_column(String(30), default="")
    counted_by: Mapped[str] = mapped_column(String(40), default="")
    because: Mapped[str] = mapped_column(String(300), default="")
    closed_at: Mapped[datetime | None] = mapped_column(default=None, index=True)
    closed_by: Mapped[str] = mapped_column(String(40), default="")
    number: Mapped[int | None] = mapped_column(default=None, unique=True)
    told: Mapped[str] = mapped_column(Text, default="")


class PaymentFile(Base):
    """A file of refunds for the bank; the file itself lies in the vault."""

    __tablename__ = "payment_files"
    no: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    sha256: Mapped[str] = mapped_column(String(64))
    currency: Mapped[str] = mapped_column(String(3))
    total: Mapped[str] = mapped_column(String(30))
    count: Mapped[int]
    made_at: Mapped[datetime]
    made_by: Mapped[str] = mapped_column(String(40))


class Owed(Base):
    """What a case awaits, as its last entry left it: how the till finds a case by an amount. A case that awaits nothing has no row."""

    __tablename__ = "owed"
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), primary_key=True)
    applicant_id: Mapped[str] = mapped_column(String(40), index=True)
    amount: Mapped[str] = mapped_column(String(30))
    currency: Mapped[str] = mapped_column(String(3))
    until: Mapped[date | None] = mapped_column(default=None)
    __table_args__ = (Index("owed_amount", "amount", "currency"),)
