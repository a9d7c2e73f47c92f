"""Papers of filings as people send them, with wordings of their own, as typed PDF files or as scans; each with the place it belongs to."""

from __future__ import annotations

import io
import random
from dataclasses import dataclass, field

from PIL import Image, ImageDraw
from reportlab.lib.pagesizes import A3, A4, landscape
from reportlab.pdfgen.canvas import Canvas

from bench.made import passports
from bench.made.disturbed import disturbed

#: per kind and slot: headings that occur, and sentences of the body ({who} is a person of the filing)
WORDS: dict[str, dict[str, tuple[tuple[str, ...], tuple[str, ...]]]] = {
    "QV": {
        "contract": (("Contract", "Agreement for a tour", "Engagement of an artist", "Invitation to perform"),
                     ("The company engages {who} for every evening.", "Fee and lodging of {who} are paid weekly.", "Either side may end it.")),
        "venue_letters": (("Letter of the Old Hall", "Booking of the Lantern Hall", "To the promoter: hire of the hall"),
                          ("The venue is yours on 3 and 4 March 2027.", "Doors open at seven; the days are kept for you.")),
        "health_cover": (("Health cover", "Certificate of insurance", "Group sickness insurance"),
                         ("All members of the group are covered for every day.", "Policy H-2231.")),
        "goods_list": (("List of instruments and sets", "Packing list", "Inventory of what we bring"),
                       ("Two drums, value 800.00", "One organ, value 4 000.00", "Costumes")),
        "fire_plan": (("Fire plan", "Use of open fire on stage"), ("Two torches burn for a minute.", "Sand and water stand beside.")),
        "animal_papers": (("Papers of the animals", "Veterinary certificate"), ("One dog, healthy on 2 February 2027.",)),
    },
    "PL": {
        "degree": (("Degree certificate", "Diploma", "Bachelor of Surveying"), ("Awarded to {who}", "Dated 5 June 2015")),
        "credit_list": (("List of credit points", "Record of credits"), ("Geodesy 12", "Levelling 8", "Law of bounds 6", "in all 240 credit points")),
        "practice": (("Reference", "Letter of practice", "Certificate of employment"),
                     ("{who} worked with us from 1 May 2018 to 3 June 2021.", "As an employer we thank them.")),
        "name_change": (("Certificate of marriage", "Change of name"), ("{who} bears this name from today.",)),
        "cover": (("Certificate of cover", "Professional liability insurance", "Policy"),
                  ("Insured: {who}", "1 January 2027 to 31 December 2027", "300 000.00")),
        "language_test": (("Language test", "Language certificate, level C1"), ("{who} has passed in all four parts.",)),
    },
    "BW": {
        "consent": (("Owner's consent", "Agreement of the owner"), ("I own the plot and agree to the works.", "Signed, dated")),
        "power": (("Power to act", "Power of attorney"), ("I empower {who} to act in this case.",)),
        "structure": (("Structural statement", "Statics of the roof"), ("The loads are carried. The engineer answers for it.",)),
        "shore_declaration": (("Shoreline declaration", "Declaration on the flood line"), ("I know the flood line and build at my own risk.",)),
        "heritage": (("Heritage statement", "Works on a listed building"), ("What is old stays; the new slates are like the old.",)),
    },
}  # fmt: skip
_PEOPLE = ("Ada Marek", "Ivo Thorne", "Zoe Quay", "Otto Brandt", "Marta Nowak", "Leila Bibo")
_STRAY = (
    ("Bill of fare", ("Soup", "Fish", "Cheese")),
    ("Timetable of the ferry", ("Quill 8:00", "Skerry 9:30")),
    ("Thank you", ("It was a fine evening.",)),
)


@dataclass
class Paper:
    """A paper with the slot it belongs to (none for a stray one) and the person it names."""

    name: str
    content: bytes
    slot: str
    who: str = ""
    text: list[str] = field(default_factory=list)


