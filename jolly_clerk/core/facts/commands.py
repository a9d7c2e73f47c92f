"""The facts of the trade as commands: a name, what goes in, what comes out. ``jolly-clerk fact NAME`` runs them over JSON lines."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from jolly_clerk.core.facts import claims as claims_of
from jolly_clerk.core.facts import mrz as mrz_of
from jolly_clerk.core.facts import names as names_of
from jolly_clerk.core.facts import spans, stays
from jolly_clerk.core.rulebook.functions import age as age_on
from jolly_clerk.core.say import _, say
from jolly_clerk.core.time.periods import add_months


class Line(BaseModel):
    """Base of what goes in and comes out: no unknown keys."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)


class Stretch(Line):
    """A stretch of days, both counted."""

    first: date = Field(alias="from")
    last: date = Field(alias="to")

    @property
    def pair(self) -> tuple[date, date]:
        """First and last day."""
        return self.first, self.last


class NamesIn(Line):
    """Two names of a person or a firm."""

    one: str
    other: str


class NamesOut(Line):
    """Whether a clerk would take both for the same, what would be said (same, look, other), why, and the words that were compared."""

    same: bool
    verdict: Literal["same", "look", "other"]
    why: str
    one: list[str]
    other: list[str]


class MrzIn(Line):
    """Machine-readable lines, and the day of looking, which decides centuries."""

    lines: list[str]
    on: date


class MrzOut(Line):
    """What the lines say; ``trouble`` if they are no machine-readable lines. ``checks`` tells which check digits are right."""

    trouble: str = ""
    size: str = ""
    document: str = ""
    issuer: str = ""
    surname: str = ""
    given: str = ""
    number: str = ""
    nationality: str = ""
    born: str = ""
    sex: str = ""
    expires: str = ""
    optional: str = ""
    checks: dict[str, bool] = {}
    all_right: bool = False
    faults: list[str] = []


class StaysIn(Line):
    """Earlier stays and a planned one; at most ``days`` in any ``window`` days."""

    earlier: list[Stretch] = []
    planned: Stretch
    days: int = Field(default=90, ge=1, le=3650)
    window: int = Field(default=180, ge=1, le=3650)


class StaysOut(Line):
    """Days used on the first planned day, the highest count, the first day over, and the earliest lawful entry for so long a stay."""

    used: int
    most: int
    first_day_over: date | None
    earliest_entry: date | None


class ClaimsIn(Line):
    """The text of the claims."""

    text: str = Field(max_length=2_000_000)


class ClaimOut(Line):
    """One claim."""

    no: int
    words: int
    refers_to: list[int]
    multiple: bool


class ClaimsOut(Line):
    """The claims counted, and what is wrong with them."""

    count: int
    independent: list[int]
    multiple: list[int]
    gaps: list[int]
    repeated: list[int]
    forward: list[int]
    missing: list[int]
    multiple_on_multiple: list[int]
    claims: list[ClaimOut]


class PracticeIn(Line):
    """Periods of practice, both days counted."""

    periods: list[Stretch]


class PracticeOut(Line):
    """Whole months, days left over, and the merged periods."""

    months: int
    days: int
    periods: list[Stretch]


class PolicyIn(Stretch):
    """A cover in force on both days."""

    amount: Decimal


class CoverIn(Line):
    """Policies, and the stretch that has to be covered for at least an amount by one of them each day."""

    policies: list[PolicyIn]
    first: date = Field(alias="from")
    last: date = Field(alias="to")
    least: Decimal = Decimal(0)


class CoverOut(Line):
    """Whether every day is covered, and the gaps."""

    covers: bool
    gaps: list[Stretch]


class AgeIn(Line):
    """A day of birth and the day of looking."""

    born: date
    on: date


class AgeOut(Line):
    """Whole years, and the next birthday; who was born on 29 February has it on 28 February of a common year."""

    years: int
    next_birthday: date


class WordsIn(Line):
    """A text; a form feed ends a page."""

    text: str = Field(max_length=5_000_000)


class WordsOut(Line):
    """Words (with a letter or a digit in each; a hyphen joins), pages, paragraphs, characters."""

    words: int
    pages: int
    paragraphs: int
    characters: int


def _stretch(first: date, last: date) -> Stretch:
    return Stretch.model_validate({"from": first, "to": last})


