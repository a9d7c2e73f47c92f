"""The tariff of each kind as a table worked by hand: what is answered, and each line with its sum, at every boundary and one beside it.

A row reads ``question=answer ... | line: sum = amount``. The sum is checked as well as the line, so a slip of the pen shows.
"""

from __future__ import annotations

import re
import unittest
from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

from jolly_clerk.core.fees.lines import FeeSheet
from jolly_clerk.core.fees.sheet import fee_sheet
from jolly_clerk.core.form import read_answers
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file
from tests.helpers import QUILLHAVEN

FILED = date(2026, 11, 5)

STALLS = """
stalls.1.pitch=fish_quay                                          | price: 48.00 * 5 = 240.00; levy: 6.50 * 5 = 32.50; vat: 32.50 * 0.20 = 6.50
stalls.1.pitch=tide_street                                        | price: 31.00 * 5 = 155.00
trade.island=near_skerry stalls.1.pitch=upper_green               | price: 18.00 * 5 = 90.00
licence.begins=2026-11-30                                         | price: 48.00 * 5 = 240.00
licence.begins=2026-12-01                                         | price: 48.00 * 4 = 192.00; levy: 6.50 * 4 = 26.00; vat: 26.00 * 0.20 = 5.20
licence.begins=2027-03-31                                         | price: 48.00 * 1 = 48.00; levy: 6.50 * 1 = 6.50; vat: 6.50 * 0.20 = 1.30
licence.begins=2027-04-01                                         | price: 48.00 * 12 = 576.00; levy: 6.50 * 12 = 78.00
licence.held=1                                                    | price: 48.00 * 1.50 * 5 = 360.00
licence.held=2                                                    | price: 48.00 * 2 * 5 = 480.00
licence.held=3                                                    | price: 48.00 * 2 * 5 = 480.00; levy: 6.50 * 5 = 32.50
holder.charity=yes holder.charity_number=C1                       | price: 48.00 * 5 / 2 = 120.00; levy: 6.50 * 5 = 32.50
licence.sort=short licence.days=28 licence.held=1                 | short: 12.00 = 12.00
"""
SURVEYORS = """
need.sort=first                                                   | assessment: 310.00 = 310.00; qualifications: 45.00 * 0 = 0.00
qualifications=1                                                  | qualifications: 45.00 * 0 = 0.00
qualifications=3                                                  | qualifications: 45.00 * 1 = 45.00
qualifications=4                                                  | qualifications: 45.00 * 2 = 90.00
service.speed=fast service.reason=post                            | fast: (310.00 + 0) * 0.50 = 155.00
qualifications=3 service.speed=fast service.reason=post           | fast: (310.00 + 45.00) * 0.50 = 177.50
need.sort=carried need.report=R1                                  | carried: 85.00 = 85.00
need.sort=carried need.report=R1 service.speed=fast service.reason=post | fast: 85.00 * 0.50 = 42.50
need.sort=field registered.number=S-0412                          | field: 45.00 = 45.00
@2026-06-30                                                       | registration: 190.00 / 2 * 1 = 95.00
@2026-07-01                                                       | registration: 190.00 / 2 * 2 = 190.00
@2026-12-31                                                       | registration: 190.00 / 2 * 2 = 190.00
@2027-01-01                                                       | registration: 190.00 / 2 * 1 = 95.00
"""
TOURS = """
persons.1.born=2009-03-01                                         | entry: 95.00 = 95.00; bond: 200.00 * 1 = 200.00
persons.1.born=2009-03-02                                         | entry: 45.00 = 45.00
persons.1.born=2015-03-01                                         | entry: 45.00 = 45.00
persons.1.born=2015-03-02                                         | entry: 0.00 = 0.00
persons=10                                                        | entry: 95.00 * 10 = 950.00; bond: 200.00 * 10 = 2000.00
persons=11                                                        | entry: min(95.00 * 11, 950.00) = 950.00; bond: 200.00 * 11 = 2200.00
persons=9                                                         | entry: 95.00 * 9 = 855.00
service.speed=fast                                                | fast: 140.00 * 1 = 140.00
service.speed=fast persons.1.born=2015-03-01                      | fast: 140.00 * 1 = 140.00
service.speed=fast persons=12                                     | fast: 140.00 * 12 = 1680.00
persons.1.departure=2027-08-31                                    | levy: 180.00 / 2 * 1 = 90.00
persons.1.departure=2027-09-01                                    | levy: 180.00 / 2 * 2 = 180.00
persons.1.departure=2028-02-29                                    | levy: 180.00 / 2 * 2 = 180.00
persons.1.departure=2028-03-01                                    | levy: 180.00 / 2 * 3 = 270.00
persons=2                                                         | levy: 180.00 / 2 * 1 * 2 = 180.00
"""
PATENTS = """
service.way=electronic                                            | filing: 140.00 = 140.00; search: 620.00 = 620.00
service.way=paper                                                 | filing: 180.00 = 180.00
count.claims=10                                                   | claims: 38.00 * 0 = 0.00; claims_over: 75.00 * 0 = 0.00
count.claims=11                                                   | claims: 38.00 * 1 = 38.00
count.claims=25                                                   | claims: 38.00 * 15 = 570.00; claims_over: 75.00 * 0 = 0.00
count.claims=26                                                   | claims: 38.00 * 15 = 570.00; claims_over: 75.00 * 1 = 75.00
count.claims=27                                                   | claims_over: 75.00 * 2 = 150.00
count.independent=2                                               | independent: 120.00 * 0 = 0.00
count.independent=3                                               | independent: 120.00 * 1 = 120.00
count.multiple=1                                                  | multiple: 95.00 = 95.00
count.multiple=2                                                  | multiple: 95.00 = 95.00
count.description=26                                              | pages: 7.00 * 0 = 0.00
count.description=27                                              | pages: 7.00 * 1 = 7.00
service.exam=now                                                  | examination: 480.00 = 480.00
service.exam_on=2027-05-05                                        | examination: 480.00 = 480.00
service.exam_on=2027-05-06                                        | examination: 720.00 = 720.00
applicant.size=small count.claims=26 service.exam=now             | filing: 140.00 / 2 = 70.00; search: 620.00 / 2 = 310.00; examination: 480.00 / 2 = 240.00; claims: 570.00 / 2 = 285.00; claims_over: 75.00 / 2 = 37.50
applicant.size=micro count.claims=27 count.independent=3 count.multiple=1 count.description=30 | filing: 140.00 / 4 = 35.00; search: 620.00 / 4 = 155.00; claims: 570.00 / 4 = 142.50; claims_over: 150.00 / 4 = 37.50; independent: 120.00 / 4 = 30.00; multiple: 95.00 / 4 = 23.75; pages: 7.00 * 4 = 28.00
"""
TRIALS = """
need.cuts=no                                                      | base: 1200.00 = 1200.00; further_sites: 260.00 * 0 = 0.00; further_arms: 150.00 * 0 = 0.00
need.cuts=yes                                                     | base: 1200.00 = 1200.00
need.cuts=yes need.dummy=yes                                      | base: 3400.00 = 3400.00
need.first_time=yes                                               | base: 5900.00 = 5900.00
sites=2                                                           | further_sites: 260.00 * 1 = 260.00
sites=3                                                           | further_sites: 260.00 * 2 = 520.00
trial.arms=2                                                      | further_arms: 150.00 * 0 = 0.00
trial.arms=3                                                      | further_arms: 150.00 * 1 = 150.00
trial.arms=4 sites=2 sponsor.sort=academic                        | base: 1200.00 * 0.30 = 360.00; further_sites: 260.00 * 0.30 = 78.00; further_arms: 300.00 * 0.30 = 90.00
need.change=yes need.cuts=yes need.dummy=yes                      | change: 3400.00 * 0.40 = 1360.00
need.change=yes need.children=yes sponsor.sort=academic           | change: 5900.00 * 0.40 * 0.30 = 708.00
"""
FILES = """
product.batches=3                                                 | file: 300.00 = 300.00
"""
TABLES = {
    "TL/2026-04-01": STALLS, "PL/2026-01-01": SURVEYORS, "QV/2026-06-01": TOURS, "IP/2026-01-01": PATENTS, "CT/2026-01-01": TRIALS,
    "CP/2026-01-01": FILES,
}  # fmt: skip


