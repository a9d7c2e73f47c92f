"""Figures of an office over its cases: tables with what is drawn of them. No figure is about a person but how much each officer has."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from typing import Literal

from jolly_clerk.core.in_words import short_day
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import DAY

FigureId = Literal["open", "load", "first look", "points", "days", "runs out", "taken", "to come"]
Cell = str | int | Decimal
#: what is told of the weeks to come
WEEKS = 8


@dataclass(frozen=True, slots=True)
class Figure:
    """A table: its columns, its rows, and which columns (from 0) are drawn as bars over the first one."""

    id: FigureId
    title: str
    about: str
    columns: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]
    drawn: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class OpenCase:
    """An open case: its kind, who has it, when it was filed, who holds it, and the nearest limit."""

    kind: str
    officer: str
    filed: date
    ours: bool
    limit: date | None


@dataclass(frozen=True, slots=True)
class Letter:
    """A correction letter: its case, and the requirements that it asked by id with their titles."""

    case: str
    round: int
    asked: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class Amount:
    """Money of a day: what came in, or what is owed by then."""

    on: date
    amount: Decimal


def share(part: int, whole: int) -> int:
    """A part in percent of a whole, to the nearest whole number; 0 of nothing."""
    return int((Decimal(100 * part) / whole).quantize(Decimal(1), ROUND_HALF_UP)) if whole else 0


def open_by_kind(cases: Iterable[OpenCase], titles: Mapping[str, str], today: date) -> Figure:
    """How many cases are open, and how long the oldest of them is."""
    rows = _open_rows(cases, lambda case: titles.get(case.kind, case.kind), today)
    columns = say("Kind"), say("Open"), say("With the office"), say("With the applicant"), say("Days since the oldest was filed")
    return Figure("open", say("Open cases by kind"), say("As they stand now."), columns, rows, (2, 3))


def load_by_officer(cases: Iterable[OpenCase], today: date) -> Figure:
    """How much each officer has."""
    rows = _open_rows(cases, lambda case: case.officer or say("nobody"), today)
    columns = (
        say("Officer"),
        say("Open"),
        say("With the office"),
        say("With the applicant"),
        say("Days since the oldest was filed"),
    )
    return Figure("load", say("Open cases by officer"), say("As they stand now."), columns, rows, (2, 3))


def _open_rows(cases: Iterable[OpenCase], called: object, today: date) -> tuple[tuple[Cell, ...], ...]:
    found: dict[str, list[OpenCase]] = defaultdict(list)
    for case in cases:
        found[called(case)].append(case)  # type: ignore[operator]
    return tuple(
        (name, len(own), sum(c.ours for c in own), sum(not c.ours for c in own), max((today - c.filed).days for c in own))
        for name, own in sorted(found.items())
    )


def at_first_look(accepted: Mapping[str, str], asked: Iterable[str], titles: Mapping[str, str]) -> Figure:
    """How many of the cases that became complete were so without a letter. ``accepted`` are their kinds by case, ``asked`` the cases to which
    a letter ever went."""
    wrote, found = set(asked), defaultdict[str, list[bool]](list)
    for case, kind in accepted.items():
        found[titles.get(kind, kind)].append(case not in wrote)
    rows = tuple((kind, len(own), sum(own), share(sum(own), len(own))) for kind, own in sorted(found.items()))
    columns = say("Kind"), say("Complete"), say("At first look"), say("In percent")
    return Figure(
        "first look", say("Complete at first look"), say("Of the cases found complete in this time."), columns, rows, (3,)
    )


def common_points(letters: Sequence[Letter], most: int = 15) -> Figure:
    """What is asked most often, and how often it had to be asked again in the same case."""
    asked, again, titles = Counter[str](), Counter[str](), dict[str, str]()
    seen: set[tuple[str, str]] = set()
    for letter in sorted(letters, key=lambda one: (one.case, one.round)):
        for id_, title in letter.asked:
            asked[id_] += 1
            again[id_] += (letter.case, id_) in seen
            seen.add((letter.case, id_))
            titles[id_] = title
    rows = tuple((titles[id_], n, again[id_]) for id_, n in sorted(asked.items(), key=lambda pair: (-pair[1], pair[0]))[:most])
    columns = say("Requirement"), say("Asked"), say("Asked again")
    about = say("Points of the letters of this time; asked again counts those that an earlier letter of the same case had asked.")
    return Figure("points", say("Commonest points"), about, columns, rows, (1, 2))


def days_of_each_side(ribbons: Mapping[str, Sequence[Mapping[str, int]]]) -> Figure:
    """How many days the office, the applicant and others held the cases that were decided, on average. ``ribbons`` are the days by holder of
    each case, by kind."""
    rows: list[tuple[Cell, ...]] = []
    for kind, own in sorted(ribbons.items()):
        mean = [_mean([one.get(side, 0) for one in own]) for side in ("ours", "theirs", "a third party's")]
        rows.append((kind, len(own), *mean))
    columns = say("Kind"), say("Decided"), say("Days with the office"), say("Days with the applicant"), say("Days with others")
    about = say("Of the cases decided in this time, on average; every calendar day counts.")
    return Figure("days", say("Days of each side"), about, columns, tuple(rows), (2, 3, 4))


def _mean(values: Sequence[int]) -> Decimal:
    return (Decimal(sum(values)) / len(values)).quantize(Decimal("0.1"), ROUND_HALF_UP) if values else Decimal(0)


def runs_out(cases: Iterable[OpenCase], today: date) -> Figure:
    """How many limits run out in each of the weeks to come; the first row has those that are past."""
    found: dict[date, list[bool]] = {monday: [] for monday in _weeks(today)}
    past: list[bool] = []
    for case in cases:
        if case.limit is not None and case.limit < today:
            past.append(case.ours)
        elif case.limit is not None and (monday := _monday(case.limit)) in found:
            found[monday].append(case.ours)
    whole = [(say("past"), past), *((short_day(monday), own) for monday, own in found.items())]
    rows = tuple((name, sum(own), len(own) - sum(own)) for name, own in whole)
    columns = say("Week from"), say("Limits of the office"), say("Limits of applicants")
    return Figure("runs out", say("What runs out"), say("The nearest limit of each open case."), columns, rows, (1, 2))


def taken(amounts: Iterable[Amount], back: Iterable[Amount], owed: Iterable[Amount]) -> Figure:
    """What came in and went back in each month, and what is still owed of it by its last day."""
    came, gone, due = _by_month(amounts), _by_month(back), _by_month(owed)
    months = sorted({*came, *gone, *due})
    zero = Decimal("0.00")
    rows = tuple((month, came.get(month, zero), gone.get(month, zero), due.get(month, zero)) for month in months)
    columns = say("Month"), say("Taken"), say("Gone back"), say("Still owed")
    about = say("By the day on which money counts, left the office, or was to be paid.")
    return Figure("taken", say("Money taken and money due"), about, columns, rows, (1, 3))


def to_come(owed: Iterable[Amount], today: date) -> Figure:
    """What is to be paid in each of the weeks to come."""
    found = dict.fromkeys(_weeks(today), Decimal("0.00"))
    for one in owed:
        if (monday := _monday(one.on)) in found:
            found[monday] += one.amount
    rows = tuple((short_day(monday), amount) for monday, amount in found.items())
    return Figure(
        "to come", say("Money to come"), say("What is owed, by its last day."), (say("Week from"), say("To be paid")), rows, (1,)
    )


def _monday(day: date) -> date:
    return day - day.weekday() * DAY


def _weeks(today: date) -> list[date]:
    return [_monday(today) + 7 * n * DAY for n in range(WEEKS)]


def _by_month(amounts: Iterable[Amount]) -> dict[str, Decimal]:
    found: dict[str, Decimal] = {}
    for one in amounts:
        month = f"{one.on:%Y-%m}"
        found[month] = found.get(month, Decimal("0.00")) + one.amount
    return found
