"""Editions: published, found by their day, never read from the tree again. People: sessions and who sees what."""

from __future__ import annotations

from datetime import date, timedelta

from jolly_clerk.office.cases import lists
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound
from jolly_clerk.office.office import new_id
from jolly_clerk.office.people import directory as people
from jolly_clerk.office.people.directory import names
from jolly_clerk.office.preparing import attaching
from jolly_clerk.office.rules.rulebooks import calendar_of, edition_on, kinds, known_for, office_calendar, publish, rulebook
from jolly_clerk.office.views.case import file_of_case, look_at
from jolly_clerk.office.views.form import form_of
from jolly_clerk.shelf.nodes import UnreadableRulebook
from jolly_clerk.store.database import write_session
from jolly_clerk.store.tables import Person, StoredReading
from tests.helpers import EDITION, OfficeTest, sqlite_only
from tests.office.test_journey import PLAN, Cases

TEXT = EDITION.read_text("utf-8")


class AtTheDoor(OfficeTest):
    def test_of_many_applicants_the_first_stand_there_and_everybody_of_the_office(self) -> None:
        with write_session(self.office.engine) as session:
            for n in range(people.AT_THE_DOOR + 20):
                session.add(Person(id=f"p{n}", name=f"Ada Marsh {n:03}", role="applicant"))
        found = people.people(self.office)
        self.assertEqual(len(found), people.AT_THE_DOOR)
        self.assertLessEqual({"imre", "maud", "anselm"}, {one.id for one in found})
        self.assertEqual([one.name for one in found][3:5], ["Ada Marsh 000", "Ada Marsh 001"])


class Editions(OfficeTest):
    def edition(self, in_force: str, *changes: tuple[str, str]) -> str:
        text = TEXT.replace("in_force: 2026-07-01", f"in_force: {in_force}")
        for old, new in changes:
            text = text.replace(old, new)
        file = self.folder / f"{in_force}.yaml"
        file.write_text(text, "utf-8")
        return publish(self.office, file)

    def test_the_newest_that_is_in_force_decides(self) -> None:
        first = edition_on(self.office, "BW", date(2026, 11, 5))
        second = self.edition("2026-11-10")
        third = self.edition("2027-01-01", ("adds: 8.25", "adds: 9.00"))
        for day, sha256 in (
            (date(2026, 7, 1), first), (date(2026, 11, 9), first), (date(2026, 11, 10), second), (date(2026, 12, 31), second),
            (date(2027, 1, 1), third), (date(2030, 1, 1), third),
        ):  # fmt: skip
            self.assertEqual(edition_on(self.office, "BW", day), sha256, day)
        for kind, day in (("BW", date(2026, 6, 30)), ("QV", date(2026, 11, 5))):
            with self.assertRaises(NotFound):
                edition_on(self.office, kind, day)

    def test_publishing_the_same_again_is_harmless_and_another_from_that_day_is_refused(self) -> None:
        self.assertEqual(publish(self.office, EDITION), edition_on(self.office, "BW", date(2026, 11, 5)))
        with self.assertRaises(Invalid):
            self.edition("2026-07-01", ("adds: 8.25", "adds: 9.00"))

    def test_a_faulty_edition_is_refused_whole(self) -> None:
        with self.assertRaises(UnreadableRulebook):
            self.edition("2026-11-10", ("works.distance <= 30.0", "works.distnace <= 30.0"))
        self.assertEqual(len(kinds(self.office, date(2026, 12, 1))), 1)

    def test_a_published_edition_is_not_read_from_the_tree_again(self) -> None:
        sha256 = self.edition("2026-11-10", ("flat: 120.00", "flat: 130.00"))
        (self.folder / "2026-11-10.yaml").write_text("gone", "utf-8")
        self.office.rulebooks.clear()
        self.office.calendars.clear()
        line = next(x for x in rulebook(self.office, sha256).lines if x.line.line == "shoreline")
        self.assertEqual(str(line.line.flat), "130.00")
        self.assertEqual(calendar_of(self.office, sha256).name, "quillhaven")
        self.assertEqual(office_calendar(self.office).version, "2026-01")

    def test_an_edition_that_was_never_published(self) -> None:
        with self.assertRaises(NotFound):
            calendar_of(self.office, "0" * 64)

    def test_the_form_is_the_rulebooks(self) -> None:
        (rules,) = kinds(self.office, date(2026, 11, 5))
        form = form_of(rules)
        self.assertEqual((form.kind, form.currency, form.incomplete_filing), ("BW", "EUR", "warn"))
        self.assertEqual([s.slot for s in form.slots], ["site_plan", "sections", "consent"])
        self.assertEqual(form.slots[2].accepts, "PDF, PNG or JPEG, 1 to 3 files, at most 10 MB each")

    def test_the_newest_reading_of_a_file_counts(self) -> None:
        ((sha256, _),) = attaching.keep_files(self.office, self.odalys, [PLAN])
        edition = edition_on(self.office, "BW", date(2026, 11, 5))
        first = known_for(self.office, edition, {sha256}).readings[sha256]
        later = first.model_copy(update={"reader": "99", "pages": ()})
        with write_session(self.office.engine) as session:
            at = self.instant + timedelta(days=1)
            session.add(StoredReading(sha256=sha256, reader="99", reading=later.model_dump_json(), read_at=at))
        self.assertEqual(known_for(self.office, edition, {sha256}).readings[sha256].reader, "99")
        self.assertEqual(known_for(self.office, edition, set()).readings, {})


