"""The public register: what of a decided case anybody may read, found and taken along; struck, corrected, taken in again by a lead."""

from __future__ import annotations

import json
from collections import Counter
from typing import Any

import jsonschema
from sqlalchemy import select

from jolly_clerk.core.story import Moment
from jolly_clerk.core.town_map import contains
from jolly_clerk.office.cases.casework import load_case, moments_of
from jolly_clerk.office.desk import reviewing
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import Who, open_office
from jolly_clerk.office.people.directory import names, person
from jolly_clerk.office.views import public_register as register
from jolly_clerk.store.database import read_session
from jolly_clerk.store.public import PublicLine
from jolly_clerk.store.tables import Case
from tests.helpers import demo_folder
from tests.office.test_journey import Cases

_AT = {"type": "array", "minItems": 2, "maxItems": 3, "items": {"type": "number", "minimum": -180, "maximum": 180}}
_LINE = {"type": "array", "minItems": 2, "items": _AT}
_RING = {"type": "array", "minItems": 4, "items": _AT}
#: a collection of features as RFC 7946 has them, for the shapes that are used here
GEOJSON: dict[str, Any] = {
    "type": "object",
    "required": ["type", "features"],
    "properties": {
        "type": {"const": "FeatureCollection"},
        "features": {
            "type": "array",
            "items": {
                "required": ["type", "geometry", "properties"],
                "properties": {
                    "type": {"const": "Feature"},
                    "properties": {"type": ["object", "null"]},
                    "geometry": {
                        "oneOf": [
                            {"type": "null"},
                            {
                                "type": "object",
                                "properties": {"type": {"const": "Point"}, "coordinates": _AT},
                                "required": ["type", "coordinates"],
                            },
                            {
                                "type": "object",
                                "properties": {"type": {"const": "LineString"}, "coordinates": _LINE},
                                "required": ["type", "coordinates"],
                            },
                            {
                                "type": "object",
                                "properties": {"type": {"const": "Polygon"}, "coordinates": {"type": "array", "items": _RING}},
                                "required": ["type", "coordinates"],
                            },
                        ]
                    },
                },
            },
        },
    },
}


