"""A group as a table: a spreadsheet and all papers in one go to *nothing left*; keys, paste, undo; a key costs no more than with one."""

from __future__ import annotations

import io
import os
import re
from datetime import date, timedelta
from statistics import median

from openpyxl import load_workbook
from playwright.sync_api import Page, expect

from jolly_clerk.demo import papers
from tests.browser.house import go
from tests.browser.looks import Looks
from tests.browser.painting import Painting
from tests.browser.steps import field, kept, new_visa, on_to
from tests.browser.test_pile import PDF, PICTURE, file

#: thirty where there is time (``make bench``), else so many that every step is there
MANY = int(os.environ.get("JOLLY_CLERK_GROUP", "8"))
#: actions until nothing is left, of thirty
MOST_ACTIONS = 150
#: so many times the work of one may a key be with thirty, with room for a busy machine (1.5 is wanted on a quiet one)
TIMES = 2.0
FIRST = date.today() + timedelta(days=120)
LAST = FIRST + timedelta(days=20)
PEOPLE = [(f"Odo {a}{b}", f"M76{n:05}", date(1990, 1, 1) + timedelta(days=90 * n), n)
          for n, (a, b) in enumerate((a, b) for a in ("Fenn", "Rook", "Sedge", "Marrow", "Ashby") for b in ("el", "in", "or", "ak", "um", "is"))]  # fmt: skip


def in_words(day: date) -> str:
    return f"{day:%-d %b %Y}"


