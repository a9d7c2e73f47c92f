"""News that reach an applicant, by kind, and by which way each goes: mail, text message, or both."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final, Literal, get_args

from jolly_clerk.core.say import _

News = Literal["letters", "reminders", "messages", "money", "steps"]
Way = Literal["mail", "text", "both"]
#: each kind of news, as the account names it
NEWS: Final[dict[News, str]] = {
    "letters": _("Letters and decisions"),
    "reminders": _("Reminders of a limit"),
    "messages": _("Messages of the office"),
    "money": _("Payments and what comes back"),
    "steps": _("What others did in my filings"),
}
#: a letter counts by its mail; a text can only tell that it is there
ALWAYS_BY_MAIL: Final[tuple[News, ...]] = ("letters",)


def ways_of(news: News) -> tuple[Way, ...]:
    """The ways that one may choose for a kind of news."""
    return ("mail", "both") if news in ALWAYS_BY_MAIL else get_args(Way)


def goes_by(chosen: Mapping[str, str], news: News, has_number: bool) -> tuple[bool, bool]:
    """Whether something goes by mail and by text message. Without a known number everything goes by mail."""
    way = chosen.get(news, "mail")
    if not has_number or way not in ways_of(news):
        return True, False
    return way != "text", way != "mail"


def fault_of_news(chosen: Mapping[str, str]) -> str:
    """The kind of news for which this way cannot be chosen; nothing if all can."""
    kinds = {name: ways_of(name) for name in NEWS}
    return next((name for name, way in chosen.items() if way not in kinds.get(name, ())), "")  # type: ignore[call-overload]
