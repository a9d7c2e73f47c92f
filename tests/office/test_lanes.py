"""A trial in lanes: letters, answers, versions, clocks and outcomes of each by itself, and the case over them."""

from __future__ import annotations

from datetime import date
from typing import Any

from jolly_clerk.core.assessment import Assessment
from jolly_clerk.demo import dossiers, papers
from jolly_clerk.office.cases import endings, lists, notices, paying
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, handwork, registers, reviewing
from jolly_clerk.office.errors import NotFound, NotReady
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.office import Who
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.post.papers import paper as paper_of
from jolly_clerk.office.preparing import answering, attaching, drafts, filing, prefilling, signing
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.office.views.case import look_at
from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.helpers import OfficeTest
from tests.office.test_journey import text_of

SITES = (("Quill Infirmary", "Ines Marrow", 60), ("Near Skerry House", "Tom Ashby", 40))


class Trials(OfficeTest):
    def setUp(self) -> None:
        super().setUp()
        for kind in ("CP", "CT"):
            publish(self.office, SHIPPED / kind / "2026-01-01.yaml")
        add_person(self.office, "silas", "Silas Thorne", "reviewer")

    def tearDown(self) -> None:
        self.assertEqual(list(verify(self.office)), [])
        self.assertEqual(rebuild(self.office), 0)

    def prepared(self, kind: str, made: dossiers.Dossier) -> str:
        draft = drafts.start_draft(self.office, self.odalys, kind)
        drafts.keep(self.office, self.odalys, draft, None, answers=made[0])
        for slot, name, content in made[1]:
            attaching.attach(self.office, self.odalys, draft, slot, name, content)
        for said in drafts.open_draft(self.office, self.odalys, draft).rulebook.declarations:
            signing.declare(self.office, self.odalys, draft, said.declaration.declare, True)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        return draft

    def file(self, draft: str) -> str:
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        at = paying.ask_payment(self.office, self.odalys, reference)
        notices.at_stand_in(self.office, self.odalys, at.key, "approved")
        return reference

    def product(self) -> str:
        return self.file(self.prepared("CP", dossiers.product("Odalys Renn", "Ondrelin")))

    def trial(self, file: str, **more: Any) -> str:
        made = dossiers.trial(date(2026, 11, 5), "Odalys Renn", "TW-7", "Winter cough", file, "Ondrelin", SITES, **more)
        return self.file(self.prepared("CT", made))

    def said(self, reference: str) -> Assessment:
        return load_case(self.office, self.imre, reference).assessment

    def judge(self, reference: str, **special: str) -> None:
        """Judge everything met but what is told; the rest of an id may stand for it (``contract_2``)."""
        told = {id_.replace("__", "-").replace("_2", ".2"): standing for id_, standing in special.items()}
        for r in self.said(reference).requirements:
            if r.asked and not r.judged:
                given = told.get(r.id.removeprefix("documents."), "met")
                checking.judge(self.office, self.imre, reference, r.id, given, "Looked at by hand.")  # type: ignore[arg-type]

    def begun(self, **more: Any) -> str:
        self.complete_product()
        reference = self.trial(self.file_reference, **more)
        self.move_to(2026, 11, 9)
        checking.begin_checking(self.office, self.imre, reference)
        return reference

    def complete_product(self) -> None:
        self.file_reference = self.product()
        checking.begin_checking(self.office, self.imre, self.file_reference)
        self.judge(self.file_reference)
        checking.accept(self.office, self.imre, self.file_reference)

    def standing(self, reference: str, id_: str) -> str:
        found = self.said(reference).requirement(id_)
        assert found is not None
        return found.standing

    def states(self, reference: str) -> tuple[str, ...]:
        a = self.said(reference)
        return (a.state, *(lane.state for lane in a.lanes))


