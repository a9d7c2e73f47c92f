"""A case goes before a meeting: planned, put on its agenda, in order, minuted, and decided as it was minuted."""

from __future__ import annotations

import io
from dataclasses import replace
from datetime import date, time, timedelta
from unittest.mock import patch

import pikepdf

from jolly_clerk.core.states import State
from jolly_clerk.office.cases import endings
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import reviewing
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, Stale
from jolly_clerk.office.keeping import erasing
from jolly_clerk.office.meetings import agenda, looking, planning, tabling
from jolly_clerk.office.rules import rulebooks
from jolly_clerk.office.views.case import look_at
from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.helpers import EDITION
from tests.office.test_endings import Endings
from tests.office.test_journey import text_of

PATHWAYS = """
pathways:
  - id: plain
    title: Before the committee
    says: The committee looks at it.
    meeting: {body: wardens, title: Works committee, closes: 3 working days, article: "42(3)"}
    article: "42(2)"
"""


class Meetings(Endings):
    def setUp(self) -> None:
        super().setUp()
        text = EDITION.read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-07-02", 1)
        file = self.folder / "BW.yaml"
        file.write_text(text + PATHWAYS, "utf-8")
        rulebooks.publish(self.office, file, SHIPPED / "calendars" / "quillhaven.yaml")

    def planned(self, day: int = 18, hour: int = 14) -> str:
        return planning.plan(self.office, self.imre, "wardens", date(2026, 11, day), time(hour), "Town hall, room 2")

    def state(self, reference: str) -> State:
        return load_case(self.office, self.imre, reference).assessment.state

    def why(self, reference: str, move: str) -> str:
        found = load_case(self.office, self.silas, reference).assessment.move("reviewer", move)  # type: ignore[arg-type]
        return found.why_not[0].text if found.why_not else ""

    def test_nobody_decides_before_the_meeting(self) -> None:
        reference = self.under_review()
        for decide in (
            lambda: reviewing.grant(self.office, self.silas, reference),
            lambda: reviewing.refuse(self.office, self.silas, reference, "It cannot be."),
        ):
            with self.assertRaisesRegex(NotReady, r"Works committee looks at it first \(art. 42\(3\)\): put it on an agenda."):
                decide()
        case = load_case(self.office, self.silas, reference).case
        self.assertEqual("Put it on an agenda: Works committee", case.next_officer)
        self.assertEqual("Nothing to do: Works committee looks at it first", case.next_applicant)
        page = looking.meetings_page(self.office, self.imre)
        self.assertEqual([("wardens", "Works committee")], [(b.id, b.title) for b in page.bodies])
        self.assertEqual(
            [(reference, "Works committee", "Silas Thorne")], [(w.reference, w.body, w.reviewer) for w in page.waiting]
        )
        meeting = self.planned()
        with self.assertRaisesRegex(NotAllowed, "The leading reviewer puts it on an agenda"):
            tabling.put(self.office, self.other, reference, meeting)
        tabling.put(self.office, self.silas, reference, meeting)
        with self.assertRaisesRegex(NotReady, "on this agenda already"):
            tabling.put(self.office, self.silas, reference, meeting)
        self.assertEqual((), looking.meetings_page(self.office, self.imre).waiting)
        self.assertEqual(
            "Works committee meets on Wed 18 Nov 2026", load_case(self.office, self.silas, reference).case.next_officer
        )
        case = load_case(self.office, self.silas, reference).case
        self.assertEqual("Nothing to do: Works committee meets on Wed 18 Nov 2026", case.next_applicant)
        with self.assertRaisesRegex(NotReady, "on the agenda of Works committee on Wed 18 Nov 2026"):
            reviewing.grant(self.office, self.silas, reference)
        with self.assertRaisesRegex(NotReady, "The meeting has not begun yet"):
            tabling.minute(self.office, self.imre, reference, "in favour")
        self.move_to(2026, 11, 18, 15)
        with self.assertRaises(NotAllowed):
            tabling.minute(self.office, self.silas, reference, "in favour")
        tabling.minute(self.office, self.imre, reference, "in favour", "With a light roof.")
        self.assertEqual("Works committee, Wed 18 Nov 2026: in favour.", self.why(reference, "refuse"))
        self.assertEqual("Nothing to do: a reviewer decides", load_case(self.office, self.silas, reference).case.next_applicant)
        told = [m.text for m in look_at(self.office, self.odalys, reference).story]
        self.assertTrue([t for t in told if "put it on the agenda of Wed 18 Nov 2026: Works committee" in t], told)
        self.assertFalse([t for t in told if "light roof" in t])
        reviewing.grant(self.office, self.silas, reference, "With a light roof.")
        self.assertEqual("Granted", self.state(reference))
        (item,) = looking.meeting_view(self.office, self.imre, meeting).items
        self.assertEqual(("in favour", "With a light roof.", False), (item.result, item.words, item.may_minute))

    def test_it_is_put_off_and_refused_at_the_next(self) -> None:
        reference = self.under_review()
        first, second = self.planned(12), self.planned(26)
        tabling.put(self.office, self.silas, reference, first)
        self.move_to(2026, 11, 12, 14, 30)
        with self.assertRaisesRegex(Invalid, "in the words of the minutes why"):
            tabling.minute(self.office, self.maud, reference, "put off")
        tabling.minute(self.office, self.maud, reference, "put off", "The section is not to scale.")
        self.assertEqual([reference], [w.reference for w in looking.meetings_page(self.office, self.imre).waiting])
        told = [m.text for m in look_at(self.office, self.odalys, reference).story]
        self.assertTrue([t for t in told if ": put off. The section is not to scale." in t])
        with self.assertRaisesRegex(NotReady, "begun already"):
            tabling.put(self.office, self.silas, reference, first)
        tabling.put(self.office, self.silas, reference, second)
        self.move_to(2026, 11, 26, 14, 5)
        tabling.minute(self.office, self.imre, reference, "in favour", "It may be.")
        tabling.minute(self.office, self.imre, reference, "against", "It shuts the view.")  # the clerk had pressed the wrong one
        self.assertEqual("Works committee, Thu 26 Nov 2026: against.", self.why(reference, "grant"))
        reviewing.refuse(self.office, self.silas, reference, "It shuts the view.")
        self.assertEqual("Refused", self.state(reference))
        results = [looking.meeting_view(self.office, self.imre, m).items[0].result for m in (first, second)]
        self.assertEqual(["put off", "against"], results)

    def test_the_agenda_closes_in_time(self) -> None:
        reference = self.under_review()
        meeting = self.planned(18)
        self.assertEqual(date(2026, 11, 13), looking.meeting_view(self.office, self.silas, meeting).closes)
        self.move_to(2026, 11, 13, 23)
        (choice,) = tabling.choices(self.office, self.silas, reference)
        self.assertEqual(("Wed 18 Nov 2026, 14:00, Town hall, room 2", ""), (choice.says, choice.why_not))
        self.move_to(2026, 11, 14, 0, 5)
        with self.assertRaisesRegex(NotReady, r"closed on Fri 13 Nov 2026, 3 working days before the meeting \(art. 42\(3\)\)"):
            tabling.put(self.office, self.silas, reference, meeting)
        (choice,) = tabling.choices(self.office, self.silas, reference)
        self.assertIn("closed on Fri 13 Nov", choice.why_not)

    def test_it_goes_over_to_another_agenda_and_off_it(self) -> None:
        reference = self.under_review()
        first, second = self.planned(18), self.planned(25)
        tabling.put(self.office, self.silas, reference, first)
        tabling.put(self.office, self.silas, reference, second)
        on = [len(looking.meeting_view(self.office, self.imre, m).items) for m in (first, second)]
        self.assertEqual([0, 1], on)
        tabling.take_off(self.office, self.silas, reference, "The plan is being drawn anew.")
        with self.assertRaises(NotReady):
            tabling.take_off(self.office, self.silas, reference)
        self.assertEqual([reference], [w.reference for w in looking.meetings_page(self.office, self.silas).waiting])

    def test_called_off_its_cases_wait_again(self) -> None:
        reference = self.under_review()
        meeting = self.planned()
        tabling.put(self.office, self.silas, reference, meeting)
        with self.assertRaises(NotAllowed):
            planning.call_off(self.office, self.silas, meeting, "The hall is flooded.")
        planning.call_off(self.office, self.imre, meeting, "the hall is flooded")
        with self.assertRaises(NotReady):
            planning.call_off(self.office, self.imre, meeting, "the hall is flooded")
        with self.assertRaisesRegex(NotReady, "called off"):
            tabling.put(self.office, self.silas, reference, meeting)
        self.assertEqual((), tabling.choices(self.office, self.silas, reference))
        self.assertEqual([reference], [w.reference for w in looking.meetings_page(self.office, self.imre).waiting])
        told = [m.text for m in look_at(self.office, self.odalys, reference).story]
        self.assertTrue([t for t in told if "the meeting is called off, the hall is flooded" in t], told)

    def test_called_off_at_the_very_moment_nothing_goes_onto_it(self) -> None:
        reference, meeting = self.under_review(), self.planned()

        def meanwhile(*_: object) -> str:
            if not looking.meeting_view(self.office, self.imre, meeting).line.called_off:
                planning.call_off(self.office, self.imre, meeting, "the hall is flooded")
            return ""

        called_off = self.assertRaisesRegex(NotReady, "This meeting is called off")
        with patch("jolly_clerk.office.meetings.tabling.why_not_on", meanwhile), called_off:
            tabling.put(self.office, self.silas, reference, meeting)
        self.assertEqual([reference], [w.reference for w in looking.meetings_page(self.office, self.imre).waiting])

    def test_whoever_is_limited_to_a_kind_orders_what_they_see(self) -> None:
        one, two = self.under_review(), self.under_review()
        meeting = self.planned()
        for reference in (one, two):
            tabling.put(self.office, self.silas, reference, meeting)
        other = replace(self.imre, kinds=("TL",))
        planning.reorder(self.office, other, meeting, [])
        self.assertEqual([one, two], [i.reference for i in looking.meeting_view(self.office, self.imre, meeting).items])
        self.assertEqual((), looking.meeting_view(self.office, other, meeting).items)

    def test_what_was_minuted_counts_no_more_once_it_went_back(self) -> None:
        reference = self.under_review()
        meeting = self.planned(12)
        tabling.put(self.office, self.silas, reference, meeting)
        self.move_to(2026, 11, 12, 15)
        tabling.minute(self.office, self.imre, reference, "in favour")
        reviewing.hand_back(self.office, self.silas, reference, "The plan is of another plot.")
        reviewing.hand_over(self.office, self.imre, reference, "silas")
        self.assertIn("looks at it first", self.why(reference, "grant"))
        self.assertEqual("in favour", looking.meeting_view(self.office, self.imre, meeting).items[0].result)

    def test_the_order_is_kept_and_papers_follow_it(self) -> None:
        one, two = self.under_review(), self.under_review()
        meeting = self.planned()
        for reference in (one, two):
            tabling.put(self.office, self.silas, reference, meeting)
        with self.assertRaises(NotAllowed):
            planning.reorder(self.office, self.silas, meeting, [two, one])
        with self.assertRaisesRegex(Stale, "not the one that you saw"):
            planning.reorder(self.office, self.imre, meeting, [two])
        planning.reorder(self.office, self.imre, meeting, [two, one])
        self.assertEqual([two, one], [i.reference for i in looking.meeting_view(self.office, self.silas, meeting).items])
        made, references = agenda.papers(self.office, self.silas, meeting)
        self.assertEqual((two, one), references)
        with pikepdf.open(io.BytesIO(made)) as pdf, pdf.open_outline() as outline:
            marks = [(str(mark.title), pdf.pages.index(mark.destination[0])) for mark in outline.root]
        self.assertEqual(["Agenda with its papers", "Agenda with its papers"], [title for title, _ in marks[:2]])
        self.assertEqual(4, len(marks[2:]), marks)
        self.assertTrue(marks[2][0].startswith(f"1. {two} · ") and marks[-1][0].startswith(f"2. {one} · "), marks)
        text = text_of(made)
        self.assertLess(text.index(two), text.index(one))
        self.assertIn("Works committee", text)
        self.assertIn(f"{marks[2][1] + 1}", text)
        endings.withdraw(self.office, self.odalys, two, "I sell the house.")
        self.assertEqual([one], [i.reference for i in looking.meeting_view(self.office, self.imre, meeting).items])
        self.move_to(2026, 11, 18, 15)
        tabling.minute(self.office, self.imre, one, "against", "It shuts the view.")
        told = text_of(agenda.agenda_paper(self.office, self.imre, meeting))
        self.assertIn("Minutes", told)
        self.assertIn("It shuts the view.", told)

    def test_bad_plans_are_refused(self) -> None:
        for body, day, word in (
            ("harbour", date(2026, 11, 18), "No edition in force"),
            ("wardens", date(2026, 11, 4), "to come"),
            ("wardens", date(2026, 11, 15), "The office is closed on Sun 15 Nov"),
        ):
            with self.subTest(word), self.assertRaisesRegex(Invalid, word):
                planning.plan(self.office, self.imre, body, day, time(14), "Town hall")
        self.planned()
        with self.assertRaisesRegex(Invalid, "planned for this hour already"):
            self.planned()
        with self.assertRaises(NotAllowed):
            planning.plan(self.office, self.silas, "wardens", date(2026, 11, 19), time(14), "Town hall")
        for ask in (looking.meetings_page, lambda o, w: tabling.choices(o, w, "BW-26-00001-B")):
            with self.assertRaises(NotAllowed):
                ask(self.office, self.odalys)
        with self.assertRaises(NotFound):
            looking.meeting_view(self.office, self.imre, "none")

    def test_a_kind_without_meetings_is_as_before(self) -> None:
        text = EDITION.read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-07-03", 1)
        (self.folder / "BW.yaml").write_text(text, "utf-8")
        rulebooks.publish(self.office, self.folder / "BW.yaml", SHIPPED / "calendars" / "quillhaven.yaml")
        reference = self.under_review()
        self.assertEqual("", self.why(reference, "grant"))
        self.assertIn("No meeting looks at cases of this pathway", self.why(reference, "put on an agenda"))
        self.assertEqual((), tabling.choices(self.office, self.silas, reference))
        reviewing.grant(self.office, self.silas, reference)

    def test_an_erased_case_leaves_the_minutes(self) -> None:
        reference = self.under_review()
        meeting = self.planned(12)
        tabling.put(self.office, self.silas, reference, meeting)
        self.move_to(2026, 11, 12, 15)
        tabling.minute(self.office, self.imre, reference, "against", "No.")
        reviewing.refuse(self.office, self.silas, reference, "It shuts the view.")
        self.instant += timedelta(days=11 * 366)
        erasing.put_on_the_list(self.office, self.maud, reference, "Its time is over.")
        (listed,) = erasing.erasing(self.office, self.imre).waiting
        erasing.confirm(self.office, self.imre, listed.id)
        view = looking.meeting_view(self.office, self.imre, meeting)
        self.assertEqual(((), 0), (view.items, view.line.cases))
