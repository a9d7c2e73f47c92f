"""The papers that an edition asks for: slots, what they accept, what is read from them, and groups of which some are enough."""

from __future__ import annotations

import re
from decimal import Decimal
from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from jolly_clerk.core.in_words import one_of
from jolly_clerk.core.rulebook.said import Id, OutsidePoints, PeriodOf, Rule, RuleId, Said, Words
from jolly_clerk.core.say import _, say
from jolly_clerk.core.things import things
from jolly_clerk.core.time.periods import IfClosed

Format = Literal["pdf", "png", "jpeg", "tiff", "txt"]
Language = Annotated[str, StringConstraints(pattern=r"^[a-z]{2}$")]
#: the languages that a reader tells apart
LANGUAGES = {
    "cs": _("Czech"), "da": _("Danish"), "de": _("German"), "el": _("Greek"), "en": _("English"), "es": _("Spanish"),
    "fi": _("Finnish"), "fr": _("French"), "hu": _("Hungarian"), "it": _("Italian"), "nl": _("Dutch"), "no": _("Norwegian"),
    "pl": _("Polish"), "pt": _("Portuguese"), "ro": _("Romanian"), "ru": _("Russian"), "sv": _("Swedish"), "tr": _("Turkish"),
    "uk": _("Ukrainian"),
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


#: facts that stand in the text beside a word
IN_TEXT = ("length", "area", "date", "number", "name", "money")


class FactRule(Said):
    """A fact to look for in a file: a length, an area, a date, a number, a sum of money or a name that stands near one of these words;
    what the machine-readable lines of a passport say (with ``near``: and what is printed beside these words); or what was counted:
    claims, the independent and the multiple dependent ones, pages, words, the figures that are named."""

    id: Id
    title: Words
    type: Literal[
        "length", "area", "date", "number", "name", "money",
        "claims", "independent claims", "multiple claims", "pages", "words", "figures",
        "passport holder", "passport number", "passport nationality", "passport birth", "passport expiry",
    ]  # fmt: skip
    near: list[Words] = []

    @model_validator(mode="after")
    def _near(self) -> FactRule:
        if not self.type.startswith("passport ") and (self.type in IN_TEXT) != bool(self.near):
            raise ValueError(say("a fact that stands in the text says `near` which words; one that is counted does not"))
        return self


class Portrait(Said):
    """What a portrait shows: one face, the head (chin to crown) so high in the picture, in percent (``60 to 85``), before a ground at
    least so light and even (0 to 1), sharp; ``within`` is how old the picture may be where it says its day."""

    head: str = "55 to 90"
    ground: Decimal = Field(default=Decimal("0.6"), ge=0, le=1)
    even: Decimal = Field(default=Decimal("0.5"), ge=0, le=1)
    sharp: bool = True
    within: PeriodOf | None = None

    @cached_property
    def head_range(self) -> tuple[int, int]:
        """Least and most height of the head, in percent of the picture."""
        return _range(self.head)

    @model_validator(mode="after")
    def _readable(self) -> Portrait:
        try:
            low, high = self.head_range
        except ValueError:
            low, high = 1, 0
        if not 0 < low <= high <= 100:
            raise ValueError(
                say("“{given}” is not understood at `head`; write `60 to 85`, in percent of the picture", given=self.head)
            )
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


class Margins(Said):
    """How much of a sheet stays free at each edge, in millimetres."""

    top: int = Field(default=0, ge=0, le=200)
    left: int = Field(default=0, ge=0, le=200)
    right: int = Field(default=0, ge=0, le=200)
    bottom: int = Field(default=0, ge=0, le=200)


class FormLine(Said):
    """A field of a blank form of the office: what it asks, ``from`` which question it is filled in, on how many ``lines`` one writes."""

    id: Id
    ask: Words
    from_: str | None = Field(default=None, alias="from")
    lines: int = Field(default=1, ge=1, le=12)
    optional: bool = False


class Slot(Said):
    """A place for a document. ``scales`` are the scale words that a drawing should bear, besides a title block and a
    north mark; ``margins`` stay free on it. ``facts`` is what is read from it.

    With ``for_each`` there is one for every repeat of that part. ``delivered_by`` names a third party that alone may deliver
    it; ``until`` gives it a time of its own after filing. Neither stops filing. With ``until``, or ``later: yes``, the applicant may
    add to it after filing without being asked. ``by_post`` lets the thing itself come by post, with a docket.
    ``named`` is the office's name for the file. ``form`` are the fields of a blank form that the office offers for it, filled in as far as
    is known, and reads back field by field.
    ``issued`` says how old it may be, ``valid`` on which day it has to be valid, each by a date that is read from it.
    ``in_the_name_of`` is whom the paper has to name. ``portrait`` says what a portrait has to show; ``known_by`` are words at the head
    of such papers, by which they are sorted.
    ``may_be_in`` names slots whose file may hold it as well. ``languages`` are those that it may be in; one in another needs a
    ``translation`` directly after it in the same file, or is refused where there is none. ``outside_points: locked`` keeps what was
    filed while a letter is answered that does not ask for it.
    """

    slot: Id
    title: Words
    says: Words
    when: Rule | None = None
    for_each: Id | None = None
    delivered_by: Words | None = None
    until: Limit | None = None
    later: bool = False
    by_post: bool = False
    form: list[FormLine] = []
    named: Words | None = None
    may_be_in: list[Id] = []
    languages: list[Language] = []
    translation: Literal["none", "plain", "certified"] = "none"
    issued: Issued | None = None
    valid: Valid | None = None
    in_the_name_of: Rule | None = None
    optional: bool = False
    accepts: Accepts
    scales: list[Words] = []
    title_block: bool = False
    north_mark: bool = False
    margins: Margins | None = None
    facts: list[FactRule] = []
    portrait: Portrait | None = None
    known_by: list[Words] = []
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

    @property
    def for_travel(self) -> bool:
        """True if the page of a passport is read here."""
        return any(f.type.startswith("passport ") for f in self.facts)

    @property
    def takes_later(self) -> bool:
        """True if the applicant may add to it after filing without being asked."""
        return not self.delivered_by and (self.later or self.until is not None)

    def in_words(self) -> str:
        """What is taken here, in words: ``PDF or PNG, A3 or larger, 1 file, at most 10 MB``."""
        accepts = self.accepts
        least, most = accepts.file_range
        one, count = most == 1, things(most, "file")
        if accepts.files.startswith("at most "):
            count = say("at most {figure}", figure=count)
        elif least < most:
            count = say("{least} to {most}", least=least, most=count)
        sheet = say(", {sheet} or larger", sheet=accepts.sheet) if accepts.sheet else ""
        old = say(", not older than {within}", within=self.issued.within) if self.issued else ""
        languages: str = (
            say(", in {languages}", languages=one_of([say(LANGUAGES[code]) for code in self.languages])) if self.languages else ""
        )
        if self.translation == "certified":
            languages += say(", else with a certified translation after it")
        elif self.translation != "none":
            languages += say(", else with a translation after it")
        size = accepts.size if one else say("{size} each", size=accepts.size)
        return say(
            "{names}{sheet}, {count}, at most {size}{old}{languages}",
            names=one_of([f.upper() for f in accepts.formats]),
            sheet=sheet,
            count=count,
            size=size,
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
