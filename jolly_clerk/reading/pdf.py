"""The pages of a PDF: their sheets, their words with places, and which of these somebody sees."""

from __future__ import annotations

import ctypes
import io
import re
from collections.abc import Iterator, Mapping, Set
from dataclasses import dataclass, field
from typing import Any, NamedTuple

import numpy as np
import pikepdf
import pypdfium2
import pypdfium2.raw as raw
from pydantic import TypeAdapter

from jolly_clerk.core.facts.reading import Box, Hidden, Page, TextLine
from jolly_clerk.core.say import say
from jolly_clerk.reading.inside import share_of
from jolly_clerk.reading.language import language_of
from jolly_clerk.reading.seen import Seen, plain_pages, suspicious

MM_PER_POINT = 25.4 / 72
MOST_PAGES = 2000
#: the largest unit that a page may have, in points
MOST_UNIT = 10_000
#: a page with fewer words than this and pictures over most of it is a scan
SCAN_WORDS, SCAN_SHARE = 5, 0.6
#: a page with fewer words than that and a picture of such a share is looked at for the lines of a travel document
MANY_WORDS, SOME_PICTURE = 200, 0.08
#: words keep their places on so many pages, in so many lines, each of so many letters
MOST_PLACED_PAGES, MOST_LINES, MOST_LETTERS = 300, 20_000, 240
#: claims are looked for in so many pages
MOST_CLAIM_PAGES = 80
#: smaller writing, in points, is read by nobody
TINY = 1.3
#: words whose middle lies so far beyond the edge, as a share of the page, are off the sheet
OFF = 0.002
#: a line of text without the blanks and breaks around it
_LINE = re.compile(r"[^\s\x02\ufffe](?:[^\r\n\x02\ufffe]*[^\s\x02\ufffe])?")
#: many lines are made at once, which takes a third of the time
_LINES = TypeAdapter(list[TextLine])
#: a page is looked at for pictures in so many of its objects
MOST_OBJECTS = 3000


@dataclass(slots=True)
class Text:
    """What is gathered over the pages; ``pictured`` are those with words and a picture of some size."""

    lines: list[TextLine] = field(default_factory=list)
    hidden: list[Hidden] = field(default_factory=list)
    texts: list[str] = field(default_factory=list)
    bounds: list[str] = field(default_factory=list)
    pictured: list[int] = field(default_factory=list)
    language: str = ""

    def language_of(self, text: str) -> str:
        """The language of the next page."""
        self.language = language_of(text, self.language)
        return self.language


@dataclass(frozen=True, slots=True)
class Outline:
    """What is known of the pages before they are read: those on which everything is seen (numbers), whether the file has layers, which
    may be switched off, and the size of the unit of those that have one of their own, in points."""

    plain: Set[int]
    layers: bool
    units: Mapping[int, float]


def outline(pdf: pikepdf.Pdf) -> Outline:
    """The outline of an opened PDF."""
    units = dict[int, float]()
    for no, page in enumerate(pdf.pages, 1):
        try:
            unit = float(page.obj.get("/UserUnit", 1))
        except (TypeError, ValueError):
            continue
        if unit != 1 and 0 < unit <= MOST_UNIT:
            units[no] = unit
    return Outline(plain_pages(pdf), "/OCProperties" in pdf.Root, units)


def pages_of(content: bytes, known: Outline, gathered: Text) -> Iterator[Page]:
    """Each page of a PDF. One bad page is told as such."""
    document = pypdfium2.PdfDocument(content)
    try:
        count = len(document)
        if count > MOST_PAGES:
            gathered.bounds.append(say("Of {count} pages the first {most} were read.", count=count, most=MOST_PAGES))
        if min(count, MOST_PAGES) > MOST_PLACED_PAGES:
            gathered.bounds.append(say("The places of words are kept for the first {most} pages only.", most=MOST_PLACED_PAGES))
        for n in range(min(count, MOST_PAGES)):
            try:
                page = document[n]
            except pypdfium2.PdfiumError:
                yield Page(no=n + 1, width_mm=0, height_mm=0, content="blank", trouble=say("it is damaged"))
                continue
            yield _page(page, n + 1, known, gathered)
            page.close()
    finally:
        document.close()


