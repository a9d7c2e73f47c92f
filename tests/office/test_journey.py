"""The whole journey through the office's functions, with its papers, its bad input and its second edition."""

from __future__ import annotations

import io
import re
from datetime import date
from decimal import Decimal

import pikepdf
import pypdfium2

from jolly_clerk.core.assessment import Assessment
from jolly_clerk.demo.drawings import sections, site_plan
from jolly_clerk.office.cases import lists, notices, paying
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, Stale, TooLarge
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.post import papers
from jolly_clerk.office.preparing import answering, attaching, drafts, filing, signing
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.office.views.case import case_view, look_at
from jolly_clerk.office.views.opened import opened
from tests.helpers import EDITION, OfficeTest, answers

PLAN = site_plan("4 Saltern Slip", "workshop", 13.3, 7.2, 18)
SMALL_PLAN = site_plan("4 Saltern Slip", "workshop", 13.3, 7.2, 18, "A4")
ROOF = sections("4 Saltern Slip")


def text_of(pdf: bytes) -> str:
    document = pypdfium2.PdfDocument(pdf)
    return re.sub(r"\s+", " ", " ".join(page.get_textpage().get_text_bounded() for page in document))


UNASKED = [("works.what", True), ("works.area", True)]


class Cases(OfficeTest):
    def draft(self, signed: bool = True, plan: bytes = PLAN, **changes: object) -> str:
        if changes or plan not in (PLAN, SMALL_PLAN):
            return self._draft(signed, plan, **changes)
        return str(self.begun_with(f"draft-{signed}-{plan == PLAN}", lambda: self._draft(signed, plan)))

    def _draft(self, signed: bool, plan: bytes, **changes: object) -> str:
        draft = drafts.start_draft(self.office, self.odalys, "BW")
        drafts.keep(self.office, self.odalys, draft, None, answers=answers(**changes), own_reference="roof-4")
        attaching.attach(self.office, self.odalys, draft, "site_plan", "plan.pdf", plan)
        attaching.attach(self.office, self.odalys, draft, "sections", "sections.pdf", ROOF)
        if signed:
            signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        return draft

    def pay(self, reference: str, outcome: str = "approved") -> str:
        at = paying.ask_payment(self.office, self.odalys, reference)
        notices.at_stand_in(self.office, self.odalys, at.key, outcome)  # type: ignore[arg-type]
        return at.key

    def filed(self, **changes: object) -> str:
        whose = f"{type(self).draft.__qualname__}-{type(self).pay.__qualname__}"
        return self._filed(**changes) if changes else str(self.begun_with(f"filed-{whose}", self._filed))

    def _filed(self, **changes: object) -> str:
        reference = filing.file(self.office, self.odalys, self.draft(**changes), take_gaps=True)  # type: ignore[arg-type]
        self.pay(reference)
        return reference

    def said(self, reference: str) -> Assessment:
        return load_case(self.office, self.imre, reference).assessment

    def judge_all(self, reference: str, **special: str) -> None:
        for r in self.said(reference).requirements:
            if r.asked:
                standing = special.get(r.id.rpartition(".")[2], "met")
                checking.judge(self.office, self.imre, reference, r.id, standing, "Looked at by hand.")  # type: ignore[arg-type]


