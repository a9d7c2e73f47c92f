"""The fee lines of an edition, as data: bands, steps, shares of lines, changes, refunds; and the tables they look into."""

from __future__ import annotations

from decimal import Decimal
from typing import Annotated, Literal

from pydantic import Field, model_validator

from jolly_clerk.core.rulebook.said import Amount, Id, PeriodOf, Rule, RuleId, Said, Stage, Words
from jolly_clerk.core.say import say

#: a plain number, or a rule that gives one
Figure = Annotated[Decimal | Rule, Field(union_mode="left_to_right")]
How = Literal["up", "down", "nearest", "half even"]
STAGES: tuple[Stage, ...] = ("at filing", "after the check", "at issue")
#: what can make the base of a fee line
SHAPES = ("flat", "amount", "bands", "band_tables", "steps", "each_costs", "percent", "top_up", "cap")


class Band(Said):
    """One stretch of a band table: ``flat`` is added to what the bands before come to, ``is`` is what is due in all at its start;
    ``adds`` climbs through it, for each started step, each whole step or evenly.

    ``per`` counts parts of a step as well: ``per: 1, adds: 0.15`` is 0.15 for each whole one and so much less for a part.
    """

    up_to: Decimal | None = None
    above: Decimal | None = None
    flat: Amount | None = None
    is_: Amount | None = Field(default=None, alias="is")
    per_started: Decimal | None = Field(default=None, gt=0)
    per_full: Decimal | None = Field(default=None, gt=0)
    per: Decimal | None = Field(default=None, gt=0)
    adds: Amount | None = None

    @model_validator(mode="after")
    def _either(self) -> Band:
        if self.flat is not None and self.is_ is not None:
            raise ValueError(
                say("a band says `flat`, which is added to the bands before, or `is`, which is due in all, not both")
            )
        return self

    @property
    def step(self) -> tuple[Literal["", "started", "full", "evenly"], Decimal | None]:
        """How the band climbs, and in steps of what."""
        for how, step in (("started", self.per_started), ("full", self.per_full), ("evenly", self.per)):
            if step is not None:
                return how, step  # type: ignore[return-value]
        return "", None


class Bands(Said):
    """A marginal band table over ``of``."""

    of: Rule
    each: list[Band] = Field(min_length=1)


class BandTable(Bands):
    """One of several band tables, of which the first whose ``when`` holds counts; the last has none."""

    when: Rule | None = None


class EachCosts(Said):
    """A price for each one of ``of`` beyond ``free``; a part of one costs so much less."""

    of: Rule
    price: Figure
    free: Figure = Decimal(0)


class TopUp(Said):
    """What is missing of ``to`` when the lines of ``of`` come to less, as they are charged; nothing if they do not."""

    of: list[Id] = Field(min_length=1)
    to: Figure


class Cap(Said):
    """What the lines of ``of`` come to beyond ``at``, as they are charged, is taken off; nothing if they do not."""

    of: list[Id] = Field(min_length=1)
    at: Figure


class FallsDue(Said):
    """A line that falls due twice: so many ``percent`` of it at its own stage, brought to the coin, the ``rest`` at a later one."""

    percent: Annotated[Decimal, Field(gt=0, lt=100)]
    rest: Literal["after the check", "at issue"]


class Steps(Said):
    """So much for each started, each whole, or (evenly) each step of ``of`` beyond ``free``."""

    of: Rule
    per_started: Decimal | None = Field(default=None, gt=0)
    per_full: Decimal | None = Field(default=None, gt=0)
    per: Decimal | None = Field(default=None, gt=0)
    adds: Figure
    free: Figure = Decimal(0)

    @model_validator(mode="after")
    def _one(self) -> Steps:
        if sum(s is not None for s in (self.per_started, self.per_full, self.per)) != 1:
            raise ValueError(say("steps say one of `per_started`, `per_full` or `per`"))
        return self


class Percent(Said):
    """A share of other lines: as they stand before their own changes (also where nothing is said), or with ``after_changes`` as they are
    charged. Where one of them has changes it is better said. Or a share of a ``value``: an answer, or what a rule gives."""

    of: Id | list[Id] = []
    value: Rule | None = None
    rate: Figure
    after_changes: bool | None = None

    @property
    def lines(self) -> list[str]:
        """The lines it is a share of."""
        return [self.of] if isinstance(self.of, str) else self.of

    @model_validator(mode="after")
    def _one(self) -> Percent:
        if (self.value is None) == (not self.of):
            raise ValueError(say("a share is one of lines (`of: permit`) or of a value (`value: works.cost`)"))
        if self.value is not None and self.after_changes is not None:
            raise ValueError(say("`after_changes` belongs to a share of lines; a value has none"))
        return self


