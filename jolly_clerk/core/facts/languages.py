"""The languages of a file, page by page: which are taken, and whether a translation follows its original.

Source: the scenario, visa: a document in another language needs a translation directly after the original in the same file.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.file_findings import Finding
from jolly_clerk.core.facts.reading import Page, Reading
from jolly_clerk.core.in_words import one_of
from jolly_clerk.core.rulebook.model import LANGUAGES, Slot
from jolly_clerk.core.say import say

_CERTIFIED = re.compile(r"\b(certif|sworn|juramentad|ajuramentad|assermenté|beglaubigt|vereidigt)", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Run:
    """Pages that follow one another in one language."""

    language: str
    first: int
    last: int

    def __str__(self) -> str:
        pages = (
            say("page {first}", first=self.first)
            if self.first == self.last
            else say("pages {first} to {last}", first=self.first, last=self.last)
        )
        return say("{pages} in {languages}", pages=pages, languages=say(LANGUAGES[self.language]))


def runs(pages: Sequence[Page]) -> list[Run]:
    """The stretches of pages by language; a page whose language is not known goes with the one before it."""
    found: list[Run] = []
    for page in pages:
        if page.language not in LANGUAGES or (found and found[-1].language == page.language):
            if found:
                found[-1] = Run(found[-1].language, found[-1].first, page.no)
        else:
            found.append(Run(page.language, page.no, page.no))
    return found


def language_findings(
    slot: Slot, attachment: Attachment, reading: Reading, bound: tuple[Attachment, Reading | None] | None = None
) -> Iterator[Finding]:
    """What is to be said of the languages of a file, where the slot says which it takes. ``bound`` is a file of its own that was told to be
    its translation."""
    taken = slot.languages
    found = runs(reading.pages) if taken else []
    for n, run in enumerate(found):
        if run.language in taken:
            continue
        after = found[n + 1] if n + 1 < len(found) else None
        told = str(run)[0].upper() + str(run)[1:]
        if slot.translation == "none":
            wanted = one_of([say(LANGUAGES[code]) for code in taken])
            yield Finding("fault", say("{told}; {wanted} is asked.", told=told, wanted=wanted), attachment.id, run.first)
        elif bound is not None and (after is None or after.language not in taken):
            yield from _by_its_own_file(slot, attachment, run, told, *bound)
        elif after is None or after.language not in taken:
            kind = say("A certified translation") if slot.translation == "certified" else "A translation"
            text = say(
                "{told}, and no translation follows. {kind} is asked directly after the original, in the same file.",
                told=told,
                kind=kind,
            )
            yield Finding("fault", text, attachment.id, run.first)
        elif slot.translation == "certified" and not _certified(reading, after):
            text = say(
                "{told}, {after} as its translation; that it is certified was not found. A person must look.",
                told=told,
                after=after,
            )
            yield Finding("look", text, attachment.id, after.first)
        else:
            yield Finding("note", say("{told}, {after} as its translation.", told=told, after=after), attachment.id, after.first)


def _by_its_own_file(
    slot: Slot, attachment: Attachment, run: Run, told: str, translation: Attachment, reading: Reading | None
) -> Iterator[Finding]:
    """What is to be said where the translation is a file of its own."""
    said = {"told": told, "name": translation.name}
    there = runs(reading.pages) if reading is not None else []
    if not any(other.language in slot.languages for other in there):
        text = say("{told}. “{name}” is told to be its translation; its language was not found. A person must look.", **said)
        yield Finding("look", text, attachment.id, run.first)
    elif (
        slot.translation == "certified"
        and reading is not None
        and not any(_CERTIFIED.search(line.text) for line in reading.lines)
    ):
        text = say("{told}, “{name}” as its translation; that it is certified was not found. A person must look.", **said)
        yield Finding("look", text, translation.id, 1)
    else:
        yield Finding("note", say("{told}, “{name}” as its translation.", **said), attachment.id, run.first)


def _certified(reading: Reading, run: Run) -> bool:
    """True if a word of certifying stands on one of the pages."""
    return any(run.first <= line.page <= run.last and _CERTIFIED.search(line.text) for line in reading.lines)
