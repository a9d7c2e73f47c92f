"""What the machine noticed about the files of a slot, each finding with its place."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.file_findings import SAID, Finding, a_kind, file_findings, sheets_said
from jolly_clerk.core.facts.measures import any_scale, has_north_mark, has_title_block, scale_words
from jolly_clerk.core.facts.reading import ClaimsRead, Page, Reading
from jolly_clerk.core.facts.volumes import documents_of, volume_findings
from jolly_clerk.core.facts.writing import words_of_text
from jolly_clerk.core.facts.zone_signs import read_zone, seen_on
from jolly_clerk.core.in_words import one_of
from jolly_clerk.core.rulebook.model import SHEETS, Accepts, Margins, Portrait, Slot
from jolly_clerk.core.say import _, say
from jolly_clerk.core.things import things

#: the longest side of a sheet that anybody prints, in millimetres
LARGEST_MM = 10_000


def slot_findings(
    slot: Slot, files: Sequence[Attachment], readings: Mapping[str, Reading], others: Sequence[Attachment] = ()
) -> list[Finding]:
    """All findings about the files of a slot, in the order of the files. ``others`` are the files of the other slots."""
    found: list[Finding] = []
    low, high = slot.accepts.file_range
    documents = documents_of(files)
    found += volume_findings(files)
    if len(documents) > high:
        extra = documents[high]
        found.append(
            Finding(
                "fault",
                say(
                    "{count} here; at most {high} belong{word} in this slot.",
                    count=things(len(documents), "file"),
                    high=high,
                    word="s" if high == 1 else "",
                ),
                extra.id,
            )
        )
    elif files and len(documents) < low:
        found.append(
            Finding(
                "fault",
                say("{count} here; at least {low} are asked.", count=things(len(documents), "file"), low=low),
                files[0].id,
            )
        )
    for attachment in files:
        reading = readings.get(attachment.sha256)
        if reading is None and attachment.sealed:
            continue
        found += file_findings(attachment, reading)
        found += _accepted(slot, attachment, reading)
        if reading is not None and reading.opens == "yes":
            found += _travel(slot, attachment, reading)
        found += _blank(attachment, reading)
        if slot.margins and reading is not None:
            found += _margins(slot.margins, attachment, reading)
        if slot.scales or slot.title_block or slot.north_mark:
            found += _drawn(slot, attachment, reading)
        if reading is not None and reading.claims is not None:
            found += _claims(slot, attachment, reading.claims)
        for other in others:
            if other.sha256 == attachment.sha256:
                text = say("The same content stands elsewhere in this filing as “{name}”.", name=other.name)
                found.append(Finding("look", text, attachment.id))
    return found


def _blank(attachment: Attachment, reading: Reading | None) -> Iterator[Finding]:
    """A file of blank sheets, which is never what is asked."""
    if reading is not None and reading.pages and all(p.content == "blank" and not p.trouble for p in reading.pages):
        pictured = any(p.bits for p in reading.pages)  # a faint picture may be taken for blank: a person looks
        yield Finding("look" if pictured else "fault", say("Nothing stands on it: every page is blank."), attachment.id, 1)


def _drawn(slot: Slot, attachment: Attachment, reading: Reading | None) -> Iterator[Finding]:
    """What a drawing should bear: one of the scales, a title block. A sheet without text cannot be searched, which is said."""
    if reading is None or reading.opens != "yes":
        return
    if not reading.pages:
        return  # no drawing at all, which is said already
    if all(p.content == "blank" for p in reading.pages):
        return  # said already
    if not reading.lines:
        if reading.scans != "waiting":
            text = say("No text can be read in this drawing; scale and title block were not found.")
            yield Finding("look", text, attachment.id, 1)
        return
    if slot.scales and not scale_words(reading, slot.scales):
        wanted, there = " or ".join(slot.scales), any_scale(reading)
        said = (
            say("It is drawn at {there}; {wanted} is asked.", there=there, wanted=wanted)
            if there
            else say("No scale was found; {wanted} is asked.", wanted=wanted)
        )
        yield Finding("look", said, attachment.id, 1)
    if slot.north_mark and not has_north_mark(reading):
        yield Finding("look", say("No north mark was found."), attachment.id, 1)
    if slot.title_block and not has_title_block(reading):
        yield Finding("look", say("No title block was found at the lower right or the lower edge."), attachment.id, 1)


def _margins(margins: Margins, attachment: Attachment, reading: Reading) -> Iterator[Finding]:
    """Sheets on which something is drawn nearer to an edge than it may, told once for each edge."""
    for edge, free in (("top", margins.top), ("left", margins.left), ("right", margins.right), ("bottom", margins.bottom)):
        near = [(p.no, _left_free(p, edge)) for p in reading.pages if p.ink and p.width_mm]
        near = [(no, space) for no, space in near if space < free - NEAR_ENOUGH]
        if near:
            text = say(
                "{sheets}: something is drawn {space} mm from the {edge} edge; {free} mm are to stay free.",
                sheets=sheets_said([no for no, _ in near]), space=f"{min(space for _, space in near):.0f}", edge=say(EDGES[edge]), free=free,
            )  # fmt: skip
            yield Finding("look", text, attachment.id, near[0][0])


#: what the edges of a sheet are called; scanners move a sheet by so many millimetres
EDGES, NEAR_ENOUGH = {"top": _("upper"), "left": _("left"), "right": _("right"), "bottom": _("lower")}, 1.0


def _left_free(page: Page, edge: str) -> float:
    assert page.ink
    left, top, right, bottom = page.ink
    shares = {"top": top, "left": left, "right": 1 - right, "bottom": 1 - bottom}
    return round(shares[edge] * (page.width_mm if edge in ("left", "right") else page.height_mm), 1)


def _travel(slot: Slot, attachment: Attachment, reading: Reading) -> Iterator[Finding]:
    """What is to be said of the page of a passport and of a portrait, also where one stands for the other."""
    travel = slot.for_travel
    zone = read_zone(reading, seen_on(reading)) if travel or slot.portrait else None
    if slot.portrait is not None:
        if zone:
            text = say(
                "This is the page of a passport; a portrait is asked. If the two were put in each other’s place, exchange them."
            )
            yield Finding("fault", text, attachment.id, zone[0].page, zone[0].box)
        elif reading.type in PICTURES and reading.thorough:
            box = reading.face.box if reading.face and reading.face.count else ()
            yield from (Finding("look", text, attachment.id, 1, box) for text in _portrait(slot.portrait, reading))
    if not travel or reading.type not in (*PICTURES, "pdf"):
        return
    if zone is None:
        if is_portrait(reading):
            text = say(
                "This is a portrait; the page of the passport is asked. If the two were put in each other’s place, exchange them."
            )
            yield Finding("fault", text, attachment.id, 1)
        elif reading.zones_unread:
            text = say("No machine-readable lines could be read: this office’s reader for them is not installed.")
            yield Finding("look", text, attachment.id)
        elif reading.thorough:
            text = say("The machine-readable lines of the passport were not found. Show the whole page, sharp and in good light.")
            yield Finding("look", text, attachment.id)
        return
    lines, mrz = zone
    if mrz.faults:
        why = "" if lines.source == "text" else say(" On the paper, or in reading it: a person must look.")
        text = say("In the machine-readable lines: {faults}{why}", faults=" ".join(mrz.faults), why=why)
        yield Finding("look", text, attachment.id, lines.page, lines.box)
    yield from (Finding("note", text, attachment.id, lines.page, lines.box) for text in lines.repaired)


def is_travel_page(reading: Reading) -> bool:
    """True if a file shows the machine-readable lines of a passport."""
    return read_zone(reading, seen_on(reading)) is not None


def is_portrait(reading: Reading) -> bool:
    """True if a picture shows one large head and no lines of a passport."""
    face = reading.face
    return face is not None and face.count == 1 and face.height >= LARGE_HEAD and not is_travel_page(reading)


#: the files that are pictures; a head so high in a picture, as a share of it, is a portrait's
PICTURES, LARGE_HEAD = ("png", "jpeg", "tiff"), 0.45


def _portrait(wanted: Portrait, reading: Reading) -> Iterator[str]:
    """What a portrait does not show as it should. Nothing of it is refused by the machine alone."""
    face = reading.face
    if face is None or face.count == 0:
        yield say("No face was found in the picture. A person must look.")
        return
    if face.count > 1:
        yield say("{count} faces are in the picture; one is asked.", count=face.count)
        return
    low, high = wanted.head_range
    head = round(face.height * 100)
    if not low <= head <= high:
        yield say("The head is about {head} % of the picture; {low} to {high} % are asked.", head=head, low=low, high=high)
    if face.ground < float(wanted.ground):
        yield say("The ground behind the head is dark; a light one is asked.")
    elif face.even < float(wanted.even):
        yield say("The ground behind the head is not plain; a plain light one is asked.")
    if wanted.sharp and not face.sharp:
        yield say("The picture is not sharp.")


def _claims(slot: Slot, attachment: Attachment, claims: ClaimsRead) -> Iterator[Finding]:
    """What is wrong with the numbering and the dependence of the claims, where a slot is read for claims."""
    if any(f.type == "claims" for f in slot.facts):
        yield from (Finding("fault", text, attachment.id) for text in claims.faults)


def _accepted(slot: Slot, attachment: Attachment, reading: Reading | None) -> Iterator[Finding]:
    accepts = slot.accepts
    if attachment.size > accepts.most_bytes:
        yield Finding(
            "fault",
            say("{size} MB; at most {most} is taken here.", size=f"{attachment.size / 1000000.0:.1f}", most=accepts.size),
            attachment.id,
        )
    if reading is None or reading.opens in ("not read", "being read", "empty"):
        return
    if reading.type not in accepts.formats:
        wanted = one_of([say(SAID[f]) for f in accepts.formats])
        yield Finding(
            "fault",
            say(
                "“{name}” is {kind}; {wanted} is asked.",
                name=attachment.name,
                kind=a_kind(reading.type),
                wanted=wanted,
            ),
            attachment.id,
        )
        return
    pages = accepts.page_range
    if pages and reading.pages and not pages[0] <= len(reading.pages) <= pages[1]:
        yield Finding(
            "fault",
            say("{count}; {pages} are asked.", count=things(len(reading.pages), "page"), pages=accepts.pages),
            attachment.id,
        )
    words = accepts.word_range
    count = words_of_text(reading, [slot.title, *slot.known_by]) if words else 0
    if words and reading.words and not words[0] <= count <= words[1]:
        yield Finding(
            "fault", say("{words}; {asked} are asked.", words=things(count, "word"), asked=accepts.words), attachment.id
        )
    if reading.pages and (accepts.pixels or accepts.ratio):
        yield from _picture(accepts, attachment, reading.pages[0])
    if accepts.sheet and reading.pages:
        yield from _sheets(accepts, attachment, reading.pages)


def _picture(accepts: Accepts, attachment: Attachment, page: Page) -> Iterator[Finding]:
    """The dots and the sides of a picture."""
    across, down = page.pixels
    least, sides = accepts.least_pixels, accepts.sides
    if least and across and (across < least[0] or down < least[1]):
        yield Finding(
            "fault",
            say(
                "{across} × {down} pixels; at least {least_across} × {least_down} are asked.",
                across=across,
                down=down,
                least_across=least[0],
                least_down=least[1],
            ),
            attachment.id,
        )
    if sides and across and abs(across * sides[1] - down * sides[0]) * 100 > across * sides[1]:
        said = say(
            "{across} × {down} pixels, which is not {side_across} : {side_down} within 1 %.",
            across=across,
            down=down,
            side_across=sides[0],
            side_down=sides[1],
        )
        yield Finding(
            "fault",
            say("{said} Cut it to {rounded} × {down}.", said=said, rounded=round(down * sides[0] / sides[1]), down=down),
            attachment.id,
        )


def _sheets(accepts: Accepts, attachment: Attachment, pages: Sequence[Page]) -> Iterator[Finding]:
    """Sheets that are too small, lie wrong, say no size or one that no sheet has: each kind of trouble told once."""
    assert accepts.sheet is not None
    short, long = SHEETS[accepts.sheet]
    wrong: dict[tuple[str, str], list[int]] = {}
    for page in pages:
        a, b = sorted((page.width_mm, page.height_mm))
        if page.trouble:
            continue
        if not a:
            wrong.setdefault(("unsized", ""), []).append(page.no)
        elif b > LARGEST_MM:
            wrong.setdefault(("unheard", f"{b / 1000:.0f}"), []).append(page.no)
        elif a < short - 3 or b < long - 3:
            wrong.setdefault(("small", page.sheet or page.said().rpartition(" ")[0]), []).append(page.no)
        elif accepts.landscape and not page.landscape:
            wrong.setdefault(("upright", ""), []).append(page.no)
    for (what, size), numbers in wrong.items():
        sheets, many = sheets_said(numbers), len(numbers) > 1
        if what == "small" and many:
            text = say("{sheets} are {size}; {sheet} or larger is asked.", sheets=sheets, size=size, sheet=accepts.sheet)
        elif what == "small":
            text = say("Sheet {no} is {size}; {sheet} or larger is asked.", no=numbers[0], size=size, sheet=accepts.sheet)
        elif what == "upright" and many:
            text = say("{sheets} stand upright; landscape is asked.", sheets=sheets)
        elif what == "upright":
            text = say("Sheet {no} stands upright; landscape is asked.", no=numbers[0])
        elif what == "unheard":
            text = say(
                "{sheets}: {size} m long, which no sheet is; {sheet} or larger is asked.",
                sheets=sheets,
                size=size,
                sheet=accepts.sheet,
            )
        else:
            text = say(
                "{sheets}: the picture does not say how large it is; {sheet} or larger is asked.",
                sheets=sheets,
                sheet=accepts.sheet,
            )
        yield Finding("look" if what in ("unsized", "unheard") else "fault", text, attachment.id, numbers[0])
