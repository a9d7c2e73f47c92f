"""What *confirm the rest* may take, and the evidence that has to have been on the screen for it."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_clerk.core.checklist.requirement import Requirement

#: what no paper shows: it is looked over in the list itself
PAPERLESS = ("declaration", "signature", "fee", "prerequisite")


def confirmable(requirement: Requirement) -> bool:
    """True for what *confirm the rest* may take: proposed *met*, not judged, without a look or a fault."""
    r = requirement
    return r.asked and not r.judged and r.proposed == "met" and all(f.weight == "note" for f in r.findings)


def rests_on(requirement: Requirement) -> tuple[str, ...]:
    """The evidence that has to have been on the screen: ``FILE PAGE`` for each page that is named, else the first of each file; the part
    of its answers (``works``, ``persons.2``) where no file bears it. Nothing for what has no paper."""
    if requirement.kind in PAPERLESS:
        return ()
    pages = tuple(dict.fromkeys(f"{file} {page}" for file, page in _pages(requirement)))
    if pages:
        return pages
    answers = (p.ref for p in requirement.places if not p.ref.startswith(("documents.", "declarations.")))
    own = f"{requirement.item}."
    return tuple(dict.fromkeys(requirement.item if ref.startswith(own) else ref.partition(".")[0] for ref in answers))


def _pages(r: Requirement) -> Iterator[tuple[str, int]]:
    named = [(s.file, s.page) for s in (r.table.statements if r.table else ()) if s.file and s.page]
    named += [(f.file, f.page) for f in r.findings if f.file and f.page]
    yield from named
    there = {file for file, _ in named}
    yield from ((a.id, 1) for a in r.files if a.id not in there)
