"""The lists people work from: the officer's in-tray and the applicant's cases."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal

from sqlalchemy import ColumnElement, func, select

from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.office.errors import NotAllowed
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.rulebooks import office_calendar
from jolly_clerk.store.database import reading
from jolly_clerk.store.tables import Case, Person

Whose = Literal["mine", "nobody's yet", "everyone's"]
Group = Literal["running out", "ready", "waiting"]
#: what still lies before the intake desk
OPEN_STATES = ("Waiting for payment", "Filed", "Being checked", "Answers wanted", "Answers came back")
RUNNING_OUT = 4


@dataclass(frozen=True, slots=True)
class Row:
    """One case in a list. ``left`` counts ``unit`` from today to the limit; negative when it is past."""

    reference: str
    kind: str
    title: str
    applicant: str
    officer: str
    state: str
    holder: str
    group: Group
    next: str
    filed_at: datetime
    changed_at: datetime
    limit_day: date | None
    left: int | None
    unit: Literal["working days", "days"]
    step: str
    judged: int
    asked: int
    squares: tuple[tuple[str, bool], ...]
    own_reference: str


@dataclass(frozen=True, slots=True)
class Tray:
    """The in-tray: rows with the least time left first, and the counts beside it."""

    whose: Whose
    counts: dict[str, int]
    finishable: int
    running_out: int
    rows: tuple[Row, ...]


def tray(office: Office, who: Who, whose: Whose, words: str = "") -> Tray:
    """The in-tray of an officer. Raises NotAllowed for other roles."""
    if not who.sees_all:
        raise NotAllowed("The in-tray belongs to the officers.")
    calendar, now = office_calendar(office), office.now()
    filters: dict[str, list[ColumnElement[bool]]] = {
        "mine": [Case.officer_id == who.id],
        "nobody's yet": [Case.officer_id.is_(None)],
        "everyone's": [],
    }
    with reading(office.engine) as session:
        base = select(func.count()).select_from(Case).where(Case.state.in_(OPEN_STATES))
        counts = {name: session.scalar(base.where(*wanted)) or 0 for name, wanted in filters.items()}
        found = select(Case).where(Case.state.in_(OPEN_STATES), *filters[whose])
        if words.strip():
            like = f"%{words.strip()}%"
            applicants = select(Person.id).where(Person.name.ilike(like))
            found = found.where(Case.title.ilike(like) | Case.reference.ilike(like) | Case.applicant_id.in_(applicants))
        cases = list(session.scalars(found.order_by(Case.limit_at).limit(500)))
        names = {p.id: p.name for p in session.scalars(select(Person))}
    rows = tuple(_row(c, names, calendar, now, officer=True) for c in cases)
    order = {"running out": 0, "ready": 1, "waiting": 2}
    rows = tuple(sorted(rows, key=lambda r: order[r.group]))
    finishable = sum(1 for r in rows if r.group != "waiting")
    return Tray(whose, counts, finishable, sum(1 for r in rows if r.group == "running out"), rows)


def my_cases(office: Office, who: Who) -> tuple[Row, ...]:
    """Every case of an applicant, what waits for them first."""
    calendar, now = office_calendar(office), office.now()
    with reading(office.engine) as session:
        cases = list(session.scalars(select(Case).where(Case.applicant_id == who.id).order_by(Case.changed_at.desc())))
        names = {p.id: p.name for p in session.scalars(select(Person))}
    rows = [_row(c, names, calendar, now, officer=False) for c in cases]
    return tuple(sorted(rows, key=lambda r: r.holder != "theirs"))


def search(office: Office, who: Who, words: str) -> tuple[Row, ...]:
    """Cases by reference, title or applicant, in every state, newest first; at most 20."""
    if not who.sees_all:
        raise NotAllowed("Only the office searches all cases.")
    if len(words.strip()) < 2:
        return ()
    calendar, now, like = office_calendar(office), office.now(), f"%{words.strip()}%"
    with reading(office.engine) as session:
        applicants = select(Person.id).where(Person.name.ilike(like))
        wanted = Case.title.ilike(like) | Case.reference.ilike(like) | Case.applicant_id.in_(applicants)
        cases = list(session.scalars(select(Case).where(wanted).order_by(Case.changed_at.desc()).limit(20)))
        names = {p.id: p.name for p in session.scalars(select(Person))}
    return tuple(_row(c, names, calendar, now, officer=True) for c in cases)


def _row(case: Case, names: dict[str, str], calendar: Calendar, now: datetime, officer: bool) -> Row:
    today = calendar.local_day(now)
    theirs = case.holder == "theirs"
    left = None
    if case.limit_day:
        ahead = calendar.working_days_between(today, case.limit_day) if case.limit_day >= today else None
        behind = -calendar.working_days_between(case.limit_day, today) if ahead is None else 0
        left = (case.limit_day - today).days if theirs else (ahead if ahead is not None else behind)
    group: Group = "waiting" if theirs else "running out" if left is not None and left <= RUNNING_OUT else "ready"
    squares = tuple((str(s), bool(j)) for s, j in case.squares)
    return Row(
        reference=case.reference,
        kind=case.kind,
        title=case.title,
        applicant=names.get(case.applicant_id, ""),
        officer=names.get(case.officer_id or "", ""),
        state=case.state,
        holder=case.holder,
        group=group,
        next=case.next_officer if officer else case.next_applicant,
        filed_at=case.filed_at,
        changed_at=case.changed_at,
        limit_day=case.limit_day,
        left=left,
        unit="days" if theirs else "working days",
        step=case.step,
        judged=sum(1 for _, judged in squares if judged),
        asked=len(squares),
        squares=squares if officer else (),
        own_reference=case.own_reference,
    )
