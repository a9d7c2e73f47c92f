"""Lists stay true and short however many cases there are: pages by key, counts by SQL, the clock by its next look, search by index."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from typing import Any, get_args

from sqlalchemy import event, func, select, update

from jolly_clerk.core.searching import folded, sought
from jolly_clerk.core.urgency import days_left, group_of, week_from
from jolly_clerk.office.cases import clock_job, in_tray, lists
from jolly_clerk.office.cases.casework import load_case, projection
from jolly_clerk.office.desk import checking, talking
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import attaching, drafts, filing, signing
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.beside import SearchRow
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import NO_LIMIT, Case, Person
from tests.helpers import sqlite_only
from tests.office.test_journey import Cases

MANY = 330


class Rows(Cases):
    """Many list rows, of cases that are nowhere else: limits near and far and none, every holder, three officers and nobody."""

    def setUp(self) -> None:
        super().setUp()
        like = load_case(self.office, self.imre, self.filed())
        self.rows: list[dict[str, Any]] = []
        with write_session(self.office.engine) as session:
            session.add_all(Person(id=f"p{n}", name=f"Person {n}", role="applicant") for n in range(40))
            session.flush()
            for n in range(MANY):
                limit = self.instant + timedelta(days=n % 23 - 5, hours=n % 7)
                row = projection(like) | {
                    "id": f"c{n}",
                    "reference": f"BW-26-{10000 + n}-X",
                    "kind": "BW" if n % 3 else "CT",
                    "applicant_id": f"p{n % 40}" if n % 2 else "tamsin",
                    "officer_id": [None, "imre", "maud", "imre"][n % 4],
                    "state": ["Filed", "Answers wanted", "Answers came back", "Complete"][n % 4],
                    "holder": "theirs" if n % 4 == 1 else "ours",
                    "limit_at": limit if n % 11 else None,
                    "limit_day": like.known.calendar.local_day(limit) if n % 11 else None,
                    "sort_at": limit if n % 11 else NO_LIMIT,
                    "waits": n % 4 == 1,
                    "at_once": n % 5 < 2,
                    "changed_at": self.instant - timedelta(minutes=n // 3),
                    "place": ["waiting", "running", "closed"][n % 3],
                }
                session.add(Case(**row))
                self.rows.append(row)

    @contextmanager
    def statements(self) -> Iterator[list[str]]:
        """What is asked of the database meanwhile."""
        asked: list[str] = []

        def note(_conn: object, _cursor: object, statement: str, *_: object) -> None:
            asked.append(statement)

        event.listen(self.office.engine, "before_cursor_execute", note)
        try:
            yield asked
        finally:
            event.remove(self.office.engine, "before_cursor_execute", note)

    def wanted(self, shown: in_tray.Shown, group: str) -> list[str]:
        """What a group holds, worked out row by row as the core says it."""
        calendar, today = office_calendar(self.office), self.instant.date()
        found = []
        for row in self.rows:
            left = days_left(row["limit_day"], row["holder"], today, calendar)
            week = row["holder"] == "theirs" and row["limit_day"] and row["limit_day"] <= week_from(today)
            whose = {"mine": row["officer_id"] == "imre", "nobody's yet": row["officer_id"] is None, "everyone's": True}
            view = not shown.view or (week if shown.view == "lapse this week" else row["state"] == in_tray.OF_STATE[shown.view])
            if (
                whose[shown.whose]
                and shown.kind in ("", row["kind"])
                and view
                and group_of(row["holder"], left, row["at_once"]) == group
            ):
                found.append((row["sort_at"], row["reference"]))
        return [reference for _, reference in sorted(found)]

    def test_every_page_of_every_list_is_what_the_core_says(self) -> None:
        tried = 0
        for whose in get_args(in_tray.Whose):
            for kind in ("", "CT"):
                for view in get_args(in_tray.KeptView):
                    shown = in_tray.Shown(whose, kind, view)
                    tray = lists.tray(self.office, self.imre, whose, kind, view)
                    for page in tray.groups:
                        with self.subTest(shown=shown, group=page.group):
                            wanted, rows, after = self.wanted(shown, page.group), list(page.rows), page.after
                            while after:
                                self.assertLessEqual(len(rows), len(wanted))
                                more = lists.more_of_tray(self.office, self.imre, shown, page.group, after)
                                self.assertEqual(more.count, page.count)
                                rows, after = [*rows, *more.rows], more.after
                            told = [r.reference for r in rows if r.applicant != "Odalys Renn"]
                            self.assertEqual(told, wanted)
                            self.assertEqual(page.count, len(rows))
                            self.assertTrue(all(r.group == page.group for r in rows))
                            tried += len(rows) > lists.PAGE
        self.assertGreater(tried, 3)

    def test_the_counts_are_true_beyond_one_page(self) -> None:
        tray = lists.tray(self.office, self.imre, "everyone's")
        officers = Counter(row["officer_id"] for row in self.rows)
        self.assertEqual(tray.counts, {"everyone's": MANY + 1, "mine": officers["imre"], "nobody's yet": officers[None] + 1})
        self.assertEqual(sum(group.count for group in tray.groups), MANY + 1)
        self.assertEqual(tray.finishable, sum(g.count for g in tray.groups if g.group != "waiting"))
        self.assertTrue(all(len(group.rows) <= lists.PAGE for group in tray.groups))
        self.assertEqual({k.kind: k.count for k in tray.kinds}["CT"], sum(row["kind"] == "CT" for row in self.rows))

    def test_a_list_costs_the_same_whatever_its_length(self) -> None:
        def cost() -> int:
            with self.statements() as asked:
                lists.tray(self.office, self.imre, "everyone's")
                lists.search(self.office, self.imre, "saltern")
                lists.my_cases(self.office, self.tamsin)
            self.assertFalse([s for s in asked if "FROM people" in s and "WHERE" not in s], "everybody's name was read")
            return len(asked)

        many = cost()
        with write_session(self.office.engine) as session:
            session.execute(update(Case).where(Case.reference.like("BW-26-1%")).values(tray="", applicant_id="odalys"))
        self.assertLessEqual(many - cost(), 9)  # an empty list asks for nobody's name

    @sqlite_only  # PostgreSQL looks at a few hundred rows whole, whatever indexes there are
    def test_the_pages_are_read_by_index(self) -> None:
        with self.statements() as asked:
            lists.tray(self.office, self.imre, "everyone's")
            lists.tray(self.office, self.imre, "mine")
            lists.my_cases(self.office, self.tamsin)
        over_cases = [s for s in asked if "FROM cases" in s]
        self.assertGreater(len(over_cases), 6)
        for statement in over_cases:
            with self.office.engine.connect() as connection:
                plan = connection.exec_driver_sql(f"explain query plan {statement}", ("x",) * statement.count("?")).all()
            self.assertFalse([row for row in plan if str(row[3]).startswith("SCAN cases")], statement)

    def test_ones_own_cases_by_pages(self) -> None:
        for page in lists.my_cases(self.office, self.tamsin):
            rows, after = list(page.rows), page.after
            while after:
                more = lists.more_of_mine(self.office, self.tamsin, page.place, after)
                rows, after = [*rows, *more.rows], more.after
            own = [r for r in self.rows if r["applicant_id"] == "tamsin" and r["place"] == page.place]
            by_limit = page.place == "waiting"
            own.sort(key=lambda r: (r["sort_at"] if by_limit else -r["changed_at"].timestamp(), r["reference"]))
            self.assertEqual([r.reference for r in rows], [r["reference"] for r in own])
            self.assertEqual(page.count, len(own))
        self.assertEqual(sum(page.count for page in lists.my_cases(self.office, self.odalys)), 1)

    def test_a_page_that_is_none(self) -> None:
        for odd in ("x", "2026-13-01 BW", "9999-12-31T23:59:59-12:00 x", "\x00"):
            with self.subTest(odd), self.assertRaises(Invalid):
                lists.more_of_tray(self.office, self.imre, in_tray.Shown(), "ready", odd)


class Clock(Cases):
    def looked_at(self) -> int:
        """How many cases a run of the clock job takes up."""
        taken: list[str] = []
        real = clock_job.load_history

        def load(session: Any, case_id: str) -> Any:
            taken.append(case_id)
            return real(session, case_id)

        clock_job.load_history = load
        try:
            clock_job.run_clock(self.office)
        finally:
            clock_job.load_history = real
        return len(taken)

    def test_a_run_looks_at_what_is_due_and_at_nothing_else(self) -> None:
        paid = self.filed()
        unpaid = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        self.assertEqual([self.looked_at(), self.looked_at()], [0, 0])
        with read_session(self.office.engine) as session:
            looks = dict(session.execute(select(Case.reference, Case.next_look_at)).all())
        self.assertIsNone(looks[paid])
        assert looks[unpaid] is not None
        self.instant = looks[unpaid] - timedelta(seconds=1)
        self.assertEqual(self.looked_at(), 0)
        self.instant = looks[unpaid]
        self.assertEqual(self.looked_at(), 1)
        self.assertEqual(self.looked_at(), 0)
        told = [m for m in self.office.post_room.items() if m.reference == unpaid and "-reminder-" in m.key]
        self.assertEqual(len(told), 1, "the reminder went out at its instant")
        for _ in range(40):
            with read_session(self.office.engine) as session:
                at = session.scalar(select(Case.next_look_at).where(Case.reference == unpaid))
            if at is None:
                break
            self.instant = at
            clock_job.run_clock(self.office)
        self.assertEqual(load_case(self.office, self.imre, unpaid).assessment.state, "Lapsed")

    def test_one_case_that_fails_holds_up_no_other(self) -> None:
        first, second = (filing.file(self.office, self.odalys, self.draft(), take_gaps=True) for _ in range(2))
        with write_session(self.office.engine) as session:
            ids = dict(session.execute(select(Case.reference, Case.id)).all())
            session.execute(update(Case).values(next_look_at=self.instant))
        real = clock_job.load_history

        def load(session: Any, case_id: str) -> Any:
            if case_id == ids[first]:
                raise ValueError("damaged")
            return real(session, case_id)

        clock_job.load_history = load
        self.addCleanup(setattr, clock_job, "load_history", real)
        clock_job.run_clock(self.office)
        with read_session(self.office.engine) as session:
            looks = dict(session.execute(select(Case.reference, Case.next_look_at)).all())
        self.assertEqual(looks[first], self.instant + timedelta(hours=1))
        assert looks[second] is not None
        self.assertGreater(looks[second], self.instant)


class Searching(Cases):
    def found(self, words: str, who: Any = None) -> set[str]:
        return {row.reference for row in lists.search(self.office, who or self.imre, words)}

    def test_words_are_folded(self) -> None:
        self.assertEqual(folded("STRASSE Straße São Brás ÇÉŁ"), "strasse strasse sao bras ceł")
        self.assertIsNone(sought(" %% \x00 _"))
        self.assertIsNone(sought("s"))
        self.assertEqual(sought("BW-26-00415"), sought("bw 26 00415"))

    def test_by_reference_person_place_number_and_the_words_of_files(self) -> None:
        first = self.filed(place_address="14 Rua São Brás, Faro", place_plot="Q-311/7")
        second = self.filed()
        both = {first, second}
        for words, wanted in (
            ("Odalys Renn", both),
            ("Renn Odalys", both),
            ("renn odal", both),
            (first, {first}),
            (first[:-2], {first}),
            (first.replace("-", " ").lower(), {first}),
            (first[6:11], {first}),
            ("sao bras", {first}),
            ("BRÁS rua", {first}),
            ("311", {first}),
            ("Q-311/7", {first}),
            ("q 311", {first}),
            ("saltern slip", both),  # the plans of both name it
            ("workshop saltern", both),
            ("roof-4", both),
            ("od", both),
            ("re", both),
            ("bw", both),
            ("zz", set()),
            ("bra %", {first}),
            ("%%", set()),
            ("\x00\x00", set()),
            ("x' OR 1=1", set()),
            ('"', set()),
            ("odalys nobody", set()),
        ):
            with self.subTest(words):
                self.assertEqual(self.found(words), wanted)

    def test_what_is_written_later_is_found(self) -> None:
        reference = self.filed()
        self.assertEqual(self.found("lighthouse"), set())
        talking.write(self.office, self.odalys, reference, "The lighthouse keeper agrees.")
        talking.note(self.office, self.imre, reference, "Ask about the quicksand.")
        self.assertEqual(self.found("lighth"), {reference})
        self.assertEqual(self.found("quicksand lighthouse"), {reference})

    def test_text_of_a_file_is_found_by_its_words(self) -> None:
        draft = self.draft()
        attaching.attach(self.office, self.odalys, draft, "site_plan", "more.txt", b"The pelican stands on the quay wall.")
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        with read_session(self.office.engine) as session:
            words = session.scalar(select(SearchRow.words)) or ""
        self.assertTrue(words)
        some = max(words.split(), key=len)
        self.assertEqual(self.found(some), {reference})
        self.assertEqual(self.found(some[:4]), {reference})

    def test_a_reviewer_finds_only_what_was_handed_over(self) -> None:
        silas = add_person(self.office, "silas", "Silas Thorne", "reviewer")
        self.filed()
        self.assertEqual(self.found("odalys", silas), set())
        self.assertEqual(self.found("bw", silas), set())

    def test_an_older_office_is_made_to_be_found(self) -> None:
        reference = self.filed()
        with write_session(self.office.engine) as session:
            session.delete(session.scalars(select(SearchRow)).one())
        self.assertEqual(self.found("odalys"), set())
        self.office.all_can_be_found = False
        clock_job.run_clock(self.office)
        self.assertEqual(self.found("odalys"), {reference})
        with write_session(self.office.engine) as session:
            session.delete(session.scalars(select(SearchRow)).one())
        rebuild(self.office)
        self.assertEqual(self.found("odalys"), {reference})
        self.assertEqual(list(verify(self.office)), [])

    def test_the_index_follows_its_row(self) -> None:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        with write_session(self.office.engine) as session:
            session.scalars(select(SearchRow)).one().fields = "quite another"
        self.assertEqual((self.found("odalys renn saltern"), self.found("quite another")), (set(), {reference}))
        with read_session(self.office.engine) as session:
            self.assertEqual(session.scalar(select(func.count()).select_from(SearchRow)), 1)
        drafts.start_draft(self.office, self.odalys, "BW")
        self.assertEqual(self.found("bw"), {reference})
