"""The public register: what anybody may read of a decided case, written with its list row."""

from __future__ import annotations

from datetime import date
from typing import Any

from sqlalchemy import ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column

from jolly_clerk.store.tables import Base


class PublicLine(Base):
    """A line of the public register. ``words`` are what it is searched by, folded; ``says`` labels and answers; ``map`` the register that
    has its ``place`` on its map, ``ended`` what ended it before its time."""

    __tablename__ = "public_register"
    case_id: Mapped[str] = mapped_column(ForeignKey("cases.id"), primary_key=True)
    reference: Mapped[str] = mapped_column(String(20), unique=True)
    kind: Mapped[str] = mapped_column(String(2))
    title: Mapped[str] = mapped_column(String(120))
    outcome: Mapped[str] = mapped_column(String(10))
    decided: Mapped[date]
    starts: Mapped[date | None] = mapped_column(default=None)
    until: Mapped[date | None] = mapped_column(default=None)
    place: Mapped[str] = mapped_column(String(200), default="")
    map: Mapped[str] = mapped_column(String(40), default="")
    words: Mapped[str] = mapped_column(String(2000), default="")
    says: Mapped[list[Any]]
    ended: Mapped[str] = mapped_column(String(12), default="")
    __table_args__ = (Index("public_by_day", "decided", "reference"), Index("public_by_kind", "kind", "decided", "reference"))
