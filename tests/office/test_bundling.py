"""Papers of a case bound into one PDF, and words found in all of them."""

from __future__ import annotations

import io

import pikepdf
from reportlab.pdfgen.canvas import Canvas

from jolly_clerk.demo import papers
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import bundling
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound
from jolly_clerk.office.preparing import attaching, filing, signing
from tests.office.test_journey import Cases


def form() -> bytes:
    """A sheet with a filled field and a script, which must not come along."""
    out = io.BytesIO()
    canvas = Canvas(out)
    canvas.drawString(60, 700, "Consent of the owner")
    canvas.acroForm.textfield(name="owner", value="Tamsin Orrery", x=60, y=640, width=200, height=20)
    canvas.save()
    with pikepdf.open(io.BytesIO(out.getvalue())) as pdf:
        pdf.Root.OpenAction = pikepdf.Dictionary(S=pikepdf.Name.JavaScript, JS="app.alert(1)")
        pdf.save(out := io.BytesIO())
    return out.getvalue()


class Bundling(Cases):
    def with_papers(self) -> tuple[str, list[str]]:
        draft = self.draft(signed=False)
        for name, content in (
            ("consent.pdf", form()),
            ("photo.png", papers.portrait(1)),
            ("broken.pdf", b"%PDF-1.7 nothing"),
            ("letter.pdf", papers.paper("Letter of the Old Hall", "A venue for three days, said Tamsin.")),
        ):
            attaching.attach(self.office, self.odalys, draft, "consent", name, content)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        self.pay(reference)
        files = bundling.files_of(load_case(self.office, self.imre, reference))
        return reference, [a.id for _, a in files]

    def test_a_cover_and_every_paper_behind_a_bookmark(self) -> None:
        reference, ids = self.with_papers()
        bound = bundling.bundle(self.office, self.imre, reference, ids)
        with pikepdf.open(io.BytesIO(bound)) as pdf, pdf.open_outline() as outline:
            titles = [item.title for item in outline.root]
            self.assertEqual(titles[0], f"Papers of {reference}")
            self.assertEqual(len(titles), len(ids) + 1)
            self.assertIn("Owner's consent: broken.pdf", [t.replace("’", "'") for t in titles])
            self.assertNotIn("/OpenAction", pdf.Root)
            self.assertNotIn("/AcroForm", pdf.Root)
            self.assertFalse(any("/Annots" in sheet.obj for sheet in pdf.pages))
            count = len(pdf.pages)
        import pypdfium2

        read = pypdfium2.PdfDocument(bound)
        texts = [page.get_textpage().get_text_range() for page in read]
        self.assertIn("broken.pdf", texts[0])
        self.assertIn(f"{count} sheets with this cover", " ".join(texts[0].split()))
        self.assertTrue(any("No sheets can be made of “broken.pdf” (cannot be opened)" in " ".join(t.split()) for t in texts[1:]))
        self.assertTrue(any("Tamsin Orrery" in t and "Consent" in t for t in texts[1:]), "what a field shows is bound")

    def test_the_order_is_that_of_the_choice_and_the_office_alone_binds(self) -> None:
        reference, ids = self.with_papers()
        bound = bundling.bundle(self.office, self.imre, reference, [ids[3], ids[0]])
        with pikepdf.open(io.BytesIO(bound)) as pdf, pdf.open_outline() as outline:
            names = {a.id: a.name for _, a in bundling.files_of(load_case(self.office, self.imre, reference))}
            self.assertEqual([i.title.rpartition(": ")[2] for i in outline.root][1:], [names[ids[3]], names[ids[0]]])
        with self.assertRaises(NotAllowed):
            bundling.bundle(self.office, self.odalys, reference, ids)
        with self.assertRaises(NotFound):
            bundling.bundle(self.office, self.imre, reference, ["a99"])
        with self.assertRaises(Invalid):
            bundling.bundle(self.office, self.imre, reference, [])
        with self.assertRaises(NotAllowed):
            bundling.find_words(self.office, self.odalys, reference, "venue")

    def test_words_are_found_in_all_files_with_their_places(self) -> None:
        reference, _ids = self.with_papers()
        found = bundling.find_words(self.office, self.imre, reference, "Vénue for thr")
        self.assertEqual(
            [(p.name, p.page, p.text) for p in found.places], [("letter.pdf", 1, "A venue for three days, said Tamsin.")]
        )
        self.assertEqual(found.unread, ("photo.png", "broken.pdf"), "a scan whose text is not read yet is told")
        left, top, right, bottom = found.places[0].box
        self.assertTrue(0 < left < right < 0.9 and 0 < top < bottom < 1)
        self.assertEqual(bundling.find_words(self.office, self.imre, reference, "three venue").places, ())
