"""Facts of the trade, each with its own table of cases, and as commands over JSON lines."""

from __future__ import annotations

import json
import unittest
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from typer.testing import CliRunner

from jolly_clerk.cli import app
from jolly_clerk.core.fact_commands import FACTS
from jolly_clerk.core.facts.claims import read_claims
from jolly_clerk.core.facts.mrz import Mrz, check_digit, read_mrz
from jolly_clerk.core.facts.spans import Policy, cover, practice, whole_months
from jolly_clerk.core.facts.stays import days_of, look

ON = date(2026, 11, 5)
D = date.fromisoformat


def digit(text: str) -> str:
    return f"{text}{check_digit(text)}"


def td3(
    number: str = "QH1234567",
    born: str = "900211",
    expires: str = "310630",
    optional: str = "",
    names: str = "RENN<<ODALYS<MARIA",
) -> list[str]:
    """A whole passport of 2 x 44 with every check digit right."""
    extra = optional.ljust(14, "<")
    lower = digit(number) + "QUH" + digit(born) + "F" + digit(expires) + (digit(extra) if optional else extra + "<")
    whole = check_digit(lower[:10] + lower[13:20] + lower[21:])
    return [f"P<QUH{names}".ljust(44, "<"), f"{lower}{whole}"]


def td2(number: str = "QH1234567", optional: str = "") -> list[str]:
    lower = digit(number) + "QUH" + digit("900211") + "M" + digit("310630") + optional.ljust(7, "<")
    return ["I<QUHOAKE<<TAMSIN".ljust(36, "<"), f"{lower}{check_digit(lower[:10] + lower[13:20] + lower[21:])}"]


def td1(number: str = "QH1234567", optional: str = "") -> list[str]:
    upper = "I<QUH" + (digit(number) + optional).ljust(25, "<") if len(number) == 9 else long_td1(number)
    middle = digit("900211") + "X" + digit("310630") + "QUH" + "<" * 11
    whole = check_digit(upper[5:30] + middle[:7] + middle[8:15] + middle[18:29])
    return [upper, f"{middle}{whole}", "PELL<<CORVIN".ljust(30, "<")]


def long_td1(number: str) -> str:
    """A number of more than nine signs: nine, a filler, the rest with the check digit over the number alone in the optional data."""
    head, rest = number[:9], number[9:]
    return ("I<QUH" + head + "<" + rest + str(check_digit(head + rest))).ljust(30, "<")


class Passports(unittest.TestCase):
    def read(self, lines: list[str], on: date = ON) -> Mrz:
        found = read_mrz(lines, on)
        assert isinstance(found, Mrz), found
        return found

    def test_all_three_sizes(self) -> None:
        for lines, size, surname, given_ in (
            (td3(), "TD3", "RENN", "ODALYS MARIA"),
            (td2(), "TD2", "OAKE", "TAMSIN"),
            (td1(), "TD1", "PELL", "CORVIN"),
        ):
            found = self.read(lines)
            self.assertEqual((found.size, found.surname, found.given, found.number), (size, surname, given_, "QH1234567"))
            self.assertEqual((found.born, found.expires, found.faults), ("1990-02-11", "2031-06-30", ()))
            self.assertTrue(all(found.checks.values()), found.checks)

    def test_the_weights(self) -> None:
        for text, right in (("520727", 3), ("AB2134<<<", 5), ("", 0), ("<<<<", 0), ("Z", 5)):
            self.assertEqual(check_digit(text), right)
        with self.assertRaises(ValueError):
            check_digit("a")

    def test_each_wrong_sign_is_found(self) -> None:
        lines = td3(optional="X77")
        for at in range(44):
            sign = lines[1][at]
            wrong = "8" if sign != "8" else "3"
            found = read_mrz([lines[0], lines[1][:at] + wrong + lines[1][at + 1 :]], ON)
            if at in (10, 11, 12, 20):  # nationality and sex have no check digit
                continue
            assert isinstance(found, Mrz)
            self.assertTrue(found.faults, at)

    def test_optional_data_may_have_a_filler_for_its_digit(self) -> None:
        self.assertTrue(self.read(td3()).checks["optional data"])
        self.assertEqual(self.read(td3(optional="X77")).optional, "X77")

    def test_a_long_number_goes_on_in_the_optional_data(self) -> None:
        found = self.read(td1("QH1234567ABC12"))
        self.assertEqual((found.number, found.faults), ("QH1234567ABC12", ()))

    def test_a_visa_has_no_digit_over_the_whole(self) -> None:
        lower = digit("QH1234567") + "QUH" + digit("900211") + "M" + digit("310630") + "ANYTHING".ljust(16, "<")
        found = self.read(["V<QUHRENN<<ODALYS".ljust(44, "<"), lower])
        self.assertEqual((found.document, "whole" in found.checks, found.faults), ("V", False, ()))

    def test_centuries(self) -> None:
        for born, on, right in (
            ("261105", ON, "2026-11-05"),
            ("261106", ON, "1926-11-06"),
            ("270101", ON, "1927-01-01"),
            ("000229", ON, "2000-02-29"),
            ("990101", ON, "1999-01-01"),
        ):
            self.assertEqual(self.read(td3(born=born), on).born, right)
        for expires, right in (
            ("310630", "2031-06-30"),
            ("990101", "1999-01-01"),
            ("200101", "2020-01-01"),
            ("750101", "2075-01-01"),
        ):
            self.assertEqual(self.read(td3(expires=expires)).expires, right)

    def test_days_that_are_not(self) -> None:
        self.assertIn("there is no such day", " ".join(self.read(td3(born="900230")).faults))
        self.assertEqual(self.read(td3(born="90<<<<")).born, "1990-??-??")
        self.assertEqual(self.read(td3(born="9002<<")).born, "1990-02-??")
        self.assertEqual(self.read(td3(born="<<<<<<")).born, "")

    def test_what_is_no_machine_readable_line(self) -> None:
        for lines in ([], ["X"], ["A" * 44], ["A" * 44, "B" * 43], ["A" * 30] * 2, ["É" * 44] * 2, ["A" * 50] * 3):
            self.assertIsInstance(read_mrz(lines, ON), str)

    @given(st.lists(st.text(alphabet="AZ09<", min_size=44, max_size=44), min_size=2, max_size=2))
    def test_no_lines_break_it(self, lines: list[str]) -> None:
        self.assertIsInstance(read_mrz(lines, ON), Mrz)


