"""The periods of an edition: checking, answering, paying, deciding."""

from __future__ import annotations

from jolly_clerk.core.rulebook.said import PeriodOf, Said, Words


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
    """The period to pay what is due at filing. With ``grows`` a line that rises while it is not paid is told and added."""

    within: PeriodOf
    remind_after: int = 7
    grows: bool = False
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
