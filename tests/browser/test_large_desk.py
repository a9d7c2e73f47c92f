"""A group of thirty and a trial of thirty sites on the desk: a key is no more work than a few drawings of the table."""

from __future__ import annotations

import os
from datetime import UTC, datetime
from pathlib import Path

from playwright.sync_api import expect

from jolly_clerk.demo import dossiers
from jolly_clerk.demo.stage import PEOPLE, Stage, draft_of, file_and_pay
from jolly_clerk.office.desk import checking
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import person
from jolly_clerk.office.rules.rulebooks import office_calendar
from tests.browser.house import BrowserTest, go
from tests.browser.painting import Painting
from tests.helpers import SHARED_READERS

#: so many times each key is pressed; ``make bench`` presses them more often
TIMES = int(os.environ.get("JOLLY_CLERK_KEYS", "5"))
#: so many times the work of drawing the table from nothing
MOST = 4.0


def lay(folder: Path) -> tuple[str, str]:
    """A group of thirty persons and a trial of thirty sites, both begun by Imre; gives their references."""
    office = open_office(folder, demo=True)
    office.readers = SHARED_READERS
    who = {id_: person(office, id_) for id_, *_ in PEOPLE}
    calendar = office_calendar(office)
    stage = Stage(office, who, calendar, calendar.local_day(datetime.now(UTC)), datetime.now(UTC))
    office.now = lambda: stage.instant
    people = tuple((f"Odo Fenn{chr(97 + n % 26)}{n}", 20 + n) for n in range(30))
    sites = tuple((f"House {n}", f"Ines Marrow{chr(97 + n % 26)}", 10) for n in range(1, 31))
    made = []
    for kind, (given, files) in (
        ("QV", dossiers.tour(stage.today, "Odalys Renn", "Thirty Fiddles", people, roll="P-91")),
        ("CT", dossiers.trial(stage.today, "Odalys Renn", "TH-30", "Thirty houses", "CP-26-00002-S", "Ondrelin", sites)),
    ):
        stage.back(30)
        reference = file_and_pay(stage, "odalys", draft_of(stage, "odalys", kind, given, files))
        checking.begin_checking(office, who["imre"], reference)
        made.append(reference)
    office.engine.dispose()
    return made[0], made[1]


class LargeDesk(BrowserTest):
    references: tuple[str, str]

    @classmethod
    def lay(cls, folder: Path) -> None:
        cls.references = lay(folder)

    def test_thirty_persons_and_thirty_sites(self) -> None:
        page = self.come_in("Imre Holt")
        painting = Painting(page)
        self.addCleanup(page.close)
        for reference, part in zip(self.references, ("Persons", "The sites"), strict=True):
            go(page, f"{self.server.address}/desk/{reference}")
            table = page.get_by_role("group", name=part)
            first = page.locator(".desk-check", has_text="Table of 30")
            expect(first).to_be_visible()
            first.click()
            expect(table.locator("tbody tr")).to_have_count(30)
            with self.subTest(part):
                drawn = painting.drawn(table.locator("table"))
                worked = {key: painting.key(key, TIMES) for key in ("ArrowDown", "ArrowRight", "n")}
                before = page.locator(".items-cell .jc-tab.given").count()
                worked["m"] = painting.key("m", TIMES)
                expect(page.locator(".items-cell .jc-tab.given")).not_to_have_count(before, timeout=60_000)
                told = ", ".join(f"{key} {ms:.0f} ms" for key, ms in worked.items())
                print(f"{part}, 30 rows: {told} of work to the paint, at the middle; the table from nothing {drawn:.0f} ms")
                self.assertLessEqual(max(worked.values()) / drawn, MOST)
