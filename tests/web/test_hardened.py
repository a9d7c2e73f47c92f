"""What hurt an office that runs: a payment told by the payer, one address that stops all mail, a pool that locks itself, papers left behind."""

from __future__ import annotations

import threading
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from decimal import Decimal

from sqlalchemy import select

from jolly_clerk.office.cases import paying
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking, talking
from jolly_clerk.office.errors import Invalid, NotAllowed
from jolly_clerk.office.people import accounts
from jolly_clerk.office.post import mailing
from jolly_clerk.office.preparing import filing
from jolly_clerk.store import database
from jolly_clerk.store.database import Busy, read_session, write_session
from jolly_clerk.store.tables import Outgoing, Person
from tests.office.test_journey import SMALL_PLAN
from tests.web.test_web import WebTest


class RealOffice(WebTest):
    """An office that is served without ``--demo``."""

    def test_the_applicant_never_tells_that_the_own_payment_was_approved(self) -> None:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        before = load_case(self.office, self.odalys, reference).so_far.paid
        unpaid = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        key = paying.ask_payment(self.office, self.odalys, unpaid).key
        client, officer = self.client("odalys"), self.client("imre")
        self.office.demo, self.office.terminal = False, None
        self.assertFalse(client.get("/api/session").json()["cards"])
        refused = client.post(f"/api/cases/{unpaid}/payments", json={})
        self.assertEqual(refused.status_code, 409)
        self.assertIn(f"Pay by transfer, by cheque or in cash, and name {unpaid}.", refused.json()["detail"])
        forged = client.post(f"/api/terminal/{key}", json={"outcome": "approved", "amount": "9999999999.99"})
        self.assertEqual(forged.status_code, 403)
        self.assertEqual(client.post("/api/terminal/notices", json={}).status_code, 422)
        self.assertEqual(load_case(self.office, self.odalys, unpaid).so_far.paid, Decimal("0.00"))
        self.assertEqual(load_case(self.office, self.odalys, reference).so_far.paid, before)
        paid = officer.post(f"/api/cases/{unpaid}/money", json={"amount": "438.18", "means": "transfer", "mark": "TR 7"})
        self.assertEqual((paid.status_code, paid.json()["view"]["assessment"]["state"]), (200, "Filed"))


class Outbox(WebTest):
    ODD = ("a@[", "a.:@x.example", "():@x.example", "a@x\\y", "a@(x)", "a\x00b@x.example", "a@x\x7f.example", "a@")

    def test_an_address_that_no_mail_can_carry_is_refused(self) -> None:
        for odd in self.ODD:
            with self.subTest(odd), self.assertRaises(Invalid):
                accounts.mail_of(odd)
        self.assertEqual(
            accounts.mail_of(" Odalys.Renn+roof@Post.quillhaven.example "), "odalys.renn+roof@post.quillhaven.example"
        )

    def test_one_item_that_can_never_go_holds_up_no_other(self) -> None:
        with write_session(self.office.engine) as session:
            session.add(Person(id="poison", name="Poison", role="applicant", mail="a@["))
        for _ in range(2):
            self.assertEqual(self.client().post("/api/session/forgotten", json={"mail": "a@["}).status_code, 204)
        reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "documents.site_plan", "wanting")
        answer = self.client("imre").post(f"/api/cases/{reference}/letter", json={})
        self.assertEqual((answer.status_code, answer.json()["view"]["assessment"]["state"]), (200, "Answers wanted"))
        with read_session(self.office.engine) as session:
            rows = list(session.scalars(select(Outgoing)))
        aside = [row for row in rows if row.trouble]
        self.assertEqual({row.to for row in aside}, {"a@["})
        self.assertTrue(all(row.delivered_at for row in rows if not row.trouble))
        self.assertTrue(all("cannot be put into a mail" in row.trouble for row in aside))
        self.assertEqual(mailing.deliver_waiting(self.office), 0)

    def test_a_letter_that_is_gone_from_the_vault_is_set_aside(self) -> None:
        talking.write(self.office, self.imre, self.filed(), "Hello")
        with write_session(self.office.engine) as session:
            row = session.scalars(select(Outgoing).where(Outgoing.key.contains("-message-"))).one()
            row.delivered_at, row.pdf_sha256 = None, "0" * 64
        self.assertEqual(mailing.deliver_waiting(self.office), 0)
        troubles = [out.trouble for out, _ in mailing.outbox(self.office) if out.trouble]
        self.assertEqual(len(troubles), 1)
        self.assertIn("not in the vault", troubles[0])

    def test_what_was_done_is_never_answered_with_500_because_mail_is_in_trouble(self) -> None:
        reference = self.filed()
        self.office.post_room.folder = self.folder / "nowhere" / "at all"
        answer = self.client("odalys").post(f"/api/cases/{reference}/messages", data={"text": "Hello"})
        self.assertEqual(answer.status_code, 201)
        self.assertEqual([m["text"] for m in answer.json()["view"]["messages"]], ["Hello"])


