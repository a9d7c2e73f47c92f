"""The ledger of the office: money that came in, where it was placed, and what is to go back. Amounts are texts with their decimals."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column

from jolly_clerk.store.tables import Base


class MoneyIn(Base):
    """Money that came in, once: ``key`` is its means and its own number, ``receipt`` the one number of its receipt.

    ``left`` is what of it is placed nowhere, and ``why`` it is not. ``payer`` and ``account`` are empty where they are not known,
    ``order`` where no terminal told of it. Cash lay in the drawer of the day ``till_id``.
    """

    __tablename__ = "money_in"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    key: Mapped[str] = mapped_column(String(100), unique=True)
    means: Mapped[str] = mapped_column(String(10))
    amount: Mapped[str] = mapped_column(String(30))
    currency: Mapped[str] = mapped_column(String(3))
    value_day: Mapped[date]
    payer: Mapped[str] = mapped_column(String(200), default="")
    account: Mapped[str] = mapped_column(String(60), default="", index=True)
    receipt: Mapped[str] = mapped_column(String(20), index=True)
    came_at: Mapped[datetime] = mapped_column(index=True)
    booked_by: Mapped[str] = mapped_column(String(40))
    left: Mapped[str] = mapped_column(String(30), default="0")
    is_left: Mapped[bool] = mapped_column(default=False, index=True)
    why: Mapped[str] = mapped_column(String(200), default="")
    order: Mapped[str] = mapped_column(String(80), default="")
    till_id: Mapped[str | None] = mapped_column(String(40), default=None, index=True)


class Placing(Base):
    """A part of money that came in, placed on a case as the payment ``key``; ``charged_back_at`` when it was taken back, ``till_id`` from
    which drawer if it was cash."""

    __tablename__ = "placings"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    money_id: Mapped[str] = mapped_column(ForeignKey("money_in.id"), index=True)
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), index=True)
    key: Mapped[str] = mapped_column(String(110))
    amount: Mapped[str] = mapped_column(String(30))
    at: Mapped[datetime]
    charged_back_at: Mapped[datetime | None] = mapped_column(default=None, index=True)
    till_id: Mapped[str | None] = mapped_column(String(40), default=None)


class Refund(Base):
    """What is to go back, of a case (``key`` is that of its entry) or of money that was placed nowhere; ``left_at`` when it left, in cash
    from the drawer of the day ``till_id`` or with the file of payments ``file_no``; ``seen_day`` when it left the account by its statement."""

    __tablename__ = "refunds"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    case_id: Mapped[str | None] = mapped_column(ForeignKey("cases.id"), index=True, default=None)
    money_id: Mapped[str | None] = mapped_column(ForeignKey("money_in.id"), default=None)
    key: Mapped[str] = mapped_column(String(110))
    amount: Mapped[str] = mapped_column(String(30))
    currency: Mapped[str] = mapped_column(String(3))
    due_at: Mapped[datetime]
    left_at: Mapped[datetime | None] = mapped_column(default=None, index=True)
    approved_by: Mapped[str] = mapped_column(String(40), default="")
    means: Mapped[str] = mapped_column(String(10), default="")
    account: Mapped[str] = mapped_column(String(60), default="")
    till_id: Mapped[str | None] = mapped_column(String(40), default=None)
    file_no: Mapped[int | None] = mapped_column(default=None, index=True)
    seen_day: Mapped[date | None] = mapped_column(default=None)
