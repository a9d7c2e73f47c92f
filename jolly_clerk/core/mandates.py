"""A mandate: somebody who acts for whoever applies, in all filings or in those of some kinds or cases, for a time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Final, Literal, get_args

from jolly_clerk.core.say import _, say
from jolly_clerk.core.sharing import Access, Right

#: what a mandate can allow; each of them includes looking
MandateRight = Literal["prepare", "file", "pay", "letters"]
MANDATE_RIGHTS: Final[tuple[MandateRight, ...]] = get_args(MandateRight)
#: how each reads in a list
SAID: Final[dict[MandateRight, str]] = {
    "prepare": _("prepare filings and answers"),
    "file": _("sign, file and send the answers"),
    "pay": _("pay"),
    "letters": _("receive the letters as well"),
}
#: what each allows in a filing
_ALLOWS: Final[dict[MandateRight, tuple[Right, ...]]] = {
    "prepare": ("fill", "attach"),
    "file": ("sign", "file", "answer"),
    "pay": ("pay",),
    "letters": (),
}
#: how it stands with a mandate
MandateState = Literal["offered", "to come", "in force", "over", "ended"]


@dataclass(frozen=True, slots=True)
class Mandate:
    """A mandate in force: for whom, with which rights, for which kinds and for which cases (by their ids); none of both means all."""

    id: str
    owner: str
    rights: tuple[MandateRight, ...]
    kinds: tuple[str, ...] = ()
    cases: tuple[str, ...] = ()

    def covers(self, owner: str, kind: str, case: str = "") -> bool:
        """True if it holds for a filing of this owner and kind, which may be a case."""
        if owner != self.owner or (self.cases and case not in self.cases):
            return False
        return not self.kinds or kind in self.kinds


def access_by_mandates(mandates: Sequence[Mandate], owner: str, kind: str, case: str = "") -> Access | None:
    """What somebody may do by mandates in a filing of this owner and kind; None if none of them covers it."""
    covering = [m for m in mandates if m.covers(owner, kind, case)]
    if not covering:
        return None
    allowed = {right for m in covering for own in m.rights for right in _ALLOWS[own]}
    return Access(False, ("look", *sorted(allowed)), mandate=covering[0].id)


def begins_for(mandates: Sequence[Mandate], owner: str, kind: str) -> bool:
    """True if somebody may begin a filing of a kind for this owner."""
    return any(m.covers(owner, kind) and "prepare" in m.rights for m in mandates)


def in_force(first: date, last: date | None, today: date) -> bool:
    """True on the days of a mandate, the first and the last with them."""
    return first <= today and (last is None or today <= last)


def state_of(accepted: bool, ended: bool, first: date, last: date | None, today: date) -> MandateState:
    """How it stands with a mandate on a day; both days are within it."""
    if ended:
        return "ended"
    if last is not None and today > last:
        return "over"
    if not accepted:
        return "offered"
    return "in force" if in_force(first, last, today) else "to come"


def fault_of_days(first: date, last: date | None, today: date) -> str:
    """Why a mandate cannot run from a day to another; nothing if it can."""
    if last is not None and last < first:
        return say("It would end before it begins.")
    return say("It would be over already.") if last is not None and last < today else ""


def said_of(rights: Sequence[MandateRight], kinds: Sequence[str], cases: Sequence[str]) -> str:
    """What a mandate allows, in words; ``kinds`` are titles and ``cases`` references."""
    told = ", ".join(say(SAID[right]) for right in MANDATE_RIGHTS if right in rights) or say("look at it")
    if cases:
        return say("{told}, in {cases}", told=told, cases=", ".join(cases))
    return say("{told}, for {kinds}", told=told, kinds=", ".join(kinds)) if kinds else told
