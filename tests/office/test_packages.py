"""Cases as packages: valid by the standards' own readers, read in by a second office with all that counts, kept as they came by a third."""

from __future__ import annotations

import json
import logging
import shutil
import subprocess
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import bagit
import jsonschema
import pikepdf
import xmlschema
from lxml import etree
from sqlalchemy import func, select

from jolly_clerk.core.case_package import CasePackage
from jolly_clerk.core.history import ReadIn
from jolly_clerk.exchange.case_xml import SCHEMA, as_xml
from jolly_clerk.office.cases.casework import Loaded, load_case
from jolly_clerk.office.cases.lists import search
from jolly_clerk.office.desk import checking, talking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, OfficeError
from jolly_clerk.office.keeping.packing import package
from jolly_clerk.office.keeping.reading_in import PackageTaken, look_into, read_in
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import Office, Who, open_office
from jolly_clerk.office.people.directory import person
from jolly_clerk.office.rules.rulebooks import publish_text
from jolly_clerk.office.views.case import look_at
from jolly_clerk.office.views.kept import kept_file, kept_view
from jolly_clerk.shelf.rulebooks import read_calendar
from jolly_clerk.store.chain import canonical
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, HistoryEntry, PublishedEdition
from tests.folders import new_folder
from tests.helpers import DemoTest

logging.getLogger("bagit").setLevel(logging.CRITICAL)
KINDS = ("BW", "TL", "PL", "QV", "IP", "CT", "BB")
LEAD = Who("lead-elsewhere", "Ines Falk", "lead")


def told_of(loaded: Loaded) -> dict[str, Any]:
    """What two offices have to say alike of a case."""
    a = loaded.assessment
    return {
        "state": a.state,
        "standings": [(r.id, r.standing, r.judged) for r in a.requirements],
        "fees": [(line.id, line.amount) for line in a.fees.lines],
        "money": (a.account.paid, a.account.open, a.account.over),
        "dates": [c.limit_at if c else None for c in (a.clock, *(lane.clock for lane in a.lanes))],
        "permit": a.permit,
        "points": [(p.no, p.state) for r in a.rounds for p in r.points],
    }


