"""What one edition of a rulebook says, as plain values. Every scalar arrives as text and is typed here.

The JSON Schema of an edition (``jolly-clerk schema rulebook``) is made from :class:`Edition`.
"""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, StringConstraints, model_validator

from jolly_clerk.core.rulebook.debts import Debts
from jolly_clerk.core.rulebook.declaring import Declaration, Signature
from jolly_clerk.core.rulebook.examples import Example
from jolly_clerk.core.rulebook.inspecting import Inspections
from jolly_clerk.core.rulebook.letters import Letters, LetterText
from jolly_clerk.core.rulebook.papers import (
    LANGUAGES,
    SHEETS,
    Accepts,
    Either,
    FactRule,
    Format,
    Issued,
    Language,
    Limit,
    Margins,
    Portrait,
    Slot,
    Valid,
    bytes_of,
)
from jolly_clerk.core.rulebook.profiles import ProfileKey
from jolly_clerk.core.rulebook.routes import Branch, Pathway
from jolly_clerk.core.rulebook.said import Grants, Id, OutsidePoints, PeriodOf, Rule, RuleId, Said, Stage, Words
from jolly_clerk.core.rulebook.schedule import (
    AfterGrant,
    AnswersClock,
    CheckClock,
    Clock,
    DecisionClock,
    Instead,
    PayClock,
    PublicRegister,
)
from jolly_clerk.core.rulebook.steps import PermitState, Step
from jolly_clerk.core.rulebook.tariff import (
    Band,
    Bands,
    BandTable,
    Change,
    Curve,
    FeeLine,
    Percent,
    Refunds,
    Rounding,
    Scale,
    Steps,
    Table,
)
from jolly_clerk.core.say import say
from jolly_clerk.core.states import State
from jolly_clerk.core.time.periods import Period

__all__ = [
    "LANGUAGES",
    "SHEETS",
    "Accepts",
    "Either",
    "FactRule",
    "Format",
    "Issued",
    "Limit",
    "Margins",
    "Portrait",
    "Slot",
    "Valid",
    "bytes_of",
    "Letters",
    "LetterText",
    "AfterGrant",
    "Declaration",
    "Signature",
    "AnswersClock",
    "Band",
    "Branch",
    "Bands",
    "BandTable",
    "Change",
    "CheckClock",
    "Clock",
    "DecisionClock",
    "Instead",
    "FeeLine",
    "Pathway",
    "PayClock",
    "Percent",
    "Stage",
    "Steps",
]
QuestionType = Literal[
    "text", "long text", "person", "place", "mail address", "number", "count", "money", "date", "date and time", "hour", "period",
    "yes or no", "one of", "several of", "rows",
]  # fmt: skip
KindCode = Annotated[str, StringConstraints(pattern=r"^[A-Z]{2}$")]


class Option(Said):
    """One choice of a list; with ``when`` it is offered only while that holds."""

    id: RuleId
    title: Words
    when: Rule | None = None


class Column(Said):
    """One column of a question of type ``rows``."""

    id: Id
    ask: Words
    type: Literal[
        "text", "person", "place", "number", "count", "money", "date", "date and time", "hour", "period", "yes or no", "one of"
    ]
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
    ``profile: address`` takes it from what the applicant's account says; ``called`` is the firm or, without one, the name.
    ``needed_when`` makes an optional question needed. A question of type ``rows`` has ``columns`` and as many rows as are
    given, at least ``at_least`` and at most ``at_most``. ``default`` is what stands there until it is changed; ``usual`` is offered where
    nothing is answered: for a part that repeats, to all who have none at once. ``later: yes`` lets the applicant answer it after filing
    without being asked, under the name ``added_as``; ``later: on the day`` with the day on which that is done.
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
    usual: Rule | None = None
    later: Literal["on the day"] | bool = False
    added_as: Words | None = None
    columns: list[Column] = []
    public: bool = False
    on_permit: bool = False
    stands_as: Words | None = None
    at_least: Decimal | None = None
    at_most: Decimal | None = None
    decimals: int = Field(default=2, ge=0, le=6)
    not_after_filing: bool = False
    beside: bool = False
    register_: str | None = Field(default=None, alias="register")
    profile: ProfileKey | None = None
    article: Words | None = None

    @model_validator(mode="after")
    def _rows(self) -> Question:
        if (self.type == "rows") != bool(self.columns):
            raise ValueError(say("a question of type `rows` has `columns`, and only such a one"))
        return self


