"""The texts of a form, which an edition may say in more than one language."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_clerk.core.rulebook.model import Edition


def form_texts(edition: Edition) -> list[str]:
    """Every text that a person reads in the form, once, in its order; line breaks count as spaces."""
    return list(dict.fromkeys(plain(text) for text in _texts(edition) if text))


def plain(text: str) -> str:
    """A text on one line."""
    return " ".join(text.split())


def _texts(edition: Edition) -> Iterator[str | None]:
    yield from (edition.title, edition.about)
    for part in edition.parts:
        yield from (part.title, part.one)
        for q in part.questions:
            yield from (q.ask, q.help)
            yield from (c.ask for c in q.columns)
    for options in edition.lists.values():
        yield from (option.title for option in options)
    for slot in edition.documents:
        yield from (slot.title, slot.says)
    yield from (either.title for either in edition.either)
    for declaration in edition.declarations:
        yield from (declaration.title, declaration.text)
