"""Who looked is noted; what is past its time is erased by two people, the chain still verifies, and what is kept is kept."""

from __future__ import annotations

import io
import json
import zipfile
from datetime import date
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import select, text

from jolly_clerk.core.keeping import kept_until
from jolly_clerk.office.cases import lists, notices, paying
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, reviewing, talking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.keeping import erasing, looks
from jolly_clerk.office.keeping.backup import back_up, restore
from jolly_clerk.office.keeping.copying import copy_of
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import attaching, drafts, filing
from jolly_clerk.shelf.rulebooks import read_rulebook
from jolly_clerk.store.beside import Erasure, FileUse, Look, SearchRow
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Base, Draft, HistoryEntry, Outgoing, Person, StoredFile
from tests.helpers import BW, EDITION
from tests.office.test_journey import ROOF, SMALL_PLAN, Cases
from tests.web.test_web import WebTest

SECRET = "The lighthouse keeper is ill"


def dumped(office: Office) -> str:
    """Every row of every table, as text."""
    with read_session(office.engine) as session:
        return "\n".join(str(row) for table in Base.metadata.sorted_tables for row in session.execute(select(table)))


class Looking(WebTest):
    def seen(self, **of: str) -> list[tuple[str, str, str]]:
        return [(n.who, n.what, n.detail) for n in looks.seen(self.office, **of)]

    def test_each_way_of_looking_is_noted(self) -> None:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        client = self.client("maud")
        view = client.get(f"/api/cases/{reference}").json()
        sha256 = view["versions"][0]["files"][0]["attachment"]["sha256"]
        for path in (f"files/{sha256}", "papers/1", "summary"):
            self.assertEqual(client.get(f"/api/cases/{reference}/{path}").status_code, 200)
        client.get("/api/search", params={"words": "odalys"})
        client.get("/api/tray", params={"whose": "everyone's"})
        self.assertEqual(client.post(f"/api/cases/{reference}/notes", json={"text": "x"}).status_code, 200)
        noted = self.seen(reference=reference)
        self.assertEqual({what for _, what, _ in noted}, {"case", "file", "paper", "summary", "found"})
        self.assertIn(("Maud Ferrier", "file", "plan.pdf"), noted)
        self.assertIn(("Maud Ferrier", "found", "odalys"), noted)
        every = self.seen(person="maud")
        self.assertIn(("Maud Ferrier", "search", "odalys"), every)
        self.assertIn(("Maud Ferrier", "list", "everyone's"), every)

    def test_a_look_that_is_refused_is_none(self) -> None:
        reference = self.filed()
        self.assertEqual(self.client("tamsin").get(f"/api/cases/{reference}").status_code, 404)
        self.assertEqual(self.seen(person="tamsin"), [])

    def test_a_window_that_looks_again_is_noted_once_a_minute(self) -> None:
        reference, client = self.filed(), self.client("imre")
        for _ in range(5):
            client.get(f"/api/cases/{reference}")
        self.assertEqual(len(self.seen(reference=reference)), 1)
        self.move_to(2026, 11, 5, 10, 2)
        client.get(f"/api/cases/{reference}")
        self.assertEqual(len(self.seen(reference=reference)), 2)

    def test_only_leads_and_auditors_see_who_looked(self) -> None:
        reference = self.filed()
        for person, status in (("maud", 200), ("anselm", 200), ("imre", 403), ("odalys", 403), ("silas", 404), ("tamsin", 404)):
            self.assertEqual(self.client(person).get(f"/api/cases/{reference}/looks").status_code, status, person)

    def test_a_look_is_not_held_up_but_ends_when_none_can_be_noted_for_a_minute(self) -> None:
        reference, client = self.filed(), self.client("imre")
        with self.office.engine.begin() as connection:
            connection.execute(text("alter table looks rename to elsewhere"))
        self.assertEqual(client.get(f"/api/cases/{reference}").status_code, 200)
        before, looks.PATIENCE = looks.PATIENCE, -1.0
        self.addCleanup(setattr, looks, "PATIENCE", before)
        refused = client.get("/api/search", params={"words": "odalys"})
        self.assertEqual(refused.status_code, 503)
        with self.office.engine.begin() as connection:
            connection.execute(text("alter table elsewhere rename to looks"))
        looks.looks_of(self.office).write()
        self.assertEqual(client.get("/api/search", params={"words": "odalys"}).status_code, 200)
        self.assertIn(("Imre Holt", "case", ""), self.seen(reference=reference))

    def test_the_server_writes_them_beside_the_requests(self) -> None:
        reference = self.filed()
        with TestClient(self.app) as client:
            client.cookies = self.client("imre").cookies
            client.get(f"/api/cases/{reference}")
        self.assertEqual(self.seen(reference=reference), [("Imre Holt", "case", "")])


