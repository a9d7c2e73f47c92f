"""Two editions compared in words."""

from __future__ import annotations

import unittest

from jolly_clerk.core.rulebook.comparing import compare
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook, read_rulebook_file

OLD = SHIPPED / "BW" / "2025-07-01.yaml"
NEW = SHIPPED / "BW" / "2026-07-01.yaml"
TEXT = NEW.read_text("utf-8")


def told(*changes: tuple[str, str]) -> list[str]:
    """What differs when some of the text is replaced."""
    text = TEXT
    for old, new in changes:
        assert old in text, old
        text = text.replace(old, new, 1)
    return [str(c) for c in compare(read_rulebook_file(NEW).rulebook.edition, read_rulebook(text, "x.yaml").rulebook.edition)]


class Compared(unittest.TestCase):
    def test_the_two_shipped_editions(self) -> None:
        found = [str(c) for c in compare(read_rulebook_file(OLD).rulebook.edition, read_rulebook_file(NEW).rulebook.edition)]
        self.assertEqual(
            found,
            [
                "in force: was 2025-07-01, is 2026-07-01.",
                "Way in, low-fence, insist: new, True.",
                "Way in, small-shed, insist: new, True.",
                "Way in, plain-repair, insist: new, True.",
                "Tables, rates, article: was “Schedule 1”, is “Annex 1”.",
                "Fees, Plan examination, percent, rate: was 60, is 65.",
                "Fees, Plan examination, percent, after changes: new, False.",
                "Fees, Records levy: new.",
                "Refunds, withdrawn: was before checking, is before checking, within “5 working days”, share 100; before checking.",
                "Refunds, smallest: was 0, is 5.00.",
                'Clock, answers, printed: new, when “filer.post == "print"”, received “3 working days”, article 41(3).',
                "After the grant: new, begin within “24 months”, article 43(1), finish within “60 months”, article 43(2), remind 60; 14.",
                "Letters, permit reminder, subject: was “A day that comes nearer”, is “A day of your permit comes nearer”.",
            ],
        )

    def test_an_edition_does_not_differ_from_itself(self) -> None:
        self.assertEqual(told(), [])

    def test_each_kind_of_difference(self) -> None:
        for old, new, says in (
            (
                "built_of: timber, is: 465.00",
                "built_of: timber, is: 470.00",
                "Tables, rates, rows, workshop, timber: was 465.00, is 470.00.",
            ),
            ("within: 30 days", "within: 31 days", "Clock, answers, within: was “30 days”, is “31 days”."),
            ("remind: [7, 2]", "remind: [8]", "Clock, answers, remind: was 7; 2, is 8."),
            (
                "ask: Plot number",
                "ask: Number of the plot",
                "Parts, The place, questions, Plot number, ask: was “Plot number”, is “Number of the plot”.",
            ),
            ("    optional: true\n    accepts", "    accepts", "Documents, Photographs, optional: gone."),
            ("  - id: street-short", "  - id: street-brief", "Requirements, Street is used no longer than allowed: gone."),
        ):
            with self.subTest(says):
                extra = [("for: street-short", "for: street-brief")] if "brief" in new else []
                self.assertIn(says, told((old, new), *extra))

    def test_the_order_of_branches_is_a_difference(self) -> None:
        far = TEXT[TEXT.index("  - id: far-skerry") : TEXT.index("  - id: below-water")]
        found = told((far, ""), ("  - id: low-fence", far + "  - id: low-fence"))
        self.assertEqual(found, ["Way in: stands in another order."])
