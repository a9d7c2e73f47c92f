"""Blank forms of the office: what they are filled in with, and what is said of one that comes back, field by field."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal, InvalidOperation

from jolly_clerk.core.dossier.answers import AnswerFault, read_date
from jolly_clerk.core.dossier.differences import said_answer
from jolly_clerk.core.dossier.model import Answers, Attachment
from jolly_clerk.core.dossier.places import answer_at
from jolly_clerk.core.facts.file_findings import Finding
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.form import question_at
from jolly_clerk.core.ports import as_key
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.model import Slot
from jolly_clerk.core.say import say


@dataclass(frozen=True, slots=True)
class FormField:
    """A field of a blank form: what it asks, the place of the answer that it is filled in from and that answer in words, on how many lines."""

    id: str
    ask: str
    place: str
    known: str
    lines: int
    optional: bool


def fields_of(rulebook: Rulebook, slot: Slot, answers: Answers, item: str = "") -> tuple[FormField, ...]:
    """The fields of a slot's form with what is known; ``item`` is the number of the repeat to which the slot belongs."""
    made = []
    for line in slot.form:
        part, _, question = (line.from_ or "").partition(".")
        place = f"{part}.{item}.{question}" if item and part == slot.for_each else line.from_ or ""
        known = said_answer(rulebook, place, answer_at(answers, place)) if place else ""
        made.append(FormField(line.id, line.ask, place, known, line.lines, line.optional))
    return tuple(made)


def form_findings(rulebook: Rulebook, fields: Sequence[FormField], file: Attachment, reading: Reading) -> Iterator[Finding]:
    """What is to be said of a form that came back: fields that say otherwise than the answers, and fields that are empty.

    Nothing is said of a file that has none of the form's fields: one that was printed and filled in by hand.
    """
    there = {field.name: field for field in reading.fields}
    if not any(field.id in there for field in fields):
        return
    for field in fields:
        found = there.get(field.id)
        if found is None:
            if not field.optional:
                yield Finding("look", say("“{ask}” is empty in the form.", ask=field.ask), file.id)
        elif field.known and not _same(rulebook, field, found.text):
            told = {"ask": field.ask, "form": found.text, "known": field.known}
            yield Finding(
                "look",
                say("“{ask}” is “{form}” in the form, and “{known}” in your answers.", **told),
                file.id,
                found.page,
                found.box,
            )


def _same(rulebook: Rulebook, field: FormField, text: str) -> bool:
    """True if a field says what the answer says, however it is written."""
    if as_key(text) == as_key(field.known):
        return True
    asked = question_at(rulebook, field.place)
    kind = asked.question.type if asked else ""
    try:
        if kind == "date":
            return _day(text) == _day(field.known)
        if kind in ("number", "count", "money"):
            return _number(text) == _number(field.known)
    except (AnswerFault, InvalidOperation):
        return False
    return False


def _day(text: str) -> date:
    """A day, with or without its name before it."""
    first, _, rest = text.strip().partition(" ")
    return read_date(rest if first.rstrip(",.").isalpha() and rest[:1].isdigit() else text)


def _number(text: str) -> Decimal:
    return Decimal("".join(c for c in text if c.isdigit() or c == "."))
