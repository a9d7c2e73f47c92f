"""Points, rounds and answers: what the next letter asks, and whether every point was answered."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal

from jolly_clerk.core.checklist import Offer, Place, Requirement
from jolly_clerk.core.dossier.differences import Difference, differences
from jolly_clerk.core.dossier.model import Dossier, Version
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.lifecycle import CaseSoFar, PointState, RoundSoFar
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say


@dataclass(frozen=True, slots=True)
class PointToAsk:
    """A point of the next letter. ``worded`` tells whether the officer wrote the text or the machine proposes it."""

    no: int
    requirement: str
    title: str
    text: str
    places: tuple[Place, ...]
    article: str
    worded: bool
    also: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class PointView:
    """A point that was asked, with its answer. ``needs`` is what is still missing before it can be sent."""

    no: int
    requirement: str
    title: str
    text: str
    article: str
    places: tuple[Place, ...]
    state: PointState
    words: str
    changes: tuple[Difference, ...]
    needs: str
    also: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class RoundView:
    """A letter and what came back: which version it was about, and which answered it (0 while none did).

    ``unasked`` are the changes that no point asked for.
    """

    no: int
    version: int
    answer_version: int
    sent_at: datetime
    due: date
    extended: bool
    answered_at: datetime | None
    note: str
    letter_sha256: str
    points: tuple[PointView, ...]
    unasked: tuple[Unasked, ...]


@dataclass(frozen=True, slots=True)
class Unasked:
    """A change that nobody asked for, and whether the officer took it as it is."""

    change: Difference
    taken: bool


def offers(rulebook: Rulebook, requirement: Requirement, sheet: Sheet) -> tuple[Offer, ...]:
    """The catalogue's wordings for a requirement, with this case's values put in."""
    target: str = "declarations" if requirement.kind == "declaration" else requirement.kind
    if target in ("document", "rule", "agreement", "prerequisite"):
        target = requirement.id.removeprefix("documents.").removesuffix("." + requirement.item.partition(".")[2])
    values = sheet.own(requirement.item)
    return tuple(Offer(reason.id, reason.title, text.fill(values).strip()) for reason, text in rulebook.reasons_for(target))


def proposed_words(rulebook: Rulebook, requirement: Requirement, sheet: Sheet) -> str:
    """What the machine would write for a point: the exact complaint first, else the catalogue's first wording."""
    if requirement.kind == "answer":
        return f"{requirement.because} {requirement.put_right}".strip()
    if requirement.put_right and requirement.files:
        return say("{put_right} Please put this right.", put_right=requirement.put_right)
    found = offers(rulebook, requirement, sheet)
    return found[0].text if found else requirement.put_right or say("Please put right: {title}.", title=requirement.title)


def points_to_ask(rulebook: Rulebook, found: Sequence[Requirement], case: CaseSoFar, sheet: Sheet) -> tuple[PointToAsk, ...]:
    """Every requirement that an officer found wanting, as the points of the next letter."""
    again = {p.asked.requirement: p.again for p in (case.round.points.values() if case.round else ()) if p.state == "asked again"}
    wanting = {r.id: r for r in found if r.judged and r.standing == "wanting"}
    groups = [[id_ for id_ in group if id_ in wanting] for group in case.arranged]
    placed = {id_ for group in groups for id_ in group}
    groups += [[id_] for id_ in wanting if id_ not in placed]
    points = []
    for no, group in enumerate((g for g in groups if g), 1):
        own_words = [case.worded.get(id_) or again.get(id_) for id_ in group]
        said = [own or proposed_words(rulebook, wanting[id_], sheet) for id_, own in zip(group, own_words, strict=True)]
        whole = case.worded.get("+".join(group))
        members = [wanting[id_] for id_ in group]
        places = tuple(dict.fromkeys(p for r in members for p in r.places if r.kind != "added"))
        articles = ", ".join(dict.fromkeys(r.article for r in members if r.article))
        title = " and ".join(dict.fromkeys(r.title for r in members))
        text = whole or "\n".join(dict.fromkeys(said))
        points.append(PointToAsk(no, group[0], title, text, places, articles, bool(whole or any(own_words)), tuple(group[1:])))
    return tuple(points)


def round_view(
    rulebook: Rulebook,
    a_round: RoundSoFar,
    versions: Sequence[Version],
    dossier: Dossier,
    case: CaseSoFar,
    words: dict[int, str],
    lane: str = "",
) -> RoundView:
    """A round with its points, their answers, and the changes that nobody asked for.

    ``dossier`` is the answering version: filed, or the draft of it with its ``words``. Only what belongs to ``lane`` is compared.
    """
    base = next((v.dossier for v in versions if v.no == a_round.version), dossier)
    if a_round.answered_at:
        dossier = next((v.dossier for v in versions if v.no == a_round.answer_version), dossier)
    changes = [c for c in differences(rulebook, base, dossier) if rulebook.lane_of(c.place) == lane]
    asked_places = {ref for p in a_round.points.values() for ref in p.asked.places}
    points = tuple(_point(rulebook, a_round, p.asked.no, changes, words) for p in a_round.points.values())
    unasked = tuple(
        Unasked(c, (c.place, a_round.answer_version) in case.taken)
        for c in changes
        if c.place not in asked_places and c.kind != "signature"
    )
    return RoundView(
        a_round.no,
        a_round.version,
        a_round.answer_version,
        a_round.sent_at,
        a_round.due,
        a_round.extended,
        a_round.answered_at,
        a_round.note,
        a_round.letter_sha256,
        points,
        unasked,
    )


def _point(rulebook: Rulebook, a_round: RoundSoFar, no: int, changes: list[Difference], words: dict[int, str]) -> PointView:
    point = a_round.points[no]
    own = tuple(c for c in changes if c.place in point.asked.places)
    said = point.words if a_round.answered_at else words.get(no, "")
    state: PointState = point.state
    needs = ""
    if not a_round.answered_at:
        needs = missing_from(point.asked.places, said, own)
        state = "open" if needs else "answered"
    places = tuple(Place(ref, rulebook.label(ref)) for ref in point.asked.places)
    return PointView(
        no,
        point.asked.requirement,
        point.asked.title,
        point.asked.text,
        point.asked.article,
        places,
        state,
        said,
        own,
        needs,
        point.asked.also,
    )


def missing_from(places: Sequence[str], words: str, changes: Sequence[Difference]) -> str:
    """What a point still needs before it counts as answered; empty if nothing.

    A fee is answered by paying, so a point about it never holds the answers up.
    """
    if words.strip() or changes or places == ("fee",):
        return ""
    kinds: list[Literal["a new file", "a changed answer", "your tick", "your signature"]] = []
    if any(ref.startswith("documents.") for ref in places):
        kinds.append("a new file")
    if any(not ref.startswith(("documents.", "declarations.", "signature", "fee")) for ref in places):
        kinds.append("a changed answer")
    if any(ref.startswith("declarations.") for ref in places):
        kinds.append("your tick")
    if "signature" in places:
        kinds.append("your signature")
    return " or ".join([*kinds, say("a few words")])
