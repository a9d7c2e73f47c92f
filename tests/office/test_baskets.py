"""Several cases paid at once: one order and one receipt, a part booked on each; what finds no place is listed, nothing is booked twice."""

from __future__ import annotations

from decimal import Decimal
from unittest import mock

from sqlalchemy import select

from jolly_clerk.office.cases import baskets, endings, notices, refunding
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.people.directory import add_person, person
from jolly_clerk.office.post import papers
from jolly_clerk.office.preparing import filing, mandates
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.ledger import MoneyIn
from jolly_clerk.store.tables import Person
from tests.office.test_journey import Cases, text_of


class Baskets(Cases):
    def unpaid(self, **changes: object) -> str:
        return filing.file(self.office, self.odalys, self.draft(**changes), take_gaps=True)  # type: ignore[arg-type]

    def open(self, reference: str) -> Decimal:
        return self.said(reference).account.open

    def money(self) -> list[MoneyIn]:
        with read_session(self.office.engine) as session:
            return list(session.scalars(select(MoneyIn)))

    def test_two_cases_one_receipt(self) -> None:
        one, two, three = self.unpaid(), self.unpaid(works_area="40"), self.unpaid()
        owed = {reference: self.open(reference) for reference in (one, two, three)}
        listed = baskets.payable(self.office, self.odalys)
        self.assertEqual({p.reference: p.amount for p in listed}, owed)
        self.assertEqual(str(listed[0].until), "2026-11-19")
        asked = baskets.ask_together(self.office, self.odalys, [one, two, one])
        self.assertEqual((asked.amount, asked.reference), (owed[one] + owed[two], f"{one} +1"))
        self.assertEqual(self.money(), [])
        self.assertEqual(notices.at_stand_in(self.office, self.odalys, asked.key, "declined").state, "declined")
        self.assertEqual(self.open(one), owed[one])
        self.assertEqual(notices.at_stand_in(self.office, self.odalys, asked.key, "approved").state, "approved")
        self.assertEqual([self.open(r) for r in (one, two, three)], [0, 0, owed[three]])
        self.assertEqual([self.said(r).state for r in (one, two)], ["Filed", "Filed"])
        (money,) = self.money()
        self.assertEqual((Decimal(money.amount), Decimal(money.left), money.is_left), (asked.amount, 0, False))
        paid = [load_case(self.office, self.odalys, r).so_far.payments for r in (one, two)]
        self.assertEqual([[p.receipt for p in of] for of in paid], [[money.receipt], [money.receipt]])
        self.assertEqual([[p.amount for p in of] for of in paid], [[owed[one]], [owed[two]]])
        loaded = load_case(self.office, self.odalys, one)
        no = next(n for n, e in enumerate(loaded.history.entries, 1) if e.what == "paid")
        self.assertIn(two, text_of(papers.paper(self.office, loaded, no)[1]))  # the receipt names what else it was for
        self.assertEqual(list(verify(self.office)), [])
        notices.at_stand_in(self.office, self.odalys, asked.key, "approved")  # told once more: not booked, the leads see it
        self.assertEqual([len(load_case(self.office, self.odalys, r).so_far.payments) for r in (one, two)], [1, 1])
        self.assertEqual([m.why for m in self.money() if m.is_left], ["this order was paid already"])

    def test_what_finds_no_place_stays_with_the_leads(self) -> None:
        one, two = self.unpaid(), self.unpaid()
        asked = baskets.ask_together(self.office, self.odalys, [one, two])
        booked = baskets.book

        def once(*told: object, **more: object) -> object:
            if told[2] == two:
                raise NotReady("no")
            return booked(*told, **more)  # type: ignore[arg-type]

        with mock.patch.object(baskets, "book", once):
            notices.at_stand_in(self.office, self.odalys, asked.key, "approved")
        self.assertEqual(self.open(one), 0)
        (money,) = self.money()
        self.assertEqual((Decimal(money.left), money.why), (self.open(two), "paid with others at once"))
        refunding.place_money(self.office, self.maud, money.id, two, Decimal(money.left))
        self.assertEqual(self.open(two), 0)

    def test_another_sum_is_not_placed(self) -> None:
        one, two = self.unpaid(), self.unpaid()
        asked = baskets.ask_together(self.office, self.odalys, [one, two])
        notices.at_stand_in(self.office, self.odalys, asked.key, "approved", Decimal("1.00"))
        self.assertEqual([m.left for m in self.money()], ["1.00"])
        self.assertTrue(self.open(one) and self.open(two))

    def test_what_cannot_be_paid_together(self) -> None:
        one, two = self.unpaid(), self.unpaid()
        for references in ([one], [one, one]):
            with self.assertRaises(Invalid):
                baskets.ask_together(self.office, self.odalys, references)
        with self.assertRaises(NotFound):
            baskets.ask_together(self.office, self.tamsin, [one, two])
        self.pay(two)
        with self.assertRaisesRegex(NotReady, two):
            baskets.ask_together(self.office, self.odalys, [one, two])
        other = self.unpaid()
        endings.withdraw(self.office, self.odalys, other, "Not any more.")
        with self.assertRaisesRegex(NotReady, other):
            baskets.ask_together(self.office, self.odalys, [one, other])
        self.assertEqual([p.reference for p in baskets.payable(self.office, self.odalys)], [one])
        asked = baskets.ask_together(self.office, self.odalys, [one, self.unpaid()])
        with self.assertRaises(NotFound):
            notices.at_stand_in(self.office, self.tamsin, asked.key, "approved")

    def test_an_agent_pays_for_others(self) -> None:
        one, two = self.unpaid(), self.unpaid()
        add_person(self.office, "ada", "Ada Marsh", "applicant", "ada@marsh.example")
        with write_session(self.office.engine) as session:
            session.get_one(Person, "odalys").mail = "odalys@renn.example"
        (given,) = mandates.give(self.office, self.odalys, "ada@marsh.example", "Ada Marsh", ["letters"])
        mandates.accept(self.office, person(self.office, "ada"), given.id)
        self.assertEqual(baskets.payable(self.office, person(self.office, "ada")), [])
        with self.assertRaises((NotAllowed, NotReady)):
            baskets.ask_together(self.office, person(self.office, "ada"), [one, two])
        (given, _) = mandates.give(self.office, self.odalys, "ada@marsh.example", "Ada Marsh", ["pay"])
        made = next(m.id for m in mandates.given(self.office, self.odalys) if m.state == "offered")
        mandates.accept(self.office, person(self.office, "ada"), made)
        asked = baskets.ask_together(self.office, person(self.office, "ada"), [one, two])
        notices.at_stand_in(self.office, person(self.office, "ada"), asked.key, "approved")
        self.assertEqual([self.open(one), self.open(two)], [0, 0])
