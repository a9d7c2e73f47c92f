"""Which words of a page somebody sees: it is drawn with its words and without them, and what makes no difference is not seen."""

from __future__ import annotations

import ctypes
from typing import Any

import numpy as np
import pikepdf
import pypdfium2.raw as raw

#: the longer side of the page as it is drawn for this, in dots
DOTS = 1500
#: a dot differs if its grey does by so much of 255; a word is seen if so large a share of its box differs
DIFFERS, SHARE = 24, 0.015
#: a page of more objects is drawn rather than looked through
MOST_OBJECTS = 3000
_CONTENTS = (raw.FPDF_PAGEOBJ_PATH, raw.FPDF_PAGEOBJ_IMAGE, raw.FPDF_PAGEOBJ_SHADING)
#: a filling lighter than this may be the colour of the ground
LIGHT = 150

_Rect = tuple[float, float, float, float]


#: so many bytes of a page's drawing are looked through
MOST_BYTES = 400_000
#: what may hide words: another way of writing, states with transparency, layers, shadings, pictures, forms, patterns, clipping
_HIDING = {b"Tr", b"gs", b"BDC", b"sh", b"BI", b"Do", b"scn", b"sc", b"W", b"W*"}
#: signs that part words as blanks do
_PARTED = bytes.maketrans(b"/[(<])>", b"       ")
_PAINTS, _FILLS = {b"f", b"f*", b"F", b"B", b"B*", b"b", b"b*"}, {b"g": 1, b"rg": 3, b"k": 4}


def plain_pages(pdf: Any) -> set[int]:
    """Numbers of the pages on which nothing can hide a word: dark writing, nothing painted after it, no layers. What is not plainly so
    is left to :func:`suspicious`."""
    found, left = set[int](), 20 * MOST_BYTES
    if "/OCProperties" in pdf.Root:
        return found
    for no, page in enumerate(pdf.pages, 1):
        try:
            contents = page.obj.get("/Contents")
            parts = list(contents) if isinstance(contents, pikepdf.Array) else [] if contents is None else [contents]
            drawing = b"\n".join(part.read_bytes() for part in parts)
        except (pikepdf.PdfError, RuntimeError, ValueError, TypeError, AttributeError, MemoryError):
            continue
        left -= len(drawing)
        if left < 0:
            break
        if len(drawing) <= MOST_BYTES and _plain(drawing):
            found.add(no)
    return found


def _plain(drawing: bytes) -> bool:
    words = drawing.translate(_PARTED).split()
    told = set(words)
    if told & _HIDING:
        return False
    if told & _PAINTS and b"BT" in told and set(words[words.index(b"BT") :]) & _PAINTS:
        return False
    if told.isdisjoint(_FILLS):
        return True
    for n, word in enumerate(words):
        many = _FILLS.get(word, 0)
        if not many:
            continue
        try:
            ink = [float(v) for v in words[n - many : n]]
        except ValueError:
            return False
        light = (
            {
                1: lambda v: v[0],
                3: lambda v: 0.3 * v[0] + 0.59 * v[1] + 0.11 * v[2],
                4: lambda v: 1 - max(v[3], sum(v[:3]) / 3),
            }[many](ink)
            if len(ink) == many
            else 1.0
        )
        if light * 255 > LIGHT:
            return False
    return True


def suspicious(page: Any) -> bool:
    """True if some words of the page may not be seen: light, transparent or hidden ones, or something drawn after them."""
    count = raw.FPDFPage_CountObjects(page.raw)
    if count > MOST_OBJECTS:
        return True
    words: _Rect | None = None
    for n in range(count):
        item = raw.FPDFPage_GetObject(page.raw, n)
        kind = raw.FPDFPageObj_GetType(item)
        if kind == raw.FPDF_PAGEOBJ_FORM:
            return True
        if kind == raw.FPDF_PAGEOBJ_TEXT:
            if _faint(item):
                return True
            rect = _bounds(item)
            words = rect if words is None else _both(words, rect)
        elif words is not None and kind in _CONTENTS and _fills(item, kind) and _meet(words, _bounds(item)):
            return True
    return False