class Stays(unittest.TestCase):
    def test_a_table(self) -> None:
        for earlier, planned, used, most, over, earliest in (
            ([], ("2026-01-01", "2026-03-31"), 1, 90, None, "2026-01-01"),
            ([], ("2026-01-01", "2026-04-01"), 1, 91, "2026-04-01", None),
            ([("2026-01-01", "2026-01-30")], ("2026-02-10", "2026-04-10"), 31, 90, None, "2026-02-10"),
            ([("2026-01-01", "2026-01-30")], ("2026-02-10", "2026-04-11"), 31, 91, "2026-04-11", "2026-05-01"),
            ([("2026-01-01", "2026-03-31")], ("2026-04-01", "2026-04-01"), 91, 91, "2026-04-01", "2026-06-30"),
            ([("2026-01-01", "2026-03-31")], ("2026-06-29", "2026-06-29"), 91, 91, "2026-06-29", "2026-06-30"),
            ([("2026-01-01", "2026-03-31")], ("2026-06-30", "2026-06-30"), 90, 90, None, "2026-06-30"),
            (
                [("2026-01-01", "2026-01-10"), ("2026-01-05", "2026-01-20")],
                ("2026-01-20", "2026-01-21"),
                20,
                21,
                None,
                "2026-01-20",
            ),
        ):
            with self.subTest(earlier=earlier, planned=planned):
                found = look([(D(a), D(b)) for a, b in earlier], (D(planned[0]), D(planned[1])))
                self.assertEqual((found.used, found.most), (used, most))
                self.assertEqual(found.first_day_over, D(over) if over else None)
                self.assertEqual(found.earliest_entry, D(earliest) if earliest else None)

    def test_other_limits_and_what_cannot_be(self) -> None:
        self.assertEqual(look([], (D("2026-01-01"), D("2026-01-03")), 2, 10).first_day_over, D("2026-01-03"))
        with self.assertRaises(ValueError):
            days_of([(D("2026-01-02"), D("2026-01-01"))])
        with self.assertRaises(ValueError):
            days_of([(D("1026-01-02"), D("2026-01-01"))])

    @settings(max_examples=25)
    @given(st.lists(st.tuples(st.integers(0, 300), st.integers(0, 60)), max_size=4), st.integers(0, 300), st.integers(1, 20))
    def test_the_earliest_entry_is_lawful_and_the_day_before_is_not(
        self, spans: list[tuple[int, int]], wish: int, length: int
    ) -> None:
        base = D("2026-01-01")
        earlier = [(base + timedelta(a), base + timedelta(a + n)) for a, n in spans]
        first = base + timedelta(wish)
        entry = look(earlier, (first, first + timedelta(length - 1)), 30, 60).earliest_entry
        assert entry is not None
        past = days_of(earlier)

        def lawful(day: date) -> bool:
            spent = past | {day + timedelta(n) for n in range(length)}
            touched = [d for d in spent if day <= d <= day + timedelta(length + 60)]
            return all(sum(1 for s in spent if d - timedelta(59) <= s <= d) <= 30 for d in touched)

        self.assertGreaterEqual(entry, first)
        self.assertTrue(lawful(entry))
        if entry > first:
            self.assertFalse(lawful(entry - timedelta(1)))


