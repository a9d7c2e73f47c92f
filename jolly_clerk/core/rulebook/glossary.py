"""The words of an edition for its workings: labels, units, choices, and how a table, a scale or a curve is told."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterator, Mapping
from decimal import Decimal
from typing import Any

from jolly_clerk.core.currency import decimals_of
from jolly_clerk.core.in_words import article_of, in_words, number
from jolly_clerk.core.rulebook import model as m
from jolly_clerk.core.rulebook.compiled import ComputedValue
from jolly_clerk.core.rulebook.tariff import Curve
from jolly_clerk.core.rulebook.telling import Glossary, Named
from jolly_clerk.core.rulebook.types import YES_NO
from jolly_clerk.core.say import say
from jolly_clerk.core.values import Value


def glossary(e: m.Edition, computed: Mapping[str, ComputedValue]) -> Glossary:
    """The words of an edition; ``computed`` are its computed answers by key."""
    names = dict(_asked(e))
    for key, node in computed.items():
        unit = node.value.unit or ""
        rule = node.rule.tree if node.rule.gives == YES_NO and node.value.limit is None else None
        names[key] = Named(node.value.title, "" if unit == e.currency else unit, rule=rule, functions=node.rule.functions)
    for line in e.fees:
        names[f"fee.{line.line}"] = Named(line.title)
        names[f"base.{line.line}"] = Named(say("{title}, before its changes", title=line.title))
    parts = {part.id: part.title for part in e.parts}
    return Glossary(names, parts, dict(_lookups(e)))


def _asked(e: m.Edition) -> Iterator[tuple[str, Named]]:
    lists = {name: {o.id: o.title for o in options} for name, options in e.lists.items()}
    for part in e.parts:
        yield f"{part.id}.position", Named(say("number of the repeat"))
        for q in part.questions:
            key = f"{part.id}.{q.id}"
            yield key, Named(_plain(q.ask), q.unit or "", lists.get(q.options or "", {}))
            for column in q.columns:
                yield f"{key}.{column.id}", Named(_plain(column.ask), column.unit or "", lists.get(column.options or "", {}))


def _plain(ask: str) -> str:
    return ask.rstrip("?: ")


def _lookups(e: m.Edition) -> Iterator[tuple[str, Callable[[list[Any], list[str]], str]]]:
    for name, table in e.tables.items():
        yield name, _table(table.title, table.article)
    for name, scale in e.scales.items():
        yield name, _table(scale.title, scale.article)
    for name, curve in e.curves.items():
        yield name, _curve(curve, decimals_of(e.currency))


def _table(title: str, article: str) -> Callable[[list[Any], list[str]], str]:
    def told(_given: list[Any], titles: list[str]) -> str:
        return say("{title}: {row}; {article}", title=title, row=", ".join(titles), article=article_of(article))

    return told


def _curve(curve: Curve, decimals: int) -> Callable[[list[Any], list[str]], str]:
    points = curve.points

    def told(given: list[Any], titles: list[str]) -> str:
        value: Value = given[0]
        at = bisect_right([p.at for p in points], value)
        head = say("{title}, {article}", title=curve.title, article=article_of(curve.article))
        if at == 0 or (at == len(points) and curve.beyond == "level" and curve.beyond_adds is None):
            end = points[0] if at == 0 else points[-1]
            return say("{head}: {amount} level at {value}", head=head, amount=_of(end.is_, decimals), value=titles[0])
        if at == len(points) and curve.beyond_adds is not None:
            last = points[-1]
            return say(
                "{head}: {amount} at {last}, and {adds} for each one more, at {value}",
                head=head, amount=_of(last.is_, decimals), last=in_words(last.at), adds=number(curve.beyond_adds), value=titles[0],
            )  # fmt: skip
        low, high = points[min(at, len(points) - 1) - 1], points[min(at, len(points) - 1)]
        return say(
            "{head}: from {low_amount} at {low} to {high_amount} at {high}, here at {value}",
            head=head, low_amount=_of(low.is_, decimals), low=in_words(low.at), high_amount=_of(high.is_, decimals),
            high=in_words(high.at), value=titles[0],
        )  # fmt: skip

    return told


def _of(amount: Decimal, decimals: int) -> str:
    exponent = amount.as_tuple().exponent
    return number(amount.quantize(Decimal(1).scaleb(-decimals)) if isinstance(exponent, int) and -exponent < decimals else amount)
