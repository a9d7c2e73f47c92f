"""The catalogues of texts, one a language; ``make texts`` brings them up to date. English is the language of the messages."""

from __future__ import annotations

import gettext
from functools import cache
from pathlib import Path

from jolly_clerk.core.say import Catalogue

FOLDER = Path(__file__).parent
#: the languages, besides English, in which the program can be read
LANGUAGES = ("pt",)


@cache
def catalogue(language: str) -> Catalogue:
    """The texts of a language; one without a catalogue is spoken in English, as is each message without a text."""
    return gettext.translation("jolly_clerk", FOLDER, [language], fallback=True)
