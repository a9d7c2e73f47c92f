"""Receipts of a case: of a filing, of answers, of a payment."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any

from jolly_clerk.core import history as h
from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.dossier.differences import differences
from jolly_clerk.core.dossier.model import SIGNED, Attachment
from jolly_clerk.core.fees.account import covered_by, stage_of
from jolly_clerk.core.fees.debts import debts_told
from jolly_clerk.core.in_words import all_of, day, money, number
from jolly_clerk.core.say import say
from jolly_clerk.letters.render import render
from jolly_clerk.office.cases.casework import Loaded
from jolly_clerk.office.cases.ledger import placed_beside
from jolly_clerk.office.office import Office
from jolly_clerk.office.post.letterhead import letterhead


def filing_receipt(office: Office, loaded: Loaded) -> bytes:
    """The receipt of a filing: what was filed and every file with its checksum."""
    filed = loaded.so_far.filed
    assert filed is not None
    local = filed.filed_at.astimezone(loaded.known.calendar.zone)
    dossier = loaded.history.versions[0].dossier
    files = _files(loaded, dossier.papers)
    due = money(filed.due_at_filing, loaded.rulebook.edition.currency)
    owed = loaded.assessment.debts_in("at filing", filed.due_at_filing, filed.at)
    opening = say(
        "We received your application on {date} at {local}. Its reference is {reference}. "
        "Edition of the rules: {edition}. Due at filing: {due}. {parts}",
        date=day(local.date()),
        local=f"{local:%H:%M}",
        reference=loaded.case.reference,
        edition=loaded.rulebook.edition.id,
        due=due,
        parts=debts_told(owed, loaded.rulebook.edition.currency),
    ).strip()
    said = {
        "subject": say("Receipt of your filing"),
        "opening": opening,
        "files_title": say("Files received: {count}", count=len(files)),
        "lines": [
            say(
                "By post, docket {no}: {title}, {what}",
                no=d.no,
                title=loaded.rulebook.slot_title(f"documents.{d.slot}"),
                what=d.what,
            )
            for d in dossier.dockets
        ],
    }
    return _of_files(letterhead(office, loaded, local.date()), said, files, say("No files were attached."))


def notice(office: Office, loaded: Loaded, subject: str, text: str) -> bytes:
    """What others get as a mail, as a letter on paper."""
    today = loaded.known.calendar.local_day(office.now())
    said = {"subject": subject, "opening": text, "lines": [], "files_title": ""}
    return render("receipt", {**letterhead(office, loaded, today), **said, "rows": [], "total": {}, "files": [], "closing": ""})


def _of_files(head: dict[str, Any], said: dict[str, Any], files: list[dict[str, str]], none: str) -> bytes:
    """A receipt of what came: its words, and every file with its checksum."""
    closing = say("Keep this receipt. Each checksum proves which file was received.") if files else none
    return render("receipt", {**head, **said, "rows": [], "total": {}, "files": files, "closing": closing})


def _files(loaded: Loaded, attachments: Sequence[Attachment]) -> list[dict[str, str]]:
    """Files with their checksums, for a receipt; behind each what it was made from."""
    made = list[dict[str, str]]()
    for a in attachments:
        slot = say("Declaration signed") if a.id == SIGNED else loaded.rulebook.slot_title(f"documents.{a.slot}")
        made.append({"name": a.name, "slot": slot, "size": _size(a.size), "sha256": a.sha256})
        for source in a.made_from:
            name = say("{name} was made from {source}", name=a.name, source=source.name)
            made.append({"name": name, "slot": slot, "size": _size(source.size), "sha256": source.checksum})
    return made


def answers_receipt(office: Office, loaded: Loaded, answered: h.Answered) -> bytes:
    """The receipt of answers: each point with its words, what was changed, the note, and the files that are new."""
    local = answered.at.astimezone(loaded.known.calendar.zone)
    before, after = (loaded.history.versions[n].dossier for n in (answered.version - 2, answered.version - 1))
    letters = (e for e in loaded.history.entries if isinstance(e, h.LetterSent) and e.lane == answered.lane)
    asked = next((e.points for e in letters if e.round == answered.round), ())
    known = {(a.id, a.sha256) for a in before.papers}
    files = _files(loaded, [a for a in after.papers if (a.id, a.sha256) not in known])
    lines: list[str] = [
        say("Point {no}, {title}: {words}", no=point.no, title=point.title, words=answered.words.get(point.no) or say("no words"))
        for point in asked
    ]
    lines += [f"{c.label}: {c.was} → {c.now}" for c in differences(loaded.rulebook, before, after)]
    opening = say(
        "We received your answers on {date} at {local}. They are version {version} of your application.",
        date=day(local.date()),
        local=f"{local:%H:%M}",
        version=answered.version,
    )
    note = [say("Note: {note}", note=answered.note)] if answered.note else []
    said = {"subject": say("Receipt of your answers"), "opening": opening, "lines": [*lines, *note]}
    said["files_title"] = say("New files: {count}", count=len(files))
    head = letterhead(office, loaded, local.date(), answered.lane)
    return _of_files(head, said, files, say("No new files were attached."))


def _size(count: int) -> str:
    return (
        say("{count} MB", count=f"{count / 1000000.0:.1f}")
        if count >= 1_000_000
        else say("{size} kB", size=max(1, round(count / 1000)))
    )


def payment_receipt(office: Office, loaded: Loaded, paid: h.Paid) -> bytes:
    """The receipt of one payment, with the lines it was for."""
    on, currency = loaded.known.calendar.local_day(paid.at), loaded.rulebook.edition.currency
    at_filing = stage_of(loaded.so_far, paid) == "at filing"
    fees = (_as_filed(loaded) if at_filing else loaded.assessment).fees
    covered = covered_by(loaded.rulebook, loaded.so_far, fees, paid, loaded.assessment.debts)
    rows = [
        {
            "label": c.line.title,
            "amount": number(c.amount),
            "note": c.line.working() if c.whole else say("in part, of {low}", low=money(c.line.low, currency)),
        }
        for c in covered.lines
    ]
    rows += [
        {
            "label": debt.title,
            "amount": number(part),
            "note": debt.working if part == debt.amount else say("in part, of {low}", low=money(debt.amount, currency)),
        }
        for debt, part in covered.debts
    ]
    if covered.over:
        rows.append({"label": say("More than was due then"), "amount": number(covered.over), "note": ""})
    if covered.prepaid:
        what = " and ".join(covered.prepaid_for) or say("a later stage")
        rows.append(
            {
                "label": say("Prepaid: {what}", what=what),
                "amount": number(covered.prepaid),
                "note": say("comes back whole until issue"),
            }
        )
    return render(
        "receipt",
        {
            **letterhead(office, loaded, on),
            "subject": say("Receipt {receipt}", receipt=paid.receipt),
            "opening": _received(office, loaded.case.id, paid, on, currency),
            "rows": rows,
            "total": {"label": "Paid", "amount": money(paid.amount, currency)},
            "files": [],
            "closing": say("Thank you."),
        },
    )


def _received(office: Office, case_id: str, paid: h.Paid, on: date, currency: str) -> str:
    """When and how it came, and of what it is a part if the money was placed on several cases."""
    said = [say("Received on {on} by {means}.", on=day(on), means=paid.means)]
    if paid.value_day and paid.value_day != on:
        said.append(say("Its value day is {value_day}.", value_day=day(paid.value_day)))
    whole, others = placed_beside(office, case_id, paid)
    if others:
        elsewhere = all_of([say("{amount} on {reference}", amount=money(part, currency), reference=ref) for ref, part in others])
        told = {"whole": money(whole, currency), "elsewhere": elsewhere}
        said.append(say("It is a part of {whole}; of the rest are placed {elsewhere}.", **told))
    return " ".join(said)


def _as_filed(loaded: Loaded) -> Assessment:
    from jolly_clerk.core.assessment import assess

    return assess(loaded.rulebook, loaded.history.versions[0].dossier, loaded.history, loaded.known, loaded.now)