class People(Cases):
    def test_a_session_from_click_to_sign_out(self) -> None:
        begun = people.sign_in_by_click(self.office, "imre")
        found = people.signed_in(self.office, begun.secret)
        assert found
        self.assertEqual((found.who.name, found.who.is_officer, found.who.sees_all), ("Imre Holt", True, True))
        self.assertIsNone(people.signed_in(self.office, begun.secret + "x"))
        people.sign_out(self.office, begun.secret)
        self.assertIsNone(people.signed_in(self.office, begun.secret))

    def test_sessions_end_after_their_hours_and_are_swept(self) -> None:
        begun = people.sign_in_by_click(self.office, "imre")
        self.instant += timedelta(hours=self.office.settings.session_hours, seconds=1)
        self.assertIsNone(people.signed_in(self.office, begun.secret))
        other = people.sign_in_by_click(self.office, "maud")
        self.assertIsNotNone(people.signed_in(self.office, other.secret))

    @sqlite_only
    def test_secrets_are_not_kept(self) -> None:
        begun = people.sign_in_by_click(self.office, "imre")
        self.office.engine.dispose()
        self.assertNotIn(begun.secret.encode(), (self.folder / "office.db").read_bytes())

    def test_nobody_and_nowhere(self) -> None:
        with self.assertRaises(NotFound):
            people.sign_in_by_click(self.office, "nobody")
        self.office.demo = False
        with self.assertRaises(NotAllowed):
            people.sign_in_by_click(self.office, "imre")

    def test_a_name_can_be_put_right(self) -> None:
        people.add_person(self.office, "imre", "Imre van Holt", "officer")
        self.assertEqual(names(self.office, ["imre"])["imre"], "Imre van Holt")
        self.assertEqual(len({new_id() for _ in range(100)}), 100)

    def test_roles_and_what_they_see(self) -> None:
        reference = self.filed()
        silas = people.add_person(self.office, "silas", "Silas Thorne", "reviewer")
        petra = people.add_person(self.office, "petra", "Petra Lune", "rule-keeper")
        for who, sees in (
            (self.odalys, True),
            (self.imre, True),
            (self.maud, True),
            (self.anselm, True),
            (silas, False),  # nothing was handed over
            (petra, False),
            (self.tamsin, False),
        ):
            with self.subTest(who.role):
                if sees:
                    self.assertEqual(look_at(self.office, who, reference).reference, reference)
                else:
                    with self.assertRaises(NotFound):
                        look_at(self.office, who, reference)
        for who in (petra, self.odalys):
            with self.assertRaises(NotAllowed):
                lists.search(self.office, who, "saltern")

    def test_files_are_reached_only_through_their_case(self) -> None:
        reference, other = self.filed(), self.filed()
        attachment = load_case(self.office, self.odalys, reference).dossier.attachments[0]
        self.assertEqual(file_of_case(self.office, self.odalys, reference, attachment.sha256).name, "plan.pdf")
        self.assertEqual(file_of_case(self.office, self.imre, other, attachment.sha256).name, "plan.pdf")
        for who, ref, sha in ((self.tamsin, reference, attachment.sha256), (self.odalys, reference, "0" * 64)):
            with self.assertRaises(NotFound):
                file_of_case(self.office, who, ref, sha)
