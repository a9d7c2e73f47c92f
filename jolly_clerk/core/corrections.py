"""Points, rounds and answers: what the next letter asks, and whether every point was answered."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal

from jolly_clerk.core.checklist import Offer, Place, Requirement
from jolly_clerk.core.checklist.by_hand import OWN_SLOT, places_of
from jolly_clerk.core.dossier.differences import Difference, differences
from jolly_clerk.core.dossier.model import Dossier, Version
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.in_words import all_of
from jolly_clerk.core.lifecycle import CaseSoFar, PointState, RoundSoFar
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say


@dataclass(frozen=True, slots=True)
class PointToAsk:
    """A point of the next letter. ``worded`` tells whether the officer wrote the text or the machine proposes it, ``needs`` what
    the applicant will be told that it needs."""

    no: int
    requirement: str
    title: str
    text: str
    places: tuple[Place, ...]
    article: str
    worded: bool
    also: tuple[str, ...] = ()
    needs: str = ""


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
    """A change that nobody asked for, and whether the officer took it as it is, or asks about it in the next letter."""

    change: Difference
    taken: bool
    questioned: bool = False


def offers(rulebook: Rulebook, requirement: Requirement, sheet: Sheet) -> tuple[Offer, ...]:
    """The catalogue's wordings for a requirement, with this case's values put in."""
    target: str = "declarations" if requirement.kind == "declaration" else requirement.kind
    if target in ("document", "rule", "agreement", "prerequisite"):
        target = requirement.id.removeprefix("documents.").removesuffix("." + requirement.item.partition(".")[2])
    values = sheet.told(requirement.item)
    apart = "there" if not requirement.files else "missing"  # what does not fit what is there
    found = [(reason, text) for reason, text in rulebook.reasons_for(target) if reason.fits != apart]
    own = tuple(Offer(reason.id, reason.title, text.fill(values).strip()) for reason, text in found)
    return own + (_of_any_file(requirement) if requirement.kind == "document" and requirement.files else ())


def _of_any_file(requirement: Requirement) -> tuple[Offer, ...]:
    """What can be wrong with any file that is there."""
    name, title = requirement.files[-1].name, requirement.plain_title
    return (
        Offer(
            "unreadable",
            say("Not readable"),
            say("“{name}” cannot be read well enough. Send it again, sharp and whole.", name=name),
        ),
        Offer(
            "other-paper", say("Another paper"), say("“{name}” is not what is asked here. Send: {title}.", name=name, title=title)
        ),
        Offer(
            "incomplete", say("Not whole"), say("“{name}” is not whole: a page or a part is missing. Send it whole.", name=name)
        ),
    )


def proposed_words(rulebook: Rulebook, requirement: Requirement, sheet: Sheet) -> str:
    """What the machine would write for a point: the exact complaint first, else the catalogue's first wording."""
    if requirement.kind == "answer":
        return f"{requirement.because} {requirement.put_right}".strip()
    if requirement.kind == "fee" and requirement.put_right:
        return requirement.put_right
    if requirement.put_right and requirement.files and requirement.kind == "document":
        return say("{put_right} Please send it anew.", put_right=requirement.put_right)
    if requirement.put_right and requirement.files:
        return requirement.put_right
    found = offers(rulebook, requirement, sheet)
    return found[0].text if found else requirement.put_right or say("Please put right: {title}.", title=requirement.title)