def _page(page: Any, no: int, known: Outline, gathered: Text) -> Page:
    """One page; pdfium applies its rotation to the size it gives, in points, but not its unit."""
    width, height = (side * known.units.get(no, 1.0) for side in page.get_size())
    plain = no in known.plain
    text_page = page.get_textpage()
    text, exact = _text(text_page)
    if text.strip() and no <= MOST_PLACED_PAGES and len(gathered.lines) < MOST_LINES:
        sheet = _Sheet(no, page)
        quick = sheet.all_seen(text_page, text) if plain and exact else None
        if quick is not None:
            placed, hidden = quick, list[Hidden]()
            text_page.close()
        else:
            runs = list(_runs(text_page, text if exact else ""))
            words, unseen = list[Word](), set[int]()
            if not plain and (known.layers or suspicious(page)):
                seen = Seen(page)
                words = [word for run in runs for word in _words(text_page, run)]
                text_page.close()
                unseen = seen.unseen([word.rect for word in words])
            else:
                text_page.close()
            placed, hidden = sheet.told(runs, words, unseen)
        if hidden:
            text = "\n".join(line.text for line in placed)
        gathered.hidden += hidden[: MOST_LINES - len(gathered.hidden)]
        gathered.lines += placed[: MOST_LINES - len(gathered.lines)]
        if len(gathered.lines) >= MOST_LINES:
            gathered.bounds.append(say("The places of words are kept up to page {no}; there are very many.", no=no))
    else:
        text_page.close()
    words_count = len(text.split())
    if no <= MOST_CLAIM_PAGES:
        gathered.texts.append(text.replace("\r", ""))
    looked = words_count < MANY_WORDS and len(gathered.pictured) < 4
    pictures, objects, ink = _objects(page) if looked else (0.0, 1, None)
    content: Any = "text"
    if words_count < SCAN_WORDS:
        content = "scan" if pictures >= SCAN_SHARE else "drawing" if objects else "text" if words_count else "blank"
    elif pictures > SOME_PICTURE:
        gathered.pictured.append(no)
    return Page(
        no=no,
        width_mm=round(width * MM_PER_POINT, 1),
        height_mm=round(height * MM_PER_POINT, 1),
        content=content,
        words=words_count,
        ink=ink,
        language=gathered.language_of(text) if no <= MOST_CLAIM_PAGES else "",
    )


def _text(text_page: Any) -> tuple[str, bool]:
    """The text of a page, and whether its signs and their places go side by side."""
    count = text_page.count_chars()
    if count < 1:
        return "", True
    buffer = ctypes.create_string_buffer(2 * (count + 1))
    got = raw.FPDFText_GetText(text_page, 0, count, ctypes.cast(buffer, ctypes.POINTER(ctypes.c_ushort)))
    text = buffer.raw[: 2 * max(0, got - 1)].decode("utf-16-le", errors="replace")
    return (text, True) if len(text) == count else (text_page.get_text_bounded(), False)


class _Run(NamedTuple):
    """A run of text: its words, where they are (left, bottom, right, top in points), and which signs of the page they are."""

    text: str
    rect: tuple[float, float, float, float]
    first: int
    signs: int


def _runs(text_page: Any, text: str) -> Iterator[_Run]:
    """The runs of a page. Each line of its ``text`` is one, unless it stands in several places."""
    if not text:
        yield from _runs_by_place(text_page, 0, -1)
        return
    lines = [(found.start(), found[0]) for found in _LINE.finditer(text)]
    left, top, right, bottom = places = [ctypes.c_double() for _ in range(4)]
    spots = [ctypes.byref(v) for v in places]
    each = raw.FPDFText_CountRects(text_page, 0, -1) == len(lines)  # no line stands in two places then
    for n, (at, said) in enumerate(lines):
        if each or raw.FPDFText_CountRects(text_page, at, len(said)) == 1:
            raw.FPDFText_GetRect(text_page, n if each else 0, *spots)
            plain = len(said) <= MOST_LETTERS and "  " not in said and said.isprintable()
            rect = left.value, bottom.value, right.value, top.value
            yield _Run(said if plain else _short(said), rect, at, len(said))
        else:
            yield from _runs_by_place(text_page, at, len(said))


def _short(said: str) -> str:
    return " ".join(said.split())[:MOST_LETTERS]


def _runs_by_place(text_page: Any, first: int, count: int) -> Iterator[_Run]:
    for n in range(min(text_page.count_rects(first, count), 2000)):
        rect = text_page.get_rect(n)
        shown = _short(text_page.get_text_bounded(*rect))
        if shown:
            yield _Run(shown, rect, -1, 0)


class Word(NamedTuple):
    """One word and where it is, in points."""

    text: str
    rect: tuple[float, float, float, float]


