"""SQLite and PostgreSQL: the same rules hold on both, and an office is carried from one to the other."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from sqlalchemy import func, select

from jolly_clerk.office.cases import lists
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, talking
from jolly_clerk.office.errors import Invalid, OfficeError
from jolly_clerk.office.keeping.backup import back_up, restore
from jolly_clerk.office.keeping.moving import move_to
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.preparing import filing
from jolly_clerk.office.rules.replaying import replay
from jolly_clerk.office.settings import read_settings
from jolly_clerk.store.beside import Look
from jolly_clerk.store.database import is_postgres, next_number, read_session, write_session
from jolly_clerk.store.lease import Lease
from jolly_clerk.store.tables import Base, Case
from tests import postgres
from tests.helpers import EDITION, postgres_only
from tests.office.test_journey import SMALL_PLAN, Cases


class SameRules(Cases):
    def test_numbers_have_no_gap_and_none_comes_twice(self) -> None:
        def number(_: int) -> int:
            with write_session(self.office.engine) as session:
                return next_number(session, "tickets")

        with ThreadPoolExecutor(8) as pool:
            self.assertEqual(sorted(pool.map(number, range(60))), list(range(1, 61)))

    def test_two_processes_write_one_after_the_other(self) -> None:
        other = open_office(self.folder, now=lambda: self.instant, demo=True, database=self.url)
        self.addCleanup(other.engine.dispose)
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        before = load_case(self.office, self.imre, reference).entries

        def write(n: int) -> bool:
            try:
                talking.note((self.office, other)[n % 2], self.imre, reference, f"Note {n}")
            except OfficeError:
                return False
            return True

        with ThreadPoolExecutor(6) as pool:
            done = sum(pool.map(write, range(30)))
        self.assertGreater(done, 5)
        self.assertEqual(load_case(self.office, self.imre, reference).entries, before + done)
        self.assertEqual(list(verify(self.office)), [])

    def test_replay_and_rebuild(self) -> None:
        reference = self.filed()
        self.assertEqual(rebuild(self.office), 0)
        told = list(replay(self.folder, EDITION, 1))
        self.assertIn(reference, str(told))

    def test_a_look_sees_one_state(self) -> None:
        with read_session(self.office.engine) as session:
            count = session.scalar(select(func.count()).select_from(Look))
            with ThreadPoolExecutor(1) as pool:
                pool.submit(self.filed).result()
                pool.submit(self.look).result()
            self.assertEqual(session.scalar(select(func.count()).select_from(Look)), count)

    def look(self) -> None:
        with write_session(self.office.engine) as session:
            session.add(Look(at=self.instant, person_id="imre", what="list", reference="", detail=""))


@postgres_only
class Carried(Cases):
    """An office that grows out of its file, and back."""

    def rows(self, office: Office) -> dict[str, int]:
        with read_session(office.engine) as session:
            return {t.name: session.scalar(select(func.count()).select_from(t)) or 0 for t in Base.metadata.sorted_tables}

    def opened(self, folder: object = None) -> Office:
        office = open_office(folder or self.folder, now=lambda: self.instant, demo=True)  # type: ignore[arg-type]
        self.addCleanup(office.engine.dispose)
        return office

    def test_to_sqlite_and_back_again(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference, site_plan="wanting")
        checking.send_letter(self.office, self.imre, reference)
        filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        before = self.rows(self.office)
        self.refused_while_served(self.office, "sqlite")
        self.assertEqual(move_to(self.office, "sqlite"), [])
        self.assertEqual(read_settings(self.folder).database, "")
        lite = self.opened()
        self.assertFalse(is_postgres(lite.engine))
        self.refused_while_served(lite, self.url)
        self.assertEqual(self.rows(lite), before)
        self.assertEqual([r.reference for r in lists.search(lite, self.imre, "saltern slip")][-1], reference)
        with self.assertRaises(Invalid):
            move_to(lite, self.url)  # the old one is still there
        empty = postgres.new_database()
        self.addCleanup(postgres.drop_database, empty)
        self.assertEqual(move_to(lite, postgres.url(empty)), [])
        again = self.opened()
        self.assertTrue(is_postgres(again.engine))
        self.assertEqual(self.rows(again), before)
        self.assertEqual(load_case(again, self.imre, reference).assessment.state, "Answers wanted")
        talking.note(again, self.imre, reference, "It goes on counting.")
        self.look(again)
        self.assertEqual(list(verify(again)), [])
        with self.assertRaises(Invalid):
            move_to(again, postgres.url(empty))

    def refused_while_served(self, office: Office, where: str) -> None:
        serving = Lease(office.engine, office.folder)
        self.assertTrue(serving.holds())
        with self.assertRaisesRegex(Invalid, "This office is being served"):
            move_to(office, where)
        serving.release()

    def look(self, office: Office) -> None:
        with write_session(office.engine) as session:
            session.add(Look(at=self.instant, person_id="imre", what="list", reference="", detail=""))

    def test_a_copy_and_an_office_from_it(self) -> None:
        reference = self.filed()
        archive = self.folder / "copy.tar"
        back_up(self.office, archive)
        with self.assertRaisesRegex(Invalid, "name an empty database"):
            restore(archive, self.folder / "new")
        with self.assertRaisesRegex(Invalid, "not empty"):
            restore(archive, self.folder / "new", database=self.url)
        self.assertFalse((self.folder / "new").exists())
        empty = postgres.new_database()
        self.addCleanup(postgres.drop_database, empty)
        self.assertEqual(restore(archive, self.folder / "new", database=postgres.url(empty)), [])
        new = self.opened(self.folder / "new")
        self.assertTrue(is_postgres(new.engine))
        self.assertEqual(load_case(new, self.imre, reference).assessment.state, "Filed")
        run_clock(new)
        with read_session(new.engine) as session:
            self.assertEqual(session.scalar(select(func.count()).select_from(Case)), 1)
