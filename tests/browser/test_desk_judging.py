"""Judging by the evidence: brought to the eye, confirmed with the rest, in a table; asked in the right place; nothing waits unseen."""

from __future__ import annotations

import ctypes
import re

import pypdfium2
from playwright.sync_api import Locator, Worker, expect

from tests.browser.desks import GROUP, INVENTION, STALL, STALL_ASKED, TRIAL, WITH_CHANGE, WORKS, Desks
from tests.browser.house import go
from tests.browser.steps import attach, sign_again, typed_plan, unfold

SEEN = """() => {
  const room = document.querySelector(".desk-sheet").getBoundingClientRect();
  return [...document.querySelectorAll(".desk-sheet .marked")].some((m) => {
    const box = m.getBoundingClientRect();
    return box.top < room.bottom && box.bottom > room.top;
  });
}"""


def said_and_linked(pdf: bytes) -> tuple[str, list[str]]:
    """The words of the first page, and where its links lead."""
    document = pypdfium2.PdfDocument(pdf)
    page, raw = document[0], pypdfium2.raw
    at, link, found = ctypes.c_int(0), raw.FPDF_LINK(), []
    while raw.FPDFLink_Enumerate(page.raw, ctypes.byref(at), ctypes.byref(link)):
        action = raw.FPDFLink_GetAction(link)
        size = raw.FPDFAction_GetURIPath(document.raw, action, None, 0)
        kept = ctypes.create_string_buffer(size)
        raw.FPDFAction_GetURIPath(document.raw, action, kept, size)
        found.append(kept.value.decode())
    return " ".join(page.get_textpage().get_text_bounded().split()), found


class Evidence(Desks):
    def test_what_is_looked_at_is_in_sight_and_so_are_the_keys_that_judge(self) -> None:
        for reference, who in ((WORKS, "Imre Holt"), (INVENTION, "Imre Holt"), ("PL-26-00006-A", "Imre Holt")):
            page = self.desk(reference, who)
            workers: list[Worker] = []
            self.addCleanup(page.close)
            page.on("worker", lambda worker, to=workers: to.append(worker))
            unfold(page)
            page.keyboard.press("t")  # as a list
            for row in page.locator(".desk-check:not(.quiet)").all():
                row.click()
                expect(page.locator(".desk-evidence")).to_have_attribute("aria-busy", "false")  # the mark comes first
                with self.subTest(reference, row=row.inner_text()):
                    expect(page.locator(".desk-judge button").first).to_be_in_viewport()
                    pressed = page.locator(".desk-switch [aria-pressed=true]").inner_text()
                    if pressed.startswith("Answers"):
                        self.assertTrue(page.evaluate(SEEN), "nothing that is marked is in sight")
                    elif pressed.startswith("Document"):
                        expect(page.locator("[data-drawn=true], .jc-pdf img, .jc-pdf-trouble").first).to_be_visible()
                    else:
                        expect(page.get_by_role("group", name="The account")).to_be_visible()
            # one takes a tenth of a second to start, so a few go from file to file
            self.assertLessEqual(len(workers), 3)

    def test_a_page_is_as_wide_as_the_room_moved_by_keys_and_its_size_is_kept(self) -> None:
        page = self.desk(WORKS)
        unfold(page)
        page.locator(".desk-check", has_text="Site plan, to scale").click()
        sheet, room = page.locator(".jc-pdf-sheet"), page.locator(".jc-pdf-room")
        expect(page.locator("[data-drawn=true]")).to_be_visible()
        width = sheet.bounding_box()["width"]  # type: ignore[index]
        self.assertGreater(width, room.bounding_box()["width"] - 20)  # type: ignore[index]
        for _ in range(3):
            page.keyboard.press("+")
        self.until(lambda: sheet.bounding_box()["width"] > width * 1.8)  # type: ignore[index]
        before = room.evaluate("room => room.scrollTop")
        page.keyboard.press("Space")
        self.until(lambda: room.evaluate("room => room.scrollTop") > before)
        page.keyboard.press("PageUp")
        page.locator(".desk-check", has_text="Sections").click()
        self.until(lambda: sheet.count() == 1 and (sheet.bounding_box() or {"width": 0})["width"] > width * 1.8)
        for key, pane in (("a", "Answers"), ("j", "Account"), ("r", "Registers"), ("x", "Talk"), ("e", "Document")):
            page.keyboard.press(key)
            expect(page.locator(".desk-switch [aria-pressed=true]")).to_contain_text(pane)

    def test_the_newest_file_comes_first_and_what_was_not_found_in_it_is_said(self) -> None:
        page = self.come_in("Odalys Renn", at="/cases/BW-26-00411-W")
        plan = page.locator(".answering-point").first
        expect(plan).to_be_visible()
        newer = typed_plan((200, 400, "a plan that states no distance"))
        page.get_by_label("File for Site plan, to scale").first.set_input_files(
            {"name": "newest.pdf", "mimeType": "application/pdf", "buffer": newer}
        )
        expect(page.get_by_role("link", name="newest.pdf").first).to_be_visible()
        for words in page.get_by_label("Your answer in words").all():
            words.fill("Here it is.")
        sign_again(page, "Odalys Renn")
        page.get_by_role("button", name="Send the answers").click()
        expect(page.get_by_text("Your answers are sent.", exact=False)).to_be_visible()
        desk = self.come_in("Imre Holt", at="/desk/BW-26-00411-W")
        desk.get_by_role("button", name="The whole checklist").click()
        unfold(desk)
        desk.locator(".desk-check", has_text="Site plan, to scale").click()
        expect(desk.locator(".desk-bar b").first).to_have_text("newest.pdf")
        expect(desk.locator(".desk-not-found").first).to_contain_text("Not found in this file: Distance to high water")

    def test_declared_beside_counted_with_the_fee_by_each(self) -> None:
        page = self.desk(INVENTION)
        unfold(page)
        page.locator(".desk-check", has_text="Number of claims").click()
        table = page.locator(".desk-rule table", has_text="The fee hangs on it")
        expect(table).to_contain_text("as declared: 12")
        expect(table.locator(".num")).to_have_text(["due at filing", "836.00", "760.00"])


