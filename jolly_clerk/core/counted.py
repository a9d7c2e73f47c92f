"""What is declared beside what was counted or read: the fee by each, where they differ."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.dossier.places import with_answer


@dataclass(frozen=True, slots=True)
class Counted:
    """An answer that a file or a register states otherwise (``requirement`` compares them), and what is due at filing by each."""

    requirement: str
    title: str
    declared: str
    found: str
    source: str
    due_declared: Decimal
    due_found: Decimal


def counted(a: Assessment) -> tuple[Counted, ...]:
    """The answers that are contradicted and on which the fee at filing hangs, in the order of the checklist."""
    due, found = a.fees.total("at filing").amount, list[Counted]()
    if due is None:
        return ()
    for r in a.requirements:
        if r.table is None or r.table.holds is not False or not r.asked:
            continue
        for offer in r.table.offers:
            answers = with_answer(a.dossier.answers, offer.place, offer.raw)
            dossier = a.dossier.model_copy(update={"answers": answers})
            other = assess(a.rulebook, dossier, a.history, a.known, a.now).fees.total("at filing").amount
            if other is not None and other != due:
                own = next((s.said for s in r.table.statements if s.place == offer.place), "")
                found.append(Counted(r.id, r.table.title, own, offer.said, offer.source, due, other))
    return tuple(found)
