"""What several browser tests do: fill in a building works permit, pay, judge, by the screen alone."""

from __future__ import annotations

import io
import re

from playwright.sync_api import Locator, Page, expect
from reportlab.lib.pagesizes import A3, landscape
from reportlab.pdfgen.canvas import Canvas


def typed_plan(*lines: tuple[float, float, str]) -> bytes:
    """A plan typed up here and now: texts at places in points on A3."""
    buffer = io.BytesIO()
    c = Canvas(buffer, pagesize=landscape(A3))
    c.setFont("Helvetica", 14)
    for x, y, text in lines:
        c.drawString(x, y, text)
    c.drawString(800, 40, "Drawing 1, scale 1:200")
    c.save()
    return buffer.getvalue()


def field(page: Page, place: str) -> Locator:
    """The field of a question, by its place."""
    return page.locator(f'[id="{place}"]')


def choose(page: Page, question: str, answer: str) -> None:
    """Answer yes or no."""
    page.get_by_role("radiogroup", name=question).get_by_label(answer, exact=True).check()


def on_to(page: Page, part: str) -> None:
    """To another part of the filing."""
    page.get_by_role("navigation", name="Parts of the filing").get_by_role("link", name=re.compile(f"^{part}")).click()
    expect(page.get_by_role("heading", name=part, exact=True)).to_be_visible()


def kept(page: Page) -> None:
    """Wait until what was typed is kept."""
    page.wait_for_timeout(100)  # typing is noticed
    expect(page.locator(".filing-kept")).to_contain_text(re.compile("^Kept"))


def begin(page: Page, kind: str, way_in: bool = True) -> None:
    """A new filing of a kind, past the way in where there is one (it asks the same questions), to its first part."""
    page.get_by_role("link", name="New filing").click()
    page.get_by_role("button", name=f"Begin: {kind}").click()
    if way_in:
        page.get_by_role("button", name="I know that I need it").click()
    page.wait_for_url("**/filing/**")


def new_visa(page: Page) -> str:
    """An empty draft of a visa for whoever is signed in, without the way in; its id."""
    made = page.evaluate(
        """async () => {
          const session = await (await fetch('/api/session')).json();
          const headers = {'Content-Type': 'application/json', 'X-Jolly-Clerk': session.csrf};
          const body = JSON.stringify({kind: 'QV', answers: {}});
          return await (await fetch('/api/drafts', {method: 'POST', headers, body})).json();
        }"""
    )
    return str(made["id"])


def fill_in(page: Page, address: str, what: str, distance: str = "210", plot: str = "Q-1000", own: str = "Tamsin Oake") -> None:
    """Answer every question of a draft that was just begun; nothing but documents and the signature is left."""
    page.get_by_label("On which island?").select_option(label="Quill")
    page.get_by_label("What is it?").select_option(label="A building made larger")
    choose(page, "Does any of it stand below high water?", "No")
    page.get_by_label("How high is its highest part?").fill("5.2")
    on_to(page, "Who is filing")
    page.get_by_label("Your name or the name of your firm").fill(own)
    page.get_by_label("In which language do you answer?").select_option(label="English")
    page.get_by_label("How should letters reach you?").select_option(label="By mail to my address")
    on_to(page, "The place")
    field(page, "place.plot").fill(plot)
    page.get_by_label("Where are the works?").fill(address)
    page.get_by_label("Who owns the plot?").fill(own)
    page.get_by_label("Do you own the plot?").select_option(label="I own the plot")
    choose(page, "Is the building listed?", "No")
    choose(page, "Have you told the neighbours?", "Yes")
    on_to(page, "The works")
    page.get_by_label("What will you build or change?").fill(what)
    field(page, "works.use").select_option(label="Workshop")
    page.get_by_label("Built of").select_option(label="Timber frame")
    page.get_by_label("Floor area under it").fill("95.8")
    page.get_by_label("Your own estimate of cost").fill("31000")
    page.get_by_label("How many storeys?").fill("1")
    page.get_by_label("Widest span").fill("4.8")
    page.get_by_label("How far is the nearest part from high water?").fill(distance)
    choose(page, "Have works begun?", "No")
    on_to(page, "People on site")
    page.get_by_role("button", name="Add the first").click()
    field(page, "people.1.name").fill("Wim Sark")
    page.get_by_label("What they do").select_option(label="Draws and answers for the plans")
    on_to(page, "While it is built")
    page.get_by_label("When do you want to begin?").fill("1 Feb 2030")
    page.get_by_label("How many months will it take?").fill("3")
    choose(page, "Will you use part of the street?", "No")
    page.get_by_label("Where does the waste go?").select_option(label="To the works yard on Quill")
    on_to(page, "The service")
    page.get_by_label("Which service do you want?").select_option(label="Normal")


def attach(page: Page, slot: str, name: str, content: bytes) -> None:
    """Attach a file to a slot and wait until it was read."""
    page.get_by_label(f"File for {slot}").set_input_files({"name": name, "mimeType": "application/pdf", "buffer": content})
    expect(page.get_by_role("link", name=name).first).to_be_visible()


