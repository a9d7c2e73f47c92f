"""The lists people work from: the officer's in-tray and the applicant's cases."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime
from typing import Literal, get_args

from sqlalchemy import ColumnElement, Select, and_, false, func, not_, or_, select, true
from sqlalchemy.orm import InstrumentedAttribute, Session, defer

from jolly_clerk.core.clock import PAYING
from jolly_clerk.core.say import say, spoken_language
from jolly_clerk.core.searching import sought
from jolly_clerk.core.states import State
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.urgency import (
    RUNNING_OUT,
    Group,
    Place,
    TimeLeft,
    days_left,
    group_of,
    place_of,
    running_out_until,
    time_left,
    week_from,
)
from jolly_clerk.office.cases.casework import assessed
from jolly_clerk.office.cases.seeing import visible
from jolly_clerk.office.desk.waiting import WordView, words_for
from jolly_clerk.office.errors import Invalid, NotAllowed
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.rules.rulebooks import kinds, office_calendar
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session
from jolly_clerk.store.searching import matching
from jolly_clerk.store.tables import Case

Whose = Literal["mine", "nobody's yet", "everyone's"]
KeptView = Literal["", "answers came back", "paid, unread", "lapse this week", "to hand over"]
#: the lists that are kept at hand, each by the state that it shows
OF_STATE: dict[KeptView, State] = {"answers came back": "Answers came back", "paid, unread": "Filed", "to hand over": "Complete"}


@dataclass(frozen=True, slots=True)
class Row:
    """One case in a list. ``left`` counts ``unit`` from today to the limit, that of the lane ``limit_of`` where there are lanes;
    negative when it is past. ``place`` is where it stands among the applicant's own; ``pays`` tells that money is waited for,
    ``kept`` that it came from elsewhere and is kept as it came."""

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
    kept: bool


@dataclass(frozen=True, slots=True)
class GroupPage:
    """The first or next rows of a group, least time left first; ``count`` is how many there are in all, ``after`` where the next
    page begins, empty if there is none."""

    group: Group
    count: int
    rows: tuple[Row, ...]
    after: str


@dataclass(frozen=True, slots=True)
class Tray:
    """The in-tray: the first page of each group and the counts beside it, which are true whatever the length of the lists; ``words`` are
    what waits for whoever looks besides."""

    whose: Whose
    counts: dict[str, int]
    kinds: tuple[KindCount, ...]
    views: dict[str, int]
    finishable: int
    running_out: int
    running_out_within: int
    groups: tuple[GroupPage, ...]
    words: tuple[WordView, ...]

    @property
    def rows(self) -> tuple[Row, ...]:
        """The rows of all groups together."""
        return tuple(row for group in self.groups for row in group.rows)


@dataclass(frozen=True, slots=True)
class KindCount:
    """How many cases of a kind lie in the list."""

    kind: str
    title: str
    count: int


@dataclass(frozen=True, slots=True)
class PlacePage:
    """The first or next of an applicant's own cases at one place, the latest changed first; see :class:`GroupPage`."""

    place: Place
    count: int
    rows: tuple[Row, ...]
    after: str


#: so many rows are shown at once; the next so many follow when asked for
PAGE = 50
GROUPS: tuple[Group, ...] = ("running out", "ready", "waiting")
PLACES: tuple[Place, ...] = ("waiting", "running", "closed")
Wanted = list[ColumnElement[bool]]


@dataclass(frozen=True, slots=True)
class Shown:
    """Which part of the in-tray is shown: whose cases, of which kind, in which kept view."""

    whose: Whose = "mine"
    kind: str = ""
    view: KeptView = ""


#: more than any office has; a bound keeps an engine from turning a count into another
MOST_CASES = 10**9
#: a kind, a state, and whether the applicant is waited for
Standing = tuple[str, str, bool]