def typed(heading: str, lines: tuple[str, ...], dice: random.Random, pages: int = 1) -> bytes:
    """A typed paper; the heading is larger than the text, as people write."""
    buffer = io.BytesIO()
    canvas = Canvas(buffer, pagesize=A4)
    for no in range(pages):
        y = dice.randint(640, 770)
        if dice.random() < 0.5:
            canvas.setFont("Helvetica", 9)
            canvas.drawString(
                60, 800, dice.choice(("Harbour Mutual", "Old Hall, Quill", "Tide School", "The Salt Choir", "12 Pier Road"))
            )
        canvas.setFont("Helvetica-Bold", dice.choice((14, 16, 20)))
        canvas.drawString(dice.randint(60, 160), y, heading if no == 0 else f"{heading}, continued")
        canvas.setFont("Helvetica", 11)
        for n, line in enumerate(lines):
            canvas.drawString(60, y - 50 - 20 * n, line)
        for n in range(dice.randint(2, 14)):
            canvas.drawString(60, y - 70 - 20 * (len(lines) + n), dice.choice(_FILLER))
        if dice.random() < 0.4:
            canvas.setFont("Helvetica", 8)
            canvas.drawString(290, 30, f"{no + 1} of {pages}")
        canvas.showPage()
    canvas.save()
    return buffer.getvalue()


_FILLER = (
    "We remain, with kind regards.", "This was written in Quill.", "The undersigned stands by every word of it.",
    "Further questions may be put in writing.", "A copy is kept with us.", "It holds until further notice.", "Yours faithfully",
)  # fmt: skip


def plan(dice: random.Random, what: str) -> bytes:
    """A site plan or sections, drawn to scale on A3."""
    buffer = io.BytesIO()
    canvas = Canvas(buffer, pagesize=landscape(A3))
    for _ in range(dice.randint(8, 30)):
        canvas.rect(dice.randint(50, 700), dice.randint(50, 500), dice.randint(30, 300), dice.randint(30, 200))
    canvas.drawString(200, 500, "18 m to high water" if what == "site_plan" else "Ridge +6.40")
    canvas.setFont("Helvetica", 10)
    scale = dice.choice(("1:200", "1:500")) if what == "site_plan" else "1:50"
    canvas.drawString(950, 60, f"Scale {scale}")
    canvas.drawString(
        950,
        45,
        dice.choice(("Site plan", "Plan of the plot")) if what == "site_plan" else dice.choice(("Sections", "Section A-A")),
    )
    canvas.drawString(950, 30, "Drawn by J. Wick, 3 Oct 2026")
    canvas.save()
    return buffer.getvalue()


def pile_of(kind: str, dice: random.Random) -> tuple[list[str], list[Paper]]:
    """The persons of a filing and papers that came for it, in any order."""
    people = dice.sample(_PEOPLE, dice.randint(1, 4)) if kind == "QV" else [dice.choice(_PEOPLE)]
    made = list[Paper]()
    for slot, (headings, lines) in WORDS[kind].items():
        who = dice.choice(people)
        told = tuple(line.format(who=who) for line in lines)
        name = dice.choice((f"scan{dice.randint(1, 99)}.pdf", f"{slot}.pdf", "document.pdf", f"IMG-{dice.randint(100, 999)}.pdf"))
        made.append(
            Paper(
                name,
                typed(dice.choice(headings), told, dice, dice.choice((1, 1, 1, 2))),
                slot,
                who if slot in ("contract",) else "",
            )
        )
    if kind == "BW":
        made += [Paper("plan.pdf", plan(dice, "site_plan"), "site_plan"), Paper("a3.pdf", plan(dice, "sections"), "sections")]
    heading, lines = dice.choice(_STRAY)
    made.append(Paper("more.pdf", typed(heading, lines, dice), ""))
    if kind in ("QV", "PL"):
        for who in people:
            made.append(Paper(f"IMG_{dice.randint(1000, 9999)}.jpg", photographed(who, dice), "passport", who))
    dice.shuffle(made)
    return people, made


