"""Rulebook files: every fault at once, each with its line and the mend; the shipped ones have none."""

from __future__ import annotations

import json
import tempfile
import unittest
from pathlib import Path

import jsonschema

from jolly_clerk.core.rulebook.model import edition_schema
from jolly_clerk.core.rulebook.wording import every_text, form_texts, plain
from jolly_clerk.shelf.nodes import UnreadableRulebook, read_nodes
from jolly_clerk.shelf.rulebooks import SHIPPED, check_rulebook_file, editions_in, read_rulebook, read_rulebook_file
from tests.folders import new_folder
from tests.helpers import EDITION

TEXT = EDITION.read_text("utf-8")


def faults(*changes: tuple[str, str]) -> list[str]:
    """The faults of the shipped edition with some of its text replaced."""
    text = TEXT
    for old, new in changes:
        assert old in text, old
        text = text.replace(old, new, 1)
    try:
        read_rulebook(text, "x.yaml")
    except UnreadableRulebook as error:
        return [str(f) for f in error.faults]
    return []


def line_of(words: str) -> int:
    return next(n for n, line in enumerate(TEXT.splitlines(), 1) if words in line)


class Shipped(unittest.TestCase):
    def test_every_shipped_edition_is_without_fault(self) -> None:
        files = editions_in(SHIPPED)
        self.assertEqual([f.stem for f in files if f.parent.name == "BW"], ["2025-07-01", "2026-07-01"])
        for file in files:
            rulebook = read_rulebook_file(file).rulebook
            self.assertTrue(rulebook.lines or rulebook.step)

    def test_it_has_what_the_form_needs(self) -> None:
        rulebook = read_rulebook_file(EDITION).rulebook
        self.assertEqual(len(rulebook.parts), 3)
        self.assertGreaterEqual(len(rulebook.questions), 7)
        self.assertEqual([s for s, c in rulebook.slots.items() if c.when], ["consent"])
        self.assertEqual(len(rulebook.slots), 3)

    def test_every_text_names_only_what_there_is(self) -> None:
        rulebook = read_rulebook_file(EDITION).rulebook
        for target in [*rulebook.slots, *(m.must.id for m in rulebook.musts), "answer", "signature", "fee"]:
            self.assertTrue(rulebook.reasons_for(target), f"no reason words a point about {target}")

    def test_it_fits_its_json_schema(self) -> None:
        jsonschema.Draft202012Validator.check_schema(edition_schema())
        json.dumps(edition_schema())


class Faults(unittest.TestCase):
    def test_an_unknown_name_is_found_with_its_line(self) -> None:
        found = faults(("when: works.distance <= 30.0", "when: works.distnace <= 30.0"))
        self.assertEqual(len(found), 1)
        self.assertTrue(found[0].startswith(f"x.yaml:{line_of('when: works.distance')}:"), found)
        self.assertIn("did you mean `works.distance`?", found[0])

    def test_all_faults_at_once(self) -> None:
        found = faults(
            ("when: works.distance <= 30.0", "when: works.distance <= yes"),
            ("when: place.listed", "when: place.listing"),
            ("percent: {of: permit, rate: 65}", "percent: {of: licence, rate: 65}"),
            ("for: sections, title: Nothing", "for: section, title: Nothing"),
            ("options: roles", "options: rolls"),
        )
        self.assertEqual(len(found), 5, found)

    def test_each_kind_of_fault(self) -> None:
        for change, says in (
            (("in_force: 2026-07-01", "in_force: 2026-02-30"), "in_force"),
            (("currency: EUR", "colour: red\ncurrency: EUR"), "`colour` is no key of an edition"),
            (("currency: EUR", "grants: A Licence!\ncurrency: EUR"), "grants: write what is granted in small letters"),
            (("currency: EUR", "keep: 10 office hours\ncurrency: EUR"), "keep: a case is kept for days, weeks, months or years"),
            (("currency: EUR", "about: a\x00b\ncurrency: EUR"), "holds a character that no text holds (U+0000)"),
            (("currency: EUR", "keep: ever\ncurrency: EUR"), "keep: “ever” is no period"),
            (("currency: EUR", "grant: licence\ncurrency: EUR"), "did you mean `grants`?"),
            (('    article: "30(4)"\n', ""), "`article` is missing in a fee line"),
            (("within: 10 working days", "within: ten days"), "write the number in figures: `10 days`"),
            (("{up_to: 50000,", "{up_to: 20000,"), "is not above 25000"),
            (("{above: 1000000, per", "{above: 900000, per"), "begins above 900000, but the one before ends at 1000000"),
            (("        - {above: 1000000, per_started: 1000, adds: 2.60}\n", ""), "no band says what holds above 1000000"),
            (("flat: 120.00", "flat: 120.00\n    amount: works.distance"), "this says `flat` and `amount`"),
            (("times: 2, article: \"31(1)\"", "article: \"31(1)\""), "a change says one of `times`"),
            (("- line: levy", "- line: permit"), "stands twice"),
            (("at: [place.role]", "at: [place.rule]"), "is no place"),
            (("part: works\n    says: The own", "part: work\n    says: The own"), "no part is called 'work'"),
            (("says: \"Send a section", "says: \"{works.colour} Send a section"), "`works` has no `colour`"),
            (("when: works.begun_yet", "when: works.begun < case.filed"), "a circle: works.begun needs works.begun"),
            (("- {use: workshop, built_of: masonry, is: 612.00}", "- {use: workshop, built_of: timber, is: 612.00}"), "stands twice"),
            (("is: 612.00", "is: much"), "“much” is no number"),
            (("rule: max(works.estimate, reference_value)", "rule: max(works.estimate, works.what)"), "compares values of one type"),
            (("accepts: {formats: [pdf], files: 1 to 3, size: 20 MB, sheet: A3}", "accepts: {formats: [pdf], files: some, size: 20 MB}"), "“some” is not understood at `files`"),
        ):  # fmt: skip
            with self.subTest(says):
                found = faults(change)
                self.assertTrue(any(says in f for f in found), found)
                self.assertTrue(all(f.startswith("x.yaml:") for f in found))

    def test_what_yaml_would_silently_change(self) -> None:
        for text, line, says in (
            ("kind: BW\nreasons:\n  - {id: a, says: Send it, please}\n", 3, "the comma before “please” splits the sentence"),
            ('kind: BW\nwhen: "fast" == service.speed\n', 2, "a condition that begins with a quote is cut short"),
            ("kind: BW\nkind: QV\n", 2, "stands twice"),
            ("a: &x [1]\nb: *x\n", 1, "references to other places"),
            ("- just\n- a list\n", 1, "begins with keys"),
            ("kind: [BW\n", 1, "a `]` is missing"),
        ):
            with self.subTest(text), self.assertRaises(UnreadableRulebook) as caught:
                read_nodes(text, "x.yaml")
            self.assertTrue(any(f.line == line and says in f.message for f in caught.exception.faults), caught.exception)

    def test_scalars_stay_text(self) -> None:
        nodes = read_nodes("article: 9.10\nyes: no\nbig: 0x10\n", "x.yaml")
        self.assertEqual(nodes.value, {"article": "9.10", "yes": "no", "big": "0x10"})
        self.assertEqual(nodes.line(("big",)), 3)


