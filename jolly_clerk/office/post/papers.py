"""Letters and receipts of a case: their words drawn from the history, made PDF, left with the post room."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any

from jolly_clerk.core import history as h
from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.corrections import PointToAsk
from jolly_clerk.core.deadlines import Due, due_said, payment_due
from jolly_clerk.core.dossier.differences import said_answer
from jolly_clerk.core.dossier.model import Answers
from jolly_clerk.core.fees.account import covered_by, stage_of
from jolly_clerk.core.fees.debts import debts_told
from jolly_clerk.core.form import read_answers
from jolly_clerk.core.form_views import WayIn
from jolly_clerk.core.in_words import all_of, article_of, day, money, number
from jolly_clerk.core.permit import permit_says, permit_view
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.compiler import LETTER_NAMES
from jolly_clerk.core.say import say
from jolly_clerk.core.things import things
from jolly_clerk.letters.render import render
from jolly_clerk.office.cases.casework import Loaded, names
from jolly_clerk.office.cases.ledger import placed_beside
from jolly_clerk.office.errors import NotFound, NotReady
from jolly_clerk.office.office import Office, Who


def letterhead(office: Office, loaded: Loaded, on: date, lane: str = "") -> dict[str, Any]:
    """The values that every paper of a case has; one about a single lane says which."""
    own = f", {loaded.assessment.lane(lane).title}" if loaded.assessment.lanes and lane else ""
    return {
        "office": office.name,
        "address": office.address,
        "date": day(on),
        "reference": loaded.case.reference,
        "title": f"{loaded.assessment.title}{own}",
        "to": names(office, [loaded.case.applicant_id]).get(loaded.case.applicant_id, ""),
    }


def correction_letter(
    office: Office,
    loaded: Loaded,
    who: Who,
    points: Sequence[PointToAsk | h.AskedPoint],
    due: Due,
    lane: str = "",
    came_back: date | None = None,
) -> bytes:
    """The letter with these points, as it will be sent. ``came_back`` is the day of an earlier letter that never arrived."""
    on = loaded.known.calendar.local_day(office.now())
    rules = loaded.assessment.clock_rules.answers
    values = {
        **loaded_values(loaded),
        **BLANK,
        "count": things(len(points), "thing"),
        "due": due_said(due, loaded.known.calendar),
        "once_more": str(rules.once_more or ""),
    }
    note = ""
    if came_back is not None:
        note = say(
            "We sent you this letter on {came_back}. It came back to us. This one takes its place: its dates hold.",
            came_back=day(came_back),
        )
    return _letter(office, loaded, on, "correction", values, points, who, lane, note)


def acceptance_letter(
    office: Office, loaded: Loaded, who: Who, target: date | None, name: str = "complete", lane: str = ""
) -> bytes:
    """The letter that says that the application is complete, or (``lane_complete``) one lane of it."""
    on = loaded.known.calendar.local_day(office.now())
    values = {
        **loaded_values(loaded),
        **BLANK,
        "target": day(target)
        if target
        else say("{within} after the payment", within=loaded.assessment.clock_rules.decision.within),
        **_due_after_check(loaded, on),
        "lane": _called(loaded, lane),
    }
    a, now = loaded.assessment, office.now()
    owed = a.debts_in("after the check", a.fees.total("after the check").low, now) if name == "complete" else ()
    return _letter(office, loaded, on, name, values, (), who, lane, after=debts_told(owed, loaded.rulebook.edition.currency))


def _called(loaded: Loaded, lane: str) -> str:
    return loaded.assessment.lane(lane).title if loaded.assessment.lanes else ""


def _due_after_check(loaded: Loaded, on: date) -> dict[str, str]:
    """What falls due with acceptance, and until when, for the letter that says so."""
    edition, total = loaded.rulebook.edition, loaded.assessment.fees.total("after the check").low
    calendar = loaded.known.calendar
    until = payment_due(calendar.day_begin(on), loaded.assessment.clock_rules.pay, calendar)
    return {"amount": money(total, edition.currency), "due": due_said(until, calendar)} if total else {}


def loaded_values(loaded: Loaded) -> dict[str, Any]:
    """The values of the answers, for texts."""
    return loaded.sheet.values


BLANK = dict.fromkeys(LETTER_NAMES, "")


def plain_letter(office: Office, loaded: Loaded, name: str, who: Who, lane: str = "", **told: str) -> bytes:
    """A letter without points: a decision, a reminder, more time. ``told`` are the values that its text names."""
    on = loaded.known.calendar.local_day(office.now())
    values = {**loaded_values(loaded), **BLANK, "lane": _called(loaded, lane), **told}
    return _letter(office, loaded, on, name, values, (), who, lane)


def inquiry_letter(office: Office, loaded: Loaded, who: Who, body: str, asks: str, due: str) -> bytes:
    """The letter that asks another body something about a case, addressed to it."""
    on = loaded.known.calendar.local_day(office.now())
    values = {**loaded_values(loaded), **BLANK, "body": body, "because": asks, "due": due}
    return _letter(office, loaded, on, "inquiry", values, (), who, to=body)


def way_in_letter(office: Office, rules: Rulebook, answers: Answers, decided: WayIn, today: date) -> bytes:
    """The letter that says that no permit is needed, or who decides; it needs no case and no account."""
    sheet = read_answers(rules, answers, today, today)
    name = "not_needed" if decided.then == "not needed" else "belongs_elsewhere"
    values = {**sheet.values, **BLANK, "because": decided.because}
    said = [(rules.label(p), said_answer(rules, p, sheet.raw.get(p))) for p in rules.way_in_asks if p in sheet.raw]
    points = [{"no": n, "title": label, "article": "", "text": text, "places": ""} for n, (label, text) in enumerate(said, 1)]
    values = {**values, "grants": rules.edition.grants}
    texts = {key: text.fill(values).strip() for key, text in rules.letters[name].items()}
    texts["closing"] += say(" ({law} art. {article})", law=rules.edition.law, article=decided.article)
    head = {
        "office": office.name,
        "address": office.address,
        "date": day(today),
        "reference": "",
        "title": say("What you told us"),
        "to": "",
    }
    return render("letter", {**head, **texts, "note": "", "points": points, "officer": ""})


def permit_paper(office: Office, loaded: Loaded, code: str, granted: h.Granted) -> bytes:
    """The permit: what is permitted, where, to whom, with the code that anyone can verify."""
    calendar, sheet = loaded.known.calendar, loaded.sheet
    rows = [{"label": label, "value": value} for label, value in permit_says(sheet, loaded.so_far)]
    today = calendar.local_day(office.now())
    view = permit_view(sheet, loaded.so_far, calendar, today, assumed=today)
    rows += [{"label": d.title, "value": f"{day(d.day)} ({article_of(d.article)})"} for d in (view.days if view else ())]
    import segno  # loaded late: only a permit needs it

    address = f"{office.settings.base_url}/check/{code}"
    qr = segno.make(address, error="m").svg_inline(scale=4, border=0)
    return render(
        "permit",
        {
            **letterhead(office, loaded, calendar.local_day(office.now())),
            "subject": loaded.rulebook.edition.title,
            "law": loaded.rulebook.edition.law,
            "rows": rows,
            "conditions": granted.grounds,
            "granted": say("granted on {day}", day=day(calendar.local_day(granted.at))),
            "says": say("What is described here is granted."),
            "conditions_title": say("Conditions"),
            "real": say("Is this {grants} real?", grants=loaded.rulebook.edition.grants),
            "look": say("Look at this address or tell the office the code:"),
            "qr_says": say("Square code with the address of the check"),
            "code": code,
            "check": address,
            "qr": qr,
        },
    )


def _letter(
    office: Office,
    loaded: Loaded,
    on: date,
    name: str,
    values: dict[str, Any],
    points: Sequence[PointToAsk | h.AskedPoint],
    who: Who,
    lane: str = "",
    note: str = "",
    after: str = "",
    to: str = "",
) -> bytes:
    """Render a letter of the rulebook; ``note`` is a paragraph of the office's own before its opening, ``after`` what goes after its
    closing words, ``to`` to whom it goes if not to the applicant."""
    values = {**values, "grants": loaded.rulebook.edition.grants}
    texts = {key: text.fill(values).strip() for key, text in loaded.rulebook.letters[name].items()}
    texts["closing"] = f"{texts['closing']} {after}".strip()
    told = [
        {"no": p.no, "title": p.title, "article": p.article, "text": p.text, "places": "; ".join(_labels(loaded, p))}
        for p in points
    ]
    head = letterhead(office, loaded, on, lane) | ({"to": to} if to else {})
    return render("letter", {**head, **texts, "note": note, "points": told, "officer": who.name})


def _labels(loaded: Loaded, point: PointToAsk | h.AskedPoint) -> list[str]:
    """The places of a point in words."""
    if isinstance(point, h.AskedPoint):
        return [loaded.rulebook.label(ref) for ref in point.places]
    return [place.label for place in point.places]


def filing_receipt(office: Office, loaded: Loaded) -> bytes:
    """The receipt of a filing: what was filed and every file with its checksum."""
    filed = loaded.so_far.filed
    assert filed is not None
    local = filed.at.astimezone(loaded.known.calendar.zone)
    dossier = loaded.history.versions[0].dossier
    files = [
        {
            "name": a.name,
            "slot": loaded.rulebook.slot_title(f"documents.{a.slot}"),
            "size": _size(a.size),
            "sha256": a.sha256,
        }
        for a in dossier.attachments
    ]
    due = money(filed.due_at_filing, loaded.rulebook.edition.currency)
    owed = loaded.assessment.debts_in("at filing", filed.due_at_filing, filed.at)
    return render(
        "receipt",
        {
            **letterhead(office, loaded, local.date()),
            "subject": say("Receipt of your filing"),
            "opening": say(
                "We received your application on {date} at {local}. Its reference is {reference}. "
                "Edition of the rules: {edition}. Due at filing: {due}. {parts}",
                date=day(local.date()),
                local=f"{local:%H:%M}",
                reference=loaded.case.reference,
                edition=loaded.rulebook.edition.id,
                due=due,
                parts=debts_told(owed, loaded.rulebook.edition.currency),
            ).strip(),
            "rows": [],
            "total": {},
            "files": files,
            "files_title": say("Files received: {count}", count=len(files)),
            "closing": say("Keep this receipt. Each checksum proves which file was received.")
            if files
            else say("No files were attached."),
        },
    )


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


def paper(office: Office, loaded: Loaded, no: int) -> tuple[str, bytes]:
    """The PDF that goes with an entry of the history: its file name and content. Raises NotFound."""
    if not 1 <= no <= len(loaded.history.entries):
        raise NotFound(say("There is no such paper."))
    entry = loaded.history.entries[no - 1]
    reference = loaded.case.reference
    if isinstance(entry, h.Filed):
        return f"{reference}-filing-receipt.pdf", filing_receipt(office, loaded)
    if isinstance(entry, h.Paid):
        return f"{reference}-receipt-{entry.receipt}.pdf", payment_receipt(office, loaded, entry)
    if isinstance(entry, h.PermitIssued):
        return f"{reference}-permit.pdf", office.vault.get(entry.permit_sha256)
    if isinstance(entry, (h.LetterSent, h.LetterSentAgain, h.Accepted, h.Ended, h.Reminded, h.Extended)) and entry.letter_sha256:
        again = "-again" if isinstance(entry, h.LetterSentAgain) else ""
        is_letter = isinstance(entry, (h.LetterSent, h.LetterSentAgain))
        name = f"letter-{entry.round}{again}" if is_letter else entry.what.replace(" ", "-")  # type: ignore[union-attr]
        return f"{reference}-{name}.pdf", office.vault.get(entry.letter_sha256)
    if isinstance(entry, h.BodyAsked):
        return f"{reference}-inquiry-{entry.no}.pdf", office.vault.get(entry.letter_sha256)
    raise NotFound(say("There is no such paper."))


def due_date_file(office: Office, loaded: Loaded) -> bytes:
    """The running limit of the applicant as a calendar file. Raises NotReady if nothing is due from the applicant."""
    from jolly_clerk.exchange.calendar_file import due_date  # loaded late, as its library takes a while

    a = loaded.assessment
    theirs = [c for c in (a.clock, *(lane.clock for lane in a.lanes)) if c and c.step in ("payment", "answers") and c.limit_day]
    clock = min(theirs, key=lambda c: str(c.limit_day), default=None)
    if clock is None or clock.limit_day is None:
        raise NotReady(say("Nothing is due from the applicant now."))
    subject = say("Pay the fee") if clock.step == "payment" else say("Answer the letter of the office")
    url = f"{office.settings.base_url}/cases/{loaded.case.reference}"
    remind = tuple(loaded.assessment.clock_rules.answers.remind) if clock.step == "answers" else (1,)
    return due_date(loaded.case.reference, subject, clock.limit_day, office.now(), url, remind)


def subject_of(loaded: Loaded, name: str, count: int) -> str:
    """The subject line of a letter; it may name answers, the count of its points, and what acceptance makes due."""
    on = loaded.known.calendar.local_day(loaded.now)
    due = _due_after_check(loaded, on) if name == "complete" else {}
    values = {**loaded_values(loaded), **BLANK, "count": things(count, "thing"), **due}
    return loaded.rulebook.letters[name]["subject"].fill(values).strip()
