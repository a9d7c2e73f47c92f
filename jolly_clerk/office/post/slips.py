"""The slip to pay a case by transfer, by cheque or in cash: what is owed, to which account, naming what, until when."""

from __future__ import annotations

from jolly_clerk.core.in_words import day, money
from jolly_clerk.core.say import say
from jolly_clerk.letters.render import render
from jolly_clerk.office.cases.casework import Loaded
from jolly_clerk.office.errors import NotReady
from jolly_clerk.office.office import Office
from jolly_clerk.office.post.letterhead import letterhead


def payment_slip(office: Office, loaded: Loaded) -> bytes:
    """The slip for what is open on a case now, as a PDF. Raises NotReady if nothing is."""
    account, currency = loaded.assessment.account, loaded.rulebook.edition.currency
    if account.open <= 0:
        raise NotReady(say("Nothing is to be paid now."))
    clock, to = loaded.assessment.clock, office.settings.account
    rows = [
        {"label": say("To"), "value": office.name},
        {"label": say("Account"), "value": to or say("none: pay at the counter")},
        {"label": say("Amount"), "value": money(account.open, currency)},
        {"label": say("Name this"), "value": loaded.case.reference},
    ]
    if clock and clock.step == "payment" and clock.limit_day:
        rows.append({"label": say("Until the end of"), "value": day(clock.limit_day)})
    owed = [f"{d.title}: {money(d.open, currency)}" for d in loaded.assessment.debts if d.open > 0]
    return render(
        "slip",
        {
            **letterhead(office, loaded, loaded.known.calendar.local_day(office.now())),
            "subject": say("Payment slip"),
            "rows": rows,
            "owed": owed if len(owed) > 1 else [],
            "how": [
                say("By transfer: name the reference exactly as it stands here; by it the money is placed on your case."),
                say("By cheque: write the reference on its back."),
                say("In cash: bring this slip to the counter."),
            ],
            "closing": say("It is booked on the day on which it reaches the office. A receipt follows."),
        },
    )
