"""The calendar of the office is written by a rule-keeper, confirmed by a lead, and goes with what is published from then on."""

from __future__ import annotations

from datetime import date

from jolly_clerk.core.time.comparing import ClosedDay
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import NotAllowed, NotFound, NotReady, Stale, TooLarge
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.rules import calendars, writing
from jolly_clerk.office.rules.rulebooks import calendar_of
from tests.office.test_journey import Cases

FEAST = "  - {title: Tide Feast, how: fixed, month: 7, day: 16}"


class Calendars(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.petra = add_person(self.office, "petra", "Petra Lune", "rule-keeper")
        self.lena = add_person(self.office, "lena", "Lena Quill", "lead")

    def page(self) -> calendars.CalendarPage:
        return calendars.calendar_page(self.office, self.petra)

    def written(self, text: str = "") -> str:
        """The calendar with another feast in the place of Lantern Day, and another version."""
        now = text or self.page().text
        now = now.replace("  - {title: Lantern Day, how: fixed, month: 10, day: 19}", FEAST)
        return now.replace("version: 2026-01", "version: 2026-02")

    def test_it_is_written_confirmed_and_goes_with_the_next_edition(self) -> None:
        reference = self.filed()
        before = self.page()
        self.assertEqual((False, (), True), (before.written, before.faults, before.writes))
        self.assertEqual({2026, 2027, 2028}, {d.day.year for d in before.days})
        self.assertIn(ClosedDay(date(2026, 10, 19), "Lantern Day", ""), before.days)
        page = calendars.keep_calendar(self.office, self.petra, self.written(), 0)
        changed = [(d.day, d.title, d.change) for d in page.days if d.change]
        # 16 July is a working day in 2026 and 2027 alone, 19 October in 2026 and 2027 and 2028
        feasts = [(day, "Tide Feast", "new") for day in (date(2026, 7, 16), date(2027, 7, 16))]
        lanterns = [(date(year, 10, 19), "Lantern Day", "gone") for year in (2026, 2027, 2028)]
        self.assertEqual(sorted([*feasts, *lanterns]), changed)
        asked = calendars.ask_for_calendar(self.office, self.petra)
        self.assertEqual((False, "Petra Lune"), (asked.writes, asked.asked_by))
        with self.assertRaises(NotReady):
            calendars.keep_calendar(self.office, self.petra, "name: x", page.revision)
        with self.assertRaises(NotAllowed):
            calendars.confirm_calendar(self.office, self.petra)
        self.assertTrue(calendars.calendar_page(self.office, self.lena).confirms)
        calendars.confirm_calendar(self.office, self.lena)
        self.assertEqual((False, "2026-02"), (self.page().written, self.page().version))
        self.assertTrue(load_case(self.office, self.imre, reference).known.calendar.closed_on(date(2026, 10, 19)))
        of = load_case(self.office, self.imre, reference).case.edition_sha256
        draft = writing.begin(self.office, self.petra, "", "ZX")
        writing.ask_for_confirmation(self.office, self.petra, draft)
        sha256 = writing.confirm(self.office, self.lena, draft)
        self.assertIsNone(calendar_of(self.office, sha256).closed_on(date(2026, 10, 19)))
        self.assertEqual("Tide Feast", calendar_of(self.office, sha256).closed_on(date(2026, 7, 16)))
        self.assertTrue(calendar_of(self.office, of).closed_on(date(2026, 10, 19)))  # what was published keeps its own

    def test_faults_are_told_at_their_line_and_nothing_is_lost(self) -> None:
        broken = self.page().text.replace("month: 12, day: 17", "month: 13, day: 17").replace("working_days:", "workdays:")
        page = calendars.keep_calendar(self.office, self.petra, broken, 0)
        self.assertEqual(broken, page.text)
        self.assertTrue(page.faults)
        line = broken.splitlines().index(next(row for row in broken.splitlines() if row.startswith("workdays:"))) + 1
        self.assertIn(line, {fault.line for fault in page.faults})
        with self.assertRaisesRegex(NotReady, "^Line "):
            calendars.ask_for_calendar(self.office, self.petra)
        with self.assertRaises(Stale):
            calendars.keep_calendar(self.office, self.petra, "name: x", 0)
        with self.assertRaises(TooLarge):
            calendars.keep_calendar(self.office, self.petra, "x" * 100_001, page.revision)
        self.assertEqual(broken, self.page().text)
        self.assertFalse(calendars.throw_calendar_away(self.office, self.petra).written)
        with self.assertRaises(NotFound):
            calendars.throw_calendar_away(self.office, self.petra)

    def test_what_changes_nothing_or_has_no_version_of_its_own_is_not_laid_before_a_lead(self) -> None:
        whole = self.page().text
        for text, why in (
            (whole, "nothing would change"),
            (whole.replace("day: 17", "day: 18"), "It still has the version 2026-01"),
            (whole.replace("name: quillhaven", "name: merrow"), "It is called merrow; editions name quillhaven"),
        ):
            page = calendars.keep_calendar(self.office, self.petra, text, self.page().revision)
            with self.subTest(why), self.assertRaisesRegex(NotReady, why):
                calendars.ask_for_calendar(self.office, self.petra)
        self.assertEqual(("It is called merrow; editions name quillhaven.",), page.differs)
        hours = whole.replace('"16:30"', '"15:30"').replace("[Monday, ", "[Saturday, Monday, ")
        page = calendars.keep_calendar(self.office, self.petra, hours, page.revision)
        self.assertEqual(("Other days of the week are working days.", "The hours of the office are others."), page.differs)
        for who in (self.imre, self.odalys):
            with self.assertRaises(NotAllowed):
                calendars.calendar_page(self.office, who)
        with self.assertRaises(NotAllowed):
            calendars.keep_calendar(self.office, self.lena, whole, page.revision)
