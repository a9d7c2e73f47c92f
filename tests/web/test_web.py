"""The edge: sessions, tokens, headers, who may do what on every route, problem documents, no 500 for any input."""

from __future__ import annotations

import os
from collections import Counter
from typing import Any

import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from schemathesis.checks import not_a_server_error

from jolly_clerk.office.desk import checking
from jolly_clerk.office.people.directory import add_person, sign_in_by_click
from jolly_clerk.office.preparing import attaching, drafts
from jolly_clerk.web.app import create_app
from jolly_clerk.web.asking import COOKIE, CSRF_HEADER
from tests.office.test_journey import SMALL_PLAN, Cases

#: so many inputs are made up for each route; ``make bench`` tries more
EXAMPLES = int(os.environ.get("JOLLY_CLERK_EXAMPLES", "2"))


class WebTest(Cases):
    def setUp(self) -> None:
        super().setUp()
        add_person(self.office, "silas", "Silas Thorne", "reviewer")
        add_person(self.office, "petra", "Petra Lune", "rule-keeper")
        self.app = create_app(self.office)

    def client(self, person: str | None = None) -> TestClient:
        client = TestClient(self.app, raise_server_exceptions=False)
        if person:
            begun = sign_in_by_click(self.office, person)
            client.cookies.set(COOKIE, begun.secret)
            client.headers[CSRF_HEADER] = begun.csrf
            client.headers["If-Match"] = "*"
        return client


class Sessions(WebTest):
    def test_signing_in_and_out(self) -> None:
        client = self.client()
        self.assertIsNone(client.get("/api/session").json()["person"])
        answer = client.post("/api/session/by-click", json={"person": "odalys"})
        cookie = answer.headers["set-cookie"]
        for word in ("HttpOnly", "SameSite=strict"):
            self.assertIn(word, cookie)
        session = client.get("/api/session").json()
        self.assertEqual(session["person"]["name"], "Odalys Renn")
        self.assertEqual(client.delete("/api/session").status_code, 403)
        self.assertEqual(client.delete("/api/session", headers={CSRF_HEADER: session["csrf"]}).status_code, 204)
        self.assertEqual(client.get("/api/drafts").status_code, 401)

    def test_a_change_needs_its_token(self) -> None:
        client = self.client("odalys")
        for wrong in ("", "x" * 32, "?"):
            client.headers[CSRF_HEADER] = wrong
            self.assertEqual(client.post("/api/drafts", json={"kind": "BW"}).status_code, 403)

    def test_one_click_exists_only_in_the_demo(self) -> None:
        self.office.demo = False
        client = self.client()
        self.assertEqual(client.post("/api/session/by-click", json={"person": "odalys"}).status_code, 403)
        self.assertEqual(client.get("/api/session").json()["people"], [])

    def test_a_session_ends(self) -> None:
        client = self.client("odalys")
        self.move_to(2026, 11, 6, 10)
        self.assertEqual(client.get("/api/drafts").status_code, 401)

    def test_headers(self) -> None:
        answer = self.client().get("/health")
        self.assertIn("default-src 'self'", answer.headers["content-security-policy"])
        self.assertNotIn("unsafe-inline'; img", answer.headers["content-security-policy"].split("style-src")[0])
        self.assertEqual(answer.headers["x-content-type-options"], "nosniff")

    def test_closed_days_are_asked_anew_since_a_lead_may_declare_one(self) -> None:
        answer = self.client().get("/api/closed-days/2026")
        self.assertEqual((answer.status_code, answer.headers["cache-control"]), (200, "no-store"))