def _faint(item: Any) -> bool:
    if raw.FPDFTextObj_GetTextRenderMode(item) not in (0, 2, 4, 6):
        return True
    red, green, blue, alpha = (ctypes.c_uint() for _ in range(4))
    if not raw.FPDFPageObj_GetFillColor(item, *(ctypes.byref(v) for v in (red, green, blue, alpha))):
        return True
    return alpha.value < 128 or red.value * 0.3 + green.value * 0.59 + blue.value * 0.11 > LIGHT


def _fills(item: Any, kind: int) -> bool:
    if kind != raw.FPDF_PAGEOBJ_PATH:
        return True
    fill, stroke = ctypes.c_int(), ctypes.c_int()
    return bool(raw.FPDFPath_GetDrawMode(item, ctypes.byref(fill), ctypes.byref(stroke)) and fill.value)


def _bounds(item: Any) -> _Rect:
    box = [ctypes.c_float() for _ in range(4)]
    raw.FPDFPageObj_GetBounds(item, *(ctypes.byref(v) for v in box))
    return (box[0].value, box[1].value, box[2].value, box[3].value)


def _both(a: _Rect, b: _Rect) -> _Rect:
    return (min(a[0], b[0]), min(a[1], b[1]), max(a[2], b[2]), max(a[3], b[3]))


def _meet(a: _Rect, b: _Rect) -> bool:
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


class Seen:
    """A page drawn with its words; :meth:`unseen` takes them away and compares."""

    def __init__(self, page: Any) -> None:
        self.page = page
        width, height = page.get_size()
        self.scale = min(4.0, DOTS / max(width, height, 1.0))
        self.with_words = self._drawn()

    def _drawn(self) -> Any:
        bitmap = self.page.render(scale=self.scale, grayscale=True, may_draw_forms=False, draw_annots=False)
        drawn = np.array(bitmap.to_numpy(), copy=True).astype(np.int16)
        bitmap.close()
        return drawn if drawn.ndim == 2 else drawn[:, :, 0]

    def unseen(self, rects: list[_Rect]) -> set[int]:
        """Which of these rectangles (left, bottom, right, top in points) look the same without the words of the page."""
        _without_words(self.page.raw)
        differs = np.abs(self.with_words - self._drawn()) > DIFFERS
        high, wide = differs.shape
        found = set()
        for n, (left, bottom, right, top) in enumerate(rects):
            (x1, y1), (x2, y2) = self._dot(left, bottom), self._dot(right, top)
            x1, x2 = sorted((x1, x2))
            y1, y2 = sorted((y1, y2))
            part = differs[max(0, int(y1)) : min(high, int(y2) + 2), max(0, int(x1)) : min(wide, int(x2) + 2)]
            if part.size == 0 or part.mean() < SHARE:
                found.add(n)
        return found

    def _dot(self, x: float, y: float) -> tuple[float, float]:
        across, down = ctypes.c_int(), ctypes.c_int()
        high, wide = self.with_words.shape
        raw.FPDF_PageToDevice(self.page.raw, 0, 0, wide, high, 0, x, y, ctypes.byref(across), ctypes.byref(down))
        return across.value, down.value


def _without_words(page: Any) -> None:
    for n in reversed(range(raw.FPDFPage_CountObjects(page))):
        item = raw.FPDFPage_GetObject(page, n)
        kind = raw.FPDFPageObj_GetType(item)
        if kind == raw.FPDF_PAGEOBJ_TEXT:
            if raw.FPDFPage_RemoveObject(page, item):
                raw.FPDFPageObj_Destroy(item)
        elif kind == raw.FPDF_PAGEOBJ_FORM:
            _out_of_form(item, 0)


def _out_of_form(form: Any, depth: int) -> None:
    if depth > 8:
        return
    for n in reversed(range(raw.FPDFFormObj_CountObjects(form))):
        item = raw.FPDFFormObj_GetObject(form, n)
        kind = raw.FPDFPageObj_GetType(item)
        if kind == raw.FPDF_PAGEOBJ_TEXT:
            if raw.FPDFFormObj_RemoveObject(form, item):
                raw.FPDFPageObj_Destroy(item)
        elif kind == raw.FPDF_PAGEOBJ_FORM:
            _out_of_form(item, depth + 1)
