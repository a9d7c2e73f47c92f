"""Pieces of a pile placed in their slots, cut, joined, and taken out of it."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import pikepdf
from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.changing import AlreadyThere, next_item, take_from_papers
from jolly_clerk.core.dossier.changing import attach as put_in
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.facts.agreement import written
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.numbers import whole_number
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.sorting.parts import of_part
from jolly_clerk.core.sorting.placing import Spot, answers_of, holder_of, named_in
from jolly_clerk.core.values import Raw
from jolly_clerk.office.errors import Invalid, NotFound, TooLarge
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.preparing.access import need_may_attach, need_right
from jolly_clerk.office.preparing.attaching import MOST_FILES, free_name, keep_files
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft, open_draft
from jolly_clerk.office.preparing.learning import learn, learnt_of
from jolly_clerk.office.preparing.pile import ranges_of, spots_of
from jolly_clerk.office.rules.rulebooks import known_for
from jolly_clerk.store.beside import PileItem
from jolly_clerk.store.database import read_session, write_session


def sheets_in(piece: str) -> tuple[str, int, int]:
    """The item, the first and the last sheet that the id of a piece names (0 and 0 for a whole file). Raises NotFound."""
    item_id, _, sheets = piece.partition("-")
    first, _, last = sheets.partition("-")
    at, to = whole_number(first), whole_number(last)
    if at is None or to is None:
        raise NotFound(say("This is not in the pile any more."))
    return item_id, at, to


@dataclass(frozen=True, slots=True)
class Placed:
    """A piece that is placed: which, and where. ``passport.new`` makes an item of what the paper says."""

    piece: str
    spot: str


def place(office: Office, who: Who, draft_id: str, placed: Sequence[Placed], seen: int | None = None) -> OpenDraft:
    """Place pieces of the pile. Sheets of a file become a file of their own.

    Raises NotFound for a piece that is not there, Invalid for a place that is none.
    """
    now = open_draft(office, who, draft_id)
    need_right(now.access, "attach", "documents")
    titles = {s.id: s for s in spots_of(now, learnt_of(office, now.draft.kind))}
    with read_session(office.engine) as session:
        rows = {r.id: r for r in session.scalars(select(PileItem).where(PileItem.draft_id == draft_id))}
    made = list[tuple[Placed, PileItem, int, int]]()
    for one in placed:
        item_id, first, last = sheets_in(one.piece)
        row = rows.get(item_id)
        if row is None:
            raise NotFound(say("This is not in the pile any more."))
        if one.spot not in titles:
            raise Invalid(say("There is no such place in this filing."), one.spot[:60])
        made.append((one, row, first, last))
    contents = [_sheets(office, row, first, last) for _, row, first, last in made]
    kept = keep_files(office, who, contents)
    known = known_for(office, now.edition_sha256, {row.sha256 for _, row, _, _ in made}).readings
    versions, spots = now.history.versions, list(titles.values())

    def part_of(row: PileItem, first: int, last: int) -> Reading | None:
        reading = known.get(row.sha256)
        return of_part(reading, first, last) if reading else None

    for one, row, first, last in made:
        part = part_of(row, first, last) if titles[one.spot].everybody else None
        if titles[one.spot].everybody and not (part and named_in(part, titles[one.spot].slot, spots)):
            raise Invalid(say("“{name}” names nobody of this filing. Choose whose it is.", name=row.name), one.spot[:60])

    def put(dossier: Dossier) -> Dossier:
        fresh = dict[str, str]()
        for (one, row, first, last), (sha256, size) in zip(made, kept, strict=True):
            if len(dossier.attachments) >= MOST_FILES:
                raise TooLarge(say("There are {most_files} files here already; no more can be taken.", most_files=MOST_FILES))
            spot, slots = titles[one.spot], [one.spot]
            part = part_of(row, first, last)
            if spot.fresh:
                slot, dossier = _with_item(office, now, dossier, spot, part, fresh)
                slots = [slot]
            elif spot.everybody:
                slots = [s.id for s in named_in(part, spot.slot, spots)] if part else []
            for slot in slots:
                name = free_name(dossier, slot, row.name if not first else _part_name(row.name, first, last))
                try:
                    dossier = put_in(dossier, versions, slot, name, sha256, size)
                except AlreadyThere:
                    continue  # the same content is there already, which is what was wanted
        return dossier

    changed = change_draft(office, who, draft_id, put, seen)
    with write_session(office.engine) as session:
        for item_id in {row.id for _, row, _, _ in made}:
            there = session.get(PileItem, item_id)
            if there is not None:
                learn(
                    session,
                    office,
                    who,
                    now,
                    spots,
                    [(titles[one.spot], part_of(row, a, b), row.name) for one, row, a, b in made if row.id == item_id],
                )
                gone = {(first, last) for _, row, first, last in made if row.id == item_id}
                _take_out(session, there, gone, known.get(there.sha256))
    return changed


def _with_item(
    office: Office, now: OpenDraft, dossier: Dossier, spot: Spot, reading: Reading | None, fresh: dict[str, str]
) -> tuple[str, Dossier]:
    """The slot of a new item that is made of what a paper says; two papers of one holder make one item."""
    part, slot = spot.slot.for_each or "", spot.slot
    holder = holder_of(reading) if reading else ""
    if holder and holder in fresh:
        return f"{slot.slot}.{fresh[holder]}", dossier
    number = next_item(dossier, now.history.versions, part)
    given = dossier.answers.get(part)
    items = [*given] if isinstance(given, list) else []
    empty = [
        whole_number(i.get("id", position))
        for position, i in enumerate(items, 1)
        if isinstance(i, dict) and not [k for k, v in i.items() if k != "id" and v not in (None, "")]
    ]
    there = next((n for n in empty if n is not None), None)
    if there is not None:
        number = there
    else:
        items.append({"id": number})
    dossier = dossier.model_copy(
        update={
            "answers": {**dossier.answers, part: items},
            "numbered": {**dossier.numbered, part: max(number, dossier.numbered.get(part, 0))},
        }
    )
    told = taken_from(now.rulebook, spot, reading, number) if reading else []
    if holder:
        fresh[holder] = str(number)
    return f"{slot.slot}.{number}", take_from_papers(dossier, told, office.now())


def taken_from(rules: Rulebook, spot: Spot, reading: Reading, number: int) -> list[tuple[str, Raw, str]]:
    """The answers of an item that its paper states, by the agreements of the rulebook: place, answer, and which paper says it."""
    part, slot = spot.slot.for_each or "", spot.slot
    agrees = dict[str, str]()
    for agree in rules.edition.agree:
        facts = [p.partition(".")[2] for p in agree.places if p.partition(".")[0] == slot.slot]
        for question in (p for p in agree.places if p in rules.questions and p.partition(".")[0] == part):
            if facts:
                agrees[question.partition(".")[2]] = facts[0]
    told = answers_of(slot, agrees, reading)
    return [(f"{part}.{number}.{q}", written(value), slot.title) for q, value in told.items()]


def _part_name(name: str, first: int, last: int) -> str:
    stem, dot, _ = name.rpartition(".")
    whole = stem if dot else name
    if first == last:
        return say("{name}, sheet {first}.pdf", name=whole, first=first)
    return say("{name}, sheets {first}-{last}.pdf", name=whole, first=first, last=last)


def _sheets(office: Office, row: PileItem, first: int, last: int) -> bytes:
    """The content of some sheets of a file, as a PDF; of a file as it is where all are meant."""
    content = office.vault.get(row.sha256)
    if not first:
        return content
    try:
        with pikepdf.open(io.BytesIO(content)) as whole, pikepdf.new() as made:
            made.pages.extend(list(whole.pages)[first - 1 : last])
            out = io.BytesIO()
            made.save(out, deterministic_id=True)
            return out.getvalue()
    except (pikepdf.PdfError, ValueError, RuntimeError) as error:
        raise Invalid(
            say("These sheets cannot be taken out of “{name}”. Send them as a file of their own.", name=row.name)
        ) from error


def _take_out(session: Session, row: PileItem, gone: set[tuple[int, int]], reading: Reading | None) -> None:
    """Take sheets out of an item; what is left of it stays, as pieces."""
    session.delete(row)
    if (0, 0) not in gone and reading is not None:
        _put_pieces(session, row, [(a, b) for a, b, _ in ranges_of(row, reading) if (a, b) not in gone])


def _put_pieces(session: Session, row: PileItem, ranges: Sequence[tuple[int, int]]) -> None:
    for first, last in ranges:
        session.add(
            PileItem(
                id=new_id(), draft_id=row.draft_id, put_at=row.put_at, no=row.no, sha256=row.sha256, size=row.size, name=row.name,
                within=row.within, told=row.told, first=first, last=last, fixed=True,
            )
        )  # fmt: skip


def cut(office: Office, who: Who, draft_id: str, piece: str, before: int) -> None:
    """Cut a piece before one of its sheets. Raises NotFound, Invalid."""
    _recut(office, who, draft_id, piece, lambda ranges, n: [*ranges[:n], *_cut(ranges[n], before), *ranges[n + 1 :]])


def _cut(sheets: tuple[int, int], before: int) -> list[tuple[int, int]]:
    first, last = sheets
    if not first < before <= last:
        raise Invalid(say("A piece is cut between two of its sheets."))
    return [(first, before - 1), (before, last)]


def join(office: Office, who: Who, draft_id: str, piece: str) -> None:
    """Join a piece to the one before it of the same file. Raises NotFound, Invalid."""

    def joined(ranges: list[tuple[int, int]], n: int) -> list[tuple[int, int]]:
        if n == 0:
            raise Invalid(say("There are no sheets of this file before it."))
        return [*ranges[: n - 1], (ranges[n - 1][0], ranges[n][1]), *ranges[n + 1 :]]

    _recut(office, who, draft_id, piece, joined)


def _recut(
    office: Office, who: Who, draft_id: str, piece: str, change: Callable[[list[tuple[int, int]], int], list[tuple[int, int]]]
) -> None:
    item_id, start, _ = sheets_in(piece)
    now = open_draft(office, who, draft_id)
    with write_session(office.engine) as session:
        need_may_attach(session, who, draft_id)
        row = session.get(PileItem, item_id)
        if row is None or row.draft_id != draft_id:
            raise NotFound(say("This is not in the pile any more."))
        reading = known_for(office, now.edition_sha256, {row.sha256}, session).readings.get(row.sha256)
        count = len(reading.pages) if reading else 0
        mates = [row]
        if row.fixed:
            same = (PileItem.draft_id == draft_id, PileItem.sha256 == row.sha256, PileItem.no == row.no)
            mates = list(session.scalars(select(PileItem).where(*same).order_by(PileItem.first)))
        ranges = [(a or 1, b or count) for mate in mates for a, b, _ in ranges_of(mate, reading)]
        n = next((n for n, (a, _) in enumerate(ranges) if a == (start or 1)), None)
        if n is None:
            raise NotFound(say("This is not in the pile any more."))
        told = change(ranges, n)
        for mate in mates:
            session.delete(mate)
        _put_pieces(session, row, told)


def drop(office: Office, who: Who, draft_id: str, pieces: Sequence[str]) -> None:
    """Take pieces out of the pile for good."""
    gone = dict[str, set[tuple[int, int]]]()
    for piece in pieces:
        item_id, first, last = sheets_in(piece)
        gone.setdefault(item_id, set()).add((first, last))
    now = open_draft(office, who, draft_id)
    with write_session(office.engine) as session:
        need_may_attach(session, who, draft_id)
        for item_id, ranges in gone.items():
            row = session.get(PileItem, item_id)
            if row is not None and row.draft_id == draft_id:
                reading = known_for(office, now.edition_sha256, {row.sha256}, session).readings.get(row.sha256)
                _take_out(session, row, ranges, reading)


def content_of(office: Office, who: Who, draft_id: str, item: str) -> tuple[bytes, str]:
    """The file of an item, and its name. Raises NotFound."""
    open_draft(office, who, draft_id)
    with read_session(office.engine) as session:
        row = session.get(PileItem, item)
    if row is None or row.draft_id != draft_id:
        raise NotFound(say("This is not in the pile any more."))
    return office.vault.get(row.sha256), row.name
