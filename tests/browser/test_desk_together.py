"""The desk on a slow line and with two officers at once: nothing is lost, doubled or overwritten; keys of the answers view."""

from __future__ import annotations

import random
import re
from datetime import date

from playwright.sync_api import Page, expect

from tests import SEED
from tests.browser.desks import TRIAL, WITH_CHANGE, WORKS, Desks
from tests.browser.test_desk_judging import said_and_linked

LETTER_OUT = "BW-26-00405-E"
BEING_CHECKED = "BW-26-00413-T"
#: every answer of the office comes so much later on the slow line, in milliseconds
LATE = 600
#: two officers are tried in so many random orders, each of so many steps
ORDERS, STEPS = 5, 12


class AnswersKeys(Desks):
    def test_closing_what_is_still_wanting_needs_a_reason(self) -> None:
        page = self.desk(f"{TRIAL}?lane=")
        point = page.get_by_role("region", name="Point 1")
        expect(point.locator(".desk-now")).to_contain_text("The machine still says: ")
        point.locator(".desk-answer-head").click()
        page.keyboard.press("c")
        line = page.get_by_label("Why is it met all the same?")
        expect(line).to_be_focused()
        page.keyboard.press("Escape")
        expect(point).not_to_contain_text("closed")
        page.keyboard.press("c")
        page.keyboard.type("The insurer wrote: the whole sum from June.")
        page.keyboard.press("Enter")
        expect(point).to_contain_text("closed")
        told = {r["id"]: r for r in self.case(page, TRIAL)["assessment"]["requirements"]}
        self.assertTrue(told["insured-enough"]["overruled"])
        self.assertIn("the whole sum from June", told["insured-enough"]["given"]["reason"])
        page.keyboard.press("u")
        expect(point).not_to_contain_text("closed")

    def test_the_answers_have_the_keys_of_the_desk(self) -> None:
        page = self.desk(WITH_CHANGE, "Brisa Quay")
        which = page.get_by_role("group", name="What to look at")
        for key, name in (("r", "Registers"), ("x", "Talk")):
            page.keyboard.press(key)
            expect(which.get_by_role("button", name=name)).to_have_attribute("aria-pressed", "true")
            page.keyboard.press(key)  # and back
            expect(which.get_by_role("button", name="Both versions")).to_have_attribute("aria-pressed", "true")
        page.keyboard.press("?")
        expect(page.get_by_role("dialog", name=re.compile("[Kk]eys"))).to_be_visible()
        page.keyboard.press("Escape")
        page.keyboard.press("d")
        point = page.get_by_role("region", name="Point 1")
        expect(point).to_contain_text("in doubt")
        page.keyboard.press("u")
        expect(point).not_to_contain_text("in doubt")
        page.keyboard.press("a")
        words = page.get_by_label("Ask again, in these words")
        expect(words).to_be_focused()
        page.keyboard.press("Escape")
        expect(words).to_have_count(0)


class Letters(Desks):
    def test_a_letter_that_came_back_is_written_anew(self) -> None:
        page = self.desk(LETTER_OUT)
        before = self.case(page, LETTER_OUT)
        for step in ("letter came back", "send the letter again"):
            page.keyboard.press("o")
            page.get_by_role("combobox").fill(step)
            expect(page.get_by_role("option")).to_have_count(1)
            page.keyboard.press("Enter")
            page.locator(".desk-more form button[type=submit]").click()
            expect(page.locator(".desk-more form")).to_have_count(0)
        page.keyboard.press("Escape")
        leaves = page.locator(".desk-leaving, .jc-leaving").get_by_role("button", name="Send now")
        if leaves.count():
            leaves.first.click()
        self.until(lambda: self.case(page, LETTER_OUT)["assessment"]["clock"]["step"] == "answers")
        now = self.case(page, LETTER_OUT)
        papers = [m for m in now["story"] if m["paper"] and m["no"] > before["revision"]]
        self.assertTrue(papers)
        said, _ = said_and_linked(
            page.request.get(f"{self.server.address}/api/cases/{LETTER_OUT}/papers/{papers[-1]['no']}").body()
        )
        due = date.fromisoformat(now["assessment"]["rounds"][-1]["due"])
        self.assertGreater(due, date.fromisoformat(before["assessment"]["rounds"][-1]["due"]))
        self.assertIn(f"Please answer all points by {due:%a} {due.day} {due:%b %Y}", said)


