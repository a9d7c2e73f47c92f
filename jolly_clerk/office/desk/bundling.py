"""Chosen papers of a case as one PDF: a cover that lists them, then each behind a bookmark. Nothing of it is kept."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
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
    sheets = sum(len(r.pages) for a in papers if (r := loaded.known.readings.get(a.sha256)))
    if sheets > MOST_SHEETS or sum(a.size for a in papers) > MOST_BYTES:
        most = MOST_BYTES // 1_000_000
        raise Invalid(say("That is too much for one PDF: at most {sheets} sheets and {most} MB.", sheets=MOST_SHEETS, most=most))
    with tempfile.TemporaryDirectory() as folder:
        return _Binder(office, loaded, Path(folder)).bind(papers, who)


def _seen_by_office(office: Office, who: Who, reference: str) -> Loaded:
    loaded = load_case(office, who, reference)
    if not who.sees_all and who.may.moves != "reviewer":
        raise NotAllowed(say("Only the office does this."))
    return loaded


class _Binder:
    def __init__(self, office: Office, loaded: Loaded, folder: Path) -> None:
        self.office, self.loaded, self.folder = office, loaded, folder
        self.today = loaded.known.calendar.local_day(loaded.now)
        self.head = letterhead(office, loaded, self.today)

    def bind(self, papers: Sequence[Attachment], who: Who) -> bytes:
        refused = {a.id for a in papers if not _bindable(self.loaded.known.readings.get(a.sha256))}
        sewn = [self._sewn(a, a.id in refused) for a in papers]
        # sheets are counted by binding: what a reader counted or could not bear may be another thing
        counted = self._bound(sewn)
        if counted.failed:
            refused |= {papers[n].id for n in counted.failed}
            sewn = [self._sewn(a, a.id in refused) for a in papers]
            counted = self._bound(sewn)
        if counted.failed:
            raise NotReady(say("The papers could not be bound. Choose fewer of them, or take them one by one."))
        cover = self._cover(papers, refused, counted, who, 1)
        with pikepdf.open(io.BytesIO(cover)) as own:
            length = len(own.pages)
        if length > 1:
            cover = self._cover(papers, refused, counted, who, length)
        (self.folder / "cover.pdf").write_bytes(cover)
        first = Sewn(title=self._subject(), path=str(self.folder / "cover.pdf"), kind="pdf")
        if self._bound([first, *sewn]).failed:
            raise NotReady(say("The papers could not be bound. Choose fewer of them, or take them one by one."))
        return (self.folder / "bound.pdf").read_bytes()

    def _subject(self) -> str:
        return say("Papers of {reference}", reference=self.loaded.case.reference)

    def _title(self, attachment: Attachment) -> str:
        return self.loaded.rulebook.slot_title(f"documents.{attachment.slot}")

    def _bound(self, sewn: list[Sewn]) -> Bound:
        return self.office.readers.bind(Bundle(papers=sewn, to=str(self.folder / "bound.pdf")))

    def _sewn(self, attachment: Attachment, refused: bool) -> Sewn:
        title = f"{self._title(attachment)}: {attachment.name}"
        reading = self.loaded.known.readings.get(attachment.sha256)
        if not refused and reading is not None:
            return Sewn(title=title, path=str(self.office.vault.path(attachment.sha256)), kind=reading.type)
        why = reading.said() if reading else say("not read yet")
        text = say(
            "No sheets can be made of “{name}” ({why}). The file itself is kept in the case.", name=attachment.name, why=why
        )
        values = {"subject": self._title(attachment), "text": text, "sha256": attachment.sha256}
        path = self.folder / f"{attachment.id}.pdf"
        path.write_bytes(render("unbound", {**self.head, **values}))
        return Sewn(title=title, path=str(path), kind="pdf")

    def _cover(self, papers: Sequence[Attachment], refused: set[str], bound: Bound, who: Who, length: int) -> bytes:
        rows = list[dict[str, Any]]()
        for n, a in enumerate(papers):
            reading = self.loaded.known.readings.get(a.sha256)
            said = say("no sheets can be made of it") if a.id in refused or reading is None else reading.said()
            rows.append(
                {
                    "no": str(n + 1),
                    "name": a.name,
                    "slot": self._title(a),
                    "said": said,
                    "sheets": str(bound.sheets[n]),
                    "begins": str(bound.begins[n] + length),
                }
            )
        opening = say(
            "Bound on {day} by {who}: {papers}, {sheets} with this cover. What is bound is a copy; the files in the case count.",
            day=day(self.today),
            who=who.name,
            papers=things(len(papers), "paper"),
            sheets=things(sum(bound.sheets) + length, "sheet"),
        )
        values = {
            "subject": self._subject(),
            "opening": opening,
            "titles": [say("No"), say("Paper"), say("Sheets"), say("From sheet")],
            "rows": rows,
            "closing": "",
        }
        return render("bundle", {**self.head, **values, **paper_words()})


def _bindable(reading: Reading | None) -> bool:
    return reading is not None and reading.opens == "yes" and reading.type in BINDABLE and not reading.encrypted
