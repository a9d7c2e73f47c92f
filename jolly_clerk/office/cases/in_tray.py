"""The statements of the in-tray. Each is made once and kept, and what differs from look to look is handed to it as a parameter: to make a
statement anew takes longer than to answer it."""

from __future__ import annotations

import functools
from collections import Counter, namedtuple
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal, cast, get_args

from sqlalchemy import (
    ColumnElement,
    CompoundSelect,
    CursorResult,
    Date,
    Select,
    String,
    Subquery,
    and_,
    bindparam,
    false,
    func,
    literal,
    or_,
    select,
    true,
    union_all,
)
from sqlalchemy.orm import Session, aliased

from jolly_clerk.core.say import say
from jolly_clerk.core.states import State
from jolly_clerk.core.urgency import Group, running_out_until, soonest_that_does_not_run_out, week_from
from jolly_clerk.office.cases.rows import PAGE, SHOWN, Row, beyond, cut, has_news, row_of
from jolly_clerk.office.cases.seeing import visible_in_office
from jolly_clerk.office.errors import NotAllowed
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.absences import stands_in_for
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.beside import CaseRead
from jolly_clerk.store.running import ToSignOff
from jolly_clerk.store.tables import Case, Instant, Person

Whose = Literal["mine", "nobody's yet", "everyone's"]
KeptView = Literal["", "answers came back", "paid, unread", "lapse this week", "to hand over"]
#: the lists that are kept at hand, each by the state that it shows
OF_STATE: Mapping[KeptView, State] = {
    "answers came back": "Answers came back",
    "paid, unread": "Filed",
    "to hand over": "Complete",
}
VIEWS: tuple[KeptView, ...] = ("answers came back", "paid, unread", "lapse this week", "to hand over")
GROUPS: tuple[Group, ...] = ("running out", "at once", "ready", "waiting")
Wanted = list[ColumnElement[bool]]
#: more than any office has; a bound keeps an engine from turning a count into another
MOST_CASES = 10**9
#: a kind, a state, whether the applicant is waited for, and whether it is finished at once
Standing = tuple[str, str, bool, bool]
#: the last days that count as running out (an office's limit, one that is counted in days, the later of both), and the end of the week
LAST, LAST_IN_DAYS, SOONEST, WEEK = (bindparam(name, type_=Date) for name in ("last", "last_in_days", "soonest", "week"))
#: before this instant lies no limit that does not run out, wherever the office is: so that what does is not read through
NOT_BEFORE = bindparam("not_before", type_=Instant)
#: whoever looks, those for whom they stand in besides, and one kind
ME, MINE, KIND = bindparam("me", type_=String), bindparam("mine", type_=String, expanding=True), bindparam("kind", type_=String)


@dataclass(frozen=True, slots=True)
class Shown:
    """Which part of the in-tray is shown: whose cases, of which kind, in which kept view."""

    whose: Whose = "mine"
    kind: str = ""
    view: KeptView = ""


@dataclass(frozen=True, slots=True)
class Reach:
    """What of the in-tray somebody reaches, on which its statements depend besides parameters: as reviewer or officer, limited to which kinds,
    standing in for others."""

    reviewer: bool
    kinds: tuple[str, ...]
    stands_in: bool

    @property
    def here(self) -> Wanted:
        """The cases that lie in this in-tray at all."""
        return [Case.tray == ("review" if self.reviewer else "intake"), *visible_in_office(self.reviewer, self.kinds)]

    def whose(self, whose: Whose) -> Wanted:
        """Those whose cases are looked at."""
        holder = Case.reviewer_id if self.reviewer else Case.officer_id
        if whose == "mine":
            mine = holder.in_(MINE) if self.stands_in else holder == ME
            if self.reviewer:  # what waits for the own word beside another reviewer
                to_sign = ToSignOff.person_id.in_(MINE) if self.stands_in else ToSignOff.person_id == ME
                return [or_(mine, Case.id.in_(select(ToSignOff.case_id).where(to_sign)))]
            return [mine]
        return [holder.is_(None)] if whose == "nobody's yet" else []

    def wanted(self, shown: Shown) -> Wanted:
        """What is shown."""
        of_kind = [Case.kind == KIND] if shown.kind else []
        return [*self.here, *self.whose(shown.whose), *in_view(shown.view), *of_kind]


def in_view(view: KeptView) -> Wanted:
    """What a kept view shows."""
    if view == "lapse this week":
        either = Case.waits.in_([True, False])  # so that the index by limits serves it
        return [either, Case.holder == "theirs", Case.limit_day <= WEEK]
    return [Case.state == OF_STATE[view]] if view else []


def in_group(group: Group) -> Wanted:
    """As :func:`jolly_clerk.core.urgency.group_of` says it, over columns."""
    if group == "waiting":
        return [Case.waits == true()]
    out = or_(and_(Case.holder != "ours", Case.limit_day <= LAST_IN_DAYS), and_(Case.holder == "ours", Case.limit_day <= LAST))
    if group == "running out":
        return [Case.waits == false(), out]
    at_once = Case.at_once == (true() if group == "at once" else false())
    return [Case.waits == false(), or_(Case.limit_day.is_(None), ~out), at_once, Case.sort_at > NOT_BEFORE]


