"""What one edition of a rulebook says, as plain values. Every scalar arrives as text and is typed here.

The JSON Schema of an edition (``jolly-clerk schema rulebook``) is made from :class:`Edition`.
"""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, PlainSerializer, StringConstraints, model_validator

from jolly_clerk.core.time.periods import Period

Id = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,39}$")]
RuleId = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_-]{0,59}$")]
Words = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=2000)]
Rule = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1)]
Amount = Annotated[Decimal, Field(ge=0, max_digits=18)]
PeriodOf = Annotated[
    Period,
    BeforeValidator(lambda v: Period.parse(v) if isinstance(v, str) else v),
    PlainSerializer(str, return_type=str),
]
Stage = Literal["at filing", "after the check", "at issue"]
QuestionType = Literal["text", "long text", "number", "count", "money", "date", "yes or no", "one of", "several of"]
Format = Literal["pdf", "png", "jpeg", "tiff", "txt"]
SHEETS = {"A0": (841, 1189), "A1": (594, 841), "A2": (420, 594), "A3": (297, 420), "A4": (210, 297), "A5": (148, 210)}
_SIZE_UNITS = {"kB": 1000, "MB": 1000_000}


class Said(BaseModel):
    """Base of everything an edition says: unknown keys are faults, values do not change."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class Option(Said):
    """One choice of a list."""

    id: RuleId
    title: Words


class Table(Said):
    """A table of numbers looked up by texts; a rule calls it by its name: ``rates(works.use, works.built_of)``."""

    title: Words
    of: list[Id] = Field(min_length=1, max_length=3)
    article: Words
    rows: list[dict[str, str]] = Field(min_length=1)


class Question(Said):
    """One question of a part. ``at_least``/``at_most`` bound a number; ``at_most`` bounds the letters of a text."""

    id: Id
    ask: Words
    type: QuestionType
    help: Words | None = None
    unit: Words | None = None
    options: Id | None = None
    when: Rule | None = None
    optional: bool = False
    public: bool = False
    at_least: Decimal | None = None
    at_most: Decimal | None = None
    decimals: int = Field(default=2, ge=0, le=6)
    not_after_filing: bool = False
    beside: bool = False
    article: Words | None = None


class Part(Said):
    """A group of questions; with ``each`` it repeats."""

    id: Id
    title: Words
    when: Rule | None = None
    each: bool = False
    at_least: int = 0
    at_most: int = 60
    questions: list[Question] = Field(min_length=1)


class Value(Said):
    """A computed answer, shown as such and usable by its name."""

    id: Id
    title: Words
    rule: Rule
    unit: Words | None = None
    beside: list[str] = []
    help: Words | None = None
    article: Words


class Accepts(Said):
    """What a slot takes. ``files`` is ``1`` or ``1 to 5``; ``size`` is ``20 MB``; ``sheet`` is the smallest sheet."""

    formats: list[Format] = Field(min_length=1)
    files: str = "1"
    size: str = "20 MB"
    sheet: Literal["A0", "A1", "A2", "A3", "A4", "A5"] | None = None
    landscape: bool = False
    pages: str | None = None

    @property
    def file_range(self) -> tuple[int, int]:
        """Fewest and most files."""
        return _range(self.files)

    @property
    def page_range(self) -> tuple[int, int] | None:
        """Fewest and most pages of one file, if the rule says."""
        return _range(self.pages) if self.pages else None

    @property
    def most_bytes(self) -> int:
        """The largest file, in bytes; 1 MB is a million bytes."""
        count, unit = self.size.split()
        return int(Decimal(count) * _SIZE_UNITS[unit])

    @model_validator(mode="after")
    def _readable(self) -> Accepts:
        try:
            _range(self.files), self.page_range, self.most_bytes
        except (ValueError, KeyError, ArithmeticError):
            raise ValueError("write files as '1' or '1 to 5' and size as '20 MB' or '500 kB'") from None
        return self


def _range(text: str) -> tuple[int, int]:
    low, _, high = text.partition(" to ")
    return int(low), int(high or low)


class Slot(Said):
    """A place for a document."""

    slot: Id
    title: Words
    says: Words
    when: Rule | None = None
    optional: bool = False
    accepts: Accepts
    article: Words


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
    at: list[str] = Field(min_length=1)
    article: Words


class Band(Said):
    """One stretch of a band table: ``flat`` starts it; ``per_started`` and ``adds`` climb through it."""

    up_to: Decimal | None = None
    above: Decimal | None = None
    flat: Amount | None = None
    per_started: Decimal | None = Field(default=None, gt=0)
    adds: Amount | None = None


class Bands(Said):
    """A marginal band table over ``of``."""

    of: Rule
    each: list[Band] = Field(min_length=1)


class Steps(Said):
    """So much for each started step of ``of`` beyond ``free``."""

    of: Rule
    per_started: Decimal = Field(gt=0)
    adds: Amount
    free: Amount = Decimal(0)


class Percent(Said):
    """A share of another line as it stands before that line's own changes."""

    of: Id
    rate: Decimal


