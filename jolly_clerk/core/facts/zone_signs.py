"""Which signs may stand at each place of machine-readable lines, and what the check digits decide between signs that look alike.

Source: ICAO Doc 9303, parts 4 to 7.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import date
from itertools import combinations, product

from jolly_clerk.core.facts.mrz import Mrz, check_digit, read_mrz
from jolly_clerk.core.facts.reading import Reading, TextLine, Zone
from jolly_clerk.core.say import say

DIGITS, LETTERS = "0123456789", "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
MRZ_SIGNS = DIGITS + LETTERS + "<"
_NAME, _NUMBER, _DAY, _ANY, _SEX = LETTERS + "<", DIGITS + "<", DIGITS + "<", MRZ_SIGNS, "MFX<"
#: signs that are looked at once more in one field, and ways of all fields together
MOST_CHANGES, MOST_WAYS = 2, 400

#: by shape (lines, signs): what may stand where, line by line, as (alphabet, so many places)
_PLACES: dict[tuple[int, int], list[list[tuple[str, int]]]] = {
    (2, 44): [
        [("PV", 1), (_NAME, 43)],
        [
            (_ANY, 9),
            (_NUMBER, 1),
            (_NAME, 3),
            (_DAY, 6),
            (DIGITS, 1),
            (_SEX, 1),
            (_DAY, 6),
            (DIGITS, 1),
            (_ANY, 14),
            (_NUMBER, 2),
        ],
    ],
    (2, 36): [
        [("PVIAC", 1), (_NAME, 35)],
        [(_ANY, 9), (_NUMBER, 1), (_NAME, 3), (_DAY, 6), (DIGITS, 1), (_SEX, 1), (_DAY, 6), (DIGITS, 1), (_ANY, 7), (_NUMBER, 1)],
    ],
    (3, 30): [
        [("IAC", 1), (_NAME, 4), (_ANY, 9), (_NUMBER, 1), (_ANY, 15)],
        [(_DAY, 6), (DIGITS, 1), (_SEX, 1), (_DAY, 6), (DIGITS, 1), (_NAME, 3), (_ANY, 11), (DIGITS, 1)],
        [(_NAME, 30)],
    ],
}

_Place = tuple[int, int]


def _span(line: int, first: int, last: int) -> list[_Place]:
    return [(line, n) for n in range(first, last)]


#: by shape: the fields with a check digit, the signs they are over, and where it stands; the last is over the others
_CHECKS: dict[tuple[int, int], list[tuple[list[_Place], _Place]]] = {
    (2, 44): [
        (_span(1, 0, 9), (1, 9)), (_span(1, 13, 19), (1, 19)), (_span(1, 21, 27), (1, 27)), (_span(1, 28, 42), (1, 42)),
        (_span(1, 0, 10) + _span(1, 13, 20) + _span(1, 21, 43), (1, 43)),
    ],
    (2, 36): [
        (_span(1, 0, 9), (1, 9)), (_span(1, 13, 19), (1, 19)), (_span(1, 21, 27), (1, 27)),
        (_span(1, 0, 10) + _span(1, 13, 20) + _span(1, 21, 35), (1, 35)),
    ],
    (3, 30): [
        (_span(0, 5, 14), (0, 14)), (_span(1, 0, 6), (1, 6)), (_span(1, 8, 14), (1, 14)),
        (_span(0, 5, 30) + _span(1, 0, 7) + _span(1, 8, 15) + _span(1, 18, 29), (1, 29)),
    ],
}  # fmt: skip


def fits(shape: tuple[int, int]) -> bool:
    """True if lines of this shape are machine-readable lines."""
    return shape in _PLACES


def places_of(shape: tuple[int, int], line: int) -> list[str]:
    """The alphabet of each place of a line."""
    return [alphabet for alphabet, many in _PLACES[shape][line] for _ in range(many)]


#: signs that fit nearly as well at a place, and by how much worse they fit (0 to 1)
Near = Mapping[str, float]
#: a way through signs that look alike counts as decided if every other fits by so much worse in all
DECIDED = 0.05


#: by shape: the line and the first place of the name, and where issuing state and nationality begin
_NAMES: dict[tuple[int, int], tuple[_Place, _Place, _Place]] = {
    (2, 44): ((0, 5), (0, 2), (1, 10)),
    (2, 36): ((0, 5), (0, 2), (1, 10)),
    (3, 30): ((2, 0), (0, 2), (1, 15)),
}


def settled(lines: Sequence[str], near: Sequence[Sequence[Near]]) -> list[str]:
    """The lines with signs that look like others settled by what the lines are, before any check digit is asked: nothing but fillers
    follows the end of a name, and a state that issues for its own nationals is spelled like the nationality."""
    told = [list(line) for line in lines]
    (no, first), (a, at), (b, there) = _NAMES[(len(lines), len(lines[0]))]
    name = lines[no][first:]
    begins = name.find("<<")
    ends = name.find("<<", begins + 2) if begins > 0 else -1
    for place in range(first + ends, len(lines[no])) if ends > 0 else ():
        if "<" in near[no][place]:
            told[no][place] = "<"
    for n in range(3):
        one, other = lines[a][at + n], lines[b][there + n]
        if one != other:
            worse_here, worse_there = near[a][at + n].get(other, 1.0), near[b][there + n].get(one, 1.0)
            if min(worse_here, worse_there) < 1.0:
                told[a][at + n] = told[b][there + n] = other if worse_here <= worse_there else one
    return ["".join(line) for line in told]


def _cost(lines: Sequence[str], near: Sequence[Sequence[Near]], change: Mapping[_Place, str]) -> float:
    """How much worse a way fits. One sign taken for another throughout is one mistake: the places after the worst count for a quarter."""
    by_kind: dict[tuple[str, str], list[float]] = {}
    for (no, at), sign in change.items():
        by_kind.setdefault((lines[no][at], sign), []).append(near[no][at][sign])
    return sum(max(worse) + 0.25 * (sum(worse) - max(worse)) for worse in by_kind.values())


def repaired(lines: Sequence[str], near: Sequence[Sequence[Near]]) -> tuple[list[str], list[str]]:
    """The lines with signs put right where two look alike and the check digits decide between them; and what was put right, in words.

    Where the check digits leave several ways that fit alike, or none, nothing is changed.
    """
    shape = (len(lines), len(lines[0]))
    checks = _CHECKS[shape][:3] if lines[0][0] == "V" else _CHECKS[shape]
    wrong = [check for check in checks if not _right(lines, *check)]
    if not wrong:
        return list(lines), []
    fields = [check for check in wrong if check is not checks[-1]] or wrong
    ways = [list(_ways(lines, near, [*over, digit], (over, digit))) for over, digit in fields]
    found = list[tuple[float, dict[_Place, str]]]()
    for n, way in enumerate(product(*ways)):
        if n >= MOST_WAYS:
            return list(lines), []
        change = {place: sign for one in way for place, sign in one.items()}
        if all(_right(_changed(lines, change), *check) for check in checks):
            found.append((_cost(lines, near, change), change))
    found.sort(key=lambda pair: pair[0])
    if not found or (len(found) > 1 and found[1][0] - found[0][0] < DECIDED):
        return list(lines), []
    change = found[0][1]
    told: list[str] = [
        say(
            "Sign {place} of line {line} looks like {sign} and like {other}; the check digits decide for {other}.",
            place=at + 1, line=no + 1, sign=lines[no][at], other=other,
        )
        for (no, at), other in sorted(change.items())
    ]  # fmt: skip
    return _changed(lines, change), told


def _right(lines: Sequence[str], over: list[_Place], digit: _Place) -> bool:
    text, said = "".join(lines[n][at] for n, at in over), lines[digit[0]][digit[1]]
    return (said == "<" and not text.strip("<")) or (said.isdigit() and int(said) == check_digit(text))


def _ways(
    lines: Sequence[str], near: Sequence[Sequence[Near]], places: list[_Place], check: tuple[list[_Place], _Place]
) -> Iterator[dict[_Place, str]]:
    """Changes of one or two signs to their likenesses that make a check right."""
    doubtful = [place for place in places if near[place[0]][place[1]]]
    for many in range(1, MOST_CHANGES + 1):
        for some in combinations(doubtful, many):
            for signs in product(*(near[n][at] for n, at in some)):
                change = dict(zip(some, signs, strict=True))
                if _right(_changed(lines, change), *check):
                    yield change


def _changed(lines: Sequence[str], change: dict[_Place, str]) -> list[str]:
    told = [list(line) for line in lines]
    for (n, at), sign in change.items():
        told[n][at] = sign
    return ["".join(line) for line in told]


_SIGNS = re.compile(r"^[A-Z0-9<]{30,44}$")


def zones_in_text(lines: Sequence[TextLine]) -> Iterator[Zone]:
    """Machine-readable lines among lines of text."""
    told = [(line, text) for line in lines if "<" in line.text and _SIGNS.match(text := "".join(line.text.upper().split()))]
    n = 0
    while n < len(told):
        size = next((s for s in (3, 2) if _zone_lines(told[n : n + s], s)), 0)
        if told[n][1][0] in "PVIAC" and size:
            some = told[n : n + size]
            boxes = [line.box for line, _ in some]
            box = (min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes))
            yield Zone(page=some[0][0].page, box=box, lines=tuple(text for _, text in some), source="text")
            n += size
        else:
            n += 1


def _zone_lines(some: Sequence[tuple[TextLine, str]], size: int) -> bool:
    signs = {len(text) for _, text in some}
    return len(some) == size and len({line.page for line, _ in some}) == 1 and len(signs) == 1 and fits((size, signs.pop()))


#: centuries of the lines are told as seen on this day at the earliest: a birth is before it, an expiry nearest to it
SEEN_ON = date(2026, 1, 1)


def seen_on(reading: Reading) -> date:
    """The day on which the lines of a file are taken to be seen: the file's own last day where it says one, else a fixed one, so that a
    reading states the same for ever."""
    said = (reading.changed or reading.made)[:10]
    try:
        return max(SEEN_ON, date.fromisoformat(said)) if len(said) == 10 else SEEN_ON
    except ValueError:
        return SEEN_ON


def read_zone(reading: Reading, on: date) -> tuple[Zone, Mrz] | None:
    """The first zone of a file as it was read, as seen on a day; None if there is none."""
    zones = reading.zones or reading.once("zones", lambda: tuple(zones_in_text(reading.lines)))
    for zone in zones:
        read = read_mrz(list(zone.lines), on)
        if not isinstance(read, str):
            return zone, replace(read, repairs=zone.repaired or read.repairs)
    return None
