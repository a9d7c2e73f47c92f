"""A photograph of a sheet with a square code, as a camera at the counter takes it: crooked, uneven and not quite sharp."""

from __future__ import annotations

import io
import random

import segno
from PIL import Image

from bench.made.disturbed import disturbed
from tests import SEED
from tests.folders import made_once


def photograph(code: str, seed: int = SEED) -> bytes:
    """The JPEG of a sheet that bears a code; an empty sheet without one."""
    return made_once(f"photograph of {code} {seed}", lambda: _photograph(code, seed))


def _photograph(code: str, seed: int) -> bytes:
    sheet, drawn = Image.new("RGB", (1240, 1754), "white"), io.BytesIO()
    if code:
        segno.make(code, error="m").save(drawn, kind="png", scale=12, border=4)
        sheet.paste(Image.open(drawn), (500, 700))
    kept = io.BytesIO()
    disturbed(sheet, random.Random(seed), skew=3, quarter=False).save(kept, "JPEG")
    return kept.getvalue()
