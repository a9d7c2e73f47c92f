"""The roles, in one table: which places each may go to, what it sees and what it may do at all."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

#: those of people, and of what acts by itself
Role = Literal[
    "applicant",
    "officer",
    "lead",
    "reviewer",
    "auditor",
    "rule-keeper",
    "office",
    "payment terminal",
    "post room",
    "clock",
    "issuer",
]
#: where a person can go; the screen shows these and no others
Page = Literal[
    "my cases",
    "new filing",
    "in-tray",
    "load",
    "counter",
    "looks",
    "till",
    "till",
    "people",
    "money",
    "erasing",
    "register",
    "print",
    "closed days",
    "rulebooks",
    "figures",
    "office",
    "meetings",
]
#: which moves of a case a role may make: those of the applicant, of the officers, of the reviewers, or none
Moves = Literal["applicant", "officer", "reviewer", ""]


@dataclass(frozen=True, slots=True)
class RoleInfo:
    """What a role may do at all.

    ``staff`` works in the office; ``sees_all`` reads every case, else only the own ones; ``moves`` are the moves it makes;
    ``decides_fees`` confirms as a second person; ``minds_people`` adds and closes accounts; ``writes_rules`` writes editions;
    ``pages`` are the places it may go to,
    the first being where it comes in.
    """

    staff: bool
    sees_all: bool
    moves: Moves
    pages: tuple[Page, ...]
    decides_fees: bool = False
    minds_people: bool = False
    writes_rules: bool = False


ROLES: Final[dict[Role, RoleInfo]] = {
    "applicant": RoleInfo(False, False, "applicant", ("my cases", "new filing")),
    "officer": RoleInfo(
        True, True, "officer", ("in-tray", "counter", "till", "load", "print", "erasing", "register", "meetings")
    ),
    "lead": RoleInfo(
        True,
        True,
        "officer",
        (
            "in-tray",
            "counter",
            "till",
            "load",
            "people",
            "money",
            "print",
            "closed days",
            "erasing",
            "looks",
            "register",
            "rulebooks",
            "figures",
            "office",
            "meetings",
        ),
        decides_fees=True,
        minds_people=True,
    ),
    "reviewer": RoleInfo(True, True, "reviewer", ("in-tray", "meetings")),
    "auditor": RoleInfo(True, True, "", ("in-tray", "looks", "figures", "meetings")),
    "rule-keeper": RoleInfo(True, False, "", ("rulebooks",), writes_rules=True),
}
#: who works in the office
STAFF: Final = tuple(role for role, info in ROLES.items() if info.staff)
#: who confirms as a second person
SECOND: Final = tuple(role for role, info in ROLES.items() if info.decides_fees)
#: who applies
APPLICANTS: Final = tuple(role for role, info in ROLES.items() if info.moves == "applicant")
#: who minds the rules
RULE_KEEPERS: Final = tuple(role for role, info in ROLES.items() if info.writes_rules)
#: who judges cases at the intake
OFFICERS: Final = tuple(role for role, info in ROLES.items() if info.moves == "officer")
#: who decides on cases that were handed over
REVIEWERS: Final = tuple(role for role, info in ROLES.items() if info.moves == "reviewer")
#: what acts by itself: no person, and nothing is hidden from it
ITSELF: Final = RoleInfo(False, True, "", ())


def about(role: Role) -> RoleInfo:
    """What a role may do; that of no person sees everything and moves nothing."""
    return ROLES.get(role, ITSELF)
