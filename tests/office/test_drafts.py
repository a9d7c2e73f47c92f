"""Drafts and answers in work: kept, dropped, signed, thrown away; the post room; a killed server loses nothing acknowledged."""

from __future__ import annotations

import unittest
from pathlib import Path

from sqlalchemy import select

from bench import kills
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, Stale, TooLarge
from jolly_clerk.office.keeping import removing
from jolly_clerk.office.post import mailing, papers
from jolly_clerk.office.preparing import answering, attaching, drafts, filing, signing, undoing
from jolly_clerk.office.views.case import look_at
from jolly_clerk.office.views.draft import draft_view
from jolly_clerk.office.views.form import form_of
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Outgoing
from tests import SEED
from tests.browser.house import Forked
from tests.helpers import answers
from tests.office.test_journey import PLAN, SMALL_PLAN, Cases, text_of


class Keeping(Cases):
    def test_only_what_was_typed_is_changed(self) -> None:
        draft = self.draft()
        kept = drafts.keep(self.office, self.odalys, draft, None, note="By the gate.")
        self.assertEqual((kept.dossier.note, kept.draft.own_reference), ("By the gate.", "roof-4"))
        self.assertEqual(len(kept.dossier.attachments), 2)
        again = drafts.keep(self.office, self.odalys, draft, kept.draft.revision, own_reference="  roof  ")
        self.assertEqual((again.draft.own_reference, again.dossier.note), ("roof", "By the gate."))
        self.assertEqual(again.draft.revision, kept.draft.revision + 1)

    def test_what_is_too_long(self) -> None:
        draft = self.draft()
        with self.assertRaises(TooLarge):
            drafts.keep(self.office, self.odalys, draft, None, answers={"works": {"what": "x" * 1_000_001}})
        self.assertEqual(len(drafts.keep(self.office, self.odalys, draft, None, note="n" * 9000).dossier.note), 4000)

    def test_several_drafts_newest_first(self) -> None:
        first = self.draft()
        self.move_to(2026, 11, 6)
        second = self.draft()
        self.assertEqual([d.draft.id for d in drafts.drafts_of(self.office, self.odalys)], [second, first])
        drafts.throw_away(self.office, self.odalys, second)
        self.assertEqual([d.draft.id for d in drafts.drafts_of(self.office, self.odalys)], [first])
        with self.assertRaises(NotFound):
            drafts.throw_away(self.office, self.odalys, second)
        with self.assertRaises(NotFound):
            drafts.throw_away(self.office, self.tamsin, first)

    def test_a_draft_thrown_away_comes_back_for_a_week(self) -> None:
        draft = self.draft()
        drafts.throw_away(self.office, self.odalys, draft)
        with self.assertRaises(NotFound):
            drafts.open_draft(self.office, self.odalys, draft)
        with self.assertRaises(NotFound):
            undoing.bring_back(self.office, self.tamsin, draft)
        back = undoing.bring_back(self.office, self.odalys, draft)
        self.assertEqual(len(back.dossier.attachments), 2)
        self.assertEqual([d.draft.id for d in drafts.drafts_of(self.office, self.odalys)], [draft])
        drafts.throw_away(self.office, self.odalys, draft)
        self.move_to(2026, 11, 11)
        removing.tidy(self.office)
        undoing.bring_back(self.office, self.odalys, draft)
        drafts.throw_away(self.office, self.odalys, draft)
        self.move_to(2026, 11, 20)
        removing.tidy(self.office)
        with self.assertRaises(NotFound) as gone:
            undoing.bring_back(self.office, self.odalys, draft)
        self.assertEqual(str(gone.exception), "This draft is no longer kept.")

    def test_a_file_taken_out_is_put_back(self) -> None:
        draft = self.draft()
        file = drafts.open_draft(self.office, self.odalys, draft).dossier.attachments[0]
        self.move_to(2026, 11, 20)  # long after it arrived
        left = attaching.detach(self.office, self.odalys, draft, file.id)
        self.assertEqual(len(left.dossier.attachments), 1)
        removing.tidy(self.office)
        with self.assertRaises(NotFound):
            undoing.put_back_file(self.office, self.tamsin, draft, file.id)
        back = undoing.put_back_file(self.office, self.odalys, draft, file.id).dossier.attachments[-1]
        self.assertEqual((back.slot, back.name, back.sha256), (file.slot, file.name, file.sha256))
        again = undoing.put_back_file(self.office, self.odalys, draft, file.id)  # two windows undid the same
        self.assertEqual(len(again.dossier.attachments), 2)
        attaching.detach(self.office, self.odalys, draft, back.id)
        self.move_to(2026, 12, 1)
        removing.tidy(self.office)
        with self.assertRaises(NotFound) as gone:
            undoing.put_back_file(self.office, self.odalys, draft, back.id)
        self.assertEqual(str(gone.exception), "This file is no longer kept. Choose it again.")

    def test_the_address_of_what_was_filed_or_sent_leads_to_its_case(self) -> None:
        draft = self.draft(plan=SMALL_PLAN)
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        with self.assertRaises(NotFound) as caught:
            drafts.open_draft(self.office, self.odalys, draft)
        self.assertEqual(caught.exception.reference, reference)
        self.assertEqual(str(caught.exception), f"This was filed or sent: it is {reference} now.")
        with self.assertRaises(NotFound) as other:
            drafts.open_draft(self.office, self.tamsin, draft)
        self.assertEqual((str(other.exception), other.exception.reference), ("There is no such draft of yours.", ""))
        thrown = self.draft()
        drafts.throw_away(self.office, self.odalys, thrown)
        with self.assertRaises(NotFound) as gone:
            drafts.open_draft(self.office, self.odalys, thrown)
        self.assertEqual(gone.exception.reference, "")

    def test_only_applicants_begin_and_only_what_there_is(self) -> None:
        with self.assertRaises(NotAllowed):
            drafts.start_draft(self.office, self.imre, "BW")
        with self.assertRaises(NotFound):
            drafts.start_draft(self.office, self.odalys, "XX")

    def test_signing_keeps_the_exact_text_and_the_time(self) -> None:
        draft = self.draft(signed=False)
        for name in ("", " ", "O", "x" * 121):
            with self.subTest(name[:3]), self.assertRaises(Invalid) as caught:
                signing.sign(self.office, self.odalys, draft, name)
            self.assertEqual(caught.exception.place, "signature")
        signed = signing.sign(self.office, self.odalys, draft, "  Odalys Renn ").dossier.signature
        assert signed
        self.assertEqual((signed.name, signed.at), ("Odalys Renn", self.instant))
        self.assertIn("true and complete", signed.text)
        self.assertIsNone(signing.unsign(self.office, self.odalys, draft).dossier.signature)

    def test_files_keep_their_numbers(self) -> None:
        draft = self.draft()
        attaching.detach(self.office, self.odalys, draft, "a1")
        again = attaching.attach(self.office, self.odalys, draft, "site_plan", "p.pdf", SMALL_PLAN)
        self.assertEqual([a.id for a in again.dossier.attachments], ["a2", "a3"])
        with self.assertRaises(NotFound):
            attaching.detach(self.office, self.odalys, draft, "a1")

    def test_the_same_content_may_stand_in_two_slots(self) -> None:
        draft = drafts.start_draft(self.office, self.odalys, "BW")
        attaching.attach(self.office, self.odalys, draft, "site_plan", "p.pdf", PLAN)
        kept = attaching.attach(self.office, self.odalys, draft, "sections", "p.pdf", PLAN)
        self.assertEqual(len({a.sha256 for a in kept.dossier.attachments}), 1)
        self.assertEqual(len(kept.dossier.attachments), 2)

    def test_what_the_owner_sees(self) -> None:
        open_now = drafts.open_draft(self.office, self.odalys, self.draft(plan=SMALL_PLAN))
        view, form = draft_view(open_now), form_of(open_now.rulebook)
        self.assertEqual(view.edition_sha256, open_now.edition_sha256)
        self.assertEqual(next((f.attachment.name, f.said) for f in view.files), ("plan.pdf", "A4 landscape, 1 sheet, text"))
        self.assertEqual([p.title for p in form.parts], ["The place", "The works", "The service"])
        self.assertEqual(form.slots[0].accepts, "PDF, A3 or larger, 1 to 3 files, at most 20 MB each")
        self.assertEqual(view.answers_case, "")


