"""What was chosen, typed or removed is not lost: a line that breaks while files go up, a page that is left, a removal undone."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import Page, Route, expect

from tests.browser.house import BrowserTest
from tests.browser.steps import begin, field, kept, new_visa, on_to, typed_plan

TEN = [
    {"name": f"plan {n}.pdf", "mimeType": "application/pdf", "buffer": typed_plan((100, 700, f"Sheet {n}"))} for n in range(1, 11)
]


class NothingLost(BrowserTest):
    def test_the_network_is_cut_twice_while_ten_files_go_up_and_a_part_is_typed(self) -> None:
        page = self.documents()
        self.cut_at(page, 3)
        page.get_by_label("File for Site plan").set_input_files(TEN)
        lost = page.locator(".filing-not-arrived")
        expect(lost).to_contain_text(re.compile(r"\d files not arrived yet: plan \d+\.pdf, .*plan 10\.pdf"))
        expect(page.get_by_text("plan 10.pdf has not arrived. It is kept here", exact=False)).to_be_visible()
        # another part, where they are named as well; what is typed meanwhile is kept when the line is back
        on_to(page, "The place")
        expect(lost).to_contain_text("plan 10.pdf")
        page.get_by_label("Where are the works?").fill("7 Cut Line")
        page.get_by_role("link", name="Read it over").first.click()
        expect(page.get_by_role("heading", name="Read it over")).to_be_visible()
        expect(page.locator(".filing-not-arrived")).to_contain_text("plan 10.pdf")
        expect(page.get_by_role("button", name="File this application")).to_be_disabled()
        page.get_by_role("link", name="Back to the form").click()
        self.cut_at(page, 4)  # the line comes back, and breaks again
        expect(page.get_by_text("is being sent", exact=False).or_(lost).first).to_be_visible()
        self.wait_until_cut(page)
        self.mend(page)
        on_to(page, "Documents")
        for file in TEN:
            expect(page.get_by_role("link", name=str(file["name"]), exact=True)).to_be_visible(timeout=30_000)
        expect(page.get_by_role("button", name=re.compile("^remove plan"))).to_have_count(10)
        expect(lost).to_have_count(0)
        kept(page)  # files and answers come back each in their own time
        page.reload()
        on_to(page, "The place")
        expect(page.get_by_label("Where are the works?")).to_have_value("7 Cut Line")
        self.troubles.clear()  # the browser logs the requests that could not be made

    def test_what_is_typed_over_a_slow_line_stays_on_the_screen_and_is_kept(self) -> None:
        page = self.come_in("Corvin Pell")
        draft = new_visa(page)
        page.goto(f"{self.server.address}/filing/{draft}/persons")
        expect(page.get_by_role("heading", name="Persons")).to_be_visible()
        self.addCleanup(page.close)
        slow = page.context.new_cdp_session(page)
        slow.send("Network.enable")
        line = {"offline": False, "latency": 1500, "downloadThroughput": -1, "uploadThroughput": -1}
        slow.send("Network.emulateNetworkConditions", line)
        typed: dict[str, str] = {}
        # each is typed while what was typed before is on its way, and more of it waits in the line
        for step, (place, value) in enumerate(
            [
                ("1.name", "Ines"),
                ("1.name", "Ines Marrow"),
                ("2.name", "Odo Fenn"),
                ("1.born", "15 Jan 1991"),
                ("3.name", "Ida Sedge"),
            ]
        ):
            if place.endswith("name") and place not in typed:
                page.get_by_role("button", name=re.compile("^Add (the first|another) Person")).click()
            field(page, f"persons.{place}").fill(value)
            typed[place] = value
            for _ in range(7):  # longer than typing is waited for, shorter than the line takes
                page.wait_for_timeout(100)
                shown = {at: field(page, f"persons.{at}").input_value() for at in typed}
                self.assertEqual(shown, typed, f"after step {step}")
        slow.send("Network.emulateNetworkConditions", {**line, "latency": 0})
        kept(page)
        page.reload()
        for place, value in typed.items():
            expect(field(page, f"persons.{place}")).to_have_value(value)

    def test_files_that_did_not_arrive_are_sent_when_the_page_is_opened_again(self) -> None:
        page = self.documents()
        self.cut_at(page, 1)
        page.get_by_label("File for Site plan").set_input_files(TEN[:2])
        self.wait_until_cut(page)
        expect(page.locator(".filing-not-arrived")).to_contain_text("2 files not arrived yet")
        page.get_by_role("button", name="Do not send it plan 2.pdf").click()
        expect(page.locator(".filing-not-arrived")).to_contain_text("1 file not arrived yet")
        page.get_by_role("button", name="Sign out").click()
        asked = page.get_by_role("dialog", name="1 file not arrived yet: sign out and forget them?")
        asked.get_by_role("button", name="Stay").click()
        page.goto("about:blank")
        self.mend(page)
        page.goto(f"{self.server.address}/cases")  # wherever one comes back to
        page.locator(".cases-row", has_text="Building works permit").first.click()
        on_to(page, "Documents")
        expect(page.get_by_role("link", name="plan 1.pdf")).to_be_visible()
        expect(page.get_by_role("link", name="plan 2.pdf")).to_have_count(0)
        self.troubles.clear()

    def test_another_person_sends_nothing_of_what_was_left_here(self) -> None:
        page = self.documents()
        self.cut_at(page, 1)
        page.get_by_label("File for Site plan").set_input_files(TEN[:1])
        self.wait_until_cut(page)
        expect(page.locator(".filing-not-arrived")).to_be_visible()
        page.get_by_role("button", name="Sign out").click()
        page.get_by_role("dialog").get_by_role("button", name="Sign out").click()
        expect(page.get_by_text("There is no connection to the office just now", exact=False).first).to_be_visible()
        self.mend(page)
        page.route("**/api/uploads/**", lambda route: route.abort())
        page.get_by_role("button", name="Sign out").click()
        page.get_by_role("dialog").get_by_role("button", name="Sign out").click()
        page.get_by_role("button", name="Tamsin Oake").click()
        expect(page.get_by_role("heading", name="Hello, Tamsin")).to_be_visible()
        left = page.evaluate(
            """() => new Promise((done) => {
                const open = indexedDB.open("jolly-clerk");
                open.onsuccess = () => {
                    const all = open.result.transaction("files").objectStore("files").getAll();
                    all.onsuccess = () => done(all.result.length);
                };
            })"""
        )
        self.assertEqual(left, 0)
        self.troubles.clear()

    def test_what_was_removed_comes_back(self) -> None:
        page = self.documents()
        page.get_by_label("File for Site plan").set_input_files(TEN[:1])
        page.get_by_role("button", name="remove plan 1.pdf").click()
        expect(page.get_by_role("link", name="plan 1.pdf")).to_have_count(0)
        removed = page.locator(".filing-undo")
        expect(removed).to_contain_text("Removed: “plan 1.pdf”.")
        removed.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("link", name="plan 1.pdf")).to_be_visible()
        expect(removed).to_have_count(0)
        on_to(page, "People on site")
        add = page.get_by_role("button", name=re.compile("^Add "))
        for n, name in enumerate(["Wim Sark", "Ada Quell"], 1):
            add.click()
            field(page, f"people.{n}.name").fill(name)
        page.get_by_role("button", name=re.compile("^remove .* 1$")).click()
        expect(field(page, "people.1.name")).to_have_count(0)
        field(page, "people.2.name").fill("Ada Quellen")  # typed after the removal: it stays
        removed.get_by_role("button", name="Undo").click()
        expect(field(page, "people.1.name")).to_have_value("Wim Sark")
        expect(field(page, "people.2.name")).to_have_value("Ada Quellen")
        expect(page.get_by_text("Kept a moment ago")).to_be_visible()
        page.reload()
        expect(field(page, "people.1.name")).to_have_value("Wim Sark")

    def test_a_look_begun_before_a_change_does_not_take_it_off_the_screen(self) -> None:
        page = self.documents()
        page.get_by_label("File for Site plan").set_input_files(TEN[:1])
        expect(page.get_by_role("link", name="plan 1.pdf")).to_be_visible()
        page.wait_for_timeout(2500)  # it is read, nothing is looked at any more
        slow: list[tuple[Route, Any]] = []

        def hold(route: Route) -> None:
            if route.request.method == "GET" and not slow:
                slow.append((route, route.fetch()))  # the state of now, which arrives later
            else:
                route.continue_()

        page.route(re.compile(r"/api/drafts/[^/]+$"), hold)
        # as when another of its files has arrived: it is looked at again
        draft = page.url.split("/filing/")[1].split("/")[0]
        page.evaluate("(draft) => window.dispatchEvent(new CustomEvent('jolly-clerk-file-arrived', { detail: draft }))", draft)
        self.until(lambda: slow, page)
        page.get_by_role("button", name="remove plan 1.pdf").click()
        expect(page.get_by_role("link", name="plan 1.pdf")).to_have_count(0)
        late, old = slow[0]
        late.fulfill(response=old)
        page.wait_for_timeout(1000)
        expect(page.get_by_role("link", name="plan 1.pdf")).to_have_count(0)

    def test_a_look_that_fails_leaves_the_page_as_it_is(self) -> None:
        page = self.documents()
        asked = 0

        def refuse(route: Route) -> None:
            nonlocal asked
            asked += 1
            route.fulfill(status=503, json={"type": "about:blank", "title": "Busy", "status": 503, "detail": "A moment."})

        page.get_by_label("File for Site plan").set_input_files(TEN[:1])
        expect(page.get_by_role("link", name="plan 1.pdf")).to_be_visible()
        page.route(re.compile(r"/api/drafts/[^/]+$"), refuse)
        draft = page.url.split("/filing/")[1].split("/")[0]
        page.evaluate("(draft) => window.dispatchEvent(new CustomEvent('jolly-clerk-file-arrived', { detail: draft }))", draft)
        page.wait_for_timeout(1000)
        self.assertGreater(asked, 0)
        expect(page.get_by_role("link", name="plan 1.pdf")).to_be_visible()
        self.troubles.clear()

    def test_a_page_that_stood_open_while_the_program_was_renewed_is_loaded_anew(self) -> None:
        page = self.documents()
        gone = re.compile(r"/assets/(upload|ReadOver)-[^/]+\.js$")
        page.route(gone, lambda route: route.fulfill(status=404, body=""))
        page.get_by_role("link", name="Read it over").first.click()
        # nothing was renewed: it cannot be fetched just now, and says so
        expect(page.get_by_text("This page did not open. What you typed is kept.", exact=False)).to_be_visible()
        page.go_back()
        expect(page.get_by_role("heading", name="Documents")).to_be_visible()
        page.route(f"{self.server.address}/", lambda route: route.fulfill(body="<script src=/assets/index-new.js></script>"))
        with page.expect_event("load"):
            page.get_by_label("File for Site plan").set_input_files(TEN[:1])
        page.unroute_all()
        expect(page.get_by_role("link", name="plan 1.pdf")).to_be_visible(timeout=30_000)
        page.get_by_role("link", name="Read it over").first.click()
        expect(page.get_by_role("heading", name="Read it over")).to_be_visible()
        self.troubles.clear()

    def documents(self) -> Page:
        """The documents of a building works permit just begun by Corvin Pell."""
        page = self.come_in("Corvin Pell")
        begin(page, "Building works permit")
        on_to(page, "Documents")
        return page

    def cut_at(self, page: Page, piece: int) -> None:
        """Break the line to the office when so many pieces of files have gone; it stays broken for everything."""
        self.mend(page)
        self.cut, gone = False, 0

        def pass_on(route: Route) -> Any:
            nonlocal gone
            if route.request.method == "PATCH":
                gone += 1
            self.cut = self.cut or gone >= piece
            return route.abort() if self.cut else route.continue_()

        page.route("**/api/**", pass_on)

    def wait_until_cut(self, page: Page) -> None:
        self.until(lambda: self.cut, page)

    def mend(self, page: Page) -> None:
        page.unroute_all()
        self.cut = False
