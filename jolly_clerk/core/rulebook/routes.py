"""Where the answers lead: the branches of the way in, and the pathways of a case."""

from __future__ import annotations

from typing import Literal

from pydantic import model_validator

from jolly_clerk.core.rulebook.said import Rule, RuleId, Said, Words
from jolly_clerk.core.say import say


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


class Pathway(Said):
    """A route that the answers choose; the first whose condition holds."""

    id: RuleId
    title: Words
    says: Words
    when: Rule | None = None
    article: Words
