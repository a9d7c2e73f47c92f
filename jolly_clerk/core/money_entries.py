"""The entries of a history that tell of money: it came, it is to go back, it left, it was charged back."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Final, Literal

from pydantic import AwareDatetime, Field

from jolly_clerk.core.happened import Happened
from jolly_clerk.core.say import _, say

Means = Literal["card", "transfer", "cheque", "cash"]
#: how money came, in words
MEANS: Final[dict[Means, str]] = {"card": _("card"), "transfer": _("transfer"), "cheque": _("cheque"), "cash": _("cash")}


class Paid(Happened):
    """Money came in and was placed on the case. ``key`` is its own number; the same key counts once.

    ``prepaid`` is the part of it that was meant for a later stage. ``value_day`` is the day on which it came by the statement or on
    which the cheque came in, ``counts_from`` the instant from which it counts as paid (by default that of the entry); ``payer`` is
    whose money it is, if not the applicant's. ``money`` identifies the money in, which may be placed on several cases. ``debts`` are the
    debts that it was for, by their keys, where the edition says how what is due is owed.
    """

    what: Literal["paid"] = "paid"
    amount: Decimal = Field(gt=0)
    means: Means
    key: str
    receipt: str = ""
    prepaid: Decimal = Field(default=Decimal(0), ge=0)
    value_day: date | None = None
    counts_from: AwareDatetime | None = None
    payer: str = ""
    money: str = ""
    debts: dict[str, Decimal] = Field(default={}, exclude_if=lambda kept: not kept)


class GoesBack(Happened):
    """Base of what is taken off the account of a case; ``prepaid`` is the part of it that had been meant for a later stage."""

    amount: Decimal = Field(gt=0)
    because: str
    key: str
    prepaid: Decimal = Field(default=Decimal(0), ge=0)


class PaidBack(GoesBack):
    """Money went back to the applicant at once (before 0.4.0)."""

    what: Literal["paid back"] = "paid back"


class RefundDue(GoesBack):
    """Money is to go back, by a rule; it leaves when a lead approved it (:class:`RefundPaid`)."""

    what: Literal["refund due"] = "refund due"


class Moved(GoesBack):
    """Money went along to the case ``to``, into which this one was turned; its receipt stands."""

    what: Literal["moved"] = "moved"
    to: str


class RefundPaid(Happened):
    """A refund left: ``of`` is the key of the refund, ``means`` the way it went, ``account`` where to, if it is named."""

    what: Literal["refund paid"] = "refund paid"
    of: str
    amount: Decimal = Field(gt=0)
    means: Means
    account: str = ""
    key: str


class ChargedBack(Happened):
    """A payment was taken back by the payer's bank or card, or a cheque bounced: it counts as not made. ``payment`` is its key."""

    what: Literal["charged back"] = "charged back"
    payment: str
    amount: Decimal = Field(gt=0)
    because: str = ""


class LapseUndone(Happened):
    """Money that had come in time was placed after the case had lapsed: it goes on. ``cancels`` are refunds that did not leave."""

    what: Literal["lapse undone"] = "lapse undone"
    because: str
    cancels: tuple[str, ...] = ()


def way_back(means: Means, account: str = "") -> str:
    """In words where money goes that came by ``means``; ``account`` is the one that is named."""
    if means == "card":
        return say("to the card it came from")
    if account:
        return say("to account {account}", account=account)
    return say("in cash at the counter") if means == "cash" else say("to the account it came from")


def needs_account(means: Means) -> bool:
    """True if money that came by ``means`` goes back only to an account that is named."""
    return means in ("transfer", "cheque")
