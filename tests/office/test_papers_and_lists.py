"""Papers that need no desk (the way in, the calendar file), registers as odd files, and the lists with their filters."""

from __future__ import annotations

import json
import logging
from unittest import mock

import structlog
from fastapi.testclient import TestClient
from icalendar import Calendar

from jolly_clerk.core.ports import NoAnswer
from jolly_clerk.office.cases import endings, lists
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, reviewing
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.post import papers
from jolly_clerk.office.preparing import drafts, filing, way_in
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED
from jolly_clerk.standins.registers import RegisterFolder
from jolly_clerk.web.app import create_app
from tests.office.test_journey import Cases, text_of


class WayInPapers(Cases):
    def setUp(self) -> None:
        super().setUp()
        text = (SHIPPED / "BW" / "2026-07-01.yaml").read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-08-01")
        file = self.folder / "BW" / "2026-08-01.yaml"
        file.parent.mkdir()
        file.write_text(text, "utf-8")
        publish(self.office, file)

    def test_it_asks_one_thing_after_the_other_and_keeps_nothing(self) -> None:
        view = way_in.ask(self.office, "BW", {})
        self.assertEqual((view.ask_next, view.answered), (("need.island",), ()))
        told = {"need": {"island": "quill", "below_water": False, "sort": "larger"}, "works": {"estimate": "1"}}
        view = way_in.ask(self.office, "BW", told)
        assert view.decided
        self.assertEqual((view.decided.then, view.answered), ("needed", ("need.island", "need.below_water", "need.sort")))
        # what settles the price is reckoned with, and stays among what is asked
        self.assertEqual(next(q for p in view.assessment.parts for q in p.questions if q.place == "works.estimate").raw, "1")
        self.assertIn("works.estimate", view.price_asks)
        self.assertNotIn("need.island", view.price_asks)
        # the floor area decides of a low shed alone: of a high one it is asked for the price, and does not change its place
        new = {"island": "quill", "below_water": False, "sort": "new", "height": "3.1"}
        for area in ({}, {"area": "9"}):
            view = way_in.ask(self.office, "BW", {"need": new, "works": area})
            self.assertEqual(view.answered, ("need.island", "need.below_water", "need.sort", "need.height"))
            self.assertIn("works.area", view.price_asks)
        view = way_in.ask(self.office, "BW", {"need": {**new, "height": "2.4"}, "works": {"area": "12"}})
        self.assertEqual(view.answered[-1], "works.area")
        self.assertNotIn("works.area", view.price_asks)
        self.assertEqual(way_in.ask(self.office, "BW", {"odd": {"x": "1"}}).assessment.apart, ())
        self.assertEqual(list(drafts.drafts_of(self.office, self.odalys)), [])
        with self.assertRaises(NotFound):
            way_in.ask(self.office, "ZZ", {})
        with self.assertRaises(Invalid):
            way_in.ask(self.office, "BW", {"need": {"island": "x" * 30_000}})

    def test_the_letters_that_can_be_kept(self) -> None:
        for need, words in (
            (
                {"island": "far_skerry"},
                ("These works belong to another office", "warden of Far Skerry", "Works Order 2024 art. 2(3)"),
            ),
            ({"island": "quill", "below_water": True}, ("harbour master", "art. 2(4)")),
        ):
            said = text_of(way_in.letter(self.office, "BW", {"need": need}))
            for word in (*words, "Quillhaven One-Door Office", "On which island?"):
                self.assertIn(word, said)
        fence = {"need": {"island": "quill", "below_water": "no", "sort": "fence", "height": "1.2"}, "place": {"listed": "no"}}
        self.assertIn("No building works permit is needed", text_of(way_in.letter(self.office, "BW", fence)))
        for answers in ({}, {"need": {"island": "quill", "below_water": "no", "sort": "down"}}):
            with self.assertRaises(NotReady):
                way_in.letter(self.office, "BW", answers)

    def test_typed_markup_stays_text(self) -> None:
        odd = {"need": {"island": '#image("/etc/passwd") <b>', "below_water": True}}
        with self.assertRaises(NotReady):  # it is no island, so nothing is decided
            way_in.letter(self.office, "BW", odd)


class CalendarFile(Cases):
    def test_the_due_date_with_its_alarms(self) -> None:
        reference = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        (event,) = Calendar.from_ical(papers.due_date_file(self.office, load_case(self.office, self.odalys, reference))).walk(
            "VEVENT"
        )
        self.assertEqual((str(event["dtstart"].dt), str(event["summary"])), ("2026-11-19", f"Pay the fee ({reference})"))
        self.pay(reference)
        with self.assertRaises(NotReady):
            papers.due_date_file(self.office, load_case(self.office, self.odalys, reference))
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "may-act", "wanting")
        checking.send_letter(self.office, self.imre, reference)
        (event,) = Calendar.from_ical(papers.due_date_file(self.office, load_case(self.office, self.odalys, reference))).walk(
            "VEVENT"
        )
        self.assertEqual(str(event["dtstart"].dt), "2026-12-07")
        self.assertEqual([a["trigger"].dt.days for a in event.walk("VALARM")], [-7, -2])


