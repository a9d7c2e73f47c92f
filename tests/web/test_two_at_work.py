"""Two people and two windows on one draft in random orders over HTTP: no acknowledged word is lost, each conflict is told."""

from __future__ import annotations

import os
import random
from collections import Counter
from datetime import timedelta
from typing import Any

from fastapi.testclient import TestClient

from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import drafts, inviting
from tests import SEED
from tests.helpers import sqlite_only
from tests.web.test_web import WebTest

#: so many orders are tried by default; two hundred and more are asked for by this name
ROUNDS, STEPS = int(os.environ.get("JOLLY_CLERK_ORDERS", "10")), 16
ADA = "ada@marsh.example"
#: what is typed into: two answers of a part that stands once, one of another, and the items of one that repeats
TEXTS = (("works", "title"), ("works", "area"), ("place", "address"))


class Window:
    """A page that somebody has open: what it shows, what is typed in it and not kept yet, what was refused and told."""

    def __init__(self, client: TestClient, name: str, draft: str, dice: random.Random) -> None:
        self.client, self.name, self.base, self.dice = client, name, f"/api/drafts/{draft}", dice
        self.told = Counter[str]()
        self.load()

    def load(self) -> None:
        view: dict[str, Any] = self.client.get(self.base).json()
        self.revision, self.answers = view["revision"], view["dossier"]["answers"]
        self.held = {one["part"] for one in view["written"]}
        self.read_only = set(view["read_only"])

    def type(self, part: str, question: str, value: str) -> str:
        """Type over what this window shows, and send the whole, as the screen does; how it was answered."""
        answers = {**self.answers, part: {**self.answers.get(part, {}), question: value}}
        answer = self.client.put(self.base, json={"answers": answers}, headers={"If-Match": f'"{self.revision}"'})
        if answer.status_code == 200:
            self.load()
            return "kept"
        problem = answer.json()
        how = {412: "changed by both", 409: "held"}[answer.status_code]
        assert problem["detail"], problem
        self.told[how] += 1
        if how == "changed by both":
            assert f"{part}.{question}" in [r["place"] for r in problem["reasons"]], problem
        else:
            assert problem["place"].split(".")[0] == part, problem
        self.load()
        return how


class TwoAtWork(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.ada = add_person(self.office, "ada", "Ada Marsh", "applicant", ADA)

    @sqlite_only
    def test_random_orders(self) -> None:
        dice, counted = random.Random(SEED), Counter[str]()
        for n in range(ROUNDS):
            self.instant += timedelta(hours=2)  # so many invitations in an hour are too many
            draft = drafts.start_draft(self.office, self.odalys, "BW")
            inviting.invite(self.office, self.odalys, draft, ADA, "Ada Marsh", ["fill"])
            windows = [
                Window(self.client(id_), name, draft, dice)
                for name, id_ in (("one", "odalys"), ("two", "odalys"), ("ada", "ada"))
            ]
            kept: dict[tuple[str, str], tuple[str, str]] = {}
            for step in range(STEPS):
                self.instant += timedelta(seconds=dice.choice((0, 1, 5, 40, 121)))
                window, (part, question) = dice.choice(windows), dice.choice(TEXTS)
                act = dice.choice(("type", "type", "type", "type", "look", "take over"))
                if act == "look":
                    window.load()
                elif act == "take over" and window.name != "ada":
                    drafts.take_part_over(self.office, self.odalys, draft, part)
                elif act == "type":
                    value = f"{n}.{step}"
                    how = window.type(part, question, value)
                    counted[how] += 1
                    if how == "kept":
                        kept[part, question] = (window.name, value)
            now = drafts.open_draft(self.office, self.odalys, draft).dossier.answers
            with self.subTest(order=n):
                self.assertEqual(
                    {at: now.get(at[0], {}).get(at[1]) for at in kept}, {at: value for at, (_, value) in kept.items()}
                )
        print(f"{ROUNDS} orders of {STEPS} steps: {dict(counted)}; nothing lost, each conflict told")
        for how in ("kept", "held", "changed by both"):
            self.assertGreater(counted[how], ROUNDS // 20, how)

    def test_a_part_is_held_for_two_minutes_and_the_page_tells(self) -> None:
        draft = drafts.start_draft(self.office, self.odalys, "BW")
        inviting.invite(self.office, self.odalys, draft, ADA, "Ada Marsh", ["fill"])
        hers, mine = (Window(self.client(id_), id_, draft, random.Random(1)) for id_ in ("ada", "odalys"))
        self.assertEqual((hers.type("works", "title", "Shed"), mine.type("works", "title", "Barn")), ("kept", "held"))
        self.assertEqual((mine.held, "works" in mine.read_only, hers.held), ({"works"}, True, set()))
        self.assertEqual(mine.type("place", "address", "2 Pier Road"), "kept")
        self.instant += timedelta(seconds=119)
        self.assertEqual(mine.type("works", "title", "Barn"), "held")
        self.instant += timedelta(seconds=1)
        self.assertEqual(mine.type("works", "title", "Barn"), "kept")
        hers.load()
        self.assertEqual((hers.held, hers.answers["works"]["title"]), ({"works"}, "Barn"))
