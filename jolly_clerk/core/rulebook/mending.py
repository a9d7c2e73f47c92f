"""What somebody meant who wrote a rule that cannot be read: natural mistakes, each with what would be right.

The rule language is a small one; people come to it from sum sheets, from print and from other languages of formulas.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Final

from jolly_clerk.core.say import say


@dataclass(frozen=True, slots=True)
class Hints:
    """What the messages about a rule may draw on: choices by question, the words of questions, and the fee lines of the edition."""

    options: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    titles: Mapping[str, str] = field(default_factory=dict)
    lines: tuple[str, ...] = ()


NO_HINTS: Final = Hints()
#: a text in quotes within a rule
_QUOTED = re.compile(r"\"[^\"]*\"|'[^']*'")
_VALUE = r"[\w.]+(?:\([^()]*\))?"
_SIGNS = {"×": "*", "÷": "/", "–": "-", "−": "-", "≤": "<=", "≥": ">=", "≠": "!=", "·": "*"}
_CURRENCY = re.compile(r"[€£$¥]|\b(?:EUR|USD|GBP|CHF|JPY)\b")
_UNITS = re.compile(
    r"(\d+(?:\.\d+)?) ?(m|km|cm|mm|m2|m²|ha|t|kg|l|days?|weeks?|months?|years?|hours?|minutes?|nights?)\b(?! *[.(=])"
)

#: functions of sum sheets and other languages, and what is called so here
ELSEWHERE: Final = {
    "round": "round_to", "mround": "round_to", "ceil": "round_up", "ceiling": "round_up", "roundup": "round_up",
    "floor": "round_down", "rounddown": "round_down", "int": "round_down", "trunc": "round_down", "today": "case.today",
    "now": "case.today", "average": "mean", "avg": "mean", "len": "count", "size": "count", "datediff": "days_between",
    "datedif": "days_between", "diffdays": "days_between", "pow": "power", "sqrt": "root", "sumif": "sum", "countif": "count",
    "concat": "text", "str": "text", "year_of": "year", "iif": "if", "if": "if",
}  # fmt: skip


def _bare(text: str) -> str:
    """The rule with the insides of its quoted texts blanked out, so that only the language is looked at."""
    return _QUOTED.sub(lambda found: '"' + "_" * (len(found[0]) - 2) + '"', text)


def before_reading(text: str) -> str:
    """What is wrong with a rule that would be read as something else than was meant; nothing if that is not to be feared."""
    for sign in "“”„‟‘’‚«»":
        if sign in text:
            return say('a text stands in plain quotes: write `"` where {sign} stands', sign=sign)
    bare = _bare(text)
    if bare.startswith("="):
        return say("write it without the leading `=`")
    for sign, right in _SIGNS.items():
        if sign in bare:
            return say("write `{right}` where {sign} stands", right=right, sign=sign)
    if found := _CURRENCY.search(bare):
        return say(
            "an amount stands without its currency: write `{number}`, without {sign}",
            number=_without(bare, found[0]),
            sign=found[0],
        )
    if found := re.search(r"(?<![\w.])(\d{4})-(\d{1,2})-(\d{1,2})(?![\w.])", bare):
        return _date(found[1], found[2], found[3])
    if found := re.search(r"(?<![\w.])(\d{1,2})\.(\d{1,2})\.(\d{4})(?![\w.])", bare):
        return _date(found[3], found[2], found[1])
    if found := re.search(r"(?<![\w.])(\d{1,3}(?: \d{3})+(?:\.\d+)?)(?![\w.])", bare):
        return say("write `{right}`, without blanks in the number", right=found[1].replace(" ", ""))
    return ""


def _without(bare: str, sign: str) -> str:
    return " ".join(bare.replace(sign, "").split())


def _date(year: str, month: str, day: str) -> str:
    return say("write a day as `date_of({year}, {month}, {day})`", year=int(year), month=int(month), day=int(day))


def a_day_in_quotes(text: str) -> str:
    """What would be right for a day that stands in quotes; nothing if it is none."""
    if found := re.fullmatch(r"(\d{4})-(\d{1,2})-(\d{1,2})", text.strip()):
        return _date(found[1], found[2], found[3])
    if found := re.fullmatch(r"(\d{1,2})[./](\d{1,2})[./](\d{4})", text.strip()):
        return _date(found[3], found[2], found[1])
    return ""


def several_numbers(text: str) -> str:
    """What would be right for a rule that is several values with commas between them: a number with a decimal comma."""
    found = re.search(r"(?<![\w.])(\d+(?:,\d+)+(?:\.\d+)?)(?![\w.])", _bare(text))
    if found is None:
        return say("one value is needed here; these are several, with commas between them")
    said = found[1]
    if re.fullmatch(r"\d{1,3}(,\d{3})+(\.\d+)?", said):
        return say("write `{right}`, without a comma in the number", right=said.replace(",", ""))
    return say("write `{right}`, with a point and not a comma", right=said.replace(",", "."))


def unreadable(text: str, hints: Hints = NO_HINTS) -> str:
    """What would be right for a rule that cannot be read at all."""
    bare = _bare(text)
    for pattern, tell in _UNREADABLE:
        if found := re.search(pattern, bare):
            cut = re.search(pattern, text) or found
            return tell(cut)
    if '"' in bare.replace('"' + "_", "").replace('_"', "") and bare.count('"') % 2:
        return say('a `"` is missing at the end of a text')
    opened, closed = bare.count("("), bare.count(")")
    if opened > closed:
        return say("a `)` is missing: {opened} are opened and {closed} closed", opened=opened, closed=closed)
    if closed > opened:
        return say("there is one `)` too many: {opened} are opened and {closed} closed", opened=opened, closed=closed)
    for title, name in hints.titles.items():
        if title.casefold() in text.casefold():
            return say("a question is called by its name: write `{name}` for “{title}”", name=name, title=title)
    if found := _UNITS.search(bare):
        return say("a number stands without its unit: write `{number}`, not “{told}”", number=found[1], told=found[0])
    if found := re.search(r"([\w.)\"]+) +([\w.(\"]+)", bare):
        for pair in re.finditer(r"(?=\b([\w.]+) +([\w.]+))", bare):
            one, other = pair[1], pair[2]
            if {one, other} & _JOINING:
                continue
            return say("something is missing between `{one}` and `{other}`, such as `+`, `*`, `<` or `and`", one=one, other=other)
    if found := re.search(r"[^\w\s.,()\"'+\-*/%<>=!\[\]]", bare):
        return say("{sign} means nothing in a rule", sign=found[0])
    return say(
        "this is neither a condition nor an amount; see `jolly-clerk rulebook functions` and the guide for what may stand here"
    )


_JOINING = {"and", "or", "not", "in", "if", "else", "for", "is"}
_Tell = Callable[[re.Match[str]], str]


def _between(found: re.Match[str]) -> str:
    return say("write `{low} <= {what} <= {high}`", what=found[1], low=found[2], high=found[3])


def _if_then(found: re.Match[str]) -> str:
    test, yes, no = found[1].strip(), found[2].strip(), (found[4] or "0").strip()
    return say("write the amount first, then the condition: `{yes} if {test} else {no}`", yes=yes, test=test, no=no)


def _without_else(found: re.Match[str]) -> str:
    return say("say as well what it is otherwise: `{yes} if {test} else 0`", yes=found[1].strip(), test=found[2].strip()) + say(
        " (after `else` stands what holds else)"
    )


def _percent(found: re.Match[str]) -> str:
    if found[1] is None and found[0] == found.string:
        return say("write `{number}` alone; what is per cent of its own stands without its sign", number=found[2])
    before = "* " if found[1] else ""
    return say("write a share of {number} per cent as `{before}{number} / 100`", number=found[2], before=before)


def _word_for(word: str, sign: str) -> str:
    return say("write `{word}` where {sign} stands", word=word, sign=sign)


#: what cannot be read, and what it was meant to be; the first that fits is told
_UNREADABLE: Final[tuple[tuple[str, _Tell], ...]] = (
    (rf"({_VALUE}) +(?:is +)?between +({_VALUE}) +and +({_VALUE})", _between),
    (r"(?i)^if +(.+?)(?: then |, *)(.+?)( else (.+))?$", _if_then),
    (r"(?i)\bif\((.+?)[,;](.+?)([,;](.+?))?\)", _if_then),
    (r"^(.+?) if ((?!.* else ).+)$", _without_else),
    (r"(\* *)?\b(\d+(?:\.\d+)?) *%(?! *[\w(])", _percent),
    (r"&&|&", lambda _: _word_for("and", "&")),
    (r"\|\||\|", lambda _: _word_for("or", "|")),
    (r"!(?!=)", lambda _: _word_for("not", "!")),
    (r"\b(AND|OR|NOT|And|Or|Not)\b", lambda f: _word_for(f[1].lower(), f[1])),
    (r"<>|(?<![<>=!])/=|=/=", lambda _: _word_for("!=", "<>")),
    (r"=<", lambda _: _word_for("<=", "=<")),
    (r"=>", lambda _: _word_for(">=", "=>")),
    (r"===", lambda _: _word_for("==", "===")),
    (r"(?<![<>=!])=(?!=)", lambda _: say("write `==` to compare; one `=` means nothing in a rule")),
    (r";", lambda _: say("put a `,` between two values, not a semicolon")),
    (rf"({_VALUE}) +[xX] +({_VALUE})", lambda _: _word_for("*", "x")),
    (r" : |(?<=\d):(?=\d)", lambda _: say("write `/` to divide, not a colon")),
    (
        r"(>=|<=|==|!=|>|<|\+|-|\*|/|%|\band|\bor|\bnot|\bin|\belse|\bif)$",
        lambda f: say("something is missing after `{word}`", word=f[1]),
    ),
)