class Journey(Cases):
    def test_from_blank_form_to_complete(self) -> None:
        reference = filing.file(self.office, self.odalys, self.draft(plan=SMALL_PLAN), take_gaps=True)
        self.assertRegex(reference, r"^BW-26-00001-[A-Z]$")
        self.assertEqual(self.said(reference).state, "Waiting for payment")
        self.pay(reference)
        self.assertEqual(self.said(reference).state, "Filed")
        self.move_to(2026, 11, 9, 9)
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference, site_plan="wanting")
        self.move_to(2026, 11, 12, 15)
        sent = checking.send_letter(self.office, self.imre, reference)
        self.assertEqual(sent.assessment.state, "Answers wanted")
        self.assertEqual(sent.assessment.rounds[0].due, date(2026, 12, 14))
        filed, paid, item = sorted(self.office.post_room.items(), key=lambda one: one.key.rpartition("-letter-")[1] != "")
        self.assertEqual((item.reference, item.subject), (reference, "We need 1 thing from you"))
        self.assertEqual({filed.subject, paid.subject}, {"Filed: New workshop roof, 4 Saltern Slip", "Paid: EUR 438.18"})
        mail = (self.office.post_room.folder / f"{reference}-filed-1.eml").read_text("utf-8")
        self.assertIn("by the end of Thu 19 Nov 2026; after that it lapses", " ".join(mail.replace("=\n", "").split()))
        letter = text_of((self.office.post_room.folder / f"{reference}-letter-1.pdf").read_bytes())
        self.assertIn("Sheet 1 is A4; A3 or larger is asked.", letter)
        self.assertIn("Mon 14 Dec 2026", letter)

        self.move_to(2026, 11, 25, 11)
        answer = answering.begin_answering(self.office, self.odalys, reference)
        self.assertEqual(answering.begin_answering(self.office, self.odalys, reference), answer)
        with self.assertRaises(NotReady) as caught:
            signing.sign(self.office, self.odalys, answer, self.odalys.name)
            answering.send_answers(self.office, self.odalys, answer)
        self.assertEqual(caught.exception.place, "documents.site_plan")
        old = drafts.open_draft(self.office, self.odalys, answer).dossier.attachments[0]
        attaching.detach(self.office, self.odalys, answer, old.id)
        attaching.attach(self.office, self.odalys, answer, "site_plan", "plan-c.pdf", PLAN)
        drafts.keep(
            self.office, self.odalys, answer, None, answers=answers(works_area="82.1"), words={1: "Drawn anew."}, note="Sorry."
        )
        signing.sign(self.office, self.odalys, answer, self.odalys.name)
        answering.send_answers(self.office, self.odalys, answer)

        came = self.said(reference)
        self.assertEqual((came.state, came.version, str(came.account.over)), ("Answers came back", 2, "32.18"))
        self.assertEqual([u.change.place for u in came.rounds[0].unasked], ["works.area"])
        checking.close_point(self.office, self.imre, reference, 1)
        checking.take_change(self.office, self.imre, reference, "works.area")
        self.judge_all(reference)
        done = checking.accept(self.office, self.imre, reference)
        self.assertEqual(done.assessment.state, "Complete")
        self.assertEqual(done.assessment.account.paid, Decimal("406.00"))
        # 40 working days after 25 Nov 2026: closed 17, 25 Dec, 1 Jan, 12 Jan
        self.assertEqual(done.so_far.accepted.target, date(2027, 1, 26))  # type: ignore[union-attr]
        self.assertEqual(len(self.office.post_room.items()), 4)
        self.assertEqual(look_at(self.office, self.odalys, reference).assessment.state, "Complete")
        self.assertEqual(list(verify(self.office)), [])
        self.assertEqual(rebuild(self.office), 0)

    def test_papers_are_whole_pdfs_with_their_words(self) -> None:
        reference = self.filed()
        loaded = load_case(self.office, self.odalys, reference)
        name, receipt = papers.paper(self.office, loaded, 1)
        self.assertEqual(name, f"{reference}-filing-receipt.pdf")
        said = text_of(receipt)
        for attachment in loaded.dossier.attachments:
            self.assertIn(attachment.sha256, said.replace(" ", ""))
        paid = text_of(papers.paper(self.office, loaded, 2)[1])
        for words in ("Receipt 2026-00001", "Plan examination", "318.18", "Shoreline surcharge", "EUR 438.18"):
            self.assertIn(words, paid)
        with pikepdf.open(io.BytesIO(receipt)) as opened:
            self.assertIn("/MarkInfo", opened.Root)
        with self.assertRaises(NotFound):
            papers.paper(self.office, loaded, 9)

    def test_a_letter_that_names_markup_is_only_words(self) -> None:
        reference = self.filed(works_what="#let x = 1; *bold* <script> $y$", plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "documents.site_plan", "wanting")
        checking.word_point(self.office, self.imre, reference, "documents.site_plan", '#import "/etc/passwd" *now*')
        said = text_of(checking.preview_letter(self.office, self.imre, reference))
        self.assertIn("#let x = 1; *bold* <script> $y$", said)
        self.assertIn('#import "/etc/passwd" *now*', said)

    def test_asked_again_and_asked_about(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference, site_plan="wanting")
        checking.send_letter(self.office, self.imre, reference)
        answer = answering.begin_answering(self.office, self.odalys, reference)
        drafts.keep(
            self.office,
            self.odalys,
            answer,
            None,
            answers=answers(works_area="82.1", works_what="Two roofs"),
            words={1: "It is large enough."},
        )
        signing.sign(self.office, self.odalys, answer, self.odalys.name)
        answering.send_answers(self.office, self.odalys, answer)
        with self.assertRaises(NotReady):
            checking.send_letter(self.office, self.imre, reference)
        checking.ask_again(self.office, self.imre, reference, 1, "A4 is too small. Send it on A3.")
        checking.ask_about(self.office, self.imre, reference, "works.area", "Why is it smaller now?")
        checking.ask_about(self.office, self.imre, reference, "works.what", "")
        points = {p.requirement: p.text for p in self.said(reference).points}
        self.assertEqual(points["documents.site_plan"], "A4 is too small. Send it on A3.")
        self.assertEqual(points["added-1"], "Why is it smaller now?")
        self.assertIn("from New workshop roof to Two roofs", points["added-2"])
        # the question stays with the change: nothing else is asked by it, and what was judged stays judged
        self.assertEqual([p.ref for p in self.said(reference).points[1].places], ["works.area"])
        value = self.said(reference).requirement("value-plausible")
        assert value
        self.assertNotEqual(value.standing, "wanting")
        self.assertEqual([(u.change.place, u.questioned) for u in self.said(reference).rounds[0].unasked], UNASKED)
        second = checking.send_letter(self.office, self.imre, reference).assessment
        self.assertEqual((second.state, len(second.rounds), len(second.rounds[1].points)), ("Answers wanted", 2, 3))

    def test_a_second_edition_changes_drafts_and_no_filed_case(self) -> None:
        reference, draft = self.filed(), self.draft()
        before = self.said(reference).fees
        text = (
            EDITION.read_text("utf-8").replace("adds: 8.25", "adds: 9.00").replace("in_force: 2026-07-01", "in_force: 2026-11-05")
        )
        file = self.folder / "2026-11-05.yaml"
        file.write_text(text, "utf-8")
        publish(self.office, file)
        # 324.50 + 20 × 9.00 = 504.50; 65 % = 327.93
        self.assertEqual(str(drafts.open_draft(self.office, self.odalys, draft).assessment.fees.lines[1].amount), "327.93")
        self.assertEqual([line.amount for line in self.said(reference).fees.lines], [line.amount for line in before.lines])
        self.assertEqual(str(self.said(reference).fees.lines[1].amount), "318.18")
        new = filing.file(self.office, self.odalys, draft)
        self.assertEqual(self.said(new).edition, "BW 2026-11-05")
        with self.assertRaises(Invalid):
            file.write_text(text.replace("adds: 9.00", "adds: 9.50"), "utf-8")
            publish(self.office, file)


