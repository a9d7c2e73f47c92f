"""The texts of a form, which an edition may say in more than one language."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, TypeVar

from pydantic import BaseModel

from jolly_clerk.core.rulebook.model import Edition, Reason

BaseModelT = TypeVar("BaseModelT", bound=BaseModel)


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
    yield ("signature", "text"), edition.signature.text


#: the fields of an edition that hold texts which a person reads while preparing; what is promised stays as it was promised
_TEXTS = frozenset(
    (
        "title",
        "one",
        "ask",
        "help",
        "says",
        "otherwise",
        "because",
        "about",
        "delivered_by",
        "asks",
        "stands_as",
        "becomes",
        "subject",
        "opening",
        "closing",
    )
)
#: sections that no person reads, and what only the office chooses by
_LEFT_OUT = frozenset(("examples", "translations", "asked_as"))


def every_text(edition: Edition) -> set[str]:
    """Every text of an edition that may be said in another language: those of the form, of its rules, its prices and its letters."""
    return {plain(text) for _, text in every_placed_text(edition)}


def every_placed_text(edition: Edition) -> Iterator[tuple[tuple[str | int, ...], str]]:
    """Every text of an edition that may be said in another language, with the path to its place, those of the form first."""
    yield from placed_texts(edition)
    yield from _placed(edition, ())


def _placed(model: BaseModel, path: tuple[str | int, ...]) -> Iterator[tuple[tuple[str | int, ...], str]]:
    for name, field in type(model).model_fields.items():
        if name not in _LEFT_OUT and not (isinstance(model, Reason) and name == "title"):
            yield from _placed_in(name, getattr(model, name), (*path, field.alias or name))


def _placed_in(name: str, value: Any, path: tuple[str | int, ...]) -> Iterator[tuple[tuple[str | int, ...], str]]:  # noqa: ANN401
    if isinstance(value, str):
        if name in _TEXTS and value:
            yield path, value
    elif isinstance(value, BaseModel):
        yield from _placed(value, path)
    elif isinstance(value, list):
        for n, item in enumerate(value):
            yield from _placed_in("", item, (*path, n))
    elif isinstance(value, dict):
        for key, item in value.items():
            said = name == "columns" and isinstance(item, str)  # of a register: what each column is called
            yield from _placed_in("title" if said else "", item, (*path, key))


def in_language(edition: Edition, language: str) -> Edition:
    """An edition with its texts in another language; what is not translated stands as it is. Itself if it says nothing in it."""
    told = {plain(text): said for text, said in edition.translations.get(language, {}).items()}
    if not told:
        return edition
    return _each_text(edition, lambda text: told.get(plain(text), text)).model_copy(update={"translations": {}, "examples": []})


def _each_text(model: BaseModelT, change: Callable[[str], str]) -> BaseModelT:
    """A model of an edition with every text changed."""
    made: dict[str, Any] = {}
    for name in type(model).model_fields:
        value = getattr(model, name)
        if name in _LEFT_OUT or (isinstance(model, Reason) and name == "title"):
            continue
        new = _changed(name, value, change)
        if new is not value:
            made[name] = new
    return model.model_copy(update=made) if made else model


def _changed(name: str, value: Any, change: Callable[[str], str]) -> Any:  # noqa: ANN401 - whatever a field of an edition holds
    if isinstance(value, str):
        return change(value) if name in _TEXTS else value
    if isinstance(value, BaseModel):
        return _each_text(value, change)
    if isinstance(value, list):
        return [_changed("", item, change) for item in value]
    if isinstance(value, dict):
        if name == "columns":  # of a register: what each column is called
            return {key: change(said) if isinstance(said, str) else _changed("", said, change) for key, said in value.items()}
        return {key: _changed("", item, change) for key, item in value.items()}
    return value
