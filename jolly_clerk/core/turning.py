"""A filing turned into one of another kind: which of its answers go along."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from jolly_clerk.core.dossier.model import Answers
from jolly_clerk.core.rulebook.compiled import Rulebook


def answers_kept(old: Rulebook, new: Rulebook, answers: Answers) -> Answers:
    """The answers whose questions have the same id and type in both kinds, wherever they stand in the new one."""
    types = {(n.part.id, n.question.id): n.question.type for n in old.questions.values()}
    places = {(n.question.id, n.question.type): n.part.id for n in new.questions.values() if not n.part.each}
    repeated = {(n.part.id, n.question.id): n.question.type for n in new.questions.values() if n.part.each}
    kept: dict[str, Any] = {}
    for part, given in answers.items():
        if isinstance(given, Mapping):
            for question, raw in given.items():
                kind = types.get((part, question))
                target = places.get((question, kind)) if kind else None
                if target is not None:
                    kept.setdefault(target, {}).setdefault(question, raw)
        elif isinstance(given, list):
            rows = [
                {q: raw for q, raw in item.items() if q == "id" or repeated.get((part, q), "") == types.get((part, q))}
                for item in given
                if isinstance(item, Mapping)
            ]
            if any(len(row) > 1 for row in rows):
                kept[part] = rows
    return kept
