"""The machine-readable lines of a travel document in a picture: found, straightened, cut into signs, each sign matched with OCR-B.

The lines are set at a fixed pitch: 44 signs (two lines), 36 (two) or 30 (three); see ICAO Doc 9303, part 3. A sign is the glyph that
fits best of those that may stand at its place; where two fit nearly alike the check digits decide, and that is said.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import cv2
import numpy as np

from jolly_clerk.core.facts.reading import Zone
from jolly_clerk.core.facts.zone_signs import MRZ_SIGNS, Near, fits, places_of, repaired, settled
from jolly_clerk.reading.glyphs import CAPITALS, PITCH, VARIANTS, font_path, glyphs

Array = Any
#: dots across of the picture in which lines are looked for, and how far a sign may stand from its place
ACROSS, OFF = 1300, 3
#: lines whose signs fit worse than this on the average are none; a sign that fits so little worse is as likely; no better lines are
#: looked for than such
LEAST, NEAR, SURE, LIKELIER = 0.6, 0.1, 0.8, 0.07
#: how many places are looked at more closely
MOST_PLACES = 4
#: signs that stand so near together are blurred and thick alike
AROUND = 11


@dataclass(frozen=True, slots=True)
class _Row:
    """A line of signs: how well each sign fits at each place (places × signs), the mean of the best, and its corners in the picture."""

    fit: Array
    mean: float
    corners: Array
    line: Array
    places: list[int]

    def closer(self) -> _Row:
        """Looked at once more with the glyphs blurred, thick and high as the signs around each place are."""
        windows = [self.line[:, max(0, x - 2) : x + PITCH + 2] for x in self.places]
        likely = self.fit.argmax(axis=1)
        worth = np.array(
            [
                [
                    float(cv2.matchTemplate(w, glyphs(v)[s], cv2.TM_CCOEFF_NORMED).max())
                    for w, s in zip(windows, likely, strict=True)
                ]
                for v in range(len(VARIANTS))
            ]
        )
        around = cv2.blur(worth, (AROUND, 1), borderType=cv2.BORDER_REFLECT)
        variants = around.argmax(axis=0)
        fit = np.array(
            [
                [cv2.matchTemplate(w, g, cv2.TM_CCOEFF_NORMED).max() for g in glyphs(int(v))]
                for w, v in zip(windows, variants, strict=True)
            ]
        )
        return replace(self, fit=fit, mean=float(fit.max(axis=1).mean()))


def read_zone(grey: Array, page: int = 1) -> Zone | None:
    """The lines in a grey picture (height × width, 0 to 255), whichever way it lies; None if there are none.

    The box is in shares of the picture as it was given.
    """
    if font_path() is None or min(grey.shape) < 100:
        return None
    best: tuple[float, list[_Row], tuple[int, ...], int] | None = None
    for turn in (0, 1):
        turned = np.ascontiguousarray(np.rot90(grey, turn))
        for mean, rows in _zones(turned):
            if best is None or mean > best[0]:
                best = (mean, rows, turned.shape, turn)
            if mean > SURE:
                break
        if best and best[0] > SURE:
            break
    if best is None:
        return None
    _, rows, shape, turn = best
    lines, repairs = _told(rows)
    return Zone(page=page, box=_box(rows, shape, turn), lines=lines, source="picture", repaired=repairs)


def _box(rows: list[_Row], shape: tuple[int, ...], turn: int) -> tuple[float, float, float, float]:
    high, wide = shape[:2]
    corners = np.vstack([row.corners for row in rows])
    points = [(float(x) / wide, float(y) / high) for x, y in corners]
    for _ in range(turn):  # rot90 turned to the left; a quarter to the right leads back
        points = [(1 - y, x) for x, y in points]
    xs, ys = [min(1.0, max(0.0, x)) for x, _ in points], [min(1.0, max(0.0, y)) for _, y in points]
    return (round(min(xs), 4), round(min(ys), 4), round(max(xs), 4), round(max(ys), 4))


def _zones(grey: Array) -> Iterator[tuple[float, list[_Row]]]:
    """The rows of zones that stand upright or on their head in a picture, with their mean fit."""
    for centre, angle, length, tall in _places(grey):
        for turned in (angle, angle + 180):
            rows = list(_rows(grey, centre, turned, length, tall))
            for size in (3, 2):
                for first in range(len(rows) - size + 1):
                    used = rows[first : first + size]
                    mean = float(np.mean([row.mean for row in used]))
                    alike = len({len(row.fit) for row in used}) == 1
                    if alike and mean >= LEAST and fits((size, len(used[0].fit))) and _begins(used):
                        yield mean, used


def _begins(rows: list[_Row]) -> bool:
    """True if the first sign may begin a zone: on their head they seldom do."""
    fit = rows[0].fit[0]
    return float(max(fit[MRZ_SIGNS.index(s)] for s in "PVIAC")) > float(fit.max()) - 3 * NEAR


def _places(grey: Array) -> Iterator[tuple[tuple[float, float], float, float, float]]:
    """Long level stripes of dense writing: middle, angle in degrees, length and height in dots of the picture."""
    scale = ACROSS / grey.shape[1]
    small = cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR)
    small = cv2.GaussianBlur(small, (3, 3), 0)
    found = list[tuple[float, tuple[float, float], float, float, float]]()
    for reach in (13, 21):
        dark = cv2.morphologyEx(small, cv2.MORPH_BLACKHAT, cv2.getStructuringElement(cv2.MORPH_RECT, (reach, reach)))
        edges = np.abs(cv2.Sobel(dark, cv2.CV_32F, 1, 0, ksize=3))
        edges = cv2.GaussianBlur(edges, (0, 0), 2)
        edges = (255 * edges / max(1.0, float(np.percentile(edges, 99.8)))).clip(0, 255).astype(np.uint8)
        joined = cv2.morphologyEx(edges, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_RECT, (reach + 8, 3)))
        _, mask = cv2.threshold(joined, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
        mask = cv2.morphologyEx(mask, cv2.MORPH_OPEN, cv2.getStructuringElement(cv2.MORPH_RECT, (reach + 20, 3)))
        outlines, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        for outline in outlines:
            (x, y), (wide, high), angle = cv2.minAreaRect(outline)
            if wide < high:
                wide, high, angle = high, wide, angle - 90
            angle = (angle + 90) % 180 - 90
            if wide < 0.3 * ACROSS or high < 6 or wide / high < 7 or abs(angle) > 16:
                continue
            found.append((wide, (x / scale, y / scale), angle, wide / scale, high / scale))
    found.sort(key=lambda one: -one[0])
    told = list[tuple[float, float]]()
    for _, centre, angle, length, tall in found:
        if any(abs(centre[1] - y) < tall and abs(centre[0] - x) < length / 4 for x, y in told):
            continue
        told.append(centre)
        yield centre, angle, length, tall
        if len(told) >= MOST_PLACES:
            return


def _rows(grey: Array, centre: tuple[float, float], angle: float, length: float, tall: float) -> Iterator[_Row]:
    """The lines of signs around a stripe, from the top, straightened."""
    wide = int(length * 1.12)
    high = int(
        max(tall * 3.2, length * 0.16, min(tall, length * 0.045) * 9)
    )  # three lines of 30 signs stand higher than two of 44
    turn = cv2.getRotationMatrix2D(centre, angle, 1.0)
    turn[0, 2] += wide / 2 - centre[0]
    turn[1, 2] += high / 2 - centre[1]
    strip = cv2.warpAffine(grey, turn, (wide, high), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
    scale = 1000 / wide
    strip = cv2.resize(strip, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA if scale < 1 else cv2.INTER_CUBIC)
    ink = _ink(strip)
    back = cv2.invertAffineTransform(turn)
    for top, bottom in _bands(ink):
        row = _row(strip, ink, top, bottom)
        if row is None:
            continue
        corners = np.array(row.corners, dtype=np.float64) / scale
        yield replace(row, corners=cv2.transform(corners[None].astype(np.float32), back)[0])


def _ink(grey: Array) -> Array:
    """How dark each dot is against the ground around it, 0 to 1."""
    ground = cv2.morphologyEx(grey, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (31, 31)))
    ground = cv2.GaussianBlur(ground, (0, 0), 9).astype(np.float32)
    dark = np.clip((ground - grey.astype(np.float32)) / np.maximum(ground, 40), 0, 1)
    top = float(np.percentile(dark, 98))
    return np.clip(dark / max(top, 0.15), 0, 1)


def _bands(ink: Array) -> list[tuple[int, int]]:
    """Where lines of writing stand in a strip, from the top: first and last row of dots. Levelled a second time by the best of some
    small angles, which the caller's straightening left."""
    solid = (ink > 0.35).mean(axis=1)
    smooth = np.convolve(solid, np.ones(3) / 3, mode="same")
    most = float(smooth.max()) or 1.0
    bands, start = list[tuple[int, int]](), -1
    for y, dense in enumerate([*smooth, 0.0]):
        if dense > 0.3 * most and dense > 0.06:
            start = y if start < 0 else start
        elif start >= 0:
            if 9 <= y - start <= 60:
                bands.append((start, y))
            elif y - start > 60:  # two lines that touch
                middle = start + int(np.argmin(smooth[start + 9 : y - 9])) + 9
                bands += [b for b in ((start, middle), (middle, y)) if 9 <= b[1] - b[0] <= 60]
            start = -1
    return bands


