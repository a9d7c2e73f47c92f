"""Files of an applicant's put into another shape: several as one PDF, turned, made smaller, cut in two; runs in the fenced reader.

The text of a PDF stays text: sheets are taken over as they are, and only pictures in them are drawn smaller.
"""

from __future__ import annotations

import io
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from pydantic import BaseModel

from jolly_clerk.core.say import say
from jolly_clerk.reading.binding import Sewn, as_pdf

if TYPE_CHECKING:
    from pikepdf import Pdf

How = Literal["together", "turned", "smaller", "apart"]
#: the longer side in dots, and the quality (of 100), of pictures that are made smaller: 150 to 200 dots an inch on A4
SIDE, QUALITY = 2200, 72
#: at least this share has to be saved
WORTH = 0.9


class Remake(BaseModel):
    """What is made of which files and where it is written. ``degrees`` turns clockwise, ``before`` is the sheet before which it is cut."""

    how: How
    papers: list[Sewn]
    to: list[str]
    degrees: int = 0
    before: int = 0


class Remade(BaseModel):
    """What came of it: nothing if it is written, else why not."""

    refused: str = ""


def remake(asked: Remake) -> Remade:
    """Make it and write it. A file that cannot be changed gives the reason."""
    import pikepdf

    try:
        refused = _WAYS[asked.how](asked)
    except (OSError, ValueError, RuntimeError, pikepdf.PdfError):
        refused = say("This file cannot be changed here. Change it where it was made, and send it again.")
    return Remade(refused=refused)


def _together(asked: Remake) -> str:
    import pikepdf

    with pikepdf.new() as whole:
        for paper in asked.papers:
            with pikepdf.open(as_pdf(paper)) as opened:
                whole.pages.extend(opened.pages)
        whole.save(asked.to[0], deterministic_id=True)
    return ""


def _turned(asked: Remake) -> str:
    (paper,) = asked.papers
    if paper.kind == "pdf":
        import pikepdf

        with pikepdf.open(paper.path) as opened:
            for sheet in opened.pages:
                sheet.rotate(asked.degrees, relative=True)
            opened.save(asked.to[0], deterministic_id=True)
        return ""
    from PIL import Image

    with _picture(paper.path) as upright:
        turned = upright.rotate(-asked.degrees, Image.Resampling.NEAREST, expand=True)
        _write(turned, asked.to[0], paper.kind, quality=92)
    return ""


def _smaller(asked: Remake) -> str:
    (paper,) = asked.papers
    before, to = Path(paper.path).stat().st_size, Path(asked.to[0])
    if paper.kind == "pdf":
        import pikepdf

        with pikepdf.open(paper.path) as opened:
            for image in _images(opened):
                _draw_smaller(image)
            opened.remove_unreferenced_resources()
            opened.save(to, deterministic_id=True, object_stream_mode=pikepdf.ObjectStreamMode.generate)
    else:
        with _picture(paper.path) as upright:
            upright.thumbnail((SIDE, SIDE))
            _write(upright, str(to), paper.kind, quality=QUALITY)
    if to.stat().st_size > before * WORTH:
        return say("It cannot be made noticeably smaller. A scan in 150 dots an inch would be.")
    return ""


def _apart(asked: Remake) -> str:
    import pikepdf

    (paper,) = asked.papers
    with pikepdf.open(paper.path) as opened:
        if not 1 < asked.before <= len(opened.pages):
            return say("It is cut between two of its sheets.")
        sheets = list(opened.pages)
        for to, own in zip(asked.to, (sheets[: asked.before - 1], sheets[asked.before - 1 :]), strict=True):
            with pikepdf.new() as made:
                made.pages.extend(own)
                made.save(to, deterministic_id=True)
    return ""


_WAYS = {"together": _together, "turned": _turned, "smaller": _smaller, "apart": _apart}


def _picture(path: str) -> Any:
    """A picture as it is seen, of not too many dots."""
    from PIL import Image, ImageOps

    from jolly_clerk.reading.picture import MOST_PIXELS

    with Image.open(path) as image:
        if image.width * image.height > MOST_PIXELS:
            raise ValueError
        return ImageOps.exif_transpose(image)


def _write(picture: Any, to: str, kind: str, quality: int) -> None:
    if kind == "png":
        picture.save(to, "PNG", optimize=True)
    elif kind == "tiff":
        picture.save(to, "TIFF", compression="tiff_lzw")
    else:
        picture.convert("RGB").save(to, "JPEG", quality=quality, optimize=True)


def _images(opened: Pdf) -> Iterator[Any]:
    """The pictures of a PDF, each once, in forms on its sheets as well."""
    import pikepdf

    for found in opened.objects:
        if isinstance(found, pikepdf.Stream) and found.get("/Subtype") == "/Image":
            yield found


def _draw_smaller(stream: Any) -> None:
    """Draw a picture of many dots anew with fewer, as JPEG; masks, line art and what does not get smaller stay as they are."""
    import pikepdf
    from PIL import Image

    if stream.get("/ImageMask") or stream.get("/SMask") is not None or int(stream.get("/BitsPerComponent", 8)) == 1:
        return
    try:
        picture: Image.Image = pikepdf.PdfImage(stream).as_pil_image()
    except Exception:  # a coding that this reader does not know: it stays
        return
    if picture.mode not in ("L", "RGB"):
        return
    picture.thumbnail((SIDE, SIDE))
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=QUALITY, optimize=True)
    if out.tell() >= WORTH * len(stream.read_raw_bytes()):
        return
    stream.write(out.getvalue(), filter=pikepdf.Name.DCTDecode)
    stream.Width, stream.Height, stream.BitsPerComponent = picture.width, picture.height, 8
    stream.ColorSpace = pikepdf.Name.DeviceGray if picture.mode == "L" else pikepdf.Name.DeviceRGB
    for key in ("/DecodeParms", "/Decode"):
        if key in stream:
            del stream[key]
