"""The named functions that a rule may call. Each is pure and bounded.

Types are the words of :mod:`jolly_clerk.core.rulebook.types`. Functions over numbers and lists stand here, those over
days and hours in :mod:`jolly_clerk.core.rulebook.dates`.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from decimal import ROUND_CEILING, ROUND_FLOOR, ROUND_HALF_EVEN, ROUND_HALF_UP, Decimal
from typing import Any

from jolly_clerk.core.in_words import in_words
from jolly_clerk.core.rulebook.date_table import DATE_FUNCTIONS
from jolly_clerk.core.rulebook.dates import MEMBER, MOST_MEMBERS, SAME, Function
from jolly_clerk.core.rulebook.types import ANY, DATE, LIST, NUMBER, TEXT, YES_NO
from jolly_clerk.core.say import _, say
from jolly_clerk.core.time.periods import add_months
from jolly_clerk.core.values import Value

__all__ = ["AGGREGATES", "BUILT_IN", "Function", "age", "count_of", "rounded", "started", "sum_of"]
#: functions over many values; the evaluator knows them by name because they skip *none*
AGGREGATES = ("sum", "count", "min", "max", "any", "all")
#: the largest number that a rule may reach by multiplying one with itself
MOST = Decimal("1e18")
NUMBERS, ANYTHING = LIST + NUMBER, LIST + ANY
_MODES = {"up": ROUND_CEILING, "down": ROUND_FLOOR, "nearest": ROUND_HALF_UP, "half even": ROUND_HALF_EVEN}


LEAP_DAYS = ("28 February", "1 March")


def age(born: date, on: date, leap_day: str = "28 February") -> Decimal:
    """Whole years of age on a day; who is born on 29 February comes of age, in a common year, on the day that the law says."""
    if leap_day not in LEAP_DAYS:
        raise ValueError(say("a birthday on 29 February is kept on 28 February or on 1 March"))
    years = on.year - born.year
    birthday = add_months(born, 12 * years)
    if leap_day == "1 March" and (born.month, born.day) == (2, 29) and birthday.day == 28:
        birthday = date(on.year, 3, 1)
    return Decimal(years if birthday <= on else years - 1)


def started(value: Decimal, step: Decimal) -> Decimal:
    """How many steps of ``step`` have begun in ``value``; 0 for nothing or less."""
    if value <= 0:
        return Decimal(0)
    return (value / step).to_integral_value(ROUND_CEILING)


def full(value: Decimal, step: Decimal) -> Decimal:
    """How many whole steps of ``step`` there are in ``value``; 0 for nothing or less."""
    return (value / step).to_integral_value(ROUND_FLOOR) if value > 0 else Decimal(0)


def rounded(value: Decimal, step: Decimal, how: str = "nearest") -> Decimal:
    """``value`` brought to a multiple of ``step``: up, down, nearest (a half goes away from zero) or half even."""
    if step <= 0:
        raise ValueError(say("a number is brought to steps above zero"))
    return (value / step).to_integral_value(_MODES[how]) * step


def power(base: Decimal, exponent: Decimal) -> Decimal:
    """``base`` multiplied by itself ``exponent`` times, at most 1000."""
    if exponent != exponent.to_integral_value() or abs(exponent) > 1000:
        raise ValueError(say("an exponent is a whole number, at most 1000"))
    result = base ** int(exponent)
    if abs(result) > MOST:
        raise ValueError(say("this number is too large to be meant"))
    return result


def root(value: Decimal) -> Decimal:
    """The square root."""
    return value.sqrt()


def upto(count: Decimal) -> tuple[Decimal, ...]:
    """The numbers 1, 2, 3 ... ``count``."""
    if count > MOST_MEMBERS:
        raise ValueError(say("a list has at most {most_members} members", most_members=MOST_MEMBERS))
    return tuple(Decimal(n) for n in range(1, int(count) + 1))


def largest(values: Sequence[Any], count: Decimal) -> tuple[Any, ...]:
    """The ``count`` largest, the largest first; all of them if there are fewer."""
    return tuple(sorted(values, reverse=True)[: max(int(count), 0)])


def smallest(values: Sequence[Any], count: Decimal) -> tuple[Any, ...]:
    """The ``count`` smallest, the smallest first; all of them if there are fewer."""
    return tuple(sorted(values)[: max(int(count), 0)])


def item(values: Sequence[Any], number: Decimal) -> Value:
    """The member at a place, counted from 1; ValueError beyond the end."""
    if not 1 <= number <= len(values):
        raise ValueError(say("the list has no such member"))
    return values[int(number) - 1]


def distinct(values: Sequence[Any]) -> tuple[Any, ...]:
    """The members, each once, in their order."""
    return tuple(dict.fromkeys(values))


def mean(values: Sequence[Decimal]) -> Decimal:
    """The average; ValueError for an empty list."""
    if not values:
        raise ValueError(say("there is nothing to take the average of"))
    return sum(values, Decimal(0)) / len(values)


def median(values: Sequence[Decimal]) -> Decimal:
    """The middle one in order, or the average of the two in the middle; ValueError for an empty list."""
    ordered, half = sorted(values), len(values) // 2
    return ordered[half] if len(values) % 2 else mean(ordered[half - 1 : half + 1])


def repeat(value: Value, count: Decimal) -> tuple[Any, ...]:
    """The same value ``count`` times."""
    return tuple(value for _ in upto(count))


def joined(*lists: Sequence[Any]) -> tuple[Any, ...]:
    """Several lists, one after the other."""
    return tuple(member for one in lists for member in one)


def grown(value: Decimal, percent: Decimal, times: Decimal, step: Decimal = Decimal("0.01")) -> Decimal:
    """``value`` raised (or lowered) by so many per cent ``times`` times, brought to ``step``, half up, each time."""
    for _year in upto(times):
        value = rounded(value * (100 + percent) / 100, step)
    return value


def as_number(text: str) -> Decimal:
    """The digits of a text as a number; ValueError if it holds anything else."""
    if not text.strip().isdecimal() or len(text) > 28:
        raise ValueError(say("this text is no whole number"))
    return Decimal(text.strip())


def piece(text: str, start: Decimal, count: Decimal) -> str:
    """``count`` characters of a text from the ``start``-th on, counted from 1."""
    return text[int(start) - 1 : int(start) - 1 + int(count)]


def place_from_top(value: Value, values: Sequence[Any]) -> Decimal:
    """1 for the largest; equal ones share a place."""
    return Decimal(1 + sum(1 for v in values if v > value))


def place_from_bottom(value: Value, values: Sequence[Any]) -> Decimal:
    """1 for the smallest; equal ones share a place."""
    return Decimal(1 + sum(1 for v in values if v < value))


def within(value: Decimal, low: Decimal, high: Decimal) -> Decimal:
    """``value``, but not below ``low`` and not above ``high``."""
    return max(low, min(value, high))


def contained(gross: Decimal, rate: Decimal) -> Decimal:
    """The tax of ``rate`` per cent that ``gross`` contains: gross × rate ÷ (100 + rate)."""
    return gross * rate / (100 + rate)


def words(text: str) -> Decimal:
    """How many words a text has."""
    return Decimal(len(text.split()))


def contains(text: str, piece: str) -> bool:
    """True if ``piece`` stands in ``text``; capitals do not matter."""
    return piece.casefold() in text.casefold()


def starts_with(text: str, piece: str) -> bool:
    """True if ``text`` begins with ``piece``; capitals do not matter."""
    return text.casefold().startswith(piece.casefold())


def plain(text: str) -> str:
    """A text for comparing: without regard to capitals and doubled blanks."""
    return " ".join(text.casefold().split())


def as_text(value: Value) -> str:
    """A number, a date or an answer as text: ``2027``, ``2027-03-01``."""
    if isinstance(value, Decimal):
        return f"{value.normalize():f}"
    return value.isoformat() if isinstance(value, date) else in_words(value)


_TWO = (NUMBER, NUMBER)
BUILT_IN: dict[str, Function] = DATE_FUNCTIONS | {
    f.name: f
    for f in (
        Function("age", age, (DATE, DATE, TEXT), NUMBER, _('whole years of age: age(born, on), or age(born, on, "1 March")'), 1),
        Function("plain", plain, (TEXT,), TEXT, _("a text without regard to capitals and doubled blanks")),
        Function("started", started, _TWO, NUMBER, _("started steps: started(value, step)")),
        Function("full", full, _TWO, NUMBER, _("whole steps: full(value, step)")),
        Function("abs", abs, (NUMBER,), NUMBER, _("the amount without its sign")),
        Function("round_up", lambda v, s=Decimal(1): rounded(v, s, "up"), _TWO, NUMBER, _("round_up(value, step)"), optional=1),
        Function(
            "round_down", lambda v, s=Decimal(1): rounded(v, s, "down"), _TWO, NUMBER, _("round_down(value, step)"), optional=1
        ),
        Function(
            "round_to", lambda v, s=Decimal(1): rounded(v, s), _TWO, NUMBER, _("nearest step, half up: round_to(value, step)"), 1
        ),
        Function("round_even", lambda v, s=Decimal(1): rounded(v, s, "half even"), _TWO, NUMBER, _("nearest step, half even"), 1),
        Function("power", power, _TWO, NUMBER, _("power(base, whole exponent)")),
        Function("root", root, (NUMBER,), NUMBER, _("the square root")),
        Function("within", within, (*_TWO, NUMBER), NUMBER, _("held between two bounds: within(value, low, high)")),
        Function("contained", contained, _TWO, NUMBER, _("the tax in a price: contained(price, rate)")),
        Function("upto", upto, (NUMBER,), NUMBERS, _("the numbers 1 to n: upto(n)")),
        Function("largest", largest, (ANYTHING, NUMBER), SAME, _("the n largest: largest(list, n)")),
        Function("smallest", smallest, (ANYTHING, NUMBER), SAME, _("the n smallest: smallest(list, n)")),
        Function("item", item, (ANYTHING, NUMBER), MEMBER, _("the member at a place: item(list, n)")),
        Function("distinct", distinct, (ANYTHING,), SAME, _("each member once: distinct(list)")),
        Function("mean", mean, (NUMBERS,), NUMBER, _("the average: mean(list)")),
        Function("median", median, (NUMBERS,), NUMBER, _("the middle one: median(list)")),
        Function("repeat", repeat, (ANY, NUMBER), ANYTHING, _("the same n times: repeat(value, n)")),
        Function("joined", joined, (ANYTHING,) * 6, SAME, _("one list after the other: joined(list, list)"), optional=4),
        Function("grown", grown, (*_TWO, NUMBER, NUMBER), NUMBER, _("grown(value, percent, times, step)"), optional=1),
        Function("number", as_number, (TEXT,), NUMBER, _("the digits of a text as a number")),
        Function("piece", piece, (TEXT, NUMBER, NUMBER), TEXT, _("part of a text: piece(text, from, how many)")),
        Function("place_from_top", place_from_top, (ANY, ANYTHING), NUMBER, _("1 for the largest: place_from_top(value, list)")),
        Function("place_from_bottom", place_from_bottom, (ANY, ANYTHING), NUMBER, _("1 for the smallest")),
        Function("length", lambda text: Decimal(len(text)), (TEXT,), NUMBER, _("how many characters")),
        Function("words", words, (TEXT,), NUMBER, _("how many words")),
        Function("contains", contains, (TEXT, TEXT), YES_NO, _("contains(text, piece)")),
        Function("starts_with", starts_with, (TEXT, TEXT), YES_NO, _("starts_with(text, piece)")),
        Function("text", as_text, (ANY,), TEXT, _("a number or a date as text")),
    )
}


def count_of(values: Value) -> Decimal:
    """``count`` when everything is known: how many there are."""
    return Decimal(sum(1 for value in values if value == value))


def sum_of(values: Value) -> Decimal:
    """``sum`` when everything is known."""
    return sum(values, Decimal(0))
