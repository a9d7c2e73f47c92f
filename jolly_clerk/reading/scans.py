"""The pages of a PDF that are pictures: how they look, their lines of a travel document, a face; and each drawn for other readers."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

import numpy as np
import pypdfium2
import pypdfium2.raw as raw
from PIL import Image

from jolly_clerk.core.facts.reading import Face, Page, Zone
from jolly_clerk.reading.picture import MOST_LOOKED, MOST_ZONE_PAGES, ZONE_AT, face_in, grey_of, looked_at
from jolly_clerk.reading.zone import read_zone

#: dots an inch, and the most dots of a side, at which pages are drawn for looking at and for reading
LOOK_DPI, READ_DPI, MOST_SIDE = 150, 300, 5200


def look_at_scans(
    content: bytes, pages: Sequence[Page], pictured: Sequence[int], zoned: bool
) -> tuple[tuple[Page, ...], tuple[Zone, ...], Face | None]:
    """Pages with how their scans look, zones on them and on the pages of ``pictured`` (numbers), and the face of the first page.

    ``zoned`` tells that the words gave machine-readable lines already.
    """
    scans = [p.no for p in pages if p.content == "scan"][:MOST_LOOKED]
    wanted = sorted({*scans, *(() if zoned else pictured[:MOST_ZONE_PAGES])})
    if not wanted:
        return tuple(pages), (), None
    told, zones, face = {p.no: p for p in pages}, list[Zone](), None
    document = pypdfium2.PdfDocument(content)
    try:
        for n, no in enumerate(wanted):
            page = document[no - 1]
            dpi = dots_of(page)
            grey = drawn(page, min(max(LOOK_DPI, dpi), 220) if n < MOST_ZONE_PAGES else LOOK_DPI, ZONE_AT)
            page.close()
            if told[no].content == "scan":
                told[no] = looked_at(told[no], grey, dpi)
            if not zoned and n < MOST_ZONE_PAGES and told[no].content != "blank" and (zone := read_zone(grey, no)):
                zones.append(zone)
            if no == 1 and len(pages) == 1 and told[no].content == "scan":
                face = face_in(grey)
    finally:
        document.close()
    return tuple(told[p.no] for p in pages), tuple(zones), face


def dots_of(page: Any) -> int:
    """Dots an inch of the largest picture on a page; 0 if there is none."""
    best = (0.0, 0)
    for item in page.get_objects(max_depth=4):
        if item.type != raw.FPDF_PAGEOBJ_IMAGE:
            continue
        left, bottom, right, top = item.get_bounds()
        across, _ = item.get_px_size()
        if right > left and (right - left) * (top - bottom) > best[0]:
            best = ((right - left) * (top - bottom), round(across / ((right - left) / 72)))
    return min(best[1], 4800)


def drawn(page: Any, dpi: int, most: int = MOST_SIDE) -> Any:
    """A page in grey as it is seen, at so many dots an inch, at most so many dots on its longer side."""
    width, height = page.get_size()
    scale = min(dpi / 72, most / max(width, height, 1.0))
    bitmap = page.render(scale=scale, grayscale=True)
    dots = np.array(bitmap.to_numpy(), copy=True)
    bitmap.close()
    return dots if dots.ndim == 2 else dots[:, :, 0]


def page_of(content: bytes, kind: str, no: int) -> Any:
    """One page of a file in grey, drawn for reading its text."""
    if kind == "pdf":
        document = pypdfium2.PdfDocument(content)
        try:
            return drawn(document[no - 1], READ_DPI)
        finally:
            document.close()
    with Image.open(io.BytesIO(content)) as image:
        image.seek(no - 1)
        return grey_of(image)
