"""Meetings, and the cases on their agendas."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import ForeignKey, String, Text
from sqlalchemy.orm import Mapped, mapped_column

from jolly_clerk.store.tables import Base


class PlannedMeeting(Base):
    """A meeting of a body that editions name: when and where. ``called_off`` says why it does not take place; empty if it does."""

    __tablename__ = "meetings"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    body: Mapped[str] = mapped_column(String(60), index=True)
    title: Mapped[str] = mapped_column(Text)
    day: Mapped[date] = mapped_column(index=True)
    begins: Mapped[datetime]
    place: Mapped[str] = mapped_column(String(200))
    made_by: Mapped[str] = mapped_column(String(40))
    called_off: Mapped[str] = mapped_column(Text, default="")


class AgendaItem(Base):
    """A case on the agenda of a meeting, as its history says it; with no meeting it waits for an agenda. ``position`` is its place in the
    order, ``result`` what was minuted."""

    __tablename__ = "agenda_items"
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), primary_key=True)
    meeting_id: Mapped[str] = mapped_column(String(40), primary_key=True, index=True)
    body: Mapped[str] = mapped_column(String(60))
    position: Mapped[int]
    result: Mapped[str] = mapped_column(String(20), default="")
