"""Facts of the trade that were wrong: passport lines, claims, names, stays, spans without an end, credits, ages of papers, validity."""

from __future__ import annotations

import unittest
from datetime import date
from typing import Any

from pydantic import ValidationError

from jolly_clerk.core.fact_commands import FACTS
from jolly_clerk.core.facts.claims import read_claims
from jolly_clerk.core.facts.mrz import Mrz, read_mrz
from jolly_clerk.core.facts.names import compared
from tests.core.test_facts import td3

ON = date(2026, 11, 5)


def weights(text: str) -> str:
    """A check digit worked out here, not by the program: 7, 3, 1 over the signs, letters from A = 10."""
    worth = {c: n for n, c in enumerate("0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ")} | {"<": 0}
    return str(sum(worth[c] * (7, 3, 1)[n % 3] for n, c in enumerate(text)) % 10)


def card(number: str, born: str = "900211", expires: str = "310630", names: str = "RENN<<ODALYS") -> list[str]:
    """A card of three lines of 30, as Doc 9303 part 5 says: a long number goes on behind a filler, its digit is over the number alone."""
    rest = f"{number[9:]}{weights(number)}" if len(number) > 9 else ""
    upper = f"I<QUH{number[:9].ljust(9, '<')}{'<' if rest else weights(number)}{rest}".ljust(30, "<")
    middle = f"{born}{weights(born)}F{expires}{weights(expires)}QUH".ljust(29, "<")
    return [upper, middle + weights(upper[5:] + middle[:7] + middle[8:15] + middle[18:29]), names.ljust(30, "<")]


class PassportLines(unittest.TestCase):
    def read(self, lines: list[str]) -> Mrz:
        found = read_mrz(lines, ON)
        assert isinstance(found, Mrz), found
        return found

    def test_the_digit_of_a_long_number_is_over_the_number_alone(self) -> None:
        """The number of the specimen in Doc 9303 part 5: D23145890734 has the digit 9."""
        self.assertEqual(weights("D23145890734"), "9")
        found = self.read(card("D23145890734"))
        self.assertEqual((found.number, found.faults, all(found.checks.values())), ("D23145890734", (), True))

    def test_a_digit_in_a_name_a_nationality_or_an_issuer(self) -> None:
        for n, (old, new), field in (
            (0, ("RENN", "R3NN"), "name"),
            (1, ("QUH", "QU1"), "nationality"),
            (0, ("P<QUH", "P<Q0H"), "issuer"),
        ):
            lines = td3()
            lines[n] = lines[n].replace(old, new, 1)
            self.assertTrue(any(f"In the {field} stands" in f for f in self.read(lines).faults), field)

    def test_days_that_are_filled(self) -> None:
        for six, born in (("2611<<", "2026-11-??"), ("26<<<<", "2026-??-??"), ("2612<<", "1926-12-??"), ("26<<07", "2026-??-07")):
            self.assertEqual(self.read(card("A1234567", born=six)).born, born, six)
        for six in ("9013<<", "90<<32", "9000<<"):
            self.assertTrue(any("no such day" in f for f in self.read(card("A1234567", born=six)).faults), six)

    def test_an_expiry_fifty_years_ahead_lies_ahead(self) -> None:
        self.assertEqual(self.read(card("A1234567", expires="761105")).expires, "2076-11-05")

    def test_one_foreign_sign_spoils_its_own_field(self) -> None:
        lines = td3()
        lines[0] = lines[0].replace("ODALYS", "ODÁLYS")
        found = self.read(lines)
        self.assertEqual((found.number, found.born), ("QH1234567", "1990-02-11"))
        self.assertEqual([f for f in found.faults if "name" not in f], [])

    def test_what_one_changed_sign_would_put_right_is_proposed(self) -> None:
        lines = td3()
        lines[1] = lines[1].replace("1234567", "I234567", 1)
        found = self.read(lines)
        self.assertEqual(found.number, "QHI234567")
        self.assertEqual(found.repairs, ("If sign 3 of line 2 were 1 and not I, every check digit would fit.",))
        self.assertEqual(self.read(td3()).repairs, ())

    def test_a_name_that_fills_its_field_may_be_cut(self) -> None:
        self.assertTrue(self.read(td3(names="RENN<<ODALYS<MARIA<CHARLOTTE<WILHELMINA")).cut)
        self.assertFalse(self.read(td3()).cut)
        self.assertEqual(
            compared("Odalys Maria Charlotte Wilhelmin Renn", "Odalys Maria Charlotte Wilhelmina Renn", cut=True).verdict, "look"
        )

    def test_blanks_for_fillers(self) -> None:
        for lines in (td3(), card("A1234567")):
            with_blanks = [line.replace("<", " ") for line in lines]
            self.assertEqual(self.read(with_blanks).faults, (), with_blanks)