class AnswerCases(Cases):
    """A case whose letter is being answered."""

    def setUp(self) -> None:
        super().setUp()
        self.reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, self.reference)
        self.judge_all(self.reference, site_plan="wanting")
        checking.send_letter(self.office, self.imre, self.reference)
        self.answer = answering.begin_answering(self.office, self.odalys, self.reference)


class Answering(AnswerCases):
    def unasked(self) -> list[str]:
        found = drafts.open_draft(self.office, self.odalys, self.answer).assessment.rounds[-1]
        return [u.change.place for u in found.unasked] + [c.place for p in found.points for c in p.changes]

    def test_changes_can_be_dropped_one_by_one(self) -> None:
        drafts.keep(
            self.office,
            self.odalys,
            self.answer,
            None,
            answers=answers(works_area="82.1", place_plot="Q-1", works_begun="1 Nov 2026"),
        )
        attaching.detach(self.office, self.odalys, self.answer, "a1")
        self.assertEqual(set(self.unasked()), {"works.area", "place.plot", "works.begun", "documents.site_plan"})
        for place in ("works.area", "works.begun", "documents.site_plan", "place.plot"):
            signing.drop_change(self.office, self.odalys, self.answer, place)
            self.assertNotIn(place, self.unasked())
        now = drafts.open_draft(self.office, self.odalys, self.answer)
        self.assertEqual(now.dossier.answers["works"]["area"], "95.8")
        self.assertEqual([a.name for a in now.dossier.attachments if a.slot == "site_plan"], ["plan.pdf"])

    def test_nothing_can_be_dropped_from_a_new_filing(self) -> None:
        with self.assertRaises(Invalid):
            signing.drop_change(self.office, self.odalys, self.draft(), "works.area")

    def test_a_filing_is_not_sent_and_an_answer_is_not_filed(self) -> None:
        with self.assertRaises(Invalid):
            answering.send_answers(self.office, self.odalys, self.draft())
        with self.assertRaises(NotReady):
            filing.file(self.office, self.odalys, self.answer, take_gaps=True)

    def test_answers_changed_in_another_window_are_not_sent(self) -> None:
        counter = drafts.open_draft(self.office, self.odalys, self.answer).draft.revision
        drafts.keep(self.office, self.odalys, self.answer, None, words={1: "Here."})
        with self.assertRaises(Stale):
            signing.sign(self.office, self.odalys, self.answer, self.odalys.name)
            answering.send_answers(self.office, self.odalys, self.answer, counter)
        signing.sign(self.office, self.odalys, self.answer, self.odalys.name)
        answering.send_answers(self.office, self.odalys, self.answer)
        self.assertEqual(self.said(self.reference).rounds[0].points[0].words, "Here.")
        with self.assertRaises(NotFound):
            signing.sign(self.office, self.odalys, self.answer, self.odalys.name)
            answering.send_answers(self.office, self.odalys, self.answer)

    def test_the_receipt_of_answers_and_the_version_before_them(self) -> None:
        drafts.keep(
            self.office, self.odalys, self.answer, None, answers(works_area="82.1"), "By the gate.", words={1: "Drawn anew."}
        )
        attaching.detach(self.office, self.odalys, self.answer, "a1")
        attaching.attach(self.office, self.odalys, self.answer, "site_plan", "plan-c.pdf", PLAN)
        signing.sign(self.office, self.odalys, self.answer, self.odalys.name)
        answering.send_answers(self.office, self.odalys, self.answer)
        view = look_at(self.office, self.odalys, self.reference)
        told = next(m for m in view.story if m.paper == "answers receipt")
        name, pdf = papers.paper(self.office, load_case(self.office, self.odalys, self.reference), told.no)
        self.assertEqual(name, f"{self.reference}-answers-2-receipt.pdf")
        said = text_of(pdf)
        for words in (
            "They are version 2 of your application.",
            "Point 1, Send anew: Site plan, to scale: Drawn anew.",
            "Floor area under it: 95.8 m² → 82.1 m²",
            "Note: By the gate.",
            "New files: 1",
            "plan-c.pdf",
        ):
            self.assertIn(words, said)
        self.assertEqual(view.versions[0].said["works.area"], "95.8 m²")
        self.assertEqual(view.versions[1].said, {})  # the latest stands in the assessment

    def test_a_new_file_takes_the_place_of_the_one_that_was_filed_unless_that_is_kept(self) -> None:
        def plans() -> list[str]:
            there = drafts.open_draft(self.office, self.odalys, self.answer).dossier.attachments
            return [a.name for a in there if a.slot == "site_plan"]

        self.assertEqual(plans(), ["plan.pdf"])
        attaching.attach(self.office, self.odalys, self.answer, "site_plan", "plan-c.pdf", PLAN)
        self.assertEqual(plans(), ["plan-c.pdf"])
        view = draft_view(drafts.open_draft(self.office, self.odalys, self.answer))
        self.assertEqual([a.name for a in view.replaced], ["plan.pdf"])
        undoing.put_back_file(self.office, self.odalys, self.answer, view.replaced[0].id)
        self.assertEqual(plans(), ["plan-c.pdf", "plan.pdf"])
        self.assertEqual(draft_view(drafts.open_draft(self.office, self.odalys, self.answer)).replaced, ())
        attaching.attach(self.office, self.odalys, self.answer, "site_plan", "plan-d.pdf", SMALL_PLAN + b"%")
        self.assertEqual(plans(), ["plan-c.pdf", "plan.pdf", "plan-d.pdf"])  # what came in this answer stays
        new = self.draft()
        attaching.attach(self.office, self.odalys, new, "site_plan", "plan-e.pdf", SMALL_PLAN + b"%%")
        files = drafts.open_draft(self.office, self.odalys, new).dossier.attachments
        self.assertEqual(len([a for a in files if a.slot == "site_plan"]), 2)  # nothing is filed yet

    def test_words_of_an_open_amount_do_not_stumble(self) -> None:
        reference = self.filed(works_estimate=None)
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "answer.works.estimate", "wanting")
        done = checking.judge(self.office, self.imre, reference, "value-plausible", "wanting")
        self.assertIn("not answered", " ".join(p.text for p in done.assessment.points))

    def test_each_filed_version_is_kept_whole(self) -> None:
        drafts.keep(self.office, self.odalys, self.answer, None, answers=answers(works_area="82.1"), words={1: "Here."})
        signing.sign(self.office, self.odalys, self.answer, self.odalys.name)
        answering.send_answers(self.office, self.odalys, self.answer)
        from jolly_clerk.office.cases.casework import load_case

        versions = load_case(self.office, self.odalys, self.reference).history.versions
        self.assertEqual([v.dossier.answers["works"]["area"] for v in versions], ["95.8", "82.1"])


