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
                "letters in: new, filer.language.",
                "Registers, plots, measures: new, works.distance.",
                "Registers, builders: new, title “Roll of builders”, key number, asked by people.number, columns number “Roll number”, "
                "name Name, trade Trade, until “Entered until”, remark Remark, inner remark, article 13(2).",
                "Way in, low-fence, insist: new, True.",
                "Way in, small-shed, insist: new, True.",
                "Way in, plain-repair, insist: new, True.",
                "Tables, rates, article: was “Schedule 1”, is “Annex 1”.",
                "Parts, Who is filing, questions, Your name or the name of your firm, stands as: new, Holder.",
                "Parts, Who is filing, questions, Your name or the name of your firm, profile: was name, is called.",
                "Parts, Who is filing, questions, In which language do you answer?, profile: new, language.",
                "Parts, Who is filing, questions, How should letters reach you?, profile: new, letters.",
                "Parts, The place, questions, Where are the works?, stands as: new, Place.",
                "Parts, The place, questions, What are you to the plot?, ask: was “What are you to the plot?”, is “Do you own the plot?”.",
                "Parts, The works, questions, What will you build or change?, stands as: new, Works.",
                "Parts, People on site, questions, Name, register: new, builders.name.",
                "Parts, People on site, questions, Number on the roll of builders, register: new, builders.number.",
                "Documents, Owner's consent, in the name of: new, place.owner.",
                "Requirements, Applicant may act for the owner, asks: new, “Show that you may act for the owner”.",
                "Requirements, Plot is on the land register, asks: new, “State the plot as on the land register”.",
                "Requirements, Works value is plausible, asks: new, “Say how the estimate was reckoned”.",
                "Requirements, Lowest floor is above the flood line, asks: new, “Raise the lowest floor”.",
                "Requirements, Fuel is kept only in what is anchored, asks: new, “Say where fuel is kept”.",
                "Requirements, Somebody answers for the plans, asks: new, “Name who answers for the plans”.",
                "Requirements, Street is used no longer than allowed, asks: new, “Shorten the use of the street”.",
                "Requirements, Works are not planned to begin at once, asks: new, “Give a later day for the beginning”.",
                "Fees, Plan examination, percent, rate: was 60, is 65.",
                "Fees, Plan examination, percent, after changes: new, False.",
                "Fees, Records levy: new.",
                "Refunds, withdrawn: was before checking, is before checking, within “5 working days”, share 100; before checking.",
                "Refunds, smallest: was 0, is 5.00.",
                'Clock, answers, printed: new, when “filer.post == "print"”, received “3 working days”, article 41(3).',
                "After the grant: new, begin within “24 months”, article 43(1), finish within “60 months”, article 43(2), remind 60; 14.",
                "Public register: new, enters decided, article 47.",
                "Inspections: new, visits id foundation, title Foundation, says “Before it is covered: depth, width and the ground beneath.”; "
                "id frame, title Frame, says “Before it is closed: posts, ties and the roof.”, after foundation; id final, title “Final "
                "inspection”, says “When all is done: as it was permitted, and safe to use.”, after frame, at 08:00; 10:00; 12:00; 14:00, "
                "lasts “2 hours”, again “20 working days”, free 1, repeated 60.00, article 45.",
                *["Reasons, Nothing attached, fits: new, missing."] * 8,  # a reason of each of eight documents
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
