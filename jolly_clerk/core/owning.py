"""Who of the office has a case: taken over, handed on, given back, assigned; and reopened after it ended."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from jolly_clerk.core.facts.names import same_name
from jolly_clerk.core.happened import Happened
from jolly_clerk.core.say import say

if TYPE_CHECKING:
    from jolly_clerk.core.history import CheckingBegan
    from jolly_clerk.core.lifecycle import CaseSoFar


class Assigned(Happened):
    """A case goes to an officer (``to`` is the id, ``name`` as the person is called), or to nobody; ``because`` is why, where it is told."""

    what: Literal["assigned"] = "assigned"
    to: str
    name: str = ""
    because: str = ""


class Reopened(Happened):
    """A lead reopened a case that had ended without a grant. ``cancels`` are refunds that did not leave; ``due`` is the new last day of the
    period that had run out, if one had."""

    what: Literal["reopened"] = "reopened"
    because: str
    cancels: tuple[str, ...] = ()
    due: date | None = Field(default=None, exclude_if=lambda kept: kept is None)


#: what anybody of the office may do with a case of their own
FREE_IN_OWN = ("assign", "note", "message")


@dataclass(frozen=True, slots=True)
class Somebody:
    """A person as far as it is asked whether two are the same."""

    name: str
    mail: str
    born: date | None


def why_not_own(me: Somebody, applicant: Somebody, move: str) -> str:
    """Why somebody of the office may not decide on a case that is their own: the mail address is the applicant's, or the name with the
    day of birth; nothing if they may."""
    same_mail = bool(me.mail) and me.mail.casefold() == applicant.mail.casefold()
    same_person = me.born is not None and me.born == applicant.born and same_name(me.name, applicant.name)
    if move in FREE_IN_OWN or not (same_mail or same_person):
        return ""
    return say("This is a case of your own. Somebody else of the office works on it; you may hand it on.")


def told_of(entry: Assigned, who: str) -> str:
    """Who has the case now, in words for its history."""
    why = f" ({entry.because})" if entry.because else ""
    if not entry.to:
        return say("{who} gave the case back: nobody has it", who=who) + why
    if entry.to == entry.who:
        return say("{who} took the case over", who=who) + why
    return say("{who} handed the case on to {name}", who=who, name=entry.name) + why


def why_not_assign(is_lead: bool, me: str, owner: str, to: str) -> str:
    """Why somebody may not give a case to ``to``; nothing if they may. An officer takes over, and hands on or gives back what is their own."""
    if to == owner:
        return say("It is so already.")
    if is_lead or to == me:
        return ""
    if owner != me:
        return say("Only whoever has the case hands it on; take it over first.")
    return ""


def fault_of_absence(person: str, deputy: str, first: date, last: date, today: date) -> tuple[str, str]:
    """The field and the sentence of what is wrong with an absence; nothing if it can be."""
    if last < first:
        return "last_day", say("It would end before it begins.")
    if last < today:
        return "last_day", say("These days are over.")
    if (last - first).days > MOST_AWAY:
        return "last_day", say("Nobody is away for more than a year.")
    return ("deputy", say("Somebody else has to stand in.")) if deputy == person else ("", "")


#: so many days may somebody be away
MOST_AWAY = 366


def fold_checking_began(case: CaseSoFar, entry: CheckingBegan) -> None:
    """Checking began: the case is that officer's."""
    case.checking, case.officer = entry, entry.who


def fold_assigned(case: CaseSoFar, entry: Assigned) -> None:
    """The case is somebody else's, or nobody's."""
    case.officer = entry.to


def fold_reopened(case: CaseSoFar, entry: Reopened) -> None:
    """A case that had ended goes on as it stood; a period that had run out has a new last day, the one to pay begins anew."""
    case.ended = None
    case.reopened.append(entry)
    case.paid_back = [back for back in case.paid_back if back.key not in entry.cancels]
    if entry.due is not None and case.rounds:
        case.rounds[-1].due, case.rounds[-1].due_at = entry.due, None
