"""The office's blank forms: filled in with what is known, and read back field by field."""

from __future__ import annotations

import io

import pikepdf

from jolly_clerk.demo import dossiers
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.preparing import attaching, blank_forms, drafts
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.reading.read import read_bytes
from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.office.test_additions import DAY
from tests.office.test_journey import Cases, text_of


def filled(content: bytes, **values: str) -> bytes:
    """The form with these fields written over, as a viewer would keep it."""
    with pikepdf.open(io.BytesIO(content)) as pdf:
        for field in pdf.Root.AcroForm.Fields:
            if (value := values.get(str(field.T))) is not None:
                field.V = pikepdf.String(value)
        out = io.BytesIO()
        pdf.save(out)
        return out.getvalue()


class BlankForms(Cases):
    def setUp(self) -> None:
        super().setUp()
        publish(self.office, SHIPPED / "QV" / "2026-06-01.yaml")
        answers, _ = dossiers.tour(DAY, "Odalys Renn", "Salt songs", (("Ada Skerry", 30), ("Zoë Łuk Marrow", 12)))
        self.draft_id = drafts.start_draft(self.office, self.odalys, "QV")
        drafts.keep(self.office, self.odalys, self.draft_id, None, answers=answers)

    def form(self) -> bytes:
        return blank_forms.form_of_draft(self.office, self.odalys, self.draft_id, "child_form.2")

    def found(self, content: bytes) -> list[str]:
        """What is said of a form that came back."""
        for file in drafts.open_draft(self.office, self.odalys, self.draft_id).dossier.attachments:
            attaching.detach(self.office, self.odalys, self.draft_id, file.id)
        attaching.attach(self.office, self.odalys, self.draft_id, "child_form.2", "form.pdf", content)
        line = drafts.open_draft(self.office, self.odalys, self.draft_id).assessment.requirement("documents.child_form.2")
        assert line
        return [f.text for f in line.findings if "in the form" in f.text]

    def test_it_is_filled_in_with_what_is_known(self) -> None:
        form = self.form()
        fields = {field.name: (field.text, field.says) for field in read_bytes(form).fields}
        self.assertEqual(fields["child"], ("Zoë Łuk Marrow", "Name of the child"))
        self.assertEqual(fields["sleeps"][0], "Harbour Inn")
        self.assertRegex(fields["born"][0], r"15 Jan \d{4}")
        self.assertNotIn("minder", fields, "what is not known is left open")
        words = text_of(form)
        for asked in ("Form of the children's officer", "Who minds the child?", "When does it learn, and what?"):
            self.assertIn(asked, words)

    def test_it_is_read_back_field_by_field(self) -> None:
        form = self.form()
        minder = "“Who minds the child?” is empty in the form."
        learns = "“When does it learn, and what?” is empty in the form."
        self.assertEqual(self.found(form), [minder, learns])
        whole = {"minder": "Ada Skerry", "learns": "Each morning"}
        self.assertEqual(self.found(filled(form, **whole)), [])
        born = next(f.text for f in read_bytes(form).fields if f.name == "born")
        year = born.split()[-1]
        self.assertEqual(self.found(filled(form, **whole, born=f"{year}-01-15", child="zoë  łuk marrow")), [])
        other = self.found(filled(form, **whole, sleeps="The Anchor", born="someday"))
        self.assertEqual(
            other,
            [
                f"“Date of birth” is “someday” in the form, and “{born}” in your answers.",
                "“Where does it sleep?” is “The Anchor” in the form, and “Harbour Inn” in your answers.",
            ],
        )

    def test_one_filled_in_by_hand_is_only_read_by_people(self) -> None:
        self.assertEqual(self.found(dossiers.papers.paper("Form of the children's officer", "Zoë learns each morning.")), [])

    def test_what_has_no_form(self) -> None:
        for slot in ("passport.1", "child_form", "nonsense"):
            with self.subTest(slot=slot), self.assertRaises(NotFound):
                blank_forms.form_of_draft(self.office, self.odalys, self.draft_id, slot)
        with self.assertRaises(NotFound):
            blank_forms.form_of_draft(self.office, self.tamsin, self.draft_id, "child_form.2")
