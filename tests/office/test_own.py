"""What one has of one's own: in folders, found by reference, person and place, taken as a pattern; never what is somebody else's."""

from __future__ import annotations

from jolly_clerk.office.errors import NotAllowed, NotFound, Stale
from jolly_clerk.office.preparing import drafts, filing, own
from tests.office.test_journey import SMALL_PLAN, Cases


class Own(Cases):
    def found(self, who, words: str) -> tuple[list[str], list[str]]:
        all_found = own.find_own(self.office, who, words)
        return [d.draft.id for d in all_found.drafts], [row.reference for row in all_found.cases]

    def test_found_by_own_reference_folder_person_place_and_number(self) -> None:
        draft = self.draft()
        drafts.keep(self.office, self.odalys, draft, None, folder="  Saltern   works ")
        reference = filing.file(self.office, self.odalys, self.draft(plan=SMALL_PLAN), take_gaps=True)
        for words in ("roof-4", "ROOF", "saltern slip", "sáltern", "Q-114/2", "4 Saltern"):
            with self.subTest(words):
                self.assertEqual(self.found(self.odalys, words), ([draft], [reference]))
        self.assertEqual(self.found(self.odalys, "saltern works")[0], [draft])
        self.assertEqual(self.found(self.odalys, reference), ([], [reference]))
        self.assertEqual(self.found(self.odalys, "odálys renn"), ([], [reference]), "who files stands in the case")
        self.assertEqual(self.found(self.odalys, reference[-7:]), ([], [reference]))
        for words in ("", "x", "nothing like it", "roof pier"):
            self.assertEqual(self.found(self.odalys, words), ([], []))

    def test_nothing_of_somebody_else_is_found_or_taken(self) -> None:
        draft = self.draft()
        reference = filing.file(self.office, self.odalys, self.draft(plan=SMALL_PLAN), take_gaps=True)
        self.assertEqual(self.found(self.tamsin, "saltern"), ([], []))
        for name in (draft, reference, "BW-99-1", "nothing"):
            with self.subTest(name), self.assertRaises(NotFound):
                own.begin_like(self.office, self.tamsin, name)
        with self.assertRaises((NotAllowed, NotFound)):
            own.begin_like(self.office, self.imre, reference)

    def test_a_pattern_gives_its_answers_and_nothing_else(self) -> None:
        reference = filing.file(self.office, self.odalys, self.draft(plan=SMALL_PLAN), take_gaps=True)
        for name, called in ((reference, reference), (self.draft(), "New workshop roof, 4 Saltern Slip")):
            with self.subTest(name):
                made = drafts.open_draft(self.office, self.odalys, own.begin_like(self.office, self.odalys, name))
                dossier = made.dossier
                self.assertEqual(dossier.answers["works"]["area"], "95.8")
                self.assertEqual((dossier.attachments, dossier.signature, dossier.declared), ((), None, ()))
                self.assertEqual(made.draft.own_reference, "")
                given = {p.place: (p.source, p.key) for p in dossier.prefilled}
                self.assertEqual(given["works.area"], ("pattern", called))
        drafts.keep(
            self.office,
            self.odalys,
            made.draft.id,
            None,
            {**dossier.answers, "works": {**dossier.answers["works"], "area": "12"}},
        )
        changed = drafts.open_draft(self.office, self.odalys, made.draft.id)
        self.assertEqual(changed.assessment.altered, (), "a pattern is there to be changed")

    def test_what_the_form_does_not_ask_any_more_stays_behind(self) -> None:
        draft = self.draft()
        now = drafts.open_draft(self.office, self.odalys, draft).dossier.answers
        drafts.keep(self.office, self.odalys, draft, None, {**now, "works": {**now["works"], "gone": "x"}, "old": {"a": "b"}})
        made = drafts.open_draft(self.office, self.odalys, own.begin_like(self.office, self.odalys, draft))
        self.assertNotIn("gone", made.dossier.answers["works"])
        self.assertEqual(made.dossier.answers.get("old", {}), {})

    def test_two_windows_put_it_into_two_folders(self) -> None:
        draft = self.draft()
        seen = drafts.open_draft(self.office, self.odalys, draft).draft.revision
        drafts.keep(self.office, self.odalys, draft, seen, folder="One")
        with self.assertRaises(Stale):
            drafts.keep(self.office, self.odalys, draft, seen, folder="Two")
        self.assertEqual(drafts.open_draft(self.office, self.odalys, draft).draft.folder, "One")
