"""What an officer does by hand: fees with a second person, registers, own requirements, points arranged, steps undone."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal

from fastapi.testclient import TestClient
from sqlalchemy import func, select

from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.dossier.model import Prefilled
from jolly_clerk.office.cases import endings, notices, paying
from jolly_clerk.office.cases.casework import Loaded, load_case
from jolly_clerk.office.desk import checking, handwork, talking
from jolly_clerk.office.desk.registers import search
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, Stale
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.people.directory import sign_in_by_click
from jolly_clerk.office.preparing import answering, attaching, drafts, filing, prefilling, signing
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.office.views.case import look_at
from jolly_clerk.office.views.draft import draft_view
from jolly_clerk.office.views.opened import opened
from jolly_clerk.shelf.rulebooks import SHIPPED
from jolly_clerk.store.beside import CaseRead
from jolly_clerk.store.database import read_session
from jolly_clerk.web.app import create_app
from jolly_clerk.web.asking import COOKIE
from tests.office.test_journey import ROOF, Cases


class Checking(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.reference = self.filed()
        checking.begin_checking(self.office, self.imre, self.reference)

    def now(self) -> Loaded:
        return load_case(self.office, self.imre, self.reference)

    def assessment(self) -> Assessment:
        return self.now().assessment


class Fees(Checking):
    def test_up_to_the_limit_one_person_is_enough(self) -> None:
        done = handwork.set_fee(self.office, self.imre, self.reference, "examination", Decimal("218.18"), "Half a plan only.")
        line = next(x for x in done.assessment.fees.lines if x.id == "examination")
        self.assertEqual(line.amount, Decimal("218.18"))
        self.assertIn("set to 218.18 by the office: Half a plan only.", line.working())
        self.assertEqual(done.assessment.account.over, Decimal("100.00"))
        self.assertEqual(done.so_far.fees_waiting, {})

    def test_one_cent_above_it_waits_for_a_second_person(self) -> None:
        args = (self.office, self.imre, self.reference)
        done = handwork.set_fee(*args, "examination", Decimal("218.17"), "Half a plan only.")
        self.assertEqual(next(x for x in done.assessment.fees.lines if x.id == "examination").amount, Decimal("318.18"))
        self.assertIn("examination", done.so_far.fees_waiting)
        stopped = " ".join(w.text for w in done.assessment.move("officer", "accept as complete").why_not)
        self.assertIn("waits for a second person", stopped)
        with self.assertRaises(NotAllowed):
            handwork.settle_fee(*args, "examination", True)
        done = handwork.settle_fee(self.office, self.maud, self.reference, "examination", True)
        self.assertEqual(next(x for x in done.assessment.fees.lines if x.id == "examination").amount, Decimal("218.17"))
        with self.assertRaises(NotFound):
            handwork.settle_fee(self.office, self.maud, self.reference, "examination", True)

    def test_a_lead_is_no_second_person_for_the_own_word(self) -> None:
        handwork.set_fee(self.office, self.maud, self.reference, "shoreline", None, "Storm damage.")
        with self.assertRaises(NotAllowed):
            handwork.settle_fee(self.office, self.maud, self.reference, "shoreline", True)

    def test_not_confirmed_nothing_changes(self) -> None:
        handwork.set_fee(self.office, self.imre, self.reference, "shoreline", None, "Storm damage.")
        done = handwork.settle_fee(self.office, self.maud, self.reference, "shoreline", False, "It is no storm damage.")
        self.assertEqual(next(x for x in done.assessment.fees.lines if x.id == "shoreline").state, "settled")

    def test_a_waived_line_is_nothing_and_its_share_stays(self) -> None:
        handwork.set_fee(self.office, self.imre, self.reference, "permit", None, "A gift of the council.")
        done = handwork.settle_fee(self.office, self.maud, self.reference, "permit", True)
        lines = {x.id: x for x in done.assessment.fees.lines}
        self.assertEqual((lines["permit"].state, lines["permit"].amount), ("waived", Decimal("0.00")))
        self.assertEqual(lines["examination"].amount, Decimal("318.18"))

    def test_what_cannot_be_set(self) -> None:
        for line, amount, reason, error in (
            ("cellar", Decimal(1), "why not", NotFound),
            ("permit", Decimal("-1"), "why not", Invalid),
            ("permit", Decimal("1.001"), "why not", Invalid),
            ("permit", Decimal(1), " ", Invalid),
        ):
            with self.subTest(line), self.assertRaises(error):
                handwork.set_fee(self.office, self.imre, self.reference, line, amount, reason)


class Requirements(Checking):
    def test_something_the_rules_did_not_foresee_becomes_a_point(self) -> None:
        done = handwork.add_requirement(self.office, self.imre, self.reference, "Bat survey", "Send the survey of the bats.")
        added = done.assessment.requirement("added-1")
        assert added
        self.assertEqual((added.kind, added.proposed, added.standing), ("added", "to read", "wanting"))
        self.assertFalse(done.assessment.move("officer", "accept as complete").allowed)
        self.assertIsNone(look_at(self.office, self.odalys, self.reference).assessment.requirement("added-1"))
        sent = checking.send_letter(self.office, self.imre, self.reference)
        self.assertEqual(sent.so_far.rounds[0].points[1].asked.text, "Send the survey of the bats.")
        draft = answering.begin_answering(self.office, self.odalys, self.reference)
        self.assertEqual(drafts.open_draft(self.office, self.odalys, draft).assessment.rounds[0].points[0].needs, "a few words")
        drafts.keep(self.office, self.odalys, draft, None, words={1: "There are none."})
        signing.sign(self.office, self.odalys, draft, self.odalys.name)
        answering.send_answers(self.office, self.odalys, draft)
        closed = checking.close_point(self.office, self.imre, self.reference, 1)
        found = closed.assessment.requirement("added-1")
        assert found
        self.assertEqual(found.standing, "met")

    def test_what_is_asked_besides_may_be_answered_by_a_file_in_a_slot_of_its_own(self) -> None:
        handwork.add_requirement(
            self.office, self.imre, self.reference, "Photograph of the quay wall", "Send a photograph.", answer="file"
        )
        checking.send_letter(self.office, self.imre, self.reference)
        draft = answering.begin_answering(self.office, self.odalys, self.reference)
        view = draft_view(drafts.open_draft(self.office, self.odalys, draft))
        self.assertEqual(
            [(s.slot, s.of, s.title, s.says) for s in view.item_slots if not s.of],
            [("added-1", "", "Photograph of the quay wall", "Send a photograph.")],
        )
        point = view.assessment.rounds[0].points[-1]
        self.assertEqual([(p.ref, p.label) for p in point.places], [("documents.added-1", "Photograph of the quay wall")])
        with self.assertRaises(Invalid):
            attaching.attach(self.office, self.odalys, draft, "added-2", "quay.pdf", ROOF)
        attaching.attach(self.office, self.odalys, draft, "added-1", "quay.pdf", ROOF)
        signing.sign(self.office, self.odalys, draft, self.odalys.name)
        answering.send_answers(self.office, self.odalys, draft)
        latest = look_at(self.office, self.imre, self.reference).assessment
        self.assertEqual(latest.rounds[0].unasked, ())
        self.assertEqual([c.now for c in latest.rounds[0].points[-1].changes], ["quay.pdf"])
        added = latest.requirement("added-1")
        assert added
        self.assertEqual(([f.name for f in added.files], added.standing), (["quay.pdf"], "to read"))

    def test_or_by_an_answer_that_is_named(self) -> None:
        for place in ("", "works.nothing", "documents.site_plan"):
            with self.subTest(place), self.assertRaises(Invalid):
                handwork.add_requirement(
                    self.office, self.imre, self.reference, "The use", "Say it again.", answer="answer", place=place
                )
        done = handwork.add_requirement(
            self.office, self.imre, self.reference, "The use", "Say it again.", answer="answer", place="works.use"
        )
        self.assertEqual([p.ref for p in done.assessment.points[-1].places], ["works.use"])


class Points(Checking):
    def wanting(self, *ids: str) -> None:
        for id_ in ids:
            checking.judge(self.office, self.imre, self.reference, id_, "wanting")

    def test_reordered_and_merged_and_parted(self) -> None:
        ids = ("may-act", "documents.site_plan", "documents.sections")
        self.wanting(*ids)
        self.assertEqual([p.requirement for p in self.assessment().points], list(ids))
        handwork.arrange_points(
            self.office, self.imre, self.reference, [["documents.sections"], ["documents.site_plan", "may-act"]]
        )
        points = self.assessment().points
        self.assertEqual(
            [(p.no, p.requirement, p.also) for p in points],
            [(1, "documents.sections", ()), (2, "documents.site_plan", ("may-act",))],
        )
        self.assertIn("\n", points[1].text)
        self.assertEqual({p.ref for p in points[1].places}, {"documents.site_plan", "place.role"})
        checking.word_point(self.office, self.imre, self.reference, "documents.site_plan+may-act", "Both, please.")
        self.assertEqual(self.assessment().points[1].text, "Both, please.")
        with self.assertRaises(Invalid):
            handwork.arrange_points(self.office, self.imre, self.reference, [["documents.sections"]])

    def test_a_merged_point_is_closed_and_asked_again_as_one(self) -> None:
        self.wanting("may-act", "documents.sections")
        handwork.arrange_points(self.office, self.imre, self.reference, [["may-act", "documents.sections"]])
        sent = checking.send_letter(self.office, self.imre, self.reference)
        self.assertEqual(sent.so_far.rounds[0].points[1].asked.also, ("documents.sections",))
        draft = answering.begin_answering(self.office, self.odalys, self.reference)
        drafts.keep(self.office, self.odalys, draft, None, words={1: "As before."})
        signing.sign(self.office, self.odalys, draft, self.odalys.name)
        answering.send_answers(self.office, self.odalys, draft)
        again = checking.ask_again(self.office, self.imre, self.reference, 1, "Not enough.")
        self.assertEqual(
            {r.id for r in again.assessment.requirements if r.standing == "wanting"}, {"may-act", "documents.sections"}
        )
        undone = handwork.undo(self.office, self.imre, self.reference)
        self.assertEqual({r.id for r in undone.assessment.requirements if r.standing == "wanting"}, set())
        closed = checking.close_point(self.office, self.imre, self.reference, 1)
        met = {r.id for r in closed.assessment.requirements if r.judged and r.standing == "met"}
        self.assertLessEqual({"may-act", "documents.sections"}, met)


class Undoing(Checking):
    def test_the_own_last_step_until_the_letter(self) -> None:
        with self.assertRaises(NotReady):
            handwork.undo(self.office, self.imre, self.reference)
        checking.judge(self.office, self.imre, self.reference, "may-act", "met")
        checking.judge(self.office, self.maud, self.reference, "plot-number", "wanting")
        done = handwork.undo(self.office, self.imre, self.reference)
        self.assertEqual([r.id for r in done.assessment.requirements if r.judged], ["plot-number"])
        with self.assertRaises(NotReady):
            handwork.undo(self.office, self.imre, self.reference)
        checking.send_letter(self.office, self.imre, self.reference)
        with self.assertRaises(NotReady):
            handwork.undo(self.office, self.maud, self.reference)
        self.assertEqual(list(verify(self.office)), [])

    def test_a_window_that_looks_again_and_again_is_one_reading(self) -> None:
        with read_session(self.office.engine) as session:
            before = session.scalar(select(func.count()).select_from(CaseRead)) or 0
        for seconds in (0, 15, 15, 29, 2):
            self.instant += timedelta(seconds=seconds)
            opened(self.office, self.imre, self.reference)
        with read_session(self.office.engine) as session:
            self.assertEqual(session.scalar(select(func.count()).select_from(CaseRead)), before + 2)

    def test_a_stale_step_does_nothing(self) -> None:
        seen = self.now().entries
        checking.judge(self.office, self.maud, self.reference, "may-act", "met")
        with self.assertRaises(Stale) as caught:
            endings.do_not_accept(self.office, self.imre, self.reference, "It cannot be checked.", seen)
        self.assertIn("Maud Ferrier judged “Applicant may act for the owner” met", [r.text for r in caught.exception.reasons])
        self.assertEqual(self.assessment().state, "Being checked")

    def test_a_step_that_nothing_touches_is_done_all_the_same(self) -> None:
        seen = self.now().entries
        checking.judge(self.office, self.maud, self.reference, "may-act", "met")
        handwork.add_requirement(self.office, self.imre, self.reference, "Bat survey", "Send it.", seen)
        checking.judge(self.office, self.imre, self.reference, "plot-number", "met", seen=seen)
        self.assertEqual(self.assessment().requirement("added-1").standing, "wanting")  # type: ignore[union-attr]
        self.assertEqual(self.assessment().requirement("may-act").given.who, "maud")  # type: ignore[union-attr]
        with self.assertRaises(Stale):
            checking.judge(self.office, self.imre, self.reference, "may-act", "wanting", seen=seen)
        with self.assertRaises(Stale):
            checking.word_point(self.office, self.imre, self.reference, "may-act", "Say who you are.", seen=seen)
        with self.assertRaises(Stale):
            checking.judge(self.office, self.imre, self.reference, "may-act", "met", seen=999)

    def test_the_second_is_told_who_else_is_here(self) -> None:
        opened(self.office, self.maud, self.reference)
        self.assertEqual(opened(self.office, self.imre, self.reference).others_here, ("Maud Ferrier",))
        self.assertEqual(opened(self.office, self.odalys, self.reference).others_here, ())
        self.move_to(2026, 11, 5, 11)
        self.assertEqual(opened(self.office, self.imre, self.reference).others_here, ())

    def test_a_glance_from_a_list_leaves_nothing_behind(self) -> None:
        """F6: the margin of the in-tray marked messages as read and told colleagues that the case was open."""
        talking.write(self.office, self.odalys, self.reference, "When may I begin?")
        client = TestClient(create_app(self.office))
        client.cookies.set(COOKIE, sign_in_by_click(self.office, "imre").secret)
        for path in ("", "/summary", "/due.ics", "/papers/1"):
            client.get(f"/api/cases/{self.reference}{path}")
        client.get("/api/tray")
        client.get("/api/search", params={"words": self.reference})
        with read_session(self.office.engine) as session:
            self.assertEqual(session.scalar(select(func.count()).select_from(CaseRead)), 0)
        self.assertIsNone(look_at(self.office, self.odalys, self.reference).messages[0].read_at)
        self.assertEqual(opened(self.office, self.maud, self.reference).others_here, ())
        glance = client.get(f"/api/cases/{self.reference}/summary")
        self.assertLess(len(glance.content), 8000)
        self.assertEqual(glance.json()["state"], "Being checked")


PLOTS = "plot,address,owner,listed,to_water,size,remark\nQ-1,1 Pier Road,Odalys Renn,no,45.2,300,mortgage\nQ-2,2 Pier Road,Bo Tarn,yes,9,80,\n"


class Registers(Cases):
    def setUp(self) -> None:
        super().setUp()
        folder = self.folder / "registers"
        folder.mkdir()
        (folder / "plots.csv").write_text(PLOTS, "utf-8")
        self.silent = folder / "plots.silent"
        publish_day = SHIPPED / "BW" / "2026-07-01.yaml"
        text = publish_day.read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-08-01")
        other = self.folder / "BW" / "2026-08-01.yaml"
        other.parent.mkdir()
        other.write_text(text, "utf-8")
        publish(self.office, other)
        self.draft_id = drafts.start_draft(self.office, self.odalys, "BW")

    def test_an_entry_fills_in_what_it_knows_and_an_altered_value_is_flagged(self) -> None:
        done = prefilling.take_over(self.office, self.odalys, self.draft_id, "plots", "q-1")
        place = done.dossier.answers["place"]
        self.assertEqual(
            (place["plot"], place["address"], place["owner"], place["listed"]), ("Q-1", "1 Pier Road", "Odalys Renn", "no")
        )
        self.assertEqual(done.assessment.altered, ())
        changed = {**done.dossier.answers, "place": {**place, "owner": "Bo Tarn"}}
        kept = drafts.keep(self.office, self.odalys, self.draft_id, None, answers=changed)
        self.assertEqual(
            [(a.place, a.was, a.now, a.source) for a in kept.assessment.altered],
            [("place.owner", "Odalys Renn", "Bo Tarn", "Land register")],
        )
        owner = kept.assessment.requirement("owner-agrees")
        assert owner
        self.assertEqual(owner.standing, "in doubt")

    def test_a_register_goes_over_the_profile(self) -> None:
        told = Prefilled(place="place.owner", source="profile", key="name", value="Somebody", at=self.instant)
        drafts.change_draft(self.office, self.odalys, self.draft_id, lambda d: d.model_copy(update={"prefilled": (told,)}))
        after = prefilling.take_over(self.office, self.odalys, self.draft_id, "plots", "Q-1")
        self.assertEqual(
            [(p.source, p.value) for p in after.dossier.prefilled if p.place == "place.owner"], [("plots", "Odalys Renn")]
        )

    def test_an_unknown_entry_and_a_register_that_does_not_answer(self) -> None:
        with self.assertRaises(NotFound) as caught:
            prefilling.take_over(self.office, self.odalys, self.draft_id, "plots", "Q-999")
        self.assertIn("Type it by hand", caught.exception.detail)
        self.silent.touch()
        done = prefilling.take_over(self.office, self.odalys, self.draft_id, "plots", "Q-1")
        self.assertEqual((done.dossier.by_hand, done.dossier.answers), (("plots",), {"filer": {"name": "Odalys Renn"}}))
        rules = done.rulebook
        self.assertIn("Type it by hand", search(self.office, rules, "plots", "pier", "odalys").trouble)
        self.silent.unlink()
        found = search(self.office, rules, "plots", "PIER road", "odalys")
        self.assertEqual([row["plot"] for row in found.rows], ["Q-1", "Q-2"])
        self.assertNotIn("remark", found.rows[0])
        self.assertEqual(prefilling.take_over(self.office, self.odalys, self.draft_id, "plots", "Q-1").dossier.by_hand, ())
        with self.assertRaises(NotFound):
            search(self.office, rules, "boats", "pier", "odalys")

    def test_asked_when_checking_begins_and_kept_as_evidence(self) -> None:
        done = prefilling.take_over(self.office, self.odalys, self.draft_id, "plots", "Q-1")
        named = {**done.dossier.answers, "works": {"what": "Porch"}}
        drafts.keep(self.office, self.odalys, self.draft_id, None, answers=named)
        self.silent.touch()
        signing.sign(self.office, self.odalys, self.draft_id, "Odalys Renn")
        reference = filing.file(self.office, self.odalys, self.draft_id, take_gaps=True)
        at = paying.ask_payment(self.office, self.odalys, reference)
        notices.at_stand_in(self.office, self.odalys, at.key, "approved")
        checking.begin_checking(self.office, self.imre, reference)
        register = look_at(self.office, self.imre, reference).registers[0]
        self.assertEqual((register.key, register.found, register.trouble), ("Q-1", False, "it does not answer just now"))
        self.silent.unlink()
        handwork.ask_register(self.office, self.imre, reference, "plots")
        view = look_at(self.office, self.imre, reference)
        cells = {c.title: (c.value, c.inner) for c in view.registers[0].cells}
        self.assertEqual(cells["Remark"], ("mortgage", True))
        (self.folder / "registers" / "plots.csv").write_text(PLOTS.replace("mortgage", "gone"), "utf-8")
        self.assertEqual(look_at(self.office, self.imre, reference).registers[0].cells[-1].value, "mortgage")
        self.assertEqual(look_at(self.office, self.odalys, reference).registers, ())
        table = next(r.table for r in view.assessment.requirements if r.id == "distance-agrees")
        assert table
        self.assertEqual(table.statements[2].said, "45.2 m")
        with self.assertRaises(NotAllowed):
            handwork.ask_register(self.office, self.odalys, reference, "plots")
