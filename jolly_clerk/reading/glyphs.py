"""The glyphs of OCR-B as small pictures, blurred, thickened and stretched as scans have them."""

from __future__ import annotations

from functools import cache, lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from jolly_clerk.core.facts.zone_signs import MRZ_SIGNS

Array = Any
#: where Debian's fonts-ocr-b puts its glyphs
FONTS = (Path("/usr/share/fonts/opentype/ocr-b/OCRB.otf"), Path("/usr/share/fonts/truetype/ocr-b/OCRB.ttf"))
#: the pitch of signs, in dots, at which they are matched, and the height of capitals at that pitch
PITCH, CAPITALS = 18, 17


@lru_cache(maxsize=1)
def font_path() -> Path | None:
    """The glyphs, or None if they are not installed."""
    found = [p for p in FONTS if p.exists()]
    root = Path("/usr/share/fonts")
    if not found and root.is_dir():
        found = sorted(p for p in root.rglob("*") if "ocrb" in p.name.lower().replace("-", "") and p.suffix in (".otf", ".ttf"))
    return found[0] if found else None


#: how signs come: blurred by so many dots at the pitch above, strokes thicker by so many quarters of a dot, so much higher
VARIANTS = tuple((blur, stroke, tall) for tall in (1.0, 0.93, 1.07) for blur in (0.6, 1.2, 1.9) for stroke in (0, 3))
_BIG = 4


@lru_cache(maxsize=1)
def _shapes() -> tuple[Array, ...]:
    """Each sign, dark on light, four times as large as signs are matched; a margin of two dots above and below."""
    path = font_path()
    assert path is not None
    font = ImageFont.truetype(str(path), 100)
    box = font.getbbox("H")
    font = ImageFont.truetype(str(path), round(100 * CAPITALS * _BIG / (box[3] - box[1])))
    top, advance = font.getbbox("H")[1], font.getlength("H")
    made = []
    for sign in MRZ_SIGNS:
        image = Image.new("L", (PITCH * _BIG, (CAPITALS + 4) * _BIG), 255)
        ImageDraw.Draw(image).text(((PITCH * _BIG - advance) / 2, 2 * _BIG - top), sign, font=font, fill=0)
        made.append(np.array(image))
    return tuple(made)


@cache
def glyphs(variant: int) -> Array:
    """Each sign as a small picture, dark on light: signs × height × pitch."""
    blur, stroke, tall = VARIANTS[variant]
    made = []
    for shape in _shapes():
        if stroke:
            around = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (abs(stroke), abs(stroke)))
            shape = cv2.erode(shape, around) if stroke > 0 else cv2.dilate(shape, around)
        high = round((CAPITALS + 4) * tall)
        small = cv2.resize(shape, (PITCH, high), interpolation=cv2.INTER_AREA)
        small = cv2.GaussianBlur(small, (0, 0), blur).astype(np.float32)
        cut = (high - CAPITALS - 2) // 2
        made.append(small[cut : cut + CAPITALS + 2])
    return np.stack(made)
