"""What stays as it was filed while a letter is answered: answers and files of parts that the edition locks outside the points.

Source: the decisions, *Rules*, *Locked or flagged*: a locked answer changes only where a point, or what a point depends on, names it;
declarations that were given are locked; what a change makes newly asked is open.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from jolly_clerk.core.dossier.differences import Difference, differences, raw_answers
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.lifecycle import RoundSoFar
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.expressions import Expression


def locked_places(rulebook: Rulebook, base: Dossier, a_round: RoundSoFar | None) -> tuple[str, ...]:
    """The places that stay as they are in ``base`` while the letter of a round is answered; a repeating part among them takes no further
    repeat and loses none. None without a letter that is open."""
    if a_round is None or a_round.answered_at is not None or a_round.paused_from is None:
        return ()
    parts = {p.id: p for p in rulebook.edition.parts if p.outside_points == "locked"}
    slots = {s.slot for s in rulebook.edition.documents if s.outside_points == "locked"}
    if not parts and not slots and not base.declared:
        return ()
    asked = frozenset(_asked(rulebook, a_round))
    found = [p for p, part in parts.items() if part.each and p not in asked]
    for place in raw_answers(base):
        if place.partition(".")[0] in parts and not _is_asked(place, asked):
            found.append(place)
    filled = {a.slot for a in base.attachments if a.slot.partition(".")[0] in slots}
    given = {f"declarations.{d.id}" for d in base.declared}
    found += sorted(ref for ref in ({f"documents.{slot}" for slot in filled} | given) if not _is_asked(ref, asked))
    return tuple(found)


def _is_asked(place: str, asked: frozenset[str]) -> bool:
    """True if a place, its part or its repeat, or the question as a rule names it, is among what the points name."""
    head, _, rest = place.partition(".")
    number, _, question = rest.rpartition(".")
    names = {place, head, f"{head}.{number}" if number else place, f"{head}.{question}" if question else place}
    return bool(names & asked)


def _asked(rulebook: Rulebook, a_round: RoundSoFar) -> Iterator[str]:
    """The places of the points, and what the requirements behind them read."""
    for point in a_round.points.values():
        yield from point.asked.places
        for id_ in (point.asked.requirement, *point.asked.also):
            for rule in _rules_behind(rulebook, id_):
                yield from _read(rulebook, rule.reads)
            own = id_.partition(".")[0]
            yield from (ref for agree in rulebook.agrees if agree.agree.id == own for ref in (*agree.agree.places, *agree.at))


def _rules_behind(rulebook: Rulebook, requirement: str) -> Iterator[Expression]:
    """The rules on which a requirement depends: its own, and whether it is asked."""
    own, _, rest = requirement.partition(".")
    for must in rulebook.musts:
        if must.must.id == own:
            yield from (rule for rule in (must.rule, must.when) if rule)
    slot = rulebook.slots.get(rest.partition(".")[0]) if own == "documents" else None
    if slot is not None and slot.when is not None:
        yield slot.when


def _read(rulebook: Rulebook, names: Iterable[str]) -> Iterator[str]:
    """Names of answers, through the computed ones."""
    seen: set[str] = set()
    left = list(names)
    while left:
        name = left.pop()
        if name in seen:
            continue
        seen.add(name)
        value = rulebook.computed.get(name)
        if value is not None:
            left += value.rule.reads
        yield name


def breaks_lock(rulebook: Rulebook, locked: tuple[str, ...], base: Dossier, before: Dossier, after: Dossier) -> Difference | None:
    """The first change from ``before`` to ``after`` that leaves ``base`` at a locked place; None if there is none."""
    if not locked:
        return None
    away = {d.place for d in differences(rulebook, base, after)}
    items = {f"{place.partition('.')[0]}.{place.split('.')[1]}" for place in raw_answers(base) if place.count(".") == 2}
    for change in differences(rulebook, before, after):
        head, _, rest = change.place.partition(".")
        fresh = head in locked and rest.count(".") == 1 and f"{head}.{rest.partition('.')[0]}" not in items
        if change.place in away and (change.place in locked or fresh):
            return change
    return None
