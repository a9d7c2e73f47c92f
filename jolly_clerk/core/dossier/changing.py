"""Changes of a dossier while it is prepared: files, ticks, what registers and profiles fill in, numbers of items, putting back.

Each takes a dossier and gives a new one; nothing here is kept.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime

from jolly_clerk.core.dossier.describing import volume_in
from jolly_clerk.core.dossier.model import Answers, Attachment, Corrected, Declared, Dossier, FileTold, Prefilled, Version
from jolly_clerk.core.dossier.places import answer_at, with_answer
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.values import Raw

#: the sources of what came from the applicant's account, of what was read in a paper, and of another filing of one's own
PROFILE, PAPER, PATTERN = "profile", "paper", "pattern"


class AlreadyThere(ValueError):
    """The same content stands in the slot already."""


def attach(dossier: Dossier, versions: Sequence[Version], slot: str, name: str, sha256: str, size: int) -> Dossier:
    """Put a file into a slot. One of the same name takes the place of the older one as its next version.

    An id is never given twice in a case: ``versions`` are those filed before. Raises AlreadyThere.
    """
    if any(a.sha256 == sha256 and a.slot == slot for a in dossier.attachments):
        raise AlreadyThere(name)
    volume = volume_in(name)
    told = FileTold(volume=volume) if volume else None
    new = Attachment(id=f"a{highest_file(dossier, versions) + 1}", slot=slot, name=name, sha256=sha256, size=size, told=told)
    older = next((a for a in dossier.attachments if a.slot == slot and a.name == name), None)
    if older is None:
        return dossier.model_copy(update={"attachments": (*dossier.attachments, new)})
    new = new.model_copy(update={"version": older.version + 1, "told": older.told})
    return dossier.model_copy(update={"attachments": tuple(new if a is older else a for a in dossier.attachments)})


def detach(dossier: Dossier, attachment: str) -> Dossier | None:
    """Without one file; None if it is not there."""
    left = tuple(a for a in dossier.attachments if a.id != attachment)
    return dossier.model_copy(update={"attachments": left}) if len(left) < len(dossier.attachments) else None


def highest_file(dossier: Dossier, versions: Sequence[Version]) -> int:
    """The highest number that a file of this case ever had."""
    return max((int(a.id[1:]) for d in (dossier, *(v.dossier for v in versions)) for a in d.attachments), default=0)


def exchange(dossier: Dossier, versions: Sequence[Version], first: str, second: str) -> Dossier | None:
    """With two files in each other's slots, under new ids; None if one of them is not there, or came from an issuer."""
    own = {a.id: a for a in dossier.attachments}
    if first not in own or second not in own:
        return None
    a, b = own[first], own[second]
    if a.issuer or b.issuer:
        return None
    for gone in (first, second):
        dossier = detach(dossier, gone) or dossier
    dossier = attach(dossier, versions, b.slot, a.name, a.sha256, a.size)
    return attach(dossier, versions, a.slot, b.name, b.sha256, b.size)


def tick(dossier: Dossier, declaration: str, text: str, at: datetime | None) -> Dossier:
    """A declaration ticked at an instant with its exact text, or (``at`` None) not any more."""
    kept = tuple(d for d in dossier.declared if d.id != declaration)
    fresh = (Declared(id=declaration, at=at, text=text),) if at else ()
    return dossier.model_copy(update={"declared": (*kept, *fresh)})


def answer(dossier: Dossier, answers: Answers) -> Dossier:
    """With other answers; the highest number that each item ever had is remembered, so that none comes back for another."""
    numbered = dict(dossier.numbered)
    for part, given in answers.items():
        highest = max(numbers_in(given), default=0)
        if highest > numbered.get(part, 0):
            numbered[part] = highest
    return dossier.model_copy(update={"answers": answers, "numbered": numbered})


def numbers_in(given: Raw) -> Iterable[int]:
    """The lasting numbers of the items of a part that repeats."""
    for position, item in enumerate(given if isinstance(given, list) else [], 1):
        number = str(item.get("id", position)) if isinstance(item, dict) else ""
        if number.isascii() and number.isdigit() and len(number) < 7:
            yield int(number)


def next_item(dossier: Dossier, versions: Sequence[Version], part: str) -> int:
    """The number of the next item of a part: one that no item of this case ever had."""
    dossiers = (dossier, *(v.dossier for v in versions))
    used = [n for d in dossiers for n in (*numbers_in(d.answers.get(part)), d.numbered.get(part, 0))]
    return max(used, default=0) + 1


def copied(answers: Answers) -> Answers:
    """Answers of which a part that stands once can be changed without touching the original."""
    return {part: dict(given) if isinstance(given, dict) else given for part, given in answers.items()}


