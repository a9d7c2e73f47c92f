"""Letters and receipts of a case: their words drawn from the history, made PDF, left with the post room."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any

from jolly_clerk.core import history as h
from jolly_clerk.core.corrections import PointToAsk
from jolly_clerk.core.deadlines import Due, due_said, payment_due
from jolly_clerk.core.dossier.differences import said_answer
from jolly_clerk.core.dossier.model import Answers
from jolly_clerk.core.fees.debts import debts_told
from jolly_clerk.core.form import read_answers
from jolly_clerk.core.form_views import WayIn
from jolly_clerk.core.in_words import article_of, day, money
from jolly_clerk.core.permit import permit_says, permit_view
from jolly_clerk.core.permit_entries import PermitStep
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.compiler import LETTER_NAMES
from jolly_clerk.core.say import say
from jolly_clerk.core.things import things
from jolly_clerk.letters.render import render
from jolly_clerk.office.cases.casework import Loaded, need_lane
from jolly_clerk.office.errors import NotFound, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.languages import Told, in_their_language, told_now
from jolly_clerk.office.post.letterhead import letterhead, paper_words
from jolly_clerk.office.post.receipts import answers_receipt, filing_receipt, payment_receipt


def correction_letter(
    office: Office,
    loaded: Loaded,
    who: Who,
    points: Sequence[PointToAsk | h.AskedPoint],
    due: Due,
    lane: str = "",
    came_back: date | None = None,
    replaces: date | None = None,
) -> bytes:
    """The letter with these points, as it will be sent. ``came_back`` is the day of an earlier letter that never arrived, ``replaces`` of one
    that was wrong."""
    on = loaded.known.calendar.local_day(office.now())
    with in_their_language(office, loaded) as told:
        values = {
            **loaded_values(told),
            **BLANK,
            "count": things(len(points), "thing"),
            "due": due_said(due, loaded.known.calendar),
            "once_more": f"{once_more}" if (once_more := told.assessment.clock_rules.answers.once_more) else "",
        }
        note = ""
        if came_back is not None:
            note = say(
                "We sent you this letter on {came_back}. It came back to us. This one takes its place: its dates hold.",
                came_back=day(came_back),
            )
        if replaces is not None:
            note = say("This letter takes the place of ours of {day}: please answer this one alone.", day=day(replaces))
        again = _rounds_before(told, lane, came_back is not None or replaces is not None)
        opening = say("Thank you for your answers. Before we can go on, this is still needed.") if again else ""
        return _letter(office, told, on, "correction", values, points, who, lane, note, opening=opening)


def _rounds_before(loaded: Loaded, lane: str, sent_again: bool) -> int:
    """How many letters of a lane were answered before this one."""
    return len(need_lane(loaded, lane).rounds) - sent_again


def acceptance_letter(
    office: Office, loaded: Loaded, who: Who, target: date | None, name: str = "complete", lane: str = ""
) -> bytes:
    """The letter that says that the application is complete, or (``lane_complete``) one lane of it."""
    on, now = loaded.known.calendar.local_day(office.now()), office.now()
    with in_their_language(office, loaded) as told:
        a = told.assessment
        values = {
            **loaded_values(told),
            **BLANK,
            "target": day(target) if target else say("{within} after the payment", within=a.clock_rules.decision.within),
            **_due_after_check(told, on),
            "lane": _called(told, lane),
        }
        owed = a.debts_in("after the check", a.fees.total("after the check").low, now) if name == "complete" else ()
        return _letter(office, told, on, name, values, (), who, lane, after=debts_told(owed, told.rulebook.edition.currency))


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


def plain_letter(office: Office, loaded: Loaded, name: str, who: Who, lane: str = "", **told: Told) -> bytes:
    """A letter without points: a decision, a reminder, more time. ``told`` are the values that its text names."""
    on = loaded.known.calendar.local_day(office.now())
    with in_their_language(office, loaded) as theirs:
        values = {**loaded_values(theirs), **BLANK, "lane": _called(theirs, lane), **told_now(told)}
        return _letter(office, theirs, on, name, values, (), who, lane)


def inquiry_letter(office: Office, loaded: Loaded, who: Who, body: str, asks: str, due: str) -> bytes:
    """The letter that asks another body something about a case, addressed to it."""
    on = loaded.known.calendar.local_day(office.now())
    values = {**loaded_values(loaded), **BLANK, "body": body, "because": asks, "due": due}
    return _letter(office, loaded, on, "inquiry", values, (), who, to=body)


def way_in_letter(office: Office, rules: Rulebook, answers: Answers, asked: Sequence[str], decided: WayIn, today: date) -> bytes:
    """The letter that says that no permit is needed, or who decides; it needs no case and no account. ``asked`` are the questions that
    led to it."""
    sheet = read_answers(rules, answers, today, today)
    name = "not_needed" if decided.then == "not needed" else "belongs_elsewhere"
    values = {**sheet.values, **BLANK, "because": decided.because}
    said = [(rules.label(p), said_answer(rules, p, sheet.raw.get(p))) for p in asked]
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
        **paper_words(),
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
    opening: str = "",
) -> bytes:
    """Render a letter of the rulebook; ``note`` is a paragraph of the office's own before its opening, ``after`` what goes after its
    closing words, ``to`` to whom it goes if not to the applicant, ``opening``
    words in the place of those of the rulebook."""
    values = {**values, "grants": loaded.rulebook.edition.grants}
    texts = {key: text.fill(values).strip() for key, text in loaded.rulebook.letters[name].items()}
    texts["closing"] = f"{texts['closing']} {after}".strip()
    texts["opening"] = opening or texts["opening"]
    told = [
        {
            "no": p.no,
            "title": p.title,
            "article": p.article,
            "text": p.text,
            "places": "; ".join(_labels(loaded, p)),
            **_answer_here(office, loaded, p.no, lane),
        }
        for p in points
    ]
    head = letterhead(office, loaded, on, lane) | ({"to": to, "to_address": ""} if to else {})
    words = {"article_word": say("art."), "answer_here": say("Answer this point:"), "question": say("Questions?")}
    officer = "" if who.role == "clock" else who.name
    return render("letter", {**head, **texts, **words, "note": note, "points": told, "officer": officer})


def _answer_here(office: Office, loaded: Loaded, no: int, lane: str) -> dict[str, str]:
    """Where a point is answered: its address, and the same as a square code for whoever has the letter on paper."""
    import segno  # loaded late: only letters and permits need it

    own = f"&lane={lane}" if lane else ""
    address = f"{office.settings.base_url}/cases/{loaded.case.reference}?point={no}{own}"
    return {"link": address, "code": segno.make(address, error="m").svg_inline(scale=4, border=0)}


def _labels(loaded: Loaded, point: PointToAsk | h.AskedPoint) -> list[str]:
    """The places of a point in words."""
    if isinstance(point, h.AskedPoint):
        return [loaded.rulebook.label(ref) for ref in point.places]
    return [place.label for place in point.places]


#: the entries with which a letter goes
_WITH_LETTER = (
    h.LetterSent, h.LetterSentAgain, h.LetterReplaced, h.Accepted, h.Ended, h.Reminded, h.Extended, h.PutRight, h.ClosureDeclared, h.ReviewAsked,
)  # fmt: skip


def paper(office: Office, loaded: Loaded, no: int) -> tuple[str, bytes]:
    """The PDF that goes with an entry of the history: its file name and content. Raises NotFound."""
    if not 1 <= no <= len(loaded.history.entries):
        raise NotFound(say("There is no such paper."))
    entry = loaded.history.entries[no - 1]
    reference = loaded.case.reference
    if isinstance(entry, h.Filed):
        return f"{reference}-filing-receipt.pdf", filing_receipt(office, loaded)
    if isinstance(entry, h.Answered):
        return f"{reference}-answers-{entry.version}-receipt.pdf", answers_receipt(office, loaded, entry)
    if isinstance(entry, h.Paid):
        return f"{reference}-receipt-{entry.receipt}.pdf", payment_receipt(office, loaded, entry)
    if isinstance(entry, (h.PermitIssued, PermitStep)) and entry.permit_sha256:
        return f"{reference}-permit.pdf", office.vault.get(entry.permit_sha256)
    if isinstance(entry, _WITH_LETTER) and entry.letter_sha256:
        again = "-again" if isinstance(entry, h.LetterSentAgain) else "-replaced" if isinstance(entry, h.LetterReplaced) else ""
        is_letter = isinstance(entry, (h.LetterSent, h.LetterSentAgain, h.LetterReplaced))
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


def subject_of(office: Office, loaded: Loaded, name: str, count: int) -> str:
    """The subject line of a letter; it may name answers, the count of its points, and what acceptance makes due."""
    with in_their_language(office, loaded) as told:
        return _subject(told, name, count)


def _subject(loaded: Loaded, name: str, count: int) -> str:
    on = loaded.known.calendar.local_day(loaded.now)
    due = _due_after_check(loaded, on) if name == "complete" else {}
    values = {**loaded_values(loaded), **BLANK, "count": things(count, "thing"), **due}
    return loaded.rulebook.letters[name]["subject"].fill(values).strip()