class Claims(unittest.TestCase):
    def counts(self, text: str) -> tuple[int, tuple[int, ...]]:
        found = read_claims(text)
        return found.count, found.independent

    def test_numbered_steps_inside_a_claim(self) -> None:
        for text in (
            "1. A method comprising:\n  1) heating,\n  2) cooling.\n2. The method of claim 1, wherein it is dry.",
            "1. A method comprising:\n1. heating,\n2. cooling,\n3. drying.\n2. The method of claim 1.",
            "1. A method comprising:\n    1. Heating,\n    2. Cooling.\n2. The method of claim 1.",
        ):
            self.assertEqual(self.counts(text), (2, (1,)), text)

    def test_cancelled_ones_are_not_counted(self) -> None:
        found = read_claims("1. A winch.\n2. (cancelled)\n3. [Deleted]\n4. The winch of claim 1.\n5. The winch of claim 2.")
        self.assertEqual((found.count, found.cancelled, found.gaps, found.missing), (3, (2, 3), (), (5,)))

    def test_line_numbers_in_the_margin(self) -> None:
        text = "1. A winch with a drum,\n   a pawl and\n5  a spring.\n2. The winch of claim\n   1, wherein the pawl\n10 is held.\n3. The winch of claim 1 or\n15 2."
        found = read_claims(text)
        self.assertEqual((found.count, found.independent, found.multiple), (3, (1,), (3,)))

    def test_a_page_number_inside_a_reference(self) -> None:
        found = read_claims("1. A winch.\n2. The winch as claimed in claim\n\n12\n\n1, wherein it holds.\n- 13 -\n3. A drum.")
        self.assertEqual([c.refers_to for c in found.claims], [(), (1,), ()])

    def test_a_number_that_goes_back_is_a_claim(self) -> None:
        found = read_claims("1. A winch.\n2. The winch of claim 1.\n3. A drum.\n2. A pawl.\n4. A rope.")
        self.assertEqual((found.count, found.repeated), (5, (2,)))

    def test_german_and_french(self) -> None:
        german = (
            "1. Winde mit einer Trommel.\n2. Winde nach Anspruch 1, dadurch gekennzeichnet, dass sie hält.\n"
            "3. Winde nach einem der Ansprüche 1 bis 2.\n4. Winde nach einem der vorhergehenden Ansprüche.\n5. Seil nach Anspruch 1 oder 2."
        )
        french = (
            "1. Treuil avec un tambour.\n2. Treuil selon la revendication 1, caractérisé en ce que il tient.\n"
            "3. Treuil selon les revendications 1 à 2.\n4. Treuil selon l'une quelconque des revendications précédentes.\n5. Corde selon la revendication 1 ou 2."
        )
        for text in (german, french):
            found = read_claims(text)
            self.assertEqual((found.count, found.independent, found.multiple, found.unread), (5, (1,), (3, 4, 5), False), text)

    def test_a_language_that_is_not_read_is_said(self) -> None:
        text = "1. Argano con un tamburo che gira sempre bene.\n2. Argano secondo la rivendicazione 1, caratterizzato dal fatto che tiene molto forte."
        self.assertTrue(read_claims(text).unread)


