"""What an estimate before filing asks for: how many of each part that repeats, and the questions that settle its price."""

from __future__ import annotations

from collections.abc import Sequence

from jolly_clerk.core.dossier.model import Answers
from jolly_clerk.core.fees.lines import FeeSheet
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.model import Part

#: of so many repeats at most each one's own questions are asked
MOST_OWN = 3


def counted_parts(rulebook: Rulebook) -> tuple[Part, ...]:
    """The parts that repeat and of which each repeat has documents or a price of its own."""
    edition = rulebook.edition
    own = {slot.for_each for slot in edition.documents} | {line.each for line in edition.fees}
    return tuple(part for part in edition.parts if part.each and part.id in own)


def with_counts(rulebook: Rulebook, answers: Answers) -> Answers:
    """Answers in which each counted part has as many repeats as it must have, one at least, where nothing is said of it."""
    least = {part.id: [{"id": n} for n in range(1, max(1, part.at_least) + 1)] for part in counted_parts(rulebook)}
    return {**least, **answers}


def price_asks(rulebook: Rulebook, fees: FeeSheet, answered: Sequence[str]) -> tuple[str, ...]:
    """The places of the questions on which lines of the price hang, with those answered already, in the order of the form.

    Of many repeats none is asked by itself: the price then stands as a range.
    """
    hanging = dict.fromkeys([*answered, *(place for line in fees.lines for place in line.depends_on)])
    order = {f"{part.id}.{q.id}": n for n, (part, q) in enumerate((p, q) for p in rulebook.edition.parts for q in p.questions)}
    found, own = [], set[str]()
    for place in hanging:
        part, _, rest = place.partition(".")
        number, _, question = rest.rpartition(".")
        if (key := f"{part}.{question}") in order:
            own.add(number)
            found.append((order[key], number, place))
    return tuple(place for _, number, place in sorted(found) if not number or len(own - {""}) <= MOST_OWN)