class Money(Cases):
    def test_declined_abandoned_and_twice(self) -> None:
        reference = filing.file(self.office, self.odalys, self.draft())
        for outcome in ("declined", "abandoned"):
            self.pay(reference, outcome)
            self.assertEqual(self.said(reference).state, "Waiting for payment")
        key = self.pay(reference)
        for _ in range(2):
            notices.at_stand_in(self.office, self.odalys, key, "approved")
        self.assertEqual(self.said(reference).account.paid, Decimal("438.18"))
        with self.assertRaises(NotReady):
            paying.ask_payment(self.office, self.odalys, reference)

    def test_paid_in_two_windows_is_kept_and_given_back(self) -> None:
        reference = filing.file(self.office, self.odalys, self.draft())
        first, second = (paying.ask_payment(self.office, self.odalys, reference).key for _ in range(2))
        for key in (first, second):
            notices.at_stand_in(self.office, self.odalys, key, "approved")
        self.assertEqual(self.said(reference).account.over, Decimal("438.18"))
        receipts = [e.receipt for e in load_case(self.office, self.imre, reference).history.entries if e.what == "paid"]
        self.assertEqual(receipts, ["2026-00001", "2026-00002"])

    def test_a_declined_terminal_later_approved_is_booked(self) -> None:
        reference = filing.file(self.office, self.odalys, self.draft())
        key = self.pay(reference, "declined")
        notices.at_stand_in(self.office, self.odalys, key, "approved")
        self.assertEqual(self.said(reference).state, "Filed")


