"""The language in which a case is written to: that of its applicant's choice, where the edition says itself in it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from typing import Any

from jolly_clerk.core.corrections import PointToAsk
from jolly_clerk.core.say import Sentence, say, speaking, spoken_language
from jolly_clerk.office.cases.casework import Loaded, assessed
from jolly_clerk.office.office import Office
from jolly_clerk.texts import catalogue

#: a value of a letter, or what gives it in the language that is spoken then
Told = str | Callable[[], str]


def language_of(loaded: Loaded) -> str:
    """The code of the language of a case's letters; empty for that of the edition itself."""
    edition = loaded.rulebook.edition
    chosen = str(loaded.sheet.raw.get(edition.letters_in) or "") if edition.letters_in else ""
    return chosen if chosen in edition.translations else ""


@contextmanager
def in_their_language(office: Office, loaded: Loaded) -> Iterator[Loaded]:
    """The case as it is told in the language of its letters, which is spoken inside."""
    language = language_of(loaded)
    if not language or language == spoken_language():
        yield loaded
        return
    with speaking(catalogue(language), language):
        told = assessed(office, loaded.case, loaded.history, loaded.entries)
        yield told


def their_points(office: Office, loaded: Loaded, lane: str = "") -> tuple[PointToAsk, ...]:
    """The points of the next letter of a lane, in the language of the case; an officer's own words stay as they are."""
    with in_their_language(office, loaded) as told:
        return told.assessment.points_in(lane)


def told_now(values: Mapping[str, Told]) -> dict[str, str]:
    """Values in the language that is spoken: those that are given by something asked, sentences told again."""
    return {name: _told(value) for name, value in values.items()}


def _told(value: Any) -> str:  # noqa: ANN401 - a value of a sentence may be anything that is printed
    if callable(value):
        return str(value())
    if isinstance(value, Sentence) and value.message:
        return say(value.message, **{name: _told(v) if isinstance(v, Sentence) else v for name, v in value.values.items()})
    return str(value)
