"""Letters and receipts of a case: their words drawn from the history, made PDF, left with the post room."""

from __future__ import annotations

from datetime import date
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.assess import Assessment
from jolly_clerk.core.corrections import PointToAsk
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import day, money, things
from jolly_clerk.letters.render import render
from jolly_clerk.office.casework import Loaded, names
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.standins.post_room import Item
from jolly_clerk.store.database import reading, writing
from jolly_clerk.store.tables import Case, Outgoing, Person


def letterhead(office: Office, loaded: Loaded, on: date) -> dict[str, Any]:
    """The values that every paper of a case has."""
    return {
        "office": office.name,
        "address": office.address,
        "date": day(on),
        "reference": loaded.case.reference,
        "title": loaded.assessment.title,
        "to": names(office).get(loaded.case.applicant_id, ""),
    }


def correction_letter(office: Office, loaded: Loaded, who: Who, points: tuple[PointToAsk, ...], due: date) -> bytes:
    """The letter with these points, as it will be sent."""
    on = loaded.known.calendar.local_day(office.now())
    rules = loaded.rulebook.edition.clock.answers
    values = {
        **loaded_values(loaded),
        "count": things(len(points), "thing"),
        "due": day(due),
        "once_more": str(rules.once_more or ""),
        "target": "",
    }
    return _letter(office, loaded, on, "correction", values, points, who)


def acceptance_letter(office: Office, loaded: Loaded, who: Who, target: date) -> bytes:
    """The letter that says that the application is complete."""
    on = loaded.known.calendar.local_day(office.now())
    values = {**loaded_values(loaded), "count": "", "due": "", "once_more": "", "target": day(target)}
    return _letter(office, loaded, on, "complete", values, (), who)


def loaded_values(loaded: Loaded) -> dict[str, Any]:
    """The values of the answers, for texts."""
    from jolly_clerk.core.form import read_answers

    a = loaded.assessment
    return read_answers(loaded.rulebook, loaded.dossier.answers, a.filing_day, loaded.known.calendar.local_day(loaded.now)).values


def _letter(
    office: Office, loaded: Loaded, on: date, name: str, values: dict[str, Any], points: tuple[PointToAsk, ...], who: Who
) -> bytes:
    texts = {key: text.fill(values).strip() for key, text in loaded.rulebook.letters[name].items()}
    told = [
        {"no": p.no, "title": p.title, "article": p.article, "text": p.text, "places": "; ".join(x.label for x in p.places)}
        for p in points
    ]
    return render("letter", {**letterhead(office, loaded, on), **texts, "points": told, "officer": who.name})


def filing_receipt(office: Office, loaded: Loaded) -> bytes:
    """The receipt of a filing: what was filed and every file with its checksum."""
    filed = loaded.so_far.filed
    assert filed is not None
    local = filed.at.astimezone(loaded.known.calendar.zone)
    dossier = loaded.history.versions[0].dossier
    files = [
        {"name": a.name, "slot": loaded.rulebook.slots[a.slot].slot.title, "size": _size(a.size), "sha256": a.sha256}
        for a in dossier.attachments
    ]
    due = money(filed.due_at_filing, loaded.rulebook.edition.currency)
    return render(
        "receipt",
        {
            **letterhead(office, loaded, local.date()),
            "subject": "Receipt of your filing",
            "opening": f"We received your application on {day(local.date())} at {local:%H:%M}. Its reference is {loaded.case.reference}. "
            f"Edition of the rules: {loaded.rulebook.edition.id}. Due at filing: {due}.",
            "rows": [],
            "total": {},
            "files": files,
            "closing": "Keep this receipt. Each checksum proves which file was received." if files else "No files were attached.",
        },
    )


def _size(count: int) -> str:
    return f"{count / 1e6:.1f} MB" if count >= 1_000_000 else f"{max(1, round(count / 1000))} kB"


def payment_receipt(office: Office, loaded: Loaded, paid: h.Paid) -> bytes:
    """The receipt of one payment, with the lines it was for."""
    on = loaded.known.calendar.local_day(paid.at)
    currency = loaded.rulebook.edition.currency
    before = _as_filed(loaded)
    lines = [line for line in before.fees.lines if line.stage == "at filing" and line.state == "settled"]
    covers = sum((line.amount or 0) for line in lines) == paid.amount
    rows = [{"label": line.title, "amount": money(line.amount or 0), "note": line.working()} for line in lines] if covers else []  # type: ignore[arg-type]
    if not covers:
        rows = [{"label": "Fee due at filing, further amount", "amount": money(paid.amount), "note": ""}]
    return render(
        "receipt",
        {
            **letterhead(office, loaded, on),
            "subject": f"Receipt {paid.receipt}",
            "opening": f"Received on {day(on)} by {paid.means}.",
            "rows": rows,
            "total": {"label": "Paid", "amount": money(paid.amount, currency)},
            "files": [],
            "closing": "Thank you.",
        },
    )


def _as_filed(loaded: Loaded) -> Assessment:
    from jolly_clerk.core.assess import assess

    return assess(loaded.rulebook, loaded.history.versions[0].dossier, loaded.history, loaded.known, loaded.now)


def paper(office: Office, loaded: Loaded, no: int) -> tuple[str, bytes]:
    """The PDF that goes with an entry of the history: its file name and content. Raises NotFound."""
    if not 1 <= no <= len(loaded.history.entries):
        raise NotFound("There is no such paper.")
    entry = loaded.history.entries[no - 1]
    reference = loaded.case.reference
    if isinstance(entry, h.Filed):
        return f"{reference}-filing-receipt.pdf", filing_receipt(office, loaded)
    if isinstance(entry, h.Paid):
        return f"{reference}-receipt-{entry.receipt}.pdf", payment_receipt(office, loaded, entry)
    if isinstance(entry, (h.LetterSent, h.Accepted)) and entry.letter_sha256:
        name = f"letter-{entry.round}" if isinstance(entry, h.LetterSent) else "complete"
        return f"{reference}-{name}.pdf", office.vault.get(entry.letter_sha256)
    raise NotFound("There is no such paper.")


def put_out(session: Session, case: Case, key: str, subject: str, pdf_sha256: str, at: Any) -> None:
    """Lay something out for the post room, in the caller's transaction."""
    person = session.get_one(Person, case.applicant_id)
    session.merge(
        Outgoing(
            key=key,
            case_id=case.id,
            to=person.mail or person.name,
            subject=subject,
            pdf_sha256=pdf_sha256,
            put_at=at,
            delivered_at=None,
        )
    )


def deliver_waiting(office: Office) -> int:
    """Hand everything that waits to the post room; at least once, and twice is harmless. Returns how many."""
    with reading(office.engine) as session:
        waiting = list(session.scalars(select(Outgoing).where(Outgoing.delivered_at.is_(None)).order_by(Outgoing.put_at)))
        references = {o.key: session.get_one(Case, o.case_id).reference for o in waiting}
    for out in waiting:
        item = Item(out.key, references[out.key], out.to, out.subject, out.put_at.isoformat())
        office.post_room.deliver(item, office.vault.get(out.pdf_sha256))
        with writing(office.engine) as session:
            session.get_one(Outgoing, out.key).delivered_at = office.now()
    return len(waiting)


def subject_of(rules: Rulebook, name: str, count: int) -> str:
    """The subject line of a letter."""
    return rules.letters[name]["subject"].fill({"count": things(count, "thing")})
