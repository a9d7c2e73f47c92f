"""The lists people work from: the officer's in-tray and the applicant's cases."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jolly_clerk.core.say import say, spoken_language
from jolly_clerk.core.searching import sought
from jolly_clerk.core.urgency import (
    RUNNING_OUT,
    Group,
    Place,
)
from jolly_clerk.office.cases.casework import assessed
from jolly_clerk.office.cases.in_tray import GROUPS, KeptView, Shown, TrayLists, Whose
from jolly_clerk.office.cases.rows import PAGE as PAGE
from jolly_clerk.office.cases.rows import Row as Row
from jolly_clerk.office.cases.rows import page_of, people_of, row_of
from jolly_clerk.office.cases.seeing import visible
from jolly_clerk.office.desk.waiting import WordView, words_for
from jolly_clerk.office.errors import NotAllowed
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.rules.rulebooks import kinds, office_calendar
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session
from jolly_clerk.store.searching import matching
from jolly_clerk.store.tables import Case


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


PLACES: tuple[Place, ...] = ("waiting", "running", "closed")


def tray(office: Office, who: Who, whose: Whose, kind: str = "", view: KeptView = "") -> Tray:
    """The in-tray of an officer, or of a reviewer what was handed over. Raises NotAllowed for other roles."""
    shown = Shown(whose, kind, view)
    with read_session(office.engine) as session:
        lists = TrayLists(office, session, who)
        counts = lists.counts(shown)
        groups = counts.groups
        found = lists.first_pages(shown, [group for group in GROUPS if groups[group]])
        titles = {r.edition.kind: r.edition.title for r in kinds(office, lists.today, session)}
        words = words_for(office, who, session) if shown == Shown() else ()
    pages = {group: GroupPage(group, groups[group], lists.rows(cases), after) for group, (cases, after) in found.items()}
    return Tray(
        whose,
        counts.whose,
        tuple(KindCount(k, titles.get(k, k), n) for k, n in sorted(counts.kinds.items())),
        {} if lists.reach.reviewer else counts.views,
        groups["running out"] + groups["at once"] + groups["ready"],
        groups["running out"],
        RUNNING_OUT,
        tuple(pages.get(group) or GroupPage(group, groups[group], (), "") for group in GROUPS),
        words,
    )


def more_of_tray(office: Office, who: Who, shown: Shown, group: Group, after: str) -> GroupPage:
    """The next page of a group of the in-tray. Raises Invalid for a place that is none."""
    with read_session(office.engine) as session:
        lists = TrayLists(office, session, who)
        cases, onwards = lists.next_page(shown, group, after)
        return GroupPage(group, lists.counts(shown).groups[group], lists.rows(cases), onwards)


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
    today = calendar.local_day(office.now())
    rows = tuple(row_of(c, names, calendar, today, officer=False) for c in cases)
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
    calendar = office_calendar(office)
    today = calendar.local_day(office.now())
    with read_session(office.engine) as session:
        ids = matching(session, wanted)
        found = {c.id: c for c in session.scalars(select(Case).where(Case.id.in_(ids), *visible(who)))}
        cases = [found[id_] for id_ in ids if id_ in found][:MOST_FOUND]
        names = names_in(session, people_of(cases))
    return tuple(row_of(c, names, calendar, today, officer=True) for c in cases)