REPEATS = """
kind: ZZ
title: Net drying
about: For nets.
law: Net Order
in_force: 2026-01-01
currency: EUR
calendar: quillhaven
incomplete_filing: refuse
case_title: Nets
lists: {}
parts:
  - id: net
    title: The nets
    each: true
    questions:
      - {id: length, ask: How long?, type: number, unit: m}
      - {id: tarred, ask: Tarred?, type: yes or no}
      - {id: smell, ask: Does it smell?, type: yes or no, when: net.tarred}
values:
  - {id: all_length, title: All nets, rule: sum(n.length for n in net if not n.tarred), article: "1"}
signature: {text: Promised, article: "2"}
fees:
  - {line: drying, title: Drying, stage: at filing, amount: "2.50 * count(net) + 0.10 * sum(net.length)", article: "3"}
clock:
  check: {within: 5 working days, article: "4"}
  answers: {within: 14 days, article: "4"}
  pay: {within: 14 days, article: "4"}
  decision: {within: 10 working days, article: "4"}
letters:
  correction: {subject: s, opening: o, closing: c}
  complete: {subject: s, opening: o, closing: c}
"""


class Repeats(unittest.TestCase):
    def test_a_part_that_repeats_is_asked_and_counted_item_by_item(self) -> None:
        from datetime import date

        from jolly_clerk.core.fees.sheet import fee_sheet
        from jolly_clerk.core.form import read_answers

        rulebook = read_rulebook(REPEATS, "zz.yaml").rulebook
        nets = [{"id": 1, "length": "10", "tarred": "yes", "smell": "no"}, {"id": 3, "length": "4.5", "tarred": "no"}]
        sheet = read_answers(rulebook, {"net": nets}, date(2026, 11, 5), date(2026, 11, 5))
        self.assertEqual(str(sheet.values["all_length"]), "4.5")
        self.assertEqual([p for p in sheet.places_in("net") if sheet.asked[p] is True][-1], "net.3.tarred")
        self.assertIs(sheet.asked["net.3.smell"], False)
        # 2.50 × 2 + 0.10 × 14.5
        self.assertEqual(str(fee_sheet(sheet).lines[0].amount), "6.45")
        nets[1].pop("length")
        line = fee_sheet(read_answers(rulebook, {"net": nets}, date(2026, 11, 5), date(2026, 11, 5))).lines[0]
        self.assertEqual((line.state, line.depends_on), ("open", ("net.3.length",)))


