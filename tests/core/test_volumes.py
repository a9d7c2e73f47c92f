"""What is told of files: volumes that are one document, translations in files of their own, and words for all of it."""

from __future__ import annotations

import unittest
from datetime import date

from jolly_clerk.core.dossier.changing import attach
from jolly_clerk.core.dossier.describing import described, fault_of_told, told_in_words, volume_in
from jolly_clerk.core.dossier.model import Attachment, Dossier, FileTold
from jolly_clerk.core.facts.findings import slot_findings
from jolly_clerk.core.facts.languages import language_findings
from jolly_clerk.core.facts.reading import Page, Reading
from jolly_clerk.core.facts.volumes import documents_of, volume_findings
from jolly_clerk.core.rulebook.papers import Accepts, Slot
from tests.helpers import reading

SLOT = Slot(
    slot="consent", title="Consent", says="-", article="6", languages=["en", "pt"], translation="plain",
    accepts=Accepts(formats=["pdf"], files="1", size="20 MB"),
)  # fmt: skip


def file(no: int, name: str = "", **told: object) -> Attachment:
    kept = FileTold.model_validate(told) if told else None
    return Attachment(id=f"a{no}", slot="consent", name=name or f"file{no}.pdf", sha256=f"{no:064}", size=1000, told=kept)


def pages(no: int, *languages: str) -> Reading:
    read = reading(f"{no:064}", *[(210.0, 297.0)] * len(languages))
    told = [Page.model_validate(p.model_dump() | {"language": code}) for p, code in zip(read.pages, languages, strict=True)]
    return read.model_copy(update={"pages": tuple(told)})


class Volumes(unittest.TestCase):
    def test_names_tell_them(self) -> None:
        told = {
            "plan vol 1.pdf": 1, "plan-volume_2.pdf": 2, "Plan VOL. 12.PDF": 12, "report (2 of 3).pdf": 2,
            "volcano.pdf": 0, "plan (2).pdf": 0, "vol 123.pdf": 0, "plan 2.pdf": 0,
        }  # fmt: skip
        self.assertEqual({name: volume_in(name) for name in told}, told)

    def test_a_volume_is_never_a_version(self) -> None:
        dossier = attach(Dossier(), (), "consent", "plan vol 1.pdf", "1" * 64, 9)
        dossier = attach(dossier, (), "consent", "plan vol 2.pdf", "2" * 64, 9)
        self.assertEqual([(a.version, a.told and a.told.volume) for a in dossier.attachments], [(1, 1), (1, 2)])
        dossier = attach(dossier, (), "consent", "plan vol 2.pdf", "3" * 64, 9)
        self.assertEqual([(a.version, a.told and a.told.volume) for a in dossier.attachments], [(1, 1), (2, 2)])

    def test_they_are_one_document(self) -> None:
        volumes = [file(1, volume=1), file(2, volume=2)]
        self.assertEqual(len(documents_of([*volumes, file(3), file(4, translates="a3")])), 2)
        read = {a.sha256: reading(a.sha256, (210, 297)) for a in volumes}
        self.assertEqual([f for f in slot_findings(SLOT, volumes, read) if f.weight == "fault"], [])
        two = [file(1), file(2)]
        self.assertIn("at most 1 belongs", slot_findings(SLOT, two, read)[0].text)

    def test_one_that_is_missing_or_there_twice_is_told(self) -> None:
        self.assertEqual(list(volume_findings([file(1, volume=1), file(2, volume=2)])), [])
        (gap,) = volume_findings([file(1, volume=1), file(2, volume=4)])
        self.assertEqual((gap.weight, gap.text), ("fault", "Some volumes have not come: 2 and 3. Here are 1 and 4."))
        (twice,) = volume_findings([file(1, volume=1), file(2, volume=1)])
        self.assertEqual((twice.text, twice.file), ("Volume 1 is here twice.", "a2"))


class Told(unittest.TestCase):
    def test_in_words(self) -> None:
        original = file(1, "carta.pdf")
        own = file(2, translates="a1", dated="2026-11-03", language="en", description="Letter of the ferry line")
        said = "translation of “carta.pdf”, dated Tue 3 Nov 2026, in English, “Letter of the ferry line”"
        self.assertEqual(told_in_words(own, [original, own]), said)
        self.assertEqual(told_in_words(original, []), "")

    def test_what_cannot_be_told(self) -> None:
        dossier = Dossier(attachments=(file(1), file(2, translates="a1"), file(3).model_copy(update={"slot": "list"})))
        faults = {
            "description": FileTold(description="x" * 201), "dated": FileTold(dated=date(2026, 11, 6)), "language": FileTold(language="xx"),
            "volume": FileTold(volume=100),
        }  # fmt: skip
        for field, told in faults.items():
            self.assertEqual(fault_of_told(dossier, "a1", told, date(2026, 11, 5))[0], field)
        for no, wrong in (("a1", "a1"), ("a1", "a3"), ("a1", "a9"), ("a1", "a2")):
            self.assertEqual(fault_of_told(dossier, no, FileTold(translates=wrong), date(2026, 11, 5))[0], "translates", wrong)
        good = FileTold(description="Fine", dated=date(2026, 11, 5), language="pt", volume=3)
        self.assertEqual(fault_of_told(dossier, "a1", good, date(2026, 11, 5)), ("", ""))

    def test_told_and_taken_back(self) -> None:
        dossier = Dossier(attachments=(file(1),))
        told = described(dossier, "a1", FileTold(description="Fine"))
        assert told
        self.assertEqual(described(told, "a1", FileTold()), dossier)
        self.assertIsNone(described(dossier, "a9", FileTold()))
        self.assertNotIn("told", dossier.model_dump()["attachments"][0], "histories from before keep their hashes")


class Translations(unittest.TestCase):
    def found(self, *translation: str, certified: bool = False) -> list[tuple[str, str]]:
        original, own = file(1, "carta.pdf"), file(2, "letter.pdf", translates="a1")
        slot = SLOT.model_copy(update={"translation": "certified"}) if certified else SLOT
        bound = (own, pages(2, *translation)) if translation else None
        return [(f.weight, f.text) for f in language_findings(slot, original, pages(1, "es"), bound)]

    def test_a_file_of_its_own(self) -> None:
        self.assertEqual(self.found()[0][0], "fault")
        self.assertEqual(self.found("en"), [("note", "Page 1 in Spanish, “letter.pdf” as its translation.")])
        self.assertIn("its language was not found", self.found("es")[0][1])
        weight, text = self.found("en", certified=True)[0]
        self.assertEqual(weight, "look")
        self.assertIn("that it is certified was not found", text)