class Past(Cases):
    """Cases that ended long ago."""

    def setUp(self) -> None:
        super().setUp()
        self.silas = add_person(self.office, "silas", "Silas Thorne", "reviewer")

    def refused(self, **changes: object) -> str:
        reference = self.filed(**changes)
        talking.write(self.office, self.odalys, reference, SECRET, [("letter.pdf", ROOF + b"%own")])
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference)
        checking.accept(self.office, self.imre, reference)
        reviewing.hand_over(self.office, self.imre, reference, "silas")
        reviewing.refuse(self.office, self.silas, reference, "It cannot be.")
        return reference

    def granted(self) -> str:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference)
        checking.accept(self.office, self.imre, reference)
        reviewing.hand_over(self.office, self.imre, reference, "silas")
        reviewing.grant(self.office, self.silas, reference)
        at = paying.ask_payment(self.office, self.odalys, reference)
        notices.at_stand_in(self.office, self.odalys, at.key, "approved")
        return reference

    def erase(self, reference: str) -> None:
        erasing.put_on_the_list(self.office, self.maud, reference, "Its time is over.")
        (waits,) = erasing.erasing(self.office, self.imre).waiting
        erasing.confirm(self.office, self.imre, waits.id)

    def whole_database(self) -> str:
        """Everything that stands in the database, as text."""
        return dumped(self.office)


