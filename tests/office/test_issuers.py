"""Issuers: asked by a one-time link, their document sealed in the draft or a new version of the case, seen by all who may, never leaked."""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Callable
from datetime import date, timedelta

from sqlalchemy import select

from jolly_clerk.office.cases import endings
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, OfficeError, TooLarge
from jolly_clerk.office.keeping import removing
from jolly_clerk.office.keeping.copying import copy_of
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.preparing import answering, attaching, delivering, drafts, filing, issuing, remaking, signing
from jolly_clerk.office.preparing.delivering import Delivered, Sent
from jolly_clerk.office.views.case import case_view, file_of_case
from jolly_clerk.office.views.draft import draft_view
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Outgoing
from tests.office.test_journey import PLAN, SMALL_PLAN, Cases, text_of
from tests.reading.test_reading import pdf

ROSS = "ross@survey.example"
LETTER = pdf("Written by the surveyor: the sheet is small", "and so are the letters on it.")


class Asking(Cases):
    def ask(self, of: str, slot: str = "site_plan", **more: object) -> issuing.Asked:
        return issuing.ask(self.office, self.odalys, of, slot, ROSS, "Ross Hale", **more)[-1]  # type: ignore[arg-type]

    def link(self) -> str:
        with read_session(self.office.engine) as session:
            texts = [m.text for m in session.scalars(select(Outgoing).where(Outgoing.to == ROSS).order_by(Outgoing.put_at))]
        texts += [p.read_text("utf-8").replace("=\n", "") for p in sorted(self.office.post_room.folder.glob("issuer-*.eml"))]
        found = [secret for text in texts for secret in re.findall(r"/deliver/(\S+)", text)]
        return next(secret for secret in reversed(found) if delivering.may_deliver(self.office, secret))

    def deliver(self, secret: str, content: bytes = SMALL_PLAN, **more: object) -> Delivered:
        sent = Sent("Ross Hale", "Hale Surveys", file="plan.pdf", content=content, anyway=True, **more)  # type: ignore[arg-type]
        return delivering.deliver(self.office, secret, sent)

    def empty(self) -> str:
        """A draft whose site plan is still to come, signed."""
        draft = self.draft()
        plan = drafts.open_draft(self.office, self.odalys, draft).dossier.attachments[0]
        attaching.detach(self.office, self.odalys, draft, plan.id)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        return draft

    def refused(self, kind: type[OfficeError], act: Callable[[], object]) -> str:
        with self.assertRaises(kind) as raised:
            act()
        return raised.exception.detail