def reckoned(rulebook: Rulebook, said: str) -> FeeSheet:
    """The fee sheet of the edition's first example with what a row says put in; ``@day`` is the filing day, ``part=n`` so many repeats."""
    first = rulebook.edition.examples[0].dossier
    answers: dict[str, Any] = {p: [dict(i) for i in g] if isinstance(g, list) else dict(g) for p, g in first.items()}
    filed = FILED
    if "persons" in answers:  # one grown person, whom the rows change
        answers["persons"] = answers["persons"][:1]
    for piece in said.split():
        if piece.startswith("@"):
            filed = date.fromisoformat(piece[1:])
            continue
        place, value = piece.split("=")
        part, *deeper = place.split(".")
        if not deeper:
            answers[part] = [dict(answers[part][0]) for _ in range(int(value))]
        elif len(deeper) == 2:
            answers[part][int(deeper[0]) - 1][deeper[1]] = value
        else:
            answers.setdefault(part, {})[deeper[0]] = value
    return fee_sheet(read_answers(rulebook, answers, filed, filed, QUILLHAVEN))


def summed(said: str) -> Decimal:
    """A sum as it is written, rounded half up to the cent."""
    value = eval(re.sub(r"[\d.]+", r"D('\g<0>')", said), {"D": Decimal, "min": min, "__builtins__": {}})
    return Decimal(value).quantize(Decimal("0.01"), ROUND_HALF_UP)


class ByHand(unittest.TestCase):
    def test_every_line_of_every_table(self) -> None:
        checked = 0
        for edition, table in TABLES.items():
            rulebook = read_rulebook_file(SHIPPED / f"{edition}.yaml").rulebook
            told: set[str] = set()
            for row in table.strip().splitlines():
                said, _, lines = row.partition("|")
                sheet = {line.id: line.amount for line in reckoned(rulebook, said).lines}
                for line in lines.split(";"):
                    name, working = (piece.strip() for piece in line.split(":"))
                    worked, amount = (piece.strip() for piece in working.split("="))
                    with self.subTest(edition=edition, said=said.strip(), line=name):
                        self.assertEqual(summed(worked), Decimal(amount), "the sum is not what is written")
                        self.assertEqual(sheet[name], Decimal(amount))
                    told.add(name)
                    checked += 1
            by_time = {"late", "extension"}  # these hang on what happened since; the examples of the editions carry them
            self.assertEqual({line.line for line in rulebook.edition.fees} - told - by_time, set(), edition)
        self.assertGreater(checked, 80)