class Lanes(Trials):
    def test_a_declaration_is_ticked_and_taken_back(self) -> None:
        draft = drafts.start_draft(self.office, self.odalys, "CT")
        ticked = signing.declare(self.office, self.odalys, draft, "data_kept", True).dossier.declared
        self.assertEqual([(d.id, d.at) for d in ticked], [("data_kept", self.instant)])
        self.assertIn("15 years", ticked[0].text)
        again = signing.declare(self.office, self.odalys, draft, "data_kept", True)
        self.assertEqual(len(again.dossier.declared), 1)
        self.assertEqual(signing.declare(self.office, self.odalys, draft, "data_kept", False).dossier.declared, ())
        with self.assertRaises(NotFound):
            signing.declare(self.office, self.odalys, draft, "nothing_such", True)
        with self.assertRaises(NotFound):
            signing.declare(self.office, self.imre, draft, "data_kept", True)

    def test_each_lane_has_its_own_letter_answers_and_clock(self) -> None:
        reference = self.begun(uncontracted=(2,), insured=4_000_000)
        self.judge(reference, contract_2="wanting", insured__enough="wanting")
        a = self.said(reference)
        self.assertEqual(
            [lane.title for lane in a.lanes], ["The trial itself", "Site 1, Quill Infirmary", "Site 2, Near Skerry House"]
        )
        self.assertEqual(
            [[p.title for p in lane.points] for lane in a.lanes],
            [["Insure for enough"], [], ["Send: Contract with the site (Site 2, Near Skerry House)"]],
        )
        with self.assertRaises(NotReady):
            checking.send_letter(self.office, self.imre, reference, lane="sites.1")
        self.move_to(2026, 11, 12)
        checking.send_letter(self.office, self.imre, reference, lane="sites.2")
        self.assertEqual(self.states(reference), ("Being checked", "Being checked", "Being checked", "Answers wanted"))
        self.move_to(2026, 11, 13)
        checking.send_letter(self.office, self.imre, reference)
        self.assertEqual(self.states(reference), ("Answers wanted", "Answers wanted", "Being checked", "Answers wanted"))
        limits = {lane.id: lane.clock and lane.clock.limit_day for lane in self.said(reference).lanes}
        self.assertEqual(limits, {"": date(2026, 11, 27), "sites.1": date(2026, 11, 16), "sites.2": date(2026, 11, 26)})
        self.answer(reference)

    def answer(self, reference: str) -> None:
        """The answers of one lane change nothing of another, though both are prepared side by side."""
        site = answering.begin_answering(self.office, self.odalys, reference, "sites.2")
        common = answering.begin_answering(self.office, self.odalys, reference)
        self.assertNotEqual(site, common)
        attaching.attach(self.office, self.odalys, site, "contract.2", "contract.pdf", papers.paper("Contract", "(signed)"))
        given = drafts.open_draft(self.office, self.odalys, common).dossier.answers
        given = {**given, "insurance": {**given["insurance"], "sum": "5000000.00"}}
        drafts.keep(self.office, self.odalys, common, None, answers=given, words={1: "Raised."})
        shown = drafts.open_draft(self.office, self.odalys, common)
        self.assertEqual(shown.assessment.requirement("documents.contract.2").proposed, "wanting")  # type: ignore[union-attr]
        self.move_to(2026, 11, 25)
        signing.sign(self.office, self.odalys, site, self.odalys.name)
        answering.send_answers(self.office, self.odalys, site)
        self.assertEqual(self.states(reference), ("Answers wanted", "Answers wanted", "Being checked", "Answers came back"))
        self.assertEqual(self.standing(reference, "insured-enough"), "wanting")
        self.assertIn("contract.2", {a.slot for a in drafts.open_draft(self.office, self.odalys, common).dossier.attachments})
        signing.sign(self.office, self.odalys, common, self.odalys.name)
        answering.send_answers(self.office, self.odalys, common)
        a = self.said(reference)
        self.assertEqual([lane.version for lane in a.lanes], [2, 1, 2])
        self.assertEqual([u for lane in a.lanes for r in lane.rounds for u in r.unasked], [])
        self.assertEqual(a.lane("sites.2").rounds[0].points[0].changes[0].now, "contract.pdf")
        # four of the seven days were used when the letter went; 26, 27 and 30 November are left
        self.assertEqual(a.lane("sites.2").clock.limit_day, date(2026, 11, 30))  # type: ignore[union-attr]
        checking.close_point(self.office, self.imre, reference, 1, lane="sites.2")
        self.assertEqual(self.standing(reference, "documents.contract.2"), "met")
        self.assertEqual(a.lane("").rounds[0].points[0].state, "answered")
        with self.assertRaises(NotFound):
            checking.close_point(self.office, self.imre, reference, 1, lane="sites.1")
        with self.assertRaises(NotFound):
            checking.close_point(self.office, self.imre, reference, 1, lane="sites.9")

    def test_complete_with_the_common_lane_and_one_site(self) -> None:
        reference = self.begun(uncontracted=(2,))
        self.judge(reference, contract_2="wanting")
        checking.accept(self.office, self.imre, reference, lane="sites.1")
        self.assertEqual(self.states(reference), ("Being checked", "Being checked", "Complete", "Being checked"))
        with self.assertRaises(NotReady):
            checking.judge(self.office, self.imre, reference, "trained.1", "in doubt")
        self.move_to(2026, 11, 11)
        checking.accept(self.office, self.imre, reference)
        self.assertEqual(self.states(reference), ("Complete", "Complete", "Complete", "Being checked"))
        reviewing.hand_over(self.office, self.imre, reference, "silas")
        # the other site joins later
        checking.send_letter(self.office, self.imre, reference, lane="sites.2")
        draft = answering.begin_answering(self.office, self.odalys, reference, "sites.2")
        attaching.attach(self.office, self.odalys, draft, "contract.2", "contract.pdf", papers.paper("Contract", "(signed)"))
        self.move_to(2026, 11, 16)
        signing.sign(self.office, self.odalys, draft, self.odalys.name)
        answering.send_answers(self.office, self.odalys, draft)
        checking.close_point(self.office, self.imre, reference, 1, lane="sites.2")
        checking.accept(self.office, self.imre, reference, lane="sites.2")
        self.assertEqual(self.states(reference), ("Under review", "Under review", "Under review", "Under review"))
        self.assertEqual(self.said(reference).clock.limit_day, date(2027, 1, 19))  # type: ignore[union-attr]
        told = [m.text for m in look_at(self.office, self.imre, reference).story if "omplete" in m.text and not m.inner]
        decided = "Accepted as complete; the decision is planned by Tue 19 Jan 2027"
        self.assertEqual(told, ["Site 1, Quill Infirmary: Complete", decided, "Site 2, Near Skerry House: Complete"])

    def test_the_permit_names_the_sites_that_are_complete(self) -> None:
        reference = self.begun(uncontracted=(2,))
        self.judge(reference, contract_2="wanting")
        for lane in ("sites.1", ""):
            checking.accept(self.office, self.imre, reference, lane=lane)
        reviewing.hand_over(self.office, self.imre, reference, "silas")
        done = reviewing.grant(self.office, Who("silas", "Silas Thorne", "reviewer"), reference)
        self.assertEqual(done.assessment.state, "Granted")
        said = {told.label: told.value for told in reviewing.check_permit(self.office, done.so_far.issued.code).says}  # type: ignore[union-attr]
        self.assertEqual(said["Site 1, Name"], "Quill Infirmary")
        self.assertNotIn("Site 2, Name", said)
        self.assertNotIn("Site 1, Led by", said)  # on the permit, but not open to everybody
        _, paper = paper_of(self.office, done, len(done.history.entries))
        text = text_of(paper)
        self.assertIn("Ines Marrow", text)
        self.assertNotIn("Near Skerry House", text)

    def test_a_site_that_is_closed_or_lapses_leaves_the_others(self) -> None:
        reference = self.begun(uncontracted=(2,))
        self.judge(reference, contract_2="wanting")
        checking.accept(self.office, self.imre, reference)
        endings.do_not_accept(self.office, self.imre, reference, "It cannot be reached at night.", lane="sites.1")
        self.assertEqual(self.states(reference), ("Being checked", "Complete", "Not accepted", "Being checked"))
        self.move_to(2026, 11, 12)
        checking.send_letter(self.office, self.imre, reference, lane="sites.2")
        self.assertEqual(self.said(reference).state, "Answers wanted")
        self.move_to(2026, 11, 19, 7)
        self.assertEqual(run_clock(self.office).reminded, 1)
        self.assertEqual(run_clock(self.office).reminded, 0)
        handwork.more_time(self.office, self.odalys, reference, lane="sites.2")
        self.move_to(2026, 12, 3, 23)
        self.assertEqual(run_clock(self.office).lapsed, 0)
        self.move_to(2026, 12, 4, 1)
        self.assertEqual(run_clock(self.office).lapsed, 1)
        self.assertEqual(self.states(reference), ("Being checked", "Complete", "Not accepted", "Lapsed"))
        # no site is left, so the officer ends the whole
        endings.do_not_accept(self.office, self.imre, reference, "No site is left.")
        self.assertEqual(self.states(reference)[0], "Not accepted")

    def test_lists_show_the_nearest_limit_and_whose_it_is(self) -> None:
        reference = self.begun(uncontracted=(2,))
        row = next(r for r in lists.tray(self.office, self.imre, "mine").rows if r.reference == reference)
        self.assertEqual((row.limit_of, row.limit_day), ("Site 1, Quill Infirmary", date(2026, 11, 16)))
        self.judge(reference, contract_2="wanting")
        checking.send_letter(self.office, self.imre, reference, lane="sites.2")
        row = next(r for r in lists.tray(self.office, self.imre, "mine").rows if r.reference == reference)
        self.assertEqual((row.group != "waiting", row.holder), (True, "ours"))
        mine = next(r for at in lists.my_cases(self.office, self.odalys) for r in at.rows if r.reference == reference)
        self.assertEqual((mine.holder, mine.next), ("theirs", "Site 2, Near Skerry House: Answer 1 point"))

    def test_withdrawn_ends_every_lane(self) -> None:
        reference = self.begun()
        endings.withdraw(self.office, self.odalys, reference)
        self.assertEqual(set(self.states(reference)), {"Withdrawn"})
        moves = {m.move for lane in self.said(reference).lanes[1:] for m in lane.moves if m.allowed}
        self.assertEqual(moves, set())