class Issuers(Asking):
    def test_sealed_until_the_office_opens_it(self) -> None:
        draft = self.empty()
        asked = self.ask(draft, words="As we said at the quay.")
        self.assertEqual(
            (asked.state, asked.title, asked.mail, asked.wanted_by), ("asked", "Site plan, to scale", ROSS, date(2026, 11, 19))
        )
        secret = self.link()
        seen = delivering.wanted(self.office, secret)
        self.assertEqual(
            (seen.owner, seen.document, seen.words), ("Odalys Renn", "Site plan, to scale", "As we said at the quay.")
        )
        self.assertEqual(issuing.asked_of(self.office, self.odalys, draft)[0].opened, 0)  # looking alone notes nothing
        delivering.note_opened(self.office, secret)
        delivering.note_opened(self.office, secret)
        opened = issuing.asked_of(self.office, self.odalys, draft)[0]
        self.assertEqual((opened.state, opened.opened), ("opened", 1))
        before = drafts.open_draft(self.office, self.odalys, draft)
        done = self.deliver(secret)
        self.assertEqual((done.document, done.owner, done.size), ("Site plan, to scale", "Odalys Renn", len(SMALL_PLAN)))
        self.refused(NotFound, lambda: delivering.wanted(self.office, secret))
        self.refused(NotFound, lambda: self.deliver(secret))
        come = issuing.asked_of(self.office, self.odalys, draft)[0]
        self.assertEqual((come.state, come.came_from), ("come", "Ross Hale, Hale Surveys"))

        now = drafts.open_draft(self.office, self.odalys, draft)
        self.assertGreater(now.draft.revision, before.draft.revision)
        line = now.assessment.requirement("documents.site_plan")
        assert line is not None
        told = "Has come on Thu 5 Nov 2026 from Ross Hale, Hale Surveys, straight to the office."
        self.assertEqual((line.because, line.findings, line.proposed), (told, (), "to read"))
        self.assertNotIn("A4", json.dumps(draft_view(now), default=str))
        self.assertFalse([g for g in now.assessment.left if g.place and g.place.ref in ("documents.site_plan", "signature")])
        file = next(a for a in now.dossier.attachments if a.issuer)
        for act in (
            lambda: attaching.detach(self.office, self.odalys, draft, file.id),
            lambda: attaching.exchange(self.office, self.odalys, draft, file.id, now.dossier.attachments[0].id),
            lambda: remaking.remake(self.office, self.odalys, draft, "turned", [file.id]),
        ):
            self.refused(OfficeError, act)
        self.assertEqual(drafts.open_draft(self.office, self.odalys, draft).dossier, now.dossier)

        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        self.assertEqual(issuing.asked_of(self.office, self.odalys, reference)[0].state, "come")
        own = case_view(self.office, self.odalys, load_case(self.office, self.odalys, reference))
        self.assertNotIn("A4", json.dumps(own, default=str))
        self.refused(NotAllowed, lambda: file_of_case(self.office, self.odalys, reference, file.sha256))
        desk = self.said(reference).requirement("documents.site_plan")
        assert desk is not None
        self.assertIn("Sheet 1 is A4; A3 or larger is asked.", desk.because)
        self.assertIn(told, desk.because)
        self.assertEqual(file_of_case(self.office, self.imre, reference, file.sha256).id, file.id)
        self.assertEqual(list(verify(self.office)), [])
        copy = zipfile.ZipFile(io.BytesIO(self.copied()))
        self.assertNotIn("plan.pdf", "".join(copy.namelist()))
        self.assertEqual(json.loads(copy.read("issuers.json"))[0]["mail"], ROSS)

    def copied(self) -> bytes:
        out = self.folder / "copy.zip"
        copy_of(self.office, self.odalys.id, out)
        return out.read_bytes()

    def test_shown_if_the_issuer_allows_it(self) -> None:
        draft = self.empty()
        self.ask(draft)
        self.deliver(self.link(), shown=True)
        now = drafts.open_draft(self.office, self.odalys, draft)
        self.assertIn("A4", json.dumps(draft_view(now), default=str))
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        file = next(a for a in now.dossier.attachments if a.issuer)
        self.assertEqual(file_of_case(self.office, self.odalys, reference, file.sha256).name, "plan.pdf")

    def test_after_filing_it_is_a_new_version_and_nothing_stands_still(self) -> None:
        reference = self.filed()
        self.move_to(2026, 11, 9, 9)
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference)
        self.ask(reference)
        before = load_case(self.office, self.imre, reference)
        done = self.deliver(self.link(), LETTER)
        self.assertEqual(done.reference, reference)
        after = load_case(self.office, self.imre, reference)
        self.assertEqual((after.assessment.state, after.assessment.version, len(after.history.versions)), ("Being checked", 2, 2))
        self.assertEqual(after.assessment.clock, before.assessment.clock)
        self.assertEqual(after.assessment.account, before.assessment.account)
        line = after.assessment.requirement("documents.site_plan")
        assert line is not None
        self.assertFalse(line.judged)  # it is judged like an answer
        self.assertEqual(
            [r.id for r in after.assessment.requirements if r.asked and not r.judged and r.kind == "document"], [line.id]
        )
        seen = case_view(self.office, self.imre, after)
        self.assertIn(
            "Site plan, to scale came from Ross Hale, Hale Surveys, straight to the office; version 2", seen.story[-1].text
        )
        self.assertFalse(after.assessment.changed_since_signed)
        self.judge_all(reference)
        self.assertEqual(checking.accept(self.office, self.imre, reference).assessment.state, "Complete")
        self.ask(reference, slot="sections")
        self.deliver(self.link(), LETTER)
        self.assertEqual(self.said(reference).state, "Complete")
        self.assertEqual(list(verify(self.office)), [])
        rebuild(self.office)
        self.assertEqual(self.said(reference).version, 3)

    def wanted_answers(self) -> str:
        reference = self.filed(plan=SMALL_PLAN)
        self.move_to(2026, 11, 9, 9)
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference, sections="wanting")
        checking.send_letter(self.office, self.imre, reference)
        return reference

    def test_it_goes_into_answers_that_are_prepared(self) -> None:
        reference = self.wanted_answers()
        answer = answering.begin_answering(self.office, self.odalys, reference)
        self.ask(reference)
        self.deliver(self.link(), LETTER)
        self.assertEqual(self.said(reference).version, 1)
        now = drafts.open_draft(self.office, self.odalys, answer)
        self.assertEqual([a.slot for a in now.dossier.attachments if a.issuer], ["site_plan"])
        self.refused(NotReady, lambda: drafts.throw_away(self.office, self.odalys, answer))
        drafts.keep(self.office, self.odalys, answer, None, words={1: "As it was."})
        answering.send_answers(self.office, self.odalys, answer)
        self.assertEqual((self.said(reference).version, self.said(reference).state), (2, "Answers came back"))

    def test_before_answers_are_begun_nobody_has_to_take_it(self) -> None:
        reference = self.wanted_answers()
        self.ask(reference)
        self.deliver(self.link(), LETTER)
        self.assertEqual((self.said(reference).version, self.said(reference).state), (2, "Answers wanted"))
        answer = answering.begin_answering(self.office, self.odalys, reference)
        drafts.keep(self.office, self.odalys, answer, None, words={1: "As it was."})
        answering.send_answers(self.office, self.odalys, answer)
        (a_round,) = self.said(reference).rounds
        self.assertEqual(a_round.unasked, ())

    def test_a_statement_becomes_a_paper(self) -> None:
        draft = self.empty()
        self.ask(draft)
        secret = self.link()
        self.refused(Invalid, lambda: delivering.deliver(self.office, secret, Sent("Ross Hale", " ", statement="So it is.")))
        self.refused(Invalid, lambda: delivering.deliver(self.office, secret, Sent("Ross Hale", "Hale", statement=" ")))
        self.refused(TooLarge, lambda: delivering.deliver(self.office, secret, Sent("Ross Hale", "Hale", statement="x" * 8001)))
        damaged = Sent("Ross Hale", "Hale", file="plan.pdf", content=PLAN[:900] + b"\0" * 40)
        self.assertIn("plan.pdf", self.refused(Invalid, lambda: delivering.deliver(self.office, secret, damaged)))
        small = Sent("Ross Hale", "Hale", file="plan.pdf", content=SMALL_PLAN)
        self.assertIn("A3 or larger", self.refused(Invalid, lambda: delivering.deliver(self.office, secret, small)))
        stated = Sent("Ross Hale", "Hale Surveys", statement="The works keep 4.2 m from the edge.", anyway=True)
        done = delivering.deliver(self.office, secret, stated)
        self.assertEqual(done.name, "Site plan, to scale.pdf")
        self.assertIn(
            "keep 4.2 m from the edge. Stated by Ross Hale, Hale Surveys Sent to", text_of(self.office.vault.get(done.sha256))
        )

    def test_links_end_and_are_renewed(self) -> None:
        draft = self.empty()
        self.refused(Invalid, lambda: self.ask(draft, slot="nonsense"))
        self.refused(Invalid, lambda: self.ask(draft, wanted=date(2026, 11, 1)))
        self.refused(NotFound, lambda: issuing.ask(self.office, self.tamsin, draft, "site_plan", ROSS, "Ross Hale"))
        self.refused(NotFound, lambda: issuing.asked_of(self.office, self.imre, draft))
        asked = self.ask(draft, wanted=date(2026, 11, 7))
        first = self.link()
        self.refused(NotFound, lambda: issuing.ask_again(self.office, self.tamsin, asked.id))
        self.instant += timedelta(days=8)
        self.assertEqual(issuing.asked_of(self.office, self.odalys, draft)[0].state, "late")
        self.assertEqual((issuing.remind_issuers(self.office), issuing.remind_issuers(self.office)), (1, 0))
        second = self.link()
        self.refused(NotFound, lambda: delivering.wanted(self.office, first))
        self.instant += timedelta(days=31)
        self.refused(NotFound, lambda: delivering.wanted(self.office, second))
        issuing.ask_again(self.office, self.odalys, asked.id)
        third = self.link()
        drafts.throw_away(self.office, self.odalys, draft)
        self.refused(NotFound, lambda: self.deliver(third))
        self.instant += timedelta(days=8)
        removing.tidy(self.office)
        with read_session(self.office.engine) as session:
            told = [m.subject for m in session.scalars(select(Outgoing).where(Outgoing.to == ROSS))]
        self.assertIn("A filing is given up", told)

        other = self.empty()
        asked = self.ask(other)
        link = self.link()
        self.refused(NotFound, lambda: issuing.take_back(self.office, self.tamsin, asked.id))
        issuing.take_back(self.office, self.odalys, asked.id)
        self.assertEqual(issuing.asked_of(self.office, self.odalys, other), [])
        self.refused(NotFound, lambda: delivering.wanted(self.office, link))

    def test_not_for_a_case_that_is_at_its_end(self) -> None:
        reference = self.filed()
        self.ask(reference)
        secret = self.link()
        endings.withdraw(self.office, self.odalys, reference, "No more.")
        self.refused(NotFound, lambda: self.deliver(secret))
        self.refused(NotReady, lambda: self.ask(reference))
