"""A case as a package for one of its two parties: a BagIt folder (RFC 8493) in a ZIP, which another office can read in."""

from __future__ import annotations

import json
import re
import shutil
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import select

from jolly_clerk.core.case_package import (
    FORMAT,
    AnswerTold,
    ApplicantTold,
    CasePackage,
    EditionTold,
    EntryTold,
    FeeTold,
    FileTold,
    LimitTold,
    Origin,
    PersonTold,
    ReadingTold,
    RequirementTold,
    StepTold,
    VersionTold,
    schema,
)
from jolly_clerk.core.dossier.differences import raw_answers, said_answer
from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.history import ReadIn
from jolly_clerk.core.say import say
from jolly_clerk.core.sides import as_applicant
from jolly_clerk.core.story import Moment
from jolly_clerk.exchange.bag import zip_of_bag
from jolly_clerk.exchange.case_xml import SCHEMA, as_xml
from jolly_clerk.office.cases.casework import Loaded, load_case, moments_of
from jolly_clerk.office.desk.bundling import Paper, case_binder, paper_of
from jolly_clerk.office.desk.talking import message_files
from jolly_clerk.office.errors import NotAllowed, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names
from jolly_clerk.office.preparing.attaching import clean_name
from jolly_clerk.office.rules.rulebooks import readings_of
from jolly_clerk.store.chain import files_named
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import FiledVersion, HistoryEntry, Person, PublishedEdition, StoredReading


@dataclass(frozen=True, slots=True)
class Packed:
    """A package that was made: where it lies for the moment, what it is called, and the hash of the last entry, by which whoever gets it
    on another way can tell that it is the right one."""

    path: Path
    name: str
    last_hash: str


@contextmanager
def package(office: Office, who: Who, reference: str) -> Iterator[Packed]:
    """Make the package of a case for whoever asks: the whole for the office, for whoever applied without what is the office's own.

    It lies in a temporary folder until the block ends. Raises NotFound, NotAllowed for those who were only invited, NotReady while the papers
    cannot be bound.
    """
    loaded = load_case(office, who, reference)
    if not who.sees_all and not loaded.access.owner:
        raise NotAllowed(say("Only whoever applied takes the whole case along."))
    with tempfile.TemporaryDirectory(prefix="jolly-clerk-package-") as base:
        made = _Maker(office, who, loaded, Path(base))
        told = made.write()
        path = zip_of_bag(made.folder, _bag_info(told))
        yield Packed(path, f"{reference}-package.zip", told.origin.last_hash)


def _bag_info(told: CasePackage) -> dict[str, str]:
    return {
        "Source-Organization": told.origin.office,
        "External-Identifier": told.origin.reference,
        "External-Description": told.title,
        "Bagging-Date": told.made_at.date().isoformat(),
        "Last-Hash": told.origin.last_hash,
        "Made-For": told.made_for,
        "Bag-Software-Agent": "jolly-clerk",
    }


#: what may stand in the name of a file in a package whatever system unpacks it
_ODD = re.compile(r"[^\w. ()+-]")
#: so long may a name of a file be there
MOST_NAME = 80