class Packages(DemoTest):
    """The cases of the demo, taken to other offices."""

    def setUp(self) -> None:
        super().setUp()
        self.odalys, self.imre, self.maud = (person(self.office, id_) for id_ in ("odalys", "imre", "maud"))
        with read_session(self.office.engine) as session:
            mine = select(Case.kind, func.min(Case.reference)).where(Case.kept.is_(False), Case.erased_at.is_(None))
            self.of_kind: dict[str, str] = dict(session.execute(mine.group_by(Case.kind)).tuples().all())

    def another(self, *without: str) -> Office:
        """Another office in which the editions of this one are published, but for those kinds."""
        other = open_office(new_folder() / "other", now=self.office.now)
        self.addCleanup(other.close)
        with read_session(self.office.engine) as session, write_session(other.engine) as theirs:
            for e in session.scalars(select(PublishedEdition).where(PublishedEdition.kind.not_in(without))):
                for sha256 in (e.sha256, e.calendar_sha256):  # what publishing leaves, without reading it all once more
                    other.vault.put(self.office.vault.get(sha256))
                theirs.merge(e)
        return other

    def packed(self, reference: str, who: Who | None = None, office: Office | None = None) -> Path:
        """The package of a case, kept for the test."""
        to = new_folder() / f"{reference}.zip"
        with package(office or self.office, who or self.maud, reference) as made:
            shutil.copyfile(made.path, to)
        return to

    def opened(self, file: Path) -> Path:
        """A package unpacked; the folder of the bag."""
        into = new_folder() / "bag"
        with zipfile.ZipFile(file) as archive:
            archive.extractall(into)
        (folder,) = into.iterdir()
        return folder

    def changed(self, file: Path, change: Callable[[Path], None], sealed_again: bool = True) -> Path:
        """A package after somebody had a hand in it; its checksums made anew, unless the hand was clumsy."""
        folder = self.opened(file)
        change(folder / "data")
        if sealed_again:
            bagit.Bag(str(folder)).save(manifests=True)
        to = folder.with_suffix(".zip")
        with zipfile.ZipFile(to, "w") as archive:
            for path in sorted(folder.rglob("*")):
                archive.write(path, f"{folder.name}/{path.relative_to(folder)}")
        return to

    def refused(self, office: Office, file: Path) -> str:
        """Why a package is not read in, and that nothing of it was."""
        with self.assertRaises(OfficeError) as wrong:
            read_in(office, LEAD, file)
        with read_session(office.engine) as session:
            self.assertEqual((0, 0), tuple(session.scalar(select(func.count()).select_from(t)) for t in (Case, HistoryEntry)))
        return wrong.exception.detail

    def test_each_kind_is_valid_by_the_standards_own_readers(self) -> None:
        for kind in KINDS:
            with self.subTest(kind):
                folder = self.opened(self.packed(self.of_kind[kind]))
                bag = bagit.Bag(str(folder))
                bag.validate()
                self.assertEqual(["sha256"], bag.algorithms)
                data = folder / "data"
                told = json.loads((data / "case.json").read_text("utf-8"))
                schema = json.loads((data / "schemas" / "case-1.schema.json").read_text("utf-8"))
                jsonschema.Draft202012Validator.check_schema(schema)
                jsonschema.validate(told, schema, jsonschema.Draft202012Validator)
                xmlschema.validate(data / "case.xml", data / "schemas" / "case-1.xsd")
                root = etree.parse(data / "case.xml").getroot()
                self.assertEqual(told["origin"]["last_hash"], root.find("{*}origin").get("last_hash"))  # type: ignore[union-attr]
                self.assertEqual(len(told["history"]), len(root.findall("{*}entry")))
                with pikepdf.open(data / "papers.pdf") as papers, papers.open_outline() as outline:
                    self.assertEqual(1 + len(told["files"]), len(outline.root))
                    sheets = len(papers.pages)
                said = subprocess.run(["pdfinfo", data / "papers.pdf"], capture_output=True, text=True, check=True).stdout
                self.assertIn(f"Pages:           {sheets}", said)

    def test_a_second_office_says_the_same_and_hands_the_same_on(self) -> None:
        other = self.another()
        for kind in KINDS:
            with self.subTest(kind):
                file = self.packed(self.of_kind[kind])
                here = load_case(self.office, self.maud, self.of_kind[kind])
                found = look_into(other, file)
                self.assertEqual((here.case.reference, True, ""), (found.reference, found.goes_on, found.why_kept))
                taken = read_in(other, LEAD, file, found.last_hash[:10].upper())
                self.assertTrue(taken.goes_on)
                there = load_case(other, LEAD, taken.reference)
                self.assertEqual(told_of(here), told_of(there))
                self.assertEqual(here.history.versions, there.history.versions)
                self.assertEqual(here.history.entries, there.history.entries[:-1])
                self.assertEqual([], list(verify(other, taken.reference)))
                # it is handed on once more
                first, second = (self.told(f) for f in (file, self.packed(taken.reference, LEAD, other)))
                self.assertEqual(first.versions, second.versions)
                self.assertEqual(first.history, second.history[:-1])
                self.assertEqual({f.sha256 for f in first.files}, {f.sha256 for f in second.files})
                self.assertEqual([first.origin], list(second.came_from))
                entry = there.history.entries[-1]
                assert isinstance(entry, ReadIn)
                self.assertEqual((here.case.reference, self.office.name), (entry.reference, entry.office))
                self.assertIn(f"read it in from {self.office.name}", look_at(other, LEAD, taken.reference).story[-1].text)
        self.assertEqual([], list(verify(other)))

    def told(self, file: Path) -> CasePackage:
        with zipfile.ZipFile(file) as archive:
            (name,) = (n for n in archive.namelist() if n.endswith("data/case.json"))
            return CasePackage.model_validate_json(archive.read(name))

    def test_it_goes_on_there_and_is_found_by_its_old_reference(self) -> None:
        with read_session(self.office.engine) as session:
            wanted = select(Case.reference).where(Case.state == "Being checked", Case.kind == "BW")
            reference = session.scalars(wanted.order_by(Case.reference)).first() or ""
        other = self.another()
        taken = read_in(other, LEAD, self.packed(reference))
        officer = Who("brisa", "Brisa Quay", "officer")
        self.assertEqual("", load_case(other, LEAD, taken.reference).so_far.officer)
        wanting = next(r for r in load_case(other, officer, taken.reference).assessment.requirements if r.asked and not r.judged)
        checking.judge(other, officer, taken.reference, wanting.id, "met", "Looked at.")
        self.assertEqual([], list(verify(other, taken.reference)))
        self.assertEqual([taken.reference], [row.reference for row in search(other, LEAD, reference)])
        self.assertIn("here already", self.why_not(other, self.packed(reference)))

    def why_not(self, office: Office, file: Path) -> str:
        with self.assertRaises(Invalid) as wrong:
            read_in(office, LEAD, file)
        return wrong.exception.detail

    def test_a_third_office_without_the_edition_keeps_it_as_it_came(self) -> None:
        other, reference = self.another("TL"), self.of_kind["TL"]
        file = self.packed(reference)
        found = look_into(other, file)
        self.assertFalse(found.goes_on)
        self.assertIn("is not published here", found.why_kept)
        taken = read_in(other, LEAD, file)
        self.assertEqual(PackageTaken(taken.reference, False), taken)
        view, told = kept_view(other, LEAD, taken.reference), self.told(file)
        self.assertEqual([(s.at, s.text) for s in told.steps], [(s.at, s.text) for s in view.steps])
        self.assertEqual([a.value for a in told.answers], [a.value for a in view.answers])
        whole = next(f for f in view.files if f.name.endswith("package.zip"))
        self.assertEqual(file.read_bytes(), other.vault.get(kept_file(other, LEAD, taken.reference, whole.sha256).sha256))
        self.assertEqual([taken.reference], [row.reference for row in search(other, LEAD, reference)])
        with self.assertRaises(NotFound):
            load_case(other, LEAD, taken.reference)
        self.assertEqual([], list(verify(other)))
        self.assertIn("here already", self.why_not(other, file))

    def test_the_applicants_package_leaves_out_what_is_the_offices_own(self) -> None:
        with read_session(self.office.engine) as session:
            own = select(Case.reference).where(Case.applicant_id == "odalys", Case.state == "Being checked")
            reference = session.scalars(own.order_by(Case.reference)).first() or ""
        talking.note(self.office, self.imre, reference, "Seems to know the surveyor.")
        file = self.packed(reference, self.odalys)
        folder, told = self.opened(file), self.told(file)
        bagit.Bag(str(folder)).validate()
        xmlschema.validate(folder / "data" / "case.xml", SCHEMA)
        whole = b"".join(p.read_bytes() for p in folder.rglob("case.*"))
        self.assertNotIn(b"surveyor", whole)
        self.assertEqual("applicant", told.made_for)
        withheld = [e for e in told.history if e.body is None]
        self.assertTrue(withheld)
        with read_session(self.office.engine) as session:
            rows = session.scalars(
                select(HistoryEntry).join(Case, Case.id == HistoryEntry.case_id).where(Case.reference == reference)
            )
            self.assertEqual([r.hash for r in rows.all()], [e.hash for e in told.history])
        self.assertEqual((), told.readings)
        why = self.refused(self.another(), file)
        self.assertIn("made for the applicant", why)
        self.assertNotIn("damaged", why)
        with self.assertRaises(NotFound):
            self.packed(reference, Who("nobody", "Nobody", "applicant"))

    def test_only_a_lead_reads_in(self) -> None:
        with self.assertRaises(NotAllowed):
            read_in(self.another(), Who("brisa", "Brisa Quay", "officer"), self.packed(self.of_kind["BW"]))

    def test_what_is_damaged_or_forged_is_refused_with_the_reason(self) -> None:
        other, file = self.another(), self.packed(self.of_kind["BW"])

        def edit(change: Callable[[dict[str, Any]], None]) -> Callable[[Path], None]:
            def made(data: Path) -> None:
                told = json.loads((data / "case.json").read_text("utf-8"))
                change(told)
                (data / "case.json").write_text(json.dumps(told), "utf-8")
                (data / "case.xml").write_bytes(as_xml(CasePackage.model_validate(told)))

            return made

        def a_letter(data: Path) -> Path:
            return sorted((data / "papers").iterdir())[0]

        def judged(told: dict[str, Any]) -> None:
            entry = next(e for e in told["history"] if '"judged"' in e["body"])
            entry["body"] = entry["body"].replace('"met"', '"waived"').replace('"wanting"', '"met"')

        def answered(told: dict[str, Any]) -> None:
            version = told["versions"][0]
            filed = json.loads(version["dossier"])
            part = next(p for p in filed["answers"].values() if isinstance(p, dict) and p)
            part[next(iter(part))] = "another"
            version["dossier"] = canonical(filed)

        cases: list[tuple[str, Callable[[Path], None], bool, str]] = [
            ("a changed paper", lambda d: a_letter(d).write_bytes(b"%PDF-1.4 another"), False, "was changed, its checksum"),
            ("a paper that is gone", lambda d: a_letter(d).unlink(), False, "is missing"),
            ("one too many", lambda d: (d / "more.txt").write_text("x"), False, "data/more.txt does not belong"),
            (
                "a changed paper, sealed again",
                lambda d: a_letter(d).write_bytes(b"%PDF-1.4 another"),
                True,
                "is another one than",
            ),
            ("a paper gone, sealed again", lambda d: a_letter(d).unlink(), True, "is not there"),
            ("a changed standing", edit(judged), True, "does not fit the chain"),
            ("a changed answer", edit(answered), True, "version 1 of"),
            ("an entry cut out", edit(lambda t: t["history"].pop(1)), True, "not numbered from 1"),
            ("an entry cut off", edit(lambda t: t["history"].pop()), True, "not numbered from 1"),
            (
                "the origin's last hash",
                edit(lambda t: t["origin"].update(last_hash="0" * 64)),
                True,
                "not the one that its origin",
            ),
            ("no JSON", lambda d: (d / "case.json").write_text("{"), True, "case.json"),
            ("a key too many", lambda d: _add_key(d), True, "Extra inputs"),
            ("no case", lambda d: (d / "case.json").unlink(), True, "case.json or case.xml is missing"),
            ("XML with entities", _with_entities, True, "declares a document type"),
            ("XML that says otherwise", _otherwise, True, "does not say what case.json says"),
            ("XML against its schema", _against_schema, True, "case.xml"),
            ("a paper that leads elsewhere", edit(lambda t: t["files"][0].update(path="../../x")), True, "is not there"),
        ]
        for name, change, sealed_again, why in cases:
            with self.subTest(name):
                self.assertIn(why, self.refused(other, self.changed(file, change, sealed_again)))
        broken = new_folder() / "broken.zip"
        broken.write_bytes(file.read_bytes()[:-4000])
        self.assertIn("no ZIP archive", self.refused(other, broken))
        broken.write_bytes(b"%PDF-1.4")
        self.assertIn("no ZIP archive", self.refused(other, broken))
        whole = bytearray(file.read_bytes())
        whole[len(whole) // 3] ^= 0xFF
        broken.write_bytes(whole)
        self.refused(other, broken)
        for name, told in (
            ("../evil.txt", "leads elsewhere"),
            ("/etc/x", "leads elsewhere"),
            ("one/a.txt", "bagit.txt is missing"),
        ):
            with zipfile.ZipFile(broken, "w") as archive:
                archive.writestr(name, "x")
            self.assertIn(told, self.refused(other, broken))
        with zipfile.ZipFile(broken, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("one/zeros", bytes(200_000_000))
        self.assertIn("more than can be taken", self.refused(other, broken))
        with self.assertRaises(Invalid) as wrong:
            read_in(other, LEAD, file, "0123456789")
        self.assertIn("another hash", wrong.exception.detail)
        self.assertTrue(read_in(other, LEAD, file).goes_on)

    def test_the_same_edition_with_another_calendar_is_not_the_same(self) -> None:
        other = self.another("BW")
        reference = self.of_kind["BW"]
        sha256 = load_case(self.office, self.maud, reference).case.edition_sha256
        with read_session(self.office.engine) as session:
            edition = session.get_one(PublishedEdition, sha256)
        calendar = self.office.vault.get(edition.calendar_sha256) + b"\n# a day more\n"
        publish_text(other, self.office.vault.get(sha256).decode(), "BW", calendar, read_calendar(calendar.decode(), "c"))
        taken = read_in(other, LEAD, self.packed(reference))
        self.assertFalse(taken.goes_on)


def _add_key(data: Path) -> None:
    told = json.loads((data / "case.json").read_text("utf-8"))
    (data / "case.json").write_text(json.dumps(told | {"surprise": 1}), "utf-8")


def _with_entities(data: Path) -> None:
    content = (data / "case.xml").read_text("utf-8")
    head, _, rest = content.partition("\n")
    entity = '<!DOCTYPE case [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;"><!ENTITY x SYSTEM "file:///etc/passwd">]>'
    (data / "case.xml").write_text(f"{head}\n{entity}\n{rest}".replace("<title>", "<title>&b;&x;"), "utf-8")


def _otherwise(data: Path) -> None:
    content = (data / "case.xml").read_text("utf-8")
    (data / "case.xml").write_text(content.replace("<title>", "<title>Another "), "utf-8")


def _against_schema(data: Path) -> None:
    content = (data / "case.xml").read_text("utf-8")
    (data / "case.xml").write_text(content.replace("<kind>BW</kind>", "<kind>building</kind>"), "utf-8")
