"""A pile of a draft: files dropped together, taken apart, each offered a place with its reasons, placed when its owner confirms.

What is not placed yet belongs to no slot, and no step waits for it.
"""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import IO

from sqlalchemy import func, select

from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.findings import LARGE_HEAD
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.numbers import whole_number
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.sorting.parts import of_part, parts_of
from jolly_clerk.core.sorting.placing import Offer, Spot, holder_of, offers_for
from jolly_clerk.office.errors import TooLarge
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.preparing.access import need_may_attach, need_right
from jolly_clerk.office.preparing.attaching import clean_name, keep_files
from jolly_clerk.office.preparing.drafts import OpenDraft, open_draft
from jolly_clerk.office.preparing.learning import learnt_of
from jolly_clerk.office.preparing.unpacking import Unpacked, is_pack, unpack
from jolly_clerk.office.rules.rulebooks import known_for
from jolly_clerk.store.beside import PileItem
from jolly_clerk.store.database import read_session, write_session

#: the name by which an upload goes to the pile and not into a slot
PILE = "pile"
#: so many things lie in a pile at most; one is placed at one go with the others if it is at least so sure
MOST_ITEMS, SURE = 300, 0.8


@dataclass(frozen=True, slots=True)
class Piece:
    """Something in a pile: sheets ``first`` to ``last`` of a file, where it may belong, and what it is the same as, if anything.

    ``id`` names the item with its sheets; ``cut`` is why it may begin a document.
    """

    id: str
    file: Attachment
    type: str
    opens: str
    said: str
    pages: int
    first: int
    last: int
    within: str
    told: str
    cut: str
    same_as: str
    offers: tuple[Offer, ...]


@dataclass(frozen=True, slots=True)
class SpotView:
    """A place of the filing, for choosing by hand."""

    id: str
    title: str
    files: int
    fresh: bool


@dataclass(frozen=True, slots=True)
class PileView:
    """A pile with the places of its draft; ``sure`` is from when on a piece is placed with the others."""

    pieces: tuple[Piece, ...]
    spots: tuple[SpotView, ...]
    sure: float
    reading: int


def add_to_pile(office: Office, who: Who, draft_id: str, name: str, content: bytes | IO[bytes]) -> None:
    """Put a file onto the pile; an archive or a mail is taken apart. Raises NotFound, TooLarge."""
    need_right(open_draft(office, who, draft_id).access, "attach", "documents")
    name = clean_name(name)
    stream = io.BytesIO(content) if isinstance(content, bytes) else content
    head = stream.read(4)
    stream.seek(0)
    if is_pack(name, head):
        files = [Unpacked(clean_name(f.name), f.content, f.within, f.told) for f in unpack(name, stream.read())]
        kept = keep_files(office, who, [f.content for f in files])
    else:
        files = [Unpacked(name, b"")]
        kept = keep_files(office, who, [stream])
    with write_session(office.engine) as session:
        need_may_attach(session, who, draft_id)
        there = session.scalar(select(func.count()).select_from(PileItem).where(PileItem.draft_id == draft_id)) or 0
        if there + len(files) > MOST_ITEMS:
            raise TooLarge(say("There are {most} things in the pile already; place some of them first.", most=MOST_ITEMS))
        for n, (file, (sha256, size)) in enumerate(zip(files, kept, strict=True)):
            session.add(
                PileItem(
                    id=new_id(), draft_id=draft_id, put_at=office.now(), no=there + n, sha256=sha256, size=size, name=file.name,
                    within=file.within, told=file.told, first=0, last=0, fixed=False,
                )
            )  # fmt: skip


def pile_view(office: Office, who: Who, draft_id: str) -> PileView:
    """What lies in the pile of a draft, each piece with the places that it may belong to."""
    now = open_draft(office, who, draft_id)
    with read_session(office.engine) as session:
        items = list(
            session.scalars(
                select(PileItem).where(PileItem.draft_id == draft_id).order_by(PileItem.no, PileItem.put_at, PileItem.first)
            )
        )
    readings = known_for(office, now.edition_sha256, {item.sha256 for item in items}).readings
    spots, seen, near = spots_of(now, learnt_of(office, now.draft.kind)), dict[str, str](), ""
    pieces = list[Piece]()
    attached = {a.sha256: a.name for a in now.dossier.attachments}
    for item in items:
        reading = readings.get(item.sha256)
        for first, last, why in ranges_of(item, reading):
            piece_id = f"{item.id}-{first}-{last}"
            part = of_part(reading, first, last) if reading else None
            whole = first == 0
            same = (attached.get(item.sha256) or seen.get(item.sha256) or _alike(part, pieces, readings)) if whole else ""
            found = offers_for(part, item.name, spots, near) if part and not same else ()
            near = holder_of(part) or near if part else near
            if whole:
                seen.setdefault(item.sha256, item.name)
            file = Attachment(id=item.id, slot=PILE, name=item.name, sha256=item.sha256, size=item.size)
            pieces.append(
                Piece(
                    piece_id, file, reading.type if reading else "", reading.opens if reading else "being read",
                    part.said() if part else "", len(part.pages) if part else 0, first, last, item.within, item.told, why, same, found,
                )
            )  # fmt: skip
    waiting = sum(1 for p in pieces if p.opens == "being read") + sum(1 for r in readings.values() if r.scans == "waiting")
    views = tuple(SpotView(s.id, s.title, s.files, s.fresh) for s in spots)
    return PileView(tuple(pieces), views, SURE, waiting)