def photographed(who: str, dice: random.Random) -> bytes:
    """The page of somebody's passport as a telephone takes it."""
    told = passports.passport(dice)
    given, surname = who.upper().split()
    first = f"P<{told.country}{surname}<<{given}".ljust(44, "<")
    told = passports.Passport((first, told.lines[1]), told.number, told.born, told.expires, surname, given, told.country, False)
    buffer = io.BytesIO()
    disturbed(passports.drawn(told, 200, dice), dice, skew=5).save(buffer, "JPEG", quality=80, dpi=(200, 200))
    return buffer.getvalue()


def long_scan(kind: str, dice: random.Random) -> tuple[bytes, list[int]]:
    """Papers bound together in one file, and the sheets on which one begins."""
    import pikepdf

    _, papers = pile_of(kind, dice)
    first, count = list[int](), 0
    with pikepdf.new() as whole:
        for paper in papers:
            if not paper.name.endswith(".pdf"):
                continue
            if count and dice.random() < 0.25:
                whole.add_blank_page(page_size=A4)
                count += 1
            with pikepdf.open(io.BytesIO(paper.content)) as part:
                first.append(count + 1)
                whole.pages.extend(part.pages)
                count += len(part.pages)
        out = io.BytesIO()
        whole.save(out)
    return out.getvalue(), first


def portrait(dice: random.Random, fault: str = "") -> bytes:
    """A drawn portrait, other than the demo's; ``fault`` is nobody, two, dark, small, blurred or busy."""
    wide, high = 700, 900
    ground = (235, 232, 226) if fault != "dark" else (40, 44, 52)
    image = Image.new("RGB", (wide, high), ground)
    pen = ImageDraw.Draw(image)
    if fault == "busy":
        for _ in range(60):
            x, y = dice.randrange(wide), dice.randrange(high)
            pen.rectangle((x, y, x + 120, y + 90), fill=tuple(dice.randrange(30, 250) for _ in range(3)))
    scale = 0.42 if fault == "small" else dice.uniform(0.92, 1.05)
    if fault != "nobody":
        places = ((wide * 0.28, 0.5), (wide * 0.72, 0.5)) if fault == "two" else ((wide / 2 + dice.randint(-20, 20), scale),)
        for middle, size in places:
            _face(pen, middle, high * (0.5 if fault == "small" else 0.46), size, dice)
    if fault == "blurred":
        from PIL import ImageFilter

        image = image.filter(ImageFilter.GaussianBlur(16))
    out = io.BytesIO()
    image.save(out, "JPEG", quality=dice.randint(70, 95), dpi=(300, 300))
    return out.getvalue()


def _face(pen: ImageDraw.ImageDraw, x: float, y: float, size: float, dice: random.Random) -> None:
    skin = dice.choice(((236, 200, 168), (214, 162, 122), (190, 140, 100), (244, 214, 186)))
    hair = dice.choice(((40, 28, 20), (70, 48, 26), (30, 30, 34)))
    u = size * 260

    def oval(dx: float, dy: float, across: float, down: float, fill: tuple[int, ...]) -> None:
        pen.ellipse((x + dx * u - across * u, y + dy * u - down * u, x + dx * u + across * u, y + dy * u + down * u), fill=fill)

    oval(0, 1.75, 1.25, 0.75, (60, 80, 110))
    oval(0, 1.1, 0.3, 0.4, tuple(v - 12 for v in skin))
    oval(0, -0.15, 0.86, 1.02, hair)
    oval(0, 0.08, 0.72, 0.98, skin)
    for side in (-1, 1):
        oval(0.3 * side, -0.12, 0.17, 0.09, (250, 250, 248))
        oval(0.3 * side, -0.12, 0.08, 0.085, (50, 36, 30))
        pen.line(
            (x + (0.3 * side - 0.2) * u, y - 0.3 * u, x + (0.3 * side + 0.2) * u, y - 0.32 * u),
            fill=hair,
            width=max(3, round(0.06 * u)),
        )
        oval(0.13 * side, 0.02, 0.05, 0.16, tuple(v - 22 for v in skin))
    oval(0, 0.3, 0.13, 0.07, tuple(v - 32 for v in skin))
    oval(0, 0.58, 0.24, 0.06, (150, 70, 70))