class Register(Cases):
    """The demo's cases, whose editions have a register."""

    sqlite_only = True  # the demo is laid in SQLite

    def setUp(self) -> None:
        super().setUp()
        self.office.engine.dispose()
        self.office = open_office(demo_folder(), demo=True)
        self.addCleanup(self.office.close)
        self.imre, self.maud = person(self.office, "imre"), person(self.office, "maud")

    def all(self, words: str = "", kind: str = "") -> list[register.RegisterLine]:
        return register.everything(self.office, register.Wanted(words, kind))

    def test_what_stands_in_it(self) -> None:
        lines = self.all()
        self.assertGreater(len(lines), 4)
        self.assertEqual({line.kind for line in lines if line.outcome == "refused"} - {"BW"}, set())
        self.assertNotIn("QV", {line.kind for line in lines})
        for line in lines:
            loaded = load_case(self.office, self.imre, line.reference)
            self.assertIn(loaded.assessment.state, ("Granted", "Refused"))
            public = {
                loaded.rulebook.label(f"{n.key}")
                for n in loaded.rulebook.questions.values()
                if n.question.public and not n.part.each
            }
            told = {label for label, _ in line.says}
            self.assertTrue(told, line.reference)
            private = {
                loaded.rulebook.label(n.key)
                for n in loaded.rulebook.questions.values()
                if not n.question.public and not n.part.each
            }
            self.assertEqual(told & (private - public), set(), line.reference)

    def test_it_is_found_by_place_name_kind_and_day(self) -> None:
        one = next(line for line in self.all(kind="BW") if line.place)
        self.assertIn(one.reference, [line.reference for line in self.all(one.place.upper())])
        self.assertIn(one.reference, [line.reference for line in self.all(one.reference)])
        self.assertEqual(self.all("zzqx"), [])
        days = register.Wanted(since=one.decided, until=one.decided)
        self.assertIn(one.reference, [line.reference for line in register.everything(self.office, days)])
        page = register.search(self.office, register.Wanted(kind="BW"))
        self.assertEqual((page.count, [k for k, _ in page.kinds if k == "BW"]), (len(self.all(kind="BW")), ["BW"]))
        with self.assertRaises(Invalid):
            register.search(self.office, register.Wanted(), "nonsense")

    def test_it_leaves_as_a_table_and_on_a_map(self) -> None:
        lines = self.all()
        rows = register.table(lines)
        self.assertEqual({len(row) for row in rows}, {len(rows[0])})
        told = json.loads(register.geojson(lines))
        jsonschema.validate(told, GEOJSON)
        self.assertEqual(len(told["features"]), len(lines))
        drawn = json.loads(self.office.registers.map_of("plots") or b"")
        plots = {
            f["properties"]["address"]: f["geometry"]["coordinates"][0] for f in drawn["features"] if "plot" in f["properties"]
        }
        at = {f["properties"]["place"]: f["geometry"]["coordinates"] for f in told["features"] if f["geometry"]}
        self.assertGreater(len(at), 1)
        for place, (x, y) in at.items():
            self.assertTrue(contains(plots[place], (x, y)), place)

    def test_the_map_shows_land_streets_and_entries_and_no_plot(self) -> None:
        told = json.loads(register.on_map(self.office, register.Wanted(kind="BW")))
        jsonschema.validate(told, GEOJSON)
        what = Counter(f["properties"]["what"] for f in told["features"])
        self.assertEqual(set(what), {"land", "street", "entry"})
        self.assertEqual(what["entry"], sum(line.at is not None for line in self.all(kind="BW")))
        nothing = json.loads(register.on_map(self.office, register.Wanted("zzqx")))
        self.assertEqual({f["properties"]["what"] for f in nothing["features"]}, {"land", "street"})

    def test_a_lead_strikes_and_corrects(self) -> None:
        line = next(one for one in self.all(kind="BW") if one.says)
        reference, (label, value) = line.reference, line.says[0]
        with self.assertRaises(NotAllowed):
            register.change(self.office, self.imre, reference, True, {}, "Decision 7: not public.")
        for struck, wanted, because in (
            (True, {}, "no"),
            (False, {"Nothing": "x"}, "Decision 7"),
            (False, {label: value}, "Decision 7"),
        ):
            with self.assertRaises(Invalid):
                register.change(self.office, self.maud, reference, struck, wanted, because)
        register.change(
            self.office, self.maud, reference, False, {label: "9 Corrected Quay"}, "Decision 7: the number was wrong."
        )
        again = next(one for one in self.all() if one.reference == reference)
        self.assertEqual(again.says[0], (label, "9 Corrected Quay"))
        self.assertEqual(self.all("corrected quay"), [again])
        register.change(self.office, self.maud, reference, True, {}, "Decision 8: struck.")
        self.assertNotIn(reference, [one.reference for one in self.all()])
        for struck, wanted in ((True, {}), (False, {label: "x"})):
            with self.assertRaises(Invalid) as told:
                register.change(self.office, self.maud, reference, struck, wanted, "Decision 8: once more.")
            self.assertIn("Take it in again first", told.exception.detail)
        register.change(self.office, self.maud, reference, False, {}, "Decision 9: taken in again.")
        self.assertEqual(next(one for one in self.all() if one.reference == reference).says[0][1], "9 Corrected Quay")
        told = [m.text for m in self.story(reference)]
        self.assertTrue(any("Maud Ferrier struck it from the public register: Decision 8" in text for text in told), told)
        open_case = next(r for r in self.references("Being checked"))
        with self.assertRaises(NotFound):
            register.change(self.office, self.maud, open_case, True, {}, "Decision 7: struck.")
        self.assertEqual(list(verify(self.office)), [])

    def story(self, reference: str) -> tuple[Moment, ...]:
        loaded = load_case(self.office, self.imre, reference)
        return moments_of(loaded, names(self.office, loaded.people))

    def references(self, state: str) -> list[str]:
        with read_session(self.office.engine) as session:
            return list(session.scalars(select(Case.reference).where(Case.state == state)))

    def test_what_is_refused_enters_where_the_edition_says_so(self) -> None:
        with read_session(self.office.engine) as session:
            before = session.scalars(select(PublicLine.outcome).where(PublicLine.kind == "BW")).all()
        reference = next(r for r in self.references("Under review") if r.startswith("BW"))
        reviewing.refuse(self.office, self.reviewer(reference), reference, "It cannot be allowed here.")
        line = next(one for one in self.all() if one.reference == reference)
        self.assertEqual((line.outcome, line.stands, len(self.all(kind="BW"))), ("refused", "", len(before) + 1))

    def reviewer(self, reference: str) -> Who:
        handed = load_case(self.office, self.imre, reference).so_far.handed
        return person(self.office, handed.to)
