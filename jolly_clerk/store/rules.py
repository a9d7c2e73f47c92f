"""Editions that are being written in the browser."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, String, Text
from sqlalchemy.orm import Mapped, mapped_column

from jolly_clerk.store.tables import Base


class EditionDraft(Base):
    """An edition that is being written: its ``text``, the published edition that it was begun from (``based_on``, by its hash), who kept it
    last. ``asked_at`` is when it was laid before a lead."""

    __tablename__ = "edition_drafts"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    kind: Mapped[str] = mapped_column(String(2))
    text: Mapped[str] = mapped_column(Text)
    based_on: Mapped[str] = mapped_column(String(64), default="")
    revision: Mapped[int] = mapped_column(default=0)
    kept_at: Mapped[datetime]
    kept_by: Mapped[str] = mapped_column(ForeignKey("people.id"))
    asked_at: Mapped[datetime | None] = mapped_column(default=None)
    asked_by: Mapped[str] = mapped_column(String(40), default="")


class CalendarText(Base):
    """A calendar of the office that is being written, one at a time, or that a lead confirmed (``confirmed_at``, with the hash of its file in
    the vault): editions that are published later go by it."""

    __tablename__ = "calendar_texts"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    text: Mapped[str] = mapped_column(Text)
    revision: Mapped[int] = mapped_column(default=0)
    kept_at: Mapped[datetime]
    kept_by: Mapped[str] = mapped_column(ForeignKey("people.id"))
    asked_at: Mapped[datetime | None] = mapped_column(default=None)
    asked_by: Mapped[str] = mapped_column(String(40), default="")
    sha256: Mapped[str] = mapped_column(String(64), default="")
    confirmed_at: Mapped[datetime | None] = mapped_column(default=None, index=True)
    confirmed_by: Mapped[str] = mapped_column(String(40), default="")
