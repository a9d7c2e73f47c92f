"""A filing signed by hand: the sheet is printed here, and its scan is known again by its code."""

from __future__ import annotations

from typing import IO

from jolly_clerk.core.dossier.model import SignedSheet, Signing
from jolly_clerk.core.dossier.sheets import code_of, fault_of_codes
from jolly_clerk.core.dossier.signing import covered, signed
from jolly_clerk.core.in_words import day
from jolly_clerk.core.say import say
from jolly_clerk.letters.render import render
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.letterhead import paper_words
from jolly_clerk.office.preparing.access import need_right
from jolly_clerk.office.preparing.attaching import clean_name, keep_files
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft, open_draft
from jolly_clerk.office.preparing.reading_queue import wait_until_read
from jolly_clerk.office.preparing.signing import need_name
from jolly_clerk.office.rules.rulebooks import known_for, office_calendar


def sheet(office: Office, who: Who, draft_id: str) -> bytes:
    """The sheet to sign a filing by hand as it stands now, as a PDF: what is signed, for what, and a code."""
    import segno  # loaded late: only this and a permit need it

    now = open_draft(office, who, draft_id)
    edition, dossier = now.rulebook.edition, now.dossier
    code = code_of(draft_id, dossier, edition.signature.text)
    told = {d.declaration.declare: d.declaration for d in now.rulebook.declarations}
    return render(
        "signing",
        {
            **paper_words(),
            "office": office.name,
            "address": office.address,
            "date": day(office_calendar(office).local_day(office.now())),
            "reference": code.rpartition(" ")[2],
            "subject": say("To be signed by hand"),
            "title": f"{edition.title}, {now.assessment.title}",
            "text": edition.signature.text,
            "declared": [told[d.id].text for d in dossier.declared if d.id in told],
            "files_title": say("Files that go with it: {count}", count=len(dossier.attachments)),
            "files": [{"name": a.name, "sha256": a.sha256[:16]} for a in dossier.attachments],
            "name": say("Name"), "place": say("Place and day"), "signature": say("Signature"),
            "back": say("Scan this sheet when it is signed and attach it on the page “Promise and sign”. It is known again by its code."),
            "qr": segno.make(code, error="m").svg_inline(scale=6, border=0),
            "qr_says": say("Square code of this sheet"),
        },
    )  # fmt: skip


def sign_by_sheet(
    office: Office, who: Who, draft_id: str, name: str, file: str, content: bytes | IO[bytes], seen: int | None = None
) -> OpenDraft:
    """Sign with the scan of a sheet that was printed for the filing as it stands. Raises Invalid with what is wrong with it."""
    need_name(name)
    now = open_draft(office, who, draft_id)
    need_right(now.access, "sign", "signature")
    ((sha256, size),) = keep_files(office, who, [content])
    wait_until_read(office, [sha256])
    reading = known_for(office, now.edition_sha256, {sha256}).readings.get(sha256)
    text, file = now.rulebook.edition.signature.text, clean_name(file)
    if reading is None or reading.opens != "yes":
        raise Invalid(say("“{name}” could not be read. Attach the scan as a PDF or as a picture.", name=file), "signature")
    if fault := fault_of_codes([page.code for page in reading.pages], draft_id, now.dossier, text):
        raise Invalid(f"“{file}”: {fault}", "signature")
    signing = Signing(
        name=name.strip(),
        at=office.now().replace(microsecond=0),
        text=text,
        covers=covered(now.dossier),
        sheet=SignedSheet(name=file, sha256=sha256, size=size),
    )
    return change_draft(office, who, draft_id, lambda dossier: signed(dossier, signing), seen)
