"""The ledger: money in with one receipt, placed, not placed, refunds that are due and leave, payments that are charged back."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from sqlalchemy import select

from jolly_clerk.core.in_words import day as day_in_words
from jolly_clerk.core.money_explained import money_explained
from jolly_clerk.office.cases import endings, ledger, paying, refunding
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, handwork
from jolly_clerk.office.errors import Invalid, NotAllowed, NotReady, Stale
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.post import papers
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.ledger import MoneyIn, Refund
from jolly_clerk.store.tables import Outgoing
from tests.helpers import EDITION
from tests.office.test_endings import Endings
from tests.office.test_journey import text_of

DUE = Decimal("438.18")


class Ledger(Endings):
    def take(self, reference: str, amount: str, mark: str, day: date | None = None, account: str = "") -> None:
        paying.take_money(self.office, self.imre, reference, Decimal(amount), "transfer", mark, day, account=account)

    def loose(self, amount: str = "600.00", key: str = "transfer T 9") -> str:
        came = ledger.Came(key, "transfer", Decimal(amount), "EUR", date(2026, 11, 6), "Ann Holt", "QH07 0001")
        with write_session(self.office.engine) as session:
            return ledger.keep_money(session, self.office, "imre", came, came.amount, "it names no case").id

    def state(self, reference: str) -> str:
        return load_case(self.office, self.odalys, reference).assessment.state

    def test_a_transfer_counts_from_its_value_day(self) -> None:
        """Filed Thu 5 Nov; the transfer of Fri 6 Nov is placed on Wed 11 Nov: the office's ten days run from the 6th."""
        reference = self.unpaid()
        self.move_to(2026, 11, 11, 10)
        self.take(reference, "438.18", "T 1", date(2026, 11, 6))
        loaded = load_case(self.office, self.odalys, reference)
        self.assertEqual(loaded.known.calendar.local_day(loaded.so_far.covered_at), date(2026, 11, 6))  # type: ignore[arg-type]
        held = [d.holder for d in loaded.assessment.clock.ribbon if date(2026, 11, 4) <= d.day <= date(2026, 11, 9)]  # type: ignore[union-attr]
        self.assertEqual(held, ["theirs", "ours", "ours", "ours", "ours"])
        with self.assertRaises(Invalid):
            self.take(reference, "1.00", "T 2", date(2026, 11, 12))

    def test_money_in_time_undoes_a_lapse(self) -> None:
        reference = self.unpaid()
        self.take(reference, "38.18", "T 1")
        last = load_case(self.office, self.odalys, reference).assessment.clock.limit_day  # type: ignore[union-attr]
        self.move_to(2026, 11, 25, 1)
        run_clock(self.office)
        self.assertEqual(self.state(reference), "Lapsed")
        self.assertEqual([r.amount for r in refunding.ledger(self.office, self.maud).refunds], [Decimal("38.18")])
        self.take(reference, "400.00", "T 2", last)
        self.assertEqual(self.state(reference), "Filed")
        loaded = load_case(self.office, self.odalys, reference)
        self.assertEqual((loaded.so_far.paid, loaded.so_far.refunds_due), (DUE, ()))
        self.assertEqual(refunding.ledger(self.office, self.maud).refunds, ())
        self.assertIn("EUR 400.00 had come in time", [e.because for e in loaded.history.entries if e.what == "lapse undone"])

    def test_money_that_came_late_or_too_little_undoes_none(self) -> None:
        reference = self.unpaid()
        last = load_case(self.office, self.odalys, reference).assessment.clock.limit_day  # type: ignore[union-attr]
        self.move_to(2026, 11, 25, 1)
        run_clock(self.office)
        with self.assertRaises(NotAllowed):
            self.take(reference, "538.19", "T 0", last)
        self.take(reference, "438.18", "T 1", last.replace(day=last.day + 1))  # type: ignore[union-attr]
        self.take(reference, "438.17", "T 2", last)
        self.assertEqual(self.state(reference), "Lapsed")
        self.assertEqual(len(refunding.ledger(self.office, self.maud).refunds), 2)

    def test_a_refund_is_due_until_a_lead_lets_it_leave(self) -> None:
        reference = self.unpaid()
        self.take(reference, "438.18", "T 1", account="QH07 5555")
        endings.withdraw(self.office, self.odalys, reference)
        loaded = load_case(self.office, self.odalys, reference)
        (due,) = loaded.so_far.refunds_due
        back = loaded.assessment.account.back
        self.assertEqual([(b.amount, b.left_at) for b in back], [(due.amount, None)])
        self.assertEqual(loaded.so_far.paid, DUE - due.amount)
        (row,) = refunding.ledger(self.office, self.maud).refunds
        self.assertEqual((row.reference, row.amount, row.account, row.payer), (reference, due.amount, "QH07 5555", "Odalys Renn"))
        with self.assertRaises(NotAllowed):
            refunding.approve(self.office, self.imre, [row.id], {})
        self.assertEqual(refunding.approve(self.office, self.maud, [row.id], {}), 1)
        with self.assertRaises(Stale):
            refunding.approve(self.office, self.maud, [row.id], {})
        loaded = load_case(self.office, self.odalys, reference)
        self.assertEqual(loaded.so_far.refunds_due, ())
        self.assertEqual(loaded.assessment.account.back[0].way, "to account QH07 5555")
        (left,) = refunding.ledger(self.office, self.maud).left
        self.assertEqual((left.reference, left.approved_by, left.way), (reference, "Maud Ferrier", "to account QH07 5555"))

    def test_a_cheque_and_a_transfer_go_back_only_to_an_account_that_is_named(self) -> None:
        reference = self.unpaid()
        paying.take_money(self.office, self.imre, reference, DUE, "cheque", "C 77")
        endings.withdraw(self.office, self.odalys, reference)
        (row,) = refunding.ledger(self.office, self.maud).refunds
        self.assertTrue(row.needs_account)
        with self.assertRaises(Invalid) as refused:
            refunding.approve(self.office, self.maud, [row.id], {})
        self.assertEqual(refused.exception.place, f"accounts.{row.id}")
        self.assertEqual(refunding.approve(self.office, self.maud, [row.id], {row.id: "QH07 9999"}), 1)

    def receipt_of(self, reference: str) -> str:
        """The words of the receipt of the first payment."""
        loaded = load_case(self.office, self.odalys, reference)
        no = next(n for n, e in enumerate(loaded.history.entries, 1) if e.what == "paid")
        return text_of(papers.paper(self.office, loaded, no)[1])

    def test_a_refund_of_card_and_cheque_leaves_by_both(self) -> None:
        reference = self.unpaid()
        paying.take_money(self.office, self.imre, reference, Decimal("100.00"), "cheque", "C 78")
        self.pay(reference)
        endings.withdraw(self.office, self.odalys, reference)
        (row,) = refunding.ledger(self.office, self.maud).refunds
        refunding.approve(self.office, self.maud, [row.id], {row.id: "QH07 9999"})
        entries = load_case(self.office, self.imre, reference).history.entries
        left = {e.means: (e.amount, e.account) for e in entries if e.what == "refund paid"}
        self.assertEqual(set(left), {"card", "cheque"})
        self.assertEqual((left["cheque"][1], left["card"][1]), ("QH07 9999", ""))
        self.assertEqual(sum(amount for amount, _ in left.values()), row.amount)
        self.assertEqual(refunding.ledger(self.office, self.maud).refunds, ())

    def test_one_money_in_on_two_cases_has_one_receipt(self) -> None:
        first, second, money_in = self.unpaid(), self.unpaid(), self.loose("876.36")
        refunding.place_money(self.office, self.maud, money_in, first, DUE)
        (row,) = refunding.ledger(self.office, self.maud).not_placed
        self.assertEqual((row.left, row.payer), (DUE, "Ann Holt"))
        with self.assertRaises(Invalid):
            refunding.place_money(self.office, self.maud, money_in, second, DUE + 1)
        refunding.place_money(self.office, self.maud, money_in, second, DUE)
        self.assertEqual(refunding.ledger(self.office, self.maud).not_placed, ())
        receipts = {load_case(self.office, self.odalys, r).so_far.payments[0].receipt for r in (first, second)}
        self.assertEqual(len(receipts), 1)
        said = " ".join(self.receipt_of(first).split())
        self.assertIn(f"It is a part of EUR 876.36; of the rest are placed EUR 438.18 on {second}.", said)
        self.assertIn("Its value day is", said)
        self.assertEqual({self.state(first), self.state(second)}, {"Filed"})
        self.assertEqual(list(verify(self.office)), [])
        with self.assertRaises(Invalid):
            paying.take_money(self.office, self.imre, self.unpaid(), DUE, "transfer", "T 9")

    def test_money_of_nobody_goes_back(self) -> None:
        money_in = self.loose()
        refunding.send_back(self.office, self.maud, money_in)
        with self.assertRaises(Invalid):
            refunding.send_back(self.office, self.maud, money_in)
        (row,) = refunding.ledger(self.office, self.maud).refunds
        self.assertEqual((row.reference, row.payer, row.amount), ("", "Ann Holt", Decimal("600.00")))
        refunding.approve(self.office, self.maud, [row.id], {})
        self.assertEqual(list(verify(self.office)), [])
        with read_session(self.office.engine) as session:
            self.assertEqual(session.scalars(select(Refund.account)).all(), ["QH07 0001"])

    def test_charged_back_before_checking_waits_for_payment_anew(self) -> None:
        reference = self.unpaid()
        self.take(reference, "438.18", "T 1")
        self.move_to(2026, 11, 16, 10)
        with self.assertRaises(NotReady):
            refunding.charge_back(self.office, self.imre, reference, "transfer T 8", "No cover.")
        with self.assertRaises(Invalid):
            refunding.charge_back(self.office, self.imre, reference, "transfer T 1", " ")
        done = refunding.charge_back(self.office, self.imre, reference, "transfer T 1", "No cover.")
        self.assertEqual((done.assessment.state, done.assessment.account.open), ("Waiting for payment", DUE))
        self.assertEqual(done.assessment.clock.limit_day, date(2026, 11, 30))  # type: ignore[union-attr]
        self.move_to(2026, 11, 18, 10)
        self.take(reference, "438.18", "T 2")
        clock = load_case(self.office, self.odalys, reference).assessment.clock
        self.assertEqual((clock.holder, clock.used), ("ours", 0))  # type: ignore[union-attr]
        held = [d.holder for d in clock.ribbon if date(2026, 11, 4) <= d.day <= date(2026, 11, 18)]  # type: ignore[union-attr]
        self.assertEqual(held, ["ours"] * 11 + ["theirs"] * 2 + ["ours"])
        with self.assertRaises(NotReady):
            refunding.charge_back(self.office, self.imre, reference, "transfer T 1", "No cover.")

    def explained(self, reference: str) -> tuple[str, ...]:
        return money_explained(load_case(self.office, self.odalys, reference).assessment)

    def test_what_became_of_money_is_explained(self) -> None:
        reference = self.unpaid()
        self.assertEqual(self.explained(reference), ())
        self.take(reference, "200.00", "T 1")
        self.assertEqual(
            self.explained(reference),
            ("EUR 200.00 is paid in part; EUR 238.18 is still open. The office begins when the whole has come.",),
        )
        self.take(reference, "300.00", "T 2")
        over = "EUR 61.82 more was paid than is due. It comes back when your application is accepted as complete."
        self.assertEqual(self.explained(reference), (over,))
        self.move_to(2026, 11, 16, 10)
        refunding.charge_back(self.office, self.imre, reference, "transfer T 2", "No cover.")
        first, pay, part = self.explained(reference)
        paid = day_in_words(load_case(self.office, self.odalys, reference).assessment.filing_day)
        self.assertEqual(
            first,
            f"EUR 300.00, paid by transfer on {paid}, was charged back on Mon 16 Nov 2026 (No cover). It counts as not paid.",
        )
        self.assertEqual(pay, "Please pay EUR 238.18 until Mon 30 Nov 2026; after that the application lapses.")
        self.assertIn("EUR 238.18 is still open", part)
        with read_session(self.office.engine) as session:
            mail = session.scalars(select(Outgoing).where(Outgoing.subject == "A payment was charged back")).one()
        self.assertIn("was charged back on Mon 16 Nov 2026", mail.text or "")
        self.move_to(2026, 12, 1, 1)
        run_clock(self.office)
        self.move_to(2026, 12, 4, 10)
        self.take(reference, "238.18", "T 3")
        said = self.explained(reference)[-1]
        self.assertEqual(
            said, "EUR 238.18 came on Fri 4 Dec 2026, after the application had lapsed on Tue 1 Dec 2026. It goes back."
        )

    def test_charged_back_while_it_is_checked_is_wanting(self) -> None:
        reference = self.unpaid()
        self.take(reference, "438.18", "T 1")
        checking.begin_checking(self.office, self.imre, reference)
        done = refunding.charge_back(self.office, self.imre, reference, "transfer T 1", "No cover.")
        fee = next(r for r in done.assessment.requirements if r.id == "fee.at_filing")
        self.assertEqual((done.assessment.state, fee.proposed), ("Being checked", "wanting"))
        with read_session(self.office.engine) as session:
            self.assertEqual(session.scalars(select(MoneyIn.left)).all(), ["0"])


