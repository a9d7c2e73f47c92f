"""Accounts under attack: guesses, floods, addresses of others, sessions that outlive a password; and what a code confirms."""

from __future__ import annotations

import re
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import func, select

from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.errors import NotAllowed, TooOften
from jolly_clerk.office.people import accounts, hashing
from jolly_clerk.office.people.directory import sign_in_by_click
from jolly_clerk.office.post import mailing
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Outgoing, Person, SignIn
from jolly_clerk.web.asking import COOKIE, CSRF_HEADER
from tests.office.test_fit_for_use import GOOD, Catcher, code_in
from tests.web.test_web import WebTest

ADA = {"name": "Ada Marsh", "mail": "ada@marsh.example", "password": GOOD}


class Accounts(WebTest):
    def sign_up(self, **changes: str) -> TestClient:
        """A window in which somebody has just made an account."""
        client = self.client()
        self.assertEqual(client.post("/api/session/sign-up", json=ADA | changes).status_code, 204)
        return self.tokened(client)

    def tokened(self, client: TestClient) -> TestClient:
        client.headers[CSRF_HEADER] = client.get("/api/session").json()["csrf"]
        client.headers["If-Match"] = "*"
        return client

    def mails(self, to: str = ADA["mail"]) -> list[str]:
        return [out.key.partition("-")[0] for out, _ in mailing.outbox(self.office) if out.to == to]


class Addresses(Accounts):
    def test_nothing_is_filed_before_the_address_is_confirmed(self) -> None:
        client = self.sign_up()
        self.assertFalse(client.get("/api/session").json()["person"]["confirmed"])
        draft = client.post("/api/drafts", json={"kind": "BW"}).json()["id"]
        answer = client.post(f"/api/drafts/{draft}/filing", json={"take_gaps": True})
        self.assertEqual((answer.status_code, answer.json()["place"]), (409, "mail"))
        self.assertIn("Confirm your mail address first", answer.json()["detail"])
        for wrong in ("", "000000", "1234567", "x" * 20):
            self.assertEqual(client.post("/api/session/confirmation", json={"code": wrong}).status_code, 422)
        self.assertEqual(client.post("/api/session/confirmation", json={"code": f" {code_in(self.office)} "}).status_code, 204)
        self.assertTrue(client.get("/api/session").json()["person"]["confirmed"])
        self.assertNotEqual(client.post(f"/api/drafts/{draft}/filing", json={"take_gaps": True}).json().get("place"), "mail")

    def test_a_code_is_tried_five_times_and_works_for_half_an_hour(self) -> None:
        client = self.sign_up()
        right = code_in(self.office)
        wrong = "111111" if right != "111111" else "222222"
        for _ in range(5):
            client.post("/api/session/confirmation", json={"code": wrong})
        self.assertEqual(client.post("/api/session/confirmation", json={"code": right}).status_code, 422)
        self.assertEqual(client.post("/api/session/code").status_code, 204)
        self.instant += timedelta(minutes=31)
        self.assertEqual(client.post("/api/session/confirmation", json={"code": code_in(self.office)}).status_code, 422)
        client.post("/api/session/code")
        self.assertEqual(client.post("/api/session/confirmation", json={"code": code_in(self.office)}).status_code, 204)
        self.assertEqual(client.post("/api/session/code").status_code, 409)

    def test_codes_are_not_asked_for_without_end(self) -> None:
        client = self.sign_up()
        told = Counter(client.post("/api/session/code").status_code for _ in range(10))
        self.assertEqual(told, {204: 3, 429: 7})

    def test_signing_up_tells_nobody_who_has_an_account(self) -> None:
        accounts.new_person(self.office, "Ada Marsh", ADA["mail"], "applicant", GOOD)
        answers = []
        for mail in (ADA["mail"], "new@marsh.example"):
            client = self.client()
            answer = client.post("/api/session/sign-up", json=ADA | {"mail": mail, "password": "quite another harbour"})
            session = self.tokened(client).get("/api/session").json()
            answers.append((answer.status_code, answer.text, session["person"]["confirmed"], sorted(session)))
        self.assertEqual(answers[0], answers[1])
        self.assertEqual((self.mails(), self.mails("new@marsh.example")), (["account"], ["code"]))
        stays = self.client().post("/api/session/sign-in", json={"mail": ADA["mail"], "password": GOOD})
        self.assertEqual(stays.status_code, 204)
        other = self.client().post("/api/session/sign-in", json={"mail": ADA["mail"], "password": "quite another harbour"})
        self.assertEqual(other.status_code, 403)

    def test_whoever_squats_on_an_address_loses_it_to_its_owner(self) -> None:
        squatter = self.sign_up(password="mine all mine now")
        owner = self.sign_up()
        self.assertEqual(owner.post("/api/session/confirmation", json={"code": code_in(self.office)}).status_code, 204)
        self.assertIsNone(squatter.get("/api/session").json()["person"])
        gone = self.client().post("/api/session/sign-in", json={"mail": ADA["mail"], "password": "mine all mine now"})
        self.assertEqual(gone.status_code, 403)

    def test_a_victim_gets_few_mails_however_often_they_are_asked_for(self) -> None:
        accounts.new_person(self.office, "Ada Marsh", ADA["mail"], "applicant", GOOD)
        client = self.client()
        told = Counter(client.post("/api/session/forgotten", json={"mail": ADA["mail"]}).status_code for _ in range(13))
        self.assertEqual(told, {204: 13})
        for n in range(5):
            client.post("/api/session/sign-up", json=ADA | {"name": f"Ada {n} Marsh"})
        self.assertEqual(self.mails(), ["password", "password"])


