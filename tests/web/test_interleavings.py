"""Two officers on one case in random orders over HTTP: no word, no judgement and no letter is lost or doubled."""

from __future__ import annotations

import os
import random
from collections import Counter
from datetime import timedelta
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import select

from jolly_clerk.core.history import Judged, LetterSent, NoteWritten, PointWorded, StepTakenBack, Undone
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Outgoing
from tests import SEED
from tests.helpers import sqlite_only
from tests.office.test_journey import SMALL_PLAN
from tests.web.test_web import WebTest

#: so many orders are tried by default; two hundred and more are asked for by this name
ROUNDS, STEPS = int(os.environ.get("JOLLY_CLERK_ORDERS", "10")), 14


class Officer:
    """Somebody at a desk: what they saw last, what was acknowledged to them, what they still have to say."""

    def __init__(self, client: TestClient, id_: str, reference: str, dice: random.Random) -> None:
        self.client, self.id, self.base, self.dice = client, id_, f"/api/cases/{reference}", dice
        self.judged = 0
        self.words: list[str] = []
        self.notes: list[str] = []
        self.ready = self.taken_back = self.undone = 0
        self.look()

    def look(self) -> None:
        self.view: dict[str, Any] = self.client.get(self.base).json()

    def post(self, path: str, body: dict[str, Any]) -> int:
        """Send a step over what was seen; whoever was too late looks again and sends it once more, as the screen does."""
        for _ in range(4):
            answer = self.client.post(f"{self.base}/{path}", json=body, headers={"If-Match": f'"{self.view["revision"]}"'})
            told = answer.json()
            if answer.status_code < 400:
                self.look()
                return 200
            if answer.status_code == 412:
                self.look()
                continue
            if answer.status_code == 409 and told.get("step"):
                back = self.client.post(f"{self.base}/ready/taken-back", json={"step": told["step"]}, headers={"If-Match": "*"})
                self.taken_back += back.status_code == 200
                self.look()
                continue
            self.look()
            return int(answer.status_code)
        return 412

    def step(self, n: int) -> None:
        """One random step, over a view that may be old."""
        if self.dice.random() < 0.4:
            self.look()
        asked = [r for r in self.view["assessment"]["requirements"] if r["asked"]]
        what = self.dice.choice(("judge", "judge", "judge", "word", "note", "letter", "back", "undo", "rest"))
        if what == "judge":
            r = self.dice.choice(asked)
            standing = self.dice.choice(("met", "wanting", "in doubt"))
            body = {"requirement": r["id"], "standing": standing, "reason": f"{self.id} {n}"}
            self.judged += self.post("judgements", body) == 200
        elif what == "rest":
            rest = [r["id"] for r in asked if r["confirmable"]][:2]
            self.judged += len(rest) * (bool(rest) and self.post("judgements/rest", {"requirements": rest}) == 200)
        elif what == "word" and self.view["assessment"]["points"]:
            point, text = self.dice.choice(self.view["assessment"]["points"]), f"Words of {self.id}, number {n}."
            ids = "+".join([point["requirement"], *point["also"]])
            if self.post("words", {"requirement": ids, "text": text}) == 200:
                self.words.append(text)
        elif what == "note":
            text = f"Note of {self.id}, number {n}."
            if self.post("notes", {"text": text}) == 200:
                self.notes.append(text)
        elif what == "letter" and self.view["assessment"]["points"]:
            self.ready += self.post("letter", {}) == 200
        elif what == "back" and self.view["leaving"]:
            self.taken_back += self.post("ready/taken-back", {"step": self.view["leaving"][0]["id"]}) == 200
        elif what == "undo" and self.view["may_undo"]:
            self.undone += self.post("undo", {}) == 200


class Interleavings(WebTest):
    @sqlite_only
    def test_random_orders(self) -> None:
        self.office.settings.letter_waits = 600
        dice, counted = random.Random(SEED), Counter[str]()
        self.move_to(2026, 11, 6, 10)
        clients = {id_: self.client(id_) for id_ in ("imre", "maud")}
        for n in range(ROUNDS):
            for id_ in clients:
                clients[id_] = self.client(id_) if n % 20 == 0 else clients[id_]
            reference = self.filed(plan=SMALL_PLAN)
            checking.begin_checking(self.office, self.imre, reference)
            officers = [Officer(clients[id_], id_, reference, dice) for id_ in clients]
            for step in range(STEPS):
                self.instant += timedelta(minutes=dice.choice((0, 0, 0, 1, 3)))
                dice.choice(officers).step(step)
            self.instant += timedelta(minutes=11)  # what is ready leaves
            counted += self.told(reference, officers)
        run_clock(self.office)
        self.assertEqual((list(verify(self.office)), rebuild(self.office)), ([], 0))
        print(f"{ROUNDS} orders of {STEPS} steps: {dict(counted)}, none lost, none doubled")
        for what in ("judged", "words", "letters", "taken back"):
            self.assertGreater(counted[what], ROUNDS // 20, what)

    def told(self, reference: str, officers: list[Officer]) -> Counter[str]:
        """The history holds each thing that was acknowledged, once, and nothing else."""
        entries = load_case(self.office, self.imre, reference).history.entries
        for officer in officers:
            own = [e for e in entries if e.who == officer.id]
            with self.subTest(reference, officer=officer.id):
                self.assertEqual(sum(isinstance(e, Judged) for e in own), officer.judged)
                self.assertEqual([e.text for e in own if isinstance(e, PointWorded)], officer.words)
                self.assertEqual([e.text for e in own if isinstance(e, NoteWritten)], officer.notes)
                self.assertEqual(sum(isinstance(e, StepTakenBack) for e in own), officer.taken_back)
                self.assertEqual(sum(isinstance(e, Undone) for e in own), officer.undone)
        sent = sum(isinstance(e, LetterSent) for e in entries)
        self.assertEqual(sent, sum(o.ready - o.taken_back for o in officers))
        with read_session(self.office.engine) as session:
            mails = [key for key in session.scalars(select(Outgoing.key)) if key.startswith(f"{reference}-letter")]
        self.assertEqual(len(mails), sent)
        judged, words = sum(o.judged for o in officers), sum(len(o.words) for o in officers)
        return Counter({"judged": judged, "words": words, "letters": sent, "taken back": sum(o.taken_back for o in officers)})