class Uncomputable(Endings):
    """A fee that the rules cannot work out: the office sets it, and until then nothing counts as paid."""

    def setUp(self) -> None:
        super().setUp()
        file = self.folder / "BW" / "2026-07-02.yaml"
        file.parent.mkdir(exist_ok=True)
        text = EDITION.read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-07-02", 1)
        told = text.replace("    when: works.distance <= 30.0\n    flat: 120.00\n", "    amount: 120 / (works.area - 95.8)\n")
        self.assertNotEqual(told, text)
        file.write_text(told, "utf-8")
        publish(self.office, file)
        self.keeper = add_person(self.office, "petra", "Petra Lune", "rule-keeper", "petra@office.example")

    def test_it_is_filed_set_by_hand_and_paid(self) -> None:
        reference = self.unpaid()
        loaded = load_case(self.office, self.imre, reference)
        self.assertEqual((loaded.assessment.state, loaded.so_far.to_set), ("Waiting for payment", ("shoreline",)))
        line = next(x for x in loaded.assessment.fees.lines if x.id == "shoreline")
        self.assertEqual(line.trouble, "cannot be worked out: it would be divided by nothing")
        self.assertEqual((loaded.assessment.clock.holder, loaded.assessment.clock.limit_day), ("ours", None))  # type: ignore[union-attr]
        with self.assertRaises(NotReady):
            paying.ask_payment(self.office, self.odalys, reference)
        self.move_to(2026, 12, 24)
        run_clock(self.office)
        self.assertEqual(self.state_of(reference), "Waiting for payment")
        handwork.set_fee(self.office, self.imre, reference, "shoreline", Decimal("90.00"), "As in the year before.")
        now = load_case(self.office, self.odalys, reference)
        self.assertEqual(now.assessment.account.open, Decimal("408.18"))
        self.assertEqual(now.assessment.clock.holder, "theirs")  # type: ignore[union-attr]
        self.assertGreater(now.assessment.clock.limit_day, date(2026, 12, 31))  # type: ignore[union-attr, operator]
        self.pay(reference)
        self.assertEqual(self.state_of(reference), "Filed")
        with read_session(self.office.engine) as session:
            told = session.scalars(select(Outgoing).where(Outgoing.to == "petra@office.example")).all()
        self.assertEqual(len(told), 1)
        self.assertIn("divided by nothing", told[0].text)

    def state_of(self, reference: str) -> str:
        return load_case(self.office, self.odalys, reference).assessment.state
