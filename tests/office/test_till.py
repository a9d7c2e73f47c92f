"""The till of the office: a statement read and matched, drawers opened and counted; the whole day is in `test_till_day`."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from sqlalchemy import select

from jolly_clerk.office.cases import endings, paying, refunding
from jolly_clerk.office.errors import Invalid, NotAllowed, NotReady, Stale
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import filing
from jolly_clerk.office.settings import set_in_file
from jolly_clerk.office.till import drawers, page, placing, statements
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.till import BankMovement, Owed
from tests.bank import OFFICE, Entry, camt, iban, is_standard
from tests.helpers import SHARED_READERS
from tests.office.test_journey import Cases

D = Decimal


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