class Names(unittest.TestCase):
    def test_three_verdicts_each_with_its_true_reason(self) -> None:
        for one, other, verdict, why in (
            ("Tom Ashby", "Tom Ashby Jr.", "look", "“jr” stands on one side only"),
            ("Tom Ashby Sr", "Tom Ashby Jr", "look", "parent and child"),
            ("Ana Lopez-Garcia", "Ana Garcia", "look", "A part of the family name is missing on one side: lopez"),
            ("Ana Lopez Garcia", "Ana Lopez", "look", "A part of the family name is missing"),
            ("Lopez Garcia, Ana", "Ana Garcia", "look", "A part of the family name is missing"),
            ("Hans Peter Moor", "Peter Moor", "look", "The first of the given names is missing on one side: hans"),
            ("Hans Peter Moor", "Hans Moor", "same", "A middle name is missing on one side: peter"),
            ("Ann Holt née Reed", "Ann Holt née Sark", "look", "The names at birth differ: Reed, Sark."),
            ("Odalys Renn", "odalys renn", "same", "They have the same words."),
            ("Renn, Odalys", "Odalys Renn", "same", "They have the same words."),
            ("Renn Odalys", "Odalys Renn", "same", "in another order"),
            ("O. Renn", "Odalys Renn", "same", "An initial stands for a name"),
            ("Jürgen Müller", "JUERGEN MUELLER", "same", "as passports spell them"),
            ("Harbour Mutual Ltd", "Harbour Mutual", "same", "They have the same words."),
            ("Anna Holt", "Berta Holt", "other", "They do not share their words."),
        ):
            with self.subTest(one=one, other=other):
                for a, b in ((one, other), (other, one)):
                    found = compared(a, b)
                    self.assertEqual(found.verdict, verdict, found.why)
                    if (a, b) == (one, other):
                        self.assertIn(why, found.why)


class Commands(unittest.TestCase):
    def run_(self, name: str, **given: Any) -> dict[str, Any]:
        import json

        return FACTS[name].run(json.dumps(given)).model_dump(mode="json", by_alias=True)

    def test_days_used_before(self) -> None:
        stay = {"earlier": [{"from": "2026-10-01", "to": "2026-10-30"}], "planned": {"from": "2026-11-10", "to": "2026-11-20"}}
        told = self.run_("stays", **stay)
        self.assertEqual((told["before"], told["used"], told["most"]), (30, 31, 41))

    def test_without_an_end(self) -> None:
        going_on = self.run_("practice", periods=[{"from": "2026-01-01"}], on="2026-06-30")
        self.assertEqual(going_on["months"], 6)
        with self.assertRaisesRegex(ValueError, "give `on`"):
            self.run_("practice", periods=[{"from": "2026-01-01"}])
        cover = {"policies": [{"from": "2026-01-01", "amount": 5}], "from": "2026-02-01", "to": "2030-01-01", "least": 5}
        self.assertTrue(self.run_("cover", **cover)["covers"])
        stay = {"earlier": [{"from": "2026-11-01"}], "planned": {"from": "2026-11-10", "to": "2026-11-20"}}
        self.assertEqual(self.run_("stays", **stay)["before"], 9)

    def test_credits(self) -> None:
        records = [
            {"given": "2024-07-01", "credits": 8},
            {"given": "2026-06-30", "credits": "4.5"},
            {"given": "2026-07-01", "credits": 9},
        ]
        told = self.run_("credits", records=records, **{"from": "2024-07-01", "to": "2026-06-30"}, least=15)
        self.assertEqual((told["counted"], told["missing"], told["outside"]), ("12.5", "2.5", 1))
        with self.assertRaises(ValueError):
            self.run_("credits", records=[{"given": "2024-07-01", "credits": -1}], **{"from": "2024-07-01", "to": "2026-06-30"})

    def test_the_age_of_a_paper(self) -> None:
        for dated, on, within, last, in_time in (
            ("2026-08-05", "2026-11-05", "3 months", "2026-11-05", True), ("2026-08-04", "2026-11-05", "3 months", "2026-11-04", False),
            ("2026-11-05", "2026-11-05", "0 days", "2026-11-05", True), ("2026-10-29", "2026-11-05", "5 working days", "2026-11-05", True),
        ):  # fmt: skip
            told = self.run_("document-age", dated=dated, on=on, within=within)
            self.assertEqual((told["last_day"], told["in_time"]), (last, in_time), dated)
        self.assertEqual((self.run_("document-age", dated="2026-01-31", on="2026-11-05", within="1 year")["months"]), 9)
        with self.assertRaisesRegex(ValueError, "after"):
            self.run_("document-age", dated="2026-11-06", on="2026-11-05", within="1 day")

    def test_validity(self) -> None:
        for first, last, after, valid, missing in (
            (None, "2027-02-05", "3 months", True, 0), (None, "2027-02-04", "3 months", False, 1), (None, None, "", True, 0),
            ("2026-11-06", None, "", False, 1), ("2026-11-05", "2026-11-05", "", True, 0),
        ):  # fmt: skip
            told = self.run_("validity", **{"from": first, "to": last}, on="2026-11-05", after=after)
            self.assertEqual((told["valid"], told["missing_days"]), (valid, missing), (first, last))
        with self.assertRaises(ValidationError):
            self.run_("validity", on="tomorrow")
