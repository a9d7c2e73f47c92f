"""Values in words, the one way that letters, screens and workings say them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date, datetime, tzinfo
from decimal import Decimal
from functools import reduce

from jolly_clerk.core.absence import NONE, UNKNOWN
from jolly_clerk.core.currency import coin_of, decimals_of, to_coin
from jolly_clerk.core.say import _, say
from jolly_clerk.core.things import things
from jolly_clerk.core.time.periods import Duration, Span, Stretch
from jolly_clerk.core.values import Value

MONTHS = (
    _("Jan"), _("Feb"), _("Mar"), _("Apr"), _("May"), _("Jun"), _("Jul"), _("Aug"), _("Sep"), _("Oct"), _("Nov"), _("Dec"),
)  # fmt: skip
DAYS = (_("Mon"), _("Tue"), _("Wed"), _("Thu"), _("Fri"), _("Sat"), _("Sun"))
THIN = "\N{NO-BREAK SPACE}"


def number(value: Decimal) -> str:
    """Digits in groups of three, decimals as they were written, without idle zeros beyond two: ``44 547.00``."""
    exponent = value.as_tuple().exponent
    if isinstance(exponent, int) and exponent < -2:
        value = max(value.normalize(), value.quantize(Decimal("0.01")), key=lambda v: -int(v.as_tuple().exponent))
    return _grouped(value)


def _grouped(value: Decimal) -> str:
    text = f"{abs(value):,f}".replace(",", THIN)
    return f"−{text}" if value < 0 else text


def money(value: Decimal, currency: str = "") -> str:
    """An amount with at least two decimals, and its currency if given: ``EUR 438.18``; with as many decimals as the currency has."""
    if currency and decimals_of(currency) != 2:
        return f"{currency} {_grouped(value.quantize(coin_of(currency)))}"
    exponent = value.as_tuple().exponent
    shown = value if isinstance(exponent, int) and exponent <= -2 else value.quantize(Decimal("0.01"))
    return f"{currency} {number(shown)}".strip()


def money_in(value: Decimal, coin: Decimal) -> str:
    """An amount without its currency, with the decimals of the coin; finer ones as they were written."""
    exponent, least = value.as_tuple().exponent, coin.as_tuple().exponent
    if isinstance(exponent, int) and isinstance(least, int) and exponent < least:
        return number(value)
    return number(to_coin(value, coin))


def day(value: date, today: date | None = None) -> str:
    """``Tue 1 Dec``, with the year unless it is this year."""
    text = f"{say(DAYS[value.weekday()])} {value.day} {say(MONTHS[value.month - 1])}"
    return text if today and today.year == value.year else f"{text} {value.year}"


def short_day(value: date) -> str:
    """``4 Mar 2027``: for a cell of a table."""
    return f"{value.day} {say(MONTHS[value.month - 1])} {value.year}"


def moment(at: datetime, zone: tzinfo, today: date | None = None) -> str:
    """``Mon 6 Jul 10:30`` by the clock of a zone, with the year unless it is this year."""
    local = at.astimezone(zone)
    return f"{day(local.date(), today)} {local:%H:%M}"


def in_words(value: Value) -> str:
    """Any value of the rule language in words; what is absent says so."""
    if value is NONE:
        return say("not asked")
    if value is UNKNOWN:
        return say("not answered")
    if value is True or value is False:
        return say("yes") if value else say("no")
    if isinstance(value, Decimal):
        return number(value)
    if isinstance(value, datetime):
        return f"{day(value.date())} {value:%H:%M}"
    if isinstance(value, date):
        return day(value)
    if isinstance(value, Span):
        parts = [things(n, unit) for n, unit in ((value.months, "month"), (value.days, "day")) if n]
        return all_of(parts) or things(0, "day")
    if isinstance(value, Duration):
        return (
            say("{minutes} hours", minutes=value.minutes // 60)
            if value.minutes % 60 == 0
            else say("{minutes} minutes", minutes=value.minutes)
        )
    if isinstance(value, Stretch):
        return say("{first} to {last}", first=day(value.first), last=day(value.last))
    if isinstance(value, (list, tuple)) and value and isinstance(value[0], dict):
        return things(len(value), "row")
    if isinstance(value, (list, tuple)):
        return ", ".join(in_words(v) for v in value)
    return str(value)


def article_of(article: str) -> str:
    """``art. 7(1)``; one that has a name of its own, like *Annex A*, as it is."""
    return say("art. {article}", article=article) if article[:1].isdigit() else article


def depends_on(labels: Sequence[str]) -> str:
    """``Depends on “Below high water” and “Area”.``; nothing if there are none."""
    return say("Depends on {questions}.", questions=all_of([f"“{label}”" for label in labels])) if labels else ""


def one_of(names: Sequence[str]) -> str:
    """``English, French or Portuguese``."""
    return say("{names} or {names2}", names=", ".join(names[:-1]), names2=names[-1]) if len(names) > 1 else "".join(names)


def any_of(names: Iterable[str]) -> str:
    """``“Filed” or “Complete” or “Granted”``."""
    return reduce(lambda said, name: say("{names} or {names2}", names=said, names2=name), (f"“{name}”" for name in names))


def all_of(parts: Sequence[str]) -> str:
    """``2 months and 3 days``."""
    return say("{parts} and {last}", parts=", ".join(parts[:-1]), last=parts[-1]) if len(parts) > 1 else "".join(parts)
