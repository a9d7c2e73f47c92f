"""Where the answers lead: the branches of the way in, and the pathways of a case."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, model_validator

from jolly_clerk.core.rulebook.said import PeriodOf, Rule, RuleId, Said, Words
from jolly_clerk.core.say import say
from jolly_clerk.core.time.periods import Period


class Branch(Said):
    """One answer of the way in; the first whose condition holds decides.

    What is not needed cannot be filed, unless the law lets one ``insist``; a reason is given then, and an officer looks.
    """

    id: RuleId
    when: Rule | None = None
    then: Literal["needed", "not needed", "belongs elsewhere"]
    because: Words
    insist: bool = False
    article: Words

    @model_validator(mode="after")
    def _insisted(self) -> Branch:
        if self.insist and self.then != "not needed":
            raise ValueError(say("one may `insist` only where something is `not needed`"))
        return self


def _not_in_hours(period: Period) -> Period:
    if period.in_hours:
        raise ValueError(say("an agenda is closed days, working days or weeks before the meeting, not hours"))
    return period


class Meeting(Said):
    """Who meets on cases of a pathway before they are decided: an id, which other pathways and kinds may name as well, and a title without
    its article. The agenda is closed so long before a meeting (``closes``), or when it begins."""

    body: RuleId
    title: Words
    closes: Annotated[PeriodOf, AfterValidator(_not_in_hours)] | None = None
    article: Words


class Pathway(Said):
    """A route that the answers choose; the first whose condition holds. Where it has a ``meeting`` nobody decides before that has met."""

    id: RuleId
    title: Words
    says: Words
    when: Rule | None = None
    meeting: Meeting | None = None
    article: Words
