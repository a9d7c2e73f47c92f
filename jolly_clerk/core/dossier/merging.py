"""Two windows, one draft: which places a change touches, and a change made over an older state put onto the present one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Final

from jolly_clerk.core.dossier.model import Answers
from jolly_clerk.core.numbers import whole_number


class _Absent:
    """Nothing stands there."""

    def __repr__(self) -> str:
        return "nothing"


NOTHING: Final = _Absent()
#: what stood at a place, as it is kept in a log: a list with the value, or an empty one
Before = dict[str, list[Any]]


def places(answers: Answers) -> dict[str, Any]:
    """What stands at each place: ``works.area``, ``people.2.name``, and ``people.2`` for an item itself."""
    return dict(_places(answers))


def _places(answers: Answers) -> Iterator[tuple[str, Any]]:
    for part, given in answers.items():
        if isinstance(given, dict):
            yield from ((f"{part}.{question}", raw) for question, raw in given.items())
        elif isinstance(given, list) and all(isinstance(item, dict) for item in given):
            for position, item in enumerate(given, 1):
                number = item.get("id", position)
                yield f"{part}.{number}", True
                yield from ((f"{part}.{number}.{question}", raw) for question, raw in item.items() if question != "id")
        else:
            yield part, given


def touched(before: Answers, after: Answers) -> Before:
    """The places at which two states differ, with what stood there before."""
    old, new = places(before), places(after)
    return {
        place: [old[place]] if place in old else []
        for place in {**old, **new}
        if old.get(place, NOTHING) != new.get(place, NOTHING)
    }


@dataclass(frozen=True, slots=True)
class Merged:
    """The answers put together, and the places at which both sides changed the same thing."""

    answers: Answers
    conflicts: tuple[str, ...]


def merge(mine: Answers, now: Answers, since: Mapping[str, list[Any]]) -> Merged:
    """Put ``mine``, made over an older state, onto ``now``.

    ``since`` are the places changed in between, with what stood there in the state that was seen. A place that was changed in
    between and left alone in ``mine`` stays as it is now; one that both changed, each otherwise, is a conflict.
    """
    wanted, present = places(mine), places(now)
    conflicts, keep = list[str](), set[str]()
    for place, seen in since.items():
        ours = wanted.get(place, NOTHING)
        if ours == (seen[0] if seen else NOTHING):
            keep.add(place)
        elif ours != present.get(place, NOTHING):
            conflicts.append(place)
    conflicts += _items_in_doubt(wanted, present, since, keep)
    if not keep:
        return Merged(mine, tuple(sorted(set(conflicts))))
    whole = {place: raw for place, raw in wanted.items() if place not in keep}
    whole |= {place: present[place] for place in keep if place in present}
    return Merged(_rebuilt(whole, mine, now), tuple(sorted(set(conflicts))))


def _items_in_doubt(
    wanted: Mapping[str, Any], present: Mapping[str, Any], since: Mapping[str, list[Any]], keep: set[str]
) -> Iterator[str]:
    """Items that one side took out while the other changed something in them."""
    for place in (p for p in {*wanted, *present} if p.count(".") == 2):
        item = place.rpartition(".")[0]
        they_took_it_out = item in keep and item not in present and place not in since and place in wanted
        we_took_it_out = item not in keep and item not in wanted and place in keep and place in present
        if they_took_it_out or we_took_it_out:
            yield item


def _rebuilt(whole: Mapping[str, Any], mine: Answers, now: Answers) -> Answers:
    """Answers from places; items stand in the order of ``mine``, those of others after them."""
    made: Answers = {}
    for part in dict.fromkeys((*mine, *now)):
        shape = mine.get(part, now.get(part))
        if isinstance(shape, list) and all(isinstance(item, dict) for item in shape):
            order = [str(i.get("id", n)) for given in (mine, now) for n, i in enumerate(given.get(part) or [], 1)]
            made[part] = [_item(whole, part, number) for number in dict.fromkeys(order) if f"{part}.{number}" in whole]
        elif isinstance(shape, dict):
            made[part] = {
                place.partition(".")[2]: raw for place, raw in whole.items() if place.partition(".")[0] == part and "." in place
            }
        elif part in whole:
            made[part] = whole[part]
    return made


def _item(whole: Mapping[str, Any], part: str, number: str) -> dict[str, Any]:
    prefix = f"{part}.{number}."
    own = {place.removeprefix(prefix): raw for place, raw in whole.items() if place.startswith(prefix)}
    lasting = whole_number(number)
    return {"id": number if lasting is None else lasting, **own}
