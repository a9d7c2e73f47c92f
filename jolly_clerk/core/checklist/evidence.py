"""What a judgement looked at: the answers and files at its places, as a short hash that is kept with it."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from functools import cached_property
from typing import Any

from jolly_clerk.core.dossier.differences import raw_answers
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.fees.lines import FeeSheet
from jolly_clerk.core.lifecycle import CaseSoFar


class Evidence:
    """The evidence at places; each place is looked at once."""

    def __init__(self, dossier: Dossier, case: CaseSoFar, fees: FeeSheet) -> None:
        self.dossier, self.case, self.fees = dossier, case, fees
        self.in_slot: dict[str, list[Attachment]] = {}
        for a in dossier.attachments:
            self.in_slot.setdefault(a.slot, []).append(a)
        self._told: dict[str, str] = {}

    @cached_property
    def flat(self) -> dict[str, Any]:
        """The given answers by place."""
        return raw_answers(self.dossier)

    def at(self, places: Sequence[str]) -> str:
        """A short hash of what stands at some places. Readings are left out, so reading a file again never changes a
        standing that was given."""
        told = self._told
        for ref in places:
            if ref not in told:
                told[ref] = self._at(ref)
        return hashlib.sha256("\0".join([told[ref] for ref in places]).encode()).hexdigest()[:16]

    def _at(self, ref: str) -> str:
        if ref.startswith("documents."):
            files = sorted(f"{a.sha256} {a.name}" for a in self.in_slot.get(ref[len("documents.") :], ()))
            return "\0".join([ref, *files])
        if ref.startswith("declarations."):
            ticked = next((d for d in self.dossier.declared if d.id == ref[len("declarations.") :]), None)
            return f"{ref}\0{ticked.text if ticked else ''}"
        if ref == "signature":
            signed = self.dossier.signature
            if signed is None:
                return f"{ref}\0"
            sheet = f"\n{signed.sheet.sha256}" if signed.sheet else ""
            return f"{ref}\0{signed.name}\n{signed.at.isoformat()}\n{signed.text}{sheet}"
        if ref == "fee":
            return f"{ref}\0{self.fees.total('at filing').amount}\0{self.case.came_for_filing}"
        return f"{ref}\0{self.flat.get(ref, '')}"