class Together(Desks):
    def test_a_group_is_a_table_that_is_judged_by_arrows_and_one_key(self) -> None:
        page = self.desk(GROUP)
        page.keyboard.press("n")
        table = page.get_by_role("group", name="Persons")
        expect(table.locator("tbody tr")).to_have_count(3)
        first = table.get_by_role("button", name=re.compile("^Arrives before leaving: Person 1, Basil Rook: .+, met$"))
        expect(first).to_have_attribute("aria-current", "true")
        for _ in range(3):
            page.keyboard.press("ArrowRight")
        page.keyboard.press("ArrowDown")
        lines = table.locator("[aria-current=true]")
        expect(lines).to_have_attribute("aria-label", "Check digits are right: Person 2, Hanna Rook: 1, in doubt")
        expect(page.locator(".desk-bar b").first).to_have_text("passport-2.pdf")  # the evidence beneath
        before = self.judged(page)
        page.keyboard.press("ArrowRight")
        page.keyboard.press("m")
        expect(page.locator(".desk-list h2 > span")).to_have_text(re.compile(f"^{before + 1} of"))
        expect(lines).to_have_attribute("aria-label", re.compile("^Passport: Person 2"))  # on to what a person has to read
        page.keyboard.press("u")
        expect(lines).to_have_attribute("aria-label", re.compile("^Not more than 90 days in any 180: Person 2"))
        page.keyboard.press("t")
        expect(table).to_have_count(0)
        page.keyboard.press("t")
        expect(table).to_be_visible()

    def test_the_sites_of_a_trial_stand_in_one_table_whatever_their_lanes(self) -> None:
        page = self.desk(TRIAL)
        table = page.get_by_role("group", name="The sites")
        expect(table.locator("tbody tr")).to_have_count(3)
        page.keyboard.press("ArrowUp")  # the second site, in a lane of its own
        lanes = page.get_by_role("navigation", name="Parts that are judged by themselves")
        expect(lanes.locator("[aria-current]")).to_contain_text("Near Skerry House")
        expect(table.locator("tr.chosen th")).to_have_text("Site 2, Near Skerry House")
        page.keyboard.press("0")
        expect(lanes.locator("[aria-current]")).to_contain_text("Far Hut Clinic")

    def look_over(self, first: Locator) -> None:
        """Move on until all of it was in sight."""
        further = first.get_by_text("not in sight yet")
        for _ in range(40):
            if further.count() == 0:
                return
            first.page.keyboard.press("Space")
            first.page.wait_for_timeout(250)
        self.fail(further.inner_text())

    def test_only_what_was_in_sight_is_confirmed(self) -> None:
        page = self.desk(GROUP)
        rest = [r for r in self.case(page, GROUP)["assessment"]["requirements"] if r["confirmable"]]
        page.keyboard.press("c")
        first = page.get_by_role("dialog", name=re.compile(f"^Look over: {len(rest)} met"))
        yes = first.get_by_role("button", name="Confirm")
        expect(first.locator(".rest-sheet canvas").first).to_be_visible()
        expect(first.get_by_text("not in sight yet")).to_be_visible()
        self.assertLess(int(re.sub(r"\D", "", yes.inner_text())), len(rest))
        self.look_over(first)
        expect(yes).to_contain_text(f"Confirm {len(rest)} requirements")

    def test_the_rest_is_confirmed_after_a_list_to_look_over(self) -> None:
        page = self.desk(WORKS)
        case = self.case(page, WORKS)["assessment"]["requirements"]
        rest = {r["id"] for r in case if r["confirmable"]}
        faulty = {r["title"] for r in case if r["asked"] and r["proposed"] in ("wanting", "in doubt")}
        self.assertTrue(rest)
        before = self.judged(page)
        page.keyboard.press("c")
        first = page.get_by_role("dialog", name=re.compile("^Look over"))
        self.look_over(first)
        expect(first.get_by_role("button", name="Confirm")).to_contain_text(f"Confirm {len(rest)} requirements")
        for title in faulty:
            expect(first.locator("li b").get_by_text(title, exact=True)).to_have_count(0)
        page.keyboard.press("Enter")
        expect(page.locator(".desk-list h2 > span")).to_have_text(re.compile(f"^{before + len(rest)} of"))
        given = {r["id"] for r in self.case(page, WORKS)["assessment"]["requirements"] if r["judged"]}
        self.assertLessEqual(rest, given)
        page.keyboard.press("u")  # and undone in one
        expect(page.locator(".desk-list h2 > span")).to_have_text(re.compile(f"^{before} of"))


