"""The till of the office: a statement read and matched, a day that closes to the cent, also when the program stops in the middle of it."""

from __future__ import annotations

import io
from collections.abc import Callable
from contextlib import suppress
from dataclasses import asdict
from datetime import date
from decimal import Decimal
from unittest import mock

import openpyxl
from sqlalchemy import func, select

from jolly_clerk.core.history import Paid
from jolly_clerk.office.cases import endings, notices, paying, refunding
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import Invalid, NotAllowed, NotReady, Stale
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import filing
from jolly_clerk.office.settings import set_in_file
from jolly_clerk.office.till import drawers, files, page, placing, statements
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.ledger import MoneyIn, Placing, Refund
from jolly_clerk.store.tables import Case
from jolly_clerk.store.till import BankMovement, Owed
from tests.bank import OFFICE, Entry, camt, iban, is_standard
from tests.helpers import SHARED_READERS
from tests.office.test_journey import Cases

D = Decimal


class Stop(BaseException):
    """The program stops here, as if its power had gone."""


class TillTest(Cases):
    def setUp(self) -> None:
        super().setUp()
        set_in_file(self.folder, "account", OFFICE)
        self.again()
        self.brisa = add_person(self.office, "brisa", "Brisa Quay", "officer")

    def again(self) -> None:
        """The office as it is found when the program is started again."""
        self.office.engine.dispose()
        self.office = open_office(self.folder, now=lambda: self.instant, demo=True, database=self.url)
        self.office.readers = SHARED_READERS
        self.addCleanup(self.office.engine.dispose)

    def unpaid(self, **changes: object) -> str:
        return filing.file(self.office, self.odalys, self.draft(**changes), take_gaps=True)  # type: ignore[arg-type]

    def open_of(self, reference: str) -> Decimal:
        return self.said(reference).account.open

    def read(self, *entries: Entry, **more: str) -> statements.StatementRead:
        content = camt(entries, **more)
        self.assertTrue(is_standard(content))
        (told,) = statements.read_statement(self.office, self.imre, "statement.xml", content)
        return told

    def till(self) -> page.TillView:
        return page.till(self.office, self.imre)

    def row(self, mark: str) -> BankMovement:
        with read_session(self.office.engine) as session:
            return session.scalars(select(BankMovement).where(BankMovement.mark == mark)).one()


