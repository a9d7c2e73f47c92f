"""A rule-keeper writes the bell-ringing permit with nothing but the browser; a lead confirms it; past cases tell what a changed fee would do."""

from __future__ import annotations

import io
import json
import re
from datetime import date, timedelta
from pathlib import Path

from playwright.sync_api import Page, expect
from sqlalchemy import select

from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.keeping.importing import import_cases
from jolly_clerk.office.lifetimes import EDITION_AHEAD
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import person
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case
from tests.browser.house import Forked, go
from tests.browser.looks import Looks
from tests.browser.steps import file_it, on_to, pay, sign
from tests.folders import new_folder
from tests.office.test_importing import line_of

PAST = 200


class Rules(Looks):
    @classmethod
    def lay(cls, folder: Path) -> None:
        """Two hundred stall licences more, as past cases."""
        office = open_office(folder, demo=True)
        with read_session(office.engine) as session:
            wanted = select(Case.reference).where(Case.kind == "TL", Case.version == 1, Case.tray == "intake")
            reference = session.scalars(wanted.order_by(Case.reference)).first() or ""
        loaded, came, report = load_case(office, person(office, "maud"), reference), new_folder(), io.StringIO()
        for n, a in enumerate(loaded.dossier.attachments):
            (came / f"{n}.pdf").write_bytes(office.vault.get(a.sha256))
        lines = io.StringIO("\n".join(json.dumps(line_of(loaded, 500 + n)) for n in range(PAST)))
        done = list(import_cases(folder, lines, came, report, 0))[-1]
        assert done.taken == PAST, report.getvalue()[:300]
        office.close()

    def type_over(self, page: Page, was: str, now: str) -> None:
        """Find a piece of the text by the editor's own search, and type over it."""
        page.locator(".cm-content").focus()
        page.keyboard.press("Control+Home")
        page.keyboard.press("Control+f")
        page.keyboard.type(was)
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        page.keyboard.type(now)

    def says(self, page: Page, text: str) -> None:
        expect(page.locator(".rules-says")).to_contain_text(text)

    def test_the_bell_ringing_permit(self) -> None:
        page = self.come_in("Petra Lune")
        expect(page.get_by_role("heading", name="Rulebooks")).to_be_visible()
        self.look(page, "the rulebooks")
        page.get_by_label("A new kind, called by two letters").fill("BP")
        page.get_by_role("button", name="Begin it from a pattern").click()
        expect(page.locator(".cm-content")).to_be_visible()
        self.says(page, "No faults")
        self.type_over(page, "A new permit", "Bell-ringing permit")
        expect(page.get_by_role("heading", name="Bell-ringing permit")).to_be_visible()
        self.type_over(page, "flat: 10.00", "amount: 10.00 + 3.00 * tower.bell")
        self.says(page, "1 fault")
        expect(page.get_by_label("What the check says")).to_contain_text("nothing is called `tower.bell`")
        expect(page.get_by_role("button", name="Ask for confirmation")).to_be_disabled()
        self.look(page, "an edition with a fault")
        # a key is offered as it is typed, and the words of a choice after it
        self.type_over(page, "documents: []", "  - id: tower\n")
        page.keyboard.type("tit")
        expect(page.locator(".cm-tooltip-autocomplete")).to_contain_text("title")
        page.keyboard.press("Escape")
        for _ in "tit":
            page.keyboard.press("Backspace")
        page.keyboard.insert_text(
            "title: The tower\n    questions:\n"
            '      - {id: bells, ask: How many bells?, type: count, at_least: 1, at_most: 20, article: "2"}\n\ndocuments: []'
        )
        self.type_over(page, "tower.bell,", "tower.bells,")
        self.type_over(page, "who: {name: Odalys Renn}", "tower: {bells: 5}\n")
        page.keyboard.insert_text("who: {name: Odalys Renn}")
        self.says(page, "0 of 1 examples")
        page.get_by_role("button", name="Examples", exact=True).last.click()
        expect(page.locator(".rules-examples")).to_contain_text("fee permit should be 10.00, and is 25.00")
        self.type_over(page, "{permit: 10.00}", "{permit: 25.00}")
        self.type_over(page, "{at filing: 10.00}", "{at filing: 25.00}")
        self.says(page, "1 of 1 examples")
        page.get_by_role("button", name="As it is seen").click()
        expect(page.locator(".rules-fees")).to_contain_text("EUR 25.00")
        page.get_by_label("Part", exact=True).select_option(label="The tower")
        bells = page.locator(".rules-form").get_by_label("How many bells?")
        expect(bells).to_have_value("5")
        bells.fill("21")
        expect(page.locator(".rules-form")).to_contain_text("21 is above 20, the most that can be entered here")
        bells.fill("8")
        expect(page.locator(".rules-fees")).to_contain_text("EUR 34.00")
        self.look(page, "the form of an edition that is being written, filled in")
        page.get_by_role("button", name="Back to the example").click()
        expect(bells).to_have_value("5")
        page.get_by_role("button", name="Ask for confirmation").click()
        expect(page.get_by_text("laid before a lead by Petra Lune")).to_be_visible()
        lead = self.come_in("Maud Ferrier")
        self.to_the_office(lead, "Rulebooks")
        lead.get_by_role("link", name="waits for a lead").click()
        expect(lead.get_by_role("heading", name="Bell-ringing permit")).to_be_visible()
        lead.get_by_role("button", name="Confirm and publish").click()
        lead.get_by_role("dialog").get_by_role("button", name="Confirm and publish").click()
        kind = lead.locator(".rules-kinds > li", has_text="Bell-ringing permit")
        expect(kind).to_contain_text("to come")
        kind.get_by_role("button", name="take it back").click()
        lead.get_by_role("dialog").get_by_role("button", name="Take it back").click()
        expect(kind).to_contain_text("being written")
        self.from_tomorrow(page, lead)
        for window in (page, lead):
            window.close()  # it would ask a server that is gone
        self.server.stop()
        type(self).server = Forked(self.server.folder, "--days-ahead", "1", settings=self.settings)
        self.addClassCleanup(self.server.stop)
        self.filed_under_it()

    def from_tomorrow(self, page: Page, lead: Page) -> None:
        """The rule-keeper lets it begin tomorrow, no sooner; the lead confirms once more."""
        today = date.today()
        tomorrow = today + timedelta(days=1)
        go(page, f"{self.server.address}/rules")
        page.locator(".rules-kinds > li", has_text="Bell-ringing permit").get_by_role("link", name="being written").click()
        expect(page.get_by_role("heading", name="Bell-ringing permit")).to_be_visible()
        self.type_over(page, f"in_force: {(today + EDITION_AHEAD).isoformat()}", f"in_force: {today.isoformat()}")
        expect(page.get_by_text("An edition begins tomorrow at the earliest")).to_be_visible()
        expect(page.get_by_role("button", name="Ask for confirmation")).to_be_disabled()
        self.type_over(page, f"in_force: {today.isoformat()}", f"in_force: {tomorrow.isoformat()}")
        page.get_by_role("button", name="Ask for confirmation").click()
        expect(page.get_by_text("laid before a lead by Petra Lune")).to_be_visible()
        lead.reload()
        lead.get_by_role("link", name="waits for a lead").click()
        lead.get_by_role("button", name="Confirm and publish").click()
        lead.get_by_role("dialog").get_by_role("button", name="Confirm and publish").click()
        expect(lead.locator(".rules-kinds > li", has_text="Bell-ringing permit")).to_contain_text("to come")

    def filed_under_it(self) -> None:
        """Somebody who knows nothing of it finds it, is told what it costs, files and pays; the officer has it in the tray."""
        page = self.come_in("Odalys Renn")
        page.get_by_role("link", name="New filing").click()
        page.get_by_role("button", name="Begin: Bell-ringing permit").click()
        expect(page.get_by_role("heading", name="Yes, it is needed")).to_be_visible()
        page.get_by_label("How many bells?").fill("5")
        expect(page.get_by_role("complementary").last).to_contain_text("25.00")
        self.look(page, "the way in of a kind that was just written")
        page.get_by_role("button", name="Begin the filing with these answers").click()
        page.wait_for_url("**/filing/**")
        on_to(page, "Promise and sign")
        sign(page, "Odalys Renn")
        reference = file_it(page)
        pay(page)
        officer = self.come_in("Imre Holt", at=f"/desk/{reference}")
        expect(officer.get_by_text("Signed by Odalys Renn").first).to_be_visible()
        expect(officer.get_by_role("button", name="Begin checking")).to_be_enabled()

    def test_what_a_changed_fee_would_do_to_past_cases(self) -> None:
        page = self.come_in("Petra Lune")
        kind = page.locator(".rules-kinds > li", has_text="Pavement stall licence").first
        kind.get_by_role("button", name="write a new edition of it").click()
        self.says(page, "No faults")
        page.get_by_role("button", name="Languages").click()
        expect(page.get_by_text(re.compile(r"All \d+ texts are there"))).to_be_visible()
        expect(page.locator(".rules-texts")).to_contain_text("Licença")
        self.look(page, "an edition beside its translation")
        first = page.locator(".rules-texts > div").first
        first.get_by_role("button", name="change it").click()
        first.get_by_role("textbox").fill("Lugar na calçada")
        first.get_by_role("button", name="Put it into the text").click()
        expect(first).to_contain_text("Lugar na calçada")
        self.says(page, "No faults")
        expect(page.get_by_text(re.compile("^Kept "))).to_be_visible()
        page.locator(".rules-texts dt button").nth(3).click()
        expect(page.locator(".cm-activeLine").first).to_be_visible()
        self.type_over(page, "6.50 * months", "7.50 * months")
        self.says(page, "6 of 8 examples")
        page.get_by_role("button", name="In words").click()
        expect(page.locator(".rules-differs")).to_contain_text("6.50 * months")
        page.get_by_role("button", name="As it is seen").click()
        expect(page.locator(".rules-fees s").first).to_be_visible()  # what it was before, beside what it is
        page.get_by_role("button", name="Past cases").click()
        page.get_by_role("button", name="Try it on past cases").click()
        expect(page.get_by_text("would differ")).to_be_visible(timeout=60_000)
        told = page.locator(".rules-past").inner_text()
        self.assertGreaterEqual(max(int(n) for n in re.findall(r"\d+", told)), PAST, told[:300])
        expect(page.locator(".rules-past")).to_contain_text("due after the check")
        expect(page.locator(".rules-past tbody tr").first).to_be_visible()
        self.look(page, "past cases under another edition")