def _words(text_page: Any, run: _Run) -> Iterator[Word]:
    """The words of a run one by one; the run itself where the places of its signs are not known."""
    if run.first < 0:
        yield Word(run.text, run.rect)
        return
    said, rect = "", list[float]()
    box = [ctypes.c_double() for _ in range(4)]
    for n in range(run.first, run.first + run.signs):
        code = raw.FPDFText_GetUnicode(text_page, n)
        if code <= 32 or code == 0xA0:
            if said:
                yield Word(said, (rect[0], rect[1], rect[2], rect[3]))
            said, rect = "", []
            continue
        said += chr(code)
        if raw.FPDFText_GetCharBox(text_page, n, *(ctypes.byref(v) for v in box)):
            left, right, bottom, top = (v.value for v in box)
            rect = (
                [min(rect[0], left), min(rect[1], bottom), max(rect[2], right), max(rect[3], top)]
                if rect
                else [left, bottom, right, top]
            )
    if said and rect:
        yield Word(said, (rect[0], rect[1], rect[2], rect[3]))


#: ``FPDFText_GetRect`` as it takes plain addresses, which is half as long as objects for each: called for every line of every page
_RECT: Any = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.c_void_p, ctypes.c_int, *[ctypes.c_void_p] * 4)(
    ctypes.cast(raw.FPDFText_GetRect, ctypes.c_void_p).value or 0
)


