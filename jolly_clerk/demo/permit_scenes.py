"""What happened to permits of the demo since they were issued: a stall on another pitch, a bakehouse that is inspected."""

from __future__ import annotations

import io
from datetime import UTC, date, datetime, time, timedelta
from typing import Any

from PIL import Image, ImageDraw
from sqlalchemy import select

from jolly_clerk.core.time.calendar import DAY
from jolly_clerk.demo.stage import Stage, file_and_pay
from jolly_clerk.office.meetings import planning
from jolly_clerk.office.permits import inspecting, stepping
from jolly_clerk.office.preparing import drafts, signing
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case

WHO = "odalys"
#: the case by its own reference, and that by its title
STALLS, BAKEHOUSE = "year", "Bakehouse with an oven, 14 Fathom Street"


def life_of_permits(s: Stage) -> None:
    """Play it; nothing where these permits were not laid."""
    licence, permit = _reference(s, own_reference=STALLS), _reference(s, title=BAKEHOUSE)
    if licence:
        s.go(3, 10)
        first = s.calendar.local_day(s.instant)
        last = first + 9 * DAY
        days = {"first": first.isoformat(), "last": last.isoformat()}
        _file(s, licence, "TP", {"change": {"stall": 2, "pitch": "market_cross", **days}})
    if permit:
        s.go(8, 8)
        _file(s, permit, "BB", {"done": {"day": s.calendar.local_day(s.instant).isoformat()}})
        _inspect(s, permit, "foundation", 7, True, "0.9 m deep, on rock.", (96, 86, 72))
        _inspect(
            s,
            permit,
            "frame",
            4,
            False,
            "The ties of the north wall are missing. Put them in before the wall is closed.",
            (140, 112, 70),
        )
        s.go(2, 9)
        tomorrow = s.calendar.local_day(datetime.now(UTC)) + DAY
        inspecting.book(s.office, s.who[WHO], permit, "frame", _free(s, permit, "frame", tomorrow))


def _reference(s: Stage, **wanted: str) -> str:
    with read_session(s.office.engine) as session:
        own = select(Case.reference).where(Case.applicant_id == WHO, Case.permit_code.is_not(None)).filter_by(**wanted)
        return session.scalars(own).first() or ""


def _file(s: Stage, permit: str, kind: str, answers: dict[str, dict[str, Any]]) -> None:
    who = s.who[WHO]
    draft = stepping.begin_step(s.office, who, permit, kind)
    given = drafts.open_draft(s.office, who, draft).dossier.answers
    drafts.keep(s.office, who, draft, None, answers={**given, **answers})
    s.later(2)
    signing.sign(s.office, who, draft, who.name)
    file_and_pay(s, WHO, draft)


def _free(s: Stage, permit: str, visit: str, first: date) -> datetime:
    return inspecting.free_hours(s.office, s.who[WHO], permit, visit, first)[0].begins


def _inspect(s: Stage, permit: str, visit: str, back: int, passed: bool, words: str, colour: tuple[int, int, int]) -> None:
    """Booked a day before, and held so many working days ago."""
    s.go(back, 9)
    on = s.calendar.local_day(s.instant)
    s.go(back + 1, 9)
    begins = _free(s, permit, visit, on)
    booked = inspecting.book(s.office, s.who[WHO], permit, visit, begins)
    s.instant = begins + timedelta(hours=1, minutes=20)
    no = max(booked.so_far.permit.inspections)
    inspecting.hold(s.office, s.who["imre"], permit, no, passed, words, [(f"{visit}.jpg", _photograph(colour))])


def meeting_to_come(s: Stage) -> None:
    """The board of surveyors meets in a good week; what waits for its agenda is put on it by whoever decides."""
    s.go(0, 8)
    day = s.calendar.add_working_days(s.calendar.local_day(datetime.now(UTC)), 7)
    planning.plan(s.office, s.who["imre"], "surveyors", day, time(14), "One-Door Office, room 2")


def _photograph(colour: tuple[int, int, int]) -> bytes:
    """A plain picture of a wall with posts."""
    picture = Image.new("RGB", (640, 480), (202, 214, 221))
    draw, made = ImageDraw.Draw(picture), io.BytesIO()
    draw.rectangle((0, 330, 640, 480), fill=(122, 108, 88))
    for x in range(60, 600, 120):
        draw.rectangle((x, 120, x + 26, 340), fill=colour, outline=(60, 50, 40))
    draw.line((60, 130, 566, 130), fill=(60, 50, 40), width=8)
    picture.save(made, "JPEG", quality=80)
    return made.getvalue()
