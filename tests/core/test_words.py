"""Values in words, references with their check letter, texts with braces."""

from __future__ import annotations

import unittest
from datetime import UTC, date, datetime
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.core.absence import NONE, UNKNOWN
from jolly_clerk.core.in_words import day, in_words, money, number, things
from jolly_clerk.core.reference import LETTERS, check_letter, is_reference, make_reference
from jolly_clerk.core.rulebook.scope import ExpressionError, Scope
from jolly_clerk.core.rulebook.texts import compile_text
from jolly_clerk.core.time.periods import Span

N = "\u00a0"


class Saying(unittest.TestCase):
    def test_numbers(self) -> None:
        for value, said in (
            ("0", "0"), ("7", "7"), ("1000", f"1{N}000"), ("44547.00", f"44{N}547.00"), ("1234567.8", f"1{N}234{N}567.8"), ("-5", "−5"),
            ("46.475", "46.475"), ("44547.000", f"44{N}547.00"), ("1.5000", "1.50"), ("0.0010", "0.001"), ("-1234.5", f"−1{N}234.5"),
        ):  # fmt: skip
            self.assertEqual(number(Decimal(value)), said)

    def test_money(self) -> None:
        for value, said in (("5", "5.00"), ("5.5", "5.50"), ("5.555", "5.555"), ("1000", f"1{N}000.00")):
            self.assertEqual(money(Decimal(value)), said)
        self.assertEqual(money(Decimal("438.18"), "EUR"), "EUR 438.18")

    def test_days_have_their_year_where_it_is_not_this_year(self) -> None:
        self.assertEqual(day(date(2026, 12, 1), date(2026, 1, 1)), "Tue 1 Dec")
        self.assertEqual(day(date(2027, 1, 4), date(2026, 12, 31)), "Mon 4 Jan 2027")
        self.assertEqual(day(date(2026, 12, 1)), "Tue 1 Dec 2026")

    def test_everything_else(self) -> None:
        for value, said in (
            (True, "yes"), (False, "no"), (NONE, "not asked"), (UNKNOWN, "not answered"), ("words", "words"), (("a", True), "a, yes"),
            (date(2026, 11, 5), "Thu 5 Nov 2026"), (datetime(2026, 11, 5, 9, 7, tzinfo=UTC), "Thu 5 Nov 2026 09:07"),
            (Span(months=3), "3 months"), (Span(months=1, days=2), "1 month and 2 days"), (Span(), "0 days"),
        ):  # fmt: skip
            self.assertEqual(in_words(value), said)

    def test_one_and_many(self) -> None:
        self.assertEqual([things(n, "file") for n in (0, 1, 2)], ["0 files", "1 file", "2 files"])
        with self.assertRaises(KeyError):
            things(2, "unicorn")

    @given(st.decimals(min_value=-(10**12), max_value=10**12, places=2))
    def test_what_is_said_is_what_is_meant(self, value: Decimal) -> None:
        self.assertEqual(Decimal(money(value).replace(N, "").replace("−", "-")), value)


class References(unittest.TestCase):
    def test_shape(self) -> None:
        self.assertRegex(make_reference("BW", 2026, 418), r"^BW-26-00418-[A-Z]$")
        for wrong in ("", "BW-26-418-K", "bw-26-00418-k", "BW-26-00418", "BW-26-00418-I", "BW-26-00418-K\n", "BW-2６-00418-K"):
            self.assertFalse(is_reference(wrong), wrong)

    @given(st.sampled_from(["BW", "QV", "IP", "CT"]), st.integers(2020, 2099), st.integers(1, 99_999))
    def test_a_reference_knows_itself(self, kind: str, year: int, running: int) -> None:
        made = make_reference(kind, year, running)
        self.assertTrue(is_reference(made))
        self.assertEqual(sum(is_reference(made[:-1] + letter) for letter in LETTERS), 1)

    @given(st.integers(2020, 2099), st.integers(1, 99_999), st.integers(0, 6), st.integers(1, 9))
    def test_every_single_wrong_digit_is_found(self, year: int, running: int, where: int, by: int) -> None:
        made = make_reference("BW", year, running)
        digits = [n for n, sign in enumerate(made) if sign.isdigit()]
        at = digits[where]
        self.assertFalse(is_reference(made[:at] + str((int(made[at]) + by) % 10) + made[at + 1 :]))

    @given(st.integers(2020, 2099), st.integers(1, 99_999), st.integers(0, 3))
    def test_every_swap_of_two_neighbours_is_found(self, year: int, running: int, where: int) -> None:
        made = make_reference("BW", year, running)
        at = 6 + where
        swapped = made[:at] + made[at + 1] + made[at] + made[at + 2 :]
        self.assertEqual(is_reference(swapped), swapped == made)

    def test_no_letter_can_be_taken_for_a_digit(self) -> None:
        self.assertEqual(len(set(LETTERS)), 23)
        self.assertFalse(set("IOQ") & set(LETTERS))
        self.assertIn(check_letter("BW", 26, 1), LETTERS)


class Texts(unittest.TestCase):
    SCOPE = Scope({"a.m": "number", "a.d": "date", "a.t": "text"})

    def fill(self, source: str, **values: object) -> str:
        known = {"a.m": Decimal("31000"), "a.d": date(2026, 11, 5), "a.t": "plan", **values}
        return compile_text(source, self.SCOPE, frozenset({"a.m"})).fill(known)

    def test_braces_name_answers(self) -> None:
        for source, said in (
            ("Send it.", "Send it."),
            ("{a.t} of {a.d}", "plan of Thu 5 Nov 2026"),
            ("EUR {a.m}", f"EUR 31{N}000.00"),
            ("{a.m * 2}", f"62{N}000"),
            ("on or after {a.d - months(3)}", "on or after Wed 5 Aug 2026"),
            ("", ""),
        ):
            self.assertEqual(self.fill(source), said)

    def test_what_is_absent_says_so(self) -> None:
        self.assertEqual(self.fill("{a.t}: {a.m}", **{"a.t": NONE, "a.m": UNKNOWN}), "not asked: not answered")

    def test_what_an_answer_says_is_never_a_rule(self) -> None:
        self.assertEqual(self.fill("{a.t}", **{"a.t": "{a.m} {__import__('os')}"}), "{a.m} {__import__('os')}")

    def test_a_brace_that_names_nothing_is_refused(self) -> None:
        for source in ("{a.x}", "{}", "{a.t", "{a.m +}"):
            if source == "{a.t":
                self.assertEqual(self.fill(source), "{a.t")
                continue
            with self.subTest(source), self.assertRaises(ExpressionError):
                compile_text(source, self.SCOPE)