class Choices(unittest.TestCase):
    """What reads well and never holds is a fault."""

    def test_a_choice_that_the_list_does_not_have(self) -> None:
        for old, new, says in (
            (
                'service.speed == "fast"',
                'service.speed == "fats"',
                '"fats" is no choice of service.speed, so this never holds; did you mean `"fast"`?',
            ),
            ('place.role != "owner"', 'place.role not in ["owner", "landlord"]', '"landlord" is no choice of place.role'),
            (
                'place.role != "owner"',
                '("x" == place.role)',
                '"x" is no choice of place.role, so this never holds; its choices are owner, tenant, agent',
            ),
        ):
            with self.subTest(new):
                self.assertTrue(any(says in f for f in faults((old, new))), faults((old, new)))

    def test_over_a_part_that_repeats(self) -> None:
        text = (SHIPPED / "BW" / "2026-07-01.yaml").read_text("utf-8").replace('p.task == "designer"', 'p.task == "drawer"')
        with self.assertRaises(UnreadableRulebook) as caught:
            read_rulebook(text, "x.yaml")
        self.assertIn('"drawer" is no choice of people.task', str(caught.exception))

    def test_a_table_without_the_row(self) -> None:
        row = "      - {use: store, built_of: glass, is: 290.00}\n"
        self.assertTrue(any("the table rates has no row for store, glass" in f for f in faults((row, ""))))

    def test_texts_that_are_not_chosen_are_left_alone(self) -> None:
        self.assertEqual(faults(("works.distance <= 30.0", 'works.what != "Nothing" and works.distance <= 30.0')), [])


class Advice(unittest.TestCase):
    """Worth a look, and no fault."""

    def told(self, *changes: tuple[str, str], file: Path = SHIPPED / "BW" / "2026-07-01.yaml") -> list[str]:
        text = file.read_text("utf-8")
        for old, new in changes:
            assert old in text, old
            text = text.replace(old, new, 1)
        with tempfile.TemporaryDirectory() as folder:
            other = Path(folder) / "x.yaml"
            other.write_text(text, "utf-8")
            return [str(a).removeprefix(f"{other}:").partition(" ")[2] for a in check_rulebook_file(other).advice]

    def test_the_shipped_editions_need_none(self) -> None:
        for file in editions_in(SHIPPED):
            told = [
                a.message
                for a in check_rulebook_file(file).advice
                if "after_changes" not in a.message or file.stem != "2025-07-01"
            ]
            self.assertEqual(told, [], file.name)  # the edition of 2025 stays as it was published

    def test_what_is_never_used(self) -> None:
        extra = "lists:\n  moons:\n    - {id: a, title: A}\n"
        self.assertIn("no question takes its choices from this list", self.told(("lists:\n", extra)))
        self.assertIn(
            "no rule looks into this", self.told(("works.area * rates(works.use, works.built_of)", "works.area * 465.00"))
        )
        value = 'values:\n  - {id: idle, title: Idle, rule: works.area * 2, article: "1"}\n'
        self.assertIn("idle is read by no rule and shown beside no question", self.told(("values:\n", value)))

    def test_what_is_not_said(self) -> None:
        self.assertIn("no reason words a point about street-short", self.told(("for: street-short", "for: start-later")))
        self.assertIn(
            "these questions name no article: need.island",
            self.told(('        article: "2(3)"\n      - id: sort', "      - id: sort")),
        )
        found = self.told(file=EDITION)
        self.assertTrue(any("plain words of the house" in f and "granted" in f for f in found), found)
        self.assertTrue(any(f.startswith("no reason words a point about") and "refused" in f for f in found), found)
        self.assertTrue(any("it carries no examples" in f for f in [str(a) for a in check_rulebook_file(EDITION).advice]))


class Languages(unittest.TestCase):
    TEXT = (SHIPPED / "TL" / "2026-04-01.yaml").read_text("utf-8")

    def test_every_text_of_the_stall_licence_is_said_in_portuguese(self) -> None:
        edition = read_rulebook(self.TEXT, "x.yaml").rulebook.edition
        self.assertEqual({plain(t) for t in edition.translations["pt"]}, every_text(edition))
        self.assertLess(set(form_texts(edition)), every_text(edition))
        self.assertEqual(edition.translations["pt"]["The stalls"], "As bancas")

    def test_a_text_that_the_form_does_not_have_is_refused(self) -> None:
        with self.assertRaises(UnreadableRulebook) as caught:
            read_rulebook(self.TEXT.replace('"The stalls": "As bancas"', '"The stands": "As bancas"'), "x.yaml")
        self.assertEqual(
            [f.message for f in caught.exception.faults],
            [
                "parts.title: “The stands” is translated (pt), and this text differs from it",
                "translations.pt.The stands: no text of the form reads “The stands”",
            ],
        )

    def test_a_text_that_is_not_said_is_told(self) -> None:
        file = new_folder() / "x.yaml"
        file.write_text(self.TEXT.replace('    "The stalls": "As bancas"\n', ""), "utf-8")
        told = [a.message for a in check_rulebook_file(file).advice]
        self.assertEqual(told, ["nothing says 'The stalls' in this language"])


class Schema(unittest.TestCase):
    def test_the_schema_beside_the_rulebooks_is_the_models(self) -> None:
        kept = json.loads((SHIPPED / "schema.json").read_text("utf-8"))
        self.assertEqual(kept, edition_schema(), "make it anew: jolly-clerk schema rulebook > rulebooks/schema.json")
