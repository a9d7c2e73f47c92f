"""Pages that are the same in other cases: by their words, or by their look where they have none."""

from __future__ import annotations

import io
import random
from dataclasses import replace

from PIL import Image, ImageDraw, ImageFilter
from sqlalchemy import update

from jolly_clerk.core.facts.alike import BITS, alike, signs_of
from jolly_clerk.demo import papers
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk.sameness import alike_pages, same_elsewhere
from jolly_clerk.office.errors import NotAllowed
from jolly_clerk.office.preparing import attaching, filing, signing
from jolly_clerk.reading.read import read_bytes
from jolly_clerk.store.database import write_session
from jolly_clerk.store.tables import Case
from tests.office.test_journey import Cases

LETTER = (
    "The owner of the house at 4 Saltern Slip agrees that the roof of the workshop",
    "is made new as it is drawn, that the gutter is led into the yard, and that",
    "the works may begin as soon as the office has allowed them. Quillhaven, 3 Nov 2026.",
)


def photo(seed: int) -> Image.Image:
    """A picture without words: houses, hills and a sky, none like the next."""
    dice = random.Random(seed)
    image = Image.new("RGB", (900, 600), (180, 205, 230))
    pen = ImageDraw.Draw(image)
    for _ in range(14):
        x, y, w, h = dice.randint(0, 800), dice.randint(150, 500), dice.randint(60, 260), dice.randint(60, 260)
        pen.rectangle((x, y, x + w, y + h), fill=tuple(dice.randint(20, 230) for _ in range(3)))
    return image.filter(ImageFilter.GaussianBlur(2))


def saved(image: Image.Image, quality: int = 85, share: float = 1.0) -> bytes:
    out = io.BytesIO()
    image.resize((round(image.width * share), round(image.height * share))).save(out, "JPEG", quality=quality)
    return out.getvalue()


class Sameness(Cases):
    def filed_with(self, *files: tuple[str, bytes]) -> str:
        draft = self.draft(signed=False)
        for name, content in files:
            slot = "sections" if name.startswith("again") else "consent"
            attaching.attach(self.office, self.odalys, draft, slot, name, content)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        self.pay(reference)
        return reference

    def test_the_same_words_in_another_file_of_another_case(self) -> None:
        first = self.filed_with(("consent.pdf", papers.paper("Consent of the owner", *LETTER)))
        other = [line.replace("3 Nov", "4 Nov") for line in LETTER]
        second = self.filed_with(("einwilligung.pdf", papers.paper("Consent of the owner", *other)))
        found = [a for a in alike_pages(self.office, self.imre, second) if a.reference == first and a.by == "words"]
        self.assertEqual(
            [(a.page, a.other_page, a.only_here, a.only_there) for a in found if a.share < 1], [(1, 1, ("4",), ("3",))]
        )
        self.assertGreater(found[0].share, 0.9)
        loaded = load_case(self.office, self.imre, second)
        plans = same_elsewhere(self.office, self.imre, loaded)
        self.assertIn((first,), plans.values(), "the same plan, byte by byte")
        with self.assertRaises(NotAllowed):
            alike_pages(self.office, self.odalys, second)
        # who may not see the other case is told nothing of it
        with write_session(self.office.engine) as session:
            session.execute(update(Case).where(Case.reference == first).values(kind="PL"))
        limited = replace(self.imre, kinds=("BW",))
        self.assertEqual(alike_pages(self.office, limited, second), [])
        self.assertEqual(same_elsewhere(self.office, limited, loaded), {})
        self.assertTrue(same_elsewhere(self.office, self.imre, loaded))

    def test_words_of_another_sense_are_not_alike(self) -> None:
        self.filed_with(("consent.pdf", papers.paper("Consent of the owner", *LETTER)))
        other = [" ".join(reversed(line.split())) + " and nothing else besides this" for line in LETTER]
        second = self.filed_with(("other.pdf", papers.paper("A refusal of the neighbour", *other)))
        consents = {a.id for a in load_case(self.office, self.imre, second).dossier.attachments if a.slot == "consent"}
        self.assertFalse([a for a in alike_pages(self.office, self.imre, second) if a.file in consents])

    def test_a_picture_saved_anew_is_known_and_another_is_not(self) -> None:
        first = self.filed_with(("one.jpg", saved(photo(1))))
        second = self.filed_with(("small.jpg", saved(photo(1), 50, 0.6)), ("two.jpg", saved(photo(2))))
        found = [a for a in alike_pages(self.office, self.imre, second) if a.reference == first and a.by == "look"]
        self.assertEqual(len(found), 1, found)
        files = {a.id: a.name for a in load_case(self.office, self.imre, second).dossier.attachments}
        self.assertEqual(files[found[0].file], "small.jpg")

    def test_the_same_file_twice_in_one_case(self) -> None:
        content = papers.paper("Consent of the owner", *LETTER)
        case = self.filed_with(("consent.pdf", content), ("again.pdf", content))
        found = [a for a in alike_pages(self.office, self.imre, case) if a.by == "bytes"]
        self.assertEqual([(a.reference, a.name) for a in found], [("", "again.pdf")])

    def test_the_hash_bears_saving_anew_for_many_pictures(self) -> None:
        readings = [read_bytes(saved(photo(seed))) for seed in range(12)]
        wrong = 0
        for seed, own in enumerate(readings):
            again = read_bytes(saved(photo(seed), 45, 0.5 + seed / 30))
            self.assertIsNotNone(alike(own, 1, again, 1), seed)
            self.assertTrue({s for _, s in signs_of(own)} & {s for _, s in signs_of(again)}, seed)
            wrong += sum(alike(other, 1, again, 1) is not None for n, other in enumerate(readings) if n != seed)
        self.assertEqual(wrong, 0, f"pictures within {BITS} bits of each other")
