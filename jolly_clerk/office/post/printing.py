"""The print queue: letters of those whom a letter reaches on paper, printed together and ticked as posted."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select

from jolly_clerk.core.lifecycle import in_lane
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.seeing import visible
from jolly_clerk.office.desk.inquiring import letter_posted
from jolly_clerk.office.errors import NotAllowed, NotFound, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.receipts import notice
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Outgoing

#: so many letters are printed at once
MOST = 200


@dataclass(frozen=True, slots=True)
class ToPrint:
    """A letter that waits to be printed: its key, the case, to whom, about what, since when."""

    key: str
    reference: str
    title: str
    to: str
    subject: str
    put_at: datetime


def print_queue(office: Office, who: Who) -> list[ToPrint]:
    """What waits to be printed, oldest first. Raises NotAllowed for whoever is no officer."""
    rows = _waiting(office, who)
    return [ToPrint(out.key, reference, title, out.to, out.subject, out.put_at) for out, reference, title in rows]


def _waiting(office: Office, who: Who) -> list[tuple[Outgoing, str, str]]:
    if not who.is_officer:
        raise NotAllowed(say("The letters are printed by officers."))
    found = select(Outgoing, Case.reference, Case.title).join(Case, Case.id == Outgoing.case_id)
    found = found.where(Outgoing.by_post.is_(True), Outgoing.delivered_at.is_(None), Case.erased_at.is_(None), *visible(who))
    with read_session(office.engine) as session:
        rows = session.execute(found.order_by(Outgoing.put_at, Outgoing.key).limit(MOST)).tuples()
        return [(out, reference, title) for out, reference, title in rows]


def as_one_pdf(office: Office, who: Who) -> bytes:
    """All that waits as one PDF, each letter from a new sheet on. Raises NotReady if nothing waits."""
    import pypdfium2  # loaded late, as it takes a while

    letters = [_printed(office, who, out, reference) for out, reference, _ in _waiting(office, who)]
    if not letters:
        raise NotReady(say("Nothing waits to be printed."))
    whole, out = pypdfium2.PdfDocument.new(), io.BytesIO()
    for content in letters:
        whole.import_pages(pypdfium2.PdfDocument(content))
    whole.save(out)
    return out.getvalue()


def _printed(office: Office, who: Who, out: Outgoing, reference: str) -> bytes:
    """A letter as it is printed; what others get as a plain mail becomes one."""
    if out.pdf_sha256:
        return office.vault.get(out.pdf_sha256)
    return notice(office, load_case(office, who, reference), out.subject, out.text)


def printed(office: Office, who: Who, keys: Sequence[str]) -> int:
    """Letters were printed and posted: a letter that asks is ticked in its case as well. Gives how many it was."""
    rows = {out.key: (out.pdf_sha256, reference) for out, reference, _ in _waiting(office, who)}
    wanted = {key: rows[key] for key in keys if key in rows}
    if len(wanted) != len(set(keys)):
        raise NotFound(say("One of these letters does not wait any more. Look again."))
    for sha256, reference in wanted.values():
        _tick(office, who, reference, sha256)
    with write_session(office.engine) as session:
        for key in wanted:
            session.get_one(Outgoing, key).delivered_at = office.now()
    return len(wanted)


def _tick(office: Office, who: Who, reference: str, sha256: str) -> None:
    """Tick the letter of an open round as posted, if it is the one that was printed and not ticked yet."""
    common = load_case(office, who, reference).assessment.common
    for lane in ("", *common.lanes):
        rounds = in_lane(common, lane).rounds
        latest = rounds[-1] if rounds else None
        if latest and latest.letter_sha256 == sha256 and latest.answered_at is None and not latest.posted:
            letter_posted(office, who, reference, lane=lane)
