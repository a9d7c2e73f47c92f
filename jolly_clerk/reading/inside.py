"""What a PDF carries besides the words on its pages: form fields, signatures, scripts, files, comments, and who made it when."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

import pikepdf

from jolly_clerk.core.facts.reading import Box, Comment, FormField, Signed
from jolly_clerk.core.say import say

MOST_FIELDS, MOST_ANNOTATIONS, MOST_PAGES, MOST_FILES, MOST_COMMENTS = 2000, 5000, 300, 50, 100
MOST_LETTERS = 240
#: bits of an annotation that keep it from the screen: hidden, no view
UNSEEN = 0b10 | 0b100000
_NOTED = {"/Text", "/FreeText", "/Highlight", "/Underline", "/StrikeOut", "/Squiggly", "/Stamp", "/Caret"}
_DAY = re.compile(r"D:(\d{4})(\d{2})?(\d{2})?(\d{2})?(\d{2})?(\d{2})?")


@dataclass(slots=True)
class Inside:
    """What was found beside the words."""

    fields: list[FormField] = field(default_factory=list)
    signed: list[Signed] = field(default_factory=list)
    comments: list[Comment] = field(default_factory=list)
    embedded: list[str] = field(default_factory=list)
    scripts: bool = False
    launches: bool = False
    xfa: bool = False
    made: str = ""
    changed: str = ""
    program: str = ""

    def told(self) -> dict[str, Any]:
        """As the parts of a reading."""
        return {
            **{name: tuple(getattr(self, name)) for name in ("fields", "signed", "comments", "embedded")},
            **{name: getattr(self, name) for name in ("scripts", "launches", "xfa", "made", "changed", "program")},
            "signatures": len(self.signed),
        }


def look_inside(pdf: pikepdf.Pdf, size: int) -> Inside:
    """Look through an opened PDF of ``size`` bytes. What of it is broken is passed over: the pages are judged on their own."""
    found = Inside()
    for part in (_catalogue, _annotations, _files, _form, _dates):
        try:
            part(pdf, size, found)
        except (pikepdf.PdfError, ValueError, TypeError, KeyError, AttributeError, IndexError, RuntimeError, OverflowError):
            continue
    return found


def _catalogue(pdf: pikepdf.Pdf, size: int, found: Inside) -> None:
    root = pdf.Root
    names = root.get("/Names", pikepdf.Dictionary())
    found.scripts = "/JavaScript" in names
    for act in (root.get("/OpenAction"), root.get("/AA")):
        _acts(act, found)


def _acts(act: Any, found: Inside, depth: int = 0) -> None:
    """Note whether an action, or one below it, is a script or starts a program."""
    if depth > 3 or not isinstance(act, pikepdf.Dictionary):
        return
    what = str(act.get("/S", ""))
    found.scripts |= what == "/JavaScript"
    found.launches |= what == "/Launch"
    for key, value in list(act.items())[:50]:
        if key not in ("/Parent", "/P", "/Page", "/D"):
            _acts(value, found, depth + 1)


@dataclass(frozen=True, slots=True)
class _Sheet:
    """Where the corners of a page lie, in points, and how it is turned."""

    no: int
    crop: tuple[float, float, float, float]
    turn: int

    def box(self, rect: Any) -> Box:
        return share_of([float(v) for v in rect], self.crop, self.turn)


def share_of(rect: Sequence[float], crop: tuple[float, float, float, float], turn: int) -> Box:
    """A rectangle (left, bottom, right, top in points) as shares of the page as it is seen; ``turn`` is in quarters clockwise."""
    left, bottom, right, top = crop
    across, up = right - left or 1.0, top - bottom or 1.0
    corners = [((x - left) / across, (top - y) / up) for x, y in ((rect[0], rect[3]), (rect[2], rect[1]))]
    for _ in range(turn % 4):  # a quarter turn clockwise moves the top edge to the right
        corners = [(1 - y, x) for x, y in corners]
    (x1, y1), (x2, y2) = corners
    kept = [round(min(1.0, max(0.0, v)), 4) for v in (min(x1, x2), min(y1, y2), max(x1, x2), max(y1, y2))]
    return (kept[0], kept[1], kept[2], kept[3])


def _sheets(pdf: pikepdf.Pdf) -> Iterator[tuple[_Sheet, Any]]:
    for no, page in enumerate(list(pdf.pages)[:MOST_PAGES], 1):
        try:
            box = [float(v) for v in page.cropbox]
            turn = int(page.obj.get("/Rotate", 0)) // 90
            yield _Sheet(no, (box[0], box[1], box[2], box[3]), turn), page.obj
        except (pikepdf.PdfError, ValueError, TypeError, AttributeError, IndexError, KeyError):
            continue


def _annotations(pdf: pikepdf.Pdf, size: int, found: Inside) -> None:
    """Actions, comments, paper clips and filled fields of each page."""
    left = MOST_ANNOTATIONS
    for sheet, page in _sheets(pdf):
        _acts(page.get("/AA"), found)
        for annot in list(page.get("/Annots", []))[:left]:
            left -= 1
            if not isinstance(annot, pikepdf.Dictionary):
                continue
            _acts(annot.get("/A"), found)
            _acts(annot.get("/AA"), found)
            kind = str(annot.get("/Subtype", ""))
            if kind == "/FileAttachment":
                _file(annot.get("/FS"), found)
            elif kind in _NOTED and len(found.comments) < MOST_COMMENTS:
                if said := _text(annot.get("/Contents")):
                    found.comments.append(Comment(page=sheet.no, text=said))
            elif kind == "/Widget" and len(found.fields) < MOST_FIELDS:
                _widget(annot, sheet, found)


def _widget(annot: Any, sheet: _Sheet, found: Inside) -> None:
    """One field where it stands on the page, if it is filled in."""
    kind, flags = str(_inherited(annot, "/FT") or ""), int(_inherited(annot, "/Ff") or 0)
    value, names, node = _inherited(annot, "/V"), list[str](), annot
    for _ in range(10):
        if "/T" in node:
            names.insert(0, str(node.T))
        node = node.get("/Parent")
        if not isinstance(node, pikepdf.Dictionary):
            break
    if kind == "/Btn":
        state = str(annot.get("/AS", "/Off"))
        if flags & 0x10000 or state in ("/Off", ""):
            return  # a button, or not ticked
        said, what = (state[1:] if flags & 0x8000 else say("ticked")), "tick"
    elif kind in ("/Tx", "/Ch") and value is not None:
        values = list(value) if isinstance(value, pikepdf.Array) else [value]
        said, what = ", ".join(filter(None, map(_text, values))), "text" if kind == "/Tx" else "choice"
    else:
        return
    if said and not int(annot.get("/F", 0)) & UNSEEN:
        told = {"name": ".".join(names)[:MOST_LETTERS], "says": _text(_inherited(annot, "/TU")), "kind": what}
        found.fields.append(FormField(page=sheet.no, text=said, box=sheet.box(annot.Rect), **told))  # type: ignore[arg-type]


def _inherited(node: Any, key: str) -> Any:
    for _ in range(10):
        if not isinstance(node, pikepdf.Dictionary):
            return None
        if key in node:
            return node[key]
        node = node.get("/Parent")
    return None


def _text(said: Any) -> str:
    if said is None or isinstance(said, (pikepdf.Dictionary, pikepdf.Array)):
        return ""
    text = said.read_bytes().decode("latin-1") if isinstance(said, pikepdf.Stream) else str(said)
    return " ".join(text.replace("\x00", "").split())[:MOST_LETTERS]


def _form(pdf: pikepdf.Pdf, size: int, found: Inside) -> None:
    """Signatures, scripts of fields, and forms that only their own program shows."""
    form = pdf.Root.get("/AcroForm")
    if not isinstance(form, pikepdf.Dictionary):
        return
    found.xfa = "/XFA" in form
    waiting, looked = list(form.get("/Fields", []))[:MOST_FIELDS], 0
    signed: list[tuple[int, Signed]] = []
    while waiting and looked < MOST_FIELDS:
        node, looked = waiting.pop(), looked + 1
        if not isinstance(node, pikepdf.Dictionary):
            continue
        waiting += list(node.get("/Kids", []))[:500]
        _acts(node.get("/AA"), found)
        value = node.get("/V")
        if str(node.get("/FT", "")) == "/Sig" and isinstance(value, pikepdf.Dictionary):
            reach = [int(n) for n in value.get("/ByteRange", [])]
            end = reach[-2] + reach[-1] if len(reach) >= 4 else 0
            covers = len(reach) >= 4 and reach[0] == 0 and end + 4 >= size  # a line may end after it
            signed.append((end, Signed(who=_text(value.get("/Name")), at=day_of(value.get("/M")), covers=covers)))
    found.signed = [one for _, one in sorted(signed, key=lambda pair: pair[0])]


def _files(pdf: pikepdf.Pdf, size: int, found: Inside) -> None:
    """Files by whatever way they hang on: the list of files, associated files, paper clips (:func:`_annotations`)."""
    try:
        names = [str(name)[:120] for name in list(pdf.attachments)[:MOST_FILES]]
    except (ValueError, RuntimeError, pikepdf.PdfError):
        names = [say("a file whose name cannot be read")]
    found.embedded = [*names, *(name for name in found.embedded if name not in names)]
    for file in list(pdf.Root.get("/AF", []))[:MOST_FILES]:
        _file(file, found)


def _file(spec: Any, found: Inside) -> None:
    if isinstance(spec, pikepdf.Dictionary) and len(found.embedded) < MOST_FILES:
        name = _text(spec.get("/UF") or spec.get("/F")) or say("a file whose name cannot be read")
        if name not in found.embedded:
            found.embedded.append(name[:120])


def _dates(pdf: pikepdf.Pdf, size: int, found: Inside) -> None:
    info = pdf.docinfo
    found.made, found.changed = day_of(info.get("/CreationDate")), day_of(info.get("/ModDate"))
    found.program = _text(info.get("/Producer")) or _text(info.get("/Creator"))


def day_of(said: Any) -> str:
    """A date of a PDF (``D:20261127101500+00'00'``) as ``2026-11-27 10:15``, without a zone; nothing if it is none."""
    parts = _DAY.match(str(said)) if said is not None else None
    if not parts:
        return ""
    day = "-".join(filter(None, parts.groups()[:3]))
    return f"{day} {parts[4]}:{parts[5]}" if parts[4] and parts[5] else day