SET = """
1. A self-draining oyster crate, having
a frame, and

a lid with 3. holes in it.
2. The crate of claim 1, wherein the lid is hinged.
3. The crate of claim 1 or 2, made of 2 parts.
4. The crate of any of claims 1 to 3, with a float.
5. A method of draining a crate.
6. The method of claim 5, repeated.
7. The method according to any one of the preceding claims, by night.
"""


class Claims(unittest.TestCase):
    def test_a_set(self) -> None:
        found = read_claims(SET)
        self.assertEqual((found.count, found.independent, found.multiple), (7, (1, 5), (3, 4, 7)))
        self.assertEqual([c.refers_to for c in found.claims], [(), (1,), (1, 2), (1, 2, 3), (), (5,), (1, 2, 3, 4, 5, 6)])
        self.assertEqual((found.gaps, found.repeated, found.forward, found.missing), ((), (), (), ()))
        self.assertEqual(found.multiple_on_multiple, (4, 7))
        self.assertIn("a lid with 3. holes in it", found.claims[0].text)

    def test_how_a_reference_is_written(self) -> None:
        for words, refers in (
            ("The crate of claim 1", (1,)),
            ("A crate as claimed in claims 1, 2 and 5", (1, 2, 5)),
            ("A crate as in claims 1-3 or 5", (1, 2, 3, 5)),
            ("A crate as in claim 1 or claim 4", (1, 4)),
            ("A crate as in claims 2 through 4", (2, 3, 4)),
            ("A crate according to one of the foregoing claims", (1, 2, 3, 4, 5)),
            ("A crate as in any preceding claim", (1, 2, 3, 4, 5)),
            ("A crate which the owner claims to float", ()),
            ("A crate with 2 claimed lids", ()),
            ("A crate as in claims 1, 2, and 4", (1, 2, 4)),
            ("A crate as in claims 1 & 3", (1, 3)),
            ("A crate as in claim 1, 2 or 3", (1, 2, 3)),
            ("A crate as in claim 1 and/or claim 3", (1, 3)),
            ("A crate of claim 1, 2 metres long", (1,)),
            ("A crate of claim 4 to 4.5 metres", (4,)),
        ):
            with self.subTest(words):
                text = "".join(f"{n}. A thing.\n" for n in range(1, 6)) + f"6. {words}."
                self.assertEqual(read_claims(text).claims[5].refers_to, refers)

    def test_what_is_wrong(self) -> None:
        found = read_claims(
            "1. A crate.\n2. The crate of claim 4.\n4. The crate of claim 4.\n4. Again.\n7. The crate of claim 6."
        )
        self.assertEqual((found.gaps, found.repeated, found.forward, found.missing), ((3, 5, 6), (4,), (2, 4), (7,)))

    def test_any_preceding_of_the_second_is_one(self) -> None:
        self.assertEqual(read_claims("1. A crate.\n2. A crate as in any preceding claim.").multiple, ())

    def test_brackets_and_the_word_itself(self) -> None:
        self.assertEqual(read_claims("Claim 1) A crate.\nClaim 2) The crate of claim 1.").count, 2)
        self.assertEqual(read_claims("Claim 1: A crate.\nClaim 2: The crate of claim 1.").count, 2)
        self.assertEqual(read_claims("1.A crate\n1.5 mm thick.\n2.The crate of claim 1.").independent, (1,))
        self.assertEqual(read_claims("").count, 0)

    @given(st.text(max_size=300))
    def test_no_text_breaks_it(self, text: str) -> None:
        found = read_claims(text)
        self.assertEqual(found.count, len(found.claims))


