"""One filing by the keyboard alone, and one on a phone, in Portuguese and in the dark, looked at by axe with errors and dialogs open."""

from __future__ import annotations

import re

from playwright.sync_api import Locator, Page, expect

from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file
from tests.browser.house import BrowserTest, go
from tests.browser.looks import Looks
from tests.browser.steps import begin, field
from tests.browser.test_kinds import paper


class ByKeyboard(BrowserTest):
    def tab_to(self, page: Page, place: Locator) -> None:
        """Press Tab until a control has the focus."""
        expect(place).to_be_visible()
        for _ in range(90):
            page.keyboard.press("Tab")
            if place.evaluate("(e) => e === document.activeElement"):
                return
        raise AssertionError(f"{place} cannot be reached by Tab")

    def onwards(self, page: Page) -> None:
        """By the button at the foot of a part to the next one, whose heading has the focus."""
        self.tab_to(page, page.get_by_role("link", name=re.compile("^(On to|Read it over)")).last)
        page.keyboard.press("Enter")
        expect(page.locator("h1:focus")).to_be_visible()

    def test_a_product_file_by_keyboard_alone(self) -> None:
        page = self.come_in("Odalys Renn")
        chosen = {"name": ""}
        file = {"mimeType": "application/pdf", "buffer": paper(["A paper"])}
        self.addCleanup(page.close)
        page.on("filechooser", lambda chooser: chooser.set_files({"name": chosen["name"], **file}))
        begin(page, "Product file")
        self.tab_to(page, page.get_by_role("radiogroup", name="Is it on sale on the islands already?").get_by_label("Yes"))
        page.keyboard.press("ArrowRight")  # the verdict stands at once, and goes with the other answer
        expect(page.locator(".way-in-says")).to_have_count(0)
        self.onwards(page)
        for place, keys in (
            ("holder.name", "Odalys Renn"),
            ("holder.address", "4 Saltern Slip"),
            ("holder.language", "En"),
            ("holder.post", "By"),
        ):
            self.answer_by_keys(page, place, keys)
        self.onwards(page)
        for place, keys in (
            ("product.substance", "Ondrelin"),
            ("product.form", "Ta"),
            ("product.maker", "Tidewater Works"),
            ("product.batches", "3"),
            ("product.keeps", "24"),
        ):
            self.answer_by_keys(page, place, keys)
        self.onwards(page)
        for slot in ("making", "batch_papers", "known"):
            self.tab_to(page, field(page, f"documents.{slot}").get_by_role("button", name=re.compile("choose a file")))
            chosen["name"] = f"{slot}.pdf"
            page.keyboard.press("Enter")
            expect(page.get_by_role("link", name=f"{slot}.pdf", exact=True)).to_be_visible()
        self.onwards(page)
        for n in range(page.locator(".filing-declared input").count()):
            self.tab_to(page, page.locator(".filing-declared input").nth(n))
            page.keyboard.press("Space")
        self.tab_to(page, page.get_by_label("Your full name, as you sign"))
        page.keyboard.press("Control+a")
        page.keyboard.type("Odalys Renn")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Take the signature back")).to_be_visible()
        expect(page.get_by_text("Nothing is left.")).to_be_visible()
        self.onwards(page)
        self.tab_to(page, page.get_by_role("button", name="File this application"))
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name=re.compile("Your application is filed|The office has it"))).to_be_visible()

    def answer_by_keys(self, page: Page, place: str, keys: str) -> None:
        """To a field by Tab; a text is typed, a choice found by its first letters."""
        there = field(page, place)
        if there.evaluate("(e) => e.value") and there.evaluate("(e) => e.tagName") == "INPUT":
            return  # the profile knew it
        self.tab_to(page, there)
        page.keyboard.type(keys)


