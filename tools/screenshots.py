"""Take the pictures of docs/screenshots/ from the demo data, at 1280x800: ``make shots``, or those that are named."""

from __future__ import annotations

import re
import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from jolly_clerk.demo import papers  # noqa: E402
from tests.browser.house import CHROMIUM, FLAGS, Server, demo_folder  # noqa: E402
from tests.office.test_pile import scanned  # noqa: E402

OUT = ROOT / "docs" / "screenshots"


def my_cases(page: Page) -> None:
    expect(page.get_by_role("heading", name="Waiting for you")).to_be_visible()


def filing(page: Page) -> None:
    page.get_by_role("link", name="Glass lean-to").click()
    page.get_by_role("navigation", name="Parts of the filing").get_by_role("link", name="The works").click()
    expect(page.get_by_label("Floor area under it")).to_have_value("14.5")


def read_over(page: Page) -> None:
    filing(page)
    page.get_by_role("link", name="Read it over").first.click()
    expect(page.get_by_role("heading", name="Read it over")).to_be_visible()


def payment(page: Page) -> None:
    page.get_by_role("link", name="Shed for two boats").click()
    page.get_by_role("button", name="Pay by card").click()
    expect(page.get_by_text("Hold your card here")).to_be_visible()


def my_case(page: Page) -> None:
    page.get_by_role("link", name="Workshop of a sailmaker").click()
    expect(page.get_by_text("What you filed")).to_be_visible()


def answering(page: Page) -> None:
    page.get_by_role("link", name="Answer 2 points").click()
    words = page.get_by_label("Your answer in words").first
    words.fill("Drawn anew on A3; the file follows this afternoon.")
    expect(page.get_by_text("1 answered, 1 left")).to_be_visible()


def in_tray(page: Page) -> None:
    page.locator(".tray-row", has_text="Saltern Slip").click()
    expect(page.get_by_text("What came back")).to_be_visible()


def desk(page: Page) -> None:
    page.locator(".tray-row", has_text="Compass Close").dblclick()
    page.get_by_role("button", name="Owner's consent").click()
    page.keyboard.press("w")
    page.get_by_role("button", name="Not signed").click()
    expect(page.get_by_text("kept", exact=True)).to_be_visible()
    expect(page.locator("[data-drawn=true]")).to_be_visible()


def letter(page: Page) -> None:
    page.locator(".tray-row", has_text="Compass Close").dblclick()
    page.get_by_role("button", name="Owner's consent").click()
    expect(page.locator("[data-drawn=true]")).to_be_visible()
    if page.get_by_label("Point 1 of the letter").count() == 0:  # else the picture of the desk gave it
        page.keyboard.press("w")
    expect(page.get_by_label("Point 1 of the letter")).to_be_visible()
    page.get_by_role("button", name="Read the letter").click()
    expect(page.get_by_role("heading", name="The letter, 1 point")).to_be_visible()
    expect(page.locator("[data-drawn=true]")).to_be_visible()
    page.wait_for_timeout(1500)  # the letter is drawn once more when its words have come


def answers(page: Page) -> None:
    page.locator(".tray-row", has_text="Saltern Slip").dblclick()
    expect(page.locator("[data-drawn=true]")).to_have_count(2)
    page.get_by_role("button", name="Over each other").click()
    expect(page.get_by_text("They differ in")).to_be_visible()


def way_in(page: Page) -> None:
    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("link", name=re.compile("^Do I need it.*Building works permit")).click()
    page.get_by_label("On which island?").select_option(label="Quill")
    page.get_by_role("radiogroup", name="Does any of it stand").get_by_label("No").check()
    page.get_by_label("What is it?").select_option(label="A building made larger")
    expect(page.get_by_role("heading", name="Yes, it is needed")).to_be_visible()


def till(page: Page) -> None:
    page.get_by_role("link", name="Till", exact=True).click()
    expect(page.locator(".bank-offer.marked")).to_be_visible()


def counter(page: Page) -> None:
    page.get_by_role("link", name="Counter").click()
    page.get_by_label("What is applied for?").select_option(label="Building works permit")
    page.get_by_label("Who applies?").fill("Tamsin")
    expect(page.get_by_role("list", name="People who are known")).to_be_visible()