class PostRoom(AnswerCases):
    def letters(self) -> list[str]:
        """What lies with the post room, without the mails that say that it was filed and paid."""
        return [i.key for i in self.office.post_room.items() if "-letter-" in i.key]

    def test_a_letter_is_delivered_at_least_once_and_twice_is_one(self) -> None:
        key = f"{self.reference}-letter-1"
        self.assertEqual(self.letters(), [key])
        self.assertEqual(mailing.deliver_waiting(self.office), 0)
        with write_session(self.office.engine) as session:  # as if the server had died between delivering and noting it
            session.get_one(Outgoing, key).delivered_at = None
        self.assertEqual(mailing.deliver_waiting(self.office), 1)
        self.assertEqual(self.letters(), [key])

    def test_what_is_delivered_is_what_the_vault_keeps(self) -> None:
        with read_session(self.office.engine) as session:
            out = session.scalars(select(Outgoing).where(Outgoing.pdf_sha256 != "")).one()
        delivered = (self.office.post_room.folder / f"{out.key}.pdf").read_bytes()
        self.assertEqual(self.office.vault.get(out.pdf_sha256), delivered)
        self.assertEqual(out.to, "Odalys Renn")


class Leading(Forked):
    leads = True


def served(folder: Path) -> kills.Served:
    """A server that is soon there, and is killed with its readers."""
    server = Leading(folder)
    return kills.Served(server.process.pid, server.address, server.process.join)


class Killed(unittest.TestCase):
    def test_nothing_acknowledged_is_lost_in_ten_kills(self) -> None:
        """The server, killed at random moments of uploads, filings, payments, judgements and letters."""
        total, kinds, wrong = kills.run(10, SEED, served)
        print(f"\n10 kills, {total} things acknowledged {dict(kinds)}, all there")
        self.assertEqual(wrong, [])
        self.assertLessEqual({"file", "filed", "paid", "judged", "letter"}, set(kinds))
