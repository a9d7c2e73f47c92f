"""A complete case with its reviewers: one leads and decides; the others sign off, and each of them may ask the applicant or hand it back."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from datetime import date
from typing import TYPE_CHECKING, Any, Final, Literal

from jolly_clerk.core.dossier.model import Sha256
from jolly_clerk.core.happened import Happened
from jolly_clerk.core.meetings import FOLD_MEETING, MEETING_WORDS, MeetingEntry, fold_over, why_not_before_meeting
from jolly_clerk.core.say import _n, say, say_n
from jolly_clerk.core.states import Holder
from jolly_clerk.core.things import things

if TYPE_CHECKING:
    from jolly_clerk.core.ending import HandedOver
    from jolly_clerk.core.lifecycle import CaseSoFar
    from jolly_clerk.core.rulebook.compiled import Rulebook


class SignedOff(Happened):
    """A reviewer beside the leading one has nothing against a decision; ``words`` are what is to be minded in it."""

    what: Literal["signed off"] = "signed off"
    words: str = ""


class HandedBack(Happened):
    """A reviewer handed the case back to the officers: it is complete again and with no reviewer."""

    what: Literal["handed back"] = "handed back"
    because: str


class ReviewAsked(Happened):
    """A reviewer asked the applicant something by letter; the answer comes as a message in the case. No clock stands still for it."""

    what: Literal["review asked"] = "review asked"
    text: str
    letter_sha256: Sha256


NOT_SIGNED = _n("{n} reviewer has not signed off yet.", "{n} reviewers have not signed off yet.")
ReviewEntry = SignedOff | HandedBack | ReviewAsked | MeetingEntry


def fold_handed_over(case: CaseSoFar, entry: HandedOver) -> None:
    """The case goes to these reviewers, and nobody has signed off yet."""
    case.handed, case.signed_off = entry, {}


def fold_signed_off(case: CaseSoFar, entry: SignedOff) -> None:
    """One of them has signed off."""
    case.signed_off = {**case.signed_off, entry.who: entry}


def fold_handed_back(case: CaseSoFar, entry: HandedBack) -> None:
    """The case has no reviewer any more, and what a meeting said of it counts no more."""
    case.handed, case.signed_off = None, {}
    fold_over(case)


FOLD_REVIEW: Final[dict[str, Callable[[CaseSoFar, Any], None]]] = {
    "handed over": fold_handed_over,
    "signed off": fold_signed_off,
    "handed back": fold_handed_back,
    **FOLD_MEETING,
}


def given_to(entries: Iterable[Any]) -> Iterator[str]:
    """The ids of everybody to whom a case was given: as an officer, as a reviewer, beside one."""
    for entry in entries:
        if entry.what in ("assigned", "handed over"):
            yield from (entry.to, *getattr(entry, "beside", ()))


def not_signed(case: CaseSoFar) -> tuple[str, ...]:
    """The ids of the reviewers beside the leading one who have not signed off; nobody once the case has ended."""
    beside = case.handed.beside if case.handed and not case.ended else ()
    return tuple(who for who in beside if who not in case.signed_off)


def why_not_sign(case: CaseSoFar) -> Iterator[str]:
    """What keeps everybody from signing off: there is one reviewer alone."""
    if case.handed and not case.handed.beside:
        yield say("It was handed to one reviewer alone.")


def why_not_decide_yet(rulebook: Rulebook, case: CaseSoFar, grants: bool) -> Iterator[str]:
    """What keeps the leading reviewer from granting (``grants``) or refusing: those who have not signed off, and the meeting."""
    if missing := not_signed(case):
        yield say_n(*NOT_SIGNED, len(missing))
    yield from why_not_before_meeting(rulebook, case, grants)


def why_not_review(case: CaseSoFar, who: str, move: str) -> str:
    """Why this reviewer may not make a move of a review; nothing if they may."""
    handed = case.handed
    if handed is None:
        return ""
    if move in ("grant", "refuse") and handed.to != who:
        return (
            say("This case was handed to another reviewer.") if who not in handed.beside else say("The leading reviewer decides.")
        )
    if move == "sign off":
        if who == handed.to:
            return say("You lead the review: you decide, and the others sign off.")
        if who in case.signed_off:
            return say("You have signed off already.")
    if move == "put on an agenda" and who != handed.to:
        return say("The leading reviewer puts it on an agenda.")
    if move in ("sign off", "hand back", "ask the applicant") and who not in (handed.to, *handed.beside):
        return say("This case was handed to another reviewer.")
    return ""


def signed_words(entry: SignedOff, who: str) -> str:
    """Who signed off, in words for the history."""
    return say("{who} signed off: {words}", who=who, words=entry.words) if entry.words else say("{who} signed off", who=who)


def handed_words(entry: HandedOver, who: str) -> str:
    """To whom a case was handed over, in words for the history."""
    if not entry.beside:
        return say("{who} handed the case over to a reviewer", who=who)
    return say("{who} handed the case over to {reviewers}", who=who, reviewers=things(1 + len(entry.beside), "reviewer"))


def _handed_back(e: HandedBack, who: str) -> str:
    return say("{who} handed the case back to the officers: {because}", who=who, because=e.because)


#: what happens in a review in words, with whose time runs, its paper, and whether it is the office's alone
REVIEW_WORDS: Final[dict[str, Callable[[Any, str, str, date], tuple[str, Holder, Literal["", "letter"], bool]]]] = {
    "handed over": lambda e, who, c, t: (handed_words(e, who), "ours", "", False),
    "signed off": lambda e, who, c, t: (signed_words(e, who), "ours", "", True),
    "handed back": lambda e, who, c, t: (_handed_back(e, who), "ours", "", True),
    "review asked": lambda e, who, c, t: (say("{who} asked by letter: {text}", who=who, text=e.text), "ours", "letter", False),
    **MEETING_WORDS,
}