class Erasing(Past):
    def test_the_time_of_keeping(self) -> None:
        living, over = self.filed(), self.refused()
        self.assertIsNone(kept_until(self.said(living)))
        self.assertEqual(kept_until(self.said(over)), date(2036, 11, 5))
        self.assertEqual(str(BW.edition.keep), "10 years")
        text_ = EDITION.read_text("utf-8").replace("currency: EUR", "keep: 18 months\ncurrency: EUR", 1)
        self.assertEqual(str(read_rulebook(text_, "x").rulebook.edition.keep), "18 months")

    def test_not_before_its_time_nor_while_it_lives_and_only_by_two_people(self) -> None:
        living, over = self.filed(), self.refused()
        self.move_to(2036, 11, 5)
        for reference in (living, over):
            with self.assertRaises(NotReady):
                erasing.put_on_the_list(self.office, self.maud, reference, "Too early.")
        self.assertEqual(erasing.erasing(self.office, self.maud).due, ())
        self.move_to(2036, 11, 6, 1)
        self.assertEqual([d.reference for d in erasing.erasing(self.office, self.maud).due], [over])
        self.assertEqual(erasing.erasing(self.office, self.imre).due, ())
        for who in (self.imre, self.silas, self.anselm, self.odalys):
            with self.assertRaises(NotAllowed):
                erasing.put_on_the_list(self.office, who, over, "Not mine to say.")
        erasing.put_on_the_list(self.office, self.maud, over, "Its time is over.")
        with self.assertRaises(Invalid):
            erasing.put_on_the_list(self.office, self.maud, over, "Again.")
        (waits,) = erasing.erasing(self.office, self.maud).waiting
        self.assertTrue(waits.own)
        for who in (self.maud, self.silas, self.anselm, self.odalys):
            with self.assertRaises(NotAllowed):
                erasing.confirm(self.office, who, waits.id)
        erasing.take_off(self.office, self.imre, waits.id)
        with self.assertRaises(NotFound):
            erasing.confirm(self.office, self.imre, waits.id)
        self.assertEqual(self.said(over).state, "Refused")

    def test_what_goes_and_what_stays(self) -> None:
        reference = self.refused(place_address="99 Hidden Lane", plan=SMALL_PLAN)
        kept = self.refused()
        loaded = load_case(self.office, self.odalys, reference)
        with read_session(self.office.engine) as session:
            case_id = loaded.case.id
            own = set(session.scalars(select(FileUse.sha256).where(FileUse.case_id == case_id)))
            shared = own & set(session.scalars(select(FileUse.sha256).where(FileUse.case_id != case_id)))
        self.assertGreater(len(own - shared), 2)
        self.assertTrue(shared, "the sections are in both cases")
        self.assertIn("Hidden Lane", self.whole_database())
        self.move_to(2036, 12, 1)
        self.erase(reference)
        left = self.whole_database()
        for gone in ("Hidden Lane", SECRET):
            self.assertEqual(
                left.count(gone), 2 if gone == SECRET else 0, gone
            )  # the other case says it as well, and waits for a word
        self.assertEqual([self.office.vault.path(f).exists() for f in sorted(own - shared)], [False] * len(own - shared))
        self.assertTrue(all(self.office.vault.path(f).exists() for f in shared))
        self.assertEqual([m for m in self.office.post_room.items() if m.reference == reference], [])
        self.assertEqual(list(verify(self.office)), [])
        rebuild(self.office)
        run_clock(self.office)
        self.assertEqual(list(verify(self.office)), [])
        with self.assertRaisesRegex(NotFound, "was erased"):
            load_case(self.office, self.imre, reference)
        self.assertEqual(lists.search(self.office, self.imre, "hidden"), ())
        with read_session(self.office.engine) as session:
            bodies = list(session.scalars(select(HistoryEntry.body).where(HistoryEntry.case_id == case_id)))
            self.assertTrue(any('"receipt":"2026-00001"' in body for body in bodies))
            self.assertEqual(set(session.scalars(select(HistoryEntry.personal).where(HistoryEntry.case_id == case_id))), {None})
            self.assertEqual(set(session.scalars(select(Outgoing.text).where(Outgoing.case_id == case_id))), {""})
            self.assertIsNone(session.scalar(select(SearchRow.id).where(SearchRow.case_id == case_id)))
        self.assertEqual(self.said(kept).state, "Refused")

    def test_what_is_public_of_a_permit_stays(self) -> None:
        reference = self.granted()
        code = load_case(self.office, self.odalys, reference).so_far.issued
        assert code
        before = reviewing.check_permit(self.office, code.code)
        self.move_to(2037, 1, 5)
        self.erase(reference)
        self.assertEqual(reviewing.check_permit(self.office, code.code), before)

    def test_a_stop_between_the_rows_and_the_files_is_made_good(self) -> None:
        reference = self.refused(plan=SMALL_PLAN)
        self.move_to(2036, 12, 1)
        real = erasing.remove_files
        erasing.remove_files = lambda _: 0
        try:
            self.erase(reference)
        finally:
            erasing.remove_files = real
        with read_session(self.office.engine) as session:
            files = session.scalars(select(Erasure.files)).one()
        self.assertTrue(files and all(self.office.vault.path(f).exists() for f in files))
        self.office.tidied_at = None
        run_clock(self.office)
        self.assertFalse(any(self.office.vault.path(f).exists() for f in files))

    def test_an_older_copy_forgets_it_again(self) -> None:
        reference = self.refused(place_address="99 Hidden Lane")
        before, after = self.folder / "before.tar", self.folder / "after.tar"
        back_up(self.office, before)
        self.move_to(2036, 12, 1)
        self.erase(reference)
        back_up(self.office, after)
        for n, archive in enumerate((before, after)):
            folder = self.folder / f"new-{n}"
            self.assertEqual(restore(archive, folder, database=self.empty_database()), [])
            office = open_office(folder, now=lambda: self.instant)
            self.addCleanup(office.engine.dispose)
            with self.assertRaisesRegex(NotFound, "was erased"):
                load_case(office, self.imre, reference)
            self.assertNotIn("Hidden Lane", dumped(office))


