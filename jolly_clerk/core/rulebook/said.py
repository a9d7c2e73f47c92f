"""The plain kinds of value from which an edition is made; every scalar arrives as text and is typed here."""

from __future__ import annotations

import re
from decimal import Decimal
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, PlainSerializer, StringConstraints

from jolly_clerk.core.say import say
from jolly_clerk.core.time.periods import Period

Id = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,39}$")]
RuleId = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_-]{0,59}$")]
Words = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=4000)]
Rule = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1)]
Grants = Annotated[str, StringConstraints(strip_whitespace=True), AfterValidator(lambda word: _small_letters(word))]
Amount = Annotated[Decimal, Field(ge=0, max_digits=18)]
PeriodOf = Annotated[
    Period,
    BeforeValidator(lambda v: Period.parse(v) if isinstance(v, str) else v),
    PlainSerializer(str, return_type=str),
]
#: what may happen to answers that no point of a letter names, while it is answered
OutsidePoints = Literal["open", "locked"]
Stage = Literal["at filing", "after the check", "at issue"]


def _small_letters(word: str) -> str:
    if not re.fullmatch(r"[a-z][a-z -]{1,39}", word):
        right = re.sub(r"^(a|an|the) ", "", word.casefold())
        raise ValueError(say("write what is granted in small letters and without its article: `{right}`", right=right))
    return word


class Said(BaseModel):
    """Base of everything an edition says: unknown keys are faults, values do not change."""

    model_config = ConfigDict(extra="forbid", frozen=True)