class Change(Said):
    """What happens to a finished line, in the order written: ``times`` multiplies it, ``waived`` makes it nothing."""

    id: RuleId
    title: Words
    when: Rule
    times: Decimal | None = Field(default=None, ge=0)
    waived: bool = False
    article: Words

    @model_validator(mode="after")
    def _one(self) -> Change:
        if (self.times is None) != self.waived:
            raise ValueError("a change says either `times` or `waived: true`")
        return self


class FeeLine(Said):
    """One line of the fee sheet; exactly one of flat, amount, bands, steps, percent makes its base."""

    line: Id
    title: Words
    stage: Stage
    when: Rule | None = None
    flat: Amount | None = None
    amount: Rule | None = None
    bands: Bands | None = None
    steps: Steps | None = None
    percent: Percent | None = None
    at_least: Amount | None = None
    at_most: Amount | None = None
    then: list[Change] = []
    help: Words | None = None
    article: Words

    @model_validator(mode="after")
    def _one_shape(self) -> FeeLine:
        shapes = [s for s in ("flat", "amount", "bands", "steps", "percent") if getattr(self, s) is not None]
        if len(shapes) != 1:
            raise ValueError(
                f"a fee line has exactly one of flat, amount, bands, steps, percent; this has {', '.join(shapes) or 'none'}"
            )
        return self


class CheckClock(Said):
    """The office's own period; its event is the later of filing and full payment of what is due at filing."""

    within: PeriodOf
    article: Words


class AnswersClock(Said):
    """The applicant's period to answer a letter."""

    within: PeriodOf
    once_more: PeriodOf | None = None
    remind: list[int] = [7, 2]
    article: Words


class PayClock(Said):
    """The period to pay what is due at filing."""

    within: PeriodOf
    remind_after: int = 7
    article: Words


class DecisionClock(Said):
    """The target for the decision, after the intake is complete."""

    within: PeriodOf
    article: Words


class Clock(Said):
    """All periods of the kind."""

    check: CheckClock
    answers: AnswersClock
    pay: PayClock
    decision: DecisionClock


class Reason(Said):
    """A catalogue entry that words a point. ``for`` is a slot, a must, ``answer`` or ``fee``; braces name answers."""

    id: RuleId
    for_: str = Field(alias="for")
    title: Words
    says: Words


class Signature(Said):
    """The declaration that the applicant signs."""

    text: Words
    article: Words


class LetterText(Said):
    """The fixed words around what a letter says."""

    subject: Words
    opening: Words
    closing: Words


class Letters(Said):
    """The texts of every letter."""

    correction: LetterText
    complete: LetterText


class Edition(Said):
    """One edition of one kind, in force for filings filed from ``in_force`` on."""

    kind: Annotated[str, StringConstraints(pattern=r"^[A-Z]{2}$")]
    title: Words
    about: Words
    law: Words
    in_force: date
    currency: Annotated[str, StringConstraints(pattern=r"^[A-Z]{3}$")]
    calendar: Id
    incomplete_filing: Literal["warn", "refuse"]
    case_title: Words
    lists: dict[Id, list[Option]] = {}
    tables: dict[Id, Table] = {}
    parts: list[Part] = Field(min_length=1)
    values: list[Value] = []
    documents: list[Slot] = []
    must: list[Must] = []
    signature: Signature
    fees: list[FeeLine] = []
    clock: Clock
    reasons: list[Reason] = []
    letters: Letters

    @property
    def id(self) -> str:
        """``BW 2026-07-01``: the kind and the day from which it is in force."""
        return f"{self.kind} {self.in_force}"


def edition_schema() -> dict[str, Any]:
    """The JSON Schema of an edition, for editors and for the documents."""
    return Edition.model_json_schema(by_alias=True)
