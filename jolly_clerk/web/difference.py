"""What differs between two states of a view, small enough to be sent with every key: JSON merge patches, with lists by identity.

A difference of objects is an object of what changed (RFC 7396: ``null`` takes a key away). A list whose members all have an
identity (``id``, ``no``, ``key``, ``place``, ``ref``, ``slot``) differs as ``{"$items": {identity: difference or member},
"$order": [identities]}``; ``$order`` is left out while it stays the same. Any other list is given whole, and so is what has another
type than before, as ``{"$value": ...}`` where it is an object or null.
"""

from __future__ import annotations

from typing import Any, Final

from jolly_clerk.core.values import Json

IDENTITIES: Final = ("id", "no", "key", "place", "ref", "slot", "move", "stage", "ending", "name", "text")
#: nothing differs
SAME: Final = object()


def identity(members: list[Any]) -> str | None:
    """The key by which the members of a list are told apart; None if there is none."""
    if not members or not all(isinstance(m, dict) for m in members):
        return None
    for key in IDENTITIES:
        if all(type(m.get(key)) in (str, int) for m in members) and len({str(m[key]) for m in members}) == len(members):
            return key
    return None


def difference(before: Json, after: Json) -> Json:
    """What turns one value into another; :data:`SAME` if nothing differs."""
    if before == after:
        return SAME
    if isinstance(before, dict) and isinstance(after, dict):
        return _of_objects(before, after)
    if isinstance(before, list) and isinstance(after, list):
        key = identity(before) if before else None
        if key and key == (identity(after) if after else None):
            return _of_lists(before, after, key)
    return {"$value": after} if after is None or isinstance(after, dict) else after


def _of_objects(before: dict[str, Any], after: dict[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = {key: None for key in before if key not in after}
    for key, value in after.items():
        own = difference(before[key], value) if key in before else _fresh(value)
        if own is not SAME:
            found[key] = own
    return found


def _fresh(value: Json) -> Json:
    return {"$value": value} if value is None or isinstance(value, dict) else value


def _of_lists(before: list[Any], after: list[Any], key: str) -> dict[str, Any]:
    old = {str(m[key]): m for m in before}
    items = {}
    for member in after:
        name = str(member[key])
        own = difference(old[name], member) if name in old else {"$value": member}
        if own is not SAME:
            items[name] = own
    order = [str(m[key]) for m in after]
    return {"$items": items} | ({"$order": order} if order != list(old) else {})


def applied(before: Json, change: Json) -> Json:
    """A value with a difference applied; the screen does the same in ``frontend/src/api/difference.ts``."""
    if not isinstance(change, dict):
        return change
    if "$value" in change:
        return change["$value"]
    if "$items" in change:
        key = identity(before)
        assert key is not None
        old = {str(m[key]): m for m in before}
        new = {name: applied(old.get(name), own) for name, own in change["$items"].items()}
        return [new.get(name, old.get(name)) for name in change.get("$order", list(old))]
    made = {key: value for key, value in before.items() if key not in change or change[key] is not None}
    return made | {key: applied(before.get(key), own) for key, own in change.items() if own is not None}
