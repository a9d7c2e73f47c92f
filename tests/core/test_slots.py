"""What a slot may say of a paper: how old it is, until when it is valid, what the office calls it, and that another file may hold it."""

from __future__ import annotations

import re
import unittest

from jolly_clerk.core.assessment import assess
from jolly_clerk.core.checklist import Requirement
from jolly_clerk.core.corrections import missing_from
from jolly_clerk.core.dossier.differences import differences
from jolly_clerk.core.dossier.model import Attachment, Declared, Dossier
from jolly_clerk.core.facts.languages import language_findings
from jolly_clerk.core.facts.reading import Page, Reading, TextLine
from jolly_clerk.core.known import Known
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.demo import papers
from jolly_clerk.reading.language import language_of
from jolly_clerk.reading.read import read_bytes
from jolly_clerk.shelf.nodes import UnreadableRulebook
from jolly_clerk.shelf.rulebooks import read_rulebook
from tests.helpers import BW, QUILLHAVEN, ROOT, at, reading

PIECES = re.findall(r"^```yaml\n(.*?)^```$", (ROOT / "docs" / "rule-keeper.md").read_text("utf-8"), re.DOTALL | re.MULTILINE)
CONSENT = """    accepts: {formats: [pdf], files: at most 5, size: 20 MB}
    named: "{tower.name} consent"
    facts:
      - {id: dated, title: Dated, type: date, near: [dated]}
      - {id: until, title: Valid until, type: date, near: [valid until]}
    issued: {fact: dated, within: 3 months, before: case.filed}
    valid: {fact: until, on: case.filed + days(30)}
    article: "6(1)"
  - slot: list
    title: List of neighbours
    says: Everybody within 50 m.
    when: tower.night
    may_be_in: [consent]
    accepts: {formats: [pdf], files: "1", size: 8 MB}
    article: "6(2)"
"""


def edition(consent: str = CONSENT) -> Rulebook:
    """The bell-ringing permit of the guide, with more said of its consent."""
    text = "\n".join(PIECES).replace(
        '    accepts: {formats: [pdf], files: at most 5, size: 20 MB}\n    article: "6(1)"\n', consent
    )
    return read_rulebook(text, "x.yaml").rulebook


class Papers(unittest.TestCase):
    def looked(self, *lines: str, name: str | None = "Old Tolly") -> dict[str, Requirement]:
        tower = {"island": "quill", "bells": "1", "night": "yes", "occasion": "Fog"} | ({"name": name} if name else {})
        files = (Attachment(id="a", slot="consent", name="consent.pdf", sha256="c" * 64, size=1000),) if lines else ()
        told = [{"page": 1, "text": text, "box": (0.1, 0.1 + n / 50, 0.6, 0.11 + n / 50)} for n, text in enumerate(lines)]
        read = reading("c" * 64, (210, 297)).model_copy(update={"lines": ()})
        read = type(read).model_validate(read.model_dump() | {"lines": told})
        a = assess(
            edition(),
            Dossier(answers={"tower": tower}, attachments=files),
            known=Known(QUILLHAVEN, {"c" * 64: read}),
            now=at(2026, 11, 5),
        )
        return {r.id.removeprefix("documents."): r for r in a.requirements if r.kind == "document"}

    def test_a_paper_of_three_months_is_taken_and_one_a_day_older_is_not(self) -> None:
        for dated, proposed in (
            ("2026-08-05", "to read"),
            ("2026-08-04", "wanting"),
            ("2026-11-05", "to read"),
            ("2026-11-06", "in doubt"),
        ):
            with self.subTest(dated=dated):
                self.assertEqual(self.looked(f"Dated: {dated}", "Valid until: 2027-01-01")["consent"].proposed, proposed)
        found = self.looked("Dated: 2026-08-04", "Valid until: 2027-01-01")["consent"]
        self.assertEqual(found.because, "It bears Tue 4 Aug 2026; it may not be older than Wed 5 Aug 2026.")

    def test_it_has_to_be_valid_on_the_day(self) -> None:
        for until, proposed in (("5 December 2026", "to read"), ("4 December 2026", "wanting")):
            with self.subTest(until=until):
                self.assertEqual(self.looked("Dated: 2026-11-01", f"Valid until: {until}")["consent"].proposed, proposed)

    def test_a_day_that_is_not_found_is_said_and_left_to_the_officer(self) -> None:
        found = self.looked("We agree.")["consent"]
        self.assertEqual(found.proposed, "to read")
        self.assertEqual([f.weight for f in found.findings], ["note", "note"])

    def test_the_office_s_name_once_it_is_known(self) -> None:
        self.assertEqual(self.looked()["consent"].named, "Old-Tolly-consent")
        self.assertEqual(self.looked(name=None)["consent"].named, "")

    def test_one_file_may_answer_two_slots(self) -> None:
        self.assertEqual(self.looked()["list"].proposed, "wanting")
        found = self.looked("Dated: 2026-11-01")["list"]
        self.assertEqual((found.proposed, [a.name for a in found.files]), ("to read", ["consent.pdf"]))

    def test_what_does_not_fit_is_refused(self) -> None:
        with self.assertRaises(UnreadableRulebook) as caught:
            edition(
                CONSENT.replace("fact: dated, within", "fact: day, within").replace(
                    "may_be_in: [consent]", "may_be_in: [guardian]"
                )
            )
        told = [fault.message for fault in caught.exception.faults]
        self.assertTrue(any("'day' is no date among the `facts`" in t for t in told), told)
        self.assertTrue(any("'guardian' is no other slot" in t for t in told), told)


