"""Everything that an applicant reads is said in Portuguese; each message that has no text yet is named in a list."""

from __future__ import annotations

import json
import re
import unittest

from babel.messages.pofile import read_po

from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.fees.estimate import with_counts
from jolly_clerk.core.known import Known
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.compiler import compile_edition
from jolly_clerk.core.rulebook.wording import every_text, in_language, plain
from jolly_clerk.core.say import speaking
from jolly_clerk.core.sides import as_applicant
from jolly_clerk.office.rules.rulebooks import with_house_words
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file
from jolly_clerk.texts import LANGUAGES, catalogue
from tests.helpers import QUILLHAVEN, ROOT, at

RULEBOOKS = {path.parent.name: read_rulebook_file(path).rulebook for path in sorted(SHIPPED.glob("*/2026*.yaml"))}
#: what the office, its rule-keeper or a program reads; one message a line
WITHOUT_TEXT = ROOT / "tests" / "shelf" / "without-text-pt.txt"


def empty_messages() -> list[str]:
    """Every message without a text in Portuguese, of the program and of the screen, on one line each."""
    with (ROOT / "jolly_clerk" / "texts" / "pt" / "LC_MESSAGES" / "jolly_clerk.po").open("rb") as file:
        found = [m for m in read_po(file, locale="pt") if m.id]
    empty = [
        m.id if isinstance(m.id, str) else m.id[0]
        for m in found
        if not (m.string if isinstance(m.string, str) else all(m.string))
    ]
    screen = json.loads((ROOT / "frontend" / "src" / "texts" / "pt.json").read_text("utf-8"))
    return sorted({json.dumps(m, ensure_ascii=False) for m in [*empty, *(key for key, text in screen.items() if not text)]})


class Portuguese(unittest.TestCase):
    def assessed(self, rulebook: Rulebook, language: str) -> Assessment:
        dossier = Dossier(answers=with_counts(rulebook, {}))
        with speaking(catalogue(language) if language else None, language):
            return assess(rulebook, dossier, known=Known(calendar=QUILLHAVEN), now=at(2026, 11, 5))

    def test_each_message_without_a_text_is_named(self) -> None:
        listed = WITHOUT_TEXT.read_text("utf-8").splitlines()
        self.assertEqual(empty_messages(), listed, f"say it in Portuguese, or name it in {WITHOUT_TEXT.name}")

    def test_the_screen_of_an_applicant_is_told_whole(self) -> None:
        folders = ("api", "cases", "filing", "shared", "signin", "wayin")
        sources = [p.read_text("utf-8") for f in folders for p in (ROOT / "frontend" / "src" / f).glob("*.ts*")]
        said = {m for text in sources for m in re.findall(r'say\(\s*"((?:[^"\\]|\\.)*)"', text)}
        screen = json.loads((ROOT / "frontend" / "src" / "texts" / "pt.json").read_text("utf-8"))
        missing = [m for m in said if screen.get(m, screen.get(f"{m}_one", "?")) == ""]
        self.assertEqual(sorted(missing), [])

    def test_the_editions_say_every_text_of_theirs(self) -> None:
        for kind, rulebook in RULEBOOKS.items():
            told = {plain(text) for text in rulebook.edition.translations["pt"]}
            self.assertEqual(sorted(every_text(rulebook.edition) - told), [], kind)

    def test_values_in_the_texts_are_the_same(self) -> None:
        for kind, rulebook in RULEBOOKS.items():
            for text, told in rulebook.edition.translations["pt"].items():
                self.assertEqual(sorted(re.findall(r"{[^}]+}", text)), sorted(re.findall(r"{[^}]+}", told)), f"{kind}: {text}")

    def test_an_edition_in_portuguese_says_nothing_in_english(self) -> None:
        self.assertEqual(LANGUAGES, ("pt",))
        for kind, rulebook in RULEBOOKS.items():
            english = as_applicant(self.assessed(rulebook, ""))
            told = compile_edition(in_language(rulebook.edition, "pt"))
            with speaking(catalogue("pt"), "pt"):
                portuguese = as_applicant(self.assessed(told, "pt"))
            self.assertEqual([r.id for r in portuguese.requirements], [r.id for r in english.requirements])
            self.assertEqual([r.proposed for r in portuguese.requirements], [r.proposed for r in english.requirements])
            for one, other in zip(portuguese.requirements, english.requirements, strict=True):
                for name in ("title", "because") if one.kind in ("signature", "declaration") else ("title", "says", "because"):
                    self.assertNotEqual(getattr(one, name), getattr(other, name), f"{kind}: {one.id}")
            for a, b in zip(portuguese.fees.lines, english.fees.lines, strict=True):
                if rulebook.edition.translations["pt"].get(b.title) != b.title:  # some words are the same
                    self.assertNotEqual(a.title, b.title)
                self.assertEqual((a.amount, a.low, a.high, a.state), (b.amount, b.low, b.high, b.state))

    def test_a_letter_of_the_house_is_said_by_an_edition_that_was_published_before_it(self) -> None:
        edition = RULEBOOKS["BW"].edition
        older = {text: told for text, told in edition.translations["pt"].items() if text != edition.letters.office_shut.subject}
        before = edition.model_copy(update={"translations": {"pt": older}})
        self.assertEqual(in_language(before, "pt").letters.office_shut.subject, edition.letters.office_shut.subject)
        told = in_language(with_house_words(before, "pt"), "pt").letters
        self.assertEqual(told.office_shut.subject, "O serviço esteve fechado num dia")
        self.assertEqual(told.correction, in_language(edition, "pt").letters.correction)  # its own words come first

    def test_what_is_promised_stays_as_it_was_promised(self) -> None:
        for rulebook in RULEBOOKS.values():
            told = in_language(rulebook.edition, "pt")
            self.assertEqual(told.signature.text, rulebook.edition.signature.text)
            self.assertEqual([d.text for d in told.declarations], [d.text for d in rulebook.edition.declarations])
            self.assertIs(in_language(rulebook.edition, "fr"), rulebook.edition)
