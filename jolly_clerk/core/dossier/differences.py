"""What changed between two versions of a dossier, place by place."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal

from jolly_clerk.core.dossier.answers import answer_in_words, is_open
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.form import question_at
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.values import Raw


@dataclass(frozen=True, slots=True)
class Difference:
    """One change. ``place`` is a ref; ``was`` and ``now`` are in words, empty where there was nothing. ``title`` is the label of a file
    without the page it stands on."""

    place: str
    label: str
    kind: Literal["answer", "file added", "file removed", "file replaced", "declaration", "signature"]
    was: str
    now: str
    title: str = ""


def differences(rulebook: Rulebook, before: Dossier, after: Dossier) -> list[Difference]:
    """Everything that differs, answers first, then files by slot, then declarations and the signature."""
    return [
        *_answers(rulebook, before, after),
        *_files(rulebook, before, after),
        *_declared(rulebook, before, after),
        *_signature(before, after),
    ]


def raw_answers(dossier: Dossier) -> dict[str, Any]:
    """The given answers by place; for repeats ``part.n.question``."""
    flat: dict[str, Any] = {}
    for part, given in dossier.answers.items():
        if isinstance(given, dict):
            flat.update({f"{part}.{q}": raw for q, raw in given.items() if not is_open(raw)})
        elif isinstance(given, list):
            for n, item in enumerate(given, 1):
                if isinstance(item, dict):
                    no = item.get("id", n)
                    flat.update({f"{part}.{no}.{q}": raw for q, raw in item.items() if q != "id" and not is_open(raw)})
    return flat


def said_answer(rulebook: Rulebook, place: str, raw: Raw) -> str:
    """A raw answer in words: the title of an option, the number with its unit, an amount with its currency, rows one after the other."""
    if is_open(raw):
        return ""
    asked = question_at(rulebook, place)
    return str(raw) if asked is None else answer_in_words(asked, raw, rulebook.edition.currency)


def _answers(rulebook: Rulebook, before: Dossier, after: Dossier) -> Iterator[Difference]:
    old, new = raw_answers(before), raw_answers(after)
    order = {key: n for n, key in enumerate(rulebook.questions)}
    touched = {place for place in {*old, *new} if old.get(place) != new.get(place)}
    for place in sorted(touched, key=lambda p: (order.get(p, len(order)), p)):
        was, now = said_answer(rulebook, place, old.get(place)), said_answer(rulebook, place, new.get(place))
        if was != now:
            yield Difference(place, rulebook.label(place), "answer", was, now, rulebook.label(place))


def _files(rulebook: Rulebook, before: Dossier, after: Dossier) -> Iterator[Difference]:
    names = {a.slot for a in (*before.attachments, *after.attachments)}
    order = list(rulebook.slots)
    for slot in sorted(
        names, key=lambda n: (order.index(n.partition(".")[0]) if n.partition(".")[0] in order else len(order), n)
    ):
        old = [a for a in before.attachments if a.slot == slot]
        new = [a for a in after.attachments if a.slot == slot]
        gone = [a for a in old if not any(b.sha256 == a.sha256 and b.name == a.name for b in new)]
        come = [a for a in new if not any(b.sha256 == a.sha256 and b.name == a.name for b in old)]
        place = f"documents.{slot}"
        label, title = rulebook.label(place), rulebook.slot_title(place)
        for a, b in zip(gone, come, strict=False):
            yield Difference(place, label, "file replaced", a.name, b.name, title)
        for a in gone[len(come) :]:
            yield Difference(place, label, "file removed", a.name, "", title)
        for b in come[len(gone) :]:
            yield Difference(place, label, "file added", "", b.name, title)


def _declared(rulebook: Rulebook, before: Dossier, after: Dossier) -> Iterator[Difference]:
    old, new = ({d.id: d.text for d in dossier.declared} for dossier in (before, after))
    for id_ in dict.fromkeys((*old, *new)):
        if old.get(id_) != new.get(id_):
            place = f"declarations.{id_}"
            was, now = ("ticked" if id_ in told else say("not ticked") for told in (old, new))
            yield Difference(place, rulebook.label(place), "declaration", was, now)


def _signature(before: Dossier, after: Dossier) -> Iterator[Difference]:
    was, now = (s.name if s else "" for s in (before.signature, after.signature))
    if before.signature != after.signature:
        yield Difference("signature", say("Promise and sign"), "signature", was, now)
