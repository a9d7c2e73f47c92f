"""Machine-readable lines of travel documents: all three sizes, every check digit, the century rule.

Source: ICAO Doc 9303, parts 4 to 7. Sizes: TD1 three lines of 30, TD2 two of 36, TD3 two of 44; lines that begin
with V are visas and have no check digit over the whole.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import date

from jolly_clerk.core.say import say

_WEIGHTS = (7, 3, 1)
_SHAPES = {(3, 30): "TD1", (2, 36): "TD2", (2, 44): "TD3"}
#: a birth lies at most so many years back, an expiry at most so many ahead of the day of looking
MOST_AGE, MOST_AHEAD = 100, 50


@dataclass(frozen=True, slots=True)
class Mrz:
    """What the lines say. Dates are ISO, or ``1974-??-??`` where parts are filled; ``checks`` says which digits are right."""

    size: str
    document: str
    issuer: str
    surname: str
    given: str
    number: str
    nationality: str
    born: str
    sex: str
    expires: str
    optional: str
    checks: dict[str, bool]
    faults: tuple[str, ...]


def check_digit(text: str) -> int:
    """The check digit over ``text``: weights 7, 3, 1; letters from A = 10; a filler counts nothing. ValueError for any other sign."""
    total = 0
    for n, sign in enumerate(text):
        if sign == "<":
            value = 0
        elif sign.isascii() and (sign.isdigit() or sign.isupper()):
            value = int(sign, 36)
        else:
            raise ValueError(say("{sign} does not stand in machine-readable lines", sign=f"{sign!r}"))
        total += value * _WEIGHTS[n % 3]
    return total % 10


def read_mrz(lines: list[str], on: date) -> Mrz | str:
    """Read the lines as seen on a day (which decides centuries); a sentence if they are no machine-readable lines."""
    lines = [re.sub(r"\s", "", line).upper() for line in lines if line.strip()]
    size = _SHAPES.get((len(lines), len(lines[0]) if lines else 0))
    if size is None or len({len(line) for line in lines}) != 1:
        return say("These are not three lines of 30, two of 36 or two of 44 signs.")
    if odd := sorted({s for line in lines for s in line if not re.fullmatch(r"[A-Z0-9<]", s)}):
        return say("{odd} does not stand in machine-readable lines; only A to Z, 0 to 9 and < do.", odd=f"{odd[0]!r}")
    return _Reader(size, lines, on).read()


class _Reader:
    def __init__(self, size: str, lines: list[str], on: date) -> None:
        self.size, self.lines, self.on = size, lines, on
        self.checks: dict[str, bool] = {}
        self.faults: list[str] = []

    def check(self, name: str, over: str, digit: str, empty_may_be_filler: bool = False) -> None:
        if empty_may_be_filler and digit == "<" and not over.strip("<"):
            self.checks[name] = True
            return
        self.checks[name] = digit.isdigit() and int(digit) == check_digit(over)
        if not self.checks[name]:
            self.faults.append(
                say(
                    "The check digit of the {name} is {digit}; {check_digit} would be right.",
                    name=name,
                    digit=digit,
                    check_digit=check_digit(over),
                )
            )

    def read(self) -> Mrz:
        first = self.lines[0]
        visa = first[0] == "V"
        if self.size == "TD1":
            upper, middle, names = self.lines
            number, optional = self.long_number(upper[5:14], upper[14], upper[15:30])
            born, sex, expires = middle[:7], middle[7], middle[8:15]
            nationality, second = middle[15:18], middle[18:29]
            whole, last = upper[5:30] + middle[:7] + middle[8:15] + middle[18:29], middle[29]
        else:
            names, lower = first[5:], self.lines[1]
            if self.size == "TD2":
                number, optional = self.long_number(lower[:9], lower[9], lower[28:36] if visa else lower[28:35])
            else:
                number, optional = lower[:9], lower[28:44] if visa else lower[28:42]
                self.check("number", number, lower[9])
            nationality, born, sex, expires, second = lower[10:13], lower[13:20], lower[20], lower[21:28], ""
            whole, last = lower[:10] + lower[13:20] + lower[21:-1], lower[-1]
        self.check("birth", born[:6], born[6])
        self.check("expiry", expires[:6], expires[6])
        if self.size == "TD3" and not visa:
            self.check(say("optional data"), self.lines[1][28:42], self.lines[1][42], empty_may_be_filler=True)
        if not visa:
            self.check("whole", whole, last)
        surname, _, given = names.partition("<<")
        if sex not in "MFX<":
            self.faults.append(say("The sex is {sex}; M, F, X or < can stand there.", sex=sex))
        return Mrz(
            self.size,
            first[:2].strip("<"),
            first[2:5].strip("<"),
            _plain(surname),
            _plain(given),
            number.strip("<"),
            nationality.strip("<"),
            self.day(born[:6], "birth"),
            sex.strip("<"),
            self.day(expires[:6], "expiry"),
            _plain(optional + "<" + second),
            self.checks,
            tuple(self.faults),
        )

    def long_number(self, number: str, digit: str, optional: str) -> tuple[str, str]:
        """A number of more than nine signs goes on in the optional data, up to its check digit."""
        rest = optional.partition("<")[0]
        if digit == "<" and len(rest) > 1 and rest[-1].isdigit():
            whole = number + rest[:-1]
            self.check("number", number + "<" + rest[:-1], rest[-1])
            return whole, optional[len(rest) :]
        self.check("number", number, digit)
        return number, optional

    def day(self, six: str, what: str) -> str:
        if not re.fullmatch(r"[0-9<]{6}", six) or not six[:2].isdigit():
            if six.strip("<"):
                self.faults.append(say("The day of {what} is {six}; six digits are asked.", what=what, six=six))
            return ""
        year = self.year(int(six[:2]), six, what)
        if "<" in six:
            return f"{year}-{six[2:4] if six[2:4].isdigit() else '??'}-{six[4:] if six[4:].isdigit() else '??'}"
        try:
            return date(year, int(six[2:4]), int(six[4:])).isoformat()
        except ValueError:
            self.faults.append(say("The day of {what} is {six}; there is no such day.", what=what, six=six))
            return ""

    def year(self, two: int, six: str, what: str) -> int:
        """A birth is the latest year that is not after the day of looking; an expiry the year nearest to it."""
        century = self.on.year // 100 * 100
        if what == "birth":
            late = century + two
            after = late > self.on.year or (late == self.on.year and six[2:] > f"{self.on:%m%d}")
            return late - MOST_AGE if after else late
        years = (century - 100 + two, century + two, century + 100 + two)
        return min(years, key=lambda year: (abs(year - self.on.year) > MOST_AHEAD, abs(year - self.on.year)))


def _plain(text: str) -> str:
    return re.sub(r"<+", " ", text).strip()
