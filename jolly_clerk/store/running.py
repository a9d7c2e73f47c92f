"""What was done to the office itself."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, String, Text
from sqlalchemy.orm import Mapped, mapped_column

from jolly_clerk.store.tables import Base


class OfficeChange(Base):
    """Something that was done to the office itself, by ``who`` (a person's id; empty for a command): a setting or a register that was changed,
    a copy that was taken. ``said`` tells it in words, ``name`` is the setting, the register or the file of the copy."""

    __tablename__ = "office_changes"
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime] = mapped_column(index=True)
    who: Mapped[str] = mapped_column(String(40))
    what: Mapped[str] = mapped_column(String(20))
    name: Mapped[str] = mapped_column(String(200))
    said: Mapped[str] = mapped_column(Text)


class ApiToken(Base):
    """A token by which somebody's program uses the interface in their name: only the hash of its secret is kept. ``scope`` is *look* or
    *work*; it ends at ``until``, when it is taken back, or when the person leaves."""

    __tablename__ = "api_tokens"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    name: Mapped[str] = mapped_column(String(60))
    secret_hash: Mapped[str] = mapped_column(String(64), unique=True)
    scope: Mapped[str] = mapped_column(String(10))
    made_at: Mapped[datetime]
    until: Mapped[datetime]
    used_at: Mapped[datetime | None] = mapped_column(default=None)


class ToSignOff(Base):
    """A reviewer beside the leading one who has not signed off a case yet."""

    __tablename__ = "to_sign_off"
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"), primary_key=True)
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), primary_key=True, index=True)
