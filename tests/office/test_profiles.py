"""The profile of an applicant: kept, checked, and what a filing that begins with it says about where an answer came from."""

from __future__ import annotations

from datetime import date

from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.preparing import drafts
from jolly_clerk.office.preparing.profiles import Kept, Profile, keep_profile, profile
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.nodes import UnreadableRulebook
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook
from tests.helpers import OfficeTest


class Profiles(OfficeTest):
    def setUp(self) -> None:
        super().setUp()
        publish(self.office, SHIPPED / "CP" / "2026-01-01.yaml")

    def begun(self, kind: str = "CP", answers: dict | None = None) -> drafts.OpenDraft:
        return drafts.open_draft(self.office, self.odalys, drafts.start_draft(self.office, self.odalys, kind, answers))

    def test_it_is_kept_and_belongs_to_one_person(self) -> None:
        self.assertEqual(profile(self.office, self.odalys.id), Profile("Odalys Renn", "", "", ""))
        kept = keep_profile(self.office, self.odalys, Kept("  4 Saltern   Slip ", "0300 55-12"))
        self.assertEqual((kept.address, kept.telephone), ("4 Saltern Slip", "0300 55-12"))
        self.assertEqual(profile(self.office, self.imre.id).address, "")

    def test_what_does_not_fit_is_said_at_its_place(self) -> None:
        for address, telephone, place in (("x" * 301, "", "address"), ("", "call me", "telephone"), ("", "1" * 41, "telephone")):
            with self.subTest(place), self.assertRaises(Invalid) as caught:
                keep_profile(self.office, self.odalys, Kept(address, telephone))
            self.assertEqual(caught.exception.place, place)

    def test_a_filing_begins_with_it_and_remembers_the_source(self) -> None:
        keep_profile(self.office, self.odalys, Kept("4 Saltern Slip"))
        now = self.begun()
        maker = next(part for part in now.dossier.answers)
        self.assertEqual(now.dossier.answers[maker], {"name": "Odalys Renn", "address": "4 Saltern Slip"})
        came = {(p.place, p.source, p.key, p.value, p.at) for p in now.dossier.prefilled}
        self.assertIn((f"{maker}.address", "profile", "address", "4 Saltern Slip", self.instant), came)
        self.assertEqual(now.assessment.altered, ())

    def test_what_the_way_in_answered_goes_before_and_a_change_is_flagged(self) -> None:
        keep_profile(self.office, self.odalys, Kept("4 Saltern Slip"))
        part = next(iter(self.begun().dossier.answers))
        now = self.begun("CP", {part: {"name": "Tidewater Works"}})
        self.assertEqual(now.dossier.answers[part]["name"], "Tidewater Works")
        self.assertEqual([p.key for p in now.dossier.prefilled], ["address"])
        changed = drafts.keep(self.office, self.odalys, now.draft.id, None, answers={part: {"address": "1 Pier Road"}})
        (flag,) = changed.assessment.altered
        self.assertEqual(
            (flag.place, flag.was, flag.now, flag.source), (f"{part}.address", "4 Saltern Slip", "1 Pier Road", "profile")
        )

    def test_a_profile_fills_one_text_only(self) -> None:
        text = (SHIPPED / "CP" / "2026-01-01.yaml").read_text("utf-8")
        with self.assertRaises(UnreadableRulebook) as caught:
            read_rulebook(text.replace("type: place, profile: address", "type: date, profile: address"), "x.yaml")
        self.assertIn(
            "fills a question of type `text`, `person` or `place`, in a part that does not repeat", str(caught.exception)
        )

    def test_birth_language_letters_and_firm(self) -> None:
        publish(self.office, next(SHIPPED.glob("PL/*.yaml")))
        told = Kept("4 Saltern Slip", "", date(1988, 2, 29), " Renn  Works ", "pt", "print")
        kept = keep_profile(self.office, self.odalys, told)
        self.assertEqual((kept.born, kept.firm, kept.called), ("1988-02-29", "Renn Works", "Renn Works"))
        person = self.begun("PL").dossier.answers["person"]
        self.assertEqual(
            {q: person.get(q) for q in ("name", "born", "address")},
            {"name": "Odalys Renn", "born": "1988-02-29", "address": "4 Saltern Slip"},
        )
        self.assertEqual((person["language"], person["post"]), ("pt", "print"))
        maker = next(iter(self.begun("CP").dossier.answers.values()))
        self.assertEqual((maker["name"], maker["language"], maker["post"]), ("Renn Works", "pt", "print"))
        for wrong, place in (
            (Kept(born=date(2031, 1, 1)), "born"),
            (Kept(firm="x" * 121), "firm"),
            (Kept(language="tlh"), "language"),
            (Kept(letters="by crow"), "letters"),
        ):
            with self.subTest(place), self.assertRaises(Invalid) as caught:
                keep_profile(self.office, self.odalys, wrong)
            self.assertEqual(caught.exception.place, place)
