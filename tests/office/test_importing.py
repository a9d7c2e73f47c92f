"""Cases from elsewhere: taken as our own if our rules agree, kept as they came if they ended, refused with the reason otherwise."""

from __future__ import annotations

import io
import json
import shutil
from pathlib import Path
from typing import Any
from unittest.mock import patch

from sqlalchemy import func, select

from jolly_clerk.core.reference import is_reference, make_reference, number_in
from jolly_clerk.office.cases import lists
from jolly_clerk.office.cases.casework import Loaded, load_case
from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.keeping import erasing, importing
from jolly_clerk.office.keeping.importing import Imported, import_cases
from jolly_clerk.office.keeping.packing import package
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import Office, Who, open_office
from jolly_clerk.office.people import accounts
from jolly_clerk.office.preparing import filing
from jolly_clerk.office.views.kept import kept_file, kept_view
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Person
from tests.folders import new_folder
from tests.helpers import sqlite_only
from tests.office.test_journey import ROOF, SMALL_PLAN, Cases

KEPT: dict[str, Any] = {
    "reference": "BA/1998/77",
    "kind": "BW",
    "title": "Lime kiln at Marram Point",
    "state": "Granted",
    "filed_at": "1998-03-02T09:00:00+00:00",
    "changed_at": "1999-01-05T12:00:00+00:00",
    "applicant": {"name": "Wenna Tregar", "mail": "wenna@tregar.example"},
    "kept": True,
    "answers": [{"label": "Place", "value": "Marram Point 3"}, {"label": "Account", "value": "The kiln burns limestone. " * 20}],
    "steps": [{"at": "1998-03-03T10:00:00+00:00", "text": "Inspected by the harbour engineer", "who": "A. Clerk"}],
    "files": [{"name": "kiln.pdf", "path": "kiln.pdf"}],
}


def line_of(loaded: Loaded, number: int = 77) -> dict[str, Any]:
    """A case of ours as a line, as another office of ours would give it; its files are ``0.pdf``, ``1.pdf`` and so on."""
    case, account = loaded.case, loaded.assessment.account
    named = []
    for n, a in enumerate(loaded.dossier.attachments):
        named.append({"name": a.name, "path": f"{n}.pdf"})
    return {
        "reference": make_reference(case.kind, 2026, number),
        "kind": case.kind,
        "title": case.title,
        "state": case.state,
        "filed_at": case.filed_at.isoformat(),
        "changed_at": case.changed_at.isoformat(),
        "applicant": {"name": "Wenna Tregar", "mail": "wenna@tregar.example"},
        "versions": [
            {"no": v.no, "at": v.at.isoformat(), "dossier": v.dossier.model_dump(mode="json")} for v in loaded.history.versions
        ],
        "entries": [
            e.model_dump(mode="json") | ({"who": "applicant"} if e.who == "odalys" else {}) for e in loaded.history.entries
        ],
        "files": named,
        "paid": str(account.paid),
        "open": str(account.open),
    }


def package_of_another(office: Office, who: Who, loaded: Loaded) -> Path:
    """The package of a case that another office has, with the answers and files of ``loaded``, and this one has not."""
    folder, to = new_folder() / "other", new_folder() / "of-another-office.zip"
    line = line_of(loaded)
    shutil.copytree(office.folder, folder)
    for n, a in enumerate(loaded.dossier.attachments):
        (folder / f"{n}.pdf").write_bytes(office.vault.get(a.sha256))
    report = io.StringIO()
    list(import_cases(folder, io.StringIO(json.dumps(line)), folder, report, 0))
    assert not report.getvalue(), report.getvalue()
    other = open_office(folder, now=office.now)
    with package(other, who, line["reference"]) as packed:
        shutil.copyfile(packed.path, to)
    other.close()
    return to


