"""The language of a page's text, told only where it is plain."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from jolly_clerk.core.rulebook.model import LANGUAGES

#: a page with fewer words than this is not told, nor is one of which the identifier is less sure
TOLD_WORDS, SURE = 8, 0.95
MOST_LETTERS = 240


@lru_cache(maxsize=1)
def _identifier() -> Any:
    from py3langid.langid import MODEL_FILE, LanguageIdentifier

    found = LanguageIdentifier.from_model_file(MODEL_FILE, norm_probs=True)
    found.set_languages(list(LANGUAGES))
    return found


def language_of(text: str) -> str:
    """The code of the language (``en``), or nothing where the text is too short or may be in more than one."""
    words = " ".join(text.split())[:MOST_LETTERS]
    if words.count(" ") + 1 < TOLD_WORDS:
        return ""
    try:
        code, sure = _identifier().classify(words)
    except (ImportError, OSError, ValueError, MemoryError):
        return ""  # a file whose language cannot be told is read all the same
    return str(code) if sure >= SURE else ""