class Guessing(Accounts):
    def test_many_guesses_at_the_same_moment_are_slowed_as_well(self) -> None:
        accounts.new_person(self.office, "Ada Marsh", ADA["mail"], "applicant", GOOD)
        verified: list[str] = []
        real = accounts.verified
        accounts.verified = lambda password, kept: bool(verified.append(password)) or real(password, kept)
        self.addCleanup(setattr, accounts, "verified", real)
        clients = [self.client() for _ in range(40)]
        with ThreadPoolExecutor(40) as pool:
            wrong = {"mail": ADA["mail"], "password": "wrong wrong wrong"}
            told = Counter(pool.map(lambda c: c.post("/api/session/sign-in", json=wrong).status_code, clients))
        self.assertLessEqual(len(verified), 4)
        self.assertEqual(set(told), {403, 429})
        self.assertEqual(told[403], len(verified))

    def test_a_stranger_does_not_lock_a_person_out(self) -> None:
        accounts.new_person(self.office, "Ada Marsh", ADA["mail"], "applicant", GOOD)
        for _ in range(9):
            with self.assertRaises((NotAllowed, TooOften)):
                accounts.sign_in(self.office, ADA["mail"], "wrong wrong wrong", sender="203.0.113.9")
        self.assertTrue(accounts.sign_in(self.office, ADA["mail"], GOOD, sender="198.51.100.7"))

    def test_one_sender_over_many_addresses_is_slowed(self) -> None:
        told = Counter[str]()
        real = accounts.verified
        accounts.verified = lambda *_: False  # what it says is another test's
        self.addCleanup(setattr, accounts, "verified", real)
        for n in range(80):
            try:
                accounts.sign_in(self.office, f"somebody{n}@marsh.example", "wrong wrong wrong", sender="203.0.113.9")
            except Exception as error:
                told[type(error).__name__] += 1
        self.assertEqual(told, {"NotRecognised": 60, "TooOften": 20})

    def test_guesses_at_the_old_password_are_slowed(self) -> None:
        client = self.sign_up()
        body = {"old": "wrong wrong wrong", "new": "another harbour at dusk"}
        told = Counter(client.post("/api/session/password", json=body).status_code for _ in range(15))
        self.assertEqual(told, {403: 4, 429: 11})
        slowed = client.post("/api/session/password", json=body)
        self.assertRegex(slowed.headers["retry-after"], r"^\d+$")

    def test_hashing_never_takes_all_threads(self) -> None:
        self.assertLessEqual(hashing.MOST_WAITING, 20, "of the forty threads that serve requests")
        before = hashing.PATIENCE
        hashing.PATIENCE = 30
        self.addCleanup(setattr, hashing, "PATIENCE", before)
        nobody = self.client()
        with ThreadPoolExecutor(60) as pool:
            asked = [
                pool.submit(nobody.post, "/api/session/sign-in", json={"mail": f"x{n}@y.example", "password": "wrong wrong"})
                for n in range(24)
            ]
            began = time.monotonic()
            while not all(one.done() for one in asked):
                self.assertEqual(self.client().get("/health").status_code, 200)
            self.assertLess(time.monotonic() - began, 40)
            told = Counter(one.result().status_code for one in asked)
        self.assertLessEqual(set(told), {403, 503})


