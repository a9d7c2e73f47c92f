"""A filing of the wrong kind becomes one of the right kind: proposed, agreed by filing, the old one ended, its money with its receipt moved."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from unittest import mock

from sqlalchemy import select

from jolly_clerk.office.cases import endings
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, talking, turning
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.preparing import drafts, filing, pile, signing
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED
from jolly_clerk.store.database import read_session
from jolly_clerk.store.ledger import MoneyIn, Placing
from tests.helpers import EDITION
from tests.office.test_journey import Cases

WHY = "It is a sign and no building, which another law orders."


class Turning(Cases):
    def setUp(self) -> None:
        super().setUp()
        other = self.folder / "XW" / "2026-07-01.yaml"
        other.parent.mkdir()
        text = (
            EDITION.read_text("utf-8")
            .replace("kind: BW", "kind: XW", 1)
            .replace("in_force: 2026-07-01", "in_force: 2026-07-01", 1)
        )
        text = text.replace("title: Building works permit", "title: Permit for a sign", 1)
        other.write_text(text, "utf-8")
        publish(self.office, other, SHIPPED / "calendars" / "quillhaven.yaml")

    def tearDown(self) -> None:
        self.assertEqual(list(verify(self.office)), [])
        self.assertEqual(rebuild(self.office), 0)

    def proposed(self) -> tuple[str, str]:
        reference = self.filed()
        self.move_to(2026, 11, 9)
        checking.begin_checking(self.office, self.imre, reference)
        return reference, turning.propose(self.office, self.imre, reference, "XW", WHY)

    def agree(self, draft: str) -> str:
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        return filing.file(self.office, self.odalys, draft, take_gaps=True)

    def test_proposed_and_agreed(self) -> None:
        old, draft = self.proposed()
        told, _ = talking.messages(self.office, load_case(self.office, self.odalys, old), {}, inner=False)
        self.assertIn("Permit for a sign", told[-1].text)
        self.assertIn(f"/filing/{draft}", told[-1].text)
        there = drafts.open_draft(self.office, self.odalys, draft)
        self.assertEqual((there.turns, there.dossier.signature), (old, None))
        self.assertEqual(there.dossier.answers["works"]["area"], "95.8")  # type: ignore[index,call-overload]
        self.assertEqual(
            [p.file.name for p in pile.pile_view(self.office, self.odalys, draft).pieces], ["plan.pdf", "sections.pdf"]
        )
        receipt = self.said(old).account.payments[0].receipt
        self.move_to(2026, 11, 11)
        new = self.agree(draft)
        ended = load_case(self.office, self.odalys, old)
        self.assertEqual((ended.assessment.state, ended.so_far.paid, ended.so_far.refunds_due), ("Out of scope", 0, ()))
        loaded = load_case(self.office, self.odalys, new)
        calendar = loaded.known.calendar
        self.assertEqual(calendar.local_day(loaded.so_far.filed.filed_at), date(2026, 11, 5))  # type: ignore[union-attr]
        self.assertEqual(calendar.local_day(loaded.so_far.covered_at), date(2026, 11, 11))  # type: ignore[arg-type]
        self.assertEqual((loaded.assessment.state, loaded.so_far.paid), ("Filed", Decimal("438.18")))
        self.assertEqual([p.receipt for p in loaded.assessment.account.payments], [receipt])
        with read_session(self.office.engine) as session:
            self.assertEqual([m.is_left for m in session.scalars(select(MoneyIn))], [False])
            self.assertEqual([p.case_id for p in session.scalars(select(Placing))], [loaded.case.id])
        self.assertEqual(turning.finish_turnings(self.office), 0)

    def test_a_stop_in_between_is_taken_up(self) -> None:
        old, draft = self.proposed()
        with mock.patch.object(turning, "book", side_effect=KeyboardInterrupt), self.assertRaises(KeyboardInterrupt):
            self.agree(draft)
        self.assertEqual(self.said(old).state, "Out of scope")
        with read_session(self.office.engine) as session:
            self.assertEqual([m.is_left for m in session.scalars(select(MoneyIn))], [True])
        run_clock(self.office)
        run_clock(self.office)
        with read_session(self.office.engine) as session:
            self.assertEqual([(m.is_left, Decimal(m.left)) for m in session.scalars(select(MoneyIn))], [(False, 0)])
            self.assertEqual(len(list(session.scalars(select(Placing)))), 1)

    def test_what_cannot_be(self) -> None:
        reference = self.filed()
        for kind, why, error in (("BW", WHY, Invalid), ("XW", "no", Invalid), ("ZZ", WHY, NotFound)):
            with self.subTest(kind), self.assertRaises(error):
                turning.propose(self.office, self.imre, reference, kind, why)
        with self.assertRaises(NotAllowed):
            turning.propose(self.office, self.odalys, reference, "XW", WHY)

    def test_once_and_not_after_the_end(self) -> None:
        old, draft = self.proposed()
        with self.assertRaises(NotReady):
            turning.propose(self.office, self.imre, old, "XW", WHY)
        endings.withdraw(self.office, self.odalys, old)
        with self.assertRaises(NotReady) as told:
            self.agree(draft)
        self.assertIn("has ended meanwhile", told.exception.detail)