def ranges_of(item: PileItem, reading: Reading | None) -> list[tuple[int, int, str]]:
    """The pieces of an item: as a person cut it, else as its sheets look; all of it while it is not read."""
    if item.fixed or reading is None or len(reading.pages) < 2 or reading.type != "pdf":
        return [(item.first, item.last, "")]
    parts = [p for p in parts_of(reading) if not item.first or item.first <= p.first <= item.last]
    if len(parts) < 2 and not item.first:
        return [(0, 0, "")]
    return [(p.first, min(p.last, item.last or p.last), p.because) for p in parts] or [(item.first, item.last, "")]


#: pictures of which so few of 256 bits differ are the same sheet
MOST_BITS = 16


def _alike(part: Reading | None, pieces: Sequence[Piece], readings: Mapping[str, Reading]) -> str:
    """The name of a piece before whose one sheet looks the same. Portraits look alike without being the same."""
    bits = part.pages[0].bits if part and len(part.pages) == 1 and part.pages[0].content == "scan" else ""
    if not bits or (part and part.face and part.face.height >= LARGE_HEAD):
        return ""
    for piece in pieces:
        other = readings.get(piece.file.sha256)
        if other and len(other.pages) == 1 and other.pages[0].bits and differing(bits, other.pages[0].bits) <= MOST_BITS:
            return piece.file.name
    return ""


def differing(one: str, other: str) -> int:
    """How many bits differ in two hashes of how sheets look."""
    return (int(one, 16) ^ int(other, 16)).bit_count() if len(one) == len(other) else 256


def spots_of(now: OpenDraft, learnt: Mapping[str, Sequence[frozenset[str]]] = MappingProxyType({})) -> list[Spot]:
    """The places of a draft that can take a file; for slots of items one more for an item that is not there yet. ``learnt`` are the heads
    of papers that were put into each slot by hand."""
    rules, there = now.rulebook, Counter(a.slot for a in now.dossier.attachments)
    asked = {r.id.removeprefix("documents."): r for r in now.assessment.requirements if r.kind == "document"}
    found = list[Spot]()
    for name, requirement in asked.items():
        compiled = rules.slot_at(name)
        if compiled is None or compiled.slot.delivered_by:
            continue
        no = whole_number(name.partition(".")[2]) or 0
        who, number = _item(rules, now.dossier, compiled.slot.for_each or "", no)
        title = f"{compiled.slot.title}, {requirement.item_label}" if requirement.item_label else compiled.slot.title
        asks = requirement.proposed != "not asked"
        own = tuple(learnt.get(compiled.slot.slot, ()))
        found.append(Spot(name, compiled.slot, title, no, who, number, there[name], asks, learnt=own))
    for slot_id, compiled in rules.slots.items():
        part = compiled.slot.for_each
        if part and _takes_items(rules, part) and any(f.type == "passport holder" for f in compiled.slot.facts):
            one = rules.one(part)
            title = say("{title}, a new {one}", title=compiled.slot.title, one=one.lower())
            found.append(Spot(f"{slot_id}.{NEW}", compiled.slot, title, fresh=True))
        if part and not compiled.slot.facts and not compiled.slot.portrait and sum(s.slot is compiled.slot for s in found) > 1:
            title = say("{title}, everybody who is named in it", title=compiled.slot.title)
            found.append(Spot(f"{slot_id}.{ALL}", compiled.slot, title, everybody=True))
    return found


#: the number of an item that is to be made, and what stands in its place for all items that a paper names
NEW, ALL = "new", "all"


def _takes_items(rules: Rulebook, part: str) -> bool:
    return any(p.id == part and p.each for p in rules.edition.parts)


def _item(rules: Rulebook, dossier: Dossier, part: str, no: int) -> tuple[str, str]:
    """What an item is called, and its passport's number, as far as they were answered."""
    given = dossier.answers.get(part)
    item = (
        next((i for i in given if isinstance(i, dict) and str(i.get("id")) == str(no)), None) if isinstance(given, list) else None
    )
    if item is None:
        return "", ""
    names = [n.question.id for place, n in rules.questions.items() if n.part.id == part and n.question.type == "person"]
    name = next((str(item[q]) for q in names if item.get(q)), "") or str(item.get("name") or "")
    return name, str(item.get("passport") or "")