class ProductFile(Trials):
    def test_a_trial_waits_for_its_product_file(self) -> None:
        file = self.product()
        draft = self.prepared("CT", dossiers.trial(date(2026, 11, 5), "Odalys Renn", "TW-7", "Cough", file, "Ondrelin", SITES))
        found = drafts.open_draft(self.office, self.odalys, draft).assessment.requirement("product-file")
        assert found is not None
        self.assertEqual(
            (found.proposed, found.because),
            ("wanting", f"{file} is “Filed”; it has to be “Complete” or “Under review” or “Granted”."),
        )
        reference = self.file(draft)
        checking.begin_checking(self.office, self.imre, reference)
        self.assertEqual(self.standing(reference, "product-file"), "wanting")
        checking.begin_checking(self.office, self.imre, file)
        self.judge(file)
        checking.accept(self.office, self.imre, file)
        handwork.ask_register(self.office, self.imre, reference, "product_files")
        self.assertEqual(self.standing(reference, "product-file"), "met")

    def test_the_substance_is_taken_over_and_nobody_sees_anothers_file(self) -> None:
        file = self.product()
        draft = drafts.start_draft(self.office, self.odalys, "CT")
        done = prefilling.take_over(self.office, self.odalys, draft, "product_files", file.lower())
        self.assertEqual(done.dossier.answers["product"]["substance"], "Ondrelin")
        self.assertIn("product_files", [p.source for p in done.dossier.prefilled])
        found = registers.search(self.office, done.rulebook, "product_files", "ondrelin", "odalys")
        self.assertEqual([row["reference"] for row in found.rows], [file])
        self.assertEqual(registers.search(self.office, done.rulebook, "product_files", "ondrelin", "tamsin").rows, ())
        other = drafts.start_draft(self.office, self.tamsin, "CT")
        with self.assertRaises(NotFound):
            prefilling.take_over(self.office, self.tamsin, other, "product_files", file)
