"""Machine-readable lines of travel documents: all three sizes, every check digit, the century rule.

Source: ICAO Doc 9303, parts 4 to 7. Sizes: TD1 three lines of 30, TD2 two of 36, TD3 two of 44; lines that begin
with V are visas and have no check digit over the whole.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from datetime import date

from jolly_clerk.core.say import say

_WEIGHTS = (7, 3, 1)
_SHAPES = {(3, 30): "TD1", (2, 36): "TD2", (2, 44): "TD3"}
#: a birth lies at most so many years back, an expiry at most so many ahead of the day of looking
MOST_AGE, MOST_AHEAD = 100, 50


@dataclass(frozen=True, slots=True)
class Mrz:
    """What the lines say. Dates are ISO, or ``1974-??-??`` where parts are filled; ``checks`` says which digits are right,
    ``cut`` that the name fills its field and may go on, ``repairs`` what one changed sign would put right, ``explained`` that the digit
    of the whole is right, or would be if the wrong digits of fields were right ones."""

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
    cut: bool = False
    repairs: tuple[str, ...] = ()
    explained: bool = True

    @property
    def holder(self) -> str:
        """Given names and surname."""
        return f"{self.given} {self.surname}".strip()

    def sound(self, field: str) -> bool:
        """True if the check digit of a field is right and nothing throws doubt on it: where the digit of the whole is wrong for no reason
        that another digit gives, any field may be misread."""
        return bool(self.checks.get(field)) and self.explained


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
    """Read the lines as seen on a day (which decides centuries); a sentence if they are no machine-readable lines.

    Blanks may stand for fillers. One sign that does not belong there spoils its own field alone.
    """
    given, found = lines, _shaped(lines)
    if found is None:
        return say("These are not three lines of 30, two of 36 or two of 44 signs.")
    size, lines = found
    if sum(line.count(ODD) for line in lines) > MOST_ODD:
        odd = next(s for line in given for s in line.upper() if not re.fullmatch(r"[A-Z0-9<\s]", s))
        return say("{odd} does not stand in machine-readable lines; only A to Z, 0 to 9 and < do.", odd=f"{odd!r}")
    read = _Reader(size, lines, on).read()
    return replace(read, repairs=_repairs(size, lines, on)) if read.faults else read


def _shaped(lines: list[str]) -> tuple[str, list[str]] | None:
    """The size, and the lines without the blanks around or between their signs, or with blanks taken for fillers."""
    given = [line.strip("\n\r").upper() for line in lines if line.strip()]
    tried = (
        [re.sub(r"\s", "", line) for line in given],
        [re.sub(r"\s", "<", line.strip()) for line in given],
        [re.sub(r"\s", "<", line) for line in given],
    )
    for told in tried:
        size = _SHAPES.get((len(told), len(told[0]) if told else 0))
        if size is not None and len({len(line) for line in told}) == 1:
            told = ["".join(s if re.fullmatch(r"[A-Z0-9<]", s) else ODD for s in line) for line in told]
            return size, told
    return None


#: what stands here for a sign that does not belong into the lines
ODD = "?"
#: with more such signs than this the lines are none
MOST_ODD = 4
#: signs that readers and eyes take for one another
_ALIKE = {"O": "0", "0": "O", "I": "1", "1": "I", "S": "5", "5": "S", "B": "8", "8": "B", "Z": "2", "2": "Z", "G": "6", "6": "G"}


def _repairs(size: str, lines: list[str], on: date) -> tuple[str, ...]:
    """The one sign whose change would make everything fit, if there is just one such: proposed, never made silently."""
    found = []
    for n, line in enumerate(lines):
        for at, sign in enumerate(line):
            if sign not in _ALIKE:
                continue
            changed = [*lines[:n], line[:at] + _ALIKE[sign] + line[at + 1 :], *lines[n + 1 :]]
            read = _Reader(size, changed, on).read()
            if not read.faults and all(read.checks.values()):
                found.append((n + 1, at + 1, sign, _ALIKE[sign]))
    if len(found) != 1:
        return ()
    line_no, place, sign, other = found[0]
    told = say(
        "If sign {place} of line {line} were {other} and not {sign}, every check digit would fit.",
        place=place, line=line_no, other=other, sign=sign,
    )  # fmt: skip
    return (told,)


class _Reader:
    def __init__(self, size: str, lines: list[str], on: date) -> None:
        self.size, self.lines, self.on = size, lines, on
        self.checks: dict[str, bool] = {}
        self.faults: list[str] = []
        self.wrong: list[tuple[str, str]] = []

    def check(self, name: str, over: str, digit: str, empty_may_be_filler: bool = False) -> None:
        if empty_may_be_filler and digit == "<" and not over.strip("<"):
            self.checks[name] = True
            return
        if ODD in over + digit:
            self.checks[name] = False
            self.faults.append(say("A sign that does not stand in machine-readable lines spoils the {name}.", name=name))
            return
        self.checks[name] = digit.isdigit() and int(digit) == check_digit(over)
        if not self.checks[name]:
            self.wrong.append((over + digit, f"{over}{check_digit(over)}"))
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
        explained = True
        if not visa:
            put_right = whole
            for was, right in self.wrong:
                put_right = put_right.replace(was, right, 1)
            explained = (
                ODD not in put_right and last.isdigit() and int(last) in {check_digit(told) for told in (whole, put_right)}
            )
            self.check("whole", whole, last)
        surname, _, given = names.partition("<<")
        for name, text in ((say("issuer"), first[2:5]), (say("nationality"), nationality), (say("name"), names)):
            if odd := re.search(r"[^A-Z<]", text):
                sign = odd[0] if odd[0] != ODD else say("a sign that does not belong there")
                self.faults.append(say("In the {name} stands {sign}; only letters do.", name=name, sign=sign))
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
            cut=not names.endswith("<"),
            explained=explained,
        )

    def long_number(self, number: str, digit: str, optional: str) -> tuple[str, str]:
        """A number of more than nine signs goes on in the optional data, up to its check digit."""
        rest = optional.partition("<")[0]
        if digit == "<" and len(rest) > 1 and rest[-1].isdigit():
            whole = number + rest[:-1]
            self.check("number", whole, rest[-1])
            return whole, optional[len(rest) :]
        self.check("number", number, digit)
        return number, optional

    def day(self, six: str, what: str) -> str:
        if not re.fullmatch(r"[0-9<]{6}", six) or not six[:2].isdigit():
            if six.strip("<"):
                self.faults.append(say("The day of {what} is {six}; six digits are asked.", what=what, six=six))
            return ""
        year = self.year(int(six[:2]), six, what)
        month, of = six[2:4], six[4:]
        if "<" in six:
            if (month.isdigit() and not 1 <= int(month) <= 12) or (of.isdigit() and not 1 <= int(of) <= 31):
                self.faults.append(say("The day of {what} is {six}; there is no such day.", what=what, six=six))
                return ""
            return f"{year}-{month if month.isdigit() else '??'}-{of if of.isdigit() else '??'}"
        try:
            return date(year, int(month), int(of)).isoformat()
        except ValueError:
            self.faults.append(say("The day of {what} is {six}; there is no such day.", what=what, six=six))
            return ""

    def year(self, two: int, six: str, what: str) -> int:
        """A birth is the latest year that is not after the day of looking; an expiry the year nearest to it, of two the one ahead."""
        century = self.on.year // 100 * 100
        if what == "birth":
            late = century + two
            rest = [(six[2:4], f"{self.on:%m}"), (six[4:], f"{self.on:%d}")]
            after = late > self.on.year
            if late == self.on.year:
                for told, today in rest:
                    if not told.isdigit() or told != today:
                        after = told.isdigit() and told > today
                        break
            return late - MOST_AGE if after else late
        years = (century - 100 + two, century + two, century + 100 + two)
        return min(years, key=lambda year: (abs(year - self.on.year) > MOST_AHEAD, abs(year - self.on.year), -year))


def _plain(text: str) -> str:
    return re.sub(r"<+", " ", text).strip()
