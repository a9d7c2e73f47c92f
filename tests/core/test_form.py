"""Which questions are asked, which one decides, what is left; parts and values in their order; calendars as files."""

from __future__ import annotations

import unittest
from datetime import date, time
from typing import Any

from jolly_clerk.core.absence import NONE, UNKNOWN
from jolly_clerk.core.form import Sheet, question_at, read_answers
from jolly_clerk.core.known import CalendarFile
from jolly_clerk.shelf.nodes import UnreadableRulebook
from jolly_clerk.shelf.rulebooks import SHIPPED, read_calendar, read_rulebook
from tests.helpers import BW, answers, assessed, dossier
from tests.shelf.test_rulebooks import REPEATS

DAY = date(2026, 11, 5)
CHAIN = """
parts:
  - id: gate
    title: The gate
    questions:
      - {id: open, ask: Is it open?, type: yes or no}
      - {id: width, ask: How wide?, type: number, when: gate.open}
      - {id: name, ask: A name?, type: text, optional: true}
  - id: yard
    title: The yard
    when: gate.width > 3
    questions:
      - {id: carts, ask: How many carts?, type: count}
      - {id: horses, ask: How many horses?, type: count, when: yard.carts > 1}
values:
  - {id: second, title: Second, rule: first * 2, article: "1"}
  - {id: first, title: First, rule: gate.width + 1, article: "1"}
"""


def chain() -> Any:
    begin, end = REPEATS.index("parts:"), REPEATS.index("signature:")
    text = REPEATS[:begin] + CHAIN.strip() + "\n" + REPEATS[end:]
    return read_rulebook(text.replace('"2.50 * count(net) + 0.10 * sum(net.length)"', '"second * 1.00"'), "c.yaml").rulebook


RULES = chain()


def read(gate: dict[str, Any], yard: dict[str, Any] | None = None) -> Sheet:
    return read_answers(RULES, {"gate": gate, "yard": yard or {}}, DAY, DAY)


class Asked(unittest.TestCase):
    def states(self, sheet: Sheet) -> dict[str, str]:
        return {p: "yes" if a is True else "no" if a is False else "unknown" for p, a in sheet.asked.items()}

    def test_conditions_open_and_close_along_the_chain(self) -> None:
        for gate, yard, told in (
            ({}, {}, ("yes", "unknown", "unknown", "unknown")),
            ({"open": "no"}, {}, ("yes", "no", "no", "no")),
            ({"open": "yes"}, {}, ("yes", "yes", "unknown", "unknown")),
            ({"open": "yes", "width": "2"}, {}, ("yes", "yes", "no", "no")),
            ({"open": "yes", "width": "4"}, {}, ("yes", "yes", "yes", "unknown")),
            ({"open": "yes", "width": "4"}, {"carts": "1"}, ("yes", "yes", "yes", "no")),
            ({"open": "yes", "width": "4"}, {"carts": "2"}, ("yes", "yes", "yes", "yes")),
        ):
            with self.subTest(gate=gate, yard=yard):
                states = self.states(read(gate, yard))
                self.assertEqual(tuple(states[p] for p in ("gate.open", "gate.width", "yard.carts", "yard.horses")), told)

    def test_an_answer_to_a_closed_question_counts_for_nothing(self) -> None:
        sheet = read({"open": "no", "width": "9"}, {"carts": "5", "horses": "5"})
        for name in ("gate.width", "yard.carts", "yard.horses", "first", "second"):
            self.assertIs(sheet.values[name], NONE)

    def test_an_optional_question_left_open_is_none_and_not_left(self) -> None:
        sheet = read({"open": "yes"})
        self.assertIs(sheet.values["gate.name"], NONE)
        self.assertIs(sheet.values["gate.width"], UNKNOWN)

    def test_values_are_computed_in_the_order_that_works(self) -> None:
        sheet = read({"open": "yes", "width": "4"})
        self.assertEqual((str(sheet.values["first"]), str(sheet.values["second"])), ("5", "10"))

    def test_the_question_that_decides_is_the_first_open_one(self) -> None:
        horses = RULES.questions["yard.horses"]
        for gate, yard, places in (
            ({}, {}, ["gate.open"]),
            ({"open": "yes"}, {}, ["gate.width"]),
            ({"open": "yes", "width": "wide"}, {}, ["gate.width"]),
            ({"open": "yes", "width": "4"}, {}, ["yard.carts"]),
        ):
            with self.subTest(gate=gate):
                self.assertEqual(read(gate, yard).deciding(horses.when), places)

    def test_a_computed_value_is_traced_to_its_questions(self) -> None:
        line = RULES.lines[0]
        self.assertEqual(read({"open": "yes"}).deciding(line.of), ["gate.width"])
        self.assertEqual(read({}).deciding(line.of), ["gate.open"])

    def test_places(self) -> None:
        self.assertEqual(question_at(BW, "works.area"), BW.questions["works.area"])
        nets = read_rulebook(REPEATS, "zz.yaml").rulebook
        self.assertEqual(question_at(nets, "net.7.length"), nets.questions["net.length"])
        self.assertIsNone(question_at(BW, "works.colour"))
        self.assertEqual(BW.label("works.area"), "The works, Floor area under it")
        self.assertEqual(BW.label("documents.site_plan"), "Documents, Site plan, to scale")
        self.assertEqual(BW.label("signature"), "Promise and sign")

    def test_strange_shapes_are_kept_apart_and_said(self) -> None:
        for given, apart in (
            ({"gate": "open"}, ["gate"]),
            ({"gate": [{"id": 1, "open": "yes"}]}, []),
            ({"gate": ["x", {"id": 2, "odd": 1}]}, ["gate", "gate.2.odd"]),
            ({"moon": {"phase": "full"}}, ["moon.phase"]),
        ):
            with self.subTest(given=given):
                self.assertEqual(read_answers(RULES, given, DAY, DAY).apart, apart)


