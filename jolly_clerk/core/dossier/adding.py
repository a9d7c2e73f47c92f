"""What an applicant adds to a filed case without being asked: a repeat of a part, or the answer to a question.

``adds`` names it in all of these: the id of a part that repeats, or the place of a question, ``service.exam_on``.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import date

from jolly_clerk.core.dossier.changing import numbers_in
from jolly_clerk.core.dossier.model import Answers, Dossier
from jolly_clerk.core.dossier.places import answer_at, with_answer
from jolly_clerk.core.dossier.signing import covered
from jolly_clerk.core.numbers import whole_number
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.values import Raw


def take_added(rulebook: Rulebook, filed: Dossier, draft: Dossier, adds: str, today: date) -> Dossier:
    """``filed`` with what ``draft`` adds to it, and nothing else of the draft but its signature.

    The answer to a question that is answered *on the day* is ``today``.
    """
    if adds in rulebook.questions:
        asked = rulebook.questions[adds].question
        value = today.isoformat() if asked.later == "on the day" else answer_at(draft.answers, adds)
        return filed.model_copy(update={"answers": with_answer(filed.answers, adds, value), "signature": draft.signature})
    new = fresh_items(filed, draft, adds)
    items = [item for item in _items(draft.answers, adds) if item.get("id") in new]
    there = {a.id for a in filed.attachments}
    files = [a for a in draft.attachments if a.id not in there and _belongs(a.slot, adds, new, rulebook)]
    given = [p for p in draft.prefilled if _item_of(p.place, adds) in new]
    numbered = {**filed.numbered, adds: max(draft.numbered.get(adds, 0), filed.numbered.get(adds, 0))}
    return filed.model_copy(
        update={
            "answers": {**filed.answers, adds: [*_items(filed.answers, adds), *items]},
            "attachments": (*filed.attachments, *files),
            "prefilled": (*filed.prefilled, *given),
            "signature": draft.signature,
            "numbered": numbered,
        }
    )


def without_added(rulebook: Rulebook, now: Dossier, before: Dossier, after: Dossier, adds: str) -> Dossier:
    """``now`` without what was added between two versions of it, ``before`` and ``after``; what else was changed since stays.

    Where nothing else was, it is what was filed before, with its signature.
    """
    if now == after:
        return before
    if adds in rulebook.questions:
        answers = with_answer(now.answers, adds, answer_at(before.answers, adds))
        return _as_signed(now.model_copy(update={"answers": answers}))
    gone = fresh_items(before, after, adds)
    items = [item for item in _items(now.answers, adds) if item.get("id") not in gone]
    files = tuple(a for a in now.attachments if not _belongs(a.slot, adds, gone, rulebook))
    return _as_signed(now.model_copy(update={"answers": {**now.answers, adds: items}, "attachments": files}))


def _as_signed(dossier: Dossier) -> Dossier:
    """With a signature that covers what is left: nobody has to sign that something was taken out."""
    signature = dossier.signature and dossier.signature.model_copy(update={"covers": covered(dossier)})
    return dossier.model_copy(update={"signature": signature})


def fresh_items(filed: Dossier, draft: Dossier, part: str) -> frozenset[int]:
    """The numbers of the repeats of a part that a draft has and the filing has not."""
    return frozenset(numbers_in(draft.answers.get(part))) - frozenset(numbers_in(filed.answers.get(part)))


def is_added(place: str, adds: str, items: Iterable[int], rulebook: Rulebook) -> bool:
    """True for a place of what is added: of the question itself, or of one of these repeats and its documents."""
    if place == adds:
        return True
    if place.startswith("documents."):
        return _belongs(place.removeprefix("documents."), adds, frozenset(items), rulebook)
    return _item_of(place, adds) in items


def _belongs(slot: str, part: str, items: frozenset[int], rulebook: Rulebook) -> bool:
    name, _, number = slot.partition(".")
    compiled = rulebook.slots.get(name)
    return bool(compiled and compiled.slot.for_each == part and whole_number(number) in items)


def _item_of(place: str, part: str) -> int:
    """The number of the repeat of a part in which a place lies; -1 for any other place."""
    head, _, rest = place.partition(".")
    number = whole_number(rest.partition(".")[0])
    return number if head == part and number is not None else -1


def _items(answers: Answers, part: str) -> list[dict[str, Raw]]:
    given = answers.get(part)
    return [_numbered(item, n) for n, item in enumerate(given, 1) if isinstance(item, dict)] if isinstance(given, list) else []


def _numbered(item: dict[str, Raw], position: int) -> dict[str, Raw]:
    number = whole_number(item.get("id", position))
    return item if number is None else {**item, "id": number}


def places_that_stay(rulebook: Rulebook, places: Iterable[str], adds: str, items: Iterable[int]) -> Iterator[str]:
    """Of all places of a filing those that stay as they were filed while something is added; a part that takes no further repeat too."""
    own = frozenset(items)
    if adds in rulebook.questions and rulebook.questions[adds].question.later == "on the day":
        yield adds
    yield from (part.id for part in rulebook.edition.parts if part.each and part.id != adds)
    yield from (place for place in places if place != "signature" and not is_added(place, adds, own, rulebook))