class _Lists:
    """The in-tray of a person today, as conditions of SQL: nothing here reads more rows than it shows."""

    def __init__(self, office: Office, who: Who) -> None:
        if not who.sees_all:
            raise NotAllowed(say("The in-tray belongs to the officers."))
        self.office, self.who, self.now, self.calendar = office, who, office.now(), office_calendar(office)
        self.today = self.calendar.local_day(self.now)
        self.reviewer = who.may.moves == "reviewer"
        self.here = and_(Case.tray == ("review" if self.reviewer else "intake"), *visible(who))

    def whose(self, whose: Whose) -> Wanted:
        holder = Case.reviewer_id if self.reviewer else Case.officer_id
        owned: dict[Whose, Wanted] = {"mine": [holder == self.who.id], "nobody's yet": [holder.is_(None)], "everyone's": []}
        return owned[whose]

    def view(self, view: KeptView) -> Wanted:
        if view == "lapse this week":
            either = Case.waits.in_([True, False])  # so that the index by limits serves it
            return [either, Case.holder == "theirs", Case.limit_day <= week_from(self.today)]
        return [Case.state == OF_STATE[view]] if view else []

    def group(self, group: Group) -> Wanted:
        """As :func:`jolly_clerk.core.urgency.group_of` says it, over columns."""
        if group == "waiting":
            return [Case.waits == true()]
        last, last_in_days = running_out_until(self.today, self.calendar)
        out = or_(
            and_(Case.holder != "ours", Case.limit_day <= last_in_days), and_(Case.holder == "ours", Case.limit_day <= last)
        )
        if group == "running out":
            return [Case.waits == false(), out]
        return [Case.waits == false(), or_(Case.limit_day.is_(None), not_(out))]

    def counts(self, session: Session, shown: Shown) -> tuple[dict[str, int], Counter[str], dict[str, int], Counter[Group]]:
        """By whose, by kind, by kept view and by group. Each is counted along an index; only what is urgent is looked at by its day."""

        def count(*wanted: ColumnElement[bool]) -> int:
            return session.scalar(select(func.count()).select_from(Case).where(self.here, *wanted)) or 0

        whose: dict[str, int] = {name: count(*self.whose(name)) for name in get_args(Whose)}
        own = [self.here, *self.whose(shown.whose)]
        every = self.counted(session, own, few=shown.whose != "everyone's")
        lapsing = self.counted(session, [*own, *self.view("lapse this week")], few=True)
        soonest = Case.limit_day <= max(running_out_until(self.today, self.calendar))  # so that the index by limits serves it
        shown_now, urgent = every, [*self.group("running out"), soonest]
        if shown.view == "lapse this week":
            shown_now, urgent = lapsing, [*urgent, *self.view("lapse this week")]
        soon, kinds = self.counted(session, [*own, *urgent], few=True), Counter[str]()
        for (kind, _, _), n in every.items():
            kinds[kind] += n

        def of(found: Counter[Standing], *states: str, waits: bool | None = None) -> int:
            return sum(
                n
                for (kind, state, waiting), n in found.items()
                if shown.kind in ("", kind) and (not states or state in states) and waits in (None, waiting)
            )

        views: dict[str, int] = {name: of(lapsing) if name == "lapse this week" else of(every, OF_STATE[name]) for name in VIEWS}
        wanted = (OF_STATE[shown.view],) if shown.view in OF_STATE else ()
        groups = Counter[Group]({"running out": of(soon, *wanted), "waiting": of(shown_now, *wanted, waits=True)})
        groups["ready"] = of(shown_now, *wanted, waits=False) - groups["running out"]
        return whose, kinds, views, groups

    def counted(self, session: Session, wanted: Wanted, few: bool = False) -> Counter[Standing]:
        """How many cases stand how. ``few`` are found first, by their limits, and counted then; else the count goes along its index."""
        by = select(Case.kind, Case.state, Case.waits).where(*wanted)
        columns = by.limit(MOST_CASES).subquery().c if few else by.selected_columns
        counting = select(columns[0], columns[1], columns[2], func.count()).group_by(columns[0], columns[1], columns[2])
        rows = session.execute(counting if few else counting.where(*wanted))
        return Counter({(str(kind), str(state), bool(waits)): int(n) for kind, state, waits, n in rows.tuples()})

    def page(self, session: Session, shown: Shown, group: Group, after: str = "") -> tuple[list[Case], str]:
        """Cases of a group in order of their limits, from a place on; and where the next page begins."""
        wanted = [self.here, *self.whose(shown.whose), *self.view(shown.view), *self.group(group)]
        wanted += [Case.kind == shown.kind] if shown.kind else []
        found = select(Case).where(*wanted).order_by(Case.sort_at, Case.reference)
        return _page(session, found, (Case.sort_at, Case.reference), after)

    def rows(self, cases: Sequence[Case], names: dict[str, str]) -> tuple[Row, ...]:
        """The rows of cases, with the names of their people."""
        return tuple(_row(c, names, self.calendar, self.now, officer=True) for c in cases)


