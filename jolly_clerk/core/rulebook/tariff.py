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
    charged. Where one of them has changes it is better said."""

    of: Id | list[Id]
    rate: Figure
    after_changes: bool | None = None

    @property
    def lines(self) -> list[str]:
        """The lines it is a share of."""
        return [self.of] if isinstance(self.of, str) else self.of


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
    """One line of the fee sheet; exactly one of flat, amount, bands, steps, percent makes its base.

    ``each`` makes it for every repeat of a part and adds up; ``all_at_most`` and ``all_at_least`` hold the sum. The base is
    brought to the smallest coin, half up, unless ``rounded`` (up, down, nearest, half even) and ``to`` say otherwise.
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
    steps: Steps | None = None
    percent: Percent | None = None
    rounded: How = "nearest"
    to: Decimal | None = Field(default=None, gt=0)
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
        shapes = [s for s in ("flat", "amount", "bands", "steps", "percent") if getattr(self, s) is not None]
        if len(shapes) != 1:
            raise ValueError(
                say(
                    "a fee line says one of `flat`, `amount`, `bands`, `steps`, `percent`; this says {shapes}",
                    shapes=" and ".join(f"`{shape}`" for shape in shapes) or say("none of them"),
                )
            )
        if isinstance(self.flat, Decimal) and self.flat < 0:
            raise ValueError(say("`flat` is greater than or equal to 0; a line that takes off is written as an `amount`"))
        if self.each is None and (self.all_at_least is not None or self.all_at_most is not None):
            raise ValueError(say("`all_at_most` and `all_at_least` belong to a line that says `each`"))
        if isinstance(self.comes_back, Decimal) and not 0 <= self.comes_back <= 100:
            raise ValueError(say("`comes_back` is a share from 0 to 100 per cent"))
        if any(change.of for change in self.then):
            raise ValueError(say("`of` belongs to a change under `changes`, not to one of the line's own"))
        return self


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
