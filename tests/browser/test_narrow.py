"""The officer's places on a narrow screen, as at 400 %: nothing scrolls sideways; the squares keep clear of the time left."""

from __future__ import annotations

from playwright.sync_api import expect

from tests.browser.house import BrowserTest, go

WIDTHS = "() => [document.documentElement.scrollWidth, document.documentElement.clientWidth]"
OVERLAP = """() => [...document.querySelectorAll(".tray-row")].filter((row) => {
  const squares = row.querySelector(".jc-squares")?.lastElementChild?.getBoundingClientRect();
  const time = row.lastElementChild.getBoundingClientRect();
  return squares && squares.right > time.left;
}).map((row) => row.innerText)"""
PLACES = (
    "/tray",
    "/desk/BW-26-00413-T",
    "/desk/QV-26-00006-K",
    "/desk/BW-26-00409-Y",
    "/desk/CT-26-00002-E",
    "/desk/BW-26-00405-E/letter",
    "/print",
    "/erasing",
)


class Narrow(BrowserTest):
    def test_nothing_scrolls_sideways_at_four_hundred_percent(self) -> None:
        page = self.come_in("Imre Holt", 320, 640)
        for place in PLACES:
            go(page, self.server.address + place)
            expect(page.locator(".tray-row, [data-mark], .letter-point, main h1").first).to_be_visible()
            page.wait_for_timeout(500)  # what comes after it
            with self.subTest(place):
                scrolled, wide = page.evaluate(WIDTHS)
                self.assertLessEqual(scrolled, wide)

    def test_squares_keep_clear_of_the_time(self) -> None:
        for width in (1024, 1180, 1280):
            page = self.come_in("Imre Holt", width, 700)
            page.get_by_role("button", name="Everyone's").first.click()
            expect(page.locator(".tray-row").nth(12)).to_be_visible()
            with self.subTest(width):
                self.assertEqual(page.evaluate(OVERLAP), [])