class Statements(TillTest):
    def test_read_once_however_often_it_comes(self) -> None:
        reference = self.unpaid()
        entries = [Entry("B1", "438.18", reference, "Odalys Renn"), Entry("B2", "5.00", "roof fee")]
        self.assertEqual((self.read(*entries).new, self.read(*entries).known), (2, 2))
        self.assertEqual(self.read(*entries, Entry("B3", "1.00", "more")).new, 1)
        told = self.till()
        self.assertEqual(([r.called for r in told.sure], len(told.look)), ([reference], 2))

    def test_all_versions_of_the_standard(self) -> None:
        for version in ("02", "04", "08", "10"):
            self.assertEqual(self.read(Entry(f"V{version}", "5.00", "x", "Ann Holt", iban(5)), version=version).new, 1)
            self.assertEqual((self.row(f"V{version}").payer, self.row(f"V{version}").account), ("Ann Holt", iban(5)))

    def test_what_is_wrong_is_said_and_nothing_is_kept(self) -> None:
        entry = Entry("B1", "438.18", "x")
        good = camt([entry])
        for content, said in (
            (good[:-40], "is damaged in line"),
            (b"", "is empty"),
            (good.replace(b"BkToCstmrStmt", b"BkToCstmrDbtCdtNtfctn"), "no statement of an account (camt.053)"),
            (camt([entry], account=iban(77)), "is of the account"),
            (camt([entry], closing="1438.17"), "The movements do not lead from the opening to the closing balance"),
            (camt([entry, entry]), "gives the number B1 to several movements"),
            (good.replace(b'<Amt Ccy="EUR">438.18', b'<Amt Ccy="EUR">lots'), "“lots” in line"),
            (good.replace(b"<BookgDt><Dt>2026-11-06", b"<BookgDt><Dt>2026-11-36"), "is no date"),
            (b"<!DOCTYPE x [<!ENTITY a 'b'>]>" + good.partition(b"\n")[2], "entities of its own"),
            (b"\x89PNG\r\n\x1a\n" + bytes(50), "statement: "),
            (b"Amount;Text\n5.00;x\n", "no column “booked”"),
            (b"x" * 20_000_001, "larger than 20 MB"),
        ):
            with self.subTest(said), self.assertRaises(Invalid) as told:
                statements.read_statement(self.office, self.imre, "statement", content)
            self.assertIn(said, told.exception.detail)
        with self.assertRaises(NotAllowed):
            statements.read_statement(self.office, self.odalys, "statement", good)
        self.assertEqual((self.till().statement, self.till().look), (None, ()))

    def test_a_table_of_a_bank(self) -> None:
        reference = self.unpaid()
        table = f"Booking date;Value date;Amount;Purpose;Name\n6 Nov 2026;2026-11-05;438,18;{reference};Odalys Renn\n".encode()
        for _ in range(2):
            statements.read_statement(self.office, self.imre, "bank.csv", table)
        (sure,) = self.till().sure
        placing.confirm_sure(self.office, self.imre, [sure.id])
        self.assertEqual(self.said(reference).account.payments[0].value_day, date(2026, 11, 5))

    def test_collected_and_announced_entries(self) -> None:
        """A collected entry is told by its parts where they come to it; what is only announced is no movement yet."""
        parts = "".join(
            f'<TxDtls><Refs><EndToEndId>E{n}</EndToEndId></Refs><Amt Ccy="EUR">{a}</Amt></TxDtls>'
            for n, a in ((1, "2.00"), (2, "3.00"))
        )
        whole = camt([Entry("B1", "5.00", "x"), Entry("B9", "7.00", "y", status="PDNG")])
        begin, _, rest = whole.partition(b"<TxDtls>")
        content = begin + parts.encode() + rest.partition(b"</TxDtls>")[2]
        statements.read_statement(self.office, self.imre, "s.xml", content)
        self.assertEqual(sorted(r.amount for r in self.till().look), [D("2.00"), D("3.00")])

    def test_booked_by_hand_before(self) -> None:
        reference = self.unpaid()
        paying.take_money(self.office, self.imre, reference, D("438.18"), "transfer", "B-1")
        self.assertEqual(self.read(Entry("B-1", "438.18", reference)).by_hand, 1)
        told = self.till()
        self.assertEqual((told.look, told.sure, [r.became for r in told.done]), ((), (), ["placed"]))
        self.read(Entry("B-2", "5.00", "x"))
        paying.take_money(self.office, self.maud, reference, D("1.00"), "transfer", "B-2")
        with self.assertRaises(Stale):
            placing.keep_unplaced(self.office, self.imre, self.row("B-2").id)