class Problems(WebTest):
    def test_gaps_come_with_their_places(self) -> None:
        draft = self.draft(works_area=None)
        answer = self.client("odalys").post(f"/api/drafts/{draft}/filing", json={})
        self.assertEqual((answer.status_code, answer.headers["content-type"]), (409, "application/problem+json"))
        self.assertEqual([r["place"] for r in answer.json()["reasons"]], ["works.area"])

    def test_wrong_bodies_name_the_field(self) -> None:
        client = self.client("imre")
        reference = self.filed()
        for body, place in (
            ({"requirement": "x", "standing": "splendid"}, "standing"),
            ({"standing": "met"}, "requirement"),
            ({"requirement": "x" * 500, "standing": "met"}, "requirement"),
        ):
            answer = client.post(f"/api/cases/{reference}/judgements", json=body)
            self.assertEqual((answer.status_code, answer.json()["place"]), (422, place))
        self.assertEqual(client.post(f"/api/cases/{reference}/judgements", content=b"{not json").status_code, 422)

    def test_nothing_typed_is_lost_when_it_is_wrong(self) -> None:
        client = self.client("odalys")
        draft = client.post("/api/drafts", json={"kind": "BW"}).json()["id"]
        typed = {"works": {"area": "minus five", "begun": "31.11.2026"}, "place": {"address": "\u202e<script>alert(1)</script>"}}
        self.assertEqual(client.put(f"/api/drafts/{draft}", json={"answers": typed}).status_code, 200)
        self.assertEqual(client.get(f"/api/drafts/{draft}").json()["dossier"]["answers"], typed)

    def test_a_page_sent_as_a_document_is_never_shown_as_a_page(self) -> None:
        draft = drafts.start_draft(self.office, self.odalys, "BW")
        attaching.attach(self.office, self.odalys, draft, "site_plan", 'a";x=.html', b"<!DOCTYPE html><script>1</script>")
        answer = self.client("odalys").get(f"/api/drafts/{draft}/files/a1")
        self.assertEqual(answer.headers["content-type"], "application/octet-stream")
        self.assertTrue(answer.headers["content-disposition"].startswith("attachment; filename*=UTF-8''a%22"))

    def test_the_letter_is_shown_before_it_is_sent(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        client = self.client("imre")
        self.assertEqual(client.get(f"/api/cases/{reference}/letter").status_code, 409)
        client.post(f"/api/cases/{reference}/judgements", json={"requirement": "documents.site_plan", "standing": "wanting"})
        answer = client.get(f"/api/cases/{reference}/letter")
        self.assertEqual((answer.status_code, answer.content[:5]), (200, b"%PDF-"))

    def test_somebody_faster_is_a_conflict(self) -> None:
        reference = self.filed()
        client = self.client("imre")
        tag = client.get(f"/api/cases/{reference}").headers["etag"]
        checking.begin_checking(self.office, self.maud, reference)
        answer = client.post(f"/api/cases/{reference}/checking", json={}, headers={"If-Match": tag})
        self.assertEqual((answer.status_code, answer.json()["title"]), (412, "Somebody else changed this"))
        self.assertEqual([r["text"] for r in answer.json()["reasons"]], ["Maud Ferrier began checking"])


class AnyInput(WebTest):
    """Schemathesis over the OpenAPI document: what it makes up is sent by each of these people in turn."""

    people = ("odalys", "imre")

    def test_no_input_gives_a_500(self) -> None:
        reference, statuses = self.filed(), {person: Counter[int]() for person in self.people}
        schema = schemathesis.openapi.from_asgi("/api/openapi.json", self.app)
        sessions = {person: sign_in_by_click(self.office, person) for person in self.people}
        for result in schema.get_all_operations():
            operation = result.ok()
            if operation.path in ("/api/session", "/api/session/password", "/api/session/by-click", "/api/events"):
                continue  # the last is a stream without end

            @settings(max_examples=EXAMPLES, suppress_health_check=list(HealthCheck))
            @given(case=operation.as_strategy())
            def call(case: Any) -> None:
                for made in (case.headers, case.cookies):  # whoever asks is known by a session begun above
                    for name in ("Authorization", COOKIE) if made else ():
                        made.pop(name, None)
                for known in (False, True):
                    if known and "reference" not in (case.path_parameters or {}):
                        continue
                    if known:
                        case.path_parameters["reference"] = reference
                    for person, begun in sessions.items():
                        who = {"headers": {CSRF_HEADER: begun.csrf, "If-Match": "*"}, "cookies": {COOKIE: begun.secret}}
                        answer = case.call_and_validate(**who, checks=[not_a_server_error])
                        statuses[person][answer.status_code] += 1

            call()
        for person, told in statuses.items():
            print(f"{told.total()} requests tried as {person}: {dict(told)}")
            self.assertGreater(told.total(), 500)
            self.assertGreater(told[200], 15)
            self.assertEqual(told[401], 0)