VIEWS: tuple[KeptView, ...] = ("answers came back", "paid, unread", "lapse this week", "to hand over")


def tray(office: Office, who: Who, whose: Whose, kind: str = "", view: KeptView = "") -> Tray:
    """The in-tray of an officer, or of a reviewer what was handed over. Raises NotAllowed for other roles."""
    lists, shown = _Lists(office, who), Shown(whose, kind, view)
    with read_session(office.engine) as session:
        counts, kinds_, views, groups = lists.counts(session, shown)
        found = {group: lists.page(session, shown, group) if groups[group] else ([], "") for group in GROUPS}
        names = names_in(session, _people([one for cases, _ in found.values() for one in cases]))
    pages = [GroupPage(group, groups[group], lists.rows(cases, names), after) for group, (cases, after) in found.items()]
    titles = {r.edition.kind: r.edition.title for r in kinds(office, lists.today)}
    return Tray(
        whose,
        counts,
        tuple(KindCount(k, titles.get(k, k), n) for k, n in sorted(kinds_.items())),
        {} if lists.reviewer else views,
        groups["running out"] + groups["ready"],
        groups["running out"],
        RUNNING_OUT,
        tuple(pages),
        words_for(office, who) if whose == "mine" and not kind and not view else (),
    )


def more_of_tray(office: Office, who: Who, shown: Shown, group: Group, after: str) -> GroupPage:
    """The next page of a group of the in-tray. Raises Invalid for a place that is none."""
    lists = _Lists(office, who)
    with read_session(office.engine) as session:
        cases, onwards = lists.page(session, shown, group, after)
        return GroupPage(
            group, lists.counts(session, shown)[3][group], lists.rows(cases, names_in(session, _people(cases))), onwards
        )


def _page(
    session: Session,
    found: Select[Case],
    key: tuple[InstrumentedAttribute[datetime], InstrumentedAttribute[str]],
    after: str,
    down: bool = False,
) -> tuple[list[Case], str]:
    """One page by its key, an instant and a reference: from ``after`` on, and where the next one begins."""
    if after:
        stamp, _, reference = after.partition(" ")
        try:
            at = datetime.fromisoformat(stamp).astimezone(UTC)
        except (ValueError, OverflowError):
            raise Invalid(say("There is no such page."), "after") from None
        beyond = key[0] < at if down else key[0] > at
        found = found.where(or_(beyond, and_(key[0] == at, key[1] > reference)))
    cases = list(session.scalars(found.limit(PAGE + 1).options(defer(Case.outcome))))
    if len(cases) <= PAGE:
        return cases, ""
    last = cases[PAGE - 1]
    return cases[:PAGE], f"{getattr(last, key[0].key).isoformat()} {last.reference}"


def _people(cases: Sequence[Case]) -> Iterator[str | None]:
    for one in cases:
        yield one.applicant_id
        yield one.officer_id


def my_cases(office: Office, who: Who) -> tuple[PlacePage, ...]:
    """The first of an applicant's cases at each place, what waits for them first."""
    counted = select(Case.place, func.count()).where(Case.applicant_id == who.id).group_by(Case.place)
    with read_session(office.engine) as session:
        counts = dict(session.execute(counted).tuples().all())
        return tuple(_own(office, session, who, place, counts.get(place, 0)) for place in PLACES)