class AtOnce(WebTest):
    """Many writes at the same moment: each is done or told to try again, and none locks the others out."""

    def test_sixty_writers_at_once(self) -> None:
        references = [self.filed() for _ in range(6)]
        clients = [self.client(person) for person in ("imre", "maud", "odalys") * 20]
        begun = threading.Barrier(len(clients))

        def write(n: int) -> int:
            begun.wait()
            return clients[n].post(f"/api/cases/{references[n % 6]}/messages", data={"text": f"Message {n}"}).status_code

        began = time.monotonic()
        with ThreadPoolExecutor(len(clients)) as pool:
            statuses = Counter(pool.map(write, range(len(clients))))
        self.assertEqual({status for status in statuses if status >= 500}, set(), statuses)
        self.assertLess(time.monotonic() - began, 30)
        told = sum(len(self.client("imre").get(f"/api/cases/{r}").json()["messages"]) for r in references)
        self.assertEqual(told, statuses[201])

    def test_nothing_in_a_write_takes_a_second_connection(self) -> None:
        with (
            write_session(self.office.engine),
            self.assertRaisesRegex(RuntimeError, "hand its session on"),
            read_session(self.office.engine),
        ):
            pass
        with write_session(self.office.engine), self.assertRaises(RuntimeError), write_session(self.office.engine):
            pass
        with read_session(self.office.engine):
            pass

    def test_a_turn_that_does_not_come_is_told_as_busy(self) -> None:
        reference, client = self.filed(), self.client("imre")
        before, database.PATIENCE = database.PATIENCE, 1
        self.addCleanup(setattr, database, "PATIENCE", before)
        held, go_on = threading.Event(), threading.Event()

        def hold() -> None:
            with write_session(self.office.engine):
                held.set()
                go_on.wait(10)

        holder = threading.Thread(target=hold)
        holder.start()
        held.wait()
        with self.assertRaises(Busy), write_session(self.office.engine):
            pass
        answer = client.post(f"/api/cases/{reference}/checking", json={})
        go_on.set()
        holder.join()
        self.assertEqual((answer.status_code, answer.json()["title"]), (503, "Too busy just now"))
        self.assertEqual(answer.headers["retry-after"], "5")
        self.assertEqual(client.post(f"/api/cases/{reference}/checking", json={}).status_code, 200)

    def test_an_old_password_is_verified_outside_the_write(self) -> None:
        person = accounts.new_person(self.office, "Odo Fenn", "odo@post.example", "applicant", "a quiet harbour")
        writing: list[bool] = []
        real = accounts.verified

        def watched(password: str, kept: str) -> bool:
            writing.append(getattr(database._HERE, "writes", False))
            return real(password, kept)

        accounts.verified = watched
        self.addCleanup(setattr, accounts, "verified", real)
        with self.assertRaises(NotAllowed):
            accounts.change_password(self.office, person, "wrong wrong", "another harbour")
        accounts.change_password(self.office, person, "a quiet harbour", "another harbour")
        accounts.sign_in(self.office, "odo@post.example", "another harbour")
        self.assertEqual(writing, [False] * 3)


class LeftBehind(WebTest):
    def test_papers_and_files_are_never_kept_by_the_browser(self) -> None:
        reference, client = self.filed(), self.client("odalys")
        view = client.get(f"/api/cases/{reference}").json()
        file = view["versions"][0]["files"][0]["attachment"]["sha256"]
        draft = client.post("/api/drafts", json={"kind": "BW"}).json()["id"]
        attached = client.post(
            f"/api/drafts/{draft}/files", data={"slot": "site_plan"}, files={"file": ("x.pdf", b"%PDF")}
        ).json()
        own = attached["view"]["dossier"]["attachments"][0]["id"]
        for path in (f"cases/{reference}/papers/1", f"cases/{reference}/files/{file}", f"drafts/{draft}/files/{own}"):
            answer = client.get(f"/api/{path}")
            self.assertEqual((answer.status_code, answer.headers["cache-control"]), (200, "no-store"), path)

    def test_signing_out_clears_what_the_browser_kept(self) -> None:
        self.assertEqual(self.client("odalys").delete("/api/session").headers["clear-site-data"], '"cache"')