class _Maker:
    def __init__(self, office: Office, who: Who, loaded: Loaded, base: Path) -> None:
        self.office, self.who, self.loaded, self.base = office, who, loaded, base
        self.folder = base / loaded.case.reference.replace("/", "-")
        self.data = self.folder / "data"
        self.whole = who.sees_all
        self.names = names(office, loaded.people)
        moments = moments_of(loaded, self.names)
        self.moments = {m.no: m for m in moments if self.whole or not m.inner}
        with read_session(office.engine) as session:
            found = select(HistoryEntry).where(HistoryEntry.case_id == loaded.case.id).order_by(HistoryEntry.no)
            self.rows = list(session.scalars(found))
            kept = select(FiledVersion).where(FiledVersion.case_id == loaded.case.id).order_by(FiledVersion.no)
            self.versions = list(session.scalars(kept))
            self.edition = session.get_one(PublishedEdition, loaded.case.edition_sha256)
            self.applicant = session.get_one(Person, loaded.case.applicant_id)

    def write(self) -> CasePackage:
        """Write all that goes into the bag; what the package says."""
        files = self._files()
        for _, file in files:
            to = self.data / file.path
            to.parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(self.office.vault.path(file.sha256), to)
        self._bind([paper for paper, _ in files if paper is not None])
        told = self._told(tuple(file for _, file in files))
        schemas = self.data / "schemas"
        schemas.mkdir(parents=True)
        shutil.copyfile(SCHEMA, schemas / SCHEMA.name)
        (schemas / "case-1.schema.json").write_text(json.dumps(schema(), indent=1, ensure_ascii=False), "utf-8")
        (self.data / "case.json").write_text(told.model_dump_json(indent=1), "utf-8")
        (self.data / "case.xml").write_bytes(as_xml(told))
        rules = self.data / "rules"
        rules.mkdir()
        shutil.copyfile(self.office.vault.path(self.edition.sha256), rules / "edition.yaml")
        shutil.copyfile(self.office.vault.path(self.edition.calendar_sha256), rules / "calendar.yaml")
        return told

    def _bind(self, papers: Sequence[Paper]) -> None:
        folder = self.base / "binding"
        folder.mkdir()
        try:
            bound = case_binder(self.office, self.loaded, folder).bind(papers, self.who)
        except NotReady:  # the papers one by one are there all the same
            return
        shutil.move(bound, self.data / "papers.pdf")

    def _files(self) -> list[tuple[Paper | None, FileTold]]:
        """Every file that the reader may have, in the order in which it came: as what is bound, and where it lies."""
        made = dict[str, tuple[Paper | None, FileTold]]()
        for version in self.loaded.history.versions:
            for a in version.dossier.papers:
                if a.sha256 not in made and (self.whole or not a.sealed):
                    made[a.sha256] = paper_of(self.loaded, a), self._placed("papers", a.sha256, a.name)
        sent = [a for a in message_files(self.loaded) if self.whole or int(a.id.removeprefix("m")) in self.moments]
        readings = readings_of(self.office, {a.sha256 for a in sent})
        for a in sent:
            made.setdefault(
                a.sha256,
                (
                    self._with_message(a, readings[a.sha256].type if a.sha256 in readings else ""),
                    self._placed("messages", a.sha256, a.name),
                ),
            )
        for row in self.rows:
            moment = self.moments.get(row.no)
            for sha256 in sorted(files_named(row.body)) if moment else ():
                if sha256 not in made:
                    assert moment is not None
                    made[sha256] = (
                        self._letter(moment, sha256),
                        self._placed("letters", sha256, f"{row.no:03}-{moment.paper or 'paper'}.pdf"),
                    )
        return list(made.values())

    def _letter(self, moment: Moment, sha256: str) -> Paper:
        title = say("Paper of the office")
        return Paper(sha256, title, moment.text[:MOST_NAME], sha256, "pdf", moment.text)

    def _with_message(self, a: Attachment, kind: str) -> Paper:
        return Paper(a.id, say("With a message"), a.name, a.sha256, kind if kind in ("pdf", "png", "jpeg", "tiff") else "", "")

    def _placed(self, folder: str, sha256: str, name: str) -> FileTold:
        stem, dot, ending = _ODD.sub("_", clean_name(name)).rpartition(".")
        short = f"{(stem or ending)[:MOST_NAME].strip()}{dot if stem else ''}{ending[:10] if stem else ''}"
        path = self.office.vault.path(sha256)
        if not path.exists():
            raise NotReady(say("“{name}” is missing in the office's files; verify the office first.", name=name))
        return FileTold(sha256=sha256, name=name[:300], path=f"{folder}/{sha256[:12]} {short}", size=path.stat().st_size)

    def _told(self, files: tuple[FileTold, ...]) -> CasePackage:
        a, rules, case = self.loaded.assessment, self.loaded.rulebook, self.loaded.case
        view = None if self.whole else as_applicant(a, self.loaded.access)
        asked = (view or a).requirements
        last = self.rows[-1]
        order = {place: n for n, place in enumerate(rules.questions)}
        answers = sorted(raw_answers(self.loaded.dossier).items(), key=lambda one: order.get(one[0], len(order)))
        clocks = [(a.clock_of or say("the case"), a.clock), *((lane.title, lane.clock) for lane in a.lanes)]
        limits = [(f"{of}: {clock.step}", clock.limit_day) for of, clock in clocks if clock and clock.limit_day]
        limits += [(d.title, d.day) for d in a.permit.days] if a.permit else []
        return CasePackage(
            format=FORMAT,
            made_at=self.office.now(),
            made_for="office" if self.whole else "applicant",
            origin=Origin(
                office=self.office.name, reference=case.reference, case_id=case.id, entries=len(self.rows), last_hash=last.hash
            ),
            came_from=tuple(self._earlier()),
            kind=case.kind,
            title=a.title[:300],
            state=a.state,
            filed_at=case.filed_at,
            changed_at=case.changed_at,
            currency=rules.edition.currency,
            edition=EditionTold(
                sha256=self.edition.sha256, calendar_sha256=self.edition.calendar_sha256, title=rules.edition.title[:300]
            ),
            applicant=ApplicantTold(
                id=self.applicant.id, name=self.applicant.name, mail=self.applicant.mail if self.applicant.confirmed else ""
            ),
            people=tuple(PersonTold(id=id_, name=name) for id_, name in sorted(self.names.items()) if self.whole),
            answers=tuple(
                AnswerTold(label=rules.label(place), value=said)
                for place, raw in answers
                if (said := said_answer(rules, place, raw))
            ),
            steps=tuple(StepTold(no=m.no, at=m.at, text=m.text, who=self._who(m.no)) for m in self.moments.values()),
            requirements=tuple(
                RequirementTold(id=r.id, title=r.title, standing=r.standing, judged=r.judged and self.whole)
                for r in asked
                if r.asked
            ),
            fees=tuple(FeeTold(id=f.id, title=f.title, amount=f.amount) for f in a.fees.lines if f.state != "not asked"),
            paid=a.account.paid,
            open=a.account.open,
            limits=tuple(LimitTold(what=what, day=day) for what, day in limits),
            files=files,
            readings=tuple(self._readings(files)) if self.whole else (),
            versions=tuple(VersionTold(no=v.no, at=v.at, dossier=v.dossier, salt=v.salt) for v in self.versions),
            history=tuple(self._entry(row) for row in self.rows),
        )

    def _who(self, no: int) -> str:
        who = self.loaded.history.entries[no - 1].who
        return self.names.get(who, who)

    def _earlier(self) -> Iterator[Origin]:
        for entry in self.loaded.history.entries:
            if isinstance(entry, ReadIn):
                yield Origin(
                    office=entry.office,
                    reference=entry.reference,
                    case_id=self.loaded.case.id,
                    entries=entry.came_with,
                    last_hash=entry.last_hash,
                )

    def _entry(self, row: HistoryEntry) -> EntryTold:
        shown = self.whole or row.no in self.moments
        return EntryTold(
            no=row.no,
            body=row.body if shown else None,
            personal=row.personal if shown else None,
            salt=row.salt if shown else "",
            previous=row.previous,
            hash=row.hash,
        )

    def _readings(self, files: Sequence[FileTold]) -> Iterator[ReadingTold]:
        hashes = [f.sha256 for f in files]
        with read_session(self.office.engine) as session:
            wanted = select(StoredReading).where(StoredReading.sha256.in_(hashes))
            for row in session.scalars(wanted.order_by(StoredReading.sha256, StoredReading.read_at, StoredReading.reader)):
                yield ReadingTold(sha256=row.sha256, reader=row.reader, at=row.read_at, text=row.reading)
