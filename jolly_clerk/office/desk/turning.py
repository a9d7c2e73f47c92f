"""A filing of the wrong kind is turned into one of the right kind: the office proposes, the applicant agrees by filing what was prepared.

The old case ends then *Out of scope* with nothing kept and a link; its money goes along with its receipts. What a stop in between left undone
is taken up by the clock job, and nothing is done twice.
"""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import cast

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.dossier.changing import patterned
from jolly_clerk.core.money_entries import Means
from jolly_clerk.core.refunds import joined
from jolly_clerk.core.say import say
from jolly_clerk.core.turning import answers_kept
from jolly_clerk.office.cases.casework import Loaded, by, load_case, permit
from jolly_clerk.office.cases.paying import Source, book
from jolly_clerk.office.desk.talking import write
from jolly_clerk.office.errors import Invalid, NotReady
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.post.papers import plain_letter
from jolly_clerk.office.post.telling import act_and_tell
from jolly_clerk.office.rules.rulebooks import edition_on, kind_titles, rulebook
from jolly_clerk.store.beside import PileItem
from jolly_clerk.store.counter import Turning
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.ledger import MoneyIn, Placing
from jolly_clerk.store.tables import Case, Draft

#: who carries out what the applicant agreed to
ITSELF = Who("office", "office", "office")


def propose(office: Office, who: Who, reference: str, kind: str, because: str) -> str:
    """Propose that a case is turned into another kind: a filing of that kind is prepared for the applicant, who is told. Returns its draft.

    Raises NotAllowed, NotFound for an unknown kind, Invalid for its own kind or without a reason, NotReady if it was proposed before.
    """
    because = " ".join(because.split())
    if len(because) < 10:
        raise Invalid(say("Say in a sentence why it belongs to another kind; the applicant reads it."), "grounds")
    loaded = load_case(office, who, reference)
    permit(loaded, who, "put out of scope")
    if kind == loaded.case.kind:
        raise Invalid(say("It is of this kind already."), "kind")
    assert loaded.so_far.filed
    day = loaded.known.calendar.local_day(loaded.so_far.filed.filed_at)
    rules = rulebook(office, edition_on(office, kind, day))
    kept = answers_kept(loaded.rulebook, rules, loaded.dossier.answers)
    dossier, draft_id, now = patterned(rules, kept, reference, office.now()), new_id(), office.now()
    with write_session(office.engine) as session:
        if session.scalars(select(Turning.draft_id).where(Turning.case_id == loaded.case.id)).first():
            raise NotReady(say("It was proposed already; the applicant has not agreed yet."))
        row = Draft(
            id=draft_id, owner_id=loaded.case.applicant_id, kind=kind, case_id=None, own_reference=loaded.case.own_reference, folder="",
            words={}, kept_at=now, dossier=dossier.model_dump(mode="json"),
        )  # fmt: skip
        session.add(row)
        for no, file in enumerate(loaded.dossier.attachments):
            session.add(
                PileItem(
                    id=new_id(), draft_id=draft_id, put_at=now, no=no, sha256=file.sha256, size=file.size, name=file.name, within="",
                    told="", first=0, last=0, fixed=False,
                )
            )  # fmt: skip
        session.add(
            Turning(
                draft_id=draft_id, case_id=loaded.case.id, reference=reference, kind=kind, proposed_by=who.id, because=because[:1000],
                proposed_at=now, filed_at=loaded.so_far.filed.filed_at,
            )
        )  # fmt: skip
    link = f"{office.settings.base_url}/filing/{draft_id}"
    text = say(
        "This belongs to “{kind}”, we think: {because} We have prepared it with your answers and files. Look at it, sort the files, sign and "
        "file it: {link}. With that this case ends, nothing of what you paid is kept, and your money is placed on the new case. The day on "
        "which you filed stays. If you do not agree, write to us here.",
        kind=kind_titles(office).get(kind, kind),
        because=because if because.endswith((".", "!", "?")) else f"{because}.",
        link=link,
    )
    write(office, who, reference, text)
    return draft_id


def turn(office: Office, who: Who, reference: str, kind: str, because: str) -> Loaded:
    """As :func:`propose`; returns the case as it stands then."""
    propose(office, who, reference, kind, because)
    return load_case(office, who, reference)


def need_still_open(session: Session, draft_id: str) -> Turning | None:
    """The turning of a draft that is about to be filed; None for any other draft. Raises NotReady if the case ended meanwhile."""
    row = session.get(Turning, draft_id)
    if row is None:
        return None
    case = session.get(Case, row.case_id)
    if case is None or not case.tray:
        raise NotReady(
            say("{reference} has ended meanwhile; it cannot be turned into another kind any more.", reference=row.reference)
        )
    return row


def finish_turnings(office: Office) -> int:
    """Carry out the turnings that were filed and are not all done; returns how many."""
    with read_session(office.engine) as session:
        ids = list(session.scalars(select(Turning.draft_id).where(Turning.became != "", Turning.done_at.is_(None))))
    for id_ in ids:
        finish_turning(office, id_)
    return len(ids)


def finish_turning(office: Office, draft_id: str) -> None:
    """End the old case and place its money on the new one; harmless as often as it is asked."""
    with read_session(office.engine) as session:
        row = session.get(Turning, draft_id)
    if row is None or not row.became or row.done_at is not None:
        return
    loaded = load_case(office, ITSELF, row.reference)
    if loaded.so_far.ended is None:
        _end(office, loaded, row.became, row.because)
    with read_session(office.engine) as session:
        wanted = select(MoneyIn).where(MoneyIn.is_left, MoneyIn.why == moved_to(row.became)).order_by(MoneyIn.came_at)
        rows = list(session.scalars(wanted))
    for came in rows:
        key = f"{came.key} → {row.became}"[:110]
        source = Source(cast(Means, came.means), key, None, came.payer, came.account, came.id)
        book(office, ITSELF, row.became, Decimal(came.left), source)
    with write_session(office.engine) as session:
        session.get_one(Turning, draft_id).done_at = office.now()


def moved_to(reference: str) -> str:
    """Why money of a case that was turned is placed nowhere for a moment."""
    return f"→ {reference}"


def _end(office: Office, loaded: Loaded, became: str, because: str) -> None:
    """The old case ends with nothing kept; what was paid on it leaves it in the same write."""
    told = {"grounds": because, "refund": say("What you paid was placed on {reference}.", reference=became)}
    sha256 = office.vault.put(plain_letter(office, loaded, "out_of_scope", ITSELF, **told))

    def entries(now: Loaded) -> Sequence[h.Entry]:
        at = by(office, ITSELF)
        grounds = say("It was turned into {reference}. {because}", reference=became, because=because)
        moved = [
            h.Moved(
                **at, amount=p.amount, prepaid=p.prepaid, key=f"{p.key}-moved", to=became,
                because=say("placed on {reference}", reference=became),
            )
            for p in now.so_far.payments
        ]  # fmt: skip
        return [*moved, h.OutOfScope(**at, grounds=grounds, letter_sha256=sha256)]

    def loosen(session: Session, case: Case, _: Sequence[h.Entry]) -> None:
        wanted = select(Placing).where(Placing.case_id == case.id, Placing.charged_back_at.is_(None))
        for placing in session.scalars(wanted):
            came = session.get_one(MoneyIn, placing.money_id)
            came.left, came.is_left, came.why = str(joined(Decimal(came.left), Decimal(placing.amount))), True, moved_to(became)
            session.delete(placing)

    act_and_tell(office, ITSELF, loaded, "", entries, "out_of_scope", sha256, also=loosen)
