"""What an applicant adds to a case without being asked: a document that may come later, signed again, as a new version.

While answers are prepared it goes into them. It pauses nothing, changes no state, and is judged like an answer.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import IO

from sqlalchemy import select

from jolly_clerk.core.delivering import CameLater
from jolly_clerk.core.dossier.changing import AlreadyThere
from jolly_clerk.core.dossier.changing import attach as put_in
from jolly_clerk.core.dossier.model import Signing, Version
from jolly_clerk.core.dossier.signing import covered, signed
from jolly_clerk.core.history import Entry
from jolly_clerk.core.say import say
from jolly_clerk.core.to_come import to_add
from jolly_clerk.office.cases.casework import Loaded, act, by, load_case
from jolly_clerk.office.errors import NotAllowed, NotReady, TooLarge
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.accounts import need_confirmed
from jolly_clerk.office.preparing.attaching import MOST_FILES, already_there, attach, clean_name, free_name, keep_files, too_large
from jolly_clerk.office.preparing.reading_queue import wait_until_read
from jolly_clerk.office.preparing.signing import need_name
from jolly_clerk.store.chain import seal
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Draft


def add(office: Office, who: Who, reference: str, slot: str, file: str, content: bytes | IO[bytes], name: str) -> str:
    """Add a document to a case, signed with a typed ``name``; returns the draft of the answers into which it went, nothing for a version.

    Raises NotAllowed for whoever may not file, NotReady where nothing of the kind may be added now, Invalid, TooLarge, Stale.
    """
    need_confirmed(who)
    need_name(name)
    loaded, place = load_case(office, who, reference), f"documents.{slot}"[:60]
    if who.may.moves != "applicant" or not loaded.access.may("file"):
        raise NotAllowed(say("This is for whoever applied."))
    compiled = loaded.rulebook.slot_at(slot)
    if compiled is None or all(one.slot != slot for one in to_add(loaded.assessment)):
        raise NotReady(say("Nothing of this kind can be added to the case now."), place)
    file = clean_name(file)
    if isinstance(content, bytes):
        too_large(office, file, len(content))
    if answers := _answers(office, loaded, loaded.rulebook.lane_of(place) or ""):
        attach(office, who, answers, slot, file, content)
        return answers
    ((sha256, size),) = keep_files(office, who, [content])
    if size > compiled.slot.accepts.most_bytes:
        raise TooLarge(say("At most {most} is taken here.", most=compiled.slot.accepts.size), place)
    wait_until_read(office, [sha256])
    dossier, versions = loaded.dossier, loaded.history.versions
    if len(dossier.attachments) >= MOST_FILES:
        raise TooLarge(say("There are {most_files} files here already; no more can be taken.", most_files=MOST_FILES))
    try:
        dossier = put_in(dossier, versions, slot, free_name(dossier, slot, file, sha256), sha256, size)
    except AlreadyThere:
        raise already_there(file, place) from None
    text = loaded.rulebook.edition.signature.text
    signing = Signing(name=name.strip(), at=office.now().replace(microsecond=0), text=text, covers=covered(dossier))
    sealed = seal(Version(no=versions[-1].no + 1, at=office.now(), dossier=signed(dossier, signing)))

    def entries(_: Loaded) -> Sequence[Entry]:
        title, number = loaded.rulebook.slot_title(place), sealed.version.no
        return [CameLater(**by(office, who), place=place, title=title, version=number, dossier_hash=sealed.hash)]

    act(office, who, reference, "", entries, loaded.entries, sealed=sealed)
    return ""


def _answers(office: Office, loaded: Loaded, lane: str) -> str:
    """The draft of answers that are being prepared in a lane; nothing if there is none."""
    wanted = select(Draft.id).where(Draft.case_id == loaded.case.id, Draft.lane == lane, Draft.thrown_away_at.is_(None))
    with read_session(office.engine) as session:
        return session.scalars(wanted).first() or ""
