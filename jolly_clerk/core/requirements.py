"""What must be there or must hold, each with its standing and why.

The machine proposes a standing; a given one, drawn from the history, wins as long as the evidence
that it was given on has not changed. The checklist itself is made in :mod:`jolly_clerk.core.checklist`.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import TYPE_CHECKING, Any, Literal, NamedTuple

from jolly_clerk.core.dossier.differences import raw_answers
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.agreement import AgreementView
from jolly_clerk.core.facts.findings import Finding
from jolly_clerk.core.fees.sheet import FeeSheet
from jolly_clerk.core.lifecycle import CaseSoFar

Standing = Literal["met", "wanting", "in doubt", "to read", "waived", "not asked", "not known yet"]
Kind = Literal["answer", "document", "rule", "agreement", "prerequisite", "declaration", "signature", "fee", "added"]


#: so many places are remembered with each rulebook
MOST_PLACES = 5000


@dataclass(frozen=True, slots=True)
class Place:
    """Somewhere a link can go: a question (``works.area``), a slot (``documents.site_plan``), a declaration
    (``declarations.costs``), ``signature`` or ``fee``."""

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


class Words(NamedTuple):
    """What a requirement says: all of it but its standing. Made when it is first looked at."""

    group: str
    says: str
    article: str
    because: str
    put_right: str
    places: tuple[Place, ...]
    findings: tuple[Finding, ...] = ()
    files: tuple[Attachment, ...] = ()
    table: AgreementView | None = None
    item: str = ""
    named: str = ""


@dataclass(frozen=True)
class Requirement:
    """One line of the checklist. ``standing`` is the given one if it holds, else the proposed one.

    One that does not stop filing is what a third party delivers, or what has a time of its own after filing. ``item``
    (``persons.2``) is the repeat that it is made for, ``lane`` the lane in which it is judged, ``named`` the office's name
    for the file of a document. The standing is there at once; all else is worked out when it is first looked at.
    """

    id: str
    kind: Kind
    title: str
    proposed: Standing
    given: Given | None
    standing: Standing
    stops_filing: bool
    lane: str
    group: str
    says: str
    article: str
    because: str
    put_right: str
    places: tuple[Place, ...]
    findings: tuple[Finding, ...]
    files: tuple[Attachment, ...]
    table: AgreementView | None
    item: str
    named: str

    @staticmethod
    def at_first(
        id_: str,
        kind: Kind,
        title: str,
        given: Given | None,
        stops_filing: bool,
        lane: str,
        propose: Callable[..., Standing],
        words: Callable[..., Words],
        of: tuple[Any, ...],
    ) -> Requirement:
        """One of which only the standing is known: the given one while it holds, else ``propose(*of)``.

        What a held judgement overrules is proposed, and ``words(proposed, *of)`` are made, when they are first looked at.
        """
        made = object.__new__(Requirement)
        own: dict[str, Any] = {
            "id": id_,
            "kind": kind,
            "title": title,
            "given": given,
            "stops_filing": stops_filing,
            "lane": lane,
        }
        own["_make"] = (propose, words, of)
        if given is not None and given.holds:
            own["standing"] = given.standing
        else:
            own["standing"] = own["proposed"] = propose(*of)
        object.__setattr__(made, "__dict__", own)
        return made

    if not TYPE_CHECKING:

        def __getattr__(self, name: str) -> Any:
            own = self.__dict__
            make = own.get("_make")
            if make is None or (name != "proposed" and name not in Words._fields):
                raise AttributeError(name)
            propose, words, of = make
            if name == "proposed":
                own["proposed"] = propose(*of)
            else:
                own.update(words(self.proposed, *of)._asdict())
            return own[name]

    def whole(self) -> Requirement:
        """Itself, with its words worked out."""
        _ = self.because
        return self

    @property
    def asked(self) -> bool:
        """True if it counts: neither not asked nor still hanging on an open question."""
        return self.judged or self.proposed not in ("not asked", "not known yet")

    @property
    def judged(self) -> bool:
        """True if an officer gave a standing that still holds."""
        return self.given is not None and self.given.holds


class Evidence:
    """What judgements looked at: the answers and files at their places, each place looked at once."""

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
            return f"{ref}\0{signed.name}\n{signed.at.isoformat()}\n{signed.text}" if signed else f"{ref}\0"
        if ref == "fee":
            return f"{ref}\0{self.fees.total('at filing').amount}\0{self.case.came_for_filing}"
        return f"{ref}\0{self.flat.get(ref, '')}"