def _names(given: NamesIn) -> NamesOut:
    found = names_of.compared(given.one, given.other)
    own, other = names_of.words(given.one), names_of.words(given.other)
    return NamesOut(same=found.verdict == "same", verdict=found.verdict, why=found.why, one=own, other=other)


def _mrz(given: MrzIn) -> MrzOut:
    found = mrz_of.read_mrz(given.lines, given.on)
    if isinstance(found, str):
        return MrzOut(trouble=found)
    told = {name: getattr(found, name) for name in found.__dataclass_fields__}
    return MrzOut(**{**told, "faults": list(found.faults)}, all_right=all(found.checks.values()) and not found.faults)


def _stays(given: StaysIn) -> StaysOut:
    found = stays.look([s.pair for s in given.earlier], given.planned.pair, given.days, given.window)
    return StaysOut(used=found.used, most=found.most, first_day_over=found.first_day_over, earliest_entry=found.earliest_entry)


def _claims(given: ClaimsIn) -> ClaimsOut:
    found = claims_of.read_claims(given.text)
    return ClaimsOut(
        count=found.count,
        independent=list(found.independent),
        multiple=list(found.multiple),
        gaps=list(found.gaps),
        repeated=list(found.repeated),
        forward=list(found.forward),
        missing=list(found.missing),
        multiple_on_multiple=list(found.multiple_on_multiple),
        claims=[ClaimOut(no=c.no, words=c.words, refers_to=list(c.refers_to), multiple=c.multiple) for c in found.claims],
    )


def _practice(given: PracticeIn) -> PracticeOut:
    found = spans.practice([p.pair for p in given.periods])
    return PracticeOut(months=found.months, days=found.days, periods=[_stretch(m.first, m.last) for m in found.stretches])


def _cover(given: CoverIn) -> CoverOut:
    if given.last < given.first:
        raise ValueError(
            say("the stretch to be covered ends on {last}, before it begins on {first}", last=given.last, first=given.first)
        )
    policies = [spans.Policy(p.first, p.last, p.amount) for p in given.policies]
    found = spans.cover(policies, given.first, given.last, given.least)
    return CoverOut(covers=found.covers, gaps=[_stretch(a, b) for a, b in found.gaps])


def _age(given: AgeIn) -> AgeOut:
    if given.on < given.born:
        raise ValueError(say("{on} is before the birth on {born}", on=given.on, born=given.born))
    years = int(age_on(given.born, given.on))
    return AgeOut(years=years, next_birthday=add_months(given.born, 12 * (years + 1)))


def _words(given: WordsIn) -> WordsOut:
    words = re.findall(r"[^\W_]+(?:[-'’.,][^\W_]+)*", given.text)
    pages = given.text.split("\f")
    while len(pages) > 1 and not pages[-1].strip():
        pages.pop()
    paragraphs = [p for p in re.split(r"\n\s*\n|\f", given.text) if p.strip()]
    count = len(pages) if given.text.strip() else 0
    return WordsOut(words=len(words), pages=count, paragraphs=len(paragraphs), characters=len(given.text))


@dataclass(frozen=True, slots=True)
class FactCommand:
    """A fact with its models and what it is for."""

    name: str
    says: str
    takes: type[Line]
    gives: type[Line]
    work: Callable[[Any], Line]

    def run(self, line: str | bytes) -> Line:
        """One line of JSON in, the answer out. ValueError (pydantic's included) for what cannot be taken."""
        return self.work(self.takes.model_validate_json(line))


FACTS: dict[str, FactCommand] = {
    c.name: c
    for c in (
        FactCommand("names", _("two names compared as a clerk would"), NamesIn, NamesOut, _names),
        FactCommand("mrz", _("machine-readable passport lines of all three sizes"), MrzIn, MrzOut, _mrz),
        FactCommand("stays", _("days in a rolling window"), StaysIn, StaysOut, _stays),
        FactCommand("claims", _("patent claims counted from their text"), ClaimsIn, ClaimsOut, _claims),
        FactCommand("practice", _("months of practice, overlaps counted once"), PracticeIn, PracticeOut, _practice),
        FactCommand("cover", _("cover that spans a period"), CoverIn, CoverOut, _cover),
        FactCommand("age", _("whole years on a day"), AgeIn, AgeOut, _age),
        FactCommand("words", _("words and pages of a text"), WordsIn, WordsOut, _words),
    )
}
