"""Every sentence that a person can read is made here, from a message and values; its text stands in one catalogue a language.

    say("“{name}” is empty ({size}). Send the file again.", name=name, size=size)
    say_n("{n} file", "{n} files", count)

The message is English and is its own text until a catalogue says otherwise. ``make texts`` finds all of them and brings the
catalogues in ``jolly_clerk/texts`` up to date. A message that stands in a table and is said later is marked by :func:`_`.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, Protocol


class Catalogue(Protocol):
    """The texts of one language, as :mod:`gettext` gives them."""

    def gettext(self, message: str, /) -> str:
        """The text of a message; the message itself if there is none."""

    def ngettext(self, one: str, many: str, n: int, /) -> str:
        """The text for so many; by the rule of the language."""


#: what is spoken here; ``None`` is the language of the messages
_SPOKEN: ContextVar[Catalogue | None] = ContextVar("spoken", default=None)
#: in which language editions are read
_LANGUAGE: ContextVar[str] = ContextVar("language", default="")


class Sentence(str):
    """A text that knows its message and values, by which another language or a program can tell it again."""

    message: str
    values: Mapping[str, object]

    def __new__(cls, text: str, message: str = "", values: Mapping[str, object] | None = None) -> Sentence:
        """Keep the text; without a message it is its own."""
        made = super().__new__(cls, text)
        made.message, made.values = message or text, values or {}
        return made


def _(message: str) -> str:
    """Mark a message that stands in a table; whoever takes it from there says it."""
    return message


def _n(one: str, many: str) -> tuple[str, str]:
    """Mark a message with its plural that stands in a table."""
    return one, many


def say(message: str, /, **values: Any) -> Sentence:  # noqa: ANN401 - whatever has a text may stand in a sentence
    """The sentence of a message in the language that is spoken now; ``{name}`` stands for a value.

    Raises:
        KeyError: the message, or its text in the catalogue, names a value that is not given.
    """
    spoken = _SPOKEN.get()
    text = spoken.gettext(message) if spoken and message else message
    return Sentence(text.format_map(values) if values else text, message, values)


def say_n(one: str, many: str, n: int, /, **values: Any) -> Sentence:  # noqa: ANN401 - as above
    """The sentence for so many; ``{n}`` stands for the number. A language may have more forms than two."""
    spoken = _SPOKEN.get()
    text = spoken.ngettext(one, many, n) if spoken else one if n == 1 else many
    values = {"n": n, **values}
    return Sentence(text.format_map(values), one if n == 1 else many, values)


def spoken() -> Catalogue | None:
    """The language that is spoken now; what is kept in words is kept by it."""
    return _SPOKEN.get()


def spoken_language() -> str:
    """The code of the language in which somebody wants to read an edition; empty for the edition's own."""
    return _LANGUAGE.get()


@contextmanager
def speaking(catalogue: Catalogue | None, language: str = "") -> Iterator[None]:
    """Say everything inside in a language; None is the language in which the messages are written.

    With the code of a ``language`` editions are read in it as well, as far as they say themselves in it.
    """
    before, read_in = _SPOKEN.set(catalogue), _LANGUAGE.set(language)
    try:
        yield
    finally:
        _LANGUAGE.reset(read_in)
        _SPOKEN.reset(before)
