"""A rule-keeper writes an edition in the browser; it is checked as it is typed, tried, laid before a lead, and published."""

from __future__ import annotations

from datetime import timedelta

from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, Stale
from jolly_clerk.office.lifetimes import EDITION_AHEAD
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.rules import translating, trying_out, writing
from jolly_clerk.office.rules.rulebooks import edition_on
from tests.office.test_journey import Cases

BELLS = """
  - id: tower
    title: The tower
    questions:
      - {id: bells, ask: How many bells?, type: count, at_least: 1, at_most: 20, article: "2"}
documents: []"""


class Writing(Cases):
    sqlite_only = True  # the replay reads the folder of the office

    def setUp(self) -> None:
        super().setUp()
        self.petra = add_person(self.office, "petra", "Petra Lune", "rule-keeper", "petra@office.example")
        self.other = add_person(self.office, "olek", "Olek Dunn", "rule-keeper", "olek@office.example")
        self.berta = add_person(self.office, "berta", "Berta Quill", "lead", "berta@office.example")

    def kept(self, id_: str, *changes: tuple[str, str]) -> writing.WrittenEdition:
        written = writing.open_edition(self.office, self.petra, id_)
        text = written.text
        for was, now in changes:
            self.assertIn(was, text)
            text = text.replace(was, now, 1)
        return writing.keep(self.office, self.petra, id_, text, written.revision)

    def test_what_has_no_text_in_a_language_comes_first_with_its_line(self) -> None:
        id_ = writing.begin(self.office, self.petra, "", "BP")
        self.assertEqual([], translating.translations(self.office, self.petra, id_))
        told = 'translations:\n  pt:\n    "A new permit": "Uma licença nova"\n    "The permit": "A licença"\n'
        written = self.kept(id_, ("\nparts:", f"\n{told}\nparts:"))
        (found,) = translating.translations(self.office, self.petra, id_)
        said = {one.text: one.says for one in found.texts}
        self.assertEqual(("pt", "Uma licença nova", "A licença"), (found.language, said["A new permit"], said["The permit"]))
        self.assertEqual(len(said) - 2, found.missing)
        self.assertEqual(["", ""], [one.says for one in found.texts[: found.missing][:2]])
        self.assertTrue(all(one.says for one in found.texts[found.missing :]))
        lines = written.text.split("\n")
        for one in found.texts:
            with self.subTest(one.text):
                self.assertIn(one.text.split("{")[0].strip()[:20], " ".join(lines[one.line - 1 : one.line + 1]))
        with self.assertRaises(NotAllowed):
            translating.translations(self.office, self.imre, id_)
        self.kept(id_, ("flat: 10.00", "amount: 10.00 + tower.bell"))
        with self.assertRaises(NotReady):
            translating.translations(self.office, self.petra, id_)

    def test_a_translation_is_put_into_the_text_at_its_line_and_nothing_else_moves(self) -> None:
        told = 'translations:\n  pt:\n    "A new permit": "Uma licença nova"\n    "Long": >\n      two\n      lines\n'
        text = f"kind: BP\n# a comment\n{told}parts: []\n"

        def said(original: str, says: str, of: str = text, language: str = "pt") -> str:
            return translating.with_translation(self.petra, of, language, original, says)

        self.assertEqual(text.replace("Uma licença nova", r"Licença: \"nova\"", 1), said("A new permit", 'Licença:  "nova" '))
        new = said("The permit # 1", "A licença")
        self.assertEqual(text.replace("  pt:\n", '  pt:\n    "The permit # 1": "A licença"\n', 1), new)
        self.assertEqual(text, said("The permit # 1", "", of=new))
        self.assertEqual(text.replace('    "A new permit": "Uma licença nova"\n', ""), said("A new permit", ""))
        with self.assertRaisesRegex(NotReady, "change it in the text, at line 6"):
            said("Long", "uma linha")
        with self.assertRaisesRegex(NotReady, "It has a fault"):
            said("A new permit", "x", of="kind: [")
        for of in ("kind: BP\n", "translations: x\n"):
            with self.subTest(of), self.assertRaisesRegex(NotFound, "does not name this language"):
                said("A new permit", "x", of=of)
        with self.assertRaises(NotFound):
            said("A new permit", "x", language="fr")
        with self.assertRaises(NotAllowed):
            translating.with_translation(self.imre, text, "pt", "A new permit", "x")

    def test_a_new_kind_from_a_pattern_to_a_filing_under_it(self) -> None:
        for kind in ("bell", "B", "bp", "BW"):
            with self.assertRaises(Invalid):
                writing.begin(self.office, self.petra, "", kind)
        id_ = writing.begin(self.office, self.petra, "", "BP")
        first = writing.open_edition(self.office, self.petra, id_)
        self.assertEqual((first.checked.why_not, [m for m in first.checked.messages if m.fault]), ((), []))
        broken = self.kept(id_, ("flat: 10.00", "amount: 10.00 + tower.bell"))
        (fault,) = [m for m in broken.checked.messages if m.fault]
        self.assertEqual(broken.text.split("\n")[fault.line - 1].strip()[:13], "- {line: perm")
        self.assertIn("tower.bell", fault.text)
        with self.assertRaises(NotReady):
            writing.ask_for_confirmation(self.office, self.petra, id_)
        missed = self.kept(
            id_,
            ("\ndocuments: []", BELLS),
            ("tower.bell,", "tower.bells,"),
            ("      who: {name: Odalys Renn}", "      who: {name: Odalys Renn}\n      tower: {bells: 5}"),
        )
        self.assertEqual(
            [e.misses[0] for e in missed.checked.examples], ["a-first-one: fee permit should be 10.00, and is 15.00"]
        )
        self.assertIn("An example does not come out: a-first-one.", missed.checked.why_not)
        good = self.kept(
            id_, ("fees: {permit: 10.00}, due: {at filing: 10.00}", "fees: {permit: 15.00}, due: {at filing: 15.00}")
        )
        self.assertEqual(good.checked.why_not, ())
        seen = trying_out.try_out(self.office, self.petra, id_, "", None)
        self.assertIn(("The permit", "EUR 15.00"), [(p.title, p.amount) for p in seen.fees])
        self.assertEqual({"bells": "5"}, seen.answers["tower"])
        own = {**seen.answers, "tower": {"bells": "7"}}
        told = trying_out.try_out(self.office, self.petra, id_, "", own)
        self.assertIn(("The permit", "EUR 17.00"), [(p.title, p.amount) for p in told.fees])
        wrong = trying_out.try_out(self.office, self.petra, id_, "a-first-one", {"tower": {"bells": "21"}})
        (bells,) = (q for part in wrong.assessment.parts for q in part.questions if q.place == "tower.bells")
        self.assertIn("20", bells.fault)
        with self.assertRaises(NotFound):
            trying_out.try_out(self.office, self.petra, id_, "another", None)
        with self.assertRaises(Invalid):
            trying_out.try_out(self.office, self.petra, id_, "", {"tower": {"bells": [[[[[[[["x"]]]]]]]]}})
        with self.assertRaises(NotAllowed):
            trying_out.try_out(self.office, self.odalys, id_, "", None)
        writing.ask_for_confirmation(self.office, self.petra, id_)
        with self.assertRaises(NotReady):
            self.kept(id_, ("bells", "bell"))
        with self.assertRaises(NotAllowed):
            writing.confirm(self.office, self.petra, id_)
        sha256 = writing.confirm(self.office, self.berta, id_)
        with self.assertRaises(NotFound):
            writing.open_edition(self.office, self.petra, id_)
        day = self.instant.date() + EDITION_AHEAD
        with self.assertRaises(NotFound):
            edition_on(self.office, "BP", day - timedelta(days=1))
        self.assertEqual(edition_on(self.office, "BP", day), sha256)
        shown = next(k for k in writing.shelf(self.office, self.berta) if k.kind == "BP")
        self.assertEqual([(e.to_come, e.now, e.cases) for e in shown.editions], [(True, False, 0)])
        writing.withdraw_edition(self.office, self.berta, sha256)
        self.assertEqual(len(next(k for k in writing.shelf(self.office, self.petra) if k.kind == "BP").drafts), 1)
        with self.assertRaises(NotFound):
            edition_on(self.office, "BP", day)

    def test_an_edition_from_the_one_before_tried_on_past_cases(self) -> None:
        filed = self.filed()
        of = next(k for k in writing.shelf(self.office, self.petra) if k.kind == "BW").editions[-1]
        self.assertEqual((of.now, of.cases), (True, 1))
        with self.assertRaises(NotReady):
            writing.withdraw_edition(self.office, self.berta, of.sha256)
        id_ = writing.begin(self.office, self.petra, of.sha256, "")
        written = writing.open_edition(self.office, self.petra, id_)
        self.assertIn("It carries no example.", written.checked.why_not)  # nobody publishes what was not tried
        line = next(line for line in written.text.splitlines() if "line: shoreline" in line)
        self.assertTrue(line)
        dearer = self.kept(id_, ("120.00", "135.00"))
        self.assertEqual([m for m in dearer.checked.messages if m.fault], [])
        self.assertIn("was 120.00, is 135.00", " ".join(writing.differences(self.office, self.petra, id_)))
        last = list(writing.try_on_past(self.office, self.petra, id_))[-1]
        self.assertEqual((last.done, last.of, [c.reference for c in last.latest if c.differs]), (1, 1, [filed]))
        self.assertIn(("438.18", "453.18"), [(d.was, d.now) for c in last.latest for d in c.differs])

    def test_two_rule_keepers_and_nobody_else(self) -> None:
        id_ = writing.begin(self.office, self.petra, "", "BP")
        writing.keep(self.office, self.other, id_, "kind: BP\n", 0)
        with self.assertRaises(Stale) as told:
            writing.keep(self.office, self.petra, id_, "kind: BP\ntitle: Mine\n", 0)
        self.assertIn("Olek Dunn wrote in this edition meanwhile", told.exception.detail)
        self.assertEqual(writing.open_edition(self.office, self.petra, id_).text, "kind: BP\n")
        for who in (self.imre, self.odalys):
            with self.assertRaises(NotAllowed):
                writing.shelf(self.office, who)
            with self.assertRaises(NotAllowed):
                writing.begin(self.office, who, "", "BQ")
        with self.assertRaises(NotAllowed):
            writing.keep(self.office, self.berta, id_, "x", 1)
        for text in ("", "{", "- a", "kind: [", "\u0000", "parts: {" * 40):
            there = writing.open_edition(self.office, self.petra, id_)
            bad = writing.keep(self.office, self.petra, id_, text, there.revision)
            self.assertTrue([m for m in bad.checked.messages if m.fault], text)
        writing.throw_away(self.office, self.petra, id_)
        with self.assertRaises(NotFound):
            writing.open_edition(self.office, self.petra, id_)