class Asking(Desks):
    def test_reasons_fit_what_is_there(self) -> None:
        page = self.desk(STALL)
        unfold(page)
        page.locator(".desk-check", has_text="Food").first.click()
        page.keyboard.press("w")
        offers = page.locator(".desk-point .desk-offers")
        expect(offers).to_contain_text("Not readable")
        expect(offers).not_to_contain_text("Nothing attached")

    def test_a_letter_in_the_language_of_the_case_with_a_link_to_each_point(self) -> None:
        desk = self.come_in("Brisa Quay")
        told = self.case(desk, STALL_ASKED)
        point = told["assessment"]["rounds"][0]["points"][0]
        self.assertTrue(point["title"].startswith("Envie de novo: "), point["title"])
        no = next(m["no"] for m in told["story"] if m["paper"] == "letter")
        pdf = desk.request.get(f"{self.server.address}/api/cases/{STALL_ASKED}/papers/{no}").body()
        said, links = said_and_linked(pdf)
        self.assertIn("Responda por favor a todos os pontos", said)
        self.assertIn("Responda a este ponto:", said)
        self.assertNotIn("Please", said)
        self.assertTrue(any(link.endswith(f"/cases/{STALL_ASKED}?point=1") for link in links), links)
        applicant = self.come_in("Corvin Pell", at=f"/cases/{STALL_ASKED}?point=1")
        expect(applicant.locator('[data-point="1"]')).to_be_focused()

    def test_what_is_asked_besides_has_a_place_for_a_file(self) -> None:
        page = self.desk("BW-26-00413-T", "Brisa Quay")
        page.keyboard.press("o")
        page.keyboard.type("something else")
        page.keyboard.press("Enter")
        page.get_by_label("What is it called?").fill("Photograph of the quay wall")
        page.get_by_label("What may answer it?").select_option(label="a file")
        page.get_by_label("What would put it right?").fill("Send a photograph of the quay wall.")
        page.locator(".desk-more").get_by_role("button", name="Ask for something else").click()
        expect(page.locator(".desk-foot")).to_contain_text("1 point")
        page.keyboard.press("l")
        page.get_by_role("button", name="Send and pause the clock").click()
        expect(page.get_by_role("heading", name="The letter is sent")).to_be_visible()
        applicant = self.come_in("Tamsin Oake", at="/cases/BW-26-00413-T")
        attach(applicant, "Photograph of the quay wall", "quay.pdf", typed_plan((200, 400, "the wall")))
        sign_again(applicant, "Tamsin Oake")
        applicant.get_by_role("button", name="Send the answers").click()
        expect(applicant.get_by_text("Your answers are sent.", exact=False)).to_be_visible()
        go(page, f"{self.server.address}/desk/BW-26-00413-T")
        expect(page.locator(".desk-answer.chosen")).to_contain_text("Photograph of the quay wall")
        unasked = page.get_by_role("heading", name=re.compile("^Changed without being asked"))
        expect(unasked).to_contain_text("0")

    def test_a_question_about_a_change_stays_with_the_change(self) -> None:
        page = self.desk(WITH_CHANGE)
        standings = {r["id"]: (r["standing"], r["judged"]) for r in self.case(page, WITH_CHANGE)["assessment"]["requirements"]}
        page.locator(".desk-answer-head", has_text="Floor area").click()
        page.keyboard.press("q")
        page.keyboard.type("Why is it smaller now?")
        page.get_by_role("button", name="Put it into the next letter").click()
        changed = page.locator(".desk-answer", has_text="Floor area")
        expect(changed).to_contain_text("asked in the next letter")
        expect(changed.get_by_role("button", name="Take it")).to_have_count(0)
        after = self.case(page, WITH_CHANGE)["assessment"]
        self.assertEqual(
            standings, {r["id"]: (r["standing"], r["judged"]) for r in after["requirements"] if r["kind"] != "added"}
        )
        self.assertEqual([p["places"][0]["ref"] for p in after["points"] if p["requirement"].startswith("added")], ["works.area"])

    def test_a_fee_that_is_missing_is_asked_with_its_amount(self) -> None:
        page = self.desk(INVENTION)
        case = self.case(page, INVENTION)["assessment"]
        self.assertEqual(case["account"]["open"], "0.00")
        desk = self.come_in("Imre Holt")
        paid = self.case(desk, WITH_CHANGE)["assessment"]["account"]["paid"]
        asked = next(r for r in self.case(desk, WITH_CHANGE)["assessment"]["requirements"] if r["kind"] == "fee")
        if asked["proposed"] == "wanting":
            self.assertIn(str(paid), asked["put_right"])

    def test_what_more_time_costs_is_told_before_it_is_given(self) -> None:
        page = self.desk("IP-26-00005-M", "Brisa Quay")
        page.keyboard.press("o")
        page.keyboard.type("more time")
        page.keyboard.press("Enter")
        expect(page.locator(".desk-more")).to_contain_text("It costs the applicant 90.00, which is to be paid then.")
