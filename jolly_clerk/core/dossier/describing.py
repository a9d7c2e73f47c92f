"""What is told of a file besides its name: description, day, language, its number among volumes, of which file it is the translation."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date

from jolly_clerk.core.dossier.model import Attachment, Dossier, FileTold
from jolly_clerk.core.in_words import day
from jolly_clerk.core.rulebook.model import LANGUAGES
from jolly_clerk.core.say import say

#: so long is a description, so many volumes has a document
MOST_LETTERS, MOST_VOLUMES = 200, 99
#: how names tell that a file is one of several: ``plan vol. 2.pdf``, ``plan volume-2.pdf``, ``plan (2 of 3).pdf``
_VOLUME = re.compile(r"(?:\bvol(?:ume)?s?[ ._-]*(\d{1,2})|\((\d{1,2}) of \d{1,2}\))(?!\d)", re.IGNORECASE)


def volume_in(name: str) -> int:
    """The number of a volume that the name of a file tells; 0 if it tells none."""
    found = _VOLUME.search(name.replace("_", " "))
    return int(next(filter(None, found.groups()))) if found else 0


def described(dossier: Dossier, attachment: str, told: FileTold) -> Dossier | None:
    """With what is told of one of its files; None if it is not there."""
    if all(a.id != attachment for a in dossier.attachments):
        return None
    kept = None if told == FileTold() else told
    files = tuple(a.model_copy(update={"told": kept}) if a.id == attachment else a for a in dossier.attachments)
    return dossier.model_copy(update={"attachments": files})


def fault_of_told(dossier: Dossier, attachment: str, told: FileTold, today: date) -> tuple[str, str]:
    """The field and the sentence of what cannot be told of a file; nothing if all can."""
    if len(told.description) > MOST_LETTERS:
        return "description", say("At most {most} characters fit here.", most=MOST_LETTERS)
    if told.dated and told.dated > today:
        return "dated", say("This day is not over yet.")
    if told.language and told.language not in LANGUAGES:
        return "language", say("This language is not known here.")
    if told.volume > MOST_VOLUMES:
        return "volume", say("A document has at most {most} volumes.", most=MOST_VOLUMES)
    own = next((a for a in dossier.attachments if a.id == attachment), None)
    if told.translates:
        original = next((a for a in dossier.attachments if a.id == told.translates), None)
        if original is None or own is None or original.slot != own.slot or original.id == attachment:
            return "translates", say("The original is another file of the same place.")
        if original.told and original.told.translates:
            return "translates", say("This one is a translation itself. Name its original.")
    return "", ""


def told_in_words(file: Attachment, others: Sequence[Attachment]) -> str:
    """What is told of a file, in words; nothing where nothing is."""
    told = file.told
    if told is None:
        return ""
    original = next((a.name for a in others if a.id == told.translates), "")
    parts = [
        say("volume {number}", number=told.volume) if told.volume else "",
        say("translation of “{name}”", name=original) if original else "",
        say("dated {day}", day=day(told.dated)) if told.dated else "",
        say("in {language}", language=say(LANGUAGES[told.language])) if told.language in LANGUAGES else "",
        f"“{told.description}”" if told.description else "",
    ]
    return ", ".join(filter(None, parts))
