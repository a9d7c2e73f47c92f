"""Others at work in a filing: what somebody who was invited may do in it, and who is writing which part just now.

Whoever prepares a filing may do everything in it. An invitation names rights; each of them includes looking. What a change needs is
told by what it changes, so that no way to a change can be forgotten.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Final, Literal, get_args

from jolly_clerk.core.checklist import Place
from jolly_clerk.core.dossier.merging import touched
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.moves import Move, MoveName, WhyNot
from jolly_clerk.core.say import _, say

#: what somebody else can be allowed: by an invitation all but to file, by a mandate that as well
Right = Literal["look", "fill", "attach", "sign", "pay", "answer", "file"]
RIGHTS: Final[tuple[Right, ...]] = tuple(right for right in get_args(Right) if right != "file")
#: what is done only with an account of one's own, whose address is confirmed; the others also by link and code
WITH_ACCOUNT: Final[tuple[Right, ...]] = ("fill", "attach", "answer")
#: what is done only once it is a case
IN_A_CASE: Final[tuple[Right, ...]] = ("pay", "answer")
#: what whoever may answer letters may do in the answers
IN_ANSWERS: Final[tuple[Right, ...]] = ("fill", "attach", "sign")
#: how each right reads in a list
SAID: Final[dict[Right, str]] = {
    "look": _("look at it"),
    "fill": _("fill in"),
    "attach": _("attach files"),
    "sign": _("sign"),
    "pay": _("pay"),
    "answer": _("answer letters"),
    "file": _("file"),
}
#: so long after the last key a part is still being written by one person
WRITES_FOR: Final = timedelta(minutes=2)


@dataclass(frozen=True, slots=True)
class Access:
    """What somebody may do in a filing: everything if it is theirs, else what the invitation says.

    ``parts`` are those that may be filled in, all if there are none; ``invitation`` is the id of the invitation, ``mandate`` that of the
    mandate by which somebody acts for the owner. ``counter`` tells that somebody of the office records it.
    """

    owner: bool
    rights: tuple[Right, ...] = RIGHTS
    parts: tuple[str, ...] = ()
    invitation: str = ""
    mandate: str = ""
    counter: bool = False

    def may(self, right: Right) -> bool:
        """True if this is allowed; looking always is."""
        return self.owner or right == "look" or right in self.rights

    def may_fill(self, part: str) -> bool:
        """True if this part may be filled in."""
        return self.may("fill") and (not self.parts or part in self.parts)

    def as_guest(self) -> Access:
        """What may be done without an account of one's own."""
        return replace(self, rights=tuple(right for right in self.rights if right not in WITH_ACCOUNT))


OWNER: Final = Access(True)
#: what somebody of the office does in a filing that it records; a signature is noted as consent and never typed as one's own
AT_COUNTER: Final = Access(False, ("look", "fill", "attach", "sign", "file"), counter=True)


#: the moves of an applicant that an invited person may make in a case, by the right that allows it
MOVES_BY: Final[dict[MoveName, Right]] = {
    "pay": "pay",
    "send the answers": "answer",
    "file": "file",
    "book an inspection": "answer",
}


def refused_move(access: Access, move: MoveName) -> WhyNot | None:
    """Why somebody may not make a move of an applicant in a case; None if they may."""
    right = MOVES_BY.get(move)
    if access.owner or (right and access.may(right)):
        return None
    return WhyNot(_not_invited(right) if right else say("This is for whoever applied."))


def as_invited(moves: Sequence[Move], access: Access) -> tuple[Move, ...]:
    """The moves of an applicant as an invited person has them: those that belong to the owner stand there with the reason."""
    refusals = ((move, refused_move(access, move.move)) for move in moves)
    return tuple(Move(m.role, m.move, False, (why,)) if why else m for m, why in refusals)


def _not_invited(right: Right) -> str:
    return say("You were not invited to do this: {what}.", what=say(SAID[right]))


@dataclass(frozen=True, slots=True)
class Needed:
    """A right that a change of a filing needs, and the place at which it does; without a right it is the owner's alone."""

    right: Right | None
    place: str


def needed_by(before: Dossier, after: Dossier) -> Iterator[Needed]:
    """What a change of a dossier needs, each place once."""
    places = dict.fromkeys(touched(before.answers, after.answers))
    places |= dict.fromkeys(source.place for source in {*before.prefilled} ^ {*after.prefilled})
    places |= dict.fromkeys({*before.by_hand} ^ {*after.by_hand})
    for place in places:
        yield Needed("fill", place)
    there, now = {a.id: a for a in before.attachments}, {a.id: a for a in after.attachments}
    for id_ in {**there, **now}:
        if there.get(id_) != now.get(id_):
            yield Needed("attach", f"documents.{(now.get(id_) or there[id_]).slot}")
    for docket in {*before.dockets} ^ {*after.dockets}:
        yield Needed("attach", f"documents.{docket.slot}")
    if before.signature != after.signature:
        yield Needed("sign", "signature")
    ticked, ticks = {t.id for t in before.declared}, {t.id for t in after.declared}
    for declaration in sorted(ticked ^ ticks):
        yield Needed("sign", f"declarations.{declaration}")
    if before.note != after.note:
        yield Needed("answer", "note")
    if before.insists != after.insists:
        yield Needed(None, "insists")


def refused(access: Access, needs: Iterable[Needed]) -> WhyNot | None:
    """Why somebody may not make a change that needs this; None if they may."""
    if access.owner:
        return None
    for need in needs:
        if need.right is None:
            return WhyNot(say("This is for whoever prepares this filing."), None)
        if not access.may(need.right):
            return WhyNot(_not_invited(need.right), Place(need.place, ""))
        if need.right == "fill" and not access.may_fill(need.place.partition(".")[0]):
            return WhyNot(say("You were invited to fill in other parts of this filing."), Place(need.place, ""))
    return None


@dataclass(frozen=True, slots=True)
class Writing:
    """Somebody else is writing a part, until an instant if no further key is pressed."""

    part: str
    who: str
    until: datetime


def writing(last: Mapping[str, tuple[str, datetime]], me: str, now: datetime) -> dict[str, Writing]:
    """The parts that others are writing, by part; ``last`` tells who wrote in each part last, and when."""
    until = {part: Writing(part, who, at + WRITES_FOR) for part, (who, at) in last.items()}
    return {part: one for part, one in until.items() if one.who != me and now < one.until}


def held(places: Sequence[str], by: Mapping[str, Writing]) -> tuple[str, Writing] | None:
    """The first place of a change that lies in a part which somebody else is writing, and who."""
    return next(((place, by[part]) for place in places if (part := place.partition(".")[0]) in by), None)
