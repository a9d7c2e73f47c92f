"""The periods of an edition: checking, answering, paying, deciding."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from jolly_clerk.core.rulebook.said import Id, PeriodOf, Rule, Said, Words
from jolly_clerk.core.say import say
from jolly_clerk.core.time.periods import Period

IfLastDayClosed = Literal["next working day", "stays"]


class Instead(Said):
    """Another period while something holds: an urgent case, a pathway. The first that holds counts."""

    when: Rule
    within: PeriodOf
    article: Words


class Timed(Said):
    """What every period says: how long, by which article, and what it is instead while something holds.

    ``if_closed`` tells where a last day goes on which the office is closed, ``by`` names the further calendar by which it is counted.
    """

    within: PeriodOf
    article: Words
    instead: list[Instead] = []
    if_closed: IfLastDayClosed = "next working day"
    by: Id | None = None


class CheckClock(Timed):
    """The office's own period.

    It is counted ``from`` the later of filing and full payment of what is due at filing, the earlier, or one of the two; after answers
    it goes on where it stood (``resumes``), or begins anew with them.
    """

    from_: Literal["later", "earlier", "filing", "payment"] = Field(default="later", alias="from")
    after_answers: Literal["resumes", "begins anew"] = "resumes"


def _a_few_days(period: Period) -> Period:
    if period.in_hours or period.unit in ("months", "years"):
        raise ValueError(say("a letter counts as received some days after it was sent, as in `3 days` or `3 working days`"))
    return period


class Backwards(Said):
    """A last day counted backwards from an event that an answer tells: ``{before: trip.start, within: 14 days}``."""

    before: Rule
    within: PeriodOf


class Printed(Said):
    """When a letter goes printed, by post, and how long after its posting it counts as received.

    It counts as posted on the working day on which it leaves, on the next one if it leaves after the office's end or on a closed day.
    """

    when: Rule
    received: Annotated[PeriodOf, AfterValidator(_a_few_days)]
    article: Words


class AnswersClock(Timed):
    """The applicant's period to answer a letter.

    ``received`` tells after how long a letter counts as received; the period is counted from then, the office's clock stands still from
    the sending. ``printed`` says so of letters that go by post; ``posted`` is worked out for a case and never written. ``at_latest`` is
    a last day counted backwards from an event.
    """

    once_more: PeriodOf | None = None
    remind: list[int] = [7, 2]
    received: Annotated[PeriodOf, AfterValidator(_a_few_days)] | None = None
    printed: Printed | None = None
    at_latest: Backwards | None = None
    posted: bool = Field(default=False, exclude=True)

    @model_validator(mode="after")
    def _posted_is_not_written(self) -> AnswersClock:
        if "posted" in self.model_fields_set:
            raise ValueError(say("`posted` is worked out; say `printed` under `answers`"))
        return self


class PayClock(Timed):
    """The period to pay what is due at filing. With ``grows`` a line that rises while it is not paid is told and added."""

    remind_after: int = 7
    grows: bool = False


class DecisionClock(Timed):
    """The period for the decision, after the intake is complete. ``silence: granted`` grants at its end what nobody decided."""

    silence: Literal["granted"] | None = None


class OtherBodyClock(Said):
    """How long another body has to answer when the office asks it; the office's period stands still until then, unless ``pauses: false``."""

    within: PeriodOf
    article: Words
    if_closed: IfLastDayClosed = "next working day"
    by: Id | None = None
    pauses: bool = True

    @model_validator(mode="after")
    def _in_days(self) -> OtherBodyClock:
        if self.within.in_hours:
            raise ValueError(say("another body has days, weeks or months to answer, not hours"))
        return self


class Within(Said):
    """A period from the day of issue within which something has to be done, and by which article."""

    within: PeriodOf
    article: Words

    @model_validator(mode="after")
    def _in_days(self) -> Within:
        if self.within.in_hours:
            raise ValueError(say("what is granted is begun and finished `within` days, weeks, months or years, not hours"))
        return self


class OnDay(Said):
    """A day that a rule gives, and by which article."""

    on: Rule
    article: Words


class AfterGrant(Said):
    """The days of what was granted: it has to be begun and finished ``within`` periods from the day of issue, is in force from the day
    ``starts`` (by default that of issue) to the day ``ends``. ``remind`` says how many days before each the holder is reminded."""

    begin: Within | None = None
    finish: Within | None = None
    starts: OnDay | None = None
    ends: OnDay | None = None
    remind: list[Annotated[int, Field(ge=1, le=3650)]] = [60, 14]


class PublicRegister(Said):
    """That a case stands in the public register with the answers that are ``public``: once it is granted, or already when it is decided."""

    enters: Literal["granted", "decided"] = "granted"
    article: Words


class Clock(Said):
    """All periods of the kind. ``latest_answers`` is worked out for a case and never written."""

    check: CheckClock
    answers: AnswersClock
    pay: PayClock
    decision: DecisionClock
    other_body: OtherBodyClock | None = None
    latest_answers: date | None = Field(default=None, exclude=True)

    @model_validator(mode="after")
    def _not_written(self) -> Clock:
        if "latest_answers" in self.model_fields_set:
            raise ValueError(say("`latest_answers` is worked out; say `at_latest` under `answers`"))
        return self
