"""A drawn map of a town: plots found on it, and how far a point lies from high water.

A map is GeoJSON (RFC 7946): features whose ``what`` is *land* (a polygon; its edge is mean high water), *plot* (a polygon with its
``plot`` number and ``address``) or *street* (a line with its ``name``). Longitudes and latitudes become metres east and south of the
north-west corner by an equirectangular projection; over a few kilometres that is exact to a millimetre a hundred metres.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from math import cos, hypot, radians
from typing import Final

from jolly_clerk.core.say import say
from jolly_clerk.core.values import Raw

Point = tuple[float, float]
Line = tuple[Point, ...]

#: mean radius of the Earth times one degree, in metres
A_DEGREE: Final = 6_371_008.8 * radians(1)
#: metres of water that are drawn around the land
AROUND: Final = 40.0
#: so near to its outline a point lies on a plot
EDGE: Final = 0.2
#: so many points of land and streets are drawn where everything is drawn at once
MOST_POINTS: Final = 50_000
#: digits of a degree that are told: a tenth of a metre
DEGREES: Final = 6
_TENTH = Decimal("0.1")


@dataclass(frozen=True, slots=True)
class PlotOnMap:
    """A plot with its outline in metres, a point within it for its number, and the corner that is nearest to high water."""

    plot: str
    address: str
    outline: Line
    middle: Point
    nearest: Point


@dataclass(frozen=True, slots=True)
class Street:
    """A street: its name and its line in metres."""

    name: str
    line: Line


@dataclass(frozen=True, slots=True)
class TownMap:
    """A map ``width`` × ``height`` metres large; y counts southwards. The edges of ``land`` are mean high water."""

    width: float
    height: float
    land: tuple[Line, ...]
    streets: tuple[Street, ...]
    plots: tuple[PlotOnMap, ...]


@dataclass(frozen=True, slots=True)
class Measured:
    """What lies at a point: its distance to high water in metres with one decimal (0 for a point below it), the number of the plot, if
    it lies on one, and the nearest point of the water's edge."""

    to_water: Decimal
    below: bool
    plot: str
    shore: Point


def read_map(made: Raw) -> TownMap:
    """Read a map. ValueError in words if it is no GeoJSON of this kind."""
    features = made.get("features") if isinstance(made, dict) else None
    if not isinstance(features, list):
        raise ValueError(say("This is no GeoJSON with features."))
    land = [_line(f) for f in features if _of(f, "what") == "land"]
    if not land:
        raise ValueError(say("The map has no land."))
    west, north = min(x for ring in land for x, _ in ring), max(y for ring in land for _, y in ring)
    east, south = max(x for ring in land for x, _ in ring), min(y for ring in land for _, y in ring)
    wide = A_DEGREE * cos(radians((north + south) / 2))

    def metres(line: Iterable[Point]) -> Line:
        return tuple((round((x - west) * wide + AROUND, 3), round((north - y) * A_DEGREE + AROUND, 3)) for x, y in line)

    plots = [f for f in features if _of(f, "what") == "plot"]
    outlines = [metres(_line(f)) for f in plots]
    lands = tuple(metres(ring) for ring in land)
    nearest = nearest_corners(lands, outlines)
    return TownMap(
        width=round((east - west) * wide + 2 * AROUND, 1),
        height=round((north - south) * A_DEGREE + 2 * AROUND, 1),
        land=lands,
        streets=tuple(Street(_of(f, "name"), metres(_line(f))) for f in features if _of(f, "what") == "street"),
        plots=tuple(
            PlotOnMap(_of(f, "plot"), _of(f, "address"), line, _middle(line), near)
            for f, line, near in zip(plots, outlines, nearest, strict=True)
        ),
    )


def places_of(made: Raw) -> dict[str, Point]:
    """Longitude and latitude of the middle of each plot, by its address."""
    plots = [f for f in made.get("features", ()) if _of(f, "what") == "plot"]
    return {_of(f, "address"): _middle(tuple((x, y) for x, y in _line(f)), DEGREES) for f in plots if _of(f, "address")}