class Importing(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.files = self.folder / "came"
        self.files.mkdir()
        (self.files / "kiln.pdf").write_bytes(ROOF + b"%kiln")

    def take(self, *lines: Any) -> tuple[Imported, list[dict[str, Any]]]:
        """Take lines in; what came of it, and the report."""
        given = io.StringIO("\n".join(line if isinstance(line, str) else json.dumps(line) for line in lines))
        report = io.StringIO()
        done = [Imported(), *import_cases(self.folder, given, self.files, report, 0, self.url)][-1]
        return done, [json.loads(line) for line in report.getvalue().splitlines()]

    def test_what_ended_is_kept_as_it_came_shown_found_and_verified(self) -> None:
        done, refused = self.take(KEPT)
        self.assertEqual((done.kept, done.taken, refused), (1, 0, []))
        view = kept_view(self.office, self.imre, "BA/1998/77")
        self.assertEqual((view.title, view.state, view.applicant), ("Lime kiln at Marram Point", "Granted", "Wenna Tregar"))
        self.assertEqual([(s.text, s.who) for s in view.steps], [("Inspected by the harbour engineer", "A. Clerk")])
        self.assertTrue(self.office.vault.get(kept_file(self.office, self.imre, "BA/1998/77", view.files[0].sha256).sha256))
        for words in ("BA/1998/77", "tregar wenna", "marram point", "limestone", "harbour engineer", "kiln.pdf"):
            rows = lists.search(self.office, self.imre, words)
            self.assertEqual([(r.reference, r.kept, r.state) for r in rows], [("BA/1998/77", True, "Granted")], words)
        self.assertEqual(list(verify(self.office)), [])
        with self.assertRaisesRegex(NotFound, "kept as it came"):
            load_case(self.office, self.imre, "BA/1998/77")
        with self.assertRaises(NotFound):
            kept_view(self.office, self.tamsin, "BA/1998/77")

    def test_its_applicant_sees_it_with_an_account_of_that_address(self) -> None:
        self.take(KEPT)
        with read_session(self.office.engine) as session:
            person = session.scalars(select(Person).where(Person.mail == "wenna@tregar.example")).one()
        wenna = accounts.who_of(person)
        self.assertEqual([(p.place, p.count) for p in lists.my_cases(self.office, wenna)][-1], ("closed", 1))
        self.assertEqual(kept_view(self.office, wenna, "BA/1998/77").title, "Lime kiln at Marram Point")

    def test_what_was_changed_in_it_is_named(self) -> None:
        self.take(KEPT)
        from jolly_clerk.store.beside import KeptCase

        with write_session(self.office.engine) as session:
            kept = session.scalars(select(KeptCase)).one()
            kept.told = kept.told.replace("Marram Point 3", "Marram Point 4")
        self.assertEqual(list(verify(self.office)), ["BA/1998/77, kept as it came, was changed"])

    def test_one_of_our_own_goes_on_living(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        loaded = load_case(self.office, self.imre, reference)
        for n, a in enumerate(loaded.dossier.attachments):
            (self.files / f"{n}.pdf").write_bytes(self.office.vault.get(a.sha256))
        line = line_of(loaded)
        done, refused = self.take(line)
        self.assertEqual((done.taken, refused), (1, []))
        came = load_case(self.office, self.imre, line["reference"])
        self.assertEqual((came.assessment.state, came.so_far.paid), ("Being checked", loaded.so_far.paid))
        self.assertEqual([r.id for r in came.assessment.requirements], [r.id for r in loaded.assessment.requirements])
        checking.judge(self.office, self.imre, line["reference"], "documents.site_plan", "wanting")
        sent = checking.send_letter(self.office, self.imre, line["reference"])
        self.assertEqual(sent.assessment.state, "Answers wanted")
        self.assertEqual([m for m in verify(self.office) if "receipt" not in m], [])
        self.assertTrue(is_reference(new := filing.file(self.office, self.odalys, self.draft(), take_gaps=True)))
        self.assertEqual(number_in(new), ("BW", 2026, 78), "numbers go on after the highest that came")

    def test_what_is_refused_and_why(self) -> None:
        reference = self.filed()
        loaded = load_case(self.office, self.imre, reference)
        for n, a in enumerate(loaded.dossier.attachments):
            (self.files / f"{n}.pdf").write_bytes(self.office.vault.get(a.sha256))
        ours = line_of(loaded)
        wrong: list[tuple[Any, str]] = [
            ("{not json", "Invalid JSON"),
            ("[]", "should be an object"),
            (KEPT | {"state": "Filed"}, "is no end"),
            (KEPT | {"state": "Done"}, "state:"),
            (KEPT | {"reference": "x"}, "reference:"),
            (KEPT | {"colour": "red"}, "colour: Extra inputs"),
            (KEPT | {"changed_at": "1990-01-01T00:00:00+00:00"}, "changed before it was filed"),
            (KEPT | {"files": [{"name": "x", "path": "none.pdf"}]}, "none.pdf is not there"),
            (KEPT | {"files": [{"name": "x", "path": "../office.toml"}]}, "is not there"),
            (KEPT | {"applicant": {"name": "", "mail": ""}}, "Write the name"),
            (KEPT | {"applicant": {"name": "Wenna", "mail": "a@["}}, "no mail address"),
            (ours | {"state": "Being checked"}, "By our rules the state is Filed, not Being checked"),
            (ours | {"paid": "1.00"}, "By our rules what was paid is 438.18, not 1.00"),
            (ours | {"open": "5.00"}, "what is open"),
            (ours | {"entries": ours["entries"][1:]}, "begin with the filing"),
            (ours | {"entries": []}, "gives its versions and its entries"),
            (ours | {"files": []}, "names a file that did not come"),
            (ours | {"kind": "ZZ"}, "No rulebook of kind ZZ"),
        ]
        done, refused = self.take(*(line for line, _ in wrong))
        self.assertEqual((done.taken, done.kept, done.refused), (0, 0, len(wrong)))
        for (_, why), told in zip(wrong, refused, strict=True):
            with self.subTest(why):
                self.assertIn(why, told["why"])
        self.assertEqual([told["line"] for told in refused], list(range(1, len(wrong) + 1)))
        self.assertEqual([told["reference"] for told in refused[:5]], ["", "", KEPT["reference"], KEPT["reference"], "x"])
        with read_session(self.office.engine) as session:
            self.assertEqual(session.scalar(select(func.count()).select_from(Case)), 1)

    def test_one_that_was_stopped_is_begun_again(self) -> None:
        lines = [KEPT | {"reference": f"BA/1998/{n}"} for n in range(100, 110)]
        self.take(*lines[:6])
        done, refused = self.take(*lines)
        self.assertEqual((done.kept, done.refused), (4, 6))
        self.assertEqual({r["why"] for r in refused}, {"There is a case of this reference already."})
        self.assertEqual(done.reasons, {"There is a case of this reference already.": 6})
        self.assertEqual(list(verify(self.office)), [])

    @sqlite_only
    def test_the_log_of_the_database_does_not_grow_with_the_import(self) -> None:
        given = io.StringIO("\n".join(json.dumps(KEPT | {"reference": f"BA/1998/{n}"}) for n in range(100, 112)))
        log, sizes = self.folder / "office.db-wal", list[int]()
        with patch.multiple(importing, CHUNK=2, SHRUNK=3), self.office.engine.connect():
            for _ in import_cases(self.folder, given, self.files, io.StringIO(), 0, self.url):
                sizes.append(log.stat().st_size)
        self.assertEqual([size == 0 for size in sizes], [False, False, True] * 2)

    def test_what_is_past_its_time_is_erased_like_any_other(self) -> None:
        self.take(KEPT)
        (due,) = erasing.erasing(self.office, self.maud).due
        self.assertEqual((due.reference, str(due.kept_until)), ("BA/1998/77", "2009-01-05"))
        erasing.put_on_the_list(self.office, self.maud, "BA/1998/77", "Its time is over.")
        (waits,) = erasing.erasing(self.office, self.imre).waiting
        erasing.confirm(self.office, self.imre, waits.id)
        self.assertEqual(lists.search(self.office, self.imre, "kiln"), ())
        with self.assertRaises(NotFound):
            kept_view(self.office, self.imre, "BA/1998/77")
        self.assertEqual(list(verify(self.office)), [])
