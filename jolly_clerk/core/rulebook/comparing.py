"""Two editions compared in words: what came, what went, what is said otherwise."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from jolly_clerk.core.rulebook.model import Edition
from jolly_clerk.core.say import _, say
from jolly_clerk.core.values import Value

_SECTIONS = {
    "parts": _("Parts"),
    "questions": _("questions"),
    "values": _("Computed answers"),
    "documents": _("Documents"),
    "must": _("Requirements"),
    "agree": _("Agreements"),
    "prerequisites": _("Prerequisites"),
    "lanes": _("Lanes"),
    "fees": _("Fees"),
    "then": _("changes"),
    "way_in": _("Way in"),
    "pathways": _("Pathways"),
    "reasons": _("Reasons"),
    "lists": _("Lists"),
    "tables": _("Tables"),
    "letters": _("Letters"),
    "clock": _("Clock"),
    "refunds": _("Refunds"),
    "after_grant": _("After the grant"),
    "public_register": _("Public register"),
    "inspections": _("Inspections"),
    "step": _("What it does"),
    "registers": _("Registers"),
    "signature": _("Declaration"),
    "declarations": _("Declarations"),
}
_KEYS = ("id", "slot", "line", "declare")
#: examples show what the rules do, translations and plain words what they are called; they are no rule
_LEFT_OUT = ("examples", "translations", "asked_as", "fits")


@dataclass(frozen=True, slots=True)
class Change:
    """One difference: where in words, and what it was and is (empty where there was nothing)."""

    kind: Literal["new", "gone", "otherwise", "order"]
    where: str
    was: str
    now: str

    def __str__(self) -> str:
        if self.kind == "new":
            return (
                say("{where}: new.", where=self.where)
                if not self.now
                else say("{where}: new, {now}.", where=self.where, now=self.now)
            )
        if self.kind == "gone":
            return say("{where}: gone.", where=self.where)
        if self.kind == "order":
            return say("{where}: stands in another order.", where=self.where)
        return say("{where}: was {was}, is {now}.", where=self.where, was=self.was, now=self.now)


def compare(before: Edition, after: Edition) -> list[Change]:
    """Every difference between two editions of a kind, in the order of the model."""
    old, new = before.model_dump(mode="json", by_alias=True), after.model_dump(mode="json", by_alias=True)
    for name in _LEFT_OUT:
        old.pop(name, None), new.pop(name, None)
    return list(_mapping((), old, new))


def _mapping(path: tuple[str, ...], old: Mapping[str, Any], new: Mapping[str, Any]) -> Iterator[Change]:
    for key in dict.fromkeys((*old, *new)):
        yield from _value((*path, say(_SECTIONS.get(key, key.replace("_", " ")))), old.get(key), new.get(key))


def _value(path: tuple[str, ...], old: Value, new: Value) -> Iterator[Change]:
    if old == new:
        return
    if isinstance(old, dict) and isinstance(new, dict):
        yield from _mapping(path, old, new)
    elif _keyed(old) and _keyed(new):
        yield from _items(path, old, new)
    elif _rows(old) and _rows(new):
        yield from _table(path, old, new)
    else:
        where = _where(path)
        if old in (None, [], "", False):
            yield Change("new", where, "", _said(new))
        elif new in (None, [], "", False):
            yield Change("gone", where, _said(old), "")
        else:
            yield Change("otherwise", where, _said(old), _said(new))


def _keyed(value: Value) -> bool:
    return isinstance(value, list) and all(isinstance(v, dict) and any(k in v for k in _KEYS) for v in value)


def _rows(value: Value) -> bool:
    return isinstance(value, list) and bool(value) and all(isinstance(v, dict) and "is" in v for v in value)


def _key(item: Mapping[str, Any]) -> str:
    return str(next(item[k] for k in _KEYS if k in item))


def _title(item: Mapping[str, Any]) -> str:
    return str(item.get("title") or item.get("ask") or _key(item))


def _items(path: tuple[str, ...], old: Sequence[Mapping[str, Any]], new: Sequence[Mapping[str, Any]]) -> Iterator[Change]:
    before, after = {_key(i): i for i in old}, {_key(i): i for i in new}
    for key, item in before.items():
        if key not in after:
            yield Change("gone", _where((*path, _title(item))), _title(item), "")
    for key, item in after.items():
        if key not in before:
            yield Change("new", _where((*path, _title(item))), "", "")
        else:
            yield from _mapping((*path, _title(before[key])), before[key], item)
    both = [k for k in before if k in after]
    if both != [k for k in after if k in before]:
        yield Change("order", _where(path), ", ".join(both), ", ".join(k for k in after if k in before))


def _table(path: tuple[str, ...], old: Sequence[Mapping[str, Any]], new: Sequence[Mapping[str, Any]]) -> Iterator[Change]:
    def by_row(rows: Sequence[Mapping[str, Any]]) -> dict[str, str]:
        return {", ".join(str(v) for k, v in row.items() if k != "is"): str(row["is"]) for row in rows}

    before, after = by_row(old), by_row(new)
    for key in dict.fromkeys((*before, *after)):
        yield from _value((*path, key), before.get(key), after.get(key))


def _where(path: tuple[str, ...]) -> str:
    return ", ".join(path)


def _said(value: Value) -> str:
    if isinstance(value, list):
        return "; ".join(_said(v) for v in value)
    if isinstance(value, dict):
        return ", ".join(f"{k.replace('_', ' ')} {_said(v)}" for k, v in value.items() if v not in (None, [], {}))
    text = " ".join(str(value).split())
    return f"“{text}”" if " " in text else text