def _row(strip: Array, ink: Array, top: int, bottom: int) -> _Row | None:
    """One line of signs, warped so that its signs stand level and are as high as the glyphs."""
    tall = bottom - top
    part = ink[max(0, top - tall // 3) : bottom + tall // 3]
    offset = max(0, top - tall // 3)
    ends = _ends(part)
    if ends is None:
        return None
    left, right = ends
    edges = _edges(part, left, right)
    if edges is None:
        return None
    (top_left, top_right), (low_left, low_right) = edges
    corners = np.array(
        [[left, top_left + offset], [right, top_right + offset], [right, low_right + offset], [left, low_left + offset]]
    )
    best: _Row | None = None
    for count in (44, 36, 30):
        pitch = (right - left) / (count - 0.32)
        high = (low_left - top_left + low_right - top_right) / 2
        if not 0.72 < high / pitch / (CAPITALS / PITCH) < 1.45:
            continue
        row = _matched(strip, corners, count)
        if best is None or row.mean > best.mean:
            best = row
    return best


def _ends(part: Array) -> tuple[int, int] | None:
    """The first and the last column of a line of signs; what stands apart from it by more than two signs is not of it."""
    dense = (part > 0.35).mean(axis=0) > 0.05
    columns = np.flatnonzero(dense)
    if len(columns) < 100:
        return None
    gaps = np.flatnonzero(np.diff(columns) > 50)
    starts = [0, *(gaps + 1)]
    ends = [*gaps, len(columns) - 1]
    first, last = max(zip(starts, ends, strict=True), key=lambda pair: columns[pair[1]] - columns[pair[0]])
    left, right = int(columns[first]), int(columns[last])
    return (left, right) if right - left > 400 else None


def _edges(part: Array, left: int, right: int) -> tuple[tuple[float, float], tuple[float, float]] | None:
    """Upper and lower edge of a line as heights at its ends, by lines through the edges of its ninths."""
    tops, lows, places = list[float](), list[float](), list[float]()
    for n in range(9):
        a, b = left + (right - left) * n // 9, left + (right - left) * (n + 1) // 9
        solid = (part[:, a:b] > 0.4).mean(axis=1)
        rows = np.flatnonzero(solid > 0.12 * max(0.2, float(solid.max())))
        if len(rows) < 5:
            continue
        tops.append(float(rows[0]))
        lows.append(float(rows[-1] + 1))
        places.append((a + b) / 2)
    if len(places) < 5:
        return None
    found = []
    for heights in (tops, lows):
        slope, base = _through(places, heights)
        found.append((base + slope * left, base + slope * right))
    return found[0], found[1]


def _through(xs: list[float], ys: list[float]) -> tuple[float, float]:
    """A line that most points lie near: the median of the slopes between them."""
    slopes = [(ys[j] - ys[i]) / (xs[j] - xs[i]) for i in range(len(xs)) for j in range(i + 2, len(xs))]
    slope = float(np.median(slopes))
    return slope, float(np.median([y - slope * x for x, y in zip(xs, ys, strict=True)]))


def _matched(strip: Array, corners: Array, count: int) -> _Row:
    """How well each sign fits at each of so many places."""
    margin = 12
    wide = round(PITCH * (count - 0.32))
    # upright sides as high as the line is on the average: heights at the ends are too rough to tell the perspective by
    level = (corners[0] + corners[3]) / 2, (corners[1] + corners[2]) / 2
    half = float(np.linalg.norm(corners[3] - corners[0]) + np.linalg.norm(corners[2] - corners[1])) / 4
    along = (level[1] - level[0]) / max(1.0, float(np.linalg.norm(level[1] - level[0])))
    up = np.array([along[1], -along[0]]) * half
    quad = np.array([level[0] + up, level[1] + up, level[0] - up], dtype=np.float32)
    goal = np.array([[0, 0], [wide, 0], [0, CAPITALS]], dtype=np.float32)
    goal += np.array([PITCH * 0.16 + margin, margin / 2 + 1], dtype=np.float32)
    size = (PITCH * count + 2 * margin, CAPITALS + 2 + margin)
    warp = cv2.getAffineTransform(quad, goal)
    line = cv2.warpAffine(strip, warp, size, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).astype(np.float32)
    signs = glyphs(0)
    # best over small shifts up and down: signs × columns
    fits_at = np.stack([cv2.matchTemplate(line, glyph, cv2.TM_CCOEFF_NORMED).max(axis=0) for glyph in signs])
    places = _path(fits_at.max(axis=0), count, margin)
    fit = np.stack([fits_at[:, max(0, x - 1) : x + 2].max(axis=1) for x in places])
    return _Row(fit, float(fit.max(axis=1).mean()), corners, line, places)


@lru_cache(maxsize=8)
def _courses(count: int, margin: int) -> Array:
    """Ways in which the places may lie along a line: moved at either end, and closer at one end than at the other (perspective)."""
    at = np.arange(count) / (count - 1)
    ends = np.arange(-10, 11, 2)
    bows = np.arange(-18, 19, 3)
    left, right, bow = np.meshgrid(ends, ends, bows, indexing="ij")
    moved = left.reshape(-1, 1) * (1 - at) + right.reshape(-1, 1) * at + bow.reshape(-1, 1) * 4 * at * (1 - at)
    return np.rint(margin + PITCH * np.arange(count) + moved).astype(np.int32)


def _path(best: Array, count: int, margin: int) -> list[int]:
    """Columns of the places: along the course that fits best, each then within some dots, with steps of about a pitch."""
    near = cv2.dilate(best[None].astype(np.float32), np.ones((1, 3)))[0]
    courses = np.clip(_courses(count, margin), 0, len(best) - 1)
    course = courses[int(near[courses].sum(axis=1).argmax())]
    shifts = np.arange(-OFF, OFF + 1)
    columns = np.clip(course[:, None] + shifts[None, :], 0, len(best) - 1)
    value = best[columns] - 0.012 * np.abs(shifts)[None, :]
    step = -0.05 * np.abs(shifts[:, None] - shifts[None, :])
    total, back = value[0].copy(), list[Array]()
    for n in range(1, count):
        ways = total[:, None] + step
        back.append(ways.argmax(axis=0))
        total = ways.max(axis=0) + value[n]
    at = int(total.argmax())
    chosen = [at]
    for before in reversed(back):
        at = int(before[at])
        chosen.append(at)
    chosen.reverse()
    return [int(columns[n, c]) for n, c in enumerate(chosen)]


def _told(rows: list[_Row]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The lines of a zone, and what was put right by the check digits."""
    shape, lines, near = (len(rows), len(rows[0].fit)), [], []
    for n, row in enumerate(rows):
        signs, others = _signs(row.closer(), places_of(shape, n))
        lines.append(signs)
        near.append(others)
    told, repairs = repaired(settled(lines, near), near)
    return tuple(told), tuple(repairs)


def _signs(row: _Row, allowed: list[str]) -> tuple[str, list[Near]]:
    """The sign at each place, and those that fit nearly as well. Where letters and digits may stand, digits are likelier."""
    signs, others = "", list[Near]()
    for fit, may in zip(row.fit, allowed, strict=True):
        worth = {s: float(fit[MRZ_SIGNS.index(s)]) + (LIKELIER if s in "0123456789" and len(may) > 30 else 0.0) for s in may}
        order = sorted(may, key=lambda sign: -worth[sign])
        signs += order[0]
        behind = {s: worth[order[0]] - worth[s] for s in order[1:4]}
        others.append({s: far for s, far in behind.items() if far < NEAR})
    return signs, others
