"""Every type of question: what is taken, what is refused and in which words; and what differs between two versions."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.core.dossier.answers import AnswerFault, asks_back, is_open, read_date, typed
from jolly_clerk.core.dossier.differences import differences, raw_answers, said_answer
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.rulebook.compiled import AskedQuestion
from jolly_clerk.core.rulebook.model import Part, Question
from tests.helpers import BW, PLAN, SECTIONS, answers, dossier

FILED = date(2026, 11, 5)
NARROW = "\u202f"


def question(kind: str, options: dict[str, str] | None = None, **more: Any) -> AskedQuestion:
    asked = Question.model_validate({"id": "q", "ask": "Question?", "type": kind, **more})
    return AskedQuestion(Part(id="p", title="Part", questions=[asked]), asked, "p.q", None, options or {})


def taken(kind: str, raw: Any, **more: Any) -> Any:
    return typed(question(kind, **more), raw, FILED)


class Taken(unittest.TestCase):
    def test_numbers(self) -> None:
        for raw, value in (
            ("95.8", "95.8"),
            ("31 000.00", "31000.00"),
            (f"31{NARROW}000.5", "31000.5"),
            ("\u00a01\u00a0000", "1000"),
            ("+4", "4"),
            (7, "7"),
            (95.8, "95.8"),
            ("0", "0"),
            ("00012", "12"),
        ):
            with self.subTest(raw=raw):
                self.assertEqual(taken("number", raw), Decimal(value))

    def test_money_always_has_its_cents(self) -> None:
        for raw, value in (("31000", "31000.00"), ("0.5", "0.50"), ("12.34", "12.34"), ("12.340", "12.34"), (7, "7.00")):
            with self.subTest(raw=raw):
                self.assertEqual(str(taken("money", raw)), value)

    def test_counts_are_whole(self) -> None:
        self.assertEqual(taken("count", "12"), Decimal(12))
        self.assertEqual(taken("count", "12.0"), Decimal(12))
        with self.assertRaisesRegex(AnswerFault, "give a whole number"):
            taken("count", "1.5")

    def test_dates(self) -> None:
        for raw in (
            "2026-11-05",
            "2026-11-5",
            "5 Nov 2026",
            "5 November 2026",
            "5.11.2026",
            "05.11.2026",
            "5 nov 2026",
            "5. 11. 2026",
        ):
            with self.subTest(raw=raw):
                self.assertEqual(taken("date", raw), date(2026, 11, 5))

    def test_yes_and_no(self) -> None:
        for raw, value in ((True, True), (False, False), ("yes", True), ("No", False), (" true ", True), ("FALSE", False)):
            with self.subTest(raw=raw):
                self.assertIs(taken("yes or no", raw), value)

    def test_lists(self) -> None:
        options = {"a": "Apple", "b": "Bread"}
        self.assertEqual(typed(question_of(options), "b", FILED), "b")
        several = question_of(options, "several of")
        self.assertEqual(typed(several, ["b", "a", "b"], FILED), ("b", "a"))
        self.assertEqual(typed(several, "a", FILED), ("a",))

    def test_text_is_trimmed_and_kept_in_any_script(self) -> None:
        for raw, value in (("  Łódź 4  ", "Łódź 4"), ("四 号", "四 号"), ("a\nb", "a\nb"), ("\u202eabc", "\u202eabc")):
            self.assertEqual(taken("long text", raw), value)

    @given(st.dates(date(1900, 1, 1), date(2200, 12, 31)))
    def test_a_date_that_is_written_is_read_again(self, day: date) -> None:
        for written in (day.isoformat(), f"{day.day}.{day.month}.{day.year}", f"{day.day} {day:%b} {day.year}"):
            self.assertEqual(read_date(written), day)

    @given(st.decimals(min_value=0, max_value=10**9, places=2))
    def test_an_amount_that_is_written_is_read_again(self, amount: Decimal) -> None:
        self.assertEqual(taken("money", f"{amount:,f}".replace(",", " ")), amount)


def question_of(options: dict[str, str], kind: str = "one of") -> AskedQuestion:
    return question(kind, options)


class AsPeopleWrite(unittest.TestCase):
    def test_numbers(self) -> None:
        for raw, unit, value in (
            ("95,8", "m²", "95.8"), ("95.8 m2", "m²", "95.8"), ("31 000,00", "", "31000.00"), ("€ 31,000.50", "", "31000.50"),
            ("31.000,50 EUR", "", "31000.50"), ("31.000.000", "", "31000000"), ("12'500", "", "12500"), ("-3,5", "m", "-3.5"),
            ("45 %", "%", "45"), ("3 M", "m", "3"), ("7:30", "h", "7.5"), ("7h45", "h", "7.75"), ("0,125", "", "0.125"), ("0.125", "", "0.125"),
        ):  # fmt: skip
            with self.subTest(raw=raw):
                more = {"unit": unit, "at_least": "-10", "decimals": "3"}
                self.assertEqual(taken("number", raw, **{k: v for k, v in more.items() if v}), Decimal(value))

    def test_a_point_before_three_digits_is_asked_about_and_read_as_before(self) -> None:
        asked = question("money", {})
        self.assertEqual(str(taken("money", "31.000")), "31.00")
        self.assertEqual(asks_back(asked.question, "31.000"), "Read as 31. If you mean 31 000, write it like that.")
        for raw in ("31.00", "0.125", "31.000.000", "31 000", 31, None):
            self.assertEqual(asks_back(asked.question, raw), "")

    def test_dates(self) -> None:
        for raw, value in (("25/12/2027", date(2027, 12, 25)), ("12/25/2027", date(2027, 12, 25)), ("3-3-2027", date(2027, 3, 3)), ("5.1.2027", date(2027, 1, 5))):  # fmt: skip
            self.assertEqual(taken("date", raw), value)


class Refused(unittest.TestCase):
    def test_each_with_what_would_be_right(self) -> None:
        for kind, raw, more, says in (
            ("number", "abc", {}, "“abc” is not a number."),
            ("number", "1,5,5", {}, "Write the decimals after a point"),
            ("number", "31,000", {}, "“31,000” can be 31 000 or 31. Write one of these."),
            ("date", "1/2/2027", {}, "“1/2/2027” can be 1 Feb 2027 or 2 Jan 2027. Write one of these."),
            ("date", "31/4/2027", {}, "is not a date"),
            ("number", "--1", {}, "is not a number"),
            ("number", "1.2.3", {}, "is not a number"),
            ("number", "NaN", {}, "is not a number"),
            ("number", "Infinity", {}, "is not a number"),
            ("number", True, {}, "is not a number"),
            ("number", [1], {}, "is not a number"),
            ("number", {"a": 1}, {}, "is not a number"),
            ("number", "-1", {}, "−1 is below 0"),
            ("number", "−1", {}, "−1 is below 0"),
            ("number", "4", {"at_least": "5", "unit": "m"}, "4 m is below 5 m"),
            ("number", "6", {"at_most": "5", "unit": "m"}, "6 m is above 5 m"),
            ("number", "1" * 21, {}, "too long to be meant"),
            ("number", "1.234", {}, "at most 2 decimals"),
            ("number", "1.23", {"decimals": "1"}, "at most 1 decimal."),
            ("money", "1.005", {}, "at most 2 decimals"),
            ("date", "", {}, "is not a date"),
            ("date", "2026-02-29", {}, "There is no 29 Feb 2026"),
            ("date", "31.4.2026", {}, "There is no 31 Apr 2026"),
            ("date", "1 Foo 2026", {}, "“Foo” is not a month"),
            ("date", "0.5.2026", {}, "There is no 0 May 2026"),
            ("date", "2026-00-10", {}, "there is no month 0"),
            ("date", "1.1.1899", {}, "years from 1900 to 2200"),
            ("date", "1.1.2201", {}, "years from 1900 to 2200"),
            ("date", "2026-11-06", {"not_after_filing": "true"}, "lies after the filing day, Thu 5 Nov 2026"),
            ("yes or no", "maybe", {}, "Answer yes or no."),
            ("yes or no", 1.5, {}, "Answer yes or no."),
            ("text", 7, {}, "Write this as text."),
            ("text", "x" * 501, {}, "This has 501 characters; at most 500 fit here."),
            ("text", "x" * 11, {"at_most": "10"}, "This has 11 characters; at most 10 fit here."),
            ("long text", "x" * 10_001, {}, "at most 10000 fit here"),
            ("mail address", "odalys at home", {}, "This is no mail address. Write it like name@place.example."),
            ("mail address", "odalys@", {}, "This is no mail address."),
            ("mail address", "a@b@c.example", {}, "This is no mail address."),
            ("mail address", "odalys,renn@harbour.example", {}, "This is no mail address."),
            ("mail address", "a@b\r\nBcc: all@harbour.example", {}, "This is no mail address."),
            ("mail address", f"{'x' * 190}@harbour.example", {}, "at most 200 fit here"),
            ("text", "a\x07b", {}, "cannot be printed"),
            ("text", "a\ud800b", {}, "cannot be printed"),
        ):
            with self.subTest(kind=kind, raw=str(raw)[:20]), self.assertRaises(AnswerFault) as caught:
                taken(kind, raw, **more)
            self.assertIn(says, str(caught.exception))

    def test_what_is_on_no_list(self) -> None:
        options = {"a": "Apple", "b": "Bread"}
        for raw in ("c", "Apple", "", None, 1, ["a"]):
            with self.subTest(raw=raw), self.assertRaisesRegex(AnswerFault, "Choose one of: Apple, Bread."):
                typed(question_of(options), raw, FILED)
        with self.assertRaises(AnswerFault):
            typed(question_of(options, "several of"), ["a", "z"], FILED)

    def test_open_is_not_the_same_as_no_or_nought(self) -> None:
        for raw in (None, "", "   ", []):
            self.assertTrue(is_open(raw))
        for raw in (False, 0, "0", "no", ["a"], {}):
            self.assertFalse(is_open(raw))


def with_files(*files: tuple[str, str, str, str]) -> Dossier:
    attached = tuple(Attachment(id=i, slot=s, name=n, sha256=h * 64, size=10) for i, s, n, h in files)
    return dossier().model_copy(update={"attachments": attached})


class Differences(unittest.TestCase):
    def told(self, before: Dossier, after: Dossier) -> list[tuple[str, str, str, str]]:
        return [(d.place, d.kind, d.was, d.now) for d in differences(BW, before, after)]

    def test_nothing_differs(self) -> None:
        self.assertEqual(self.told(dossier(), dossier()), [])

    def test_answers_are_told_in_words(self) -> None:
        after = dossier(works_area="82.1", place_role="tenant", works_begun_yet=True, works_estimate="5", works_distance=None)
        self.assertEqual(
            self.told(dossier(), after),
            [
                ("place.role", "answer", "I own the plot", "I rent the plot"),
                ("works.area", "answer", "95.8 m²", "82.1 m²"),
                ("works.estimate", "answer", "EUR 31\N{NO-BREAK SPACE}000.00", "EUR 5.00"),
                ("works.distance", "answer", "18 m", ""),
                ("works.begun_yet", "answer", "no", "yes"),
            ],
        )

    def test_the_same_answer_typed_otherwise_is_no_change(self) -> None:
        self.assertEqual(self.told(dossier(), dossier(place_listed=False)), [])

    def test_a_date_typed_otherwise_is_no_change(self) -> None:
        one, two = (dossier(works_begun_yet="yes", works_begun=raw) for raw in ("2026-11-01", "1 Nov 2026"))
        self.assertEqual(self.told(one, two), [])

    def test_files(self) -> None:
        before = with_files(("a1", "site_plan", "plan.pdf", "a"), ("a2", "sections", "roof.pdf", "b"))
        for after, told in (
            (
                with_files(("a3", "site_plan", "plan-c.pdf", "c"), ("a2", "sections", "roof.pdf", "b")),
                [("file replaced", "plan.pdf", "plan-c.pdf")],
            ),
            (with_files(("a2", "sections", "roof.pdf", "b")), [("file removed", "plan.pdf", "")]),
            (
                with_files(
                    ("a1", "site_plan", "plan.pdf", "a"),
                    ("a4", "site_plan", "second.pdf", "d"),
                    ("a2", "sections", "roof.pdf", "b"),
                ),
                [("file added", "", "second.pdf")],
            ),
            (with_files(("a9", "site_plan", "plan.pdf", "a"), ("a2", "sections", "roof.pdf", "b")), []),
            (
                with_files(("a1", "site_plan", "plan.pdf", "e"), ("a2", "sections", "roof.pdf", "b")),
                [("file replaced", "plan.pdf", "plan.pdf")],
            ),
        ):
            with self.subTest(told=told):
                self.assertEqual([(d.kind, d.was, d.now) for d in differences(BW, before, after)], told)

    def test_a_signature_that_is_new_or_gone(self) -> None:
        self.assertEqual(self.told(dossier(signed=False), dossier()), [("signature", "signature", "", "Odalys Renn")])
        self.assertEqual(self.told(dossier(), dossier(signed=False)), [("signature", "signature", "Odalys Renn", "")])

    def test_repeats_are_told_by_their_lasting_number(self) -> None:
        before = Dossier(answers={"net": [{"id": 1, "length": "3"}, {"id": 2, "length": "4"}]})
        after = Dossier(answers={"net": [{"id": 2, "length": "5"}]})
        self.assertEqual(raw_answers(before), {"net.1.length": "3", "net.2.length": "4"})
        self.assertEqual(self.told(before, after), [("net.1.length", "answer", "3", ""), ("net.2.length", "answer", "4", "5")])

    def test_what_was_answered_in_words(self) -> None:
        for place, raw, said in (
            ("works.use", "boathouse", "Boathouse or winch house"),
            ("works.area", "4", "4 m²"),
            ("works.begun", "2026-11-01", "Sun 1 Nov 2026"),
            ("works.begun", "soon", "soon"),
            ("works.listed", True, "True"),
            ("place.listed", True, "yes"),
            ("works.estimate", "3", "EUR 3.00"),
            ("works.estimate", "5000000.00", "EUR 5\N{NO-BREAK SPACE}000\N{NO-BREAK SPACE}000.00"),
            ("works.estimate", "much", "much"),
            ("works.use", "", ""),
        ):
            self.assertEqual(said_answer(BW, place, raw), said)

    @given(st.sampled_from(["area", "distance", "estimate", "what"]), st.integers(1, 99), st.integers(1, 99))
    def test_there_and_back_is_the_same_change_turned_round(self, key: str, one: int, two: int) -> None:
        a, b = (Dossier(answers=answers(**{f"works_{key}": str(n)})) for n in (one, two))
        forth, back = self.told(a, b), self.told(b, a)
        self.assertEqual([(p, k, now, was) for p, k, was, now in forth], back)
        self.assertEqual(bool(forth), one != two)
        self.assertNotEqual(PLAN, SECTIONS)
