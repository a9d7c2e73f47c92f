"""What one edition of a rulebook says, as plain values. Every scalar arrives as text and is typed here.

The JSON Schema of an edition (``jolly-clerk schema rulebook``) is made from :class:`Edition`.
"""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints, model_validator

from jolly_clerk.core.lifecycle import State
from jolly_clerk.core.rulebook.examples import Example
from jolly_clerk.core.rulebook.letters import Letters, LetterText
from jolly_clerk.core.rulebook.said import Id, PeriodOf, Rule, RuleId, Said, Stage, Words
from jolly_clerk.core.rulebook.schedule import AnswersClock, CheckClock, Clock, DecisionClock, PayClock
from jolly_clerk.core.rulebook.tariff import Band, Bands, Change, Curve, FeeLine, Percent, Refunds, Scale, Steps, Table
from jolly_clerk.core.time.periods import IfClosed

__all__ = [
    "Letters",
    "LetterText",
    "AnswersClock",
    "Band",
    "Bands",
    "Change",
    "CheckClock",
    "Clock",
    "DecisionClock",
    "FeeLine",
    "PayClock",
    "Percent",
    "Stage",
    "Steps",
]
QuestionType = Literal[
    "text", "long text", "person", "place", "number", "count", "money", "date", "date and time", "period",
    "yes or no", "one of", "several of", "rows",
]  # fmt: skip
Format = Literal["pdf", "png", "jpeg", "tiff", "txt"]
KindCode = Annotated[str, StringConstraints(pattern=r"^[A-Z]{2}$")]
Language = Annotated[str, StringConstraints(pattern=r"^[a-z]{2}$")]
#: the languages that a reader tells apart
LANGUAGES = {
    "cs": "Czech", "da": "Danish", "de": "German", "el": "Greek", "en": "English", "es": "Spanish", "fi": "Finnish", "fr": "French",
    "hu": "Hungarian", "it": "Italian", "nl": "Dutch", "no": "Norwegian", "pl": "Polish", "pt": "Portuguese", "ro": "Romanian",
    "ru": "Russian", "sv": "Swedish", "tr": "Turkish", "uk": "Ukrainian",
}  # fmt: skip
SHEETS = {"A0": (841, 1189), "A1": (594, 841), "A2": (420, 594), "A3": (297, 420), "A4": (210, 297), "A5": (148, 210)}
_SIZE_UNITS = {"kB": 1000, "MB": 1000_000}


class Option(Said):
    """One choice of a list; with ``when`` it is offered only while that holds."""

    id: RuleId
    title: Words
    when: Rule | None = None


class Column(Said):
    """One column of a question of type ``rows``."""

    id: Id
    ask: Words
    type: Literal["text", "person", "place", "number", "count", "money", "date", "date and time", "period", "yes or no", "one of"]
    unit: Words | None = None
    options: Id | None = None
    optional: bool = False
    at_least: Decimal | None = None
    at_most: Decimal | None = None
    decimals: int = Field(default=2, ge=0, le=6)
    not_after_filing: bool = False


class Question(Said):
    """One question of a part. ``at_least``/``at_most`` bound a number; ``at_most`` bounds the letters of a text.

    ``public`` answers are open to everybody and stand on the permit, ``on_permit`` ones on the permit alone.
    ``register: plots.owner`` says that a register knows the answer: it is filled in, and an altered one is flagged.
    ``profile: address`` takes it from what the applicant's account says.
    ``needed_when`` makes an optional question needed. A question of type ``rows`` has ``columns`` and as many rows as are
    given, at least ``at_least`` and at most ``at_most``. ``default`` is what stands there until it is changed.
    """

    id: Id
    ask: Words
    type: QuestionType
    help: Words | None = None
    unit: Words | None = None
    options: Id | None = None
    when: Rule | None = None
    optional: bool = False
    needed_when: Rule | None = None
    default: str | None = None
    columns: list[Column] = []
    public: bool = False
    on_permit: bool = False
    at_least: Decimal | None = None
    at_most: Decimal | None = None
    decimals: int = Field(default=2, ge=0, le=6)
    not_after_filing: bool = False
    beside: bool = False
    register_: str | None = Field(default=None, alias="register")
    profile: Literal["name", "mail", "address", "telephone"] | None = None
    article: Words | None = None

    @model_validator(mode="after")
    def _rows(self) -> Question:
        if (self.type == "rows") != bool(self.columns):
            raise ValueError("a question of type `rows` has `columns`, and only such a one")
        return self