class Change(Said):
    """What happens to a finished line, in the order written; the line is rounded again after each.

    ``times`` multiplies it, ``percent`` adds or (negative) takes off so many per cent, ``adds`` adds or takes off an amount,
    ``becomes`` sets it, ``at_least`` and ``at_most`` hold it, ``waived`` makes it nothing and beats all the others.
    ``amount_so_far`` in a rule is the line as it stands. ``of`` names the lines of a change that stands under ``changes``.
    """

    id: RuleId
    title: Words
    of: list[Id] = []
    when: Rule | None = None
    times: Figure | None = None
    percent: Figure | None = None
    adds: Figure | None = None
    becomes: Figure | None = None
    at_least: Figure | None = None
    at_most: Figure | None = None
    waived: bool = False
    rounded: How | None = None
    to: Decimal | None = Field(default=None, gt=0)
    article: Words

    @property
    def figures(self) -> dict[str, Decimal | str]:
        """What it does, by the word it says it with."""
        named = {n: getattr(self, n) for n in ("times", "percent", "adds", "becomes", "at_least", "at_most")}
        return {name: value for name, value in named.items() if value is not None}

    @model_validator(mode="after")
    def _one(self) -> Change:
        if len(self.figures) + self.waived != 1:
            raise ValueError(
                say("a change says one of `times`, `percent`, `adds`, `becomes`, `at_least`, `at_most`, `waived: true`")
            )
        if isinstance(self.times, Decimal) and self.times < 0:
            raise ValueError(say("a line is not multiplied by less than nothing"))
        return self


class FeeLine(Said):
    """One line of the fee sheet; exactly one of :data:`SHAPES` makes its base.

    ``each`` makes it for every repeat of a part and adds up; ``all_at_most`` and ``all_at_least`` hold the sum. The base is
    brought to the smallest coin, half up, unless ``rounded`` (up, down, nearest, half even) and ``to`` say otherwise; with ``finer``
    it keeps what is finer than the coin, and the sum of its stage is brought to the coin. Of ``exemptions`` the first that holds is
    made, before the changes of ``then``.
    ``may_be_prepaid`` lets a later line be paid with the filing; ``comes_back`` is the share in percent
    that is paid back on withdrawal, or `by steps` where the steps under `refunds` say it. ``told_only`` lines are not charged
    (a tax that a price contains). A ``bond`` is no fee: it comes back whole however the case ends, unless it is granted.
    """

    line: Id
    title: Words
    stage: Stage
    when: Rule | None = None
    each: Id | None = None
    flat: Figure | None = None
    amount: Rule | None = None
    bands: Bands | None = None
    band_tables: list[BandTable] | None = Field(default=None, min_length=2)
    steps: Steps | None = None
    each_costs: EachCosts | None = None
    percent: Percent | None = None
    top_up: TopUp | None = None
    cap: Cap | None = None
    rounded: How = "nearest"
    to: Decimal | None = Field(default=None, gt=0)
    finer: bool = False
    falls_due: FallsDue | None = None
    exemptions: list[Change] = []
    at_least: Figure | None = None
    at_most: Figure | None = None
    all_at_least: Figure | None = None
    all_at_most: Figure | None = None
    then: list[Change] = []
    may_be_prepaid: bool = False
    comes_back: Annotated[Literal["by steps"] | Figure, Field(union_mode="left_to_right")] = Decimal(0)
    told_only: bool = False
    bond: bool = False
    help: Words | None = None
    article: Words

    @model_validator(mode="after")
    def _one_shape(self) -> FeeLine:
        shapes = [s for s in SHAPES if getattr(self, s) is not None]
        if len(shapes) != 1:
            raise ValueError(
                say(
                    "a fee line says one of {all}; this says {shapes}",
                    all=", ".join(f"`{shape}`" for shape in SHAPES),
                    shapes=" and ".join(f"`{shape}`" for shape in shapes) or say("none of them"),
                )
            )
        if isinstance(self.flat, Decimal) and self.flat < 0:
            raise ValueError(say("`flat` is greater than or equal to 0; a line that takes off is written as an `amount`"))
        if self.each is None and (self.all_at_least is not None or self.all_at_most is not None):
            raise ValueError(say("`all_at_most` and `all_at_least` belong to a line that says `each`"))
        if isinstance(self.comes_back, Decimal) and not 0 <= self.comes_back <= 100:
            raise ValueError(say("`comes_back` is a share from 0 to 100 per cent"))
        if self.falls_due and (self.bond or self.told_only or self.may_be_prepaid or self.finer):
            raise ValueError(
                say("a line that `falls_due` twice is no bond, is charged, is not prepaid and is brought to the coin")
            )
        if self.falls_due and STAGES.index(self.falls_due.rest) <= STAGES.index(self.stage):
            raise ValueError(say("the `rest` falls due at a later stage than “{stage}”", stage=say(self.stage)))
        if any(change.of for change in (*self.then, *self.exemptions)):
            raise ValueError(say("`of` belongs to a change under `changes`, not to one of the line's own"))
        return self


