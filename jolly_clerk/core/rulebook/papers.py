"""The papers that an edition asks for: slots, what they accept, what is read from them, and groups of which some are enough."""

from __future__ import annotations

import re
from decimal import Decimal
from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from jolly_clerk.core.in_words import one_of
from jolly_clerk.core.rulebook.said import Id, OutsidePoints, PeriodOf, Rule, RuleId, Said, Words
from jolly_clerk.core.say import say
from jolly_clerk.core.time.periods import IfClosed

Format = Literal["pdf", "png", "jpeg", "tiff", "txt"]
Language = Annotated[str, StringConstraints(pattern=r"^[a-z]{2}$")]
#: the languages that a reader tells apart
LANGUAGES = {
    "cs": "Czech", "da": "Danish", "de": "German", "el": "Greek", "en": "English", "es": "Spanish", "fi": "Finnish", "fr": "French",
    "hu": "Hungarian", "it": "Italian", "nl": "Dutch", "no": "Norwegian", "pl": "Polish", "pt": "Portuguese", "ro": "Romanian",
    "ru": "Russian", "sv": "Swedish", "tr": "Turkish", "uk": "Ukrainian",
}  # fmt: skip
SHEETS = {"A0": (841, 1189), "A1": (594, 841), "A2": (420, 594), "A3": (297, 420), "A4": (210, 297), "A5": (148, 210)}
_SIZE_UNITS = {"kB": 1000, "MB": 1000_000}


class Limit(Said):
    """A period counted from an event: ``{after: trip.departure, within: 3 months}``, or backwards with ``before``.

    Hours run from a moment to a moment; days are counted from the day after the event. ``if_closed`` moves a last day that is
    no working day.
    """

    after: Rule | None = None
    before: Rule | None = None
    within: PeriodOf
    if_closed: IfClosed = "stays"

    @model_validator(mode="after")
    def _one(self) -> Limit:
        if (self.after is None) == (self.before is None):
            raise ValueError(say("a period is counted `after` an event or, backwards, `before` one"))
        return self


class Accepts(Said):
    """What a slot takes. ``files`` is ``1``, ``2 to 5`` or ``at most 5``; ``size`` is ``20 MB``; ``sheet`` is the smallest sheet.

    ``words`` bounds the words of a text as ``pages`` does its pages; a picture has at least ``pixels`` (``700 x 900``) and the
    ``ratio`` of its sides (``35:45``), within 1 %.
    """

    formats: list[Format] = Field(min_length=1)
    files: str = "1"
    size: str = "20 MB"
    sheet: Literal["A0", "A1", "A2", "A3", "A4", "A5"] | None = None
    landscape: bool = False
    pages: str | None = None
    words: str | None = None
    pixels: str | None = None
    ratio: str | None = None

    @cached_property
    def word_range(self) -> tuple[int, int] | None:
        """Fewest and most words of one file, if the rule says."""
        return _range(self.words) if self.words else None

    @cached_property
    def least_pixels(self) -> tuple[int, int] | None:
        """Fewest dots across and down, if the rule says."""
        return _pair(self.pixels, "x") if self.pixels else None

    @cached_property
    def sides(self) -> tuple[int, int] | None:
        """Across to down, if the rule says."""
        return _pair(self.ratio, ":") if self.ratio else None

    @cached_property
    def file_range(self) -> tuple[int, int]:
        """Fewest and most files."""
        return _range(self.files)

    @cached_property
    def page_range(self) -> tuple[int, int] | None:
        """Fewest and most pages of one file, if the rule says."""
        return _range(self.pages) if self.pages else None

    @cached_property
    def most_bytes(self) -> int:
        """The largest file, in bytes; 1 MB is a million bytes."""
        return bytes_of(self.size)

    @model_validator(mode="after")
    def _readable(self) -> Accepts:
        told = (
            ("files", self.files, lambda: self.file_range, say("`1`, `2 to 5` or `at most 5`")),
            ("pages", self.pages, lambda: self.page_range, say("`1`, `2 to 5` or `at most 5`")),
            ("words", self.words, lambda: self.word_range, say("`at most 500` or `100 to 500`")),
            ("size", self.size, lambda: self.most_bytes, say("`8 MB` or `500 kB`")),
            ("pixels", self.pixels, lambda: self.least_pixels, say("`700 x 900`")),
            ("ratio", self.ratio, lambda: self.sides, say("`35:45`")),
        )
        for key, given, read, right in told:
            try:
                read()
            except (ValueError, KeyError, ArithmeticError):
                number = re.search(r"\d+", str(given))
                like = {"files": f"`at most {number[0]}`", "size": f"`{number[0]} MB`"}.get(key, "") if number else ""
                said = like or right
                raise ValueError(
                    say("“{given}” is not understood at `{key}`; write {right}", given=given, key=key, right=said)
                ) from None
        return self


