"""Measures read from a plan, names as a clerk compares them, and the agreement of what several places state."""

from __future__ import annotations

import unittest
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.agreement import AgreementView, agreement, same
from jolly_clerk.core.facts.measures import any_scale, find_all, has_title_block, measures, scale_words
from jolly_clerk.core.facts.names import compared, same_name
from jolly_clerk.core.facts.reading import Reading, TextLine
from jolly_clerk.core.form import read_answers
from jolly_clerk.core.history import RegisterAsked
from jolly_clerk.core.rulebook.model import Agree, FactRule
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file
from tests.helpers import at

FULL = read_rulebook_file(SHIPPED / "BW" / "2026-07-01.yaml").rulebook
DISTANCE = FactRule(id="distance", title="Distance", type="length", near=["high water", "MHW"])
AREA = FactRule(id="area", title="Area", type="area", near=["floor area", "workshop"])


def plan(*lines: tuple[str, float, float], page: int = 1) -> Reading:
    """A reading with these texts at these places (left, top), each as wide as its letters."""
    made = tuple(TextLine(page=page, text=t, box=(x, y, min(1.0, x + 0.01 * len(t)), y + 0.02)) for t, x, y in lines)
    return Reading(sha256="a" * 64, reader="t", size=1, type="pdf", opens="yes", lines=made)


def length(text: str) -> str | None:
    found = likeliest(DISTANCE, plan((text, 0.1, 0.5)))
    return str(found.value.normalize()) if found else None


def likeliest(rule, reading):
    """The likeliest fact, or None."""
    return next(iter(find_all(rule, reading)), None)


class Measures(unittest.TestCase):
    def test_lengths_as_they_are_written(self) -> None:
        for text, metres in (
            ("18 m to mean high water", "18"),
            ("Distance to high water: 23.5 m", "23.5"),
            ("high water 23,5 m", "23.5"),
            ("high-water at 1 250 mm", "1.25"),
            ("MHW 180 cm", "1.8"),
            ("high water 1.2 km off", "1.2E+3"),
            ("12 metres from HIGH WATER", "12"),
            ("high water 7m", "7"),
            ("Scale 1:200, high water", None),
            ("high water, 95.8 m²", None),
            ("workshop 13.3 x 7.2 m, high water", None),
            ("high waters 5 m", None),
            ("18 minutes to high water", None),
            ("plot 12.5.2026 high water", None),
        ):
            with self.subTest(text):
                self.assertEqual(length(text), metres)

    def test_the_nearest_to_its_word_counts_and_far_ones_do_not(self) -> None:
        found = likeliest(DISTANCE, plan(("5 m", 0.1, 0.1), ("18 m", 0.5, 0.66), ("mean high water", 0.6, 0.8)))
        self.assertEqual(found and found.text, "18 m")
        self.assertIsNone(likeliest(DISTANCE, plan(("5 m", 0.0, 0.0), ("high water", 0.9, 0.9))))
        self.assertIsNone(likeliest(DISTANCE, plan(("5 m", 0.5, 0.5))))
        self.assertIsNone(likeliest(DISTANCE, plan()))

    def test_the_word_and_the_measure_stand_on_one_sheet(self) -> None:
        one, second = plan(("18 m", 0.5, 0.5)), plan(("high water", 0.5, 0.5), page=2)
        both = one.model_copy(update={"lines": (*one.lines, *second.lines)})
        self.assertIsNone(likeliest(DISTANCE, both))

    def test_its_box_is_around_the_measure_alone(self) -> None:
        found = likeliest(DISTANCE, plan(("to high water 18 m", 0.1, 0.5)))
        assert found
        self.assertEqual((found.page, found.box), (1, (0.24, 0.5, 0.28, 0.52)))

    def test_areas_and_sides(self) -> None:
        for text, area in (
            ("floor area 95.8 m²", "95.8"),
            ("floor area 95,8 m2", "95.8"),
            ("floor area 40 sqm", "40"),
            ("floor area 0.5 ha", "5000.0"),
            ("workshop 13.3 x 7.2 m", "95.76"),
            ("workshop 1330 × 720 cm", "95.7600"),
            ("workshop 13 m", None),
        ):
            with self.subTest(text):
                found = likeliest(AREA, plan((text, 0.1, 0.5)))
                self.assertEqual(str(found.value) if found else None, area)

    @given(st.text(max_size=60))
    def test_no_text_breaks_it(self, text: str) -> None:
        line = TextLine(page=1, text=text, box=(0.1, 0.1, 0.2, 0.2))
        for kind in ("length", "area"):
            for fact, (start, end) in measures(line, kind):
                self.assertEqual(text[start:end], fact.text)

    def test_scales_and_title_blocks(self) -> None:
        self.assertEqual(scale_words(plan(("Scale 1 : 200", 0.1, 0.1)), ["1:200", "1:500"]), ("1:200",))
        self.assertEqual(scale_words(plan(("1:2000 and 11:200", 0.1, 0.1)), ["1:200"]), ())
        self.assertEqual(any_scale(plan(("drawn 1:1250", 0.1, 0.1))), "1:1250")
        self.assertTrue(has_title_block(plan(("Drawing 4, rev B", 0.7, 0.9))))
        self.assertFalse(has_title_block(plan(("Drawing 4, rev B", 0.1, 0.1))))
        self.assertFalse(has_title_block(plan(("Smith and sons", 0.7, 0.9))))


