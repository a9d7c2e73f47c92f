"""Two cases paid at once: chosen, declined first, approved, one receipt in both; a payment that was charged back is explained."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.looks import Looks


class Basket(Looks):
    def test_two_cases_are_paid_at_once(self) -> None:
        page = self.come_in("Odalys Renn")
        page.get_by_role("link", name="Pay several at once").click()
        rows = page.locator(".till-basket li")
        expect(rows).to_have_count(2)
        screen = page.get_by_role("status")
        expect(screen).to_contain_text("294.35")
        self.look(page, "several cases to be paid")
        first = rows.first.get_by_role("checkbox")
        first.uncheck()
        expect(page.get_by_text("Choose at least two cases.")).to_be_visible()
        expect(page.get_by_role("button", name="Pay by card")).to_be_disabled()
        first.check()
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "several cases to be paid on a narrow screen")
        page.set_viewport_size({"width": 1280, "height": 800})
        page.get_by_role("button", name="Pay by card").click()
        page.get_by_role("button", name="Hold a card without money to it").click()
        expect(screen).to_contain_text("Declined")
        page.get_by_role("button", name="Try again").click()
        page.get_by_role("button", name="Hold a good card to it").click()
        expect(page.get_by_role("heading", name="Paid. One receipt stands in each case.")).to_be_visible()
        self.look(page, "several cases paid")
        told = []
        for n in range(2):
            reference = rows.nth(n).locator(".second").inner_text()
            answer = page.request.get(f"{self.server.address}/api/cases/{reference}")
            paid = [m["text"] for m in answer.json()["story"] if m["paper"] == "payment receipt"]
            self.assertTrue(paid)
            entry = [m["no"] for m in answer.json()["story"] if m["paper"] == "payment receipt"][-1]
            pdf = page.request.get(f"{self.server.address}/api/cases/{reference}/papers/{entry}")
            found = re.search(r"receipt-([\d-]+)\.pdf", pdf.headers["content-disposition"])
            assert found
            told.append(found[1])
        self.assertEqual(told[0], told[1])
        page.get_by_role("link", name="To my cases").click()
        expect(page.get_by_role("link", name="Pay several at once")).to_have_count(0)


class ChargedBack(Looks):
    def test_a_payment_that_was_charged_back_is_explained(self) -> None:
        desk = self.come_in("Imre Holt")
        page = self.come_in("Odalys Renn", at="/cases")
        link = page.get_by_role("link", name="Horns of Merrow").first
        link.click()
        page.wait_for_url("**/cases/*")
        reference = page.url.rpartition("/")[2]
        expect(page.locator(".jc-money-explained")).to_have_count(0)
        key = desk.request.get(f"{self.server.address}/api/cases/{reference}").json()["assessment"]["account"]["payments"][0][
            "key"
        ]
        csrf = desk.request.get(f"{self.server.address}/api/session").json()["csrf"]
        told = {"payment": key, "because": "The bank took it back."}
        answer = desk.request.post(
            f"{self.server.address}/api/cases/{reference}/charge-backs",
            data=told,
            headers={"X-Jolly-Clerk": csrf, "If-Match": "*"},
        )
        self.assertEqual(answer.status, 200, answer.text())
        explained = page.locator(".jc-money-explained")
        expect(explained).to_contain_text("was charged back on")
        expect(explained).to_contain_text("(The bank took it back). It counts as not paid.")
        self.look(page, "a payment that was charged back, explained")
