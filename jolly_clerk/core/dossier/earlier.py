"""People, sites and other repeats that were named in earlier filings, offered before they are typed again."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from jolly_clerk.core.dossier.answers import is_open
from jolly_clerk.core.dossier.changing import PATTERN, answer, next_item
from jolly_clerk.core.dossier.model import Answers, Dossier, Prefilled, Version
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.searching import folded

#: so many are offered
MOST_OFFERED = 100


@dataclass(frozen=True, slots=True)
class Named:
    """Somebody or something that an earlier filing names: what it is called, in which filing, and the answers that this form asks too."""

    key: str
    label: str
    called: str
    answers: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Filing:
    """An earlier filing: what it is called, under which rules, with which answers."""

    called: str
    rules: Rulebook
    answers: Answers


def named_before(rules: Rulebook, part: str, here: Answers, filings: Iterable[Filing]) -> list[Named]:
    """What earlier filings name that fits a part that repeats, each once, those of the first filings first; not what stands there already.

    An item fits if it answers the question by which the items of this part are called, and that one asks for the same sort of thing.
    """
    called_by = _called_by(rules, part)
    if called_by is None:
        return []
    seen = {folded(str(item.get(called_by) or "")) for item in _items(here.get(part))}
    found = list[Named]()
    for filing in filings:
        for other, given in filing.answers.items():
            if other not in filing.rules.parts or not _same(rules, part, filing.rules, other, called_by):
                continue
            for item in _items(given):
                label = " ".join(str(item.get(called_by) or "").split())
                if not label or folded(label) in seen:
                    continue
                seen.add(folded(label))
                key = hashlib.sha256(f"{filing.called}\0{other}\0{label}".encode()).hexdigest()[:16]
                taken = {q: raw for q, raw in item.items() if not is_open(raw) and _same(rules, part, filing.rules, other, q)}
                found.append(Named(key, label, filing.called, taken))
                if len(found) >= MOST_OFFERED:
                    return found
    return found


def with_named(dossier: Dossier, versions: Sequence[Version], part: str, chosen: Sequence[Named], at: datetime) -> Dossier:
    """With these as further items of a part, each answer with the filing that it comes from."""
    items, filled = [*_items(dossier.answers.get(part))], list[Prefilled]()
    for named in chosen:
        number = next_item(answer(dossier, {**dossier.answers, part: items}), versions, part)
        items.append({"id": number, **named.answers})
        filled += [
            Prefilled(place=f"{part}.{number}.{q}", source=PATTERN, key=named.called, value=str(raw), at=at)
            for q, raw in named.answers.items()
            if isinstance(raw, (str, int, float)) and not isinstance(raw, bool)
        ]
    changed = answer(dossier, {**dossier.answers, part: items})
    return changed.model_copy(update={"prefilled": (*changed.prefilled, *filled)})


def _called_by(rules: Rulebook, part: str) -> str | None:
    """The question by which the items of a part are called: the first for a person, else the first for a text or a place."""
    asked = [q for q in rules.parts[part].questions if q.type in ("person", "text", "place")] if part in rules.parts else []
    first = next((q for q in asked if q.type == "person"), asked[0] if asked else None)
    return first.id if first is not None and rules.parts[part].each else None


def _same(rules: Rulebook, part: str, others: Rulebook, other: str, question: str) -> bool:
    """True if both parts repeat and ask a question of this name for the same sort of thing."""
    here, there = rules.questions.get(f"{part}.{question}"), others.questions.get(f"{other}.{question}")
    return here is not None and there is not None and there.part.each and here.question.type == there.question.type


def _items(given: object) -> list[dict[str, Any]]:
    return [item for item in given if isinstance(item, dict)] if isinstance(given, list) else []