class Names(unittest.TestCase):
    def test_as_a_clerk_would(self) -> None:
        for one, other, alike in (
            ("Odalys Renn", "Renn, Odalys", True),
            ("O. Renn", "Odalys Renn", True),
            ("Odalys M. Renn", "Odalys Maria Renn", True),
            ("ODALYS RENN", "odalys renn", True),
            ("Zoë Ångström", "Zoe Angstrom", True),
            ("Dr Odalys Renn", "Odalys Renn", True),
            ("O. Renn-Aldous", "Odalys Renn", False),
            ("Bjørn Strauß", "Bjorn Strauss", True),
            ("O. R.", "Odalys Renn", False),
            ("Odalys Renn", "Odalys Oake", False),
            ("Bram Tarrow", "Odalys Renn", False),
            ("", "Odalys Renn", False),
            ("!!", "!!", False),
        ):
            with self.subTest(one=one, other=other):
                self.assertEqual(same_name(one, other), alike)
                self.assertEqual(same_name(other, one), alike)

    def test_the_spelling_of_passports(self) -> None:
        for one, other in (
            ("Jürgen Müller", "JUERGEN MUELLER"),
            ("Jürgen Müller", "Jurgen Muller"),
            ("Søren Åberg", "SOEREN AABERG"),
            ("Seán O’Dowd", "SEAN ODOWD"),
            ("Ana de la Cruz", "DELACRUZ<ANA".replace("<", " ")),
            ("Mary-Jane Holt", "Maryjane Holt"),
            ("Щербаков Юрий", "IURII SHCHERBAKOV"),
            ("Γιώργος Μάρκου", "GIORGOS MARKOY"),
            ("Tolly & Sons Ltd", "Tolly and Sons Limited"),
        ):
            with self.subTest(one=one, other=other):
                self.assertEqual((compared(one, other).verdict, compared(other, one).verdict), ("same", "same"))

    def test_what_wants_a_look_rather_than_a_refusal(self) -> None:
        for one, other, verdict, why in (
            ("Anna Holt née Brook", "Anna Brook", "look", "maiden"),
            ("Anna Holt (born Brook)", "Brook, Anna", "look", "maiden"),
            ("Anna Holt née Brook", "Anna Holt", "same", ""),
            ("Anna Holt", "Anna Brook", "look", "may have changed"),
            ("Holt, Anna", "Anna Brook", "look", "may have changed"),
            ("Odalys Renn", "Odalis Renn", "look", "odalys, odalis"),
            ("Jurgen Muller", "Juergen Mueller", "look", "marks"),
            ("Anna Holt", "Berta Holt", "other", ""),
            ("A. Holt", "A. Brook", "other", ""),
            ("Ann Holt", "Anne Holm", "other", ""),
        ):
            with self.subTest(one=one, other=other):
                found = compared(one, other)
                self.assertEqual((found.verdict, compared(other, one).verdict), (verdict, verdict))
                self.assertIn(why, found.why)

    @given(st.text(max_size=30), st.text(max_size=30))
    def test_either_way_round_it_is_the_same(self, one: str, other: str) -> None:
        self.assertEqual(same_name(one, other), same_name(other, one))


