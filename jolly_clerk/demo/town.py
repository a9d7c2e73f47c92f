"""Draws the map of Quillhaven: an island, and each plot of the land register as far from high water as the register says.

python -m jolly_clerk.demo.town      writes ``registers/plots.geojson``
"""

from __future__ import annotations

import csv
import json
from collections.abc import Callable
from math import cos, hypot, pi, radians, sin
from pathlib import Path
from typing import Any

from jolly_clerk.core.town_map import A_DEGREE, Line, Point, TownMap, measured

HERE = Path(__file__).parent / "registers"
#: half of the island from west to east and from north to south, in metres
WIDE, HIGH = 820.0, 700.0
#: where the island lies
WEST, NORTH = -28.6200, 46.4100
CORNERS = 220
#: roads at which no plot of the register lies
ROADS: dict[str, Line] = {
    "Long Road": ((300.0, 760.0), (640.0, 700.0), (980.0, 745.0), (1290.0, 690.0)),
    "Beacon Road": ((860.0, 300.0), (900.0, 720.0), (800.0, 1180.0)),
}


def _shore(turn: float) -> Point:
    """A point of high water, by its direction from the middle in radians."""
    wave = 1 + 0.035 * sin(3 * turn + 0.4) + 0.022 * sin(7 * turn) + 0.012 * sin(13 * turn + 1)
    return WIDE * 1.08 * wave * cos(turn) + WIDE * 1.1, HIGH * 1.08 * wave * sin(turn) + HIGH * 1.1


def _rectangle(turn: float, inland: float, along: float, wide: float, deep: float) -> Line:
    """A rectangle whose front lies ``inland`` metres from a point of the shore and ``along`` metres beside it."""
    x, y = _shore(turn)
    a, b = _shore(turn - 0.01), _shore(turn + 0.01)
    long = hypot(b[0] - a[0], b[1] - a[1])
    tx, ty = (b[0] - a[0]) / long, (b[1] - a[1]) / long
    nx, ny = -ty, tx  # inland, for the shore is walked with the land on the left
    corners = ((along, inland), (along + wide, inland), (along + wide, inland + deep), (along, inland + deep))
    return tuple((round(x + u * tx + v * nx, 2), round(y + u * ty + v * ny, 2)) for u, v in corners)


def _placed(island: TownMap, far: float, made: Callable[[float], Line]) -> Line:
    """The rectangle whose nearest corner lies just so far from high water."""
    low, high = 0.0, 600.0
    for _ in range(60):
        middle = (low + high) / 2
        near = min(float(measured(island, corner).to_water) for corner in made(middle))
        low, high = (middle, high) if near < far else (low, middle)
    return made(high + 0.02)


def town() -> dict[str, Any]:
    """The map as GeoJSON."""
    ring = tuple(_shore(2 * pi * n / CORNERS) for n in range(CORNERS))
    island = TownMap(0, 0, (ring,), (), ())
    with (HERE / "plots.csv").open(encoding="utf-8") as lines:
        rows = list(csv.DictReader(lines))
    streets: dict[str, list[dict[str, str]]] = {}
    for row in rows:
        streets.setdefault(row["address"].partition(" ")[2], []).append(row)
    features = [_feature("Polygon", ring, what="land", name="Quill")]
    for no, (street, plots) in enumerate(streets.items()):
        turn, beside = 2 * pi * (no + 0.5) / len(streets), 0.0
        fronts = list[Point]()
        for row in plots:
            wide = max(9.0, min(24.0, float(row["size"]) ** 0.5 * 0.9))
            deep, along = float(row["size"]) / wide, beside

            def made(inland: float, along: float = along, wide: float = wide, deep: float = deep, turn: float = turn) -> Line:
                return _rectangle(turn, inland, along, wide, deep)

            outline = _placed(island, float(row["to_water"]), made)
            features.append(_feature("Polygon", outline, what="plot", plot=row["plot"], address=row["address"]))
            fronts += [outline[3], outline[2]]
            beside += wide + 1.5
        (ax, ay), (bx, by) = fronts[0], fronts[-1]
        long = hypot(bx - ax, by - ay)
        ux, uy = (bx - ax) / long, (by - ay) / long
        back = (-uy * 6, ux * 6)  # the street runs behind the plots
        line = (
            (ax - 95 * ux + back[0], ay - 95 * uy + back[1]),
            (bx + 95 * ux + back[0], by + 95 * uy + back[1]),
        )
        features.append(_feature("LineString", line, what="street", name=street))
    features += [_feature("LineString", line, what="street", name=name) for name, line in ROADS.items()]
    return {"type": "FeatureCollection", "features": features}


def _feature(kind: str, line: Line, **told: str) -> dict[str, Any]:
    middle = NORTH - (HIGH * 1.1) / A_DEGREE
    wide = A_DEGREE * cos(radians(middle))
    points = [[round(WEST + x / wide, 8), round(NORTH - y / A_DEGREE, 8)] for x, y in line]
    ring: Any = [[*points, points[0]]] if kind == "Polygon" else points
    return {"type": "Feature", "properties": told, "geometry": {"type": kind, "coordinates": ring}}


def main() -> None:
    """Write the map beside the register."""
    features = ",\n".join(json.dumps(f, ensure_ascii=False) for f in town()["features"])
    (HERE / "plots.geojson").write_text(f'{{"type": "FeatureCollection", "features": [\n{features}\n]}}\n', "utf-8")


if __name__ == "__main__":
    main()
