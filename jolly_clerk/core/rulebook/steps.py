"""What a short filing on a permit does to it (``on: permit``): a renewal, a change for a time, a report that works have begun.

Such an edition is a sub-kind: it has questions, papers, fees and checks of its own, and a register of the office's own cases that names the
permit. What it does is written into the history of the permit when it is granted.
"""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from jolly_clerk.core.rulebook.said import Id, Rule, Said, Words
from jolly_clerk.core.say import say

#: how a permit stands
PermitState = Literal["not yet in force", "in force", "changed until", "finished", "expired", "cancelled", "transferred"]
#: what a step does: to the answers of the permit for a time or for good, to its days, to its holder, or to the permit itself
Does = Literal["changes for a time", "changes", "extends", "transfers", "replaces", "ends", "begun", "finished"]
#: the days of a permit that a step may move
Moved = Literal["begin", "finish", "ends"]
#: what a register of the office's own cases always knows of the permit of a case, besides its `state` and `title`
PERMIT_COLUMNS = ("permit", "starts", "begin", "finish", "ends", "changed_days", "extended", "to_inspect")


class Sets(Said):
    """What the permit says from then on: what it is called, and the words, in which braces name answers of the short filing."""

    title: Words
    becomes: Words = Field(alias="to")


class Step(Said):
    """What the short filing does once it is granted.

    ``register`` names the register of cases whose entry is the permit. It holds ``from`` a day, by default that of the grant; a change for a
    time has an ``until``. An extension gives the new ``days``. ``back`` is what comes back of what was paid for the permit. With ``decided:
    by itself`` nobody has to decide where every requirement is met and what is due is paid. ``accepted_by`` is the question for the mail
    address of the new holder, who accepts the permit and has its page from then on.
    """

    does: Does
    register_: Id = Field(alias="register")
    decided: Literal["by the office", "by itself"] = "by the office"
    from_: Rule | None = Field(default=None, alias="from")
    until: Rule | None = None
    days: dict[Moved, Rule] = {}
    sets: list[Sets] = []
    back: Rule | None = None
    accepted_by: str | None = None
    article: Words

    @model_validator(mode="after")
    def _fits(self) -> Step:
        if (self.does == "changes for a time") != (self.until is not None):
            raise ValueError(say("a change for a time says `until` when, and nothing else does"))
        if (self.does == "extends") != bool(self.days):
            raise ValueError(say("what extends a permit says its new `days`, and nothing else does"))
        if self.does in ("changes", "transfers") and not self.sets:
            raise ValueError(say("say at `sets` what the permit says from then on"))
        if self.back is not None and self.does != "ends":
            raise ValueError(say("money comes `back` where the permit ends"))
        if self.accepted_by is not None and self.does != "transfers":
            raise ValueError(say("a permit is `accepted_by` somebody where it is transferred"))
        return self
