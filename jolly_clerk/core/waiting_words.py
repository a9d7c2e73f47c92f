"""What waits for a word in the office: messages of the applicant, colleagues named in notes, fees for a second person, steps that fell."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_clerk.core import history as h
from jolly_clerk.core.roles import about

Wants = Literal["message", "mention", "second person", "fell"]
#: the entries that make or end a wait
TOUCHING = (h.MessageSent, h.NoteWritten, h.FeeSet, h.FeeSettled, h.StepTakenBack, h.Undone)


@dataclass(frozen=True, slots=True)
class Waiting:
    """An entry (``no``) that waits. ``to`` is the id of the one person whom it waits for, empty for whoever has the case or, of a fee, for
    a second person; ``by`` is who wrote it."""

    no: int
    what: Wants
    to: str
    by: str
    text: str


def waiting_words(entries: Sequence[h.Entry], staff: Mapping[str, str]) -> tuple[Waiting, ...]:
    """All that waits, oldest first. A message waits until the office writes one; ``staff`` are the names of the people of the office."""
    undone = {no for entry in entries if isinstance(entry, h.Undone) for no in entry.of}
    found: list[Waiting] = []
    for no, entry in enumerate(entries, 1):
        if no in undone:
            continue
        if isinstance(entry, h.MessageSent):
            found = [w for w in found if w.what != "message"] if about(entry.role).staff else found
            found += [] if about(entry.role).staff else [Waiting(no, "message", "", entry.who, entry.text)]
        elif isinstance(entry, h.NoteWritten):
            found += [Waiting(no, "mention", to, entry.who, entry.text) for to in named_in(entry.text, staff) if to != entry.who]
        elif isinstance(entry, (h.FeeSet, h.FeeSettled)):
            found = [w for w in found if not (w.what == "second person" and _line(entries, w) == entry.line)]
            if isinstance(entry, h.FeeSet) and entry.needs_second:
                found.append(Waiting(no, "second person", "", entry.who, entry.reason))
        elif isinstance(entry, h.StepTakenBack) and entry.because and entry.of:
            found.append(Waiting(no, "fell", entry.of, entry.who, entry.because))
    return tuple(found)


def _line(entries: Sequence[h.Entry], waiting: Waiting) -> str:
    entry = entries[waiting.no - 1]
    assert isinstance(entry, h.FeeSet)
    return entry.line


def named_in(text: str, staff: Mapping[str, str]) -> list[str]:
    """The people whom a note names: ``@Brisa Quay``, or ``@Brisa`` if nobody else of the office is called so."""
    folded = f"{text.casefold()} "
    found = []
    for id_, name in staff.items():
        first = name.partition(" ")[0]
        alone = sum(other.partition(" ")[0] == first for other in staff.values()) == 1
        for called in (name, first) if alone else (name,):
            at = folded.find(f"@{called.casefold()}")
            if at >= 0 and not folded[at + len(called) + 1].isalnum():
                found.append(id_)
                break
    return found