class TheCalendar(Looks):
    def test_it_is_written_by_one_and_confirmed_by_another(self) -> None:
        keeper = self.come_in("Petra Lune")
        keeper.get_by_role("link", name="Calendar of the office").click()
        text = keeper.get_by_label("Text of the calendar")
        whole = text.input_value()
        text.fill(whole.replace("month: 10, day: 19", "month: 13, day: 19"))
        keeper.get_by_role("button", name="Keep and look it over").click()
        faults = keeper.get_by_role("list", name="What the check says")
        expect(faults).to_contain_text("line ")
        self.look(keeper, "a calendar with a fault")
        expect(keeper.get_by_role("button", name="Ask for confirmation")).to_be_disabled()
        told = whole.replace("month: 10, day: 19", "month: 10, day: 20").replace("version: 2026-01", "version: 2026-02")
        text.fill(told)
        keeper.get_by_role("button", name="Keep and look it over").click()
        days = keeper.get_by_role("region", name="Closed days")
        expect(days.locator("li.new").first).to_contain_text("Lantern Day")
        expect(days.locator("li.gone").first).to_contain_text("19 Oct")
        self.look(keeper, "a calendar and what it changes")
        keeper.get_by_role("button", name="Ask for confirmation").click()
        expect(keeper.get_by_text("laid before a lead by Petra Lune")).to_be_visible()
        lead = self.come_in("Maud Ferrier", at="/rules/calendar")
        lead.get_by_role("button", name="Confirm it").click()
        lead.get_by_role("dialog").get_by_role("button", name="Confirm it").click()
        expect(lead.get_by_text("version 2026-02")).to_be_visible()
        expect(lead.get_by_role("button", name="Confirm it")).to_have_count(0)
