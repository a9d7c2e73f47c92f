"""Turns come in the order in which they were asked for, and nobody who gave up keeps one."""

from __future__ import annotations

import threading
import time
import unittest

from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk.talking import note
from jolly_clerk.store.turns import Turns, TurnsByName
from tests.office.test_journey import Cases


def waiting(turns: Turns, count: int) -> None:
    """Returns when so many wait."""
    over = time.monotonic() + 5
    while len(turns._waiting) < count and time.monotonic() < over:
        time.sleep(0.002)


class InOrder(unittest.TestCase):
    def test_whoever_came_first_is_first(self) -> None:
        turns, order = Turns(), [0][:0]
        self.assertTrue(turns.acquire(1))

        def work(n: int) -> None:
            assert turns.acquire(5)
            order.append(n)
            turns.release()

        threads = [threading.Thread(target=work, args=(n,)) for n in range(8)]
        for n, thread in enumerate(threads, 1):
            thread.start()
            waiting(turns, n)
        turns.release()
        for thread in threads:
            thread.join()
        self.assertEqual(order, list(range(8)))
        self.assertTrue(turns.acquire(0))  # it is free again

    def test_one_who_gave_up_is_passed_over(self) -> None:
        turns = Turns()
        turns.acquire(1)
        self.assertFalse(turns.acquire(0.01))
        turns.release()
        self.assertTrue(turns.acquire(0))

    def test_each_name_has_its_own_and_none_is_kept(self) -> None:
        turns = TurnsByName()
        with turns.of("a"), turns.of("b"):
            self.assertEqual(len(turns._kept), 2)
        self.assertEqual(len(turns._kept), 0)


class OneCase(Cases):
    def test_twelve_notes_at_once_are_all_kept(self) -> None:
        reference = self.filed()
        threads = [threading.Thread(target=note, args=(self.office, self.imre, reference, f"Note {n}")) for n in range(12)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        told = [e.text for e in load_case(self.office, self.imre, reference).history.entries if e.what == "note written"]
        self.assertEqual(sorted(told), sorted(f"Note {n}" for n in range(12)))