def more_of_mine(office: Office, who: Who, place: Place, after: str) -> PlacePage:
    """The next of an applicant's cases at a place. Raises Invalid for a page that is none."""
    with read_session(office.engine) as session:
        counted = select(func.count()).select_from(Case).where(Case.applicant_id == who.id, Case.place == place)
        return _own(office, session, who, place, session.scalar(counted) or 0, after)


def _own(office: Office, session: Session, who: Who, place: Place, count: int, after: str = "") -> PlacePage:
    own = select(Case).where(Case.applicant_id == who.id, Case.place == place)
    # what waits stands by its limit, the nearest first; all else by what changed last
    by, down = (Case.sort_at, False) if place == "waiting" else (Case.changed_at, True)
    own = own.order_by(by.desc() if down else by, Case.reference)
    cases, onwards = _page(session, own, (by, Case.reference), after, down=down) if count else ([], "")
    return PlacePage(place, count, own_rows(office, session, cases), onwards)


def own_rows(office: Office, session: Session, cases: Sequence[Case]) -> tuple[Row, ...]:
    """Cases as their applicant sees them in a list."""
    calendar, names = office_calendar(office, session), names_in(session, _people(cases))
    rows = tuple(_row(c, names, calendar, office.now(), officer=False) for c in cases)
    if spoken_language():  # what comes next is kept in the office's language; whoever reads another is told it anew
        rows = tuple(replace(row, next=_next_in_words(office, session, case)) for row, case in zip(rows, cases, strict=True))
    return rows


def _next_in_words(office: Office, session: Session, case: Case) -> str:
    history = load_history(session, case.id)
    if not history.versions:  # one that came from elsewhere
        return case.next_applicant
    return assessed(office, case, history, len(history.entries), session).assessment.next_applicant


#: so many cases are shown for a search
MOST_FOUND = 20


def search(office: Office, who: Who, words: str) -> tuple[Row, ...]:
    """Cases by reference, people, places, numbers, titles and the words of their files, in every state; at most 20, best first.

    What this person may not see is neither shown nor counted. Raises NotAllowed for whoever does not work in the office.
    """
    if not who.sees_all:
        raise NotAllowed(say("Only the office searches all cases."))
    wanted = sought(words)
    if wanted is None:
        return ()
    calendar, now = office_calendar(office), office.now()
    with read_session(office.engine) as session:
        ids = matching(session, wanted)
        found = {c.id: c for c in session.scalars(select(Case).where(Case.id.in_(ids), *visible(who)))}
        cases = [found[id_] for id_ in ids if id_ in found][:MOST_FOUND]
        names = names_in(session, _people(cases))
    return tuple(_row(c, names, calendar, now, officer=True) for c in cases)


def _row(row: Case, names: dict[str, str], calendar: Calendar, now: datetime, officer: bool) -> Row:
    today = calendar.local_day(now)
    holder, limit_day, limit_of = row.holder, row.limit_day, row.limit_of
    if row.their_limit_day and not officer:  # in one lane it is the applicant's turn, in another the office's
        holder, limit_day, limit_of = "theirs", row.their_limit_day, row.their_limit_of
    near = days_left(limit_day, holder, today, calendar)
    left = days_left(limit_day, holder, today, calendar, row.counted_after)
    squares = tuple((str(s), bool(j)) for s, j in row.squares)
    return Row(
        reference=row.reference,
        kind=row.kind,
        title=row.title,
        applicant=names.get(row.applicant_id, ""),
        officer=names.get(row.officer_id or "", ""),
        state=row.state,
        holder=holder,
        group=group_of("ours" if officer and row.their_limit_day else holder, near),
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
        judged=sum(1 for _, judged in squares if judged),
        asked=len(squares),
        squares=squares if officer else (),
        own_reference=row.own_reference,
        kept=row.kept,
    )
