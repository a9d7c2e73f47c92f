"""A filing of each of the other kinds, filled in by the screen alone: its price to the cent, and what is left going to its very place."""

from __future__ import annotations

import io
import re
from typing import Any

from PIL import Image
from playwright.sync_api import Page, expect
from reportlab.lib.pagesizes import A4
from reportlab.pdfgen.canvas import Canvas

from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file
from tests.browser.house import BrowserTest, go
from tests.browser.steps import begin, field, file_it, pay, sign, sign_again, stamp


def paper(*pages: list[str]) -> bytes:
    """A PDF on A4 with these lines on its pages."""
    buffer = io.BytesIO()
    c = Canvas(buffer, pagesize=A4)
    for lines in pages or (["A paper"],):
        text = c.beginText(60, 780)
        for line in lines:
            text.textLine(line)
        c.drawText(text)
        c.showPage()
    c.save()
    return buffer.getvalue()


def portrait() -> bytes:
    """A picture of 35 to 45."""
    buffer = io.BytesIO()
    Image.new("RGB", (700, 900), "#e8e4da").save(buffer, "JPEG")
    return buffer.getvalue()


class Kinds(BrowserTest):
    def begin(self, kind: str, edition: str, who: str = "Tamsin Oake") -> tuple[Page, Rulebook]:
        rulebook = read_rulebook_file(SHIPPED / kind / f"{edition}.yaml").rulebook
        page = self.come_in(who)
        begin(page, rulebook.edition.title, bool(rulebook.edition.way_in))
        expect(page.get_by_role("navigation", name="Parts of the filing")).to_be_visible()
        return page, rulebook

    def fill(self, page: Page, rulebook: Rulebook, example: str, **changes: Any) -> None:
        """Answer every part as an example of the edition does, by the fields of the screen."""
        dossier = next(e for e in rulebook.edition.examples if e.id == example).dossier | changes
        for part in rulebook.edition.parts:
            if part.id not in dossier:
                continue
            self.go(page, part.id)
            expect(page.get_by_role("heading", name=part.title, exact=True)).to_be_visible()
            given = dossier[part.id]
            for n, item in enumerate(given if part.each else [given], 1):
                if part.each:
                    page.get_by_role("button", name="Add the first" if n == 1 else "Add another").click()
                prefix = f"{part.id}.{n}" if part.each else part.id
                for question, answer in item.items():
                    if question != "id":
                        self.answer(page, rulebook, prefix, question, answer)
        expect(page.get_by_text("Kept", exact=False).last).to_be_visible()

    def go(self, page: Page, part: str) -> None:
        page.locator(f'.filing-parts nav a[href$="/{part}"]').click()

    def answer(self, page: Page, rulebook: Rulebook, prefix: str, question: str, answer: Any) -> None:
        node = rulebook.questions[f"{prefix.split('.')[0]}.{question}"]
        place = field(page, f"{prefix}.{question}")
        expect(place).to_be_visible()
        match node.question.type:
            case "yes or no":
                place.get_by_label("Yes" if str(answer) in ("yes", "True") else "No", exact=True).check()
            case "one of":
                expect(place).to_be_enabled()
                place.select_option(label=node.options[answer])
            case "several of":
                for chosen in answer:
                    place.get_by_label(node.options[chosen]).check()
            case "rows":
                for n, row in enumerate(answer, 1):
                    place.get_by_role("button", name="Add").click()
                    for column in node.question.columns:
                        place.get_by_label(f"{column.ask}, row {n}").fill(str(row[column.id]))
            case _:
                place.fill(str(answer))

    def slip(self, page: Page, **lines: str) -> None:
        """Every line of the slip, by the words with which it begins."""
        for title, amount in lines.items():
            line = page.locator(".jc-slip li, .jc-slip-total").filter(has_text=re.compile(title.replace("_", " "))).first
            expect(line).to_be_visible()
            if amount:
                told = re.escape(amount).replace("\\ ", "\\s")  # thousands stand apart by a thin space
                expect(line.locator(".mono").first).to_have_text(re.compile(rf"^(€\s)?{told}$"))

    def attach(self, page: Page, place: str, name: str, content: bytes) -> None:
        """Attach a file at a place of the documents, and wait until it is read there."""
        kind = "image/jpeg" if name.endswith("jpg") else "application/pdf"
        slot = field(page, place)
        slot.locator("input[type=file]").set_input_files({"name": name, "mimeType": kind, "buffer": content})
        expect(slot.get_by_role("link", name=name)).to_be_visible()

    def left(self, page: Page, *titles: str) -> None:
        """What the read-over still misses, in order; the first link goes to its very place."""
        page.get_by_role("link", name="Read it over").first.click()
        expect(page.get_by_role("heading", name="Read it over")).to_be_visible()
        gaps = page.locator(".read-over-gaps li")
        expect(gaps).to_have_count(len(titles))
        for n, title in enumerate(titles):
            expect(gaps.nth(n)).to_contain_text(title)

    def file(self, page: Page, name: str) -> None:
        self.go(page, "sign")
        sign(page, name)
        file_it(page)

    def test_a_pavement_stall(self) -> None:
        page, rulebook = self.begin("TL", "2026-04-01")
        # pitches go by the island: Upper Green is on Near Skerry
        self.fill(
            page, rulebook, "one-stall", holder={"name": "Tamsin Oake", "charity": "yes", "charity_number": "R 7", "language": "en", "post": "mail"},
            licence={"sort": "new", "begins": "2030-03-31", "held": 0},
            stalls=[{"pitch": "fish_quay", "frontage": "3.0", "power": "no"}, {"pitch": "lamp_lane", "frontage": "4.1", "power": "yes"}],
        )  # fmt: skip
        choices = field(page, "stalls.1.pitch")
        self.go(page, "stalls")
        expect(choices.locator("option")).to_have_text(["Choose…", "Fish Quay", "Market Cross", "Tide Street", "Lamp Lane"])
        self.in_portuguese(page)
        # one month: half of 48.00 and half of 31.00 x 150 %; levy 6.50 x 2, VAT 20 % of it
        self.slip(page, Price="47.25", Waste_levy="13.00", VAT="2.60", After_the_check="62.85", Nothing_is_due="")
        self.left(page, "Front fits the pitch: Stall 2", "Proof of who you are", "Liability insurance", "Extract of the roll", "Sketch of the stall: Stall 1",
                  "Sketch of the stall: Stall 2", "The declaration is not signed")  # fmt: skip
        page.get_by_role("link", name="Front fits the pitch: Stall 2").click()
        expect(field(page, "stalls.2.frontage")).to_be_focused()
        field(page, "stalls.2.frontage").fill("4.0")
        self.go(page, "documents")
        for slot, lines in (("identity", ["Identity"]), ("insurance", ["Insured: OAKE Tamsin", "In force until 1 May 2030"]), ("charity", ["Roll"]),
                            ("sketch.1", ["Front 3.1 m"]), ("sketch.2", ["Front 4.0 m"])):  # fmt: skip
            self.attach(page, f"documents.{slot}", f"{slot}.pdf", paper(lines))
        self.file(page, "Tamsin Oake")
        page.get_by_role("link", name="My cases").first.click()
        expect(page.get_by_text("Tamsin Oake, Crafts").first).to_be_visible()

    def in_portuguese(self, page: Page) -> None:
        """The questions in the other language of the rulebook, and back; what was answered stands."""
        page.get_by_role("button", name="Português").click()
        expect(page.get_by_role("heading", name="As bancas", exact=True)).to_be_visible()
        expect(page.get_by_role("navigation", name="Partes do pedido").get_by_text("Quem tem a licença")).to_be_visible()
        expect(page.get_by_label("Que comprimento tem a frente?").first).to_have_value("3.0")
        self.go(page, "documents")
        expect(page.get_by_role("heading", name="Seguro de responsabilidade")).to_be_visible()
        self.go(page, "stalls")
        page.get_by_role("button", name="English").click()
        expect(page.get_by_role("heading", name="The stalls", exact=True)).to_be_visible()

    def test_a_group_on_tour(self) -> None:
        page, rulebook = self.begin("QV", "2026-06-01")
        young = {"name": "Tom Ashby", "role": "player", "born": "2019-01-01", "nationality": "Merrow", "passport": "M2", "valid_until": "2035-01-01",
                 "pages": 4, "arrival": "2030-03-01", "departure": "2030-03-31", "guardian": "Ada Ashby"}  # fmt: skip
        grown = young | {"name": "Ines Marrow", "born": "1990-05-05", "passport": "M1"}
        grown.pop("guardian")
        stays = [{"first": "2025-01-01", "last": "2025-01-20"}]
        self.fill(
            page, rulebook, "two-players", persons=[grown | {"stays": stays}, young],
            tour={"title": "The Tide Players", "art": "stage", "stops": [{"venue": "Old Hall", "first": "2030-03-02", "last": "2030-03-05"}],
                  "fire": "no", "animals": "no", "goods": "5000"},
        )  # fmt: skip
        # 95.00 for the grown one, 0 for the child of 11; two bonds; half a year of levy for two
        self.slip(page, Entry_fees="95.00", Bond="400.00", To_pay_when_you_file="495.00", Health_levy="180.00")
        self.go(page, "persons")
        field(page, "persons.2.born").fill("2018-03-01")
        self.slip(page, Entry_fees="140.00", To_pay_when_you_file="540.00")
        expect(page.locator(".filing-bring-item summary").nth(1)).to_contain_text("Person 2, Tom Ashby 5 of 5 missing")
        self.go(page, "documents")
        for no, name, number in ((1, "MARROW INES", "M1"), (2, "ASHBY TOM", "M2")):
            self.attach(
                page,
                f"documents.passport.{no}",
                f"passport{no}.pdf",
                paper([f"Surname and given names: {name}", f"Passport no: {number}"]),
            )
            self.attach(page, f"documents.portrait.{no}", f"portrait{no}.jpg", portrait())
            self.attach(page, f"documents.contract.{no}", f"contract{no}.pdf", paper([f"Contract {no}"]))
        for slot in ("consent.2", "child_form.2", "venue_letters", "health_cover"):
            self.attach(page, f"documents.{slot}", f"{slot}.pdf", paper([slot]))
        self.file(page, "Tamsin Oake")
        pay(page)
        page.get_by_role("link", name="My cases").first.click()
        page.get_by_role("link", name="The Tide Players, Odalys Renn").click()
        stamp(page, "Filed")

    def test_a_surveyor(self) -> None:
        page, rulebook = self.begin("PL", "2026-01-01")
        quals = [{"title": f"Course {n}", "body": "Tide School", "given": "2019-05-01"} for n in (1, 2, 3)]
        practice = [
            {"employer": "Marrow", "first": "2019-01-01", "last": "2021-12-31"},
            {"employer": "Sark", "first": "2021-06-01", "last": "2022-01-31"},
        ]
        degree = {
            "title": "Master",
            "school": "Tide School",
            "awarded": "2018-07-06",
            "points": 150,
            "taught": "en",
            "practice": practice,
        }
        cover = {"policies": [{"insurer": "Mutual", "first": "2020-01-01", "last": "2060-12-31", "amount": "250000"}]}
        self.fill(
            page, rulebook, "first-registration", qualifications=quals, degree=degree, cover=cover, travel={"number": "Q1", "expires": "2060-01-01"},
            service={"speed": "fast", "reason": "post"}, record={"licensed": "yes", "body": "Board of Merrow", "struck_off": "no"},
        )  # fmt: skip
        # 310.00 + 45.00, and half of both for the fast service
        self.slip(
            page, Assessment="310.00", Qualifications_beyond_two="45.00", Fast_service="177.50", To_pay_when_you_file="532.50"
        )
        self.go(page, "degree")
        # three years, and January 2022, which is not counted twice
        expect(page.get_by_text("Months of practice: 37 [months of practice, overlaps counted once].")).to_be_visible()
        self.left(page, "Passport", "Portrait", "Degree certificate", "List of credit points", "Letters of practice", "Certificate of the qualification: Qualification 1, Course 1",
                  "Qualification 2, Course 2", "Qualification 3, Course 3", "Certificate of cover", "Other offices may be asked", "The declaration is not signed")  # fmt: skip
        page.get_by_role("link", name=re.compile("Qualification 2, Course 2")).click()
        expect(field(page, "documents.qualification.2")).to_be_in_viewport()
        # what the licensing body sends cannot be attached here, and does not stop the filing
        expect(field(page, "documents.good_standing").get_by_text("The licensing body sends this straight")).to_be_visible()
        self.attach(page, "documents.portrait", "portrait.jpg", portrait())
        for slot in (
            "passport",
            "degree",
            "credit_list",
            "practice",
            "qualification.1",
            "qualification.2",
            "qualification.3",
            "cover",
        ):
            self.attach(page, f"documents.{slot}", f"{slot}.pdf", paper([f"Paper {slot}", "conferred on Ines Marrow"]))
        self.file(page, "Ines Marrow")
        pay(page)

    def test_an_invention(self) -> None:
        page, rulebook = self.begin("IP", "2026-01-01")
        self.fill(
            page, rulebook, "ten-claims",
            applicant={"name": "Tamsin Oake", "person": "person", "size": "micro", "address": "1 Quay", "agent": "no", "language": "en", "post": "mail"},
            count={"claims": 27, "independent": 3, "multiple": 1, "description": 30, "claim_pages": 3, "abstract": 1},
        )  # fmt: skip
        self.slip(page, Filing="35.00", Search="155.00", Claims_11="142.50", Claims_from="37.50", Independent="30.00", Multiple="23.75", Pages_beyond="28.00",
                  To_pay_when_you_file="451.75")  # fmt: skip
        self.go(page, "documents")
        claims = [
            "1. A winch with a pawl.",
            "2. The winch of claim 1, of bronze.",
            "3. The winch of claim 1 or 2, with a brake.",
            "4. A brake for a winch.",
        ]
        self.attach(page, "documents.claims", "claims.pdf", paper(claims))
        self.attach(page, "documents.abstract", "abstract.pdf", paper(["A winch that holds fast " * 2] * 16))
        # 160 words are ten too many, and 27 claims are not the four that stand in the text
        expect(field(page, "documents.abstract").get_by_text("160 words; at most 150 are asked.")).to_be_visible()
        page.get_by_role("link", name="Read it over").first.click()
        looks = page.locator(".read-over-looks li")
        expect(looks.filter(has_text="Number of claims")).to_contain_text("Form, Claims and pages: 27; Claims, sheet 1: 4")
        expect(looks.filter(has_text="Independent claims")).to_contain_text("3; Claims, sheet 1: 2")
        expect(looks.filter(has_text="Multiple dependent claims")).to_have_count(0)
        page.get_by_role("link", name="Number of claims").click()
        expect(field(page, "count.claims")).to_be_focused()
        field(page, "count.claims").fill("4")
        field(page, "count.independent").fill("2")
        # 35.00 + 155.00 + 23.75 + 28.00
        self.slip(page, To_pay_when_you_file="241.75")
        page.get_by_role("link", name="Read it over").first.click()
        expect(looks.filter(has_text="Number of claims")).to_have_count(0)
        # without a signature no tick lets it be filed
        marked = page.locator(".read-over-gaps li", has_text="needed to file")
        expect(marked).to_have_text(["The declaration is not signed. needed to file"])
        expect(page.get_by_label("I have read what is missing")).to_have_count(0)
        expect(page.get_by_role("button", name="File this application")).to_be_disabled()
        page.get_by_role("link", name="Back to the form").click()
        self.go(page, "sign")
        sign(page, "Tamsin Oake")
        page.get_by_role("link", name="Read it over").first.click()
        page.get_by_label("I have read what is missing").check()
        page.get_by_role("button", name="File this application").click()
        pay(page)

    def test_a_trial_in_lanes(self) -> None:
        page, rulebook = self.begin("CT", "2026-01-01", "Odalys Renn")
        site = {"address": "1 Bell Lane", "investigator": "Ines Marrow", "trained_until": "2032-01-11", "spoken": "en"}
        sites = [site | {"name": "Quill Infirmary", "persons": 12}, site | {"name": "Far Hut", "persons": 8}]
        need = {q.id: "no" for q in rulebook.parts["need"].questions if q.type == "yes or no"} | {"tries": "medicine"}
        trial = {"title": "Ondrelin again", "code": "TW-9", "purpose": "Whether it helps.", "arms": 3, "persons": 20,
                 "first_day": "2031-01-11", "last_visit": "2031-12-20", "board": "no"}  # fmt: skip
        self.fill(
            page, rulebook, "a-plain-trial", need=need | {"dummy": "yes", "cuts": "yes"}, sites=sites, trial=trial,
            product={"substance": "Ondrelin", "dose": "12.5"},
            insurance={"insurer": "Harbour Mutual", "sum": "1000000", "starts": "2031-01-11", "ends": "2033-12-20"},
        )  # fmt: skip
        # two of the five: standard; one site and one arm more
        self.slip(page, Base="3 400.00", Sites_beyond="260.00", Arms_beyond="150.00", To_pay_when_you_file="3 810.00")
        # the product file is looked up among the own cases, and gives the substance
        self.go(page, "product")
        page.locator("#find-product_files").fill("ondrelin")
        page.get_by_role("button", name=re.compile("Ondrelin, Tidewater Works")).click()
        expect(field(page, "product.file")).to_have_value(re.compile(r"^CP-\d\d-\d{5}-[A-Z]$"))
        self.left(page, "Protocol", "Certificate of the insurance", "Declaration", "Reasons for the placebo",
                  *(f"{t}: Site {n}" for t in ("Investigator's curriculum vitae", "Certificate of training", "Suitability of the site", "Consent form", "Contract with the site") for n in (1, 2)),
                  "What is found is kept", "The declaration is not signed")  # fmt: skip
        page.get_by_role("link", name=re.compile("Suitability of the site: Site 2")).click()
        expect(field(page, "documents.suitability.2")).to_be_in_viewport()
        for slot in ("protocol", "certificate", "declaration", "dummy_reasons", "cv.1", "cv.2", "training.1", "training.2", "suitability.1",
                     "suitability.2", "consent_form.1", "consent_form.2", "contract.1"):  # fmt: skip
            self.attach(page, f"documents.{slot}", f"{slot}.pdf", paper([f"Paper {slot}"]))
        self.go(page, "sign")
        sign(page, "Odalys Renn")
        reference = file_it(page)
        pay(page)
        self.lanes(reference)

    def lanes(self, reference: str) -> None:
        """An officer asks one site for its contract; the applicant answers in that lane alone."""
        desk = self.come_in("Jonas Wick", at=f"/desk/{reference}")
        desk.get_by_role("button", name="Begin checking").click()
        stamp(desk, "Being checked")
        tabs = desk.get_by_role("navigation", name="Parts that are judged by themselves")
        expect(tabs.locator(".jc-lane")).to_have_count(3)
        tabs.get_by_role("button", name=re.compile("Site 2, Far Hut")).click()
        desk.get_by_role("button", name=re.compile("^Contract with the site.*Far Hut")).click()
        desk.keyboard.press("w")
        expect(tabs.get_by_role("button", name=re.compile("Far Hut")).get_by_text("1 of 10 judged")).to_be_visible()
        desk.get_by_role("button", name=re.compile("Read the letter")).click()
        expect(desk.get_by_role("heading", name="The letter, 1 point")).to_be_visible()
        desk.get_by_role("button", name="Send and pause the clock").click()
        expect(desk.get_by_role("heading", name="The letter is sent")).to_be_visible()
        go(desk, f"{self.server.address}/desk/{reference}")
        expect(tabs.get_by_role("button", name=re.compile("Far Hut")).locator(".jc-stamp")).to_have_text("Answers wanted")
        expect(tabs.get_by_role("button", name=re.compile("The trial itself")).locator(".jc-stamp")).to_have_text("Being checked")
        stamp(desk, "Being checked")
        page = self.come_in("Odalys Renn", at=f"/cases/{reference}")
        expect(page.get_by_role("heading", name="1 thing to put right")).to_be_visible()
        slot = page.get_by_role("region", name="Point 1")
        slot.locator("input[type=file]").set_input_files(
            {"name": "contract.pdf", "mimeType": "application/pdf", "buffer": paper(["Contract (signed)"])}
        )
        expect(slot.get_by_text("answered")).to_be_visible()
        sign_again(page, "Odalys Renn")
        page.get_by_role("button", name="Send the answers").click()
        expect(page.get_by_role("button", name=re.compile("Far Hut")).locator(".jc-stamp")).to_have_text("Answers came back")
        go(desk, f"{self.server.address}/desk/{reference}?lane=sites.2")
        expect(desk.get_by_role("heading", name=re.compile("Asked, and answered"))).to_be_visible()
        desk.keyboard.press("c")
        expect(desk.get_by_text("1 of 1 closed")).to_be_visible()