class OnAPhone(Looks):
    def test_a_stall_at_360_in_portuguese_and_in_the_dark(self) -> None:
        rulebook = read_rulebook_file(SHIPPED / "TL" / "2026-04-01.yaml").rulebook
        page = self.come_in("Corvin Pell", 360, 780, "dark")
        page.get_by_role("button", name="Português").click()
        expect(page.get_by_role("heading", name="Olá, Corvin")).to_be_visible()
        self.look(page, "my cases, Portuguese, phone")
        page.get_by_role("link", name="Novo pedido").click()
        self.look(page, "new filing, Portuguese, phone")
        page.get_by_role("button", name="Começar: Licença de banca de rua").click()
        field(page, "trade.island").select_option(label="Quill")
        field(page, "trade.ground").select_option(label="Numa rua ou num cais")
        field(page, "trade.goods").select_option(label="Artesanato")
        expect(page.get_by_text("Sim, é preciso")).to_be_visible()
        self.look(page, "way in with its estimate, Portuguese, phone")
        page.get_by_role("button", name="Começar o pedido com estas respostas").click()
        page.wait_for_url("**/filing/**")
        base = page.url.split("?")[0].rstrip("/")
        self.to(page, base, "holder")
        field(page, "holder.charity").get_by_label("Não").check()
        field(page, "holder.language").select_option(label="Português")
        field(page, "holder.post").select_option(index=1)
        self.to(page, base, "licence")
        field(page, "licence.sort").select_option(label="Uma licença nova")
        field(page, "licence.held").fill("0")
        field(page, "licence.begins").fill("31 fev 2030")
        expect(page.get_by_text("Não há 31 fev 2030.")).to_be_visible()
        self.look(page, "a fault, Portuguese, phone")
        page.get_by_role("button", name="Escolher um dia").click()
        expect(page.get_by_text("Riscado: o serviço está fechado.")).to_be_visible()
        self.look(page, "a calendar, Portuguese, phone")
        page.keyboard.press("Escape")
        field(page, "licence.begins").fill("31 mar 2030")
        self.to(page, base, "stalls")
        first = page.get_by_role("button", name="Acrescentar o primeiro")
        expect(first.or_(field(page, "stalls.1.pitch"))).to_be_visible()
        if first.count():
            first.click()
        field(page, "stalls.1.pitch").select_option(label=rulebook.questions["stalls.pitch"].options["fish_quay"])
        field(page, "stalls.1.frontage").fill("5")
        expect(page.get_by_text("A frente de 5 m é mais comprida do que 4.0 m.").first).to_be_visible()
        self.look(page, "a rule that is broken, Portuguese, phone")
        field(page, "stalls.1.frontage").fill("3.1")
        field(page, "stalls.1.power").get_by_label("Não").check()
        self.to(page, base, "care")
        field(page, "care.from_hour").fill("8")
        field(page, "care.to_hour").fill("18")
        field(page, "care.bins").get_by_label("Sim").check()
        self.to(page, base, "documents")
        for slot, lines in (
            ("identity", ["Identity"]),
            ("insurance", ["Insured: Corvin Pell", "In force until 1 May 2031"]),
            ("sketch.1", ["Front 3.1 m"]),
        ):
            field(page, f"documents.{slot}").locator("input[type=file]").set_input_files(
                {"name": f"{slot}.pdf", "mimeType": "application/pdf", "buffer": paper(lines)}
            )
            expect(page.get_by_role("link", name=f"{slot}.pdf", exact=True)).to_be_visible()
        self.look(page, "documents, Portuguese, phone")
        self.to(page, base, "sign")
        for said in page.locator(".filing-declared li").all():
            said.locator("input").check()
        page.get_by_label("O seu nome completo, como assina").fill("Somebody Else")
        page.get_by_role("button", name="Assinar", exact=True).click()
        expect(page.get_by_text("Esta conta é de Corvin Pell.", exact=False)).to_be_visible()
        self.look(page, "another name, Portuguese, phone")
        page.get_by_label("O seu nome completo, como assina").fill("Corvin Pell")
        page.get_by_role("button", name="Assinar", exact=True).click()
        expect(page.get_by_text("Retirar a assinatura")).to_be_visible()
        go(page, f"{base.rsplit('/filing/', 1)[0]}/filing/{base.rsplit('/filing/', 1)[1].split('/')[0]}/read-over")
        expect(page.get_by_role("heading", name="Reler tudo")).to_be_visible()
        self.look(page, "read-over, Portuguese, phone")
        page.get_by_role("button", name="Entregar este pedido").click()
        expect(page.get_by_role("heading", name=re.compile("O seu pedido foi entregue|Está com o serviço"))).to_be_visible()
        self.look(page, "filed, Portuguese, phone")

    def to(self, page: Page, base: str, part: str) -> None:
        """To a part of the filing, by its one line of parts."""
        _, _, id_ = base.rpartition("/filing/")
        if page.url.rstrip("/").endswith(f"/{part}"):
            return
        if not page.locator(f'.filing-parts nav a[href$="/{part}"]').is_visible():
            page.locator(".filing-switch > summary").click()
        page.locator(f'.filing-parts nav a[href$="/{part}"]').click()
        page.wait_for_url(f"**/filing/{id_.split('/')[0]}/{part}")
