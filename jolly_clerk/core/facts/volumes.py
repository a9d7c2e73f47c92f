"""Documents that come in several files: which files are one document, and whether its volumes are all there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.file_findings import Finding
from jolly_clerk.core.in_words import all_of
from jolly_clerk.core.say import say


def documents_of(files: Sequence[Attachment]) -> list[Attachment]:
    """The first file of each document in a slot: its volumes are one document, a translation belongs to its original."""
    there, found, volumes = {a.id for a in files}, list[Attachment](), False
    for file in files:
        told = file.told
        if told and told.translates in there:
            continue
        if told and told.volume:
            if not volumes:
                found.append(file)
            volumes = True
            continue
        found.append(file)
    return found


def volume_findings(files: Sequence[Attachment]) -> Iterator[Finding]:
    """What is wrong with the numbers of the volumes in a slot: one that is missing, one that is there twice."""
    numbered = sorted(((a.told.volume, a) for a in files if a.told and a.told.volume), key=lambda pair: pair[0])
    numbers = [number for number, _ in numbered]
    for at, (number, file) in enumerate(numbered):
        if number in numbers[:at]:
            yield Finding("fault", say("Volume {number} is here twice.", number=number), file.id)
    missing = [n for n in range(1, max(numbers, default=0)) if n not in numbers]
    if missing:
        told = {"missing": all_of([str(n) for n in missing]), "there": all_of([str(n) for n in numbers])}
        text = say("Some volumes have not come: {missing}. Here are {there}.", **told)
        yield Finding("fault", text, numbered[-1][1].id)
