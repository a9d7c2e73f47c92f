"""What goes into the facts of the trade as commands, and what comes out: one JSON object a line."""

from __future__ import annotations

from datetime import date, time
from decimal import Decimal
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from jolly_clerk.core.known import CalendarFile
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar

#: a week of five working days, without closed days
PLAIN = Calendar("plain", "UTC", time(17), frozenset(range(5)))


class Line(BaseModel):
    """Base of what goes in and comes out: no unknown keys."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)


class Stretch(Line):
    """A stretch of days, both counted; without an end it goes on."""

    first: date = Field(alias="from")
    last: date | None = Field(default=None, alias="to")

    def until(self, end: date | None) -> tuple[date, date]:
        """First and last day; one that goes on ends on ``end``. ValueError if no day is given for that."""
        last = self.last or end
        if last is None:
            raise ValueError(say("a stretch that goes on needs the day of looking: give `on`"))
        return self.first, last


class NamesIn(Line):
    """Two names of a person or a firm; ``cut`` tells that the first may end before its end, as lines of passports do."""

    one: str
    other: str
    cut: bool = False


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
    """What the lines say; ``trouble`` if they are no machine-readable lines. ``checks`` tells which check digits are right,
    ``cut`` that the name may go on, ``repairs`` what one changed sign would put right, ``explained`` that the digit of the whole is
    right, or would be if the wrong digits of fields were right ones."""

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
    cut: bool = False
    repairs: list[str] = []
    explained: bool = True


class StaysIn(Line):
    """Earlier stays and a planned one; at most ``days`` in any ``window`` days."""

    earlier: list[Stretch] = []
    planned: Stretch
    days: int = Field(default=90, ge=1, le=3650)
    window: int = Field(default=180, ge=1, le=3650)


class StaysOut(Line):
    """Days used before and with the first planned day, the highest count, the first day over, and the earliest lawful entry for so long a
    stay."""

    before: int
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
    """The claims counted, and what is wrong with them; ``unread`` tells that references are not read in this language."""

    count: int
    independent: list[int]
    multiple: list[int]
    gaps: list[int]
    repeated: list[int]
    forward: list[int]
    missing: list[int]
    multiple_on_multiple: list[int]
    cancelled: list[int]
    unread: bool
    claims: list[ClaimOut]


class PracticeIn(Line):
    """Periods of practice, both days counted; one without an end goes on until ``on``."""

    periods: list[Stretch]
    on: date | None = None


class PracticeOut(Line):
    """Whole months, days left over, and the merged periods."""

    months: int
    days: int
    periods: list[Stretch]


class PolicyIn(Stretch):
    """A cover in force on both days."""

    amount: Decimal


class LeastIn(Line):
    """Base of what has to come to at least so much in a stretch of days, both counted and both said."""

    first: date = Field(alias="from")
    last: date = Field(alias="to")
    least: Decimal = Decimal(0)


class CoverIn(LeastIn):
    """Policies, and the stretch that has to be covered for at least an amount by one of them each day."""

    policies: list[PolicyIn]


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


class CalendarIn(Line):
    """Base of what counts working days: the calendar as its file says it. Without one a week has five and no day is closed."""

    calendar: CalendarFile | None = None

    @property
    def days(self) -> Calendar:
        """The calendar to count with."""
        return self.calendar.calendar() if self.calendar else PLAIN


class DocumentAgeIn(CalendarIn):
    """The day of a paper, the day of looking, and how old it may be: ``3 months``."""

    dated: date
    on: date
    within: str


class DocumentAgeOut(Line):
    """Its age in days and in months with days, the last day on which it is young enough, and whether it is."""

    days: int
    months: int
    days_left_over: int
    last_day: date
    in_time: bool


class ValidityIn(CalendarIn):
    """From when until when something is valid (either may be left out), a day, and how long after it it has to be: ``3 months``."""

    first: date | None = Field(default=None, alias="from")
    last: date | None = Field(default=None, alias="to")
    on: date
    after: str = ""


class ValidityOut(Line):
    """Whether it is valid long enough, until when it has to be, and how many days are missing."""

    valid: bool
    needed_until: date
    missing_days: int


class RecordIn(Line):
    """Credits given on a day."""

    given: date
    credits: Decimal


class CreditsIn(LeastIn):
    """Records of credits, the time in which they count, both days counted, and how many are needed."""

    records: list[RecordIn]


class CreditsOut(Line):
    """The credits that count, what is missing, and how many records lie outside the time."""

    counted: Decimal
    missing: Decimal
    outside: int


class WordsIn(Line):
    """A text; a form feed ends a page."""

    text: str = Field(max_length=5_000_000)


class WordsOut(Line):
    """Words (with a letter or a digit in each; a hyphen joins), pages, paragraphs, characters."""

    words: int
    pages: int
    paragraphs: int
    characters: int