class Spans(unittest.TestCase):
    def test_whole_months(self) -> None:
        for first, last, months, days in (
            ("2026-03-01", "2026-08-31", 6, 0),
            ("2025-08-31", "2026-02-28", 5, 29),
            ("2026-01-01", "2026-01-30", 0, 30),
            ("2026-01-31", "2026-02-27", 0, 28),
            ("2026-01-31", "2026-03-02", 1, 0),
            ("2027-08-31", "2028-02-28", 5, 29),
            ("2026-01-01", "2026-12-31", 12, 0),
            ("2026-05-05", "2026-05-05", 0, 1),
        ):
            with self.subTest(first):
                self.assertEqual(whole_months(D(first), D(last)), (months, days))

    def test_practice_counts_overlaps_once(self) -> None:
        for periods, months, days in (
            ([("2026-01-01", "2026-03-31"), ("2026-02-01", "2026-04-30")], 4, 0),
            ([("2026-01-01", "2026-01-20"), ("2026-03-01", "2026-03-20")], 1, 10),
            ([("2026-01-01", "2026-01-31"), ("2026-02-01", "2026-02-28")], 2, 0),
            ([], 0, 0),
        ):
            found = practice([(D(a), D(b)) for a, b in periods])
            self.assertEqual((found.months, found.days), (months, days))
        with self.assertRaises(ValueError):
            practice([(D("2026-02-01"), D("2026-01-01"))])

    def test_cover(self) -> None:
        policies = [
            Policy(D("2026-01-01"), D("2026-03-31"), Decimal(250_000)),
            Policy(D("2026-04-01"), D("2026-06-30"), Decimal(300_000)),
            Policy(D("2026-06-01"), D("2026-12-31"), Decimal(100_000)),
        ]
        for first, last, least, gaps in (
            ("2026-02-01", "2026-06-30", 250_000, []),
            ("2026-02-01", "2026-06-30", 250_001, [("2026-02-01", "2026-03-31")]),
            ("2026-02-01", "2026-07-02", 250_000, [("2026-07-01", "2026-07-02")]),
            ("2025-12-31", "2026-01-01", 1, [("2025-12-31", "2025-12-31")]),
            ("2026-02-01", "2026-02-01", 900_000, [("2026-02-01", "2026-02-01")]),
        ):
            found = cover(policies, D(first), D(last), Decimal(least))
            self.assertEqual(found.gaps, tuple((D(a), D(b)) for a, b in gaps))
            self.assertEqual(found.covers, not gaps)


class Commands(unittest.TestCase):
    def lines(self, name: str, *given_: Any) -> list[dict[str, Any]]:
        text = "\n".join(g if isinstance(g, str) else json.dumps(g) for g in given_)
        done = CliRunner().invoke(app, ["fact", name], input=text)
        self.assertEqual(done.exit_code, 0, done.output)
        return [json.loads(line) for line in done.output.splitlines()]

    def test_one_line_in_one_line_out(self) -> None:
        self.assertEqual(
            self.lines("age", {"born": "2008-02-29", "on": "2026-02-28"})[0], {"years": 18, "next_birthday": "2027-02-28"}
        )
        told = self.lines(
            "names", {"one": "O. Renn", "other": "Renn, Odalys"}, {"one": "A"}, "{not json", {"one": "a", "other": "b"}
        )
        self.assertEqual([("error" in t) for t in told], [False, True, True, False])
        self.assertIn("other: Field required", told[1]["error"])
        self.assertEqual(
            self.lines("words", {"text": "Well-known, it's 3.5 m.\n\nTwo\fthree\f"})[0],
            {"words": 6, "pages": 2, "paragraphs": 3, "characters": 35},
        )
        self.assertEqual(self.lines("words", {"text": "  "})[0]["pages"], 0)
        self.assertTrue(self.lines("mrz", {"lines": td3(), "on": "2026-11-05"})[0]["all_right"])
        self.assertIn("two of 44", self.lines("mrz", {"lines": ["x"], "on": "2026-11-05"})[0]["trouble"])
        self.assertEqual(self.lines("claims", {"text": SET})[0]["independent"], [1, 5])
        spans = {"periods": [{"from": "2026-01-01", "to": "2026-03-31"}]}
        self.assertEqual(self.lines("practice", spans)[0]["months"], 3)
        whole = {"policies": [], "from": "2026-01-01", "to": "2026-01-02", "least": 1}
        self.assertEqual(self.lines("cover", whole)[0]["gaps"], [{"from": "2026-01-01", "to": "2026-01-02"}])
        self.assertIn("before it begins", self.lines("cover", {**whole, "to": "2025-01-01"})[0]["error"])
        stay = {"planned": {"from": "2026-01-01", "to": "2026-01-02"}}
        self.assertEqual(self.lines("stays", stay)[0]["most"], 2)
        self.assertIn("before the birth", self.lines("age", {"born": "2026-01-02", "on": "2026-01-01"})[0]["error"])

    def test_each_is_listed_with_its_schemas(self) -> None:
        done = CliRunner().invoke(app, ["fact", "--list"])
        listed = [json.loads(line) for line in done.output.splitlines()]
        self.assertEqual(
            [x["name"] for x in listed],
            ["names", "mrz", "stays", "claims", "practice", "cover", "credits", "document-age", "validity", "age", "words"],
        )
        for x in listed:
            self.assertIn("properties", x["in"])
            self.assertIn("properties", x["out"])
        self.assertEqual(CliRunner().invoke(app, ["fact", "moon"]).exit_code, 1)
        self.assertEqual(len(FACTS), 11)