class Group(Looks):
    def setUp(self) -> None:
        super().setUp()
        self.actions = 0

    def does(self, what: object, *_: object) -> None:
        """One action of a person: a click, a key, a field filled, files chosen."""
        self.actions += 1

    def begin(self, person: str = "Odalys Renn", part: str = "persons?as=table") -> Page:
        page = self.come_in(person)
        self.draft = new_visa(page)
        go(page, f"{self.server.address}/filing/{self.draft}/{part}")
        return page

    def give(self, page: Page, rows: list[str], name: str = "choir.csv") -> None:
        page.get_by_label("A table as CSV or XLSX").set_input_files(file(name, "text/csv", "\n".join(rows).encode()))
        expect(page.locator(".group-taken")).to_contain_text(name)

    def cell(self, page: Page, row: int, question: str):
        return page.locator(f'[data-cell="{row}.{question}"]')

    def test_all_of_a_group_in_few_actions(self) -> None:
        people = PEOPLE[:MANY]
        page = self.begin()
        head = "Name as in the passport,What do they do?,Date of birth,Arrives on,Leaves on"
        rows = [f"{name},Performs,{in_words(born)},{in_words(FIRST)},{in_words(LAST)}" for name, _, born, _ in people]
        self.give(page, [head, *rows])
        self.does("the CSV")
        expect(page.get_by_role("grid").locator("tbody tr")).to_have_count(min(30, MANY + 1))
        for question, value in (("nationality", "Merrow"), ("pages", "6")):
            self.cell(page, 1, question).click()
            page.keyboard.type(value)
            page.keyboard.press("Enter")
            page.keyboard.press("ArrowUp")
            page.keyboard.press("Control+Shift+D")
            for step in ("click", value, "Enter", "up", "fill"):
                self.does(step)
            expect(self.cell(page, MANY, question)).to_have_text(value)
        expires = LAST + timedelta(days=900)
        files = [file(f"IMG_{n}.pdf", PDF, papers.passport(name, number, born, expires)) for name, number, born, n in people]
        files += [file(f"portrait {name}.jpg", PICTURE, papers.portrait(50 + n)) for name, _, _, n in people]
        named = ", ".join(name for name, *_ in people)
        files.append(file("contract.pdf", PDF, papers.paper("Contract", f"The Salt Choir engages {named} for the whole tour.")))
        on_to(page, "Documents")
        page.get_by_label("Files of all papers").set_input_files(files)
        sort = page.get_by_role("link", name=f"{len(files)} papers to place: sort them")
        expect(sort).to_be_visible(timeout=120_000)
        sort.click()
        expect(page.locator(".pile-piece")).to_have_count(len(files), timeout=120_000)
        expect(page.locator(".pile-piece", has_text="is being read")).to_have_count(0, timeout=240_000)
        for step in ("documents", "all files", "sort them"):
            self.does(step)
        all_named = page.locator(".pile-piece", has_text="contract.pdf")
        expect(all_named).to_contain_text("Contract or invitation, everybody who is named in it")
        page.keyboard.press("g")  # all that is sure
        self.does("g")
        left = page.locator(".pile-piece")
        expect(left).to_have_count(0, timeout=120_000)
        go(page, f"{self.server.address}/filing/{self.draft}/persons?as=table")
        expect(page.locator(".group-papers .moss")).to_have_count(MANY, timeout=60_000)
        on_to(page, "Documents")
        page.get_by_role("button", name=re.compile("^Take all")).click()
        for step in ("persons", "documents", "take all"):
            self.does(step)
        on_to(page, "Persons")
        self.does("persons")
        expect(page.get_by_role("navigation", name="Parts of the filing")).to_contain_text(re.compile(r"Persons\s*done"))
        expect(self.cell(page, MANY, "passport")).to_have_text(people[-1][1])
        print(f"{MANY} persons with {len(files)} papers: {self.actions} actions until nothing of them is left")
        self.assertLessEqual(self.actions, MOST_ACTIONS)

    def test_days_of_the_tour_for_all_who_have_none(self) -> None:
        page = self.begin()
        self.give(page, ["Name as in the passport,Arrives on", "Ada Marek,", "Ivo Thorne,1 Mar 2027", "Zoe Quay,"])
        expect(self.cell(page, 3, "name")).to_have_text("Zoe Quay")
        usual = page.locator(".filing-usual")
        expect(usual).to_have_count(0)
        on_to(page, "The tour")
        stops = field(page, "tour.stops")
        stops.get_by_role("button", name="Add").click()
        for n, value in enumerate(("Old Hall", "2 Mar 2027", "4 Mar 2027")):
            stops.get_by_role("textbox").nth(n).fill(value)
        kept(page)
        on_to(page, "Persons")
        arrives = usual.locator("li", has_text="Arrives on")
        expect(arrives).to_contain_text("2 Mar 2027 is usual here, by what you answered before.")
        self.look(page, "answers that are usual")
        arrives.get_by_role("button", name=re.compile("Fill it in for 2 rows that have none")).click()
        expect(arrives).to_have_count(0)
        for row, day in ((1, "2 Mar"), (2, "1 Mar"), (3, "2 Mar")):
            expect(self.cell(page, row, "arrival")).to_contain_text(day)

    def test_keys_paste_undo_and_the_table_taken_away(self) -> None:
        page = self.begin()
        self.look(page, "an empty table")
        self.cell(page, 1, "name").click()
        page.keyboard.type("Ines Marrow")
        page.keyboard.press("Tab")
        page.keyboard.press("Enter")
        page.locator("select.group-editor").select_option(label="Performs")
        page.keyboard.press("Enter")
        # what was copied in a spreadsheet goes in from the cell on, and makes rows
        self.cell(page, 1, "born").click()
        self.paste(page, "15 Jan 1991\tMerrow\tM7654321\n31 Jun 1996\tMerrow\tM7654322\n")
        expect(page.locator(".group-taken")).to_contain_text("1 row added, 1 row changed.")
        page.locator(".group-taken").get_by_role("button", name="Row 2, Date of birth").click()
        expect(page.locator(".group-said")).to_contain_text("There is no 31 Jun 1996.")
        expect(self.cell(page, 2, "born")).to_have_attribute("aria-invalid", "true")
        expect(self.cell(page, 2, "born")).to_be_focused()
        # a letter writes over what stands there, Escape brings it back
        page.keyboard.type("3")
        page.keyboard.press("Escape")
        expect(self.cell(page, 2, "born")).to_have_text("31 Jun 1996")
        page.keyboard.press("Control+d")
        expect(self.cell(page, 2, "born")).to_have_text("15 Jan 1991")
        page.keyboard.press("Control+z")
        expect(self.cell(page, 2, "born")).to_have_text("31 Jun 1996")
        page.keyboard.press("Alt+ArrowUp")
        names = page.locator("td.naming")
        expect(names.nth(1)).to_contain_text("Ines Marrow")
        page.keyboard.press("Delete")
        expect(self.cell(page, 2, "born")).to_contain_text("needed")
        page.get_by_role("button", name="remove the row").click()
        expect(names.first).to_contain_text("Ines Marrow")
        page.keyboard.press("Control+z")
        expect(names.nth(1)).to_contain_text("Ines Marrow")
        self.look(page, "a table with two rows")
        # what is left leads to the very cell
        page.get_by_text("All of them").click()
        page.locator(".filing-all-left").get_by_role(
            "link", name=re.compile("Ines Marrow.*Passport valid until|Passport valid until")
        ).first.click()
        expect(page.locator('[data-cell$=".valid_until"][tabindex="0"]')).to_be_focused()
        # and it is there after all, also one by one and as a file
        expect(page.locator(".filing-kept")).to_contain_text("Kept")
        with page.expect_download() as given:
            page.get_by_role("link", name="as XLSX").click()
        sheet = load_workbook(io.BytesIO(given.value.path().read_bytes())).active
        self.assertEqual([c.value for c in sheet["B"]][:3], ["Name as in the passport", None, "Ines Marrow"])
        page.get_by_role("link", name="one by one").click()
        expect(page.locator(".filing-item")).to_have_count(2)
        expect(field(page, "persons.1.name")).to_have_value("Ines Marrow")
        page.set_viewport_size({"width": 360, "height": 780})
        page.get_by_role("link", name="as a table").click()
        expect(page.get_by_role("grid")).to_be_visible()
        self.look(page, "a table on a narrow screen")

    def paste(self, page: Page, text: str) -> None:
        page.evaluate(
            """(text) => {
              const data = new DataTransfer();
              data.setData("text/plain", text);
              document.activeElement.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true }));
            }""",
            text,
        )

    def test_a_key_costs_as_much_with_thirty_as_with_one(self) -> None:
        """In the table and one by one: the work from a key to its paint."""
        pages = {many: self.begin() for many in (1, 30)}
        for many, page in pages.items():
            self.give(page, ["Name as in the passport,Nationality", *(f"{name},Merrow" for name, *_ in PEOPLE[:many])])
            expect(page.get_by_role("grid").locator("tbody tr")).to_have_count(min(30, many + 1))
            self.cell(page, 1, "nationality").click()
            page.keyboard.press("Enter")
        self.compare("table", pages)
        for many, page in pages.items():
            page.keyboard.press("Escape")
            page.get_by_role("link", name="one by one").click()
            expect(page.locator(".filing-item")).to_have_count(many)
            field(page, "persons.1.nationality").focus()
        self.compare("one by one", pages)

    def compare(self, view: str, pages: dict[int, Page]) -> None:
        """Letters typed in turn with one and with thirty, so that what else the machine does is the same for both."""
        painting = {many: Painting(page) for many, page in pages.items()}
        for page in pages.values():
            self.addCleanup(page.close)
        turns = [{many: painting[many].letter("x", 3) for many in pages} for _ in range(7)]
        one, thirty = (median(turn[many] for turn in turns) for many in pages)
        for page in pages.values():
            expect(page.locator('.group-editor, input[id="persons.1.nationality"]')).to_have_value("Merrow" + 21 * "x")
        print(f"{view}: a letter {one:.1f} ms of work with one, {thirty:.1f} ms with thirty, {thirty / one:.2f} times")
        with self.subTest(view):
            self.assertLessEqual(thirty / one, TIMES)
