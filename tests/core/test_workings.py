"""What a working prints is the sum: worked out again over the printed text by a small calculator of its own."""

from __future__ import annotations

import os
import random
import re
import unittest
from decimal import ROUND_CEILING, ROUND_FLOOR, ROUND_HALF_EVEN, ROUND_HALF_UP, Decimal
from typing import Any

from jolly_clerk.core.absence import is_absent
from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.fees.lines import Line
from jolly_clerk.core.history import NO_HISTORY
from jolly_clerk.core.in_words import number
from jolly_clerk.core.known import Known
from jolly_clerk.core.rulebook.compiled import CompiledLine, Rulebook
from jolly_clerk.shelf.rulebooks import SHIPPED, editions_in, read_rulebook_file
from tests.helpers import QUILLHAVEN, ROOT, at

#: dossiers an edition: few here, a thousand by ``make bench``
EACH = int(os.environ.get("JOLLY_CLERK_DOSSIERS", "150"))
#: words of the rule language that nobody should meet
LANGUAGE = re.compile(
    r"\b(round_up|round_down|round_to|started\(|count\(|sum\(|max\(|min\(|asked\(|not yes|is first|true|false)\b|\+ −|− −|\(\)"
)


def without_notes(text: str) -> str:
    """The formula alone: what stands in square brackets explains a number."""
    depth, kept = 0, []
    for sign in text:
        depth += sign == "["
        if not depth:
            kept.append(sign)
        depth -= sign == "]"
    return "".join(kept)


class Calculator:
    """Works a printed formula out: numbers with units, + − × ÷, brackets, the higher and the lower of, % of."""

    def __init__(self, text: str) -> None:
        text = without_notes(text).replace("\u00a0", "")
        words = r"the (?:higher|highest|lower|lowest) of|% of|[+−×÷(),]|\d+(?:\.\d+)?|\band\b|[^\s+−×÷(),]+"
        self.tokens = [t for t in re.findall(words, text) if re.match(r"the |% of|[+−×÷(),]|\d|and$", t)]
        self.at = 0

    def peek(self) -> str:
        return self.tokens[self.at] if self.at < len(self.tokens) else ""

    def take(self) -> str:
        self.at += 1
        return self.tokens[self.at - 1]

    def whole(self) -> Decimal:
        value = self.sum()
        if self.peek():
            raise ValueError(f"{self.peek()!r} is left of {self.tokens}")
        return value

    def sum(self) -> Decimal:
        value = self.product()
        while self.peek() in ("+", "−"):
            value = value + self.product() if self.take() == "+" else value - self.product()
        return value

    def product(self) -> Decimal:
        value = self.single()
        while self.peek() in ("×", "÷", "% of"):
            sign = self.take()
            other = self.single()
            value = value * other if sign == "×" else value / other if sign == "÷" else value * other / 100
        return value

    def single(self) -> Decimal:
        token = self.take()
        if token == "−":
            return -self.single()
        if token == "(":
            value = self.sum()
            assert self.take() == ")"
            return value
        if token.startswith("the "):
            values = [self.sum()]
            while self.peek() in (",", "and"):
                self.take()
                values.append(self.sum())
            return max(values) if "high" in token else min(values)
        return Decimal(token)


_WAYS = {"up to": ROUND_CEILING, "down to": ROUND_FLOOR, "to": ROUND_HALF_UP, "even": ROUND_HALF_EVEN}
_STEP = re.compile(r", rounded (up to|down to|to) ([\d.]+)(, a half to the even one)?: (−?[\d.]+)")
_BOUND = re.compile(r", (at least|at most) (−?[\d.]+)")
_CHANGE = re.compile(
    r"^(×|\+|−|becomes|at least|at most) (.+?)( %)?(?:, rounded (?P<way>up to|down to|to) (?P<step>[\d.]+))? = (?P<after>−?[\d.]+): "
)


def plain(text: str) -> Decimal:
    return Decimal(text.replace("−", "-"))


def changed(does: str, amount: Decimal, figure: Decimal, percent: bool) -> Decimal:
    """An amount after one change."""
    if does in ("+", "−"):
        added = amount * figure / 100 if percent else figure
        return amount + added if does == "+" else amount - added
    return {"×": amount * figure, "becomes": figure, "at least": max(amount, figure), "at most": min(amount, figure)}[does]


def worked_out(text: str) -> Decimal:
    """The amount that a working comes to; AssertionError where a printed step is not what it says."""
    text = without_notes(text).replace("\u00a0", "")
    text, *items = text.split(" · ")
    for item in items:
        amount, _, how = item.partition(": ")
        assert worked_out(how) == plain(amount), item
    pieces = re.split(r"; (?=×|\+|− |becomes|at least|at most|waived)", text)
    amount = base_of(pieces[0])
    for piece in pieces[1:]:
        if piece.startswith("waived"):
            return Decimal(0)
        found = _CHANGE.match(piece)
        assert found, piece
        figure, after = Calculator(found[2]).whole(), plain(found["after"])
        exact = changed(found[1], amount, figure, bool(found[3]))
        if found["step"]:
            exact = (exact / Decimal(found["step"])).to_integral_value(_WAYS[found["way"]]) * Decimal(found["step"])
        assert abs(exact - after) <= Decimal("0.005"), f"{exact} is not {after}: {piece}"
        amount = after
    return amount


