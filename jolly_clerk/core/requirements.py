"""What must be there or must hold, each with its standing and why.

The machine proposes a standing; a given one, drawn from the history, wins as long as the evidence
that it was given on has not changed. The checklist itself is made in :mod:`jolly_clerk.core.checklist`.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from jolly_clerk.core.dossier.differences import raw_answers
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.agreement import AgreementView
from jolly_clerk.core.facts.findings import Finding
from jolly_clerk.core.fees.sheet import FeeSheet
from jolly_clerk.core.lifecycle import CaseSoFar

Standing = Literal["met", "wanting", "in doubt", "to read", "waived", "not asked", "not known yet"]
Kind = Literal["answer", "document", "rule", "agreement", "prerequisite", "signature", "fee", "added"]


#: so many places are remembered with each rulebook
MOST_PLACES = 5000


@dataclass(frozen=True, slots=True)
class Place:
    """Somewhere a link can go: a question (``works.area``), a slot (``documents.site_plan``), ``signature`` or ``fee``."""

    ref: str
    label: str


@dataclass(frozen=True, slots=True)
class Given:
    """A standing that an officer gave. ``holds`` is False when the evidence changed since."""

    standing: Standing
    who: str
    at: datetime
    reason: str
    holds: bool


@dataclass(frozen=True, slots=True)
class Offer:
    """A catalogue entry for the wording of a point, with the values of this case put in."""

    id: str
    title: str
    text: str


@dataclass(frozen=True, slots=True)
class Requirement:
    """One line of the checklist. ``standing`` is the given one if it holds, else the proposed one.

    One that does not stop filing is what a third party delivers, or what has a time of its own after filing. ``item``
    (``persons.2``) is the repeat that it is made for, ``lane`` the lane in which it is judged, ``named`` the office's name
    for the file of a document.
    """

    id: str
    kind: Kind
    title: str
    group: str
    says: str
    article: str
    proposed: Standing
    given: Given | None
    standing: Standing
    because: str
    put_right: str
    places: tuple[Place, ...]
    findings: tuple[Finding, ...]
    files: tuple[Attachment, ...]
    table: AgreementView | None = None
    stops_filing: bool = True
    item: str = ""
    lane: str = ""
    named: str = ""

    @property
    def asked(self) -> bool:
        """True if it counts: neither not asked nor still hanging on an open question."""
        return self.proposed not in ("not asked", "not known yet") or (self.given is not None and self.given.holds)

    @property
    def judged(self) -> bool:
        """True if an officer gave a standing that still holds."""
        return self.given is not None and self.given.holds


def evidence(dossier: Dossier, case: CaseSoFar, fees: FeeSheet, places: Sequence[str]) -> str:
    """What a judgement looked at, as a short hash: the answers and files at its places. Readings are left out,
    so reading a file again never changes a standing that was given."""
    in_slot: dict[str, list[Attachment]] = {}
    for a in dossier.attachments:
        in_slot.setdefault(a.slot, []).append(a)
    return evidence_at(dossier, case, fees, places, raw_answers(dossier), in_slot)


def evidence_at(
    dossier: Dossier,
    case: CaseSoFar,
    fees: FeeSheet,
    places: Sequence[str],
    flat: Mapping[str, Any],
    in_slot: Mapping[str, Sequence[Attachment]],
) -> str:
    """As :func:`evidence`, over the flat answers and the files by slot."""
    looked: list[str] = []
    for ref in places:
        looked.append(ref)
        if ref.startswith("documents."):
            looked += sorted(f"{a.sha256} {a.name}" for a in in_slot.get(ref[len("documents.") :], ()))
        elif ref == "signature":
            signed = dossier.signature
            looked.append(f"{signed.name}\n{signed.at.isoformat()}\n{signed.text}" if signed else "")
        elif ref == "fee":
            looked += [str(fees.total("at filing").amount), str(case.came_for_filing)]
        else:
            looked.append(str(flat.get(ref, "")))
    return hashlib.sha256("\0".join(looked).encode()).hexdigest()[:16]
