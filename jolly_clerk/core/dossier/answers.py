"""One raw answer -> its typed value, or the exact complaint. Nothing typed is lost: the raw answer stays."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, tzinfo
from decimal import Decimal, InvalidOperation
from typing import Any, Final

from jolly_clerk.core.absence import NONE
from jolly_clerk.core.dossier.as_written import Ambiguous, number_text, slashed_date, two_ways
from jolly_clerk.core.in_words import MONTHS, all_of, day, in_words, money, number
from jolly_clerk.core.mail_address import LONGEST, as_mail_address
from jolly_clerk.core.rulebook.compiled import AskedQuestion
from jolly_clerk.core.rulebook.model import Question, QuestionType
from jolly_clerk.core.say import _, say, say_n
from jolly_clerk.core.time.periods import Stretch
from jolly_clerk.core.values import Raw, Value

MOST_LETTERS = {"text": 500, "long text": 10_000, "person": 200, "place": 300, "mail address": LONGEST}
MOST_ROWS = 60
#: which hour is meant where the clocks go back and show one twice
SUMMER, WINTER = _("summer time"), _("winter time")
#: an hour of the day as people write it: 7:30, 7.30, 7h30, 8 h, 8 o'clock
_OF_THE_DAY = re.compile(r"(\d{1,2})(?:[:.h](\d{2})(?::\d{2})?)?\s*(?:h|o.clock)?", re.IGNORECASE)
_HOUR = re.compile(r"(\d{1,2}):(\d{2})(?::\d{2})?")
_ISO = re.compile(r"(\d{4})-(\d{1,2})-(\d{1,2})")
_SPOKEN = re.compile(r"(\d{1,2})[ .]+([A-Za-z]{3,9}|\d{1,2})[ .]+(\d{4})")
_NUMBER = re.compile(r"[+-]?\d+(\.\d+)?")
_NOT_PRINTED = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff]")


class AnswerFault(ValueError):
    """An answer that cannot be taken as it stands; the message says what would be right."""


class RowsOpen(AnswerFault):
    """Rows that are only not filled in to the end: nothing in them is wrong."""


def is_open(raw: Raw) -> bool:
    """True if nothing was answered."""
    return (not raw or raw.isspace()) if isinstance(raw, str) else raw is None or raw == []


def typed(asked: AskedQuestion, raw: Raw, filed: date, offered: Mapping[str, str] | None = None) -> Value:
    """The value of a given answer. Raises :class:`AnswerFault`. ``offered`` are the choices that are offered now, if they differ."""
    if offered is not None:
        asked = replace(asked, options=offered)
    return ANSWER_TYPES[asked.question.type].reads(asked, raw, filed)


def _text(asked: AskedQuestion, raw: Raw, _: date) -> str:
    if not isinstance(raw, str):
        raise AnswerFault(say("Write this as text."))
    text = raw.strip()
    most = int(asked.question.at_most or MOST_LETTERS[asked.question.type])
    if len(text) > most:
        raise AnswerFault(say("This has {count} characters; at most {most} fit here.", count=len(text), most=most))
    if _NOT_PRINTED.search(text):
        raise AnswerFault(say("This holds characters that cannot be printed; type it again by hand."))
    return text


def _mail_address(asked: AskedQuestion, raw: Raw, filed: date) -> str:
    text = _text(asked, raw, filed)
    try:
        as_mail_address(text)
    except ValueError as fault:
        raise AnswerFault(str(fault)) from None
    return text


def _number(asked: AskedQuestion, raw: Raw, _: date) -> Decimal:
    question = asked.question
    text = _as_number(question, str(raw))
    if isinstance(raw, bool) or not _NUMBER.fullmatch(text):
        hint = say(" Write the decimals after a point, as in 95.8.") if "," in text else ""
        raise AnswerFault(say("“{raw}” is not a number.{hint}", raw=str(raw)[:40], hint=hint))
    if len(text) > 20:
        raise AnswerFault(say("This number is too long to be meant."))
    try:
        value = Decimal(text)
    except InvalidOperation:
        raise AnswerFault(say("“{text}” is not a number.", text=text[:40])) from None
    _within(question, value)
    return value.quantize(Decimal(1).scaleb(-question.decimals)) if question.type == "money" else value


def _as_number(question: Question, text: str) -> str:
    """A number as it was written, in plain digits. Raises AnswerFault where it can be read in two ways."""
    try:
        return number_text(text, question.unit or "", "")
    except Ambiguous as fault:
        raise AnswerFault(str(fault)) from None


def asks_back(question: Question, raw: Raw) -> str:
    """What is asked of an answer that was read in one of two ways; empty where there is only one."""
    if question.type not in ("number", "count", "money") or not isinstance(raw, str):
        return ""
    return two_ways(raw, 0 if question.type == "count" else question.decimals)


def _within(question: Question, value: Decimal) -> None:
    unit = f" {question.unit}" if question.unit else ""
    least = question.at_least if question.at_least is not None else Decimal(0)
    if value < least:
        raise AnswerFault(
            say(
                "{value}{unit} is below {least}{unit}, the least that can be entered here.",
                value=number(value),
                unit=unit,
                least=number(least),
            )
        )
    if question.at_most is not None and value > question.at_most:
        raise AnswerFault(
            say(
                "{value}{unit} is above {at_most}{unit}, the most that can be entered here.",
                value=number(value),
                unit=unit,
                at_most=number(question.at_most),
            )
        )
    places = 0 if question.type == "count" else question.decimals
    if value != round(value, places):
        wanted = say("a whole number") if places == 0 else say_n("at most {n} decimal", "at most {n} decimals", places)
        raise AnswerFault(say("{value} has more decimals than can be kept; give {wanted}.", value=number(value), wanted=wanted))


def _date(asked: AskedQuestion, raw: Raw, filed: date) -> date:
    value = raw if isinstance(raw, date) else read_date(str(raw).strip())
    if asked.question.not_after_filing and value > filed:
        raise AnswerFault(say("{value} lies after the filing day, {filed}.", value=day(value), filed=day(filed)))
    return value


def read_date(text: str) -> date:
    """Read ``2026-11-05``, ``5 Nov 2026`` or ``5.11.2026``. Raises :class:`AnswerFault`."""
    if len(text) == 10 and text.isascii() and text[4] == text[7] == "-" and text.replace("-", "").isdigit():
        try:  # as it is kept; what is wrong with any other is told below
            found_day = date.fromisoformat(text)
            if 1900 <= found_day.year <= 2200:
                return found_day
        except ValueError:
            pass
    try:
        slashed = slashed_date(text)
    except Ambiguous as fault:
        raise AnswerFault(str(fault)) from None
    if slashed is not None:
        text = slashed.isoformat()
    if found := _ISO.fullmatch(text):
        year, month, number_ = (int(g) for g in found.groups())
    elif found := _SPOKEN.fullmatch(text):
        number_, year = int(found[1]), int(found[3])
        month = int(found[2]) if found[2].isdigit() else _month(found[2])
    else:
        raise AnswerFault(say("“{text}” is not a date. Write day, month and year, as in 5 Nov 2026.", text=text[:40]))
    if not 1 <= month <= 12:
        raise AnswerFault(say("“{text}” is not a date: there is no month {month}.", text=text[:40], month=month))
    if not 1900 <= year <= 2200:
        raise AnswerFault(say("The year {year} cannot be meant; years from 1900 to 2200 can be entered.", year=year))
    try:
        return date(year, month, number_)
    except ValueError:
        raise AnswerFault(
            say("There is no {number} {months} {year}.", number=number_, months=say(MONTHS[month - 1]), year=year)
        ) from None


#: months whose names in another language of the screen begin otherwise than in English
_ALSO: Final = {"fev": 2, "abr": 4, "mai": 5, "ago": 8, "set": 9, "out": 10, "dez": 12}


def _month(word: str) -> int:
    short = word[:3].lower()
    for n, name in enumerate(MONTHS, 1):
        if short == name.lower() or _ALSO.get(short) == n:
            return n
    raise AnswerFault(say("“{word}” is not a month.", word=word))


def _yes_or_no(_: AskedQuestion, raw: Raw, __: date) -> bool:
    if isinstance(raw, bool):
        return raw
    word = str(raw).strip().lower()
    if word not in ("yes", "no", "true", "false"):
        raise AnswerFault(say("Answer yes or no."))
    return word in ("yes", "true")


def _one_of(offered: Mapping[str, str], raw: Raw) -> str:
    if not isinstance(raw, str) or raw not in offered:
        if not offered:
            raise AnswerFault(say("There is nothing to choose here."))
        raise AnswerFault(say("Choose one of: {values}.", values=", ".join(offered.values())))
    return raw


def _several_of(offered: Mapping[str, str], raw: Raw) -> tuple[str, ...]:
    members = raw if isinstance(raw, (list, tuple)) else [raw]
    return tuple(dict.fromkeys(_one_of(offered, member) for member in members))


def _moment(_: AskedQuestion, raw: Raw, __: date) -> datetime:
    text = str(raw).strip().replace("T", " ", 1) if _ISO.match(str(raw).strip()) else str(raw).strip()
    text, which = _which_hour(text)
    day_said, _space, hour = text.rpartition(" ")
    found = _HOUR.fullmatch(hour)
    if not found or not day_said:
        raise AnswerFault(say("“{text}” is not a day with an hour. Write it as in 5 Nov 2026 14:30.", text=text[:40]))
    hours, minutes = int(found[1]), int(found[2])
    if hours > 23 or minutes > 59:
        raise AnswerFault(say("There is no {hour} on a clock.", hour=hour))
    on = read_date(day_said)
    return datetime(on.year, on.month, on.day, hours, minutes, fold=which == WINTER)


def _which_hour(text: str) -> tuple[str, str]:
    """A moment, and which hour it says where the clock shows one twice: ``25 Oct 2026 02:30 winter time``."""
    which = next((word for word in (SUMMER, WINTER) if text.casefold().endswith(f" {word}")), "")
    return text.removesuffix(text[len(text) - len(which) :] if which else "").strip(), which


def in_zone(value: datetime, raw: Raw, zone: tzinfo) -> datetime:
    """A moment that was typed without a zone as one of the office's clock. Raises :class:`AnswerFault` for an hour that the clock leaves
    out in spring, and for one that it shows twice in autumn unless it says which is meant."""
    if value.tzinfo:
        return value
    local = value.replace(tzinfo=zone)
    told = {"hour": f"{value:%H:%M}", "day": day(value.date())}
    if local.astimezone(UTC).astimezone(zone).replace(tzinfo=None, fold=0) != value.replace(fold=0):
        raise AnswerFault(say("There is no {hour} on {day}: the clocks go forward over it.", **told))
    twice = local.replace(fold=0).utcoffset() != local.replace(fold=1).utcoffset()
    if twice and not _which_hour(str(raw).strip())[1]:
        said = say("{hour} comes twice on {day}, when the clocks go back. Write “summer time” or “winter time” after it.", **told)
        raise AnswerFault(said)
    return local


def _hour(_: AskedQuestion, raw: Raw, __: date) -> str:
    text = str(raw).strip()
    found = _OF_THE_DAY.fullmatch(text)
    if not found:
        raise AnswerFault(say("“{text}” is not an hour of the day. Write it as in 14:30.", text=text[:40]))
    hours, minutes = int(found[1]), int(found[2] or 0)
    if minutes > 59 or hours > 24 or (hours == 24 and minutes):
        raise AnswerFault(say("There is no {hour} on a clock.", hour=text))
    return f"{hours:02}:{minutes:02}"


def _period(asked: AskedQuestion, raw: Raw, filed: date) -> Stretch:
    first, found, last = (raw[0], True, raw[1]) if isinstance(raw, (list, tuple)) and len(raw) == 2 else str(raw).partition("/")
    if not found or is_open(first) or is_open(last):
        raise AnswerFault(say("Give the first and the last day."))
    begin, end = _date(asked, first, filed), _date(asked, last, filed)
    if end < begin:
        raise AnswerFault(say("The last day, {end}, lies before the first, {begin}.", end=day(end), begin=day(begin)))
    return Stretch(begin, end)


def _rows(asked: AskedQuestion, raw: Raw, filed: date) -> tuple[dict[str, Any], ...]:
    """The rows of a question, each a map of its columns; every complaint names its row and column."""
    given = [row for row in raw if isinstance(row, dict)] if isinstance(raw, (list, tuple)) else []
    least, most = int(asked.question.at_least or 0), int(asked.question.at_most or MOST_ROWS)
    complaints = []
    if not least <= len(given) <= most:
        complaints.append(
            say("Give at least {least} rows.", least=least)
            if len(given) < least
            else say("At most {most} rows fit here.", most=most)
        )
    wrong, found = len(complaints), []
    for n, row in enumerate(given, 1):
        values: dict[str, Any] = {"id": str(row.get("id", n)), "position": Decimal(n)}
        empty = []
        for column in asked.columns:
            cell, question = row.get(column.question.id), column.question
            try:
                if not is_open(cell):
                    values[question.id] = typed(column, cell, filed)
                elif question.optional:
                    values[question.id] = NONE
                else:
                    empty.append(f"“{question.ask}”")
            except AnswerFault as fault:
                wrong += 1
                complaints.append(say("Row {no}, {ask}: {fault}", no=n, ask=question.ask, fault=fault))
        if empty:
            complaints.append(say("Row {no}: fill in {columns}.", no=n, columns=all_of(empty)))
        found.append(values)
    if complaints:
        raise (AnswerFault if wrong else RowsOpen)(" ".join(complaints))
    return tuple(found)


@dataclass(frozen=True, slots=True)
class AnswerType:
    """How answers of one type are read and said.

    ``reads`` gives the typed value of a raw answer, or raises :class:`AnswerFault`; ``says`` is a typed value in words, by the
    currency of the edition. ``names`` tells that such an answer names what it belongs to, ``of_the_zone`` that it holds moments.
    """

    reads: Callable[[AskedQuestion, Any, date], Any]
    says: Callable[[AskedQuestion, Any, str], str]
    names: bool = False
    of_the_zone: bool = False


def _plainly(asked: AskedQuestion, value: Value, _: str) -> str:
    return f"{in_words(value)} {asked.question.unit or ''}".strip()


def _in_currency(_: AskedQuestion, value: Value, currency: str) -> str:
    return money(value, currency)


def _titles(asked: AskedQuestion, value: Value, _: str) -> str:
    members = value if isinstance(value, (list, tuple)) else [value]
    return ", ".join(asked.options.get(str(m), str(m)) for m in members)


def _row_by_row(asked: AskedQuestion, value: Value, currency: str) -> str:
    cells = ([(c, row.get(c.question.id)) for c in asked.columns] for row in value)
    return "; ".join(", ".join(answer_in_words(c, cell, currency) for c, cell in row if not is_open(cell)) for row in cells)


def _choice(asked: AskedQuestion, raw: Raw, _: date) -> str:
    return _one_of(asked.options, raw)


def _choices(asked: AskedQuestion, raw: Raw, _: date) -> tuple[str, ...]:
    return _several_of(asked.options, raw)


#: every type of question; one that is missing here is named by the type checker and by a test
ANSWER_TYPES: Final[dict[QuestionType, AnswerType]] = {
    "text": AnswerType(_text, _plainly, names=True),
    "long text": AnswerType(_text, _plainly),
    "number": AnswerType(_number, _plainly),
    "count": AnswerType(_number, _plainly),
    "money": AnswerType(_number, _in_currency),
    "date": AnswerType(_date, _plainly),
    "yes or no": AnswerType(_yes_or_no, _plainly),
    "one of": AnswerType(_choice, _titles),
    "several of": AnswerType(_choices, _titles),
    "date and time": AnswerType(_moment, _plainly, of_the_zone=True),
    "hour": AnswerType(_hour, _plainly),
    "period": AnswerType(_period, _plainly),
    "rows": AnswerType(_rows, _row_by_row, of_the_zone=True),
    "person": AnswerType(_text, _plainly, names=True),
    "place": AnswerType(_text, _plainly, names=True),
    "mail address": AnswerType(_mail_address, _plainly),
}


def answer_in_words(asked: AskedQuestion, raw: Raw, currency: str) -> str:
    """A raw answer in words, as every letter, list and screen says it; one that cannot be taken stands as it was typed."""
    kind = ANSWER_TYPES[asked.question.type]
    if kind.says in (_titles, _row_by_row):  # said as it was given, also where it is not offered or not whole
        rows = raw if isinstance(raw, (list, tuple)) else [raw]
        return kind.says(asked, [r for r in rows if isinstance(r, dict)] if kind.says is _row_by_row else rows, currency)
    try:
        return kind.says(asked, _as_typed(kind, asked, raw), currency)
    except (AnswerFault, ArithmeticError, ValueError, TypeError):
        return str(raw)


def _as_typed(kind: AnswerType, asked: AskedQuestion, raw: Raw) -> Value:
    """The value to be said, whether or not it lies within the bounds of its question."""
    if kind.reads is _number:
        return Decimal(_as_number(asked.question, str(raw)))
    if kind.reads is _text:
        return str(raw)
    if kind.reads is _yes_or_no:
        return raw if isinstance(raw, bool) else str(raw)
    value = kind.reads(asked, raw, date.max)
    if kind.reads is _moment and (which := _which_hour(str(raw).strip())[1]):
        return f"{in_words(value)} {say(which)}"
    return value