DECLARATIONS = """
declarations:
  - {declare: heard, title: Neighbours heard, text: I spoke with everybody within 50 m., when: tower.night, article: "7(1)"}
  - {declare: shown, title: Shown, text: The hours may be printed in the paper., optional: yes, article: "7(2)"}
fees:
"""


class Declarations(unittest.TestCase):
    RULES = read_rulebook("\n".join(PIECES).replace("\nfees:\n", DECLARATIONS), "x.yaml").rulebook

    def look(self, night: str | None, *ticked: tuple[str, str]) -> dict[str, Requirement]:
        tower = {"island": "quill", "name": "Old Tolly", "bells": "1", "occasion": "Fog"} | ({"night": night} if night else {})
        declared = tuple(Declared(id=id_, at=at(2026, 11, 5), text=text) for id_, text in ticked)
        dossier = Dossier(answers={"tower": tower}, declared=declared)
        self.a = assess(self.RULES, dossier, known=Known(QUILLHAVEN, {}), now=at(2026, 11, 5))
        return {r.id.removeprefix("declarations."): r for r in self.a.requirements if r.kind == "declaration"}

    def test_each_is_ticked_on_its_own(self) -> None:
        said = "I spoke with everybody within 50 m."
        for night, ticked, heard, shown in (
            ("yes", (), "wanting", "not asked"),
            ("yes", (("heard", said),), "met", "not asked"),
            ("yes", (("heard", "Another text."),), "wanting", "not asked"),
            ("no", (("heard", said),), "not asked", "not asked"),
            (None, (), "not known yet", "not asked"),
            ("no", (("shown", "The hours may be printed in the paper."),), "not asked", "met"),
        ):
            with self.subTest(night=night, ticked=ticked):
                found = self.look(night, *ticked)
                self.assertEqual((found["heard"].proposed, found["shown"].proposed), (heard, shown))

    def test_what_is_left_names_the_very_tick(self) -> None:
        found = self.look("yes")
        self.assertEqual(found["heard"].put_right, "Read “Neighbours heard” and tick it.")
        self.assertIn("declarations.heard", [x.place.ref for x in self.a.left if x.place])
        self.assertNotIn("declarations.shown", [x.place.ref for x in self.a.left if x.place])
        self.assertEqual(found["heard"].places[0].label, "Promise and sign, Neighbours heard")
        self.assertEqual(self.look("yes", ("heard", "x"))["heard"].because, "Another text was ticked than the one asked.")

    def test_two_of_one_name_are_refused(self) -> None:
        twice = DECLARATIONS.replace("declare: shown", "declare: heard")
        with self.assertRaises(UnreadableRulebook) as caught:
            read_rulebook("\n".join(PIECES).replace("\nfees:\n", twice), "x.yaml")
        self.assertIn("the declaration 'heard' stands twice", str(caught.exception))

    def test_a_tick_that_came_is_a_difference(self) -> None:
        before, after = Dossier(), Dossier(declared=(Declared(id="heard", at=at(2026, 11, 5), text="x"),))
        (found,) = differences(self.RULES, before, after)
        self.assertEqual((found.place, found.was, found.now), ("declarations.heard", "not ticked", "ticked"))
        self.assertEqual(missing_from(("declarations.heard",), "", []), "your tick or a few words")