class BadInput(Cases):
    def test_a_draft_with_gaps_is_filed_only_when_they_were_read(self) -> None:
        draft = self.draft(signed=False, works_area=None, works_what=None)
        for take_gaps in (False, True):  # what it is called after and the signature are the least
            with self.assertRaises(NotReady) as caught:
                filing.file(self.office, self.odalys, draft, take_gaps=take_gaps)
            self.assertEqual([r.place.ref for r in caught.exception.reasons if r.place], ["works.what", "signature"])
        drafts.keep(self.office, self.odalys, draft, None, answers=answers(works_area=None))
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        with self.assertRaises(NotReady) as caught:
            filing.file(self.office, self.odalys, draft)
        self.assertEqual([r.place.ref for r in caught.exception.reasons if r.place], ["works.area"])
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        # what is open is not charged as if it were known: the least examination and the surcharge
        self.assertEqual(str(self.said(reference).account.open), "165.00")

    def test_file_names_are_only_names(self) -> None:
        for name, clean in (
            ("../../etc/passwd.pdf", "passwd.pdf"),
            ("C:\\work\\plan.pdf", "plan.pdf"),
            ("a\x00b\u202egpj.pdf", "abgpj.pdf"),
            ("", "file without a name"),
            ("...", "file without a name"),
            ("x" * 300 + ".pdf", "x" * 196 + ".pdf"),
        ):
            self.assertEqual(attaching.clean_name(name), clean)

    def test_bad_files_are_kept_with_their_complaint(self) -> None:
        draft = drafts.start_draft(self.office, self.odalys, "BW")
        for n, (name, content, says) in enumerate(
            (
                ("../plan.pdf", b"", "empty"),
                ("plan.exe", b"MZ\x90\x00" + b"\x00" * 64, "PDF is asked"),
                ("plan-2.pdf", PLAN[:500], "damaged"),
            ),
            1,
        ):
            kept = attaching.attach(self.office, self.odalys, draft, "site_plan", name, content)
            self.assertEqual(len(kept.dossier.attachments), n)
            requirement = kept.assessment.requirement("documents.site_plan")
            assert requirement
            self.assertIn(says, " ".join(f.text for f in requirement.findings))
        with self.assertRaises(Invalid) as caught:
            attaching.attach(self.office, self.odalys, draft, "site_plan", "again.pdf", b"")
        self.assertIn("in this slot already", caught.exception.detail)
        with self.assertRaises(Invalid):
            attaching.attach(self.office, self.odalys, draft, "cellar", "plan.pdf", PLAN)

    def test_too_large(self) -> None:
        draft = drafts.start_draft(self.office, self.odalys, "BW")
        self.office.settings.most_upload_mb = 1
        with self.assertRaises(TooLarge):
            attaching.attach(self.office, self.odalys, draft, "site_plan", "big.pdf", b"0" * 1_000_001)

    def test_somebody_elses_case_and_draft_are_not_there(self) -> None:
        reference, draft = self.filed(), self.draft()
        for attempt in (
            lambda: look_at(self.office, self.tamsin, reference),
            lambda: drafts.open_draft(self.office, self.tamsin, draft),
            lambda: drafts.open_draft(self.office, self.imre, draft),
            lambda: paying.ask_payment(self.office, self.tamsin, reference),
            lambda: look_at(self.office, self.imre, "BW-26-99999-X"),
        ):
            with self.assertRaises(NotFound):
                attempt()
        with self.assertRaises(NotAllowed):
            checking.begin_checking(self.office, self.odalys, reference)
        with self.assertRaises(NotAllowed):
            checking.begin_checking(self.office, self.anselm, reference)
        with self.assertRaises(NotAllowed):
            lists.tray(self.office, self.odalys, "mine")

    def test_moves_out_of_their_time(self) -> None:
        reference = self.filed()
        for attempt in (
            lambda: checking.judge(self.office, self.imre, reference, "may-act", "met"),
            lambda: checking.send_letter(self.office, self.imre, reference),
            lambda: checking.accept(self.office, self.imre, reference),
            lambda: answering.begin_answering(self.office, self.odalys, reference),
        ):
            with self.assertRaises(NotReady):
                attempt()
        checking.begin_checking(self.office, self.imre, reference)
        with self.assertRaises(NotReady):
            checking.begin_checking(self.office, self.maud, reference)
        with self.assertRaises(Invalid):
            checking.judge(self.office, self.imre, reference, "may-act", "waived")
        with self.assertRaises(NotFound):
            checking.judge(self.office, self.imre, reference, "no-such-thing", "met")
        with self.assertRaises(NotReady):
            checking.send_letter(self.office, self.imre, reference)

    def test_the_second_of_two_officers_is_told(self) -> None:
        reference = self.filed()
        seen = checking.begin_checking(self.office, self.imre, reference).entries
        checking.judge(self.office, self.imre, reference, "may-act", "met", seen=seen)
        with self.assertRaises(Stale):
            checking.judge(self.office, self.maud, reference, "may-act", "wanting", seen=seen)
        self.assertEqual(self.said(reference).requirement("may-act").standing, "met")  # type: ignore[union-attr]

    def test_a_stale_draft_is_not_written_over(self) -> None:
        draft = self.draft()
        counter = drafts.open_draft(self.office, self.odalys, draft).draft.revision
        drafts.keep(self.office, self.odalys, draft, counter, note="first")
        with self.assertRaises(Stale):
            drafts.keep(self.office, self.odalys, draft, counter, note="second")
        with self.assertRaises(Stale):
            filing.file(self.office, self.odalys, draft, counter)