class Matching(TillTest):
    def test_an_amount_finds_its_case_among_many(self) -> None:
        other, wanted = self.unpaid(), self.unpaid(works_area="61")
        self.assertNotEqual(self.open_of(other), self.open_of(wanted))
        self.read(Entry("B1", str(self.open_of(wanted)), "roof fee thank you", "Ann Holt"))
        (row,) = self.till().look
        told = page.movement(self.office, self.imre, row.id)
        self.assertEqual([c.reference for p in told.proposals for c in p.cases], [wanted])
        self.assertEqual(told.proposals[0].because, "The amount is the same.")

    def test_an_account_that_paid_before_is_known_again(self) -> None:
        first, second, third = self.unpaid(), self.unpaid(), self.unpaid()
        self.read(Entry("B1", "438.18", first, "O. R.", iban(7)))
        placing.confirm_sure(self.office, self.imre, [self.till().sure[0].id])
        self.read(Entry("B2", "400.00", "again", "O. R.", iban(7)))
        told = page.movement(self.office, self.imre, self.till().look[0].id)
        self.assertEqual(told.before, f"paid {first} before")
        self.assertEqual(told.proposals, ())  # an account alone proposes none
        self.assertTrue({second, third})

    def test_placed_in_parts_kept_sent_back_and_undone(self) -> None:
        one, two = self.unpaid(), self.unpaid(works_area="61")
        self.read(
            Entry("B1", "1000.00", "both", "Ann Holt"), Entry("B2", "5.00", "a present"), Entry("B3", "-2.50", "fee of the bank")
        )
        b1, b2, b3 = (self.row(mark).id for mark in ("B1", "B2", "B3"))
        self.read(Entry("B4", "5000.00", one))
        with self.assertRaises(NotAllowed):  # so much more than is awaited is for a lead
            placing.place_movement(self.office, self.imre, self.row("B4").id, [(one, D("5000.00"))])
        placing.no_case(self.office, self.imre, self.row("B4").id, "the money of another office")
        for parts, error in (([(one, D("600.00")), (two, D("500.00"))], Invalid), ([("BW-26-99999-A", D(1))], Exception)):
            with self.subTest(parts), self.assertRaises(error):
                placing.place_movement(self.office, self.imre, b1, parts)
        owed = self.open_of(one), self.open_of(two)
        placing.place_movement(self.office, self.imre, b1, [(one, owed[0]), (two, owed[1])])
        with self.assertRaises(Stale):
            placing.place_movement(self.office, self.imre, b1, [(one, owed[0])])
        self.assertEqual((self.open_of(one), self.open_of(two)), (0, 0))
        (loose,) = refunding.ledger(self.office, self.maud).not_placed
        self.assertEqual(loose.left, D("1000.00") - sum(owed))
        with self.assertRaises(NotReady):
            placing.undo(self.office, self.imre, b1)
        placing.keep_unplaced(self.office, self.imre, b2)
        placing.undo(self.office, self.imre, b2)
        with self.assertRaises(Invalid):
            placing.return_movement(self.office, self.imre, b2, "")
        placing.return_movement(self.office, self.imre, b2, "it is a present")
        self.assertEqual([r.amount for r in refunding.ledger(self.office, self.maud).refunds], [D("5.00")])
        placing.undo(self.office, self.imre, b2)
        self.assertEqual(refunding.ledger(self.office, self.maud).refunds, ())
        placing.return_movement(self.office, self.imre, b2, "it is a present")
        for act in (placing.keep_unplaced, lambda *a: placing.place_movement(*a, [(one, D("1.00"))])):
            with self.assertRaises(Invalid):
                act(self.office, self.imre, b3)
        placing.no_case(self.office, self.imre, b3, "fee of the bank")
        self.assertEqual({r.became for r in self.till().done}, {"placed", "goes back", "no case"})
        self.assertEqual(list(verify(self.office)), [])

    def test_only_what_is_sure_is_confirmed_at_one_go(self) -> None:
        one, two = self.unpaid(), self.unpaid()
        self.read(Entry("B1", "438.18", one), Entry("B2", "438.18", two))
        ids = [r.id for r in self.till().sure]
        paying.take_money(self.office, self.imre, two, D("438.18"), "cheque", "C 1")  # meanwhile it was paid another way
        told = placing.confirm_sure(self.office, self.imre, ids)
        self.assertEqual((told.done, len(told.not_done)), (1, 1))
        self.assertEqual([r.short for r in self.till().look], ["the second time"])

    def test_cases_from_before_the_till_are_found_by_their_amount(self) -> None:
        wanted = self.unpaid()
        with write_session(self.office.engine) as session:
            for row in session.scalars(select(Owed)):
                session.delete(row)
        self.read(Entry("B1", "438.18", "no reference"))
        self.assertEqual([r.called for r in self.till().look], [wanted])


