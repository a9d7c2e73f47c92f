"""One answer by its place, ``works.area`` or ``persons.2.name``: looked up, and set in a copy."""

from __future__ import annotations

from jolly_clerk.core.dossier.model import Answers
from jolly_clerk.core.values import Raw


def answer_at(answers: Answers, place: str) -> Raw:
    """What was answered at a place; None if nothing was."""
    part, _, rest = place.partition(".")
    item, _, question = rest.rpartition(".")
    given = answers.get(part)
    if isinstance(given, list):
        given = next((i for i in given if isinstance(i, dict) and str(i.get("id", "")) == item), None)
    return given.get(question) if isinstance(given, dict) else None


def with_answer(answers: Answers, place: str, value: Raw) -> Answers:
    """A copy of the answers with one of them set; nothing changes where its item is not there."""
    part, _, rest = place.partition(".")
    item, _, question = rest.rpartition(".")
    given = answers.get(part)
    if isinstance(given, list):
        new: Raw = [{**i, question: value} if isinstance(i, dict) and str(i.get("id", "")) == item else i for i in given]
    elif item:
        return answers
    else:
        new = {**(given if isinstance(given, dict) else {}), question: value}
    return {**answers, part: new}