class OddRegisters(Cases):
    def test_files_as_they_come(self) -> None:
        folder = self.folder / "registers"
        folder.mkdir()
        registers = RegisterFolder(folder)
        with self.assertRaises(NoAnswer):
            registers.rows("plots")
        (folder / "plots.csv").write_bytes(b'\xef\xbb\xbfplot, owner\nQ-1,"Renn, Odalys",too,many\nQ-2\n\nQ-3,  Bo  \n')
        self.assertEqual(registers.entry("plots", "plot", " q-1 "), {"plot": "Q-1", "owner": "Renn, Odalys"})
        self.assertEqual(registers.entry("plots", "plot", "Q-2"), {"plot": "Q-2", "owner": ""})
        self.assertIsNone(registers.entry("plots", "plot", ""))
        self.assertIsNone(registers.entry("plots", "nothing", "Q-1"))
        self.assertEqual([r["plot"] for r in registers.search("plots", "bo q-3", ["plot", "owner"])], ["Q-3"])
        self.assertEqual(registers.search("plots", "  ", ["plot"]), [])
        (folder / "bad.csv").write_bytes(b"plot,owner\n\xff\xfe\xfa,x\n")
        with self.assertRaises(NoAnswer):
            registers.rows("bad")


class Filters(Cases):
    def test_views_kinds_and_the_reviewers_own(self) -> None:
        silas = add_person(self.office, "silas", "Silas Thorne", "reviewer")
        first, second = self.filed(), self.filed()
        everyone = lists.tray(self.office, self.imre, "everyone's")
        self.assertEqual({(k.kind, k.count) for k in everyone.kinds}, {("BW", 2)})
        self.assertEqual(everyone.views["paid, unread"], 2)
        checking.begin_checking(self.office, self.imre, first)
        unread = lists.tray(self.office, self.imre, "everyone's", view="paid, unread")
        self.assertEqual([r.reference for r in unread.rows], [second])
        self.assertEqual(lists.tray(self.office, self.imre, "everyone's", kind="ZZ").rows, ())
        self.assertEqual(
            [r.reference for r in lists.search(self.office, self.imre, "odalys") if r.officer == "Imre Holt"], [first]
        )
        for r in load_case(self.office, self.imre, first).assessment.requirements:
            if r.asked:
                checking.judge(self.office, self.imre, first, r.id, "met", "Looked at by hand.")
        checking.accept(self.office, self.imre, first)
        self.assertEqual(lists.tray(self.office, self.imre, "mine", view="to hand over").rows[0].reference, first)
        reviewing.hand_over(self.office, self.imre, first, "silas")
        self.assertEqual([r.reference for r in lists.tray(self.office, silas, "mine").rows], [first])
        self.assertNotIn(first, [r.reference for r in lists.tray(self.office, self.imre, "everyone's").rows])
        with self.assertRaises(NotAllowed):
            lists.tray(self.office, self.odalys, "mine")


class Minding(Cases):
    def test_health_says_what_is_broken(self) -> None:
        client = TestClient(create_app(self.office))
        self.assertEqual(client.get("/health").json(), {"status": "ok", "database": "ok", "vault": "ok", "clock": "ok"})
        (self.folder / "vault").rename(self.folder / "elsewhere")
        answer = TestClient(create_app(self.office)).get("/health")
        self.assertEqual((answer.status_code, answer.json()["status"]), (503, "broken"))
        (self.folder / "elsewhere").rename(self.folder / "vault")

    def test_the_log_names_no_case_and_no_person(self) -> None:
        reference = self.filed()
        client = TestClient(create_app(self.office))
        quiet = structlog.get_config()["wrapper_class"]
        structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(logging.INFO))
        self.addCleanup(structlog.configure, wrapper_class=quiet)
        with structlog.testing.capture_logs() as logged:
            client.get(f"/api/cases/{reference}?words=Odalys")
        text = json.dumps(logged)
        self.assertIn("/api/cases/{reference}", text)
        for private in (reference, "Odalys", "words"):
            self.assertNotIn(private, text)

    def test_a_case_that_fails_holds_up_no_other(self) -> None:
        first = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        second = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        self.move_to(2026, 11, 25)
        real = endings.lapse

        def lapse(office: object, loaded: object, *told: object) -> object:
            if loaded.case.reference == first:  # type: ignore[attr-defined]
                raise NotReady("Somebody was faster.")
            return real(office, loaded, *told)  # type: ignore[arg-type]

        with mock.patch("jolly_clerk.office.cases.clock_job.lapse", lapse):
            self.assertEqual(run_clock(self.office).lapsed, 1)
        self.assertEqual(load_case(self.office, self.imre, second).assessment.state, "Lapsed")
        self.assertEqual(run_clock(self.office).lapsed, 1)

    def test_two_reminders_two_papers_and_both_can_be_read_again(self) -> None:
        reference = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        self.move_to(2026, 11, 12)
        run_clock(self.office)
        loaded = load_case(self.office, self.odalys, reference)
        no = next(n for n, e in enumerate(loaded.history.entries, 1) if e.what == "reminded")
        name, content = papers.paper(self.office, loaded, no)
        self.assertEqual(name, f"{reference}-reminded.pdf")
        said = text_of(content).replace("\u00a0", " ")
        self.assertIn("EUR 438.18 is to be paid.", said)
        self.assertIn("The last day is Thu 19 Nov 2026", said)
        with self.assertRaises(NotFound):
            papers.paper(self.office, loaded, no + 1)

    def test_a_whole_letter_names_no_placeholder(self) -> None:
        """Every letter of the shipped edition is filled in, whatever ends a case."""
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        done = endings.do_not_accept(self.office, self.imre, reference, "The loads (1.5 kN/m²) are {unknown} & <b>unproven</b>.")
        said = text_of(papers.paper(self.office, done, len(done.history.entries))[1])
        self.assertIn("{unknown} & <b>unproven</b>", said)
        self.assertNotIn("{grounds}", said)
        self.assertNotIn("not answered", said)
