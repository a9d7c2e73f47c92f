"""What is usual at a question: an answer that follows from others, offered where nothing is answered yet, never put there by itself."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from jolly_clerk.core.absence import is_absent
from jolly_clerk.core.dossier.differences import said_answer
from jolly_clerk.core.facts.agreement import written
from jolly_clerk.core.form import Own, Sheet
from jolly_clerk.core.rulebook.compiled import AskedQuestion


@dataclass(frozen=True, slots=True)
class Usual:
    """An answer that is usual at ``places`` of one question that are still open: ``raw`` as it is written there, ``said`` in words."""

    question: str
    ask: str
    raw: str
    said: str
    places: tuple[str, ...]


def usual_answers(sheet: Sheet, part: str) -> tuple[Usual, ...]:
    """What is usual in a part, question by question, the same answer once."""
    found: dict[tuple[str, str], list[str]] = {}
    nodes = [node for node in sheet.rulebook.questions.values() if node.part.id == part and node.usual is not None]
    for node in nodes:
        for place, values in _open(sheet, node):
            value = node.usual.value(values) if node.usual else None
            if value is not None and not is_absent(value):
                found.setdefault((node.key, written(value)), []).append(place)
    asks = {node.key: node.question.ask for node in nodes}
    return tuple(
        Usual(key, asks[key], raw, said_answer(sheet.rulebook, places[0], raw), tuple(places))
        for (key, raw), places in found.items()
    )


def _open(sheet: Sheet, node: AskedQuestion) -> Iterator[tuple[str, Own | dict[str, object]]]:
    """The places of a question that are asked and not answered, each with the names that its rule may read."""
    part, question = node.part.id, node.question.id
    each = ((f"{part}.{own.item['id']}.{question}", own) for own in sheet.items.get(part, ()))
    for place, values in each if node.part.each else [(node.key, sheet.values)]:
        if sheet.asked.get(place) is True and place not in sheet.raw:
            yield place, values
