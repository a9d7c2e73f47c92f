"""The rows of lists: one case in a list, and a page of them by its key."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any, Literal, TypeVar

from sqlalchemy import Select, and_, or_, select
from sqlalchemy.orm import InstrumentedAttribute, Session, defer

from jolly_clerk.core.clock import PAYING
from jolly_clerk.core.say import say
from jolly_clerk.core.states import State
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.urgency import Group, Place, TimeLeft, days_left, group_of, place_of, time_left
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.office import Who
from jolly_clerk.store.tables import Case

#: so many rows are shown at once; the next so many follow when asked for
PAGE = 25


@dataclass(slots=True)  # not frozen, which would make each take three times as long to fill
class Row:
    """One case in a list. ``left`` counts ``unit`` from today to the limit, that of the lane ``limit_of`` where there are lanes;
    negative when it is past. ``place`` is where it stands among the applicant's own; ``pays`` tells that money is waited for,
    ``kept`` that it came from elsewhere and is kept as it came."""

    reference: str
    kind: str
    title: str
    applicant: str
    officer: str
    #: the id of whoever of the office has it, told to officers
    officer_id: str
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
    kept: bool
    #: others did something in it since whoever looks at the list opened it last
    news: bool


#: the columns that a list shows, chosen once, since naming them takes as long as reading them
SHOWN = select(
    Case.id, Case.reference, Case.kind, Case.title, Case.applicant_id, Case.officer_id, Case.state, Case.holder, Case.limit_day,
    Case.limit_of, Case.their_limit_day, Case.their_limit_of, Case.counted_after, Case.squares, Case.step, Case.leaves_at,
    Case.next_officer, Case.next_applicant, Case.filed_at, Case.changed_at, Case.changed_by, Case.sort_at, Case.own_reference,
    Case.kept, Case.at_once,
)  # fmt: skip
Key = tuple[InstrumentedAttribute[datetime], InstrumentedAttribute[str]]
Found = TypeVar("Found", bound=Select[*tuple[Any, ...]])


def beyond(found: Found, key: Key, after: str, down: bool = False) -> Found:
    """What lies behind a place in a list. Raises Invalid for a place that is none."""
    if after:
        stamp, _, reference = after.partition(" ")
        try:
            at = datetime.fromisoformat(stamp).astimezone(UTC)
        except (ValueError, OverflowError):
            raise Invalid(say("There is no such page."), "after") from None
        later = key[0] < at if down else key[0] > at
        return found.where(or_(later, and_(key[0] == at, key[1] > reference)))
    return found


def page_of(
    session: Session,
    found: Select[Case],
    key: Key,
    after: str,
    down: bool = False,
) -> tuple[list[Case], str]:
    """One page by its key, an instant and a reference: from ``after`` on, and where the next one begins."""
    found = beyond(found, key, after, down)
    cases: list[Case] = list(session.scalars(found.limit(PAGE + 1).options(defer(Case.outcome))))
    return cut(cases, key)


def cut(cases: list[Case], key: Key) -> tuple[list[Case], str]:
    """One page of those that were found, and where the next one begins."""
    if len(cases) <= PAGE:
        return cases, ""
    last = cases[PAGE - 1]
    return cases[:PAGE], f"{getattr(last, key[0].key).isoformat()} {last.reference}"


def people_of(cases: Sequence[Case]) -> Iterator[str | None]:
    """The ids of the people whom the rows of cases name."""
    for one in cases:
        yield one.applicant_id
        yield one.officer_id


def has_news(case: Case, who: Who, looked_at: datetime | None) -> bool:
    """True if others did something in a case since somebody opened it last, and that one did nothing after it."""
    return looked_at is not None and case.changed_at > looked_at and case.changed_by != who.id


def row_of(row: Case, names: dict[str, str], calendar: Calendar, today: date, officer: bool, news: bool = False) -> Row:
    """The row of a case in a list, as an ``officer`` or as its applicant sees it."""
    holder, limit_day, limit_of = row.holder, row.limit_day, row.limit_of
    if row.their_limit_day and not officer:  # in one lane it is the applicant's turn, in another the office's
        holder, limit_day, limit_of = "theirs", row.their_limit_day, row.their_limit_of
    near = days_left(limit_day, holder, today, calendar)
    left = days_left(limit_day, holder, today, calendar, row.counted_after) if row.counted_after else near
    squares = tuple(map(tuple, row.squares))
    return Row(
        reference=row.reference,
        kind=row.kind,
        title=row.title,
        applicant=names.get(row.applicant_id, ""),
        officer=names.get(row.officer_id or "", ""),
        officer_id=(row.officer_id or "") if officer else "",
        state=row.state,
        holder=holder,
        group=group_of("ours" if officer and row.their_limit_day else holder, near, row.at_once),
        place=place_of(row.state, row.step, holder),
        next=say("Ready, and leaves soon") if officer and row.leaves_at else row.next_officer if officer else row.next_applicant,
        filed_at=row.filed_at,
        changed_at=row.changed_at,
        limit_day=limit_day,
        left=left,
        unit="working days" if holder == "ours" else "days",
        time_left=time_left(left, holder, row.step, own=not officer),
        pays=row.step in PAYING,
        step=row.step,
        limit_of=limit_of,
        judged=sum([judged for _, judged in squares]),
        asked=len(squares),
        squares=squares if officer else (),
        own_reference=row.own_reference,
        kept=row.kept,
        news=news,
    )