def ground_of(made: Raw) -> list[dict[str, Raw]]:
    """Land and streets of a map as GeoJSON features, with what they are and the names of streets, and nothing else.

    Of a map with more than :data:`MOST_POINTS` points only every so many is told: more cannot be seen. ValueError if it is no such map.
    """
    told = [(f, _line(f)) for f in made.get("features", ()) if _of(f, "what") in ("land", "street")]
    each = -(-sum(len(line) for _, line in told) // MOST_POINTS) or 1
    return [_drawn(_of(f, "what"), _of(f, "name"), [*line[:-1][::each], line[-1]]) for f, line in told]


def _drawn(what: str, name: str, line: Sequence[Point]) -> dict[str, Raw]:
    points = [list(point) for point in line]
    if what == "land":
        shape: Raw = {"type": "Polygon", "coordinates": [[*points, points[0]]]}
    else:
        shape = {"type": "LineString", "coordinates": points}
    return {"type": "Feature", "geometry": shape, "properties": {"what": what, "name": name}}


def measured(of: TownMap, at: Point) -> Measured:
    """What lies at a point of a map, in metres."""
    far, shore = min((distance(at, near), near) for ring in of.land for a, b in _edges(ring) for near in (_nearest(at, a, b),))
    below = not any(contains(ring, at) for ring in of.land)
    plot = next((p.plot for p in of.plots if contains(p.outline, at) or _nearest_edge((p.outline,), at)[0] <= EDGE), "")
    to_water = Decimal(0) if below else Decimal(str(far))
    return Measured(to_water.quantize(_TENTH, ROUND_HALF_UP), below, plot, (round(shore[0], 2), round(shore[1], 2)))


def nearest_corners(land: Sequence[Line], outlines: Sequence[Line]) -> list[Point]:
    """The corner of each outline that is nearest to high water: the first of those that are equally near."""
    import numpy as np  # loaded with the first map
    import shapely

    if not outlines:
        return []
    water = shapely.STRtree(shapely.linestrings([edge for ring in land for edge in _edges(ring)]))
    corners = np.array([corner for line in outlines for corner in line])
    (asked, _), far = water.query_nearest(shapely.points(corners), return_distance=True, all_matches=False)
    distances = np.empty(len(corners))
    distances[asked] = far.round(3)
    found, first = list[Point](), 0
    for line in outlines:
        found.append(line[int(distances[first : first + len(line)].argmin())])
        first += len(line)
    return found


def _nearest_edge(rings: Sequence[Line], at: Point) -> tuple[float, Point]:
    """How far the edges of rings are from a point, and where they are nearest."""
    return min((distance(at, near), near) for ring in rings for a, b in _edges(ring) for near in (_nearest(at, a, b),))


def distance(a: Point, b: Point) -> float:
    """How far two points are from each other, in metres."""
    return hypot(a[0] - b[0], a[1] - b[1])


def contains(ring: Sequence[Point], at: Point) -> bool:
    """True if a point lies within a ring, by how often a ray eastwards crosses it."""
    x, y = at
    inside = False
    for (ax, ay), (bx, by) in _edges(ring):
        if (ay > y) != (by > y) and x < ax + (y - ay) / (by - ay) * (bx - ax):
            inside = not inside
    return inside


def _edges(ring: Sequence[Point]) -> Iterable[tuple[Point, Point]]:
    return zip(ring, (*ring[1:], ring[0]), strict=True)


def _nearest(at: Point, a: Point, b: Point) -> Point:
    """The point of the stretch from ``a`` to ``b`` that is nearest."""
    long = (b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2
    if long == 0:
        return a
    share = ((at[0] - a[0]) * (b[0] - a[0]) + (at[1] - a[1]) * (b[1] - a[1])) / long
    share = min(1.0, max(0.0, share))
    return a[0] + share * (b[0] - a[0]), a[1] + share * (b[1] - a[1])


def _middle(line: Line, digits: int = 2) -> Point:
    return round(sum(x for x, _ in line) / len(line), digits), round(sum(y for _, y in line) / len(line), digits)


def _of(feature: Raw, name: str) -> str:
    told = feature.get("properties") if isinstance(feature, dict) else None
    return str(told.get(name) or "") if isinstance(told, dict) else ""


def _line(feature: Raw) -> Line:
    """The outer ring of a polygon, without its last point which is its first, or a line."""
    try:
        shape = feature["geometry"]
        ring = shape["coordinates"][0] if shape["type"] == "Polygon" else shape["coordinates"]
        line = tuple((float(x), float(y)) for x, y, *_ in ring)
    except (KeyError, IndexError, TypeError, ValueError):
        raise ValueError(say("A feature of the map has no polygon and no line.")) from None
    if len(line) < 2 or (shape["type"] == "Polygon" and len(line) < 4):
        raise ValueError(say("A line of the map has too few points."))
    return line[:-1] if shape["type"] == "Polygon" else line