def sign(page: Page, name: str) -> None:
    """Tick every declaration and sign."""
    expect(page.get_by_label("Your full name, as you sign")).to_be_visible()
    for said in page.locator(".filing-declared li").all():
        said.locator("input").check()
        expect(said.locator(".filing-ticked")).to_be_visible()
    page.get_by_label("Your full name, as you sign").fill(name)
    page.get_by_role("button", name=re.compile("^Sign( again)?$")).click()
    # a name that is not that of the account is asked about
    sure = page.get_by_role("button", name=f"Yes, sign as {name}")
    expect(sure.or_(page.get_by_text("Take the signature back"))).to_be_visible()
    if sure.is_visible():
        sure.click()
    expect(page.get_by_text("Take the signature back")).to_be_visible()


def sign_again(page: Page, name: str) -> None:
    """In an answer that changed what was signed: sign it anew."""
    expect(page.get_by_text("Signed before this was changed", exact=False).first).to_be_visible()
    page.get_by_label("Your full name, as you sign").fill(name)
    page.get_by_role("button", name="Sign again").click()
    expect(page.get_by_role("button", name="Sign again")).to_be_hidden()


def file_it(page: Page) -> str:
    """Read it over and file it, gaps and all; gives the reference."""
    page.get_by_role("link", name="Read it over").first.click()
    expect(page.get_by_role("heading", name="Read it over")).to_be_visible()
    gaps = page.get_by_label("I have read what is missing")
    if gaps.count():
        gaps.check()
    page.get_by_role("button", name="File this application").click()
    # one that was taken back and whose money waited on the account is covered at once
    expect(
        page.get_by_role("heading", name=re.compile("Your application is filed|The office has it|it is granted"))
    ).to_be_visible()
    found = re.search(r"[A-Z]{2}-\d\d-\d{5}-[A-Z]", page.url)
    assert found
    return found[0]


def pay(page: Page) -> None:
    """Hold a good card to the terminal."""
    page.get_by_role("button", name="Pay by card").click()
    page.get_by_role("button", name="Hold a good card to it").click()
    expect(page.get_by_text("Approved")).to_be_visible()


def judge_rest(page: Page) -> None:
    """Judge everything that is not judged yet as met, by its key."""
    counter = page.locator(".desk-list h2 > span")
    for _ in range(40):
        found = re.match(r"(\d+) of (\d+)", counter.inner_text())
        assert found
        if found[1] == found[2]:
            return
        page.keyboard.press("m")
        reason = page.get_by_label("Why is it met all the same?")
        counted = page.get_by_text(f"{int(found[1]) + 1} of {found[2]} judged")
        expect(counted.or_(reason).first).to_be_visible()
        if reason.is_visible():  # the machine finds a fault or has a doubt
            reason.fill("Looked at by hand.")
            page.keyboard.press("Enter")
        expect(counter).to_have_text(f"{int(found[1]) + 1} of {found[2]} judged")
    raise AssertionError("the checklist has no end")


def accept(page: Page) -> None:
    """Accept as complete: its letter is shown first, and what was met against the machine, each with its reason."""
    page.get_by_role("button", name="Accept as complete").click()
    first = page.get_by_role("dialog", name="Accept as complete?")
    expect(first.locator("[data-drawn=true]")).to_be_visible()
    for against in first.locator(".desk-against li").all():
        expect(against).to_contain_text("Looked at by hand.")
    first.get_by_role("button", name="Accept as complete").click()
    stamp(page, "Complete")


def open_desk(page: Page, place: str) -> None:
    """Find a case by its place and open it."""
    page.keyboard.press("f")
    page.get_by_label("Find a case, person or place").fill(place)
    page.locator(".jc-found button", has_text=place).first.click()  # others may only mention it
    expect(page.locator(".desk-head h1")).to_contain_text(place)
    page.locator(".desk-head h1").click()


def other_step(page: Page, step: str) -> None:
    """Open one of the other steps of the desk."""
    page.get_by_role("button", name="Other steps").click()
    page.locator(".desk-more").get_by_role("option", name=step).click()


def hand_over(page: Page, to: str = "") -> None:
    """Hand a complete case over to a reviewer, the first one unless another is named."""
    page.get_by_role("button", name="Hand over").click()
    first = page.get_by_role("dialog", name="Hand the case over?")
    if to:
        first.get_by_label("Who decides").select_option(label=to)
    first.get_by_role("button", name="Hand over").click()
    stamp(page, "Under review")


def unfold(page: Page) -> None:
    """Show in the checklist what was judged before, too."""
    expect(page.locator(".desk-check").first).to_be_visible()
    folded = page.locator(".desk-folded button")
    if folded.count() and "show" in folded.inner_text():
        folded.click()


def stamp(page: Page, state: str) -> None:
    """The stamp of the case on the screen."""
    expect(page.locator(".jc-stamp").first).to_have_text(state)
