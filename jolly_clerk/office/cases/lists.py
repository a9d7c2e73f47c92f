"""The lists people work from: the officer's in-tray and the applicant's cases."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal, get_args

from sqlalchemy import ColumnElement, and_, false, func, literal, not_, or_, select, true, union_all
from sqlalchemy.orm import Session

from jolly_clerk.core.say import say, spoken_language
from jolly_clerk.core.searching import sought
from jolly_clerk.core.states import State
from jolly_clerk.core.urgency import (
    RUNNING_OUT,
    Group,
    Place,
    running_out_until,
    week_from,
)
from jolly_clerk.office.cases.casework import assessed
from jolly_clerk.office.cases.rows import PAGE as PAGE
from jolly_clerk.office.cases.rows import SHOWN, columns_of_page, has_news, looks_of, page_of, people_of, row_of
from jolly_clerk.office.cases.rows import Row as Row
from jolly_clerk.office.cases.seeing import visible
from jolly_clerk.office.desk.waiting import WordView, words_for
from jolly_clerk.office.errors import NotAllowed
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.absences import stands_in_for
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.rules.rulebooks import kinds, office_calendar
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session
from jolly_clerk.store.running import ToSignOff
from jolly_clerk.store.searching import matching
from jolly_clerk.store.tables import Case

Whose = Literal["mine", "nobody's yet", "everyone's"]
KeptView = Literal["", "answers came back", "paid, unread", "lapse this week", "to hand over"]
#: the lists that are kept at hand, each by the state that it shows
OF_STATE: dict[KeptView, State] = {"answers came back": "Answers came back", "paid, unread": "Filed", "to hand over": "Complete"}


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


GROUPS: tuple[Group, ...] = ("running out", "at once", "ready", "waiting")
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
#: a kind, a state, whether the applicant is waited for, and whether it is finished at once
Standing = tuple[str, str, bool, bool]


class TrayLists:
    """The in-tray of a person today, as conditions of SQL: nothing here reads more rows than it shows."""

    def __init__(self, office: Office, who: Who) -> None:
        if not who.sees_all:
            raise NotAllowed(say("The in-tray belongs to the officers."))
        self.office, self.who, self.now, self.calendar = office, who, office.now(), office_calendar(office)
        self.today = self.calendar.local_day(self.now)
        self.reviewer = who.may.moves == "reviewer"
        with read_session(office.engine) as session:
            self.mine = [who.id, *stands_in_for(session, who, self.today)]
        self.here = and_(Case.tray == ("review" if self.reviewer else "intake"), *visible(who))

    def whose(self, whose: Whose) -> Wanted:
        holder = Case.reviewer_id if self.reviewer else Case.officer_id
        mine: ColumnElement[bool] = holder.in_(self.mine) if len(self.mine) > 1 else holder == self.who.id
        if self.reviewer:  # what waits for the own word beside another reviewer
            mine = or_(mine, Case.id.in_(select(ToSignOff.case_id).where(ToSignOff.person_id.in_(self.mine))))
        owned: dict[Whose, Wanted] = {
            "mine": [mine],
            "nobody's yet": [holder.is_(None)],
            "everyone's": [],
        }
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
        at_once = Case.at_once == (true() if group == "at once" else false())
        return [Case.waits == false(), or_(Case.limit_day.is_(None), not_(out)), at_once]

    def counts(self, session: Session, shown: Shown) -> tuple[dict[str, int], Counter[str], dict[str, int], Counter[Group]]:
        """By whose, by kind, by kept view and by group. Each is counted along an index; only what is urgent is looked at by its day."""

        numbers = [select(func.count()).select_from(Case).where(self.here, *self.whose(name)) for name in get_args(Whose)]
        asked = session.execute(select(*(one.scalar_subquery() for one in numbers))).one()
        whose: dict[str, int] = dict(zip(get_args(Whose), asked, strict=True))
        own = [self.here, *self.whose(shown.whose)]
        lapse = [*own, *self.view("lapse this week")]
        soonest = Case.limit_day <= max(running_out_until(self.today, self.calendar))  # so that the index by limits serves it
        urgent = [*(lapse if shown.view == "lapse this week" else own), *self.group("running out"), soonest]
        mine = shown.whose != "everyone's"
        every, lapsing, soon = self.counted(session, (own, mine), (lapse, True), (urgent, True))
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
        return whose, kinds, views, groups

    def counted(self, session: Session, *lists: tuple[Wanted, bool]) -> list[Counter[Standing]]:
        """How many cases of each list stand how. Of a list with ``few`` they are found first, by their limits, and counted then; else the
        count goes along its index."""
        counts = []
        for n, (wanted, few) in enumerate(lists):
            by = select(Case.kind, Case.state, Case.waits, Case.at_once).where(*wanted)
            c = by.limit(MOST_CASES).subquery().c if few else by.selected_columns
            counting = select(literal(n), c[0], c[1], c[2], c[3], func.count()).group_by(c[0], c[1], c[2], c[3])
            counts.append(counting if few else counting.where(*wanted))
        found: list[Counter[Standing]] = [Counter() for _ in lists]
        for n, kind, state, waits, quick, count in session.execute(union_all(*counts)).tuples():
            found[n][str(kind), str(state), bool(waits), bool(quick)] = int(count)
        return found

    def page(self, session: Session, shown: Shown, group: Group, after: str = "") -> tuple[list[Case], str]:
        """Cases of a group in order of their limits, from a place on; and where the next page begins."""
        wanted = [self.here, *self.whose(shown.whose), *self.view(shown.view), *self.group(group)]
        wanted += [Case.kind == shown.kind] if shown.kind else []
        found = SHOWN.where(*wanted).order_by(Case.sort_at, Case.reference)
        return columns_of_page(session, found, (Case.sort_at, Case.reference), after)

    def rows(self, cases: Sequence[Case], names: dict[str, str], looks: dict[str, datetime]) -> tuple[Row, ...]:
        """The rows of cases, with the names of their people, and in which of them others did something since one looked."""
        return tuple(
            row_of(c, names, self.calendar, self.now, officer=True, news=has_news(c, self.who, looks.get(c.id))) for c in cases
        )


VIEWS: tuple[KeptView, ...] = ("answers came back", "paid, unread", "lapse this week", "to hand over")


def tray(office: Office, who: Who, whose: Whose, kind: str = "", view: KeptView = "") -> Tray:
    """The in-tray of an officer, or of a reviewer what was handed over. Raises NotAllowed for other roles."""
    lists, shown = TrayLists(office, who), Shown(whose, kind, view)
    with read_session(office.engine) as session:
        counts, kinds_, views, groups = lists.counts(session, shown)
        found = {group: lists.page(session, shown, group) if groups[group] else ([], "") for group in GROUPS}
        every = [one for cases, _ in found.values() for one in cases]
        names, looks = names_in(session, people_of(every)), looks_of(session, who, every)
    pages = [GroupPage(group, groups[group], lists.rows(cases, names, looks), after) for group, (cases, after) in found.items()]
    titles = {r.edition.kind: r.edition.title for r in kinds(office, lists.today)}
    return Tray(
        whose,
        counts,
        tuple(KindCount(k, titles.get(k, k), n) for k, n in sorted(kinds_.items())),
        {} if lists.reviewer else views,
        groups["running out"] + groups["at once"] + groups["ready"],
        groups["running out"],
        RUNNING_OUT,
        tuple(pages),
        words_for(office, who) if whose == "mine" and not kind and not view else (),
    )


def more_of_tray(office: Office, who: Who, shown: Shown, group: Group, after: str) -> GroupPage:
    """The next page of a group of the in-tray. Raises Invalid for a place that is none."""
    lists = TrayLists(office, who)
    with read_session(office.engine) as session:
        cases, onwards = lists.page(session, shown, group, after)
        names, looks = names_in(session, people_of(cases)), looks_of(session, who, cases)
        return GroupPage(group, lists.counts(session, shown)[3][group], lists.rows(cases, names, looks), onwards)


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
    cases, onwards = page_of(session, own, (by, Case.reference), after, down=down) if count else ([], "")
    return PlacePage(place, count, own_rows(office, session, cases), onwards)


def own_rows(office: Office, session: Session, cases: Sequence[Case]) -> tuple[Row, ...]:
    """Cases as their applicant sees them in a list."""
    calendar, names = office_calendar(office, session), names_in(session, people_of(cases))
    rows = tuple(row_of(c, names, calendar, office.now(), officer=False) for c in cases)
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
        names = names_in(session, people_of(cases))
    return tuple(row_of(c, names, calendar, now, officer=True) for c in cases)