def pile(page: Page) -> None:
    names = ("Ada Marek", "Ivo Thorne", "Zoe Quay", "Otto Brandt")
    page.get_by_role("link", name="The Salt Choir").click()
    page.get_by_role("navigation", name="Parts of the filing").get_by_role("link", name="Documents").click()
    dropped = [
        *((f"IMG_04{n}.jpg", "image/jpeg", scanned(name, f"M76543{20 + n}")) for n, name in enumerate(names)),
        *((f"contract {n}.pdf", "application/pdf", papers.contract("The Salt Choir", name)) for n, name in enumerate(names)),
        (
            "cover.pdf",
            "application/pdf",
            papers.paper("Certificate of insurance", "Four persons, every day.", letterhead="Harbour Mutual"),
        ),
        ("fare.pdf", "application/pdf", papers.paper("Bill of fare", "Soup, fish, cheese")),
    ]
    page.get_by_label("Files of all papers").set_input_files(
        [{"name": name, "mimeType": kind, "buffer": content} for name, kind, content in dropped]
    )
    page.get_by_role("link", name=re.compile(f"{len(dropped)} papers to place")).click(timeout=60_000)
    expect(page.locator(".pile-piece")).to_have_count(len(dropped))
    expect(page.locator(".pile-piece", has_text="is being read")).to_have_count(0, timeout=60_000)
    page.locator(".pile-piece", has_text="cover.pdf").click()
    expect(page.get_by_role("img", name=re.compile("cover.pdf"))).to_have_attribute("data-drawn", "true", timeout=30_000)
    page.wait_for_timeout(1000)


def agreement(page: Page) -> None:
    page.locator(".tray-row", has_text="Saltern Slip").dblclick()
    page.get_by_role("button", name="The whole checklist").click()
    page.get_by_role("button", name="Distance to high water").first.click()
    expect(page.locator(".jc-pdf-box")).to_be_visible()


def review(page: Page) -> None:
    page.locator(".tray-row", has_text="sailmaker").dblclick()
    page.get_by_role("button", name="Grant", exact=True).click()
    page.get_by_label("Conditions, if there are any").fill("Works begin within two years.")


def lanes(page: Page) -> None:
    page.locator(".tray-row", has_text="TW-7").dblclick()
    expect(page.get_by_role("navigation", name="Parts that are judged by themselves")).to_be_visible()
    expect(page.locator("[data-drawn=true]")).to_be_visible()


def group(page: Page) -> None:
    page.get_by_role("link", name="The Salt Choir").click()
    page.get_by_role("navigation", name="Parts of the filing").get_by_role("link", name="Persons").click()
    page.get_by_role("link", name="as a table").or_(page.get_by_role("grid")).first.wait_for()
    if page.get_by_role("grid").count() == 0:
        page.get_by_role("link", name="as a table").click()
    page.get_by_role("grid").get_by_role("gridcell", name="Nell Ashby").first.click()
    expect(page.get_by_text("Person 4, Nell Ashby")).to_be_visible()


def permit(page: Page) -> None:
    page.locator('a[href^="/cases/BW-"]', has_text="Bakehouse with an oven").click()
    page.get_by_role("link", name=re.compile("The permit: how it stands")).click()
    page.get_by_role("heading", name="Inspections").evaluate("it => scrollTo(0, it.offsetTop - 320)")


def rules(page: Page) -> None:
    kind = page.locator(".rules-kinds > li", has_text="Pavement stall licence").first
    kind.get_by_role("button", name="write a new edition of it").click()
    page.get_by_role("button", name="Fees", exact=True).click()
    page.locator(".cm-content").focus()
    page.keyboard.press("Control+f")
    page.keyboard.type("6.50 * months")
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    page.keyboard.type("7.50 * months")
    expect(page.locator(".rules-says")).to_contain_text("6 of 8 examples")
    expect(page.locator(".rules-fees s").first).to_be_visible()


PICTURES: tuple[tuple[str, str, Callable[[Page], None]], ...] = (
    ("my-cases", "Odalys Renn", my_cases),
    ("filing", "Odalys Renn", filing),
    ("read-over", "Odalys Renn", read_over),
    ("payment", "Odalys Renn", payment),
    ("my-case", "Odalys Renn", my_case),
    ("permit", "Odalys Renn", permit),
    ("rules", "Petra Lune", rules),
    ("answering", "Odalys Renn", answering),
    ("in-tray", "Imre Holt", in_tray),
    ("answers", "Imre Holt", answers),
    ("desk", "Imre Holt", agreement),
    ("lanes", "Imre Holt", lanes),
    ("group", "Corvin Pell", group),
    ("pile", "Corvin Pell", pile),
    ("way-in", "Odalys Renn", way_in),
    ("till", "Imre Holt", till),
    ("counter", "Imre Holt", counter),
    ("review", "Silas Thorne", review),
    ("letter", "Imre Holt", letter),
)


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    server = Server(demo_folder())
    try:
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=list(FLAGS))
            for name, person, go in (one for one in PICTURES if one[0] in (sys.argv[1:] or one[:1])):
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                page.set_default_timeout(10_000)
                page.goto(server.address)
                page.get_by_role("button", name=person).click()
                go(page)
                page.wait_for_load_state("networkidle")
                page.wait_for_timeout(400)
                page.screenshot(path=OUT / f"{name}.png")
                page.close()
                print(f"docs/screenshots/{name}.png")
            browser.close()
    finally:
        server.stop()


if __name__ == "__main__":
    main()
