"""What has become of money that is not plainly paid: a part of what is due, more than is due, charged back, came too late."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.fees.account import comes_too_late
from jolly_clerk.core.history import Lapsed, Paid
from jolly_clerk.core.in_words import day, money
from jolly_clerk.core.money_entries import MEANS
from jolly_clerk.core.say import say


def money_explained(a: Assessment) -> tuple[str, ...]:
    """The sentences that whoever pays, and the office, read beside the account; none where all is plain."""
    return tuple(_explained(a)) if a.case.first_filed else ()


def _explained(a: Assessment) -> Iterator[str]:
    currency, case, account = a.rulebook.edition.currency, a.case, a.account
    yield from _charged_back(a)
    if case.filed and not case.ended and account.open and account.paid > account.prepaid and case.covered_at is None:
        told = {"paid": money(account.paid - account.prepaid, currency), "open": money(account.open, currency)}
        yield say("{paid} is paid in part; {open} is still open. The office begins when the whole has come.", **told)
    if account.over > 0 and not case.ended:
        over = money(account.over, currency)
        if case.accepted:
            yield say("{over} more was paid than is due. It comes back by itself.", over=over)
        else:
            yield say("{over} more was paid than is due. It comes back when your application is accepted as complete.", over=over)
    if case.ended is not None and comes_too_late(case):
        for payment in case.payments:
            if payment.at > case.ended.at:
                yield _too_late(a, payment)


def _too_late(a: Assessment, payment: Paid) -> str:
    assert a.case.ended
    calendar, amount = a.known.calendar, money(payment.amount, a.rulebook.edition.currency)
    came, ended = day(calendar.local_day(payment.at)), day(calendar.local_day(a.case.ended.at))
    if isinstance(a.case.ended, Lapsed):
        return say(
            "{amount} came on {came}, after the application had lapsed on {ended}. It goes back.",
            amount=amount,
            came=came,
            ended=ended,
        )
    return say(
        "{amount} came on {came}, after the case had ended on {ended}. It goes back.", amount=amount, came=came, ended=ended
    )


def _charged_back(a: Assessment) -> Iterator[str]:
    calendar, currency = a.known.calendar, a.rulebook.edition.currency
    for entry in a.case.charged_back:
        paid = next((e for e in a.history.entries if isinstance(e, Paid) and e.key == entry.payment), None)
        told = {
            "amount": money(entry.amount, currency),
            "means": say(MEANS[paid.means]) if paid else "",
            "paid": day(calendar.local_day(paid.at)) if paid else "",
            "back": day(calendar.local_day(entry.at)),
            "because": entry.because.rstrip("."),
        }
        yield say("{amount}, paid by {means} on {paid}, was charged back on {back} ({because}). It counts as not paid.", **told)
    if not a.case.charged_back or not a.account.open or a.case.ended:
        return
    open_ = money(a.account.open, currency)
    if a.clock is not None and a.clock.step == "payment" and a.clock.limit_day:
        yield say("Please pay {open} until {day}; after that the application lapses.", open=open_, day=day(a.clock.limit_day))
    else:
        yield say("Please pay {open}; it is to be paid before the application can be accepted.", open=open_)
