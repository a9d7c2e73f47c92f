"""A whole day at the till, to the cent, also if the program stops in the middle of its movements."""

from __future__ import annotations

import io
from collections.abc import Callable
from contextlib import suppress
from dataclasses import asdict
from decimal import Decimal
from typing import Any
from unittest import mock

import openpyxl
from sqlalchemy import func, select

from jolly_clerk.core.history import Paid
from jolly_clerk.office.cases import endings, notices, paying, refunding
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import NotReady, Stale
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.till import drawers, files, placing, statements
from jolly_clerk.store.database import read_session
from jolly_clerk.store.ledger import MoneyIn, Placing, Refund
from jolly_clerk.store.tables import Case
from jolly_clerk.store.till import BankMovement
from tests.bank import Entry, camt, iban, is_standard
from tests.office.test_till import TillTest

D = Decimal


class Stop(BaseException):
    """The program stops here, as if its power had gone."""


class ADay(TillTest):
    """Sixty movements, as they come in a day."""

    named: list[str]
    pair: list[str]
    short: str
    nameless: str
    off: list[str]
    by_card: list[str]
    by_cash: list[str]
    by_cheque: list[str]
    back: list[str]

    def cases(self) -> dict[str, Any]:
        """The cases that are paid for in the day, by the name under which the test knows them."""
        return {
            "named": [self.unpaid() for _ in range(24)],
            "pair": [self.unpaid(), self.unpaid(works_area="61")],
            "short": self.unpaid(),
            "nameless": self.unpaid(works_area="47"),
            "off": [self.unpaid(), self.unpaid()],
            "by_card": [self.unpaid() for _ in range(8)],
            "by_cash": [self.unpaid() for _ in range(9)],
            "by_cheque": [self.unpaid() for _ in range(3)],
            "back": [self.unpaid(), self.unpaid()],
        }

    def yesterday(self) -> None:
        """Two refunds were approved and sent, a transfer was placed that the bank will take back."""
        self.read(*(Entry(f"Y{n}", "438.18", r, "Odalys Renn", iban(7)) for n, r in enumerate(self.back)), number="2026-230")
        placing.confirm_sure(self.office, self.imre, [r.id for r in self.till().sure])
        endings.withdraw(self.office, self.odalys, self.back[0])
        self.lone = refunding.ledger(self.office, self.maud).refunds
        refunding.approve(self.office, self.maud, [r.id for r in self.lone], {})
        made = files.make_payment_file(self.office, self.imre, "EUR")
        content = files.read_payment_file(self.office, self.imre, made.no)
        self.assertTrue(is_standard(content))
        self.assertIn(f"<EndToEndId>JC-R{self.lone[0].id}</EndToEndId>".encode(), content)
        self.assertEqual((made.count, made.total, made.without), (1, self.lone[0].amount, ()))
        with self.assertRaises(NotReady):
            files.make_payment_file(self.office, self.imre, "EUR")

    def statement(self) -> bytes:
        wrong = [
            self.off[0][:6] + self.off[0][7] + self.off[0][6] + self.off[0][8:],
            self.off[1][:-1] + ("A" if self.off[1][-1] != "A" else "B"),
        ]
        if wrong[0] == self.off[0]:  # two like neighbours: another digit instead
            wrong[0] = self.off[0][:9] + str((int(self.off[0][9]) + 1) % 10) + self.off[0][10:]
        both = sum((self.open_of(r) for r in self.pair), D(0))
        written = (lambda r: r, lambda r: r.lower(), lambda r: r.replace("-", " "), lambda r: f"fee {r.replace('-', '')}")
        entries = [Entry(f"B{n:02}", "438.18", written[n % 4](r), "Odalys Renn") for n, r in enumerate(self.named)]
        entries += [
            Entry("B30", str(both), f"{self.pair[0]} {self.pair[1]}", "Odalys Renn"),
            Entry("B31", "428.18", self.short, "T. Oake"),
            Entry("B32", str(self.open_of(self.nameless)), "roof fee thank you", "O. Renn"),
            Entry("B33", "438.18", wrong[0], "Odalys Renn"),
            Entry("B34", "438.18", wrong[1], "Odalys Renn"),
            Entry("B35", "438.18", self.named[0], "Odalys Renn"),  # the second time
            Entry("B36", "83.85", "thank you", "Ann Holt"),  # fits nothing
            Entry("B37", "12.00", "by mistake", "Ann Holt"),  # goes back
            Entry("B38", "-438.18", f"{self.back[1]} Y1", "Odalys Renn", reason="not recognised"),
            Entry("B39", f"-{self.lone[0].amount}", "", "Odalys Renn", end_to_end=f"JC-R{self.lone[0].id}"),
            Entry("B40", "-9.90", "fee of the bank", end_to_end=f"JC-R{2**70}"),  # no refund of ours
            Entry("B41", "3505.44", "cards of 5 Nov"),
            *(Entry(f"B{n}", "1.00", f"present {n}", "Ann Holt") for n in range(42, 46)),
        ]
        return camt(entries, opening="20000.00")

    def movements(self) -> list[Callable[[], object]]:
        """What is done, one after the other; each may be done again and nothing happens twice."""

        def place(mark: str, *parts: tuple[str, Decimal]) -> Callable[[], object]:
            return lambda: placing.place_movement(self.office, self.imre, self.row(mark).id, parts)

        def sure(mark: str) -> Callable[[], object]:
            return lambda: placing.confirm_sure(self.office, self.imre, [self.row(mark).id])

        def card(n: int) -> Callable[[], object]:
            return lambda: notices.at_stand_in(self.office, self.odalys, self.orders[n], "approved")

        def counter(reference: str, means: str, mark: str) -> Callable[[], object]:
            return lambda: paying.take_money(self.office, self.imre, reference, D("438.18"), means, mark)  # type: ignore[arg-type]

        d = D("438.18")
        looked: list[Callable[[], object]] = [
            sure("B30"),
            place("B31", (self.short, D("428.18"))),
            place("B32", (self.nameless, self.open_of(self.nameless))),
            place("B33", (self.off[0], d)),
            place("B34", (self.off[1], d)),
            lambda: placing.place_movement(self.office, self.maud, self.row("B35").id, [(self.named[0], d)]),
            lambda: placing.keep_unplaced(self.office, self.imre, self.row("B36").id),
            lambda: placing.return_movement(self.office, self.imre, self.row("B37").id, "by mistake"),
            lambda: placing.charge_back_movement(self.office, self.imre, self.row("B38").id, self.back[1], "transfer Y1"),
            sure("B39"),
            lambda: placing.no_case(self.office, self.imre, self.row("B40").id, "fee of the bank"),
            lambda: placing.no_case(self.office, self.imre, self.row("B41").id, "cards, paid out in a sum"),
            *(lambda n=n: placing.keep_unplaced(self.office, self.imre, self.row(f"B{n}").id) for n in range(42, 46)),  # type: ignore[misc]
        ]
        done = [sure(f"B{n:02}") for n in range(24)]
        done += [counter(r, "cash", f"cash {n}") for n, r in enumerate(self.by_cash)]
        done += [card(n) for n in range(8)]
        done += [counter(r, "cheque", f"cheque {n}") for n, r in enumerate(self.by_cheque)]
        whole = done + looked
        order = sorted(range(len(whole)), key=lambda n: (n * 37) % len(whole))
        # the second payment of a case comes after the first
        return [whole[n] for n in order if whole[n] is not looked[5]] + [looked[5]]

    def day(self, stops: bool) -> dict[str, object]:
        vars(self).update(self.ready("cases-of-a-day", self.cases))
        self.yesterday()
        self.move_to(2026, 11, 6, 9)
        day = drawers.open_till(self.office, self.imre, D("150.00"))
        statement = self.statement()
        self.assertTrue(is_standard(statement))
        statements.read_statement(self.office, self.imre, "2026-231.xml", statement)
        self.orders = [paying.ask_payment(self.office, self.odalys, r).key for r in self.by_card]
        self.move_to(2026, 11, 6, 10)
        moves = self.movements()
        self.assertEqual(len(moves), 60)
        for n, move in enumerate(moves, 1):
            if stops and n % 10 == 0:
                self.stop_within(move)
            with suppress(Stale):  # it was done before the stop
                move()
        told = self.till()
        self.assertEqual((told.look, told.sure), ((), ()))
        self.move_to(2026, 11, 6, 17)
        closed = drawers.close_till(self.office, self.imre, day, told.days[0].totals.drawer)
        self.assertEqual(closed.number, 1)
        self.agrees(closed)
        return asdict(closed.totals) | {"owed": self.owed()}

    def stop_within(self, move: Callable[[], object]) -> None:
        """The program stops while a movement is carried out: the money is kept already, or its first part placed; then it starts again."""
        book, place, calls = placing.book, paying.place, [0]

        def after_the_first(*told: object, **more: object) -> object:
            calls[0] += 1
            if calls[0] > 1:
                raise Stop
            return book(*told, **more)  # type: ignore[arg-type]

        def never(*told: object, **more: object) -> None:
            place(*told, **more)  # type: ignore[arg-type]
            raise Stop

        with (
            mock.patch.object(placing, "book", after_the_first),
            mock.patch.object(paying, "place", never),
            suppress(Stop, Stale),
        ):
            move()
        self.again()
        with suppress(Stop):
            self.till()  # what was left undone is carried out when somebody looks

    def owed(self) -> dict[str, Decimal]:
        with read_session(self.office.engine) as session:
            references = list(session.scalars(select(Case.reference).order_by(Case.reference)))
        return {reference: self.open_of(reference) for reference in references}

    def agrees(self, closed: drawers.DayView) -> None:
        """The ledger, the receipts and the cases say the same, to the cent."""
        self.assertTrue(closed.totals.agrees)
        self.assertEqual(closed.totals.drawer, D("150.00") + 9 * D("438.18"))
        with read_session(self.office.engine) as session:
            references = list(session.scalars(select(Case.reference)))
            placed = sum((D(a) for a in session.scalars(select(Placing.amount))), D(0))
            left = sum((D(a) for a in session.scalars(select(MoneyIn.left))), D(0))
            back = sum((D(a) for a in session.scalars(select(Refund.amount).where(Refund.money_id.is_not(None)))), D(0))
            came = sum((D(a) for a in session.scalars(select(MoneyIn.amount))), D(0))
            receipts = [r for r in session.scalars(select(MoneyIn.receipt)) if r]
            self.assertEqual(session.scalar(select(func.count()).select_from(BankMovement).where(BankMovement.underway)), 0)
        self.assertEqual(placed + left + back, came)
        entries = [
            e
            for reference in references
            for e in load_case(self.office, self.imre, reference).history.entries
            if isinstance(e, Paid)
        ]
        self.assertEqual(sum((e.amount for e in entries), D(0)), placed)
        self.assertEqual(sorted({e.receipt for e in entries}), sorted(receipts))
        self.assertEqual(sorted(receipts), [f"2026-{n:05}" for n in range(1, len(receipts) + 1)])
        self.assertEqual(list(verify(self.office)), [])
        rows = openpyxl.load_workbook(io.BytesIO(files.day_as_table(self.office, self.imre, 1, "xlsx"))).active
        assert rows is not None
        told = [[cell.value for cell in row] for row in rows.iter_rows(min_row=2) if row[1].value]
        by = {what: sum((D(str(r[3])) for r in told if r[1] == what), D(0)) for what in ("came", "refund", "charged back")}
        t = closed.totals
        self.assertEqual(by["came"], t.receipts + D("83.85") + D("12.00") + 4)
        self.assertEqual((by["refund"], by["charged back"]), (-t.paid_back, -t.charged_back))
        self.assertIn(b"Receipt", files.day_as_table(self.office, self.imre, 1, "csv"))

    def test_a_day_closes_to_the_cent_also_with_a_stop_after_each_tenth_movement(self) -> None:
        smooth = self.day(stops=False)
        self.setUp()
        self.assertEqual(self.day(stops=True), smooth)