class Agreement(unittest.TestCase):
    def look(self, distance: str | None, shown: str | None, registered: str | None) -> AgreementView:
        agree = next(a.agree for a in FULL.agrees if a.agree.id == "distance-agrees")
        works = {} if distance is None else {"distance": distance}
        sheet = read_answers(FULL, {"works": works}, at(2026, 11, 5).date(), at(2026, 11, 5).date())
        files = () if shown is None else (Attachment(id="a1", slot="site_plan", name="p.pdf", sha256="a" * 64, size=1),)
        reading = plan((shown or "", 0.2, 0.5)) if shown else plan()
        row = None if registered is None else {"to_water": registered}
        asked = {"plots": RegisterAsked(at=at(2026, 11, 5), who="x", role="officer", name="plots", key="Q-1", row=row)}
        by_slot = {a.slot: [a] for a in files}
        return agreement(agree, sheet, by_slot, {"a" * 64: reading}, asked).view()

    def test_who_is_the_odd_one_out(self) -> None:
        for distance, shown, registered, holds, odd in (
            ("18", "18 m to high water", "18.3", True, []),
            ("18", "11 m to high water", "11", False, [0]),
            ("18", "18 m to high water", "11", False, [2]),
            ("18", "23 m to high water", "11", False, [0, 1, 2]),
            ("18", "no measure", "18.5", True, []),
            ("18", "no measure", "18.6", False, [0, 2]),
            ("18", None, "", None, []),
            (None, "18 m to high water", "18", True, []),
        ):
            with self.subTest(distance=distance, shown=shown, registered=registered):
                table = self.look(distance, shown, registered)
                self.assertEqual(table.holds, holds)
                self.assertEqual([n for n, s in enumerate(table.statements) if s.odd], odd)

    def test_what_is_not_there_says_so(self) -> None:
        table = self.look(None, None, None)
        self.assertEqual([s.said for s in table.statements], ["not answered", "nothing attached", "no entry Q-1"])
        self.assertEqual(self.look("18", "no measure", "x").statements[1].said, "not found")
        self.assertEqual(self.look("18", "no measure", "x").statements[2].said, "it does not say")

    def test_what_all_others_state_is_offered(self) -> None:
        for distance, shown, registered, offered in (
            (None, "18.0 m to high water", None, [("18", "18.0 m", "Site plan, to scale, sheet 1")]),
            (None, "18 m to high water", "18.3", [("18", "18.0 m", "Site plan, to scale, sheet 1")]),
            ("42", None, "11.2", [("11.2", "11.2 m", "Land register")]),
            ("18.3", "18 m to high water", "18.3", []),  # it agrees
            ("42", "18 m to high water", "11.2", []),  # they do not agree among themselves
            ("42", "no measure", None, []),
        ):
            with self.subTest(distance=distance, shown=shown, registered=registered):
                offers = self.look(distance, shown, registered).offers
                self.assertEqual([(o.raw, o.said, o.source) for o in offers], offered)
                self.assertEqual({o.place for o in offers}, {"works.distance"} if offered else set())

    def test_tolerances_at_their_edge(self) -> None:
        def agree(kind: str, within: str | None = None) -> Agree:
            given_ = {
                "id": "x",
                "title": "x",
                "part": "x",
                "says": "x",
                "places": ["a", "b"],
                "as": kind,
                "article": "1",
                "within": within,
            }
            return Agree.model_validate(given_)

        for kind, within, one, other, alike in (
            ("length", None, "18", "18.5", True),
            ("length", None, "18", "18.51", False),
            ("length", "0.1", "18", "18.2", False),
            ("area", None, "100", "99", True),
            ("area", None, "100", "98.9", False),
            ("area", "5", "100", "95", True),
            ("money", None, "10.00", "10", True),
            ("money", None, "10.00", "10.01", False),
        ):
            with self.subTest(kind=kind, other=other):
                self.assertEqual(same(agree(kind, within), Decimal(one), Decimal(other)), alike)
        self.assertTrue(same(agree("text"), "4  Saltern Slip", "4 saltern slip."))
        self.assertFalse(same(agree("text"), "4 Saltern Slip", "5 Saltern Slip"))
