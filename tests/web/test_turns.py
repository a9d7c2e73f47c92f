"""Whose turn it is: in the order of coming, and nobody holds up the others for longer than a turn."""

from __future__ import annotations

import asyncio
import threading
import time
import unittest
from collections.abc import Callable

from fastapi import FastAPI
from fastapi.testclient import TestClient

from jolly_clerk.store.turns import TimedTurns, stand_aside
from jolly_clerk.web.turns import InTurn, router_of


class TestTurns(unittest.TestCase):
    def setUp(self) -> None:
        self.turns, self.done = TimedTurns(at_once=1, turn=30), list[str]()

    def ask(self, name: str, work: Callable[[], object] = lambda: None) -> threading.Thread:
        """Somebody who does some work in turn; returns once it works or waits."""
        there = threading.Event()

        def asked() -> None:
            there.set()
            with self.turns.taken():
                work()
                self.done.append(name)

        thread = threading.Thread(target=asked)
        thread.start()
        there.wait()
        self.addCleanup(thread.join, 10)
        return thread

    def ask_and_wait(self, name: str, waiting: int) -> threading.Thread:
        """Somebody who comes while another has the turn, and waits as the last of so many."""
        thread = self.ask(name)
        until = time.monotonic() + 10
        while self.turns.waiting < waiting:
            self.assertLess(time.monotonic(), until, "nobody waits")
            time.sleep(0.001)
        return thread

    def test_in_the_order_of_coming(self) -> None:
        go_on = threading.Event()
        threads = [self.ask("first", lambda: go_on.wait(10))]
        threads += [self.ask_and_wait(f"{n}", n) for n in (1, 2, 3, 4)]
        self.assertEqual(self.done, [])
        go_on.set()
        for thread in threads:
            thread.join(10)
        self.assertEqual(self.done, ["first", "1", "2", "3", "4"])

    def test_what_takes_long_lets_the_others_begin(self) -> None:
        self.turns.turn = 0.05
        go_on = threading.Event()
        slow = self.ask("slow", lambda: go_on.wait(10))
        for name in ("1", "2"):
            self.ask(name).join(10)
        self.assertEqual((self.done, self.turns.waiting), (["1", "2"], 0))
        go_on.set()
        slow.join(10)
        self.assertEqual(self.done, ["1", "2", "slow"])
        self.ask("3").join(10)
        self.assertEqual(self.done[-1], "3", "what was slow gave its turn back twice")

    def test_whoever_waits_for_something_else_stands_aside(self) -> None:
        go_on = threading.Event()

        def waits() -> None:
            stand_aside()
            go_on.wait(10)

        waiting = self.ask("waits", waits)
        self.ask("1").join(10)
        self.assertEqual(self.done, ["1"])
        go_on.set()
        waiting.join(10)
        stand_aside()  # nothing, for whoever has no turn
        self.ask("2").join(10)
        self.assertEqual(self.done, ["1", "waits", "2"])

    def test_a_failure_gives_the_turn_back(self) -> None:
        with self.assertRaisesRegex(ValueError, "broken"), self.turns.taken():
            raise ValueError("broken")
        self.ask("next").join(10)
        self.assertEqual(self.done, ["next"])

    def test_as_many_at_once_as_are_let(self) -> None:
        self.turns = TimedTurns(at_once=2, turn=30)
        go_on = threading.Event()
        for name in ("one", "two"):
            self.ask(name, lambda: go_on.wait(10))
        self.ask_and_wait("three", 1)
        go_on.set()


class TestRoutes(unittest.TestCase):
    def test_a_route_keeps_its_name_its_parameters_and_what_it_says_of_itself(self) -> None:
        router = router_of("/api", "tried")

        @router.get("/{name}/twice")
        def twice(name: str, times: int = 2) -> str:
            """The name so many times."""
            return name * times

        @router.get("/later")
        async def later() -> str:
            await asyncio.sleep(0)
            return "later"

        app = FastAPI()
        app.include_router(router)
        client = TestClient(app)
        self.assertEqual(client.get("/api/ha/twice?times=3").json(), "hahaha")
        self.assertEqual(client.get("/api/ha/twice?times=many").status_code, 422)
        self.assertEqual(client.get("/api/later").json(), "later")
        told = client.get("/openapi.json").json()["paths"]["/api/{name}/twice"]["get"]
        self.assertEqual((told["summary"], told["description"]), ("Twice", "The name so many times."))
        self.assertEqual([p["name"] for p in told["parameters"]], ["name", "times"])
        self.assertTrue(all(isinstance(route, InTurn) for route in router.routes))


if __name__ == "__main__":
    unittest.main()