class Languages(unittest.TestCase):
    """Which pages are in which language, and whether what is in another has its translation directly after it."""

    def look(
        self, said: str, taken: str = "en fr pt", translation: str = "certified", certified: int = 0
    ) -> list[tuple[str, str]]:
        pages = tuple(
            Page(no=n, width_mm=210, height_mm=297, content="text", language=code.strip("-"))
            for n, code in enumerate(said.split(), 1)
        )
        lines = (TextLine(page=certified, text="Certified translation, A. Marrow", box=(0, 0, 1, 1)),) if certified else ()
        read = Reading(sha256="a" * 64, reader="t", size=1, type="pdf", opens="yes", pages=pages, lines=lines)
        slot = BW.slots["site_plan"].slot.model_copy(update={"languages": taken.split(), "translation": translation})
        attachment = Attachment(id="a", slot="site_plan", name="x.pdf", sha256="a" * 64, size=1)
        return [(f.weight, f.text) for f in language_findings(slot, attachment, read)]

    def test_a_table(self) -> None:
        for said, weights in (
            ("en", []),
            ("-", []),
            ("- -", []),
            ("pt fr en", []),
            ("es", ["fault"]),
            ("es es", ["fault"]),
            ("es en", ["look"]),
            ("es - en -", ["look"]),
            ("en es", ["fault"]),
            ("es de", ["fault", "fault"]),
            ("es en de", ["look", "fault"]),
            ("- es", ["fault"]),
        ):
            with self.subTest(said):
                self.assertEqual([weight for weight, _ in self.look(said)], weights)

    def test_the_words_name_the_pages(self) -> None:
        self.assertEqual(
            self.look("es es"),
            [("fault", "Pages 1 to 2 in Spanish, and no translation follows. A certified translation is asked directly after the original, in the same file.")],
        )  # fmt: skip
        self.assertIn(
            "Page 1 in Spanish, pages 2 to 3 in English as its translation; that it is certified was not found.",
            self.look("es en en")[0][1],
        )
        self.assertEqual(self.look("es en", certified=2), [("note", "Page 1 in Spanish, page 2 in English as its translation.")])
        self.assertEqual(self.look("es en", certified=1)[0][0], "look")
        self.assertEqual(self.look("es en", translation="plain")[0][0], "note")
        self.assertEqual(self.look("de", "en pt", "none"), [("fault", "Page 1 in German; English or Portuguese is asked.")])
        self.assertEqual(self.look("es", ""), [])

    def test_what_a_slot_may_not_say(self) -> None:
        for said, complaint in (
            ("languages: [xx]\n    translation: plain", "no reader tells the language 'xx'"),
            ("translation: certified", "name them"),
        ):
            with self.assertRaises(UnreadableRulebook) as caught:
                edition(CONSENT.replace("    named:", f"    {said}\n    named:"))
            self.assertIn(complaint, str(caught.exception))

    def test_a_reader_tells_the_language_of_a_page(self) -> None:
        told = [page.language for page in read_bytes(papers.contract("Tide", "Ines Marrow", True, True)).pages]
        self.assertEqual(told, ["es", "en"])
        for text, code in (
            ("Le promoteur engage l'artiste pour toute la tournée dans les îles et la paie chaque soir.", "fr"),
            ("O promotor contrata a artista para toda a digressão pelas ilhas e paga-lhe todas as noites.", "pt"),
            ("Der Veranstalter verpflichtet die Künstlerin für die ganze Reise und bezahlt sie jeden Abend.", "de"),
            ("Q-12 18.40 m 4 x 5", ""),
            ("", ""),
        ):
            self.assertEqual(language_of(text), code)
