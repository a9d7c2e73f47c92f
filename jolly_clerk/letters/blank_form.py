"""A blank form of the office as a PDF with fields, filled in as far as is known."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

FONTS = Path(__file__).parent / "fonts"
#: the page and its margins, the height of a line, in points
WIDTH, HEIGHT, MARGIN, LINE = 595.3, 841.9, 62.0, 17.0


@dataclass(frozen=True, slots=True)
class Blank:
    """A field: its name in the file, what it asks, what it holds, on how many lines one writes."""

    name: str
    ask: str
    value: str
    lines: int = 1


def blank_form(office: str, title: str, about: str, fields: Sequence[Blank], foot: str) -> bytes:
    """The form; each field bears its question as a hint. What one writes may be changed in any viewer of PDFs."""
    from reportlab.pdfbase import pdfmetrics  # loaded late: only this needs it
    from reportlab.pdfbase.ttfonts import TTFont
    from reportlab.pdfgen.canvas import Canvas

    for name, weight in (("JC", 400), ("JC-Bold", 700)):
        pdfmetrics.registerFont(TTFont(name, str(FONTS / f"AtkinsonHyperlegibleNext-{weight}-normal.ttf")))
    buffer = io.BytesIO()
    page = Canvas(buffer, pagesize=(WIDTH, HEIGHT), pageCompression=1)
    page.setTitle(title)
    page.setAuthor(office)

    def head() -> float:
        page.setFont("JC", 9)
        page.drawString(MARGIN, HEIGHT - 40, office)
        page.setFont("JC-Bold", 16)
        page.drawString(MARGIN, HEIGHT - 74, title[:70])
        page.setFont("JC", 10)
        page.drawString(MARGIN, HEIGHT - 90, about[:110])
        page.setFont("JC", 8)
        page.drawString(MARGIN, 34, foot[:140])
        return HEIGHT - 122

    at = head()
    for field in fields:
        tall = field.lines * LINE + 6
        if at - tall - 30 < 50:
            page.showPage()
            at = head()
        page.setFont("JC-Bold", 10)
        page.drawString(MARGIN, at, field.ask[:100])
        page.acroForm.textfield(
            name=field.name, tooltip=field.ask, value=_writable(field.value), x=MARGIN, y=at - tall - 6, width=WIDTH - 2 * MARGIN,
            height=tall, fontName="Helvetica", fontSize=11, borderWidth=0.6, fieldFlags="multiline" if field.lines > 1 else "",
            forceBorder=True,
        )  # fmt: skip
        at -= tall + 30
    page.showPage()
    page.save()
    return _with_values(buffer.getvalue(), {f.name: f.value for f in fields if _writable(f.value) != f.value})


def _writable(text: str) -> str:
    """What the font of a field can draw; other letters are put in afterwards, and drawn by the viewer."""
    return text if text.isascii() or _latin(text) else ""


def _latin(text: str) -> bool:
    try:
        text.encode("cp1252")
    except UnicodeEncodeError:
        return False
    return True


def _with_values(content: bytes, values: dict[str, str]) -> bytes:
    if not values:
        return content
    import pikepdf

    with pikepdf.open(io.BytesIO(content)) as pdf:
        pdf.Root.AcroForm.NeedAppearances = True
        for field in pdf.Root.AcroForm.Fields:
            if (value := values.get(str(field.T))) is not None:
                field.V = pikepdf.String(value)
        out = io.BytesIO()
        pdf.save(out)
        return out.getvalue()