class WhoSeesWhat(Cases):
    def test_what_is_the_offices_alone_is_not_shown_to_the_applicant(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "may-act", "in doubt", "ask the harbour master")
        checking.judge(self.office, self.imre, reference, "documents.site_plan", "wanting")
        outer = look_at(self.office, self.odalys, reference)
        self.assertTrue(all(r.given is None for r in outer.assessment.requirements))
        self.assertEqual((outer.assessment.points, outer.offers, outer.assessment.next_officer), ((), {}, ""))
        self.assertFalse(any("harbour master" in m.text for m in outer.story))
        self.assertTrue(all(m.role == "applicant" for m in outer.assessment.moves))
        inner = look_at(self.office, self.imre, reference)
        self.assertTrue(any("harbour master" in m.text for m in inner.story))
        self.assertEqual(inner.assessment.requirement("may-act").given.who, "Imre Holt")  # type: ignore[union-attr]

    def test_the_in_tray(self) -> None:
        first, second = self.filed(), self.filed()
        checking.begin_checking(self.office, self.imre, first)
        mine = lists.tray(self.office, self.imre, "mine")
        self.assertEqual([r.reference for r in mine.rows], [first])
        self.assertEqual(mine.counts, {"mine": 1, "nobody's yet": 1, "everyone's": 2})
        row = lists.tray(self.office, self.imre, "nobody's yet").rows[0]
        self.assertEqual(
            (row.reference, row.next, row.left, row.unit), (second, "Begin checking, 2 files read", 10, "working days")
        )
        self.assertEqual((row.judged, row.asked, row.group), (0, 8, "ready"))
        self.move_to(2026, 11, 16)
        self.assertEqual(lists.tray(self.office, self.imre, "mine").rows[0].group, "running out")
        self.assertEqual({r.reference for r in lists.search(self.office, self.imre, "saltern")}, {second, first})
        self.assertEqual(sum(at.count for at in lists.my_cases(self.office, self.odalys)), 2)
        self.assertEqual(sum(at.count for at in lists.my_cases(self.office, self.tamsin)), 0)

    def test_reading_a_case_is_noted(self) -> None:
        from sqlalchemy import func, select

        from jolly_clerk.store.beside import CaseRead
        from jolly_clerk.store.database import read_session

        reference = self.filed()
        opened(self.office, self.anselm, reference)
        look_at(self.office, self.anselm, reference)
        case_view(self.office, self.imre, load_case(self.office, self.imre, reference))
        with read_session(self.office.engine) as session:
            self.assertEqual(session.scalar(select(func.count()).select_from(CaseRead)), 1)