class Drawers(TillTest):
    def test_cash_needs_an_open_till(self) -> None:
        reference = self.unpaid()
        with self.assertRaises(NotReady):
            paying.take_at_till(self.office, self.imre, reference, D("438.18"), "cash")
        self.assertTrue(paying.take_at_till(self.office, self.imre, reference, D("1.00"), "cheque", "C 7"))
        with self.assertRaises(NotAllowed):
            drawers.open_till(self.office, self.odalys, D("1.00"))
        drawers.open_till(self.office, self.imre, D("150.00"))
        with self.assertRaises(NotReady):
            drawers.open_till(self.office, self.brisa, D("150.00"), "Till 1")
        receipt = paying.take_at_till(self.office, self.imre, reference, D("437.18"), "cash", payer="Ann Holt")
        self.assertEqual(receipt, "2026-00002")
        told = self.till()
        self.assertEqual(
            (told.days[0].totals.drawer, told.totals.cash, told.totals.cheques), (D("587.18"), D("437.18"), D("1.00"))
        )
        endings.withdraw(self.office, self.odalys, reference)
        rows = [r.id for r in refunding.ledger(self.office, self.maud).refunds]
        refunding.approve(self.office, self.maud, rows, dict.fromkeys(rows, iban(3)))
        self.assertLess(self.till().days[0].totals.drawer, D("587.18"))  # it went back from the drawer

    def test_a_difference_above_ten_is_looked_at_by_a_second_person(self) -> None:
        day = drawers.open_till(self.office, self.imre, D("150.00"))
        self.read(Entry("B1", "5.00", "x"))
        with self.assertRaises(NotReady):
            drawers.close_till(self.office, self.imre, day, D("150.00"))
        placing.keep_unplaced(self.office, self.imre, self.row("B1").id)
        with self.assertRaises(Invalid):
            drawers.close_till(self.office, self.imre, day, D("139.00"))
        told = drawers.close_till(self.office, self.imre, day, D("139.00"), "not known")
        self.assertEqual((told.waits_for_second, told.second, told.number, told.difference), (True, False, None, D("-11.00")))
        with self.assertRaises(NotAllowed):
            drawers.confirm_closing(self.office, self.imre, day)
        drawers.count_again(self.office, self.imre, day)
        with self.assertRaises(NotReady):
            drawers.confirm_closing(self.office, self.brisa, day)
        drawers.close_till(self.office, self.imre, day, D("139.00"), "not known")
        self.assertEqual(drawers.confirm_closing(self.office, self.brisa, day).number, 1)
        for again in (drawers.confirm_closing, drawers.count_again):
            with self.assertRaises(Stale):
                again(self.office, self.maud, day)
        second = drawers.open_till(self.office, self.imre, D("139.00"))
        self.move_to(2026, 11, 5, 11)
        self.assertEqual(drawers.close_till(self.office, self.imre, second, D("139.00")).number, 2)
        self.assertEqual(
            [(d.number, d.closed_by) for d in drawers.closings(self.office, self.imre)], [(2, "Imre Holt"), (1, "Brisa Quay")]
        )

    def test_two_tills_at_once(self) -> None:
        one, two = self.unpaid(), self.unpaid()
        first = drawers.open_till(self.office, self.imre, D("100.00"), "Desk 1")
        second = drawers.open_till(self.office, self.brisa, D("50.00"), "Desk 2")
        paying.take_at_till(self.office, self.imre, one, D("400.00"), "cash")
        paying.take_at_till(self.office, self.brisa, two, D("300.00"), "cash")
        with self.assertRaises(NotReady):  # a third person does not know into which
            paying.take_at_till(self.office, self.maud, one, D("38.18"), "cash")
        should = {d.till: d.totals.drawer for d in drawers.open_days(self.office, self.imre)}
        self.assertEqual(should, {"Desk 1": D("500.00"), "Desk 2": D("350.00")})
        self.move_to(2026, 11, 5, 12)
        told = drawers.close_till(self.office, self.imre, first, D("500.00"))
        self.assertEqual((told.totals.cash, told.totals.agrees), (D("700.00"), True))
        self.move_to(2026, 11, 5, 13)
        told = drawers.close_till(self.office, self.brisa, second, D("350.00"))
        self.assertEqual(told.totals.cash, 0)  # told in the closing before


class ADay(TillTest):
    """Sixty movements, as they come in a day."""

    def cases(self) -> None:
        self.named = [self.unpaid() for _ in range(24)]
        self.pair = self.unpaid(), self.unpaid(works_area="61")
        self.short, self.nameless = self.unpaid(), self.unpaid(works_area="47")
        self.off = [self.unpaid(), self.unpaid()]
        self.by_card, self.by_cash = [self.unpaid() for _ in range(8)], [self.unpaid() for _ in range(9)]
        self.by_cheque = [self.unpaid() for _ in range(3)]
        self.back = [self.unpaid(), self.unpaid()]

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
            Entry("B40", "-9.90", "fee of the bank"),
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
        self.cases()
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