#: what the line is called that brings the sum of a stage to the coin
ROUNDING: dict[Stage, str] = {"at filing": "rounding.filing", "after the check": "rounding.check", "at issue": "rounding.issue"}


class Rounding(Said):
    """How what is due in each stage is brought to a coin, or ``to`` more than one; what that adds or takes off is a line of its own."""

    rounded: How = "nearest"
    to: Decimal | None = Field(default=None, gt=0)
    article: Words


class RefundStep(Said):
    """How long a withdrawal gives so much back: ``before`` a stage of the case, and ``within`` a period from the filing day.

    ``share`` is the percentage of every line that says `comes_back`; without it each line's own holds. A day ends at 24:00.
    """

    before: Literal["checking", "letter", "acceptance"] = "checking"
    within: PeriodOf | None = None
    share: Annotated[Decimal, Field(ge=0, le=100)] | None = None

    @model_validator(mode="after")
    def _in_days(self) -> RefundStep:
        if self.within is not None and self.within.in_hours:
            raise ValueError(say("`within` counts days, weeks or months from the filing day, not hours"))
        return self


class Refunds(Said):
    """What comes back, and what is kept, when a case ends early; the shares of the lines stand with the lines.

    ``withdrawn`` are the steps of a withdrawal, of which the first that holds counts; ``keeps`` stays of the lines that come back, in
    any case; what of them comes to less than ``smallest`` is not paid back.
    """

    withdrawn_article: Words
    withdrawn: list[RefundStep] = [RefundStep()]
    keeps: Amount = Decimal(0)
    smallest: Amount = Decimal(0)
    out_of_scope_keeps: Amount
    out_of_scope_article: Words


class Table(Said):
    """A table looked up by answers; a rule calls it by its name: ``rates(works.use, works.built_of)``.

    Each row has a cell for every column of ``of`` and what ``is`` there: a number, a date, yes or no, or a text.
    ``otherwise`` is what holds where no row does.
    """

    title: Words
    of: list[Id] = Field(min_length=1, max_length=4)
    article: Words
    rows: list[dict[str, str]] = Field(min_length=1)
    otherwise: str | None = None


class Rung(Said):
    """One step of a scale: it holds ``up_to`` and including a number or a date, or ``below`` it; the last has neither."""

    up_to: str | None = None
    below: str | None = None
    is_: str = Field(alias="is")

    @model_validator(mode="after")
    def _one(self) -> Rung:
        if self.up_to is not None and self.below is not None:
            raise ValueError(say("a step says `up_to` or `below`, not both"))
        return self


class Scale(Said):
    """A value by steps of a number or a date; a rule calls it by its name: ``rebate(year_calls)``."""

    title: Words
    article: Words
    steps: list[Rung] = Field(min_length=1)


class Point(Said):
    """One point of a curve."""

    at: Decimal
    is_: Decimal = Field(alias="is")


class Curve(Said):
    """Straight lines between points; a rule calls it by its name: ``tonnage_due(ship.tonnage)``.

    Below the first point it stays level; ``beyond`` the last it stays level, goes straight on, or climbs by ``beyond_adds`` for each one more.
    """

    title: Words
    article: Words
    points: list[Point] = Field(min_length=2)
    beyond: Literal["level", "straight on"] = "level"
    beyond_adds: Decimal | None = None