class SlowLine(Desks):
    def test_keys_faster_than_the_line_overwrite_nothing(self) -> None:
        page = self.desk(WORKS)
        sent: list[tuple[str, str]] = []
        slow = {"offline": False, "latency": LATE, "downloadThroughput": -1, "uploadThroughput": -1}
        self.addCleanup(page.close)
        line = page.context.new_cdp_session(page)
        line.send("Network.enable")
        line.send("Network.emulateNetworkConditions", slow)
        page.on("request", lambda r: sent.append((r.post_data_json["requirement"], r.post_data_json["standing"])) if r.url.endswith("/judgements") else None)  # fmt: skip
        before = self.judged(page)
        asked = [r for r in self.case(page, WORKS)["assessment"]["requirements"] if r["asked"] and not r["judged"]]
        self.assertGreater(len(asked), 8)
        dice = random.Random(SEED)
        for _ in asked:
            page.keyboard.press("d")
            page.wait_for_timeout(dice.randrange(40, 240))  # some keys fall just between an answer and its showing
        expect(page.locator(".desk-list h2 > span")).to_have_text(re.compile(f"^{before + len(asked)} of"), timeout=60_000)
        self.assertEqual(len({id_ for id_, _ in sent}), len(sent), "a requirement was judged twice")
        told = {r["id"]: r["standing"] for r in self.case(page, WORKS)["assessment"]["requirements"]}
        self.assertEqual([told[id_] for id_, _ in sent], [standing for _, standing in sent])


class TwoOfficers(Desks):
    def step(self, page: Page, who: str, n: int, dice: random.Random, kept: dict[str, list[tuple[str, str]]]) -> None:
        """One step as somebody does it at the screen; what was acknowledged is noted."""
        what = dice.choice(("judge", "judge", "judge", "word", "note"))
        rows = page.locator(".desk-check:not(.quiet)[id^=check-]")
        row = rows.nth(dice.randrange(rows.count()))
        id_ = (row.get_attribute("id") or "").removeprefix("check-")
        row.click()
        # what the other one did may still be on its way to this page
        wanting = dict(kept["judged"]).get(id_) == "wanting"
        if what == "judge":
            key, standing = dice.choice((("d", "in doubt"), ("w", "wanting")))
            if wanting or row.locator(".jc-tab.wanting").count():
                key, standing = "d", "in doubt"  # wanting once more would only go on
            with page.expect_response(lambda r: r.url.endswith("/judgements")) as answer:
                page.keyboard.press(key)
            if answer.value.ok:
                kept["judged"].append((id_, standing))
        elif what == "word":
            if wanting:
                expect(page.locator(".desk-point textarea")).to_be_visible()
            elif not page.locator(".desk-point textarea").count():
                with page.expect_response(lambda r: r.url.endswith("/judgements")) as answer:
                    page.keyboard.press("w")
                if answer.value.ok:
                    kept["judged"].append((id_, "wanting"))
            box = page.locator(".desk-point textarea")
            expect(box).to_be_visible()
            words = f"Words of {who}, number {n}."
            box.fill(words)
            with page.expect_response(lambda r: r.url.endswith("/words")) as answer:
                box.blur()
            if answer.value.ok:
                kept["words"].append((id_, words))
        else:
            page.keyboard.press("x")
            note = page.get_by_label("A note for the office")
            note.fill(f"Note of {who}, number {n}.")
            with page.expect_response(lambda r: r.url.endswith("/notes")) as answer:
                page.get_by_role("button", name="Keep the note").click()
            if answer.value.ok:
                kept["notes"].append((who, f"Note of {who}, number {n}."))
            page.keyboard.press("x")

    def test_two_officers_in_random_orders_lose_and_double_nothing(self) -> None:
        pages = {who: self.desk(BEING_CHECKED, who) for who in ("Imre Holt", "Brisa Quay")}
        for page in pages.values():
            expect(page.locator(".desk-check").first).to_be_visible()
        kept: dict[str, list[tuple[str, str]]] = {"judged": [], "words": [], "notes": []}
        for order in range(ORDERS):
            dice = random.Random(SEED + order)
            for n in range(STEPS):
                who = dice.choice(list(pages))
                self.step(pages[who], who.split()[0], order * STEPS + n, dice, kept)
            told = self.case(pages["Imre Holt"], BEING_CHECKED)
            now = {r["id"]: r["standing"] for r in told["assessment"]["requirements"]}
            last = dict(kept["judged"])
            self.assertEqual({id_: now[id_] for id_ in last}, last, f"order {order}")
            texts = {p["requirement"]: p["text"] for p in told["assessment"]["points"]}
            words = dict(kept["words"])
            self.assertEqual({id_: texts[id_] for id_ in words if id_ in texts}, {i: w for i, w in words.items() if i in texts})
            notes = [note["text"] for note in told["notes"]]
            self.assertEqual([n for n in notes if n.startswith("Note of ")], [text for _, text in kept["notes"]])
        self.assertGreater(len(kept["judged"]), ORDERS * STEPS // 3)
        self.assertTrue(kept["words"] and kept["notes"])
        self.troubles.clear()  # a refused step is told by the browser as well
