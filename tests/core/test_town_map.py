"""The map of a town: plots lie where the land register says, points are measured, what is no map is refused."""

from __future__ import annotations

import csv
import json
import unittest
from decimal import Decimal
from math import cos, hypot, pi, radians, sin
from pathlib import Path
from typing import Any

from jolly_clerk.core.town_map import A_DEGREE, AROUND, MOST_POINTS, contains, distance, ground_of, measured, read_map
from jolly_clerk.demo.town import town

REGISTERS = Path(__file__).resolve().parents[2] / "jolly_clerk" / "demo" / "registers"


def made(*features: tuple[str, str, Any], **told: str) -> dict[str, Any]:
    """GeoJSON of features: what, kind of shape, coordinates."""
    return {
        "features": [
            {"properties": {"what": what, **told}, "geometry": {"type": kind, "coordinates": at}} for what, kind, at in features
        ]
    }


def round_island(metres: float, latitude: float, corners: int = 720) -> list[list[list[float]]]:
    """A round island with so many metres from its middle to the water."""
    wide = A_DEGREE * cos(radians(latitude))
    turns = [2 * pi * n / corners for n in range(corners + 1)]
    return [[[metres * cos(t) / wide, latitude + metres * sin(t) / A_DEGREE] for t in turns]]


class Ground(unittest.TestCase):
    def test_of_a_million_points_so_many_are_told_that_can_be_seen(self) -> None:
        street = ("street", "LineString", [[0.001 * n / 100_000, 50.0] for n in range(100_000)])
        island = round_island(500, 50, 900_000)
        land, lane = ground_of(made(("land", "Polygon", island), street, name="Long Lane"))
        (ring,) = land["geometry"]["coordinates"]
        self.assertLessEqual(len(ring) + len(lane["geometry"]["coordinates"]), MOST_POINTS + 10)
        self.assertEqual((ring[0], ring[0]), (ring[-1], list(map(float, island[0][0]))))
        self.assertEqual(lane["geometry"]["coordinates"][-1], street[2][-1])  # a street ends where it ends
        self.assertEqual(lane["properties"], {"what": "street", "name": "Long Lane"})

    def test_a_small_one_is_told_as_it_is(self) -> None:
        drawn = json.loads((REGISTERS / "plots.geojson").read_text("utf-8"))
        shapes = [f["geometry"] for f in drawn["features"] if f["properties"]["what"] in ("land", "street")]
        self.assertEqual(shapes, [f["geometry"] for f in ground_of(drawn)])


class Quillhaven(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.map = read_map(json.loads((REGISTERS / "plots.geojson").read_text("utf-8")))

    def test_each_plot_of_the_register_lies_as_far_from_the_water(self) -> None:
        with (REGISTERS / "plots.csv").open(encoding="utf-8") as lines:
            known = {row["plot"]: row for row in csv.DictReader(lines)}
        self.assertEqual({p.plot for p in self.map.plots}, set(known))
        for plot in self.map.plots:
            found = measured(self.map, plot.nearest)
            with self.subTest(plot=plot.plot):
                self.assertEqual(
                    (found.to_water, found.plot), (Decimal(known[plot.plot]["to_water"]).quantize(Decimal("0.1")), plot.plot)
                )
                self.assertEqual(plot.address, known[plot.plot]["address"])
                self.assertTrue(contains(plot.outline, plot.middle))
                for other in self.map.plots:
                    apart = other is plot or not any(contains(other.outline, corner) for corner in plot.outline)
                    self.assertTrue(apart, f"{plot.plot} and {other.plot} overlap")

    def test_it_is_what_the_program_draws(self) -> None:
        self.assertEqual(json.loads((REGISTERS / "plots.geojson").read_text("utf-8")), json.loads(json.dumps(town())))

    def test_a_point_in_the_water_is_below_high_water(self) -> None:
        found = measured(self.map, (1.0, 1.0))
        self.assertEqual((found.to_water, found.below, found.plot), (0, True, ""))


class Measuring(unittest.TestCase):
    def test_metres_are_metres_at_any_latitude(self) -> None:
        for latitude in (0.0, 46.4, -63.0):
            island = read_map(made(("land", "Polygon", round_island(500, latitude))))
            middle = (island.width / 2, island.height / 2)
            with self.subTest(latitude=latitude):
                self.assertAlmostEqual(island.width, 1000 + 2 * AROUND, delta=0.2)
                self.assertEqual(measured(island, middle).to_water, Decimal("500.0"))
                for way in (0.3, 1.9, 4.0):
                    at = (middle[0] + 380 * cos(way), middle[1] + 380 * sin(way))
                    found = measured(island, at)
                    self.assertAlmostEqual(float(found.to_water), 120, delta=0.15)
                    self.assertAlmostEqual(distance(at, found.shore), hypot(at[0] - found.shore[0], at[1] - found.shore[1]))

    def test_what_is_no_map(self) -> None:
        square = [[[0, 0], [0.01, 0], [0.01, 0.01], [0, 0.01], [0, 0]]]
        for wrong, says in (
            ([], "no GeoJSON"),
            ({"features": "all"}, "no GeoJSON"),
            (made(("plot", "Polygon", square)), "no land"),
            (made(("land", "Polygon", [[[0, 0], [1, 1], [0, 0]]])), "too few points"),
            (made(("land", "Polygon", square), ("plot", "Point", [0, 0])), "no polygon and no line"),
            (made(("land", "Polygon", [[[0, "far"], [1, 1], [0, 1], [0, 0]]])), "no polygon and no line"),
        ):
            with self.subTest(says=says), self.assertRaisesRegex(ValueError, says):
                read_map(wrong)
