"""The lists people work from: the officer's in-tray and the applicant's cases."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal

from sqlalchemy import ColumnElement, func, select

from jolly_clerk.core.say import say
from jolly_clerk.core.states import WITH_INTAKE, WITH_REVIEW, State
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.urgency import RUNNING_OUT, Group, Place, TimeLeft, days_left, group_of, place_of, time_left, week_from
from jolly_clerk.office.errors import NotAllowed
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.rules.rulebooks import kinds, office_calendar
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, Person

Whose = Literal["mine", "nobody's yet", "everyone's"]
KeptView = Literal["", "answers came back", "paid, unread", "lapse this week", "to hand over"]
#: the lists that are kept at hand, each by the state that it shows
OF_STATE: dict[KeptView, State] = {"answers came back": "Answers came back", "paid, unread": "Filed", "to hand over": "Complete"}


@dataclass(frozen=True, slots=True)
class Row:
    """One case in a list. ``left`` counts ``unit`` from today to the limit, that of the lane ``limit_of`` where there are lanes;
    negative when it is past. ``place`` is where it stands among the applicant's own; ``pays`` tells that money is waited for."""

    reference: str
    kind: str
    title: str
    applicant: str
    officer: str
    state: State
    holder: str
    group: Group
    place: Place
    next: str
    filed_at: datetime
    changed_at: datetime
    limit_day: date | None
    left: int | None
    unit: Literal["working days", "days"]
    time_left: TimeLeft
    pays: bool
    step: str
    limit_of: str
    judged: int
    asked: int
    squares: tuple[tuple[str, bool], ...]
    own_reference: str


@dataclass(frozen=True, slots=True)
class Tray:
    """The in-tray: rows with the least time left first, and the counts beside it."""

    whose: Whose
    counts: dict[str, int]
    kinds: tuple[KindCount, ...]
    views: dict[str, int]
    finishable: int
    running_out: int
    running_out_within: int
    rows: tuple[Row, ...]


@dataclass(frozen=True, slots=True)
class KindCount:
    """How many cases of a kind lie in the list."""

    kind: str
    title: str
    count: int


def tray(office: Office, who: Who, whose: Whose, words: str = "", kind: str = "", view: KeptView = "") -> Tray:
    """The in-tray of an officer, or of a reviewer what was handed over. Raises NotAllowed for other roles."""
    if not who.sees_all:
        raise NotAllowed(say("The in-tray belongs to the officers."))
    calendar, now = office_calendar(office), office.now()
    reviewer = who.may.moves == "reviewer"
    states = WITH_REVIEW if reviewer else WITH_INTAKE
    holder = Case.reviewer_id if reviewer else Case.officer_id
    whoses: dict[str, list[ColumnElement[bool]]] = {
        "mine": [holder == who.id],
        "nobody's yet": [holder.is_(None)],
        "everyone's": [],
    }
    week = week_from(calendar.local_day(now))
    views: dict[str, list[ColumnElement[bool]]] = {name: [Case.state == state] for name, state in OF_STATE.items()}
    views["lapse this week"] = [Case.holder == "theirs", Case.limit_day <= week]
    base = [Case.state.in_(states)]
    with read_session(office.engine) as session:

        def count(*wanted: ColumnElement[bool]) -> int:
            return session.scalar(select(func.count()).select_from(Case).where(*base, *wanted)) or 0

        counts = {name: count(*wanted) for name, wanted in whoses.items()}
        own = [*whoses[whose], *([Case.kind == kind] if kind else [])]
        by_kind = session.execute(
            select(Case.kind, func.count()).where(*base, *whoses[whose]).group_by(Case.kind).order_by(Case.kind)
        ).all()
        view_counts = {} if reviewer else {name: count(*own, *wanted) for name, wanted in views.items()}
        found = select(Case).where(*base, *own, *(views[view] if view else []), *_about(words))
        cases = list(session.scalars(found.order_by(Case.limit_at).limit(500)))
        names = {p.id: p.name for p in session.scalars(select(Person))}
    titles = {r.edition.kind: r.edition.title for r in kinds(office, calendar.local_day(now))}
    rows = tuple(_row(c, names, calendar, now, officer=True) for c in cases)
    order = {"running out": 0, "ready": 1, "waiting": 2}
    rows = tuple(sorted(rows, key=lambda r: order[r.group]))
    return Tray(
        whose,
        counts,
        tuple(KindCount(k, titles.get(k, k), n) for k, n in by_kind),
        view_counts,
        sum(1 for r in rows if r.group != "waiting"),
        sum(1 for r in rows if r.group == "running out"),
        RUNNING_OUT,
        rows,
    )


def _about(words: str) -> list[ColumnElement[bool]]:
    """Reference, title or applicant holds these words."""
    if not words.strip():
        return []
    like = f"%{words.strip()}%"
    applicants = select(Person.id).where(Person.name.ilike(like))
    return [Case.title.ilike(like) | Case.reference.ilike(like) | Case.applicant_id.in_(applicants)]


def my_cases(office: Office, who: Who) -> tuple[Row, ...]:
    """Every case of an applicant, what waits for them first."""
    calendar, now = office_calendar(office), office.now()
    with read_session(office.engine) as session:
        cases = list(session.scalars(select(Case).where(Case.applicant_id == who.id).order_by(Case.changed_at.desc())))
        names = {p.id: p.name for p in session.scalars(select(Person))}
    rows = [_row(c, names, calendar, now, officer=False) for c in cases]
    return tuple(sorted(rows, key=lambda r: r.place != "waiting"))


def search(office: Office, who: Who, words: str) -> tuple[Row, ...]:
    """Cases by reference, title or applicant, in every state, newest first; at most 20."""
    if not who.sees_all:
        raise NotAllowed(say("Only the office searches all cases."))
    if len(words.strip()) < 2:
        return ()
    calendar, now = office_calendar(office), office.now()
    with read_session(office.engine) as session:
        cases = list(session.scalars(select(Case).where(*_about(words)).order_by(Case.changed_at.desc()).limit(20)))
        names = {p.id: p.name for p in session.scalars(select(Person))}
    return tuple(_row(c, names, calendar, now, officer=True) for c in cases)


def _row(case: Case, names: dict[str, str], calendar: Calendar, now: datetime, officer: bool) -> Row:
    today = calendar.local_day(now)
    holder, limit_day, limit_of = case.holder, case.limit_day, case.limit_of
    if case.their_limit_day and not officer:  # in one lane it is the applicant's turn, in another the office's
        holder, limit_day, limit_of = "theirs", case.their_limit_day, case.their_limit_of
    left = days_left(limit_day, holder, today, calendar)
    squares = tuple((str(s), bool(j)) for s, j in case.squares)
    return Row(
        reference=case.reference,
        kind=case.kind,
        title=case.title,
        applicant=names.get(case.applicant_id, ""),
        officer=names.get(case.officer_id or "", ""),
        state=case.state,
        holder=holder,
        group=group_of("ours" if officer and case.their_limit_day else holder, left),
        place=place_of(case.state, case.step, holder),
        next=case.next_officer if officer else case.next_applicant,
        filed_at=case.filed_at,
        changed_at=case.changed_at,
        limit_day=limit_day,
        left=left,
        unit="days" if holder == "theirs" else "working days",
        time_left=time_left(left, holder, case.step, own=not officer),
        pays=case.step in ("payment", "issue payment"),
        step=case.step,
        limit_of=limit_of,
        judged=sum(1 for _, judged in squares if judged),
        asked=len(squares),
        squares=squares if officer else (),
        own_reference=case.own_reference,
    )