class Part(Said):
    """A group of questions; with ``each`` it repeats, and each repeat is called ``one`` (*Person*) with its number."""

    id: Id
    title: Words
    one: Words | None = None
    when: Rule | None = None
    each: bool = False
    at_least: int = 0
    at_most: int = 60
    questions: list[Question] = Field(min_length=1)


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
            raise ValueError("a period is counted `after` an event or, backwards, `before` one")
        return self


class Value(Said):
    """A computed answer, shown as such and usable by its name; by a ``rule``, or by a ``limit`` that is counted from an event.

    With ``each`` it is computed for every repeat of that part, and called ``part.id``.
    """

    id: Id
    title: Words
    each: Id | None = None
    rule: Rule | None = None
    limit: Limit | None = None
    unit: Words | None = None
    beside: list[str] = []
    help: Words | None = None
    article: Words

    @model_validator(mode="after")
    def _one(self) -> Value:
        if (self.rule is None) == (self.limit is None):
            raise ValueError("a computed answer has a `rule` or a `limit`")
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
        try:
            _range(self.files), self.page_range, self.word_range, self.most_bytes, self.least_pixels, self.sides
        except (ValueError, KeyError, ArithmeticError):
            raise ValueError(
                "write files, pages and words as '1', '2 to 5' or 'at most 5', size as '20 MB' or '500 kB', "
                "pixels as '700 x 900' and ratio as '35:45'"
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
            raise ValueError("a fact that stands in the text says `near` which words; one that is counted does not")
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
    ``translation`` directly after it in the same file, or is refused where there is none.
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
    article: Words

    @model_validator(mode="after")
    def _told_apart(self) -> Slot:
        unknown = [code for code in self.languages if code not in LANGUAGES]
        if unknown:
            raise ValueError(f"no reader tells the language {unknown[0]!r}; it tells {', '.join(LANGUAGES)}")
        if self.translation != "none" and not self.languages:
            raise ValueError("a `translation` is asked of what is in other than the `languages`; name them")
        return self


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
            raise ValueError("`at_least` is less than the number of slots; otherwise each of them is simply needed")
        return self


class Must(Said):
    """Something that has to hold, or that an officer has to look at.

    With ``rule`` the machine proposes *met*, or *wanting* (``otherwise_is: look`` makes that *in
    doubt*). Without one the officer reads and judges. ``at`` names the questions or slots concerned.
    """

    id: RuleId
    title: Words
    part: Id
    says: Words
    when: Rule | None = None
    rule: Rule | None = None
    otherwise: Words | None = None
    otherwise_is: Literal["fault", "look"] = "fault"
    each: Id | None = None
    at: list[str] = Field(min_length=1)
    article: Words


class Agree(Said):
    """One fact that several places state; they have to agree.

    ``places`` are questions (``works.distance``), facts of files (``site_plan.distance``) and columns of
    registers (``plots.to_water``). ``within`` overrules the tolerance: lengths 0.5 m, areas 1 %, others exact. With ``each`` they
    are compared for every repeat of that part.
    """

    id: RuleId
    title: Words
    part: Id
    says: Words
    places: list[str] = Field(min_length=2)
    as_: Literal["length", "area", "money", "date", "name", "text", "count"] = Field(alias="as")
    each: Id | None = None
    within: Decimal | None = Field(default=None, ge=0)
    when: Rule | None = None
    article: Words


class Register(Said):
    """A register of another body: the column that identifies an entry, the question that gives it, what it tells.

    ``inner`` columns are the office's alone. With ``cases_of`` the entries are this office's own cases of that kind, by their
    reference: ``gives`` says which answer of the other case a column holds; ``state`` and ``title`` are always known.
    """

    title: Words
    cases_of: KindCode | None = None
    gives: dict[Id, str] = {}
    key: Id
    asked_by: str
    columns: dict[Id, Words]
    inner: list[Id] = []
    article: Words


class Branch(Said):
    """One answer of the way in; the first whose condition holds decides."""

    id: RuleId
    when: Rule | None = None
    then: Literal["needed", "not needed", "belongs elsewhere"]
    because: Words
    article: Words


class Pathway(Said):
    """A route that the answers choose; the first whose condition holds."""

    id: RuleId
    title: Words
    says: Words
    when: Rule | None = None
    article: Words


class Reason(Said):
    """A catalogue entry that words a point, or the grounds of an ending. Braces name answers.

    ``for`` is a slot, a must, an agreement, ``answer``, ``declarations``, ``signature``, ``fee``, ``not accepted``, ``out of scope`` or ``refused``.
    """

    id: RuleId
    for_: str = Field(alias="for")
    title: Words
    says: Words


class Lanes(Said):
    """The filing falls into a common lane and one lane for every repeat of ``each``, judged side by side.

    A requirement of a repeat belongs to its lane, every other to the common one. A lane's own check takes ``within``, from the
    same first day as the common one. The case is complete when the common lane and at least one other are.
    """

    each: Id
    common: Words
    within: PeriodOf
    article: Words


class Prerequisite(Said):
    """Another case that has to stand in one of these states: the one whose reference a register of cases was asked about."""

    id: RuleId
    title: Words
    part: Id
    says: Words
    register_: Id = Field(alias="register")
    states: list[State] = Field(min_length=1)
    when: Rule | None = None
    article: Words


class Signature(Said):
    """The declaration that the applicant signs."""

    text: Words
    article: Words


class Declaration(Said):
    """Something that the applicant declares or consents to beside the signature, ticked on its own and worded by the authority.

    An ``optional`` one is a consent that may be refused; with ``when`` it is asked only while that holds.
    """

    declare: Id
    title: Words
    text: Words
    when: Rule | None = None
    optional: bool = False
    article: Words


class Edition(Said):
    """One edition of one kind, in force for filings filed from ``in_force`` on."""

    kind: KindCode
    sub_kind_of: KindCode | None = None
    title: Words
    about: Words
    law: Words
    in_force: date
    currency: Annotated[str, StringConstraints(pattern=r"^[A-Z]{3}$")]
    calendar: Id
    incomplete_filing: Literal["warn", "refuse"] = "warn"
    case_title: Words
    registers: dict[Id, Register] = {}
    way_in: list[Branch] = []
    pathways: list[Pathway] = []
    lists: dict[Id, list[Option]] = {}
    tables: dict[Id, Table] = {}
    scales: dict[Id, Scale] = {}
    curves: dict[Id, Curve] = {}
    parts: list[Part] = Field(min_length=1)
    values: list[Value] = []
    documents: list[Slot] = []
    either: list[Either] = []
    must: list[Must] = []
    agree: list[Agree] = []
    prerequisites: list[Prerequisite] = []
    lanes: Lanes | None = None
    signature: Signature
    declarations: list[Declaration] = []
    fees: list[FeeLine] = []
    changes: list[Change] = []
    refunds: Refunds = Refunds(withdrawn_article="-", out_of_scope_keeps=Decimal(0), out_of_scope_article="-")
    clock: Clock
    reasons: list[Reason] = []
    letters: Letters = Letters()
    #: the texts of the form in other languages: ``pt: {The tower: A torre}``; what is not there stands as it is
    translations: dict[Language, dict[str, Words]] = {}
    examples: list[Example] = []

    @property
    def id(self) -> str:
        """``BW 2026-07-01``: the kind and the day from which it is in force."""
        return f"{self.kind} {self.in_force}"


def edition_schema() -> dict[str, Any]:
    """The JSON Schema of an edition, for editors and for the documents."""
    return Edition.model_json_schema(by_alias=True)
