"""The inspections of what was granted, as an edition says them."""

from __future__ import annotations

from datetime import time
from decimal import Decimal
from typing import Annotated

from pydantic import AfterValidator, Field, PlainSerializer

from jolly_clerk.core.rulebook.said import Amount, Id, PeriodOf, Said, Words
from jolly_clerk.core.say import say
from jolly_clerk.core.time.periods import Period


def _in_hours(period: Period) -> Period:
    if not period.in_hours:
        raise ValueError(say("an inspection lasts hours, as in `2 hours`"))
    return period


def _in_days(period: Period) -> Period:
    if period.in_hours:
        raise ValueError(say("an inspection is made again within days, weeks or months, not hours"))
    return period


class Visit(Said):
    """One inspection: what it is called, and what is looked at. ``after`` names those that have to be passed before."""

    id: Id
    title: Words
    says: Words
    after: list[Id] = []


class Inspections(Said):
    """The inspections of a permit, in their order. They begin ``at`` hours of a working day and last so long; of each hour the office has one.

    One that is not passed is made ``again`` within a period. So many repetitions of a visit are ``free``, each further one costs
    ``repeated``.
    """

    visits: list[Visit] = Field(min_length=1)
    at: list[Annotated[time, PlainSerializer(lambda at: f"{at:%H:%M}", return_type=str)]] = Field(min_length=1)
    lasts: Annotated[PeriodOf, AfterValidator(_in_hours)]
    again: Annotated[PeriodOf, AfterValidator(_in_days)]
    free: int = Field(default=1, ge=0)
    repeated: Amount = Decimal(0)
    article: Words