def base_of(text: str) -> Decimal:
    text = text.partition("; ")[0].replace(", fixed", "").partition(", because ")[0]
    bound, step = _BOUND.search(text), _STEP.search(text)
    head = text[: min(m.start() for m in (bound, step) if m)] if bound or step else text
    formula, equal, told = head.rpartition(" = ")
    amount = Calculator(formula if equal else head).whole()
    if equal:
        shown = plain(told.strip("… ").replace(" ", ""))
        assert abs(shown - amount) < (Decimal("0.000001") if "…" not in told else Decimal("0.0001")), (
            f"{formula} is {amount}, not {told}"
        )
        amount = amount if "…" in told else shown
    if step:
        to, way = Decimal(step[2]), _WAYS["even" if step[3] else step[1]]
        assert (amount / to).to_integral_value(way) * to == plain(step[4]), f"{amount} {step[0]}"
        amount = plain(step[4])
    if bound:
        limit = plain(bound[2])
        assert amount < limit if bound[1] == "at least" else amount > limit, text
        amount = limit
    return amount


def odd(rulebook: Rulebook, chance: random.Random) -> Dossier:
    """The dossier of an example with some answers made odd."""
    example = chance.choice(rulebook.edition.examples)
    answers: dict[str, Any] = {}
    for part, given in example.dossier.items():
        rows = [dict(r, id=str(n)) for n, r in enumerate(given, 1)] if isinstance(given, list) else [dict(given)]
        for row in rows:
            for q in rulebook.parts[part].questions:
                if chance.random() < 0.35:
                    new = value_for(q, rulebook, chance)
                    if new is not None:
                        row[q.id] = new
        answers[part] = rows if isinstance(given, list) else rows[0]
    return Dossier(answers=answers)


def value_for(q: Any, rulebook: Rulebook, chance: random.Random) -> Any:
    if q.type in ("number", "money"):
        return str(chance.choice(["0", "0.01", "1", "7.5", "33.33", "99.99", "1234.56", "25000", "777777.77"]))
    if q.type == "count":
        return str(chance.randint(0, 60))
    if q.type == "yes or no":
        return chance.random() < 0.5
    if q.type == "one of":
        return chance.choice(list(rulebook.edition.lists[q.options])).id
    if q.type == "hour":
        return f"{chance.randint(0, 23):02}:{chance.choice(['00', '07', '30'])}"
    return f"{chance.choice([2026, 2027])}-{chance.randint(1, 12):02}-{chance.randint(1, 28):02}" if q.type == "date" else None


def went_in(compiled: CompiledLine, a: Assessment) -> list[str]:
    """The numbers that a line is worked out from and that its working has to name."""
    if compiled.of is None or compiled.line.each or " if " in compiled.of.source or "(" in compiled.of.source:
        return []
    values = a.sheet.values
    names = [n for n in compiled.of.reads if n in a.rulebook.questions or n in a.rulebook.value_titles]
    return [number(values[n]) for n in names if not is_absent(values[n]) and isinstance(values[n], Decimal)]


class EveryEdition(unittest.TestCase):
    def check(self, line: Line, compiled: CompiledLine | None, a: Assessment) -> None:
        text = line.working()
        self.assertIsNone(LANGUAGE.search(text), text)
        if line.state == "settled" and line.amount is not None:
            try:
                self.assertEqual(worked_out(text), line.amount, text)
            except (AssertionError, ValueError, ArithmeticError, IndexError) as error:
                self.fail(f"{line.id} comes to {line.amount}, the working says otherwise ({error}): {text}")
            for told in went_in(compiled, a) if compiled else ():
                self.assertIn(told, text)
        elif line.state == "not asked":
            self.assertTrue(text.startswith(("not asked", "what it is")), text)

    def test_what_is_printed_is_the_amount(self) -> None:
        count = 0
        others = [*(ROOT / "tests" / "unseen").glob("*.yaml"), *(ROOT / "tests" / "editions" / "odd").glob("*.yaml")]
        for file in (*editions_in(SHIPPED), *sorted(others)):
            rulebook, chance = read_rulebook_file(file).rulebook, random.Random(file.stem + file.parent.name)
            for _ in range(EACH):
                a = assess(rulebook, odd(rulebook, chance), NO_HISTORY, Known(QUILLHAVEN), at(2026, 11, 5))
                lines = {compiled.line.line: compiled for compiled in rulebook.lines}
                for line in a.fees.lines:
                    compiled = lines.get(line.id.removesuffix(".rest"))  # None for what brings a sum to the coin
                    with self.subTest(edition=rulebook.edition.id, line=line.id):
                        self.check(line, compiled, a)
                    count += line.state == "settled"
        print(f"{count} workings of settled lines were worked out again")
        self.assertGreater(count, EACH * 10)


class TheCalculator(unittest.TestCase):
    def test_it_sees_a_wrong_working(self) -> None:
        good = "9.2 m [Length [x]] × 4.20 = 38.64"
        self.assertEqual(worked_out(good), Decimal("38.64"))
        for wrong in (
            "9.2 m × 4.20 = 38.65",
            "the higher of 0 and 40 − 30 × 1.10 = 11.00",
            "60 % of 60.00 = 36.01",
            "5.001 = 5.001, rounded to 0.01: 5.01",
        ):
            with self.assertRaises(AssertionError):
                worked_out(wrong)
        for right, amount in (
            ("the higher of 0 and (40 − 30) × 1.10 = 11.00", "11.00"), ("60 % of 60.00 = 36.00, at least 45.00", "45.00"),
            ("65 % of (489.50 + 0.10) = 318.24", "318.24"), ("5.001, rounded up to 0.50: 5.50", "5.50"),
            ("140.00 [since “x” is “y”]; − 50 % = 70.00: small (art. 3)", "70.00"), ("10 ÷ 3 = 3.333333…, rounded to 0.01: 3.33", "3.33"),
        ):  # fmt: skip
            self.assertEqual(worked_out(right), Decimal(amount), right)
