"""Tokens for programs: a scope and an end, taken back at any time; and an OpenAPI document that says how one is known."""

from __future__ import annotations

from typing import Any

from fastapi.testclient import TestClient
from openapi_spec_validator import OpenAPIV31SpecValidator

from jolly_clerk.office.people import accounts
from jolly_clerk.office.people.directory import end_other_sessions
from jolly_clerk.store.database import write_session
from tests.office.test_journey import SMALL_PLAN
from tests.web.rows import PUBLIC
from tests.web.test_web import WebTest

WORK = {"name": "Our CAD office", "scope": "work", "last_day": "2026-11-20"}


class Tokens(WebTest):
    def made(self, person: str, **changes: str) -> str:
        answer = self.client(person).post("/api/tokens", json=WORK | changes)
        self.assertEqual(answer.status_code, 201, answer.text)
        return str(answer.json()["secret"])

    def program(self, secret: str) -> TestClient:
        """A program that knows nothing but its token."""
        client = TestClient(self.app, raise_server_exceptions=False)
        client.headers |= {"Authorization": f"Bearer {secret}", "If-Match": "*"}
        return client

    def test_a_program_prepares_and_files(self) -> None:
        program = self.program(self.made("odalys"))
        draft = program.post("/api/drafts", json={"kind": "BW"}).json()["id"]
        files = {"file": ("plan.pdf", SMALL_PLAN, "application/pdf")}
        self.assertEqual(program.post(f"/api/drafts/{draft}/files", data={"slot": "site_plan"}, files=files).status_code, 201)
        self.assertEqual([d["id"] for d in self.client("odalys").get("/api/drafts").json()], [draft])
        self.assertEqual(program.get("/api/tray").status_code, 403)  # what its person may not, it may not

    def test_one_that_may_look_changes_nothing(self) -> None:
        program = self.program(self.made("imre", scope="look"))
        reference = self.filed()
        self.assertEqual(program.get(f"/api/cases/{reference}").status_code, 200)
        answer = program.post(f"/api/cases/{reference}/notes", json={"text": "x"})
        self.assertEqual((answer.status_code, answer.json()["detail"]), (403, "This token may look and change nothing."))
        self.assertEqual(
            self.program(self.made("imre")).post(f"/api/cases/{reference}/notes", json={"text": "x"}).status_code, 200
        )

    def filed(self) -> str:
        from jolly_clerk.office.preparing import filing

        return filing.file(self.office, self.odalys, self.draft(plan=SMALL_PLAN), take_gaps=True)

    def test_none_touches_accounts_people_tokens_or_the_office(self) -> None:
        program = self.program(self.made("maud"))
        asked: list[tuple[str, str, Any]] = [
            ("post", "/api/tokens", WORK),
            ("get", "/api/tokens", None),
            ("post", "/api/session/password", {"old": "a", "new": "b"}),
            ("get", "/api/session/copy", None),
            ("get", "/api/people", None),
            ("get", "/api/office", None),
            ("put", "/api/office/settings/account", {"value": "x"}),
            ("post", "/api/mandates", {}),
        ]
        for method, path, body in asked:
            with self.subTest(path=path):
                answer = program.request(method, path, json=body)
                self.assertEqual(answer.status_code, 403)
                self.assertIn("No token does this", answer.json()["detail"])

    def test_it_ends_on_its_day_when_it_is_taken_back_and_with_its_person(self) -> None:
        client, secret = self.client("odalys"), self.made("odalys")
        program = self.program(secret)
        self.assertEqual(program.get("/api/drafts").status_code, 200)
        (told,) = client.get("/api/tokens").json()
        self.assertTrue(told["used_at"])
        self.assertNotIn(secret, client.get("/api/tokens").text)
        self.move_to(2026, 11, 20, 23)
        self.assertEqual(program.get("/api/drafts").status_code, 200)
        self.move_to(2026, 11, 21, 0)
        answer = program.get("/api/drafts")
        self.assertEqual((answer.status_code, answer.headers.get("www-authenticate")), (401, "Bearer"), answer.text)
        client = self.client("odalys")
        self.assertTrue(client.get("/api/tokens").json()[0]["over"])
        self.assertEqual(client.delete(f"/api/tokens/{told['id']}").status_code, 204)
        self.assertEqual(client.get("/api/tokens").json(), [])
        another = self.program(self.made("odalys", last_day="2026-12-01"))
        (told,) = client.get("/api/tokens").json()
        self.assertEqual(self.client("tamsin").delete(f"/api/tokens/{told['id']}").status_code, 404)
        self.assertEqual(another.get("/api/drafts").status_code, 200)
        with write_session(self.office.engine) as session:  # a new password by a link, or an account that is closed
            end_other_sessions(session, "odalys")
        self.assertEqual(another.get("/api/drafts").status_code, 401)
        leaves = self.program(self.made("imre", last_day="2026-12-01"))
        accounts.leave(self.office, self.maud, "imre")
        self.assertEqual(leaves.get("/api/tray").status_code, 401)

    def test_what_cannot_be_is_refused(self) -> None:
        client = self.client("odalys")
        for changes, status in (
            ({"last_day": "2026-11-04"}, 422),
            ({"last_day": "2027-11-07"}, 422),
            ({"scope": "all"}, 422),
            ({"name": "  "}, 422),
        ):
            with self.subTest(changes):
                self.assertEqual(client.post("/api/tokens", json=WORK | changes).status_code, status)
        for _ in range(10):
            self.made("odalys")
        self.assertEqual(client.post("/api/tokens", json=WORK).status_code, 413)
        for header in ("Bearer", "Bearer x", f"Bearer jct_{'a' * 43}", "Basic b2Q6eA==", f"Bearer jct_{'é' * 43}"):
            answer = self.client().get("/api/drafts", headers={"Authorization": header.encode()})
            self.assertEqual(answer.status_code, 401, header)

    def test_a_cookie_beside_a_wrong_token_does_not_help(self) -> None:
        answer = self.client("odalys").get("/api/drafts", headers={"Authorization": "Bearer none"})
        self.assertEqual(answer.status_code, 401)
        answer = self.client("odalys").get("/api/drafts", headers={"Authorization": "Basic b2Q6eA=="})
        self.assertEqual(answer.status_code, 200, "that is for the web server before this one")

    def test_the_document_is_valid_and_says_how_one_is_known(self) -> None:
        told = self.app.openapi()
        self.assertEqual([], [str(e)[:200] for e in OpenAPIV31SpecValidator(told).iter_errors()])
        free = {(m, p) for p, ms in told["paths"].items() for m, o in ms.items() if o.get("security") == []}
        sessions = {route for route in free - PUBLIC if route[1] != "/health"}
        self.assertEqual(sessions, set(), "these ask nobody who they are")
        self.assertEqual({"session", "token"}, set(told["components"]["securitySchemes"]))
