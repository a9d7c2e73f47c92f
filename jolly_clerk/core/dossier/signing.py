"""What a signature covers, and what of it was changed since: a signature is never changed, but given anew."""

from __future__ import annotations

import hashlib
import json

from jolly_clerk.core.dossier.answers import is_open
from jolly_clerk.core.dossier.model import Dossier, Signing
from jolly_clerk.core.dossier.places import with_answer
from jolly_clerk.core.values import Raw

#: the encoder that each digest goes through, made once
_TEXT = json.JSONEncoder(sort_keys=True, default=str, ensure_ascii=False)


def covered(dossier: Dossier) -> dict[str, str]:
    """A digest of each part that has answers, of each slot that has files (``documents.SLOT``), and of each tick
    (``declarations.ID``)."""
    found = {part: _digest(kept) for part, given in dossier.answers.items() if (kept := _given(given))}
    in_slot: dict[str, list[str]] = {}
    for a in (one for one in dossier.attachments if one.issuer is None):  # nobody signs what others send straight to the office
        in_slot.setdefault(a.slot, []).append(a.sha256)
    found |= {f"documents.{slot}": _digest(sorted(in_slot[slot])) for slot in sorted(in_slot)}
    return found | {f"declarations.{d.id}": _digest(d.text) for d in dossier.declared}


def signed(dossier: Dossier, signing: Signing) -> Dossier:
    """Signed as it stands: what the office put right before is covered like everything else."""
    return dossier.model_copy(update={"signature": signing, "corrected": ()})


def changed_since_signed(dossier: Dossier) -> tuple[str, ...]:
    """The parts, slots and ticks that are not what was signed, in their order; none if nothing is signed, or it was signed before 0.4.0."""
    signing = dossier.signature
    if signing is None or not signing.covers:
        return ()
    now = covered(_as_signed(dossier))
    return tuple(place for place in dict.fromkeys((*now, *signing.covers)) if now.get(place) != signing.covers.get(place))


def _as_signed(dossier: Dossier) -> Dossier:
    """With the answers as they stood before the office put clerical errors right: nobody signs what was put right for them."""
    answers = dossier.answers
    for corrected in dossier.corrected:
        answers = with_answer(answers, corrected.place, corrected.was)
    return dossier.model_copy(update={"answers": answers}) if dossier.corrected else dossier


def _given(given: Raw) -> Raw:
    """The answers of a part that are not open; of one that repeats, item by item."""
    if isinstance(given, list):
        return [{key: raw for key, raw in item.items() if not is_open(raw)} for item in given if isinstance(item, dict)]
    return {key: raw for key, raw in given.items() if not is_open(raw)} if isinstance(given, dict) else {}


def _digest(value: Raw) -> str:
    return hashlib.sha256(_TEXT.encode(value).encode()).hexdigest()[:16]
