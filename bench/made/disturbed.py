"""A clean picture made into what a scanner or a telephone makes of it, by a seeded dice."""

from __future__ import annotations

import io
import random
from typing import Any

import numpy as np
from PIL import Image, ImageFilter

Array = Any


def disturbed(
    image: Image.Image, dice: random.Random, skew: float = 10.0, quarter: bool = True, ground: int = 245
) -> Image.Image:
    """Turned by up to ``skew`` degrees and perhaps by quarters, in perspective up to 5 degrees, width and strokes changed, unevenly lit,
    blurred to 1.2 dots, noisy, and through JPEG of quality 40 to 90. In grey."""
    image = image.convert("L")
    wide, high = image.size
    image = image.resize((round(wide * dice.uniform(0.97, 1.03)), high), Image.Resampling.LANCZOS)
    stroke = dice.choice((0, 0, 1, -1))
    if stroke:
        image = (
            image.filter(ImageFilter.MinFilter(3) if stroke > 0 else ImageFilter.MaxFilter(3))
            if min(image.size) > 1400
            else image
        )
    image = in_perspective(image, dice, ground)
    image = image.rotate(dice.uniform(-skew, skew), Image.Resampling.BICUBIC, expand=True, fillcolor=ground)
    if quarter:
        image = image.rotate(90 * dice.choice((0, 0, 1, 2, 3)), expand=True)
    image = image.filter(ImageFilter.GaussianBlur(dice.uniform(0, 1.2)))
    dots = np.asarray(image, dtype=np.float32)
    down, across = np.mgrid[0 : dots.shape[0], 0 : dots.shape[1]]
    light = 1 + dice.uniform(-0.25, 0.1) * across / dots.shape[1] + dice.uniform(-0.25, 0.1) * down / dots.shape[0]
    noise = np.random.default_rng(dice.randrange(1 << 30)).normal(0, dice.uniform(1, 9), dots.shape)
    image = Image.fromarray(np.clip(dots * light + noise, 0, 255).astype(np.uint8))
    kept = io.BytesIO()
    image.save(kept, "JPEG", quality=dice.randint(40, 90))
    return Image.open(io.BytesIO(kept.getvalue())).convert("L")


def in_perspective(image: Image.Image, dice: random.Random, ground: int) -> Image.Image:
    """Seen from a little aside: each corner moved inwards by what 5 degrees make."""
    wide, high = image.size
    most = 0.03
    corners = [(0, 0), (wide, 0), (wide, high), (0, high)]
    moved = [
        (x + (1 if x == 0 else -1) * dice.uniform(0, most) * wide, y + (1 if y == 0 else -1) * dice.uniform(0, most) * high)
        for x, y in corners
    ]
    rows, goal = [], []
    for (x, y), (u, v) in zip(moved, corners, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        goal += [u, v]
    told = np.linalg.solve(np.array(rows, dtype=float), np.array(goal, dtype=float))
    return image.transform(image.size, Image.Transform.PERSPECTIVE, tuple(told), Image.Resampling.BICUBIC, fillcolor=ground)
