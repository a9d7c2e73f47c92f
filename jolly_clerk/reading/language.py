"""The language of a page's text, told only where it is plain."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from jolly_clerk.core.rulebook.model import LANGUAGES

#: a page with fewer words than this is not told, nor is one of which the identifier is less sure
TOLD_WORDS, SURE = 8, 0.95
MOST_LETTERS = 160


#: small words of one language that no other language of the reader's has; so many of them on a page that follows one of that language
#: tell it without asking anew
COMMON = {
    "en": frozenset(["the", "and", "which", "with", "this", "that", "from", "shall"]),
    "pt": frozenset(["não", "uma", "pelo", "pela", "ao", "são", "está", "às"]),
    "fr": frozenset(["les", "est", "une", "dans", "pour", "avec", "qui", "cette"]),
    "de": frozenset(["der", "und", "das", "ist", "nicht", "mit", "dem", "eine"]),
    "es": frozenset(["los", "las", "el", "y", "esta", "cuando", "hasta", "sus"]),
}
ENOUGH = 4


@lru_cache(maxsize=1)
def _identifier() -> Any:
    from py3langid.langid import MODEL_FILE, LanguageIdentifier

    found = LanguageIdentifier.from_model_file(MODEL_FILE, norm_probs=True)
    found.set_languages(list(LANGUAGES))
    return found


def language_of(text: str, before: str = "") -> str:
    """The code of the language (``en``), or nothing where the text is too short or may be in more than one. ``before`` is that of the
    page before: most files are in one language, which is quickly seen."""
    words = " ".join(text[: 4 * MOST_LETTERS].split())[:MOST_LETTERS]
    if words.count(" ") + 1 < TOLD_WORDS:
        return ""
    if before in COMMON:
        said = words.lower().split()
        counts = {code: sum(word in common for word in said) for code, common in COMMON.items()}
        if counts.pop(before) >= ENOUGH and not any(counts.values()):
            return before
    try:
        code, sure = _identifier().classify(words)
    except (ImportError, OSError, ValueError, MemoryError):
        return ""  # a file whose language cannot be told is read all the same
    return str(code) if sure >= SURE else ""