def points_to_ask(rulebook: Rulebook, found: Sequence[Requirement], case: CaseSoFar, sheet: Sheet) -> tuple[PointToAsk, ...]:
    """Every requirement that an officer found wanting, as the points of the next letter."""
    again = {p.asked.requirement: p.again for p in (case.round.points.values() if case.round else ()) if p.state == "asked again"}
    wanting = {r.id: r for r in found if r.judged and r.standing == "wanting"}
    groups = [[id_ for id_ in group if id_ in wanting] for group in case.arranged]
    placed = {id_ for group in groups for id_ in group}
    groups += _together([wanting[id_] for id_ in wanting if id_ not in placed])
    points = []
    for no, group in enumerate((g for g in groups if g), 1):
        own_words = [case.worded.get(id_) or again.get(id_) for id_ in group]
        said = [own or proposed_words(rulebook, wanting[id_], sheet) for id_, own in zip(group, own_words, strict=True)]
        whole = case.worded.get("+".join(group)) or (None if any(own_words) else _wider(case.worded, group, wanting))
        members = [wanting[id_] for id_ in group]
        places = tuple(dict.fromkeys(p for r in members for p in r.places if p.ref != r.id or r.kind != "added"))
        articles = ", ".join(dict.fromkeys(r.article for r in members if r.article))
        title = all_of(list(dict.fromkeys(r.asks for r in members)))
        text = whole or "\n".join(dict.fromkeys(said))
        worded, needs = bool(whole or any(own_words)), missing_from([p.ref for p in places], "", ())
        points.append(PointToAsk(no, group[0], title, text, places, articles, worded, tuple(group[1:]), needs))
    return tuple(points)


def _wider(worded: Mapping[str, str], group: Sequence[str], wanting: Collection[str]) -> str | None:
    """The words of a point that was wider: a requirement of it is wanting no more, and what was written for all of it stays."""
    for key, text in reversed(list(worded.items())):
        ids = key.split("+")
        if set(group) < set(ids) and next(id_ for id_ in ids if id_ in wanting) in group:
            return text
    return None


def _together(wanting: Sequence[Requirement]) -> list[list[str]]:
    """One fault, one point: a document joins the first requirement that looks into its slot."""
    groups: dict[str, list[str]] = {r.id: [r.id] for r in wanting}
    for document in (r for r in wanting if r.kind == "document"):
        of = next((r for r in wanting if r.kind != "document" and any(p.ref == document.id for p in r.places)), None)
        if of is not None and document.files:
            groups[of.id].append(document.id)
            del groups[document.id]
    return list(groups.values())


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
    asked_places = {ref for p in a_round.points.values() for ref in p.asked.places}
    changes = [
        c
        for c in differences(rulebook, base, dossier)
        if c.place in asked_places or (rulebook.lane_of(c.place) == lane and not c.place.startswith(OWN_SLOT))
    ]
    sent_in = _sent_in(base, dossier)
    questioned = {(entry.about, entry.version) for entry in case.added if entry.about}
    points = tuple(_point(rulebook, a_round, p.asked.no, changes, words) for p in a_round.points.values())
    unasked = tuple(
        Unasked(c, (c.place, a_round.answer_version) in case.taken, (c.place, a_round.answer_version) in questioned)
        for c in changes
        if c.place not in asked_places and c.place not in sent_in and c.kind != "signature"
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


def _sent_in(base: Dossier, dossier: Dossier) -> set[str]:
    """The slots in which nothing changed but that an issuer sent something: nobody has to take that, or can undo it."""

    def own(of: Dossier, slot: str) -> list[str]:
        return sorted(a.sha256 for a in of.attachments if a.slot == slot and a.issuer is None)

    slots = {a.slot for a in dossier.attachments if a.issuer}
    return {f"documents.{slot}" for slot in slots if own(base, slot) == own(dossier, slot)}


def _point(rulebook: Rulebook, a_round: RoundSoFar, no: int, changes: list[Difference], words: dict[int, str]) -> PointView:
    point = a_round.points[no]
    own = tuple(c for c in changes if c.place in point.asked.places)
    said = point.words if a_round.answered_at else words.get(no, "")
    state: PointState = point.state
    needs = ""
    if not a_round.answered_at:
        needs = missing_from(point.asked.places, said, own)
        state = "open" if needs else "answered"
    places = places_of([Place(ref, rulebook.label(ref)) for ref in point.asked.places], point.asked.title)
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
    if words.strip() or changes or tuple(places) == ("fee",):
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