class Windows(Accounts):
    def test_a_new_password_ends_every_other_session(self) -> None:
        first = self.sign_up()
        first.post("/api/session/confirmation", json={"code": code_in(self.office)})
        second = self.client()
        second.post("/api/session/sign-in", json={"mail": ADA["mail"], "password": GOOD})
        self.assertIsNotNone(second.get("/api/session").json()["person"])
        body = {"old": GOOD, "new": "another harbour at dusk"}
        self.assertEqual(first.post("/api/session/password", json=body).status_code, 204)
        self.assertIsNone(second.get("/api/session").json()["person"])
        self.assertIsNotNone(first.get("/api/session").json()["person"])

    def test_one_can_end_the_others_without_a_new_password(self) -> None:
        first, second = self.client("odalys"), self.client("odalys")
        self.assertEqual(first.delete("/api/session/others").status_code, 204)
        self.assertEqual((first.get("/api/drafts").status_code, second.get("/api/drafts").status_code), (200, 401))

    def test_a_session_that_is_not_used_is_over_and_one_that_is_used_is_not(self) -> None:
        used, left = self.client("odalys"), self.client("odalys")
        for _ in range(4):
            self.instant += timedelta(minutes=50)
            self.assertEqual(used.get("/api/drafts").status_code, 200)
        self.assertEqual(left.get("/api/drafts").status_code, 401)

    def test_a_foreign_page_cannot_sign_anybody_in(self) -> None:
        for origin, status in (
            ("https://evil.example", 403),
            ("null", 403),
            ("http://testserver", 204),
            ("http://localhost:8321", 204),
        ):
            answer = self.client().post("/api/session/by-click", json={"person": "odalys"}, headers={"Origin": origin})
            self.assertEqual(answer.status_code, status, origin)


class Secrets(Accounts):
    def test_links_and_codes_are_dropped_once_they_were_mailed(self) -> None:
        with Catcher() as catcher:
            self.office.settings.smtp_host, self.office.settings.smtp_port = "127.0.0.1", catcher.port
            self.sign_up()
            accounts.new_person(self.office, "Bo Fenn", "bo@fenn.example", "applicant", GOOD)
            self.client().post("/api/session/forgotten", json={"mail": "bo@fenn.example"})
        self.assertEqual(len(catcher.caught), 2)
        self.assertTrue(any("/password/" in mail for mail in catcher.caught))
        with read_session(self.office.engine) as session:
            texts = list(session.scalars(select(Outgoing.text)))
        self.assertEqual(set(texts), {"(sent; what it held works once and is not kept)"})

    def test_what_lies_with_the_post_room_is_dropped_when_it_works_no_more(self) -> None:
        self.sign_up()
        with read_session(self.office.engine) as session:
            self.assertRegex(session.scalar(select(Outgoing.text)) or "", r"\d{6}")
        self.instant += timedelta(minutes=31)
        run_clock(self.office)
        with read_session(self.office.engine) as session:
            self.assertEqual(session.scalar(select(Outgoing.text)), "")

    def test_the_office_is_nobody_elses_on_this_machine(self) -> None:
        self.assertEqual(self.folder.stat().st_mode & 0o777, 0o700)