class Persons(Past):
    def test_only_when_all_the_cases_are_erased(self) -> None:
        reference = self.refused()
        drafts.start_draft(self.office, self.odalys, "BW")
        with self.assertRaisesRegex(NotReady, reference):
            erasing.put_person_on_the_list(self.office, self.maud, "odalys", "She asked for it.")
        with self.assertRaises(NotFound):
            erasing.put_person_on_the_list(self.office, self.maud, "imre", "He is staff.")
        self.move_to(2036, 12, 1)
        self.erase(reference)
        erasing.put_person_on_the_list(self.office, self.maud, "odalys", "She asked for it.")
        (waits,) = erasing.erasing(self.office, self.imre).waiting
        self.assertEqual((waits.what, waits.called), ("person", "Odalys Renn"))
        erasing.confirm(self.office, self.imre, waits.id)
        self.assertNotIn("Odalys", self.whole_database())
        with read_session(self.office.engine) as session:
            self.assertEqual(list(session.scalars(select(Draft.id))), [])
            self.assertIsNotNone(session.get_one(Person, "odalys").left_at)
        self.assertEqual(list(verify(self.office)), [])

    def test_a_copy_of_all_that_is_held(self) -> None:
        reference = self.refused()
        talking.note(self.office, self.imre, reference, "An inner note")
        drafts.start_draft(self.office, self.odalys, "BW")
        looks.looked(self.office, self.imre, "case", reference)
        self.refused()
        made = io.BytesIO()
        count = copy_of(self.office, "odalys", made)
        with zipfile.ZipFile(made) as copy:
            names = copy.namelist()
            told: dict[str, Any] = {name: json.loads(copy.read(name)) for name in names if name.endswith(".json")}
            plan = copy.read(next(n for n in names if n.startswith(f"cases/{reference}/") and n.endswith("plan.pdf")))
        self.assertEqual(count, sum(not name.endswith(".json") for name in names))
        self.assertEqual(told["person.json"]["name"], "Odalys Renn")
        self.assertEqual(len(told["drafts.json"]), 1)
        self.assertEqual({n["by"] for n in told["looks.json"]}, {"imre"})
        self.assertEqual(told[f"cases/{reference}/versions.json"][0]["dossier"]["answers"]["place"]["address"], "4 Saltern Slip")
        self.assertEqual(told[f"cases/{reference}/case.json"]["messages"][0]["text"], SECRET)
        self.assertNotIn("An inner note", json.dumps(told))
        self.assertTrue(plan.startswith(b"%PDF"))


class Tidying(Cases):
    def test_files_of_a_draft_thrown_away_go_after_a_week(self) -> None:
        draft, other = self.draft(plan=SMALL_PLAN), self.draft()
        reference = filing.file(self.office, self.odalys, other, take_gaps=True)
        with read_session(self.office.engine) as session:
            files = set(session.scalars(select(StoredFile.sha256)))
        self.assertEqual(len(files), 3)
        drafts.throw_away(self.office, self.odalys, draft)
        kept = {a.sha256 for a in load_case(self.office, self.odalys, reference).dossier.attachments}
        for day, left in ((11, files), (13, kept)):
            self.move_to(2026, 11, day)
            run_clock(self.office)
            with read_session(self.office.engine) as session:
                self.assertEqual(set(session.scalars(select(StoredFile.sha256))), left)
            self.assertEqual(set(self.office.vault.all()) & files, left)
        self.assertEqual(list(verify(self.office)), [])

    def test_a_draft_that_nobody_changed_for_a_year_goes(self) -> None:
        old = self.draft()
        self.move_to(2027, 11, 4)
        new = drafts.start_draft(self.office, self.odalys, "BW")
        run_clock(self.office)
        with read_session(self.office.engine) as session:
            self.assertEqual(set(session.scalars(select(Draft.id))), {old, new})
        self.move_to(2027, 11, 7)
        run_clock(self.office)
        with read_session(self.office.engine) as session:
            self.assertEqual(set(session.scalars(select(Draft.id))), {new})

    def test_what_came_in_half_is_removed(self) -> None:
        import os

        half = self.office.vault.folder / "incoming-x"
        half.write_bytes(b"%PDF")
        run_clock(self.office)
        self.assertTrue(half.exists())
        os.utime(half, (0, 0))
        self.move_to(2026, 11, 7)
        run_clock(self.office)
        self.assertFalse(half.exists())

    def test_old_looks_are_forgotten(self) -> None:
        looks.looked(self.office, self.imre, "list")
        self.move_to(2028, 11, 3)
        run_clock(self.office)
        with read_session(self.office.engine) as session:
            self.assertEqual(len(list(session.scalars(select(Look)))), 1)
        self.move_to(2028, 11, 6)
        run_clock(self.office)
        with read_session(self.office.engine) as session:
            self.assertEqual(list(session.scalars(select(Look))), [])

    def test_a_file_attached_again_meanwhile_stays(self) -> None:
        draft = self.draft()
        drafts.throw_away(self.office, self.odalys, draft)
        self.move_to(2026, 11, 20)
        again = drafts.start_draft(self.office, self.odalys, "BW")
        attaching.attach(self.office, self.odalys, again, "sections", "sections.pdf", ROOF)
        run_clock(self.office)
        one = drafts.open_draft(self.office, self.odalys, again).dossier.attachments[0]
        self.assertTrue(self.office.vault.path(one.sha256).exists())