def fill_from_register(
    dossier: Dossier, rulebook: Rulebook, name: str, key: str, told: Mapping[str, str], at: datetime, item: int = 0
) -> Dossier:
    """With what an entry of a register says, each answer with its source; ``told`` are its outer columns.

    With an ``item`` it goes into that repeat of the part in which the register is asked.
    """
    answers, filled = copied(dossier.answers), list[Prefilled]()
    for place, node in rulebook.questions.items():
        source, _, column = (node.question.register_ or "").partition(".")
        if source != name or not told.get(column) or node.part.each != bool(item):
            continue
        if item:
            place = f"{node.part.id}.{item}.{node.question.id}"
            answers = with_answer(answers, place, told[column])
        else:
            answers.setdefault(node.part.id, {})[node.question.id] = told[column]
        filled.append(Prefilled(place=place, source=name, key=key, value=told[column], at=at))
    places = {p.place for p in filled}
    others = tuple(p for p in dossier.prefilled if (item or p.source != name) and p.place not in places)
    silent = tuple(n for n in dossier.by_hand if n != name)
    return dossier.model_copy(update={"answers": answers, "prefilled": (*others, *filled), "by_hand": silent})


def take_from_papers(dossier: Dossier, taken: Iterable[tuple[str, Raw, str]], at: datetime) -> Dossier:
    """With answers that papers state: place, answer, and which paper says it; each is kept with its source."""
    answers, filled = copied(dossier.answers), list[Prefilled]()
    for place, value, paper in taken:
        answers = with_answer(answers, place, value)
        filled.append(Prefilled(place=place, source=PAPER, key=paper, value=str(value), at=at))
    places = {p.place for p in filled}
    others = tuple(p for p in dossier.prefilled if p.place not in places)
    return dossier.model_copy(update={"answers": answers, "prefilled": (*others, *filled)})


def by_hand(dossier: Dossier, name: str) -> Dossier:
    """A register did not answer: what it would have told is typed, and a person must look."""
    return dossier.model_copy(update={"by_hand": tuple(dict.fromkeys((*dossier.by_hand, name)))})


def begin(rulebook: Rulebook, profile: Mapping[str, str], answers: Answers, at: datetime) -> Dossier:
    """A new filing: the answers of the way in, and what the profile knows where nothing was answered yet, with its source."""
    begun, filled = copied(answers), list[Prefilled]()
    for place, node in rulebook.questions.items():
        source = node.question.profile
        if source is None or not profile[source] or node.part.each or node.question.id in begun.get(node.part.id, {}):
            continue
        if not node.question.options or any(o.id == profile[source] for o in rulebook.edition.lists[node.question.options]):
            begun.setdefault(node.part.id, {})[node.question.id] = profile[source]
            filled.append(Prefilled(place=place, source=PROFILE, key=source, value=profile[source], at=at))
    return Dossier(answers=begun, prefilled=tuple(filled))


def patterned(rulebook: Rulebook, answers: Answers, called: str, at: datetime) -> Dossier:
    """A new filing with the answers of another one that the form still asks for, each of a part that stands once with its source.

    Files, ticks and the signature belong to the other and stay there. ``called`` names it.
    """
    kept: Answers = {}
    for part, given in answers.items():
        known = rulebook.asked_in.get(part, frozenset()) | {"id"}
        if isinstance(given, list):
            kept[part] = [{q: raw for q, raw in item.items() if q in known} for item in given if isinstance(item, dict)]
        elif isinstance(given, dict):
            kept[part] = {q: raw for q, raw in given.items() if q in known and q != "id"}
    filled = tuple(
        Prefilled(place=f"{part}.{q}", source=PATTERN, key=called, value=str(raw), at=at)
        for part, given in kept.items()
        if isinstance(given, dict)
        for q, raw in given.items()
        if isinstance(raw, (str, int, float)) and not isinstance(raw, bool)
    )
    return answer(Dossier(prefilled=filled), kept)


def transferred(dossier: Dossier) -> Dossier:
    """As somebody else takes it over: answers and files stay; what the one before promised, signed and has in the profile does not."""
    own = tuple(given for given in dossier.prefilled if given.source != PROFILE)
    return dossier.model_copy(update={"signature": None, "declared": (), "prefilled": own})


def put_right(dossier: Dossier, place: str, value: Raw) -> Dossier:
    """With a clerical error in an answer put right; what stood there when it was signed is kept beside it."""
    known = {c.place for c in dossier.corrected}
    kept = () if place in known else (Corrected(place=place, was=answer_at(dossier.answers, place)),)
    return dossier.model_copy(
        update={"answers": with_answer(dossier.answers, place, value), "corrected": (*dossier.corrected, *kept)}
    )


def put_back(dossier: Dossier, filed: Dossier, place: str) -> Dossier:
    """With one place (an answer, a slot, a tick, the signature) as it was filed."""
    head, _, rest = place.partition(".")
    if head == "documents":
        kept = [a for a in dossier.attachments if a.slot != rest or a.issuer]
        there = {a.id for a in kept}
        back = (a for a in filed.attachments if a.slot == rest and a.id not in there)
        return dossier.model_copy(update={"attachments": (*kept, *back)})
    if head == "declarations":
        ticks = [d for d in dossier.declared if d.id != rest]
        return dossier.model_copy(update={"declared": (*ticks, *(d for d in filed.declared if d.id == rest))})
    if place == "signature":
        return dossier.model_copy(update={"signature": filed.signature})
    answers, before = copied(dossier.answers), filed.answers.get(head)
    if isinstance(before, list) or isinstance(answers.get(head), list):
        answers[head] = before
    elif isinstance(before, dict) and rest in before:
        answers.setdefault(head, {})[rest] = before[rest]
    else:
        answers.get(head, {}).pop(rest, None)
    return dossier.model_copy(update={"answers": answers})
