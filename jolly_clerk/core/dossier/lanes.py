"""What of a dossier belongs to which lane: the answers to a letter change the lane that it was sent in, and nothing else."""

from __future__ import annotations

from typing import Any

from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.rulebook.compiled import Rulebook


def take_lane(rulebook: Rulebook, filed: Dossier, draft: Dossier, lane: str) -> Dossier:
    """``filed`` with what ``draft`` says in ``lane`` (nothing for the common one). A repeat that is new in the draft comes with the
    common lane, and so does one that is gone from it."""
    lanes = rulebook.edition.lanes
    if lanes is None:
        return draft
    kept = [a for a in filed.attachments if rulebook.lane_of(f"documents.{a.slot}") != lane]
    come = [a for a in draft.attachments if rulebook.lane_of(f"documents.{a.slot}") == lane]
    before, after = _items(filed, lanes.each), _items(draft, lanes.each)
    if lane:
        items = {no: after.get(no, item) if f"{lanes.each}.{no}" == lane else item for no, item in before.items()}
        answers = {**filed.answers, lanes.each: list(items.values())}
        told = {
            "answers": answers,
            "attachments": (*kept, *come),
            "note": draft.note,
            "signature": draft.signature,
            "dockets": draft.dockets,
        }
        return filed.model_copy(update=told)
    answers = {**draft.answers, lanes.each: [before.get(no, item) for no, item in after.items()]}
    fresh = [
        a for a in draft.attachments if (own := rulebook.lane_of(f"documents.{a.slot}")) and own.partition(".")[2] not in before
    ]
    kept = [a for a in kept if rulebook.lane_of(f"documents.{a.slot}").partition(".")[2] in after]
    return draft.model_copy(update={"answers": answers, "attachments": (*come, *kept, *fresh)})


def _items(dossier: Dossier, part: str) -> dict[str, Any]:
    given = dossier.answers.get(part)
    listed = [i for i in given if isinstance(i, dict)] if isinstance(given, list) else []
    return {str(item.get("id", n)): item for n, item in enumerate(listed, 1)}
