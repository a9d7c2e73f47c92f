"""Papers of many kinds bound into one PDF with bookmarks; runs in the fenced reader, since nobody knows what is in them."""

from __future__ import annotations

import io
from pathlib import Path
from typing import TYPE_CHECKING

from pydantic import BaseModel

if TYPE_CHECKING:
    from pikepdf import Pdf

#: so many dots an inch a picture has on a sheet at most, before it is made smaller
MOST_DPI, A4 = 200, (8.27, 11.69)


class Sewn(BaseModel):
    """One paper of a bundle: its title in the bookmarks, and where it is; ``kind`` is its true type."""

    title: str
    path: str
    kind: str


class Bundle(BaseModel):
    """What is bound and whereto. The first paper is the cover."""

    papers: list[Sewn]
    to: str


class Bound(BaseModel):
    """What came of it: on which sheet each paper begins, how many it has, and the numbers (from 0) of those that could not be bound."""

    begins: list[int] = []
    sheets: list[int] = []
    failed: list[int] = []


def bind(bundle: Bundle) -> Bound:
    """Bind the papers in their order and write the PDF; papers that cannot be bound are told and left out."""
    import pikepdf

    bound = Bound()
    with pikepdf.new() as whole:
        with whole.open_outline() as outline:
            for n, paper in enumerate(bundle.papers):
                first = len(whole.pages)
                try:
                    with pikepdf.open(as_pdf(paper)) as opened:
                        _quiet(opened)
                        whole.pages.extend(opened.pages)
                except (OSError, ValueError, RuntimeError, pikepdf.PdfError):
                    bound.failed.append(n)
                    del whole.pages[first:]
                bound.begins.append(first + 1)
                bound.sheets.append(len(whole.pages) - first)
                if bound.sheets[-1]:
                    outline.root.append(pikepdf.OutlineItem(paper.title, first))
        whole.docinfo["/Title"] = bundle.papers[0].title
        whole.Root.PageMode = pikepdf.Name.UseOutlines
        whole.save(bundle.to)
    return bound


def _quiet(opened: Pdf) -> None:
    """What fields and comments show becomes part of the sheets; what could run, start or open something stays behind."""
    opened.flatten_annotations("all")
    for sheet in opened.pages:
        for key in ("/AA", "/Annots"):
            if key in sheet.obj:
                del sheet.obj[key]


def as_pdf(paper: Sewn) -> Path | io.BytesIO:
    """A PDF as it is; a picture as a sheet with it."""
    if paper.kind == "pdf":
        return Path(paper.path)
    from PIL import Image, ImageOps

    from jolly_clerk.reading.picture import MOST_PIXELS

    with Image.open(paper.path) as image:
        if image.width * image.height > MOST_PIXELS:
            raise ValueError
        upright = ImageOps.exif_transpose(image).convert("RGB")
    inches = sorted(A4, reverse=upright.width > upright.height)
    upright.thumbnail((round(inches[0] * MOST_DPI), round(inches[1] * MOST_DPI)))
    out = io.BytesIO()
    upright.save(out, "PDF", resolution=max(upright.width / inches[0], upright.height / inches[1]))
    out.seek(0)
    return out