class Parts(unittest.TestCase):
    def test_left_by_part_and_in_all(self) -> None:
        for changes, left in (
            ({}, {"place": 0, "works": 0, "service": 0}),
            ({"place_plot": None}, {"place": 1, "works": 0, "service": 0}),
            ({"works_area": "x", "works_use": None}, {"place": 0, "works": 2, "service": 0}),
            ({"service_speed": "fast"}, {"place": 0, "works": 0, "service": 1}),
            ({"place_listed": "yes"}, {"place": 0, "works": 1, "service": 0}),
            ({"works_begun_yet": "yes"}, {"place": 0, "works": 1, "service": 0}),
        ):
            with self.subTest(changes=changes):
                found = assessed(dossier(**changes))
                self.assertEqual({p.id: p.left for p in found.parts}, left)
                questions = [g for g in found.left if g.place and g.place.ref.split(".")[0] in left]
                self.assertEqual(len(questions), sum(left.values()))

    def test_a_question_that_waits_says_for_which(self) -> None:
        views = {q.place: q for p in assessed(dossier(works_begun_yet=None)).parts for q in p.questions}
        self.assertEqual(views["works.begun"].asked, "not known yet")
        self.assertEqual(views["works.begun"].because, "Depends on “The works, Have works begun?”.")
        self.assertFalse(views["works.begun"].left)

    def test_computed_answers_show_their_working(self) -> None:
        computed = {c.id: (c.value, c.working()) for c in assessed(dossier()).computed}
        space = "\u00a0"
        self.assertEqual(
            computed["reference_value"],
            (
                f"44{space}547.00",
                f"95.8 m² [Floor area under it] × 465.00 [Reference rates: Workshop, Timber frame; Schedule 1] = 44{space}547.00",
            ),
        )
        higher = (
            f"the higher of 31{space}000.00 [Your own estimate of cost] and 44{space}547.00 [Reference value] = 44{space}547.00"
        )
        self.assertEqual(computed["works_value"], (f"44{space}547.00", higher))
        self.assertEqual(
            {c.id: (c.value, c.working()) for c in assessed(dossier(works_area=None)).computed}["works_value"],
            ("not answered", ""),
        )

    def test_the_title_is_made_of_what_is_there(self) -> None:
        for changes, title in (
            ({}, "New workshop roof, 4 Saltern Slip"),
            ({"works_what": None}, "4 Saltern Slip"),
            ({"place_address": None}, "New workshop roof"),
            ({"works_what": None, "place_address": None}, "Building works permit"),
        ):
            self.assertEqual(assessed(dossier(**changes)).title, title)

    def test_musts_say_why(self) -> None:
        for changes, standing, says in (
            ({"works_estimate": "22273.50"}, "met", "≥"),
            ({"works_estimate": "22273.49"}, "in doubt", "is less than half of the reference value"),
            ({"works_estimate": None}, "not known yet", "Your own estimate of cost"),
        ):
            with self.subTest(changes=changes):
                found = assessed(dossier(**changes)).requirement("value-plausible")
                assert found
                self.assertEqual(found.proposed, standing)
                self.assertIn(says, found.because)

    def test_the_raw_answers_stand_as_they_were_typed(self) -> None:
        given = answers(works_area=" 95.8 ", works_estimate="31 000")
        views = {q.place: q.raw for p in assessed(dossier().model_copy(update={"answers": given})).parts for q in p.questions}
        self.assertEqual((views["works.area"], views["works.estimate"]), (" 95.8 ", "31 000"))


class Calendars(unittest.TestCase):
    TEXT = (SHIPPED / "calendars" / "quillhaven.yaml").read_text("utf-8")

    def test_the_shipped_one(self) -> None:
        found = read_calendar(self.TEXT, "q.yaml")
        self.assertEqual((found.name, found.zone_name, found.office_ends), ("quillhaven", "Europe/Lisbon", time(16, 30)))
        self.assertEqual(found.closed_on(date(2026, 5, 14)), "Skerry Thursday")
        self.assertEqual(found.closed_on(date(2026, 11, 7)), "Saturday")
        self.assertIsNone(found.closed_on(date(2026, 11, 5)))

    def test_a_day_can_be_declared_closed(self) -> None:
        found = read_calendar(self.TEXT + "declared_closed: [2026-11-05]\n", "q.yaml")
        self.assertEqual(found.closed_on(date(2026, 11, 5)), "the office declared this day closed")
        self.assertEqual(found.add_working_days(date(2026, 11, 4), 1), date(2026, 11, 6))

    def test_wrong_ones_name_the_line(self) -> None:
        for old, new, says in (
            ('office_ends: "16:30"', 'office_ends: "25:30"', "office_ends"),
            ("how: easter, offset: 1", "how: moon, offset: 1", "how"),
            ("name: quillhaven\n", "", "`name` is missing in a calendar"),
        ):
            with self.subTest(says), self.assertRaises(UnreadableRulebook) as caught:
                read_calendar(self.TEXT.replace(old, new, 1), "q.yaml")
            self.assertIn(says, str(caught.exception))
            self.assertRegex(str(caught.exception), r"^q.yaml:\d+: ")

    def test_every_day_of_ten_years_is_either_open_or_has_its_reason(self) -> None:
        found = read_calendar(self.TEXT, "q.yaml")
        closed = [found.closed_on(date(year, 12, 25)) for year in range(2026, 2036)]
        self.assertTrue(all(closed))
        self.assertEqual(CalendarFile.model_fields["declared_closed"].default, [])
