"""What a step would bring, told before it is done: the money that moves, and what is left open by it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.fees.account import Ending
from jolly_clerk.core.in_words import money
from jolly_clerk.core.lanes import completes
from jolly_clerk.core.moves import MoveName
from jolly_clerk.core.roles import Role
from jolly_clerk.core.say import say

#: the endings that an officer brings about, by the move
ENDS: dict[MoveName, Ending] = {"do not accept": "not accepted", "put out of scope": "out of scope"}


def foreseen(a: Assessment, role: Role, lane: str = "") -> dict[str, tuple[str, ...]]:
    """Sentences about each step that can be taken now in a lane (nothing names the common one), by its move."""
    told: dict[str, tuple[str, ...]] = {}
    steps: tuple[tuple[MoveName, Callable[[Assessment, str], Iterator[str]]], ...]
    steps = (("accept as complete", _accepted), ("hand over", _handed_over))
    for step, sentences in steps:
        if _may(a, role, step, lane):
            told[step] = tuple(sentences(a, lane))
    for move, ending in ENDS.items():
        if _may(a, role, move, lane):
            told[move] = tuple(_ended(a, ending, lane))
    return told


def _may(a: Assessment, role: Role, move: MoveName, lane: str) -> bool:
    try:
        return a.move(role, move, lane).allowed
    except KeyError:
        return False


def _accepted(a: Assessment, lane: str) -> Iterator[str]:
    currency = a.fees.currency
    if not lane and a.account.over:
        yield say("{amount} was paid too much and comes back.", amount=money(a.account.over, currency))
    later = a.fees.total("after the check").low
    if completes(a, lane) and later:
        yield say("{amount} falls due with it.", amount=money(later, currency))
    if not completes(a, lane):
        yield say("The case is complete when its other lanes are.")


def _handed_over(a: Assessment, lane: str) -> Iterator[str]:
    if a.account.open:
        yield say("{amount} is still unpaid; the decision waits for it.", amount=money(a.account.open, a.fees.currency))


def _ended(a: Assessment, ending: Ending, lane: str) -> Iterator[str]:
    if lane:
        yield say("This lane is closed; the others go on, and no money moves.")
        return
    back = next(r for r in a.refunds if r.ending == ending)
    currency = a.fees.currency
    yield say("{total} comes back, {kept} is kept.", total=money(back.total, currency), kept=money(back.kept, currency))
