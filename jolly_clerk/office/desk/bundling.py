"""Chosen papers of a case as one PDF: a cover that lists them, then each behind a bookmark. Nothing of it is kept."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Any

import pikepdf

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.facts.wording import places_of
from jolly_clerk.core.in_words import day
from jolly_clerk.core.say import say
from jolly_clerk.core.things import things
from jolly_clerk.letters.render import render
from jolly_clerk.office.cases.casework import Loaded, load_case
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.letterhead import letterhead, paper_words
from jolly_clerk.reading.binding import Bound, Bundle, Sewn

#: so many papers, sheets and bytes are bound at one go; so many places of words are told
MOST_PAPERS, MOST_SHEETS, MOST_BYTES, MOST_PLACES = 60, 2000, 300_000_000, 200
#: the types of which sheets can be made
BINDABLE = ("pdf", "png", "jpeg", "tiff")


@dataclass(frozen=True, slots=True)
class WordsAt:
    """Where words stand in a file: the sheet, its line, and a box around them in shares of the sheet."""

    file: str
    name: str
    version: int
    page: int
    text: str
    box: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class WordsFound:
    """The places of words in the files of a case, those of the newest version first; ``more`` tells that there are others, ``unread``
    names the files whose text is not known yet or cannot be read."""

    places: tuple[WordsAt, ...]
    more: bool
    unread: tuple[str, ...]


def files_of(loaded: Loaded) -> list[tuple[int, Attachment]]:
    """The files of all versions of a case, each once, with the newest version that names it; the newest first."""
    seen = dict[str, tuple[int, Attachment]]()
    for version in reversed(loaded.history.versions):
        for attachment in version.dossier.papers:
            seen.setdefault(attachment.id, (version.no, attachment))
    return list(seen.values())


def find_words(office: Office, who: Who, reference: str, text: str) -> WordsFound:
    """Where words stand in the files of a case. Raises NotAllowed for whoever is not of the office."""
    loaded = _seen_by_office(office, who, reference)
    places, unread = list[WordsAt](), list[str]()
    for no, attachment in files_of(loaded):
        reading = loaded.known.readings.get(attachment.sha256)
        if reading is None or reading.opens != "yes" or reading.scans == "waiting":
            unread.append(attachment.name)
        for place in places_of(text, reading) if reading else ():
            places.append(WordsAt(attachment.id, attachment.name, no, place.page, place.text, place.box))
    return WordsFound(tuple(places[:MOST_PLACES]), len(places) > MOST_PLACES, tuple(unread))


def bundle(office: Office, who: Who, reference: str, chosen: Sequence[str]) -> bytes:
    """The chosen files of a case, by their ids and in that order, as one PDF.

    A file of which no sheets can be made has a sheet in its place that says so. Raises NotAllowed for whoever is not of the office,
    NotFound for a file that the case does not have, Invalid for too much at once.
    """
    loaded = _seen_by_office(office, who, reference)
    own = {a.id: a for _, a in files_of(loaded)}
    if not 0 < len(chosen) <= MOST_PAPERS:
        raise Invalid(say("Choose between 1 and {most} papers.", most=MOST_PAPERS))
    if any(id_ not in own for id_ in chosen):
        raise NotFound(say("There is no such file in this case."))
    papers = [own[id_] for id_ in dict.fromkeys(chosen)]
    check_amount([(a, loaded.known.readings.get(a.sha256)) for a in papers])
    with tempfile.TemporaryDirectory() as folder:
        return case_binder(office, loaded, Path(folder)).bind([paper_of(loaded, a) for a in papers], who).read_bytes()


def check_amount(papers: Iterable[tuple[Attachment, Reading | None]]) -> None:
    """Raise Invalid if papers, each with what was read in it, are too much for one PDF."""
    sheets = size = 0
    for attachment, reading in papers:
        sheets, size = sheets + (len(reading.pages) if reading else 0), size + attachment.size
    if sheets > MOST_SHEETS or size > MOST_BYTES:
        most = MOST_BYTES // 1_000_000
        raise Invalid(say("That is too much for one PDF: at most {sheets} sheets and {most} MB.", sheets=MOST_SHEETS, most=most))


def _seen_by_office(office: Office, who: Who, reference: str) -> Loaded:
    loaded = load_case(office, who, reference)
    if not who.sees_all and who.may.moves != "reviewer":
        raise NotAllowed(say("Only the office does this."))
    return loaded


@dataclass(frozen=True, slots=True)
class Paper:
    """A paper to be bound: what it is, what it is called, its content, its true type (empty if no sheets can be made of it), and what
    was read in it, in words."""

    id: str
    title: str
    name: str
    sha256: str
    kind: str
    said: str


def paper_of(loaded: Loaded, attachment: Attachment) -> Paper:
    """A file of a case as a paper to be bound."""
    reading = loaded.known.readings.get(attachment.sha256)
    title = loaded.rulebook.slot_title(f"documents.{attachment.slot}")
    kind = reading.type if reading is not None and _bindable(reading) else ""
    return Paper(
        attachment.id, title, attachment.name, attachment.sha256, kind, reading.said() if reading else say("not read yet")
    )


def case_binder(office: Office, loaded: Loaded, folder: Path) -> Binder:
    """What binds papers of a case, in a folder of its own."""
    today = loaded.known.calendar.local_day(loaded.now)
    subject = say("Papers of {reference}", reference=loaded.case.reference)
    return Binder(office, letterhead(office, loaded, today), subject, today, folder)


class Binder:
    """Binds papers behind a cover with a ``head`` (see :func:`letterhead`) and a ``subject``, in a folder of its own."""

    def __init__(self, office: Office, head: dict[str, Any], subject: str, today: date, folder: Path) -> None:
        self.office, self.folder = office, folder
        self.head, self.subject, self.today = head, subject, today

    def bind(self, papers: Sequence[Paper], who: Who, front: Path | None = None) -> Path:
        """The PDF; what is ``front`` comes before the cover. Raises NotReady if the reader cannot bind them."""
        refused = {n for n, paper in enumerate(papers) if not paper.kind}
        sewn = [self._sewn(n, paper, n in refused) for n, paper in enumerate(papers)]
        # sheets are counted by binding: what a reader counted or could not bear may be another thing
        counted = self._bound(sewn)
        if counted.failed:
            refused |= set(counted.failed)
            sewn = [self._sewn(n, paper, n in refused) for n, paper in enumerate(papers)]
            counted = self._bound(sewn)
        if counted.failed:
            raise NotReady(say("The papers could not be bound. Choose fewer of them, or take them one by one."))
        before = _sheets_of(front) if front else 0
        cover = self._cover(papers, refused, counted, who, before, 1)
        if (length := _sheets_of(io.BytesIO(cover))) > 1:
            cover = self._cover(papers, refused, counted, who, before, length)
        (self.folder / "cover.pdf").write_bytes(cover)
        first = [Sewn(title=self.subject, path=str(path), kind="pdf") for path in (front, self.folder / "cover.pdf") if path]
        if self._bound([*first, *sewn]).failed:
            raise NotReady(say("The papers could not be bound. Choose fewer of them, or take them one by one."))
        return self.folder / "bound.pdf"

    def _bound(self, sewn: list[Sewn]) -> Bound:
        return self.office.readers.bind(Bundle(papers=sewn, to=str(self.folder / "bound.pdf")))

    def _sewn(self, n: int, paper: Paper, refused: bool) -> Sewn:
        title = f"{paper.title}: {paper.name}"
        if not refused:
            return Sewn(title=title, path=str(self.office.vault.path(paper.sha256)), kind=paper.kind)
        text = say(
            "No sheets can be made of “{name}” ({why}). The file itself is kept in the case.", name=paper.name, why=paper.said
        )
        path = self.folder / f"{n}.pdf"
        path.write_bytes(render("unbound", {**self.head, "subject": paper.title, "text": text, "sha256": paper.sha256}))
        return Sewn(title=title, path=str(path), kind="pdf")

    def _cover(self, papers: Sequence[Paper], refused: set[int], bound: Bound, who: Who, before: int, length: int) -> bytes:
        rows = [
            {
                "no": str(n + 1),
                "name": paper.name,
                "slot": paper.title,
                "said": say("no sheets can be made of it") if n in refused else paper.said,
                "sheets": str(bound.sheets[n]),
                "begins": str(bound.begins[n] + before + length),
            }
            for n, paper in enumerate(papers)
        ]
        opening = say(
            "Bound on {day} by {who}: {papers}, {sheets} with this cover. What is bound is a copy; the files in the case count.",
            day=day(self.today),
            who=who.name,
            papers=things(len(papers), "paper"),
            sheets=things(sum(bound.sheets) + before + length, "sheet"),
        )
        values = {
            "subject": self.subject,
            "opening": opening,
            "titles": [say("No"), say("Paper"), say("Sheets"), say("From sheet")],
            "rows": rows,
            "closing": "",
        }
        return render("bundle", {**self.head, **values, **paper_words()})


def _sheets_of(pdf: Path | io.BytesIO) -> int:
    with pikepdf.open(pdf) as opened:
        return len(opened.pages)


def _bindable(reading: Reading) -> bool:
    return reading.opens == "yes" and reading.type in BINDABLE and not reading.encrypted
