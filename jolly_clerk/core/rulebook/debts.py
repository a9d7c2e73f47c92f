"""How what is due in a stage is owed, as an edition says it: by whom, in which parts, and when each falls due."""

from __future__ import annotations

from decimal import Decimal
from typing import Annotated, Literal

from pydantic import Field, model_validator

from jolly_clerk.core.rulebook.said import Id, PeriodOf, Rule, Said, Stage, Words
from jolly_clerk.core.rulebook.schedule import IfLastDayClosed
from jolly_clerk.core.say import say

Holds = Literal["acceptance", "issue", "nothing"]


class Payers(Said):
    """Those who share what is due: one for every repeat of ``each``, named by its question ``payer``, by the figures of ``share`` (in
    equal parts without it). Shares are brought down to the coin; what is left of a coin falls on the first."""

    each: Id
    payer: Id
    share: Id | None = None


class Instalment(Said):
    """One part of what is due: so many ``percent`` of it, in equal parts where none says so.

    It falls due at the end of a period counted from the day of its stage (filing, acceptance, grant); without ``within`` it is due at
    once, in the time to pay. Until it is paid it holds up the acceptance, the issue, or nothing.
    """

    title: Words | None = None
    percent: Annotated[Decimal, Field(gt=0, lt=100)] | None = None
    within: PeriodOf | None = None
    if_closed: IfLastDayClosed = "next working day"
    holds: Holds = "issue"

    @model_validator(mode="after")
    def _in_days(self) -> Instalment:
        if self.within is not None and self.within.in_hours:
            raise ValueError(say("a part of what is due falls due `within` days, weeks or months, not hours"))
        return self


class Debts(Said):
    """How what is due in a stage is owed; the first of a stage whose ``when`` holds counts. Without any it is owed at once, by the
    applicant.

    Parts are brought down to the coin; what is left of a coin goes to the last. ``remind`` says how many days before its day a part is
    told; it is told once more when its day has passed.
    """

    stage: Stage
    when: Rule | None = None
    shared: Payers | None = None
    instalments: list[Instalment] = []
    remind: list[Annotated[int, Field(ge=1, le=365)]] = [7]
    article: Words

    @model_validator(mode="after")
    def _whole(self) -> Debts:
        said = [part.percent for part in self.instalments]
        if len(said) == 1:
            raise ValueError(say("what is due in parts has at least two of them"))
        if any(said) and not (all(said[:-1]) and (said[-1] is None or sum(p or 0 for p in said) == 100)):
            raise ValueError(
                say("either no part says its `percent`, or each does and they come to 100; the last may leave it out")
            )
        if any(said) and sum(p or 0 for p in said[:-1]) >= 100:
            raise ValueError(say("the parts before the last come to less than 100 per cent"))
        if not self.instalments and self.shared is None:
            raise ValueError(say("say `instalments`, in which parts it is owed, or `shared`, by whom, or both"))
        if self.stage != "at filing" and any(part.holds == "acceptance" for part in self.instalments):
            raise ValueError(say("what falls due {stage} cannot hold up the acceptance", stage=say(self.stage)))
        return self
