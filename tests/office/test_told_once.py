"""What is told to a person is told from one place: receipts by their lines, one decision day, one zone of the office."""

from __future__ import annotations

import shutil
import unittest
from datetime import UTC, datetime, time, timedelta
from pathlib import Path
from unittest import mock

import pypdfium2
from fastapi.testclient import TestClient

from jolly_clerk.core import history as h
from jolly_clerk.demo import lay as laying
from jolly_clerk.demo.other_scenes import STALLS
from jolly_clerk.office.cases import notices, paying
from jolly_clerk.office.cases.casework import Loaded, load_case
from jolly_clerk.office.office import Who, open_office
from jolly_clerk.office.post import papers
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.office.views.case import look_at
from jolly_clerk.shelf.rulebooks import SHIPPED, editions_in
from jolly_clerk.web.app import create_app
from tests.folders import new_folder


def words_of(pdf: bytes) -> str:
    """The text of a PDF on one line."""
    document = pypdfium2.PdfDocument(pdf)
    return " ".join(" ".join(page.get_textpage().get_text_bounded() for page in document).split())


class StallLicence(unittest.TestCase):
    """A licence that costs nothing at filing, and is decided once it is paid after the check."""

    folder: Path

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = new_folder() / "office"
        complete = next(scene for scene in STALLS if scene.until == "complete")
        with mock.patch.object(laying, "SCENES", (complete,)):
            laying.lay(cls.folder)

    def setUp(self) -> None:
        folder = new_folder() / "office"
        shutil.copytree(self.folder, folder)
        self.office = open_office(folder, demo=True)
        self.addCleanup(self.office.close)
        self.applicant, self.officer = Who("tamsin", "Tamsin Oake", "applicant"), Who("jonas", "Jonas Wick", "officer")
        with self.office.engine.connect() as connection:
            self.reference = connection.exec_driver_sql("select reference from cases").scalar_one()
        self.accepted = next(e for e in self.loaded().history.entries if isinstance(e, h.Accepted))

    def loaded(self) -> Loaded:
        """The case as the officer has it."""
        return load_case(self.office, self.officer, self.reference)

    def pay(self) -> None:
        """Pay by card what is open."""
        asked = paying.ask_payment(self.office, self.applicant, self.reference)
        notices.at_stand_in(self.office, self.applicant, asked.key, "approved")

    def test_no_decision_day_is_promised_before_the_fee_is_paid(self) -> None:
        """F2: one page told two decision days, and the history kept the wrong one for good."""
        self.assertIsNone(self.accepted.target)
        told = [m.text for m in look_at(self.office, self.applicant, self.reference).story]
        self.assertIn("Accepted as complete; the decision is planned from the day on which what is due now is paid", told)
        letter = self.paper(self.loaded().history.entries.index(self.accepted) + 1)
        self.assertIn("When it is paid the market clerk decides within 10 working days.", letter)
        to_come = look_at(self.office, self.applicant, self.reference).next_steps
        self.assertEqual([(s.day, s.text) for s in to_come][-1], (None, "Decision, about 10 working days after the payment"))
        calendar = self.loaded().known.calendar
        noon = datetime.combine(calendar.working_day_from(self.accepted.at.date() + timedelta(days=1)), time(12), calendar.zone)
        self.office.now = lambda: noon.astimezone(UTC)  # after the end of the office day the next one counts
        self.pay()
        loaded = self.loaded()
        paid = loaded.known.calendar.local_day(self.office.now())
        due = loaded.known.calendar.add_working_days(paid, 10)
        self.assertEqual(loaded.assessment.clock and loaded.assessment.clock.limit_day, due)
        self.assertIn(due, [s.day for s in look_at(self.office, self.applicant, self.reference).next_steps])

    def paper(self, no: int) -> str:
        """The words of the paper that goes with an entry."""
        return words_of(papers.paper(self.office, self.loaded(), no)[1])

    def test_the_receipt_names_the_lines_it_was_for(self) -> None:
        """F1: the receipt of money due after the check spoke of a fee at filing, in one sum."""
        self.pay()
        paid = max(no for no, e in enumerate(self.loaded().history.entries, 1) if isinstance(e, h.Paid))
        receipt = self.paper(paid)
        lines = {line.title: line.amount for line in self.loaded().assessment.fees.lines if line.amount}
        self.assertEqual({str(amount) for amount in lines.values()}, {"77.50", "32.50", "6.50"})
        for title, amount in lines.items():
            self.assertRegex(receipt, f"{title}.*{amount}")
        self.assertNotIn("filing, in part", receipt)


class Zones(unittest.TestCase):
    def test_the_screen_is_told_the_zone_of_the_office(self) -> None:
        """F4: an office fourteen hours ahead told two filing days on one page."""
        shelf, folder = new_folder() / "shelf", new_folder() / "office"
        shutil.copytree(SHIPPED, shelf)
        calendar = shelf / "calendars" / "quillhaven.yaml"
        calendar.write_text(calendar.read_text("utf-8").replace("Europe/Lisbon", "Pacific/Kiritimati"), "utf-8")
        office = open_office(folder, now=lambda: datetime(2026, 11, 27, 10, 5, tzinfo=UTC))
        self.addCleanup(office.close)
        for edition in editions_in(shelf):
            publish(office, edition)
        told = TestClient(create_app(office)).get("/api/session").json()
        self.assertEqual((told["zone"], told["today"]), ("Pacific/Kiritimati", "2026-11-28"))
