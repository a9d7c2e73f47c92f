"""The texts of a form, which an edition may say in more than one language."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_clerk.core.rulebook.model import Edition


def form_texts(edition: Edition) -> list[str]:
    """Every text that a person reads in the form, once, in its order; line breaks count as spaces."""
    return list(dict.fromkeys(plain(text) for _, text in placed_texts(edition)))


def plain(text: str) -> str:
    """A text on one line."""
    return " ".join(text.split())


def placed_texts(edition: Edition) -> Iterator[tuple[tuple[str | int, ...], str]]:
    """Every text of the form with the path to its place."""
    yield from ((path, text) for path, text in _texts(edition) if text)


def _texts(edition: Edition) -> Iterator[tuple[tuple[str | int, ...], str | None]]:
    yield ("title",), edition.title
    yield ("about",), edition.about
    for pn, part in enumerate(edition.parts):
        path: tuple[str | int, ...] = ("parts", pn)
        yield (*path, "title"), part.title
        yield (*path, "one"), part.one
        for qn, q in enumerate(part.questions):
            at = (*path, "questions", qn)
            yield (*at, "ask"), q.ask
            yield (*at, "help"), q.help
            yield from (((*at, "columns", cn, "ask"), c.ask) for cn, c in enumerate(q.columns))
    for name, options in edition.lists.items():
        yield from ((("lists", name, n, "title"), option.title) for n, option in enumerate(options))
    for n, slot in enumerate(edition.documents):
        yield ("documents", n, "title"), slot.title
        yield ("documents", n, "says"), slot.says
    yield from ((("either", n, "title"), either.title) for n, either in enumerate(edition.either))
    for n, declaration in enumerate(edition.declarations):
        yield ("declarations", n, "title"), declaration.title
        yield ("declarations", n, "text"), declaration.text
