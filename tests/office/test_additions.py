"""A person, or an answer that costs something, added to a filed case without being asked: amount and limit first, paid or taken out again."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from jolly_clerk.core.dossier.model import Answers
from jolly_clerk.core.history import TakenOut
from jolly_clerk.demo import dossiers
from jolly_clerk.office.cases import notices, paying
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotReady, OfficeError
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.post.papers import payment_receipt
from jolly_clerk.office.preparing import adding, answering, attaching, drafts, filing, signing
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.office.views.case import CaseView, case_view
from jolly_clerk.office.views.draft import draft_view
from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.office.test_journey import Cases, text_of

DAY = date(2026, 11, 5)
ADA, BEN = ("Ada Skerry", 30), ("Ben Marrow", 41)


class Additions(Cases):
    def setUp(self) -> None:
        super().setUp()
        for edition in ("QV/2026-06-01.yaml", "IP/2026-01-01.yaml"):
            publish(self.office, SHIPPED / edition)

    def laid(self, kind: str, made: dossiers.Dossier) -> str:
        answers, files = made
        draft = drafts.start_draft(self.office, self.odalys, kind)
        drafts.keep(self.office, self.odalys, draft, None, answers=answers)
        for slot, name, content in files:
            attaching.attach(self.office, self.odalys, draft, slot, name, content)
        now = drafts.open_draft(self.office, self.odalys, draft)
        for declaration in now.rulebook.declarations:
            signing.declare(self.office, self.odalys, draft, declaration.declaration.declare, True)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        self.pay(reference)
        return reference

    def tour(self) -> str:
        return self.laid("QV", dossiers.tour(DAY, "Odalys Renn", "Salt songs", (ADA,)))

    def view(self, reference: str) -> CaseView:
        return case_view(self.office, self.odalys, load_case(self.office, self.odalys, reference))

    def refused(self, kind: type[OfficeError], act: Callable[[], object]) -> str:
        with self.assertRaises(kind) as raised:
            act()
        return raised.exception.detail

    def second_person(self, reference: str, name: str = "Odalys Renn") -> str:
        """A draft in which Ben is added, complete and signed."""
        draft = adding.begin(self.office, self.odalys, reference, "persons")
        told, files = dossiers.tour(DAY, "Odalys Renn", "Salt songs", (ADA, BEN))
        self.fill(draft, told["persons"][1])
        number = max(p["id"] for p in drafts.open_draft(self.office, self.odalys, draft).dossier.answers["persons"])
        for slot, file, content in files:
            if slot.endswith(".2"):
                attaching.attach(self.office, self.odalys, draft, slot.replace(".2", f".{number}"), file, content)
        signing.sign(self.office, self.odalys, draft, name)
        return draft

    def fill(self, draft: str, person: dict[str, Any]) -> None:
        there: Answers = drafts.open_draft(self.office, self.odalys, draft).dossier.answers
        persons = [*there["persons"][:-1], {**person, "id": there["persons"][-1]["id"]}]
        drafts.keep(self.office, self.odalys, draft, None, answers={**there, "persons": persons})

    def test_a_person_is_added_and_paid(self) -> None:
        reference = self.tour()
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference)
        before = self.said(reference)
        (may,) = self.view(reference).may_add
        self.assertEqual((may.adds, may.title), ("persons", "Person"))
        self.assertIn("Thu 19 Nov 2026", may.told)
        draft = self.second_person(reference)
        now = draft_view(drafts.open_draft(self.office, self.odalys, draft))
        self.assertEqual(now.assessment.left, ())
        assert now.adding is not None
        self.assertEqual(now.adding.title, "Person 2")
        self.assertGreater(now.adding.amount, 95)
        self.assertIn(f"EUR {now.adding.amount} is due at once. If it is not paid until Thu 19 Nov 2026", now.adding.told)
        self.instant += timedelta(minutes=1)
        self.assertEqual(adding.send(self.office, self.odalys, draft), reference)
        after = self.said(reference)
        self.assertEqual((after.state, after.version, after.account.open), ("Being checked", 2, now.adding.amount))
        self.assertEqual(after.clock and after.clock.limit_day, before.clock and before.clock.limit_day)
        fresh = [r for r in after.requirements if r.id.endswith(".2")]
        self.assertTrue(fresh and not any(r.judged for r in fresh))
        self.assertTrue(all(r.judged for r in after.requirements if r.id.endswith(".1") and r.asked))
        told = self.view(reference)
        self.assertIn("Odalys Renn added later: Person 2; version 2; ", told.story[-1].text)
        self.assertIn("Thu 19 Nov", [f"{s.day:%a %d %b}" for s in told.next_steps if s.day and "Person 2" in s.text])
        self.instant += timedelta(minutes=1)
        self.pay(reference)
        self.assertEqual(self.said(reference).account.open, 0)
        loaded = load_case(self.office, self.odalys, reference)
        receipt = text_of(payment_receipt(self.office, loaded, loaded.so_far.payments[-1]))
        self.assertIn("Came later: Person 2", receipt)
        self.instant += timedelta(days=20)
        run_clock(self.office)
        self.assertEqual(self.said(reference).version, 2)
        self.assertEqual(list(verify(self.office)), [])

    def test_what_is_not_paid_is_taken_out_again(self) -> None:
        reference = self.tour()
        filed = load_case(self.office, self.imre, reference).dossier
        adding.send(self.office, self.odalys, self.second_person(reference))
        self.move_to(2026, 11, 19, 23)
        run_clock(self.office)
        self.assertEqual(self.said(reference).version, 2)
        self.move_to(2026, 11, 20, 0, 1)
        run_clock(self.office)
        loaded = load_case(self.office, self.imre, reference)
        self.assertIsInstance(loaded.history.entries[-1], TakenOut)
        self.assertEqual((loaded.assessment.version, loaded.assessment.account.open), (3, 0))
        self.assertEqual(loaded.dossier, filed)
        self.assertIn("Person 2 was not paid in time and counts as not having come", self.view(reference).story[-1].text)
        again = draft_view(drafts.open_draft(self.office, self.odalys, self.second_person(reference)))
        assert again.adding is not None
        self.assertEqual(again.adding.title, "Person 3")
        self.assertEqual(list(verify(self.office)), [])

    def test_what_else_was_changed_since_stays(self) -> None:
        reference = self.tour()
        checking.begin_checking(self.office, self.imre, reference)
        adding.send(self.office, self.odalys, self.second_person(reference))
        checking.judge(self.office, self.imre, reference, "documents.health_cover", "wanting", "It names one person.")
        checking.send_letter(self.office, self.imre, reference)
        self.move_to(2026, 11, 6, 10)
        draft = answering.begin_answering(self.office, self.odalys, reference)
        cover = dossiers.papers.paper(
            "Health cover", "2 persons.", "In force until 1 September 2027", letterhead="Harbour Mutual"
        )
        attaching.attach(self.office, self.odalys, draft, "health_cover", "cover.pdf", cover)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        answering.send_answers(self.office, self.odalys, draft)
        self.move_to(2026, 11, 20, 9)
        run_clock(self.office)
        loaded = load_case(self.office, self.imre, reference)
        self.assertEqual([p["id"] for p in loaded.dossier.answers["persons"]], [1])
        self.assertIn("cover.pdf", [a.name for a in loaded.dossier.attachments])
        self.assertFalse([a for a in loaded.dossier.attachments if a.slot.endswith(".2")])
        self.assertEqual(loaded.assessment.changed_since_signed, ())

    def test_nothing_else_is_changed_by_it(self) -> None:
        reference = self.tour()
        draft = self.second_person(reference)
        there = drafts.open_draft(self.office, self.odalys, draft).dossier.answers
        other = {**there, "keep": {**there["keep"], "lodging": "The Anchor"}}
        said = self.refused(Invalid, lambda: drafts.keep(self.office, self.odalys, draft, None, answers=other))
        self.assertIn("not what you add", said)
        first = [{**there["persons"][0], "name": "Eve Sark"}, there["persons"][1]]
        self.refused(Invalid, lambda: drafts.keep(self.office, self.odalys, draft, None, answers={**there, "persons": first}))
        gone = {**there, "persons": there["persons"][1:]}
        self.refused(Invalid, lambda: drafts.keep(self.office, self.odalys, draft, None, answers=gone))
        self.refused(Invalid, lambda: attaching.attach(self.office, self.odalys, draft, "venue_letters", "more.pdf", b"%PDF-1"))
        stays = draft_view(drafts.open_draft(self.office, self.odalys, draft)).assessment.locked
        self.assertTrue({"persons.1.name", "keep.lodging", "documents.passport.1"} <= set(stays))
        self.assertFalse({"persons.2.name", "persons", "documents.passport.2"} & set(stays))

    def test_what_is_refused(self) -> None:
        reference = self.tour()
        self.refused(NotAllowed, lambda: adding.begin(self.office, self.imre, reference, "persons"))
        self.refused(NotReady, lambda: adding.begin(self.office, self.odalys, reference, "keep.lodging"))
        draft = adding.begin(self.office, self.odalys, reference, "persons")
        self.assertEqual(adding.begin(self.office, self.odalys, reference, "persons"), draft)
        left = self.refused(NotReady, lambda: adding.send(self.office, self.odalys, draft))
        self.assertEqual(left, "Name as in the passport")
        self.refused(Invalid, lambda: adding.send(self.office, self.odalys, drafts.start_draft(self.office, self.odalys, "QV")))

    def test_examination_is_asked_for(self) -> None:
        reference = self.laid("IP", dossiers.patent("Odalys Renn", "A winch that holds"))
        checking.begin_checking(self.office, self.imre, reference)
        (may,) = (one for one in self.view(reference).may_add)
        self.assertEqual(may.adds, "service.exam_on")
        self.assertIn("It costs EUR 480.00, to be paid until Thu 19 Nov 2026.", may.told)
        draft = adding.begin(self.office, self.odalys, reference, "service.exam_on")
        self.move_to(2026, 11, 6, 9)  # the day of the asking counts, not that of the draft
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        adding.send(self.office, self.odalys, draft)
        said = self.said(reference)
        self.assertEqual(said.dossier.answers["service"]["exam_on"], "2026-11-06")
        self.assertEqual(said.account.open, Decimal("480.00"))
        self.assertEqual(self.view(reference).may_add, ())

    def test_after_acceptance_it_is_due_beside_what_fell_due_then(self) -> None:
        reference = self.laid("IP", dossiers.patent("Odalys Renn", "A winch that holds"))
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference)
        self.instant += timedelta(minutes=1)
        checking.accept(self.office, self.imre, reference)
        self.instant += timedelta(minutes=1)
        draft = adding.begin(self.office, self.odalys, reference, "service.exam_on")
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        adding.send(self.office, self.odalys, draft)
        said = self.said(reference)
        self.assertEqual((said.state, said.account.open), ("Complete", Decimal("480.00")))
        fee = said.requirement("fee.at_filing")
        self.assertEqual(fee and fee.proposed, "met")
        at = paying.ask_payment(self.office, self.odalys, reference)
        self.assertEqual(at.amount, Decimal("480.00"))
        self.instant += timedelta(minutes=1)
        notices.at_stand_in(self.office, self.odalys, at.key, "approved")
        self.assertEqual((self.said(reference).account.open, self.said(reference).account.over), (0, 0))
