"""When what is due is covered by what was paid, as a history is folded: at filing, and what fell due with the acceptance."""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal
from typing import TYPE_CHECKING

from jolly_clerk.core import history as h

if TYPE_CHECKING:
    from jolly_clerk.core.lifecycle import CaseSoFar


def tell_due(case: CaseSoFar, at: datetime) -> None:
    """What is due at filing is told anew when the office has set what the rules could not work out."""
    if case.filed and case.filed.to_set and case.covered_at is None:
        own = [fee.amount for line, fee in case.fees_set.items() if line in case.filed.to_set]
        case.due_told = case.filed.due_at_once + sum(own, Decimal(0))
        cover(case, at)


def fold_paid(case: CaseSoFar, entry: h.Paid) -> None:
    """Money came in; the same key counts once."""
    if any(p.key == entry.key for p in case.payments):
        return
    case.payments.append(entry)
    cover(case, entry.counts_from or entry.at)
    cover_check(case, entry.counts_from or entry.at)


def cover(case: CaseSoFar, at: datetime) -> None:
    """What is due is covered from the latest instant from which one of the payments counts, and not before the filing."""
    if case.covered_at is None and case.filed and not case.to_set and at_once(case, case.filed) >= case.due_told:
        case.covered_at = max(at, case.filed.begins_at, *(p.counts_from or p.at for p in case.payments))


def at_once(case: CaseSoFar, filed: h.Filed) -> Decimal:
    """What was paid towards what is due at once at filing."""
    return case.paid - case.prepaid - case.paid_on(filed.later)


def fold_charged_back(case: CaseSoFar, entry: h.ChargedBack) -> None:
    """The payment counts as not made. Before checking began the case waits for it anew, after acceptance for what fell due then."""
    at = next((n for n, p in enumerate(case.payments) if p.key == entry.payment), None)
    if at is None:
        return
    del case.payments[at]
    case.charged_back.append(entry)
    before, back = case.before_acceptance
    if before is not None and at < before:
        case.before_acceptance = (before - 1, back)
    if case.checking is None and case.covered_at and case.filed and at_once(case, case.filed) < case.due_told:
        case.uncovered.append((case.covered_at, entry.at))
        case.covered_at = None
    if case.accepted and case.check_covered_at and not check_paid(case, case.accepted):
        case.uncovered.append((case.check_covered_at, entry.at))
        case.check_covered_at = None


def cover_check(case: CaseSoFar, at: datetime) -> None:
    """What fell due with the acceptance is covered from the instant of the payment that covers it."""
    if case.accepted and case.check_covered_at is None and check_paid(case, case.accepted):
        case.check_covered_at = max(at, case.accepted.at)


def check_paid(case: CaseSoFar, accepted: h.Accepted) -> bool:
    """True if all that fell due at once with the acceptance is paid."""
    return case.paid_for_check - case.paid_on(accepted.later) >= accepted.due_at_once


def fold_came_later(case: CaseSoFar, entry: h.CameLater) -> None:
    """Something came later, as a new version; what it costs is due beside all else."""
    case.version = entry.version
    if entry.due:
        case.additions.append(entry)


def fold_taken_out(case: CaseSoFar, entry: h.TakenOut) -> None:
    """What came later was not paid: nothing is due for it any more."""
    case.version = entry.version
    case.additions = [one for one in case.additions if one.version != entry.of]


def added_since_acceptance(case: CaseSoFar) -> Decimal:
    """What is due for what came later, after the acceptance."""
    since = case.accepted.at if case.accepted else None
    return sum((one.due for one in case.additions if since and one.at > since), Decimal(0))