class _Sheet:
    """A page as a place for words."""

    def __init__(self, no: int, page: Any) -> None:
        self.no, self.crop = no, page.get_cropbox()
        self.turn = raw.FPDFPage_GetRotation(page.raw)

    def box(self, rect: tuple[float, float, float, float]) -> Box:
        return share_of(rect, self.crop, self.turn)

    def why(self, word: Word | _Run) -> Any:
        """Why nobody reads it, by its place and size alone; None if one may."""
        left, bottom, right, top = self.crop
        x, y = (word.rect[0] + word.rect[2]) / 2, (word.rect[1] + word.rect[3]) / 2
        across, up = right - left or 1.0, top - bottom or 1.0
        if not (-OFF <= (x - left) / across <= 1 + OFF and -OFF <= (y - bottom) / up <= 1 + OFF):
            return "off the sheet"
        side = min(word.rect[2] - word.rect[0], word.rect[3] - word.rect[1])
        long = max(word.rect[2] - word.rect[0], word.rect[3] - word.rect[1])
        small = long < TINY * len(word.text) / 2 and any(sign.isalnum() for sign in word.text)
        return "too small" if side < TINY and small else None

    def all_seen(self, text_page: Any, text: str) -> list[TextLine] | None:
        """The lines of an upright page on which each stands in one place, none off the sheet and none too small; None for any other."""
        lines = _LINE.findall(text)
        count = raw.FPDFText_CountRects(text_page, 0, -1)
        if self.turn or not count or count != len(lines):
            return None
        spots = (ctypes.c_double * (4 * count))()
        handle, first = ctypes.cast(text_page.raw, ctypes.c_void_p).value, ctypes.addressof(spots)
        for at in range(first, first + 32 * count, 32):  # four numbers of eight bytes a line
            _RECT(handle, (at - first) // 32, at, at + 8, at + 16, at + 24)
        rects = np.frombuffer(spots).reshape(count, 4)  # left, top, right, bottom
        west, south, east, north = self.crop
        least, most = rects.min(axis=0), rects.max(axis=0)
        small = np.abs(rects[:, :2] - rects[:, 2:]).min() < TINY
        if small or least[0] < west or least[3] < south or most[2] > east or most[1] > north:
            return None
        across, up = east - west or 1.0, north - south or 1.0
        boxes = (rects - (west, north, west, north)) / (across, -up, across, -up)
        every = "\n".join(lines)
        if "  " in every or len(max(lines, key=len)) > MOST_LETTERS:
            lines = [_short(said) for said in lines]
        told = zip(lines, boxes.round(4).tolist(), strict=True)
        return _LINES.validate_python([{"page": self.no, "text": said, "box": box} for said, box in told])

    def told(self, runs: list[_Run], words: list[Word], unseen: set[int]) -> tuple[list[TextLine], list[Hidden]]:
        """The lines that are seen, and those that nobody sees."""
        shown, hidden = list[TextLine](), list[Hidden]()
        if not unseen:
            left, bottom, right, top = self.crop
            for run in runs:
                a, b, c, d = run.rect
                whole = a >= left and b >= bottom and c <= right and d <= top and d - b >= TINY and c - a >= TINY
                why = None if whole else self.why(run)
                if why:
                    hidden.append(Hidden(page=self.no, text=run.text, box=self.box(run.rect), why=why))
                else:
                    shown.append(TextLine(page=self.no, text=run.text, box=self.box(run.rect)))
            return shown, hidden
        reasons = [self.why(word) or ("not drawn" if n in unseen else None) for n, word in enumerate(words)]
        for first, last, why in _stretches(words, reasons):
            some = words[first : last + 1]
            text = " ".join(word.text for word in some)[:MOST_LETTERS]
            rects = [word.rect for word in some]
            box = self.box(
                (min(r[0] for r in rects), min(r[1] for r in rects), max(r[2] for r in rects), max(r[3] for r in rects))
            )
            if why:
                hidden.append(Hidden(page=self.no, text=text, box=box, why=why))
            else:
                shown.append(TextLine(page=self.no, text=text, box=box))
        return shown, hidden


def _stretches(words: list[Word], reasons: list[Any]) -> Iterator[tuple[int, int, Any]]:
    """Words that follow one another on a line with the same reason (or none)."""
    first = 0
    for n in range(1, len(words) + 1):
        if n < len(words):
            a, b = words[n - 1].rect, words[n].rect
            high = max(a[3] - a[1], b[3] - b[1], 1.0)
            level = abs(a[1] - b[1]) < 0.6 * high and -0.5 * high < b[0] - a[2] < 2.5 * high
            if level and reasons[n] == reasons[n - 1]:
                continue
        yield first, n - 1, reasons[first]
        first = n


def _objects(page: Any) -> tuple[float, int, Box | None]:
    """The share of a page that pictures cover, how many objects were looked at, and the box around all of them; none around too many."""
    crop = page.get_cropbox()
    left, bottom, right, top = crop
    cells, objects, around = set[tuple[int, int]](), 0, list[tuple[float, float, float, float]]()
    for item in page.get_objects(max_depth=6):
        objects += 1
        if objects > MOST_OBJECTS:
            break
        if item.type == raw.FPDF_PAGEOBJ_FORM:
            continue  # what stands in it is looked at
        bounds = _bounds(item)
        if item.type == raw.FPDF_PAGEOBJ_IMAGE:
            cells |= _covered(bounds, crop)
        ground = bounds[0] <= left + 1 and bounds[1] <= bottom + 1 and bounds[2] >= right - 1 and bounds[3] >= top - 1
        if not ground:  # what lies beneath the whole page is no drawing
            around.append(bounds)
    share = len(cells) / (CELLS * CELLS)
    if not around or objects > MOST_OBJECTS:
        return share, objects, None
    a, b, c, d = zip(*around, strict=True)
    whole = (max(left, min(a)), max(bottom, min(b)), min(right, max(c)), min(top, max(d)))
    return share, objects, share_of(whole, crop, raw.FPDFPage_GetRotation(page.raw))


#: how finely it is told what pictures cover
CELLS = 20


def _bounds(item: Any) -> tuple[float, float, float, float]:
    """Where an object is on the page, also when it stands in turned or nested frames."""
    left, bottom, right, top = item.get_bounds()
    holder = item.container
    corners = [(left, bottom), (right, bottom), (right, top), (left, top)]
    while holder is not None:
        a, b, c, d, e, f = holder.get_matrix().get()
        corners = [(a * x + c * y + e, b * x + d * y + f) for x, y in corners]
        holder = holder.container
    xs, ys = [x for x, _ in corners], [y for _, y in corners]
    return min(xs), min(ys), max(xs), max(ys)


def _covered(rect: tuple[float, float, float, float], crop: tuple[float, float, float, float]) -> set[tuple[int, int]]:
    """The cells of a page whose middle lies in a rectangle."""
    across, up = (crop[2] - crop[0]) / CELLS or 1.0, (crop[3] - crop[1]) / CELLS or 1.0
    columns = range(max(0, round((rect[0] - crop[0]) / across)), min(CELLS, round((rect[2] - crop[0]) / across)))
    rows = range(max(0, round((rect[1] - crop[1]) / up)), min(CELLS, round((rect[3] - crop[1]) / up)))
    return {(x, y) for x in columns for y in rows}


def opened(content: bytes) -> pikepdf.Pdf:
    """The file as pikepdf opens it."""
    return pikepdf.open(io.BytesIO(content))