#: as many statements of each sort are kept as offices have roles, views and sets of kinds
KEPT = 512
#: what is counted: all that is shown, what of it lapses this week, what runs out, and each list whole
COUNTED = ("shown", "lapsing", "running out", *get_args(Whose))


@functools.lru_cache(KEPT)
def _standings(reach: Reach, whose: Whose, lapsing: bool) -> CompoundSelect[*tuple[Any, ...]]:
    """How many cases stand how, each by its place in :data:`COUNTED`; what runs out is of what lapses if that is shown. The list that is
    shown is not counted whole once more.

    What is few is found first, by its limits, and counted then; else the count goes along its index.
    """
    several = whose != "everyone's" and (reach.reviewer or (reach.stands_in and whose == "mine"))
    own = [*reach.here, *reach.whose(whose)]
    lapse = [*own, *in_view("lapse this week")]
    urgent = [*(lapse if lapsing else own), *in_group("running out"), Case.limit_day <= SOONEST]
    counts: list[Select[*tuple[Any, ...]]] = []
    for wanted, few in ((own, several), (lapse, True), (urgent, True)):
        by = select(Case.kind, Case.state, Case.waits, Case.at_once).where(*wanted)
        c = by.limit(MOST_CASES).subquery().c if few else by.selected_columns
        counting = select(literal(len(counts)), c[0], c[1], c[2], c[3], func.count()).group_by(c[0], c[1], c[2], c[3])
        counts.append(counting if few else counting.where(*wanted))
    for name in get_args(Whose):
        if name == whose:
            continue
        whole = select(literal(COUNTED.index(name)), literal(""), literal(""), false(), false(), func.count()).select_from(Case)
        counts.append(whole.where(*reach.here, *reach.whose(name)))
    return union_all(*counts)


@functools.lru_cache(KEPT)
def _first_pages(reach: Reach, shown: Shown, groups: tuple[Group, ...]) -> Select[*tuple[Any, ...]]:
    """The first page of each of these groups, and one row more of each, which tells that there is a next one."""
    pages = [
        SHOWN.add_columns(literal(group).label("group"))
        .where(*reach.wanted(shown), *in_group(group))
        .order_by(Case.sort_at, Case.reference)
        .limit(PAGE + 1)
        .subquery()
        for group in groups
    ]
    return _with_people(union_all(*(select(page) for page in pages)).subquery())


def _with_people(page: Subquery) -> Select[*tuple[Any, ...]]:
    """A page in its order, with the names of its people, and when whoever looks opened each case last."""
    applicant, officer = aliased(Person), aliased(Person)
    opened = select(func.max(CaseRead.at)).where(CaseRead.case_id == page.c.id, CaseRead.person_id == ME).scalar_subquery()
    found = select(page, applicant.name.label("applicant_name"), officer.name.label("officer_name"), opened.label("opened_at"))
    found = found.outerjoin(applicant, applicant.id == page.c.applicant_id).outerjoin(officer, officer.id == page.c.officer_id)
    return found.order_by(page.c.sort_at, page.c.reference)


@functools.lru_cache(KEPT)
def _next_page(reach: Reach, shown: Shown, group: Group) -> Select[*tuple[Any, ...]]:
    return SHOWN.where(*reach.wanted(shown), *in_group(group)).order_by(Case.sort_at, Case.reference).limit(PAGE + 1)


@functools.lru_cache(KEPT)
def _plainly(columns: tuple[str, ...]) -> Callable[[Iterable[object]], tuple[Any, ...]]:
    """What makes a row with these columns a plain tuple with their names, whose fields are read ten times as fast as the library's."""
    listed: Any = namedtuple("Listed", columns)  # type: ignore[misc]  # its names are known when it runs
    make: Callable[[Iterable[object]], tuple[Any, ...]] = listed._make
    return make


@dataclass(frozen=True, slots=True)
class Counts:
    """How many cases there are: in each list, of each kind, in each kept view, in each group."""

    whose: dict[str, int]
    kinds: Counter[str]
    views: dict[str, int]
    groups: Counter[Group]