def bytes_of(size: str) -> int:
    """``20 MB`` or ``500 kB`` in bytes."""
    count, unit = size.split()
    return int(Decimal(count) * _SIZE_UNITS[unit])


def _pair(text: str, sign: str) -> tuple[int, int]:
    across, down = text.split(sign)
    return int(across), int(down)


def _range(text: str) -> tuple[int, int]:
    if text.startswith("at most "):
        return 1, int(text.removeprefix("at most "))
    low, _, high = text.partition(" to ")
    return int(low), int(high or low)


class FactRule(Said):
    """A fact to look for in a file: a length, an area, a date, a number or a name that stands near one of these words,
    or what was counted in it: its claims, the independent and the multiple dependent ones, its pages, its words."""

    id: Id
    title: Words
    type: Literal[
        "length", "area", "date", "number", "name", "claims", "independent claims", "multiple claims", "pages", "words"
    ]  # fmt: skip
    near: list[Words] = []

    @model_validator(mode="after")
    def _near(self) -> FactRule:
        if (self.type in ("length", "area", "date", "number", "name")) != bool(self.near):
            raise ValueError(say("a fact that stands in the text says `near` which words; one that is counted does not"))
        return self


class Issued(Said):
    """The day that a paper bears (its ``fact``) lies within a period before a day, and not after it: *at most 3 months old*."""

    fact: Id
    within: PeriodOf
    before: Rule


class Valid(Said):
    """The day until which a paper is valid (its ``fact``) is not before a day."""

    fact: Id
    on: Rule


class Slot(Said):
    """A place for a document. ``scales`` are the scale words that a drawing should bear, ``facts`` what is read from it.

    With ``for_each`` there is one for every repeat of that part. ``delivered_by`` names a third party that alone may deliver
    it; ``until`` gives it a time of its own after filing. Neither stops filing. ``named`` is the office's name for the file.
    ``issued`` says how old it may be, ``valid`` on which day it has to be valid, each by a date that is read from it.
    ``may_be_in`` names slots whose file may hold it as well. ``languages`` are those that it may be in; one in another needs a
    ``translation`` directly after it in the same file, or is refused where there is none. ``outside_points: locked`` keeps what was filed
    while a letter is answered that does not ask for it.
    """

    slot: Id
    title: Words
    says: Words
    when: Rule | None = None
    for_each: Id | None = None
    delivered_by: Words | None = None
    until: Limit | None = None
    named: Words | None = None
    may_be_in: list[Id] = []
    languages: list[Language] = []
    translation: Literal["none", "plain", "certified"] = "none"
    issued: Issued | None = None
    valid: Valid | None = None
    optional: bool = False
    accepts: Accepts
    scales: list[Words] = []
    title_block: bool = False
    facts: list[FactRule] = []
    outside_points: OutsidePoints = "open"
    article: Words

    @model_validator(mode="after")
    def _told_apart(self) -> Slot:
        unknown = [code for code in self.languages if code not in LANGUAGES]
        if unknown:
            raise ValueError(
                say(
                    "no reader tells the language {unknown}; it tells {languages}",
                    unknown=f"{unknown[0]!r}",
                    languages=", ".join(LANGUAGES),
                )
            )
        if self.translation != "none" and not self.languages:
            raise ValueError(say("a `translation` is asked of what is in other than the `languages`; name them"))
        return self

    def in_words(self) -> str:
        """What is taken here, in words: ``PDF or PNG, A3 or larger, 1 file, at most 10 MB each``."""
        accepts = self.accepts
        one = accepts.files.endswith(" 1") or accepts.files == "1"
        count = say("{files} file", files=accepts.files) if one else say("{files} files", files=accepts.files)
        sheet = say(", {sheet} or larger", sheet=accepts.sheet) if accepts.sheet else ""
        old = say(", not older than {within}", within=self.issued.within) if self.issued else ""
        languages: str = (
            say(", in {languages}", languages=one_of([LANGUAGES[code] for code in self.languages])) if self.languages else ""
        )
        if self.translation == "certified":
            languages += say(", else with a certified translation after it")
        elif self.translation != "none":
            languages += say(", else with a translation after it")
        return say(
            "{names}{sheet}, {count}, at most {size} each{old}{languages}",
            names=one_of([f.upper() for f in accepts.formats]),
            sheet=sheet,
            count=count,
            size=accepts.size,
            old=old,
            languages=languages,
        )


class Either(Said):
    """Several slots of which at least so many have to hold a document."""

    id: RuleId
    title: Words
    says: Words
    slots: list[Id] = Field(min_length=2)
    at_least: int = Field(default=1, ge=1)
    when: Rule | None = None
    article: Words

    @model_validator(mode="after")
    def _enough(self) -> Either:
        if self.at_least >= len(self.slots):
            raise ValueError(say("`at_least` is less than the number of slots; otherwise each of them is simply needed"))
        return self
