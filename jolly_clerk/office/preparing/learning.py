"""What the office learns when a paper is put elsewhere than it was offered: the next one that begins like it is offered there."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.sorting.parts import begins_with
from jolly_clerk.core.sorting.placing import Spot, offers_for
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.drafts import OpenDraft
from jolly_clerk.store.counter import PutRightByHand
from jolly_clerk.store.database import read_session

#: so many papers put right are remembered of a kind, the newest first; heads with fewer words say nothing
MOST_LEARNT, LEAST_WORDS = 500, 2


def learnt_of(office: Office, kind: str) -> dict[str, list[frozenset[str]]]:
    """The heads of the papers that were put right, by the slot into which they went."""
    wanted = select(PutRightByHand.slot, PutRightByHand.words).where(PutRightByHand.kind == kind)
    found = dict[str, list[frozenset[str]]]()
    with read_session(office.engine) as session:
        for slot, words in session.execute(wanted.order_by(PutRightByHand.id.desc()).limit(MOST_LEARNT)).tuples():
            found.setdefault(slot, []).append(frozenset(words.split()))
    return found


def learn(
    session: Session,
    office: Office,
    who: Who,
    now: OpenDraft,
    spots: Sequence[Spot],
    placed: Sequence[tuple[Spot, Reading | None, str]],
) -> None:
    """Remember, in the caller's write, the papers that somebody of the office put into another slot than the first that was offered. What
    applicants do is theirs, and nobody learns from it."""
    if not who.is_officer:
        return
    for spot, reading, name in placed:
        if reading is None or spot.fresh or spot.everybody:
            continue
        words = begins_with(reading)
        offered = offers_for(reading, name, spots)
        if len(words) < LEAST_WORDS or (offered and offered[0].spot.partition(".")[0] == spot.slot.slot):
            continue
        told = " ".join(sorted(words))[:300]
        there = select(PutRightByHand).where(PutRightByHand.kind == now.draft.kind, PutRightByHand.words == told)
        for row in session.scalars(there):
            session.delete(row)
        session.add(PutRightByHand(kind=now.draft.kind, slot=spot.slot.slot, words=told, at=office.now(), by_id=who.id))
