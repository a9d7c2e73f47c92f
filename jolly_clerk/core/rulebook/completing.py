"""What may stand at a place of an edition that is being typed: the keys of the schema there, and the few words of a choice.

The place is found by the indents alone, so that it is found in a text that is not whole yet.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

from jolly_clerk.core.rulebook.model import edition_schema

_KEY = re.compile(r"^(\s*)((?:- )*)([\w-]+):(?:\s|$)")
#: a key that was typed, within braces or on a line of its own
_INNER = re.compile(r"[{,]\s*([\w-]+):\s*([^{}\[\],]*)$")


@dataclass(frozen=True, slots=True)
class Completion:
    """Something that may stand here: the word, whether it is a key, and what the schema says of it."""

    word: str
    key: bool
    about: str


def completions(text: str, line: int, column: int) -> list[Completion]:
    """What may stand at a line (from 1) and column (from 0) of an edition; nothing where anything may."""
    lines = text.splitlines() or [""]
    line = min(max(line, 1), len(lines))
    before = lines[line - 1][:column]
    path = [*_above(lines, line, before)]
    key, inner = _typed(before)
    if inner:
        path.append(inner)
    schema = _at(path)
    if key:
        told = _property(schema, key)
        return [Completion(word, False, "") for word in _choices(told)] if told else []
    return [Completion(name, True, _about(said)) for name, said in _properties(schema).items()]


def _typed(before: str) -> tuple[str, str]:
    """The key whose value is being typed, and, within braces, the key that these are the value of."""
    within = ""
    opened = before.rfind("{")
    if opened > before.rfind("}"):
        found = re.search(r"([\w-]+):\s*\[?\s*(?:\{[^{}]*\},\s*)*$", before[:opened])
        within = found[1] if found else ""
        typed = _INNER.search(before[opened:])
        return (typed[1] if typed else ""), within
    found = _KEY.match(before)
    return found[3] if found else "", ""


def _above(lines: list[str], line: int, before: str) -> Iterator[str]:
    """The keys that the line stands under, the outermost first."""
    depth = _depth(before) if before.strip() else len(before)
    if before.strip() and not _KEY.match(before) and not before.lstrip().startswith("- "):
        depth = len(before) - len(before.lstrip())
    found: list[str] = []
    for n in range(line - 2, -1, -1):
        key = _KEY.match(lines[n])
        if not key:
            continue
        own = len(key[1]) + len(key[2])
        if len(key[1]) < depth and own < depth:
            found.append(key[3])
            depth = own
        elif key[2] and len(key[1]) < depth <= own:
            depth = len(key[1]) + 1  # another key of the same item: go on above its dash
    yield from reversed(found)


def _depth(before: str) -> int:
    key = _KEY.match(before)
    if key:
        return len(key[1]) + len(key[2]) if not key[2] else len(key[1]) + 1
    return len(before) - len(before.lstrip()) + (1 if before.lstrip().startswith("- ") else 0)


@cache
def _schema() -> Mapping[str, Any]:
    return edition_schema()


def _at(path: list[str]) -> Mapping[str, Any]:
    """The schema of an object at a path of keys; positions in lists are passed over."""
    here = _schema()
    for key in path:
        here = _object(_property(here, key) or {})
    return here


def _object(said: Mapping[str, Any]) -> Mapping[str, Any]:
    """The object that a schema is of, or a list of, or a map to."""
    while True:
        if "$ref" in said:
            said = _schema()["$defs"][str(said["$ref"]).rpartition("/")[2]]
        elif "anyOf" in said:
            said = next((one for one in said["anyOf"] if one.get("type") != "null"), {})
        elif "items" in said:
            said = said["items"]
        else:
            return said


def _properties(said: Mapping[str, Any]) -> Mapping[str, Any]:
    found: Mapping[str, Any] = _object(said).get("properties", {})
    return found


def _property(said: Mapping[str, Any], key: str) -> Mapping[str, Any] | None:
    own = _object(said)
    found: Mapping[str, Any] | None = own.get("properties", {}).get(key)
    maps = [own.get("additionalProperties"), *own.get("patternProperties", {}).values()]  # a map whose keys are ids
    return found if found is not None else next((said for said in maps if isinstance(said, dict)), None)


def _choices(said: Mapping[str, Any]) -> tuple[str, ...]:
    """The words of a choice."""
    own = _object(said)
    if own.get("type") == "boolean":
        return ("yes", "no")
    words = own.get("enum", [own["const"]] if "const" in own else [])
    return tuple(str(word) for word in words)


def _about(said: Mapping[str, Any]) -> str:
    """The first sentence of what the schema says."""
    text = " ".join(str(_object(said).get("description", "")).split())
    return text.partition(". ")[0][:200]
