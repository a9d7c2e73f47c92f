"""Tables, scales and curves of an edition, made into functions that its rules call by name; and what is wrong with them."""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import date
from decimal import Decimal
from itertools import pairwise
from typing import Any

from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.compiled import Fault, Path
from jolly_clerk.core.rulebook.dates import Function
from jolly_clerk.core.rulebook.functions import as_text
from jolly_clerk.core.rulebook.model import Edition
from jolly_clerk.core.rulebook.tariff import Curve, Rung, Scale, Table
from jolly_clerk.core.say import say
from jolly_clerk.core.values import Value


def lookups(edition: Edition) -> tuple[dict[str, Function], list[Fault]]:
    """The functions by name, and every fault."""
    made: dict[str, Function] = {}
    faults: list[Fault] = []
    for name, table in edition.tables.items():
        made[name] = _table(name, table, faults)
    for name, scale in edition.scales.items():
        made[name] = _scale(name, scale, faults)
    for name, curve in edition.curves.items():
        made[name] = _curve(name, curve, faults)
    return made, faults


def read(text: str) -> tuple[Any, str]:
    """A cell as a value and its type: a number, a date, yes or no, else a text."""
    if text in ("yes", "no"):
        return text == "yes", types.YES_NO
    try:
        return Decimal(text), types.NUMBER
    except ArithmeticError:
        pass
    try:
        return date.fromisoformat(text), types.DATE
    except ValueError:
        return text, types.TEXT


def _values(said: Sequence[str], paths: Sequence[Path], faults: list[Fault]) -> tuple[list[Any], str]:
    """Cells of one column, all of one type; ``paths`` are their places."""
    found = [read(cell) for cell in said]
    kinds = {kind for _, kind in found}
    if len(kinds) > 1:
        most = Counter(kind for _, kind in found).most_common(1)[0][0]
        at, odd = next((path, cell) for path, cell, (_, kind) in zip(paths, said, found, strict=True) if kind != most)
        if most != types.TEXT:
            faults.append(Fault(at, _odd_cell(odd, most)))
            return [value if kind == most else Decimal(0) for value, kind in found], most
        return list(said), types.TEXT
    return [value for value, _ in found], next(iter(kinds), types.TEXT)


def _odd_cell(cell: str, most: str) -> str:
    if re.fullmatch(r"-?\d+,\d+", cell):
        return say("write `{right}`, with a point and not a comma", right=cell.replace(",", "."))
    told = say("“{cell}” is no {most}, as the others are; all are of one type", cell=cell, most=say(most))
    return told + (say(" (what costs nothing is `0`)") if most == types.NUMBER else "")


def _table(name: str, table: Table, faults: list[Fault]) -> Function:
    columns = {*table.of, "is"}
    rows: dict[tuple[str, ...], str] = {}
    at: dict[tuple[str, ...], Path] = {}
    path: Path = ("tables", name, "rows")
    for n, row in enumerate(table.rows):
        if set(row) != columns:
            others = ", ".join(f"`{c}`" for c in (*table.of, "is"))
            faults.append(Fault((*path, n), say("a row of this table has {others}, and nothing else", others=others)))
            continue
        key = tuple(_key(read(row[c])[0]) for c in table.of)
        if key in rows:
            faults.append(Fault((*path, n), say("the row for {key} stands twice", key=", ".join(key))))
        rows[key], at[key] = row["is"], (*path, n)
    otherwise = [table.otherwise] if table.otherwise is not None else []
    places = [*at.values(), *[("tables", name, "otherwise")] * len(otherwise)]
    values, kind = _values([*rows.values(), *otherwise], places, faults)
    takes = tuple(types.ANY if _plain(table, column) else types.TEXT for column in table.of)
    call = _look_up(table.title, dict(zip(rows, values, strict=False)), values[-1:] if otherwise else [])
    return Function(name, call, takes, kind, f"{name}({', '.join(table.of)})")


def _plain(table: Table, column: str) -> bool:
    """True if a column is written in numbers, dates or yes and no, so that it is looked up by such a value."""
    return all(read(row.get(column, ""))[1] != types.TEXT for row in table.rows)


