"""What stands outside can be another than the stand-in that ships with the program."""

from __future__ import annotations

import json
import unittest
from decimal import Decimal

from jolly_clerk.core.ports import Order
from jolly_clerk.office.cases import paying
from jolly_clerk.office.errors import NotReady
from jolly_clerk.office.office import open_office
from jolly_clerk.office.preparing import filing
from jolly_clerk.standins.text_messages import TextFolder
from tests.folders import new_folder
from tests.office.test_journey import Cases


class Machine:
    """A terminal somewhere else: it remembers what it was asked."""

    def __init__(self) -> None:
        self.orders: list[Order] = []

    def ask(self, order: Order) -> str:
        self.orders.append(order)
        return f"https://terminal.example/{order.key}"


class AnotherTerminal(Cases):
    def test_it_is_asked_with_the_amount_and_says_where_to_pay(self) -> None:
        reference = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        self.office.terminal = machine = Machine()
        asked = paying.ask_payment(self.office, self.odalys, reference)
        self.assertEqual(machine.orders, [Order(asked.key, reference, Decimal("438.18"), "EUR")])
        self.assertEqual(asked.address, f"https://terminal.example/{asked.key}")

    def test_an_office_without_one_takes_no_cards(self) -> None:
        reference = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        self.office.terminal = None
        with self.assertRaises(NotReady):
            paying.ask_payment(self.office, self.odalys, reference)
        self.assertFalse(self.office.takes_cards)

    def test_only_a_demo_has_the_stand_in(self) -> None:
        for demo in (True, False):
            office = open_office(new_folder() / "office", demo=demo)
            self.addCleanup(office.close)
            self.assertEqual(office.takes_cards, demo)


class TextMessages(unittest.TestCase):
    def test_a_message_sent_twice_is_one(self) -> None:
        folder = TextFolder(new_folder())
        for _ in range(2):
            file = folder.send("code 1", "0300 55 12", "Your code is 123456.")
        self.assertEqual([json.loads(p.read_text("utf-8"))["to"] for p in folder.folder.iterdir()], ["0300 55 12"])
        self.assertEqual(json.loads(file.read_text("utf-8"))["text"], "Your code is 123456.")