class TrayLists:
    """The in-tray of a person today, in a session of the caller: nothing here reads more rows than it shows.

    Raises NotAllowed for whoever has none.
    """

    def __init__(self, office: Office, session: Session, who: Who) -> None:
        if not who.sees_all:
            raise NotAllowed(say("The in-tray belongs to the officers."))
        self.session, self.who, self.calendar = session, who, office_calendar(office, session)
        self.today = self.calendar.local_day(office.now())
        self._names, self._opened = dict[str, str](), dict[str, datetime | None]()
        others = stands_in_for(session, who, self.today)
        self.reach = Reach(who.may.moves == "reviewer", tuple(who.kinds), bool(others))
        last, last_in_days = running_out_until(self.today, self.calendar)
        days = {"last": last, "last_in_days": last_in_days, "soonest": max(last, last_in_days), "week": week_from(self.today)}
        not_before = soonest_that_does_not_run_out(last, last_in_days)
        self.values: dict[str, str | date | list[str]] = {
            "me": who.id,
            "mine": [who.id, *others],
            "not_before": not_before,
            **days,
        }

    def _sent(
        self, statement: Select[*tuple[Any, ...]] | CompoundSelect[*tuple[Any, ...]], kind: str
    ) -> CursorResult[*tuple[Any, ...]]:
        """The answer to a statement, past the session: these rows are looked at and never changed."""
        return self.session.connection().execute(statement, {**self.values, "kind": kind})

    def _found(self, statement: Select[*tuple[Any, ...]] | CompoundSelect[*tuple[Any, ...]], kind: str = "") -> Sequence[Any]:
        """What a statement finds."""
        return self._sent(statement, kind).all()

    def counts(self, shown: Shown) -> Counts:
        """By whose, by kind, by kept view and by group. Each is counted along an index; only what is urgent is looked at by its day."""
        found = {name: Counter[Standing]() for name in COUNTED}
        standings = _standings(self.reach, shown.whose, shown.view == "lapse this week")
        for n, kind, state, waits, quick, count in self._found(standings):
            found[COUNTED[n]][str(kind), str(state), bool(waits), bool(quick)] = int(count)
        every, lapsing, soon = found["shown"], found["lapsing"], found["running out"]
        found[shown.whose] = every
        shown_now = lapsing if shown.view == "lapse this week" else every
        kinds = Counter[str]()
        for (kind, *_), n in every.items():
            kinds[kind] += n

        def of(found: Counter[Standing], *states: str, waits: bool | None = None, at_once: bool | None = None) -> int:
            return sum(
                n
                for (kind, state, waiting, quick), n in found.items()
                if shown.kind in ("", kind)
                and (not states or state in states)
                and waits in (None, waiting)
                and at_once in (None, quick)
            )

        views: dict[str, int] = {name: of(lapsing) if name == "lapse this week" else of(every, OF_STATE[name]) for name in VIEWS}
        wanted = (OF_STATE[shown.view],) if shown.view in OF_STATE else ()
        groups = Counter[Group]({"running out": of(soon, *wanted), "waiting": of(shown_now, *wanted, waits=True)})
        groups["at once"] = of(shown_now, *wanted, waits=False, at_once=True) - of(soon, *wanted, at_once=True)
        groups["ready"] = of(shown_now, *wanted, waits=False, at_once=False) - of(soon, *wanted, at_once=False)
        return Counts({name: found[name].total() for name in get_args(Whose)}, kinds, views, groups)

    def first_pages(self, shown: Shown, groups: Sequence[Group]) -> dict[Group, tuple[list[Case], str]]:
        """The first cases of each of these groups in order of their limits, and where its next page begins."""
        found: dict[Group, list[Case]] = {group: [] for group in groups}
        for row in self._page(_first_pages(self.reach, _kind_apart(shown), tuple(groups)), shown.kind) if groups else ():
            found[row.group].append(cast(Case, row))
        return {group: cut(cases, (Case.sort_at, Case.reference)) for group, cases in found.items()}

    def next_page(self, shown: Shown, group: Group, after: str) -> tuple[list[Case], str]:
        """The cases of a group that follow a place in it, and where the page after begins. Raises Invalid for a place that is none."""
        key = (Case.sort_at, Case.reference)
        found = _with_people(beyond(_next_page(self.reach, _kind_apart(shown), group), key, after).subquery())
        return cut(cast(list[Case], list(self._page(found, shown.kind))), key)

    def every(self, shown: Shown, most: int) -> list[Case]:
        """All cases that are shown, in order of their limits; at most so many."""
        found = SHOWN.where(*self.reach.wanted(shown)).order_by(Case.sort_at, Case.reference).limit(most)
        return cast(list[Case], list(self._found(found, shown.kind)))

    def _page(self, statement: Select[*tuple[Any, ...]], kind: str) -> Sequence[Any]:
        """The rows of pages; of their people and of who opened them is taken note."""
        result = self._sent(statement, kind)
        found: list[Any] = list(map(_plainly(tuple(result.keys())), result))
        for row in found:
            self._names[row.applicant_id], self._names[row.officer_id or ""] = row.applicant_name or "", row.officer_name or ""
            self._opened[row.id] = row.opened_at
        return found

    def rows(self, cases: Sequence[Case]) -> tuple[Row, ...]:
        """The rows of the cases of pages, with the names of their people, and in which of them others did something since one looked."""
        names, opened = self._names, self._opened
        return tuple(
            row_of(c, names, self.calendar, self.today, officer=True, news=has_news(c, self.who, opened[c.id])) for c in cases
        )


def _kind_apart(shown: Shown) -> Shown:
    """The same part of any kind, so that one statement serves all kinds."""
    return Shown(shown.whose, "any" if shown.kind else "", shown.view)