class MailServers(Accounts):
    def test_a_silent_server_is_waited_for_once(self) -> None:
        import socket

        silent = socket.socket()
        self.addCleanup(silent.close)
        silent.bind(("127.0.0.1", 0))
        silent.listen()
        before, mailing.SMTP_PATIENCE = mailing.SMTP_PATIENCE, 2.0
        self.addCleanup(setattr, mailing, "SMTP_PATIENCE", before)
        for n in range(5):
            accounts.new_person(self.office, "Ada Marsh", f"ada{n}@marsh.example", "applicant", GOOD)
            accounts.forgotten(self.office, f"ada{n}@marsh.example")
        from jolly_clerk.store.database import write_session

        with write_session(self.office.engine) as session:
            for row in session.scalars(select(Outgoing)):
                row.delivered_at = None
        self.office.settings.smtp_host, self.office.settings.smtp_port = "127.0.0.1", silent.getsockname()[1]
        began = time.monotonic()
        self.assertEqual(mailing.deliver_waiting(self.office), 0)
        self.assertLess(time.monotonic() - began, 10)  # one after the other they would take 20

    def test_requests_do_not_wait_for_mail_and_make_no_threads(self) -> None:
        import threading

        others = set(threading.enumerate())  # an office of another test may still be ending
        with TestClient(self.app) as client:
            self.assertIsNotNone(self.office.mail_waits)
            for n in range(10):
                client.post("/api/session/forgotten", json={"mail": f"nobody{n}@marsh.example"})
            self.assertEqual(sum(t.name == "mail" for t in set(threading.enumerate()) - others), 1)
        self.assertIsNone(self.office.mail_waits)


class Kinds(Accounts):
    def test_somebody_limited_to_other_kinds_sees_no_case_of_this_one(self) -> None:
        reference = self.filed()
        lead, officer = self.client("maud"), self.client("imre")
        self.assertEqual(officer.get(f"/api/cases/{reference}").status_code, 200)
        self.assertEqual(lead.put("/api/people/imre/kinds", json={"kinds": ["ZZ"]}).status_code, 422)
        with read_session(self.office.engine) as session:
            self.assertEqual(session.get_one(Person, "imre").kinds, [])
        self.limit("imre", ["CT"])
        self.assertEqual(officer.get(f"/api/cases/{reference}").status_code, 404)
        self.assertEqual(officer.post(f"/api/cases/{reference}/checking", json={}).status_code, 404)
        self.assertEqual(officer.get("/api/search", params={"words": "odalys"}).json(), [])
        tray: Any = officer.get("/api/tray", params={"whose": "everyone's"}).json()
        self.assertEqual(tray["counts"], {"mine": 0, "nobody's yet": 0, "everyone's": 0})
        self.assertEqual(lead.put("/api/people/imre/kinds", json={"kinds": ["BW"]}).status_code, 204)
        self.assertEqual(officer.get(f"/api/cases/{reference}").status_code, 200)
        self.assertEqual(officer.put("/api/people/imre/kinds", json={"kinds": []}).status_code, 403)

    def limit(self, person: str, kinds: list[str]) -> None:
        from jolly_clerk.store.database import write_session

        with write_session(self.office.engine) as session:
            session.get_one(Person, person).kinds = kinds

    def test_sessions_of_nobody_pile_up_nowhere(self) -> None:
        for _ in range(3):
            sign_in_by_click(self.office, "odalys")
        self.instant += timedelta(hours=13)
        sign_in_by_click(self.office, "odalys")
        with read_session(self.office.engine) as session:
            self.assertEqual(session.scalar(select(func.count()).select_from(SignIn)), 1)
        self.assertTrue(re.fullmatch(r"[\w-]{43}", sign_in_by_click(self.office, "odalys").secret))
        self.assertEqual(COOKIE, "jolly_clerk")
