"""Dockets: the sheet that travels with something that comes by post; its number stands on the receipt, its code is read on arrival."""

from __future__ import annotations

from jolly_clerk.core.dossier.model import Docket, Dossier
from jolly_clerk.core.in_words import day
from jolly_clerk.core.reference import DOCKET_MARK, docket_counter, make_docket
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.letters.render import render
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.letterhead import paper_words
from jolly_clerk.office.preparing.access import need_right
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft, open_draft
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.database import next_number, write_session

#: so many things come by post with one filing, and so long is what one of them is called
MOST_DOCKETS, MOST_LETTERS = 40, 160


def add(office: Office, who: Who, draft_id: str, slot: str, what: str, seen: int | None = None) -> OpenDraft:
    """Say that something comes by post: it gets a docket with a number of its own. Raises Invalid where nothing of the kind may."""
    now, what = open_draft(office, who, draft_id), " ".join(what.split())
    need_right(now.access, "attach", "documents")
    compiled = now.rulebook.slot_at(slot)
    if compiled is None or not compiled.slot.by_post or now.assessment.requirement(f"documents.{slot}") is None:
        raise Invalid(say("Nothing of this comes by post."), f"documents.{slot[:40]}")
    if not 2 <= len(what) <= MOST_LETTERS:
        raise Invalid(say("Say in a few words what you send."), "what")
    if len(now.dossier.dockets) >= MOST_DOCKETS:
        raise Invalid(say("At most {most} things come by post with one filing.", most=MOST_DOCKETS), "what")
    year = office_calendar(office).local_day(office.now()).year
    with write_session(office.engine) as session:
        docket = Docket(no=make_docket(year, next_number(session, docket_counter(year))), slot=slot, what=what)

    def put(dossier: Dossier) -> Dossier:
        return dossier.model_copy(update={"dockets": (*dossier.dockets, docket)})

    return change_draft(office, who, draft_id, put, seen)


def remove(office: Office, who: Who, draft_id: str, no: str, seen: int | None = None) -> OpenDraft:
    """It does not come by post after all. Raises NotFound."""

    def take(dossier: Dossier) -> Dossier:
        left = tuple(d for d in dossier.dockets if d.no != no)
        if len(left) == len(dossier.dockets):
            raise NotFound(say("There is no such docket here."))
        return dossier.model_copy(update={"dockets": left})

    return change_draft(office, who, draft_id, take, seen)


def sheet_of_draft(office: Office, who: Who, draft_id: str, no: str) -> bytes:
    """A docket of a draft, to be printed and sent with the thing. Raises NotFound."""
    now = open_draft(office, who, draft_id)
    return _sheet(office, now.rulebook, now.dossier, no, now.assessment.title, now.case.reference if now.case else "")


def sheet_of_case(office: Office, who: Who, reference: str, no: str) -> bytes:
    """A docket of a case. Raises NotFound."""
    loaded = load_case(office, who, reference)
    return _sheet(office, loaded.rulebook, loaded.dossier, no, loaded.assessment.title, reference)


def _sheet(office: Office, rules: Rulebook, dossier: Dossier, no: str, title: str, reference: str) -> bytes:
    import segno  # loaded late: only this, a signing sheet and a permit need it

    docket = next((d for d in dossier.dockets if d.no == no), None)
    if docket is None:
        raise NotFound(say("There is no such docket here."))
    return render(
        "docket",
        {
            **paper_words(),
            "office": office.name,
            "address": office.address,
            "date": day(office_calendar(office).local_day(office.now())),
            "reference": reference,
            "subject": say("Docket {no}", no=no),
            "title": title if title == rules.edition.title else f"{rules.edition.title}, {title}",
            "slot": rules.slot_title(f"documents.{docket.slot}"),
            "what": docket.what,
            "lay": say("Print this sheet, lay it on top of what you send, and send both to the address above."),
            "keep": say("The office reads the code when it comes. The number of this docket stands on your receipt."),
            "no": no,
            "qr": segno.make(f"{DOCKET_MARK} {no}", error="m").svg_inline(scale=6, border=0),
            "qr_says": say("Square code of this docket"),
        },
    )
