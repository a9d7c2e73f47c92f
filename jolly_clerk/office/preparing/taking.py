"""Answers that are taken: what is read in an attached file, told by a register, or usual by other answers, put where the question is open or
says otherwise."""

from __future__ import annotations

from collections.abc import Sequence

from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.dossier.changing import take_from_papers
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.dossier.places import answer_at
from jolly_clerk.core.facts.agreement import TakeOver
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft, open_draft


def offered(a: Assessment) -> dict[str, TakeOver]:
    """What can be taken, by its place; where two papers offer different answers for one place none is."""
    found: dict[str, TakeOver] = {}
    torn = set[str]()
    for requirement in a.requirements:
        for offer in requirement.table.offers if requirement.table else ():
            if offer.place in found and found[offer.place].raw != offer.raw:
                torn.add(offer.place)
            found.setdefault(offer.place, offer)
    papers = {place: offer for place, offer in found.items() if place not in torn}
    others = (TakeOver(place, u.raw, u.said, say("the rest of the form")) for p in a.parts for u in p.usual for place in u.places)
    return {offer.place: offer for offer in others} | papers


def take(office: Office, who: Who, draft_id: str, places: Sequence[str], seen: int | None = None) -> OpenDraft:
    """Take what is offered at these places, each kept with its source; with no place named, at every one that is still open.

    Raises Invalid if nothing is offered at a place.
    """
    now = open_draft(office, who, draft_id)
    there = offered(now.assessment)
    missing = [place for place in places if place not in there]
    if missing:
        raise Invalid(say("No paper states an answer for this question, or they do not agree."), missing[0][:60])
    usual = {place for part in now.assessment.parts for u in part.usual for place in u.places}
    wanted = list(places) or [p for p in there if p not in usual and answer_at(now.dossier.answers, p) in (None, "")]

    def put(dossier: Dossier) -> Dossier:
        told = [(there[p].place, there[p].raw, there[p].source) for p in wanted]
        return take_from_papers(dossier, told, office.now())

    return change_draft(office, who, draft_id, put, seen)
