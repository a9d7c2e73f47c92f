"""What can be done with a permit beside short filings: inspections booked, and told."""

from __future__ import annotations

from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.moves import Move, MoveName, WhyNot
from jolly_clerk.core.roles import Role
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say


def inspecting(rulebook: Rulebook, case: CaseSoFar) -> list[Move]:
    """Booking inspections, which the holder and the office do, and telling what one found; only where an edition has inspections."""
    if rulebook.edition.inspections is None:
        return []
    stops = None if case.issued else WhyNot(say("The {grants} is not issued yet.", grants=rulebook.edition.grants))
    booked = any(not one.held and not one.dropped for one in case.permit.inspections.values())
    none = stops or (None if booked else WhyNot(say("No inspection is booked.")))
    books: tuple[Role, ...] = ("applicant", "officer", "lead")
    holds: tuple[Role, ...] = ("officer", "lead", "reviewer")
    return [
        *(_made(role, "book an inspection", stops) for role in books),
        *(_made(role, "hold an inspection", none) for role in holds),
    ]


def _made(role: Role, name: MoveName, stops: WhyNot | None) -> Move:
    return Move(role, name, stops is None, (stops,) if stops else ())
