"""Files that stand in each other's place: the page of a passport where a portrait is asked, and the other way round."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.findings import is_portrait, is_travel_page
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.rulebook.compiled import Rulebook


@dataclass(frozen=True, slots=True)
class Swapped:
    """Two attachments, by their ids, that should change places."""

    first: str
    second: str


def swapped(rulebook: Rulebook, dossier: Dossier, readings: Mapping[str, Reading]) -> Iterator[Swapped]:
    """The pairs of files that stand in each other's place."""
    slots = [compiled.slot for compiled in rulebook.slots.values()]
    portraits = [s.slot for s in slots if s.portrait]
    travel = [s.slot for s in slots if s.for_travel]

    def of(slot: str, item: str) -> list[tuple[Attachment, Reading]]:
        own = f"{slot}.{item}" if item else slot
        return [(a, readings[a.sha256]) for a in dossier.attachments if a.slot == own and a.sha256 in readings]

    items = sorted({a.slot.partition(".")[2] for a in dossier.attachments})
    for item in items:
        pages = [a for slot in portraits for a, r in of(slot, item) if is_travel_page(r)]
        faces = [a for slot in travel for a, r in of(slot, item) if is_portrait(r)]
        yield from (Swapped(page.id, face.id) for page, face in zip(pages, faces, strict=False))