def _key(value: Value) -> str:
    return "yes" if value is True else "no" if value is False else as_text(value)


def _look_up(title: str, rows: Mapping[tuple[str, ...], Any], otherwise: list[Any]) -> Callable[..., Any]:
    def look_up(*key: Value) -> Value:
        found = tuple(k if isinstance(k, str) else _key(k) for k in key)
        if found in rows:
            return rows[found]
        if otherwise:
            return otherwise[0]
        raise ValueError(say("the table “{title}” has no row for {keys}", title=title, keys=", ".join(found)))

    return look_up


def _scale(name: str, scale: Scale, faults: list[Fault]) -> Function:
    path: Path = ("scales", name, "steps")
    bounds = [rung.up_to if rung.up_to is not None else rung.below for rung in scale.steps]
    for n, bound in enumerate(bounds):
        if (bound is None) != (n == len(bounds) - 1):
            told = (
                say("the last step has no upper end: write `{{is: {value}}}` alone", value=scale.steps[n].is_)
                if bound is not None
                else say("this step has no upper end; those after it are never reached")
            )
            faults.append(Fault((*path, n), told))
            return Function(name, lambda _: None, (types.ANY,), types.ANY, name)
    places = [(*path, n) for n in range(len(bounds))]
    ends, kind = _values([b for b in bounds if b is not None], places[:-1], faults)
    if kind not in (types.NUMBER, types.DATE) and ends:
        faults.append(Fault(path, say("a step ends at a number or a date")))
    faults += [
        Fault((*path, n + 1), say("a step ends above {a}, where the one before ends; {b} is not", b=b, a=a))
        for n, (a, b) in enumerate(pairwise(ends))
        if not _rises(a, b, scale.steps[n], scale.steps[n + 1])
    ]
    values, gives = _values([rung.is_ for rung in scale.steps], places, faults)
    return Function(name, _climb(scale.steps, ends, values), (kind if ends else types.ANY,), gives, f"{name}(value)")


def _rises(a: Value, b: Value, first: Rung, second: Rung) -> bool:
    same = type(a) is type(b) and a == b
    return type(a) is type(b) and (a < b or (same and first.below is not None and second.up_to is not None))


def _climb(steps: Sequence[Rung], ends: Sequence[Any], values: Sequence[Any]) -> Callable[[Any], Any]:
    def climb(value: Value) -> Value:
        at = bisect_left(ends, value)
        while at < len(ends) and ends[at] == value and steps[at].below is not None:
            at += 1
        return values[at]

    return climb


def _curve(name: str, curve: Curve, faults: list[Fault]) -> Function:
    path: Path = ("curves", name)
    at = [point.at for point in curve.points]
    for n, (a, b) in enumerate(pairwise(at)):
        if b <= a:
            faults.append(Fault((*path, "points", n + 1), say("{b} is not above {a}, where the point before stands", b=b, a=a)))
    if curve.beyond != "level" and curve.beyond_adds is not None:
        faults.append(Fault((*path, "beyond"), say("say either `beyond` or `beyond_adds`")))
    return Function(name, _line(curve, at), (types.NUMBER,), types.NUMBER, f"{name}(number)")


def _line(curve: Curve, at: Sequence[Decimal]) -> Callable[[Decimal], Decimal]:
    points = curve.points

    def line(value: Decimal) -> Decimal:
        if value <= at[0]:
            return points[0].is_
        last = points[-1]
        if value > last.at and curve.beyond_adds is not None:
            return last.is_ + (value - last.at) * curve.beyond_adds
        if value >= last.at and curve.beyond == "level":
            return last.is_
        n = min(bisect_right(at, value), len(points) - 1)
        a, b = points[n - 1], points[n]
        return a.is_ + (b.is_ - a.is_) * (value - a.at) / (b.at - a.at)

    return line


def keys_of(edition: Edition) -> Iterator[tuple[str, set[tuple[str, ...]]]]:
    """For each table without an `otherwise`: the rows that it has, for the look at rows that are missing."""
    for name, table in edition.tables.items():
        if table.otherwise is None:
            yield name, {tuple(row[c] for c in table.of) for row in table.rows if all(c in row for c in table.of)}