class Part(Said):
    """A group of questions; with ``each`` it repeats, and each repeat is called ``one`` (*Person*) with its number.

    While a letter is answered, its answers outside the points may be changed and are shown to the officer (``open``), or stay as they were
    filed (``locked``). With ``later: yes`` the applicant may add a repeat after filing without being asked.
    """

    id: Id
    title: Words
    one: Words | None = None
    when: Rule | None = None
    each: bool = False
    at_least: int = 0
    at_most: int = 60
    later: bool = False
    outside_points: OutsidePoints = "open"
    questions: list[Question] = Field(min_length=1)


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
            raise ValueError(say("a computed answer has a `rule` or a `limit`"))
        return self


class Must(Said):
    """Something that has to hold, or that an officer has to look at.

    With ``rule`` the machine proposes *met*, or *wanting* (``otherwise_is: look`` makes that *in
    doubt*). Without one the officer reads and judges. ``at`` names the questions or slots concerned, ``asks`` is what a letter asks for
    where it does not hold.
    """

    id: RuleId
    title: Words
    asks: Words | None = None
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

    ``places`` are questions (``works.distance``), computed answers, facts of files (``site_plan.distance``) and columns of
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
    reference: ``gives`` says which answer of the other case a column holds; ``state`` and ``title`` are always known. ``measures`` is the
    question that is answered by measuring on the register's map how far a point lies from high water.
    """

    title: Words
    cases_of: KindCode | None = None
    gives: dict[Id, str] = {}
    key: Id
    asked_by: str
    measures: str | None = None
    columns: dict[Id, Words]
    inner: list[Id] = []
    article: Words


class Reason(Said):
    """A catalogue entry that words a point, or the grounds of an ending. Braces name answers.

    ``for`` is a slot, a must, an agreement, ``answer``, ``declarations``, ``signature``, ``fee``, ``not accepted``, ``out of scope`` or ``refused``.
    One of a slot ``fits`` only where nothing is attached (``missing``), or only where something is (``there``).
    """

    id: RuleId
    for_: str = Field(alias="for")
    fits: Literal["missing", "there"] | None = None
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
    """Another case that has to stand in one of these states: the one whose reference a register of cases was asked about. With ``permit``
    what was granted on it has to stand so as well."""

    id: RuleId
    title: Words
    part: Id
    says: Words
    register_: Id = Field(alias="register")
    states: list[State] = Field(min_length=1)
    permit: list[PermitState] = []
    when: Rule | None = None
    article: Words


def _in_days(period: Period) -> Period:
    if period.in_hours or not period.count:
        raise ValueError(say("a case is kept for days, weeks, months or years, as in `10 years`"))
    return period


class Edition(Said):
    """One edition of one kind, in force for filings filed from ``in_force`` on."""

    kind: KindCode
    sub_kind_of: KindCode | None = None
    #: a short filing on what was granted: it is begun there, and `step` says what it does to it
    on_: Literal["permit"] | None = Field(default=None, alias="on")
    title: Words
    about: Words
    #: plain words by which people ask for it, for whoever looks for the right kind
    asked_as: list[Words] = []
    law: Words
    #: what is granted in the end, in the words of the law: permit, licence, registration, visa, patent, authorisation
    grants: Grants = "permit"
    in_force: date
    #: how long a case is kept after it has ended, before it may be erased
    keep: Annotated[PeriodOf, AfterValidator(lambda period: _in_days(period))] = Period(10, "years")
    currency: Annotated[str, StringConstraints(pattern=r"^[A-Z]{3}$")]
    calendar: Id
    incomplete_filing: Literal["warn", "refuse"] = "warn"
    #: whoever files types a code that comes by text message
    confirm_by: Literal["text"] | None = None
    #: the question by which the language of the letters is chosen; its choices are codes of languages
    letters_in: Words | None = None
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
    #: by whom, in which parts and when what is due in a stage is owed; by default at once, by the applicant
    debts: list[Debts] = []
    #: how the sum of each stage is brought to a coin
    rounding: Rounding | None = None
    refunds: Refunds = Refunds(withdrawn_article="-", out_of_scope_keeps=Decimal(0), out_of_scope_article="-")
    clock: Clock
    after_grant: AfterGrant | None = None
    public_register: PublicRegister | None = None
    step: Step | None = None
    inspections: Inspections | None = None
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
