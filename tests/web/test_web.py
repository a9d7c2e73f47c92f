"""The edge: sessions, tokens, headers, who may do what on every route, problem documents, no 500 for any input."""

from __future__ import annotations

from collections import Counter
from typing import Any

import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from schemathesis.checks import not_a_server_error

from jolly_clerk.office import attaching, checking, drafts
from jolly_clerk.office.people import add_person, sign_in_by_click
from jolly_clerk.web.app import create_app
from jolly_clerk.web.asking import COOKIE, CSRF_HEADER
from tests.office.test_journey import SMALL_PLAN, Cases

PUBLIC = {
    ("get", "/health"), ("get", "/api/kinds"), ("get", "/api/session"), ("post", "/api/session/by-click"), ("post", "/api/session/sign-up"),
    ("post", "/api/session/sign-in"), ("post", "/api/session/forgotten"), ("post", "/api/session/new-password"),
    ("post", "/api/kinds/{kind}/way-in"), ("post", "/api/kinds/{kind}/way-in/letter"), ("get", "/api/permits/{code}"),
}  # fmt: skip
EVERYBODY = {
    ("delete", "/api/session"), ("post", "/api/session/password"), ("get", "/api/session/profile"), ("put", "/api/session/profile"),
}  # fmt: skip
#: routes over a case that both sides read; the applicant only the own
READ_CASE = {
    ("get", "/api/cases/{reference}"),
    ("get", "/api/cases/{reference}/papers/{no}"),
    ("get", "/api/cases/{reference}/files/{sha256}"),
}
#: what more than one side may do to a case, and who
SHARED = {
    ("post", "/api/cases/{reference}/messages"): ("applicant", "officer", "lead", "reviewer"),
    ("post", "/api/cases/{reference}/more-time"): ("applicant", "officer", "lead"),
    ("post", "/api/cases/{reference}/notes"): ("officer", "lead", "reviewer"),
    ("post", "/api/cases/{reference}/grant"): ("reviewer",),
    ("post", "/api/cases/{reference}/refusal"): ("reviewer",),
    ("post", "/api/cases/{reference}/fees/settlement"): ("lead",),
    ("get", "/api/cases/{reference}/due.ics"): ("applicant", "officer", "lead", "reviewer", "auditor"),
}
LEAD = {("get", "/api/people"), ("post", "/api/people"), ("delete", "/api/people/{person}")}
ROLES = ("applicant", "officer", "lead", "reviewer", "auditor", "rule-keeper")
APPLICANT = {
    ("get", "/api/drafts"), ("post", "/api/drafts"), ("get", "/api/my-cases"), ("get", "/api/drafts/{draft}"), ("put", "/api/drafts/{draft}"),
    ("delete", "/api/drafts/{draft}"), ("post", "/api/drafts/{draft}/files"), ("delete", "/api/drafts/{draft}/files/{attachment}"),
    ("get", "/api/drafts/{draft}/files/{attachment}"), ("post", "/api/drafts/{draft}/signature"), ("delete", "/api/drafts/{draft}/signature"), ("put", "/api/drafts/{draft}/declarations/{declaration}"),
    ("post", "/api/drafts/{draft}/drop"), ("post", "/api/drafts/{draft}/filing"), ("post", "/api/drafts/{draft}/answers"),
    ("post", "/api/cases/{reference}/answering"), ("post", "/api/cases/{reference}/payments"), ("post", "/api/terminal/{key}"),
    ("get", "/api/drafts/{draft}/registers/{name}"), ("post", "/api/drafts/{draft}/registers/{name}"),
    ("post", "/api/cases/{reference}/taking-back"), ("post", "/api/cases/{reference}/withdrawal"),
}  # fmt: skip
OFFICER = {
    ("post", "/api/cases/{reference}/checking"), ("post", "/api/cases/{reference}/judgements"), ("post", "/api/cases/{reference}/words"),
    ("get", "/api/cases/{reference}/letter"), ("post", "/api/cases/{reference}/letter"), ("post", "/api/cases/{reference}/points/{no}/close"),
    ("post", "/api/cases/{reference}/points/{no}/again"), ("post", "/api/cases/{reference}/changes"),
    ("post", "/api/cases/{reference}/questions"), ("post", "/api/cases/{reference}/acceptance"),
    ("post", "/api/cases/{reference}/registers/{name}"), ("post", "/api/cases/{reference}/requirements"),
    ("post", "/api/cases/{reference}/arrangement"), ("post", "/api/cases/{reference}/undo"), ("post", "/api/cases/{reference}/fees"),
    ("post", "/api/cases/{reference}/letter/came-back"), ("post", "/api/cases/{reference}/letter/again"),
    ("post", "/api/cases/{reference}/not-accepted"), ("post", "/api/cases/{reference}/out-of-scope"),
    ("post", "/api/cases/{reference}/hand-over"), ("post", "/api/cases/{reference}/money"),
}  # fmt: skip
SEES_ALL = {("get", "/api/tray"), ("get", "/api/search")}
ROWS = APPLICANT | OFFICER | SEES_ALL | READ_CASE | LEAD | set(SHARED)
BODIES: dict[tuple[str, str], dict[str, Any]] = {
    ("post", "/api/drafts"): {"kind": "BW"},
    ("put", "/api/drafts/{draft}"): {"note": "x"},
    ("post", "/api/drafts/{draft}/signature"): {"name": "Somebody"},
    ("put", "/api/drafts/{draft}/declarations/{declaration}"): {"ticked": True},
    ("put", "/api/session/profile"): {"address": "1 Pier Road", "telephone": ""},
    ("post", "/api/drafts/{draft}/drop"): {"place": "works.area"},
    ("post", "/api/terminal/{key}"): {"outcome": "approved"},
    ("post", "/api/cases/{reference}/judgements"): {"requirement": "may-act", "standing": "met"},
    ("post", "/api/cases/{reference}/words"): {"requirement": "may-act", "text": "x"},
    ("post", "/api/cases/{reference}/changes"): {"place": "works.area"},
    ("post", "/api/cases/{reference}/questions"): {"place": "works.area"},
    ("post", "/api/drafts/{draft}/registers/{name}"): {"key": "Q-1"},
    ("post", "/api/cases/{reference}/taking-back"): {"reason": "To mend it"},
    ("post", "/api/cases/{reference}/requirements"): {"title": "Bat survey", "text": "Send it."},
    ("post", "/api/cases/{reference}/arrangement"): {"groups": []},
    ("post", "/api/cases/{reference}/fees"): {"line": "shoreline", "amount": "100.00", "reason": "Half of it"},
    ("post", "/api/cases/{reference}/fees/settlement"): {"line": "shoreline", "confirmed": True},
    ("post", "/api/cases/{reference}/not-accepted"): {"grounds": "It cannot be."},
    ("post", "/api/cases/{reference}/out-of-scope"): {"grounds": "Another office."},
    ("post", "/api/cases/{reference}/hand-over"): {"to": "silas"},
    ("post", "/api/cases/{reference}/refusal"): {"grounds": "It cannot be."},
    ("post", "/api/cases/{reference}/money"): {"amount": "1.00", "means": "cash", "mark": "C 100"},
    ("post", "/api/cases/{reference}/notes"): {"text": "x"},
    ("post", "/api/people"): {"name": "New One", "mail": "new@office.example", "role": "officer"},
}


class WebTest(Cases):
    def setUp(self) -> None:
        super().setUp()
        add_person(self.office, "silas", "Silas Thorne", "reviewer")
        add_person(self.office, "petra", "Petra Lune", "rule-keeper")
        self.app = create_app(self.office)
        self.people = dict(zip(ROLES, ("odalys", "imre", "maud", "silas", "anselm", "petra"), strict=True))

    def client(self, person: str | None = None) -> TestClient:
        client = TestClient(self.app, raise_server_exceptions=False)
        if person:
            begun = sign_in_by_click(self.office, person)
            client.cookies.set(COOKIE, begun.secret)
            client.headers[CSRF_HEADER] = begun.csrf
        return client

    def ask(self, client: TestClient, method: str, path: str, names: dict[str, str]) -> Any:
        address = path.format(**names)
        if path.endswith("/files") and method == "post":
            return client.post(address, data={"slot": "site_plan"}, files={"file": ("x.pdf", b"%PDF", "application/pdf")})
        if path.endswith("/messages"):
            return client.post(address, data={"text": "Hello"})
        body = BODIES.get((method, path), {})
        return client.request(method, address, json=body if method in ("post", "put") else None)


class Table(WebTest):
    """Every route of the OpenAPI document, for one role, on the own and on somebody else's case; each role has a class below."""

    role: str | None

    def test_the_rows(self) -> None:
        rows, names = 0, {}
        for method, path in sorted(ROWS):
            for own in (True, False):
                if not names:
                    names = self.fresh()
                person = None if self.role is None else self.people[self.role]
                if self.role == "applicant" and not own:
                    person = "tamsin"
                status = self.ask(self.client(person), method, path, names).status_code
                rows += 1
                with self.subTest(method=method, path=path, role=self.role, own=own):
                    self.check(method, path, self.role, own, status)
                if method != "get" and status < 300:
                    names = {}  # something was done: the next row starts from a case and a draft of its own
        print(f"{rows} rows: route, {self.role or 'nobody'}, own or another's")
        self.assertEqual(rows, len(ROWS) * 2)

    def fresh(self) -> dict[str, str]:
        reference, draft = self.filed(), self.draft()
        add_person(self.office, "leaver", "Somebody Who Leaves", "officer", "leaver@office.example")
        files = drafts.open_draft(self.office, self.odalys, draft).dossier.attachments
        ids = {
            "attachment": files[0].id,
            "sha256": files[0].sha256,
            "key": "0" * 32,
            "name": "plots",
            "person": "leaver",
            "declaration": "x",
        }
        return {"reference": reference, "draft": draft, "no": "1", **ids}

    def check(self, method: str, path: str, role: str | None, own: bool, status: int) -> None:
        route = (method, path)
        if role is None:
            self.assertEqual(status, 401)
        elif route in SEES_ALL:
            self.assertEqual(status, 200 if role in ("officer", "lead", "reviewer", "auditor") else 403)
        elif route in LEAD:
            self.assertIn(status, (200, 201, 204, 422) if role == "lead" else (403,))
        elif route in SHARED:
            may = role in SHARED[route] and (role != "applicant" or own)
            self.assertIn(status, (200, 201, 404, 409, 422) if may else (403, 404))
            if role == "applicant" and not own:
                self.assertEqual(status, 404 if "applicant" in SHARED[route] or "grant" in path or "refusal" in path else 403)
        elif route in OFFICER:
            # an officer gets through, or is told that it is not yet the time for it
            self.assertIn(status, (200, 404, 409, 422) if role in ("officer", "lead") else (403, 404))
            if role in ("officer", "lead") and path.endswith(("checking", "judgements", "words", "letter", "acceptance")):
                self.assertIn(status, (200, 409))
        elif route in READ_CASE:
            sees = role in ("officer", "lead", "reviewer", "auditor") or (role == "applicant" and own)
            self.assertEqual(status, 200 if sees else 404)
        elif role == "applicant":
            named = "{draft}" in path or "{reference}" in path or "{key}" in path
            if ("/registers/" in path or "/declarations/" in path) and own:
                self.assertIn(status, (200, 404))
            elif own and "{key}" not in path:
                self.assertIn(status, (200, 201, 204, 409, 422))
            elif named:
                self.assertEqual(status, 404)
        else:
            self.assertIn(status, (403, 404))


for _role in (None, *ROLES):
    _name = "Table" + (_role or "nobody").title().replace("-", "")
    globals()[_name] = type(_name, (Table,), {"role": _role, "__module__": __name__})
del Table


class TheTable(WebTest):
    def test_every_route_is_in_it(self) -> None:
        table = PUBLIC | EVERYBODY | READ_CASE | APPLICANT | OFFICER | SEES_ALL | LEAD | set(SHARED)
        self.assertEqual({(m, p) for p, ms in self.app.openapi()["paths"].items() for m in ms}, table)


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
        seen = client.get(f"/api/cases/{reference}").json()["seen"]
        checking.begin_checking(self.office, self.maud, reference)
        answer = client.post(f"/api/cases/{reference}/checking", json={"seen": seen})
        self.assertEqual((answer.status_code, answer.json()["title"]), (409, "Somebody else changed this"))


class AnyInput(WebTest):
    """Schemathesis over the OpenAPI document, as one person; each has a class below."""

    person: str

    def test_no_input_gives_a_500(self) -> None:
        reference, statuses = self.filed(), Counter[int]()
        schema = schemathesis.openapi.from_asgi("/api/openapi.json", self.app)
        begun = sign_in_by_click(self.office, self.person)
        headers, cookies = {CSRF_HEADER: begun.csrf}, {COOKIE: begun.secret}
        for result in schema.get_all_operations():
            operation = result.ok()
            if operation.path in ("/api/session", "/api/session/password", "/api/session/by-click"):
                continue

            @settings(max_examples=12, suppress_health_check=list(HealthCheck))
            @given(case=operation.as_strategy())
            def call(case: Any) -> None:
                for known in (False, True):
                    if known and "reference" not in (case.path_parameters or {}):
                        continue
                    if known:
                        case.path_parameters["reference"] = reference
                    answer = case.call_and_validate(headers=headers, cookies=cookies, checks=[not_a_server_error])
                    statuses[answer.status_code] += 1

            call()
        print(f"{statuses.total()} requests tried as {self.person}: {dict(statuses)}")
        self.assertGreater(statuses.total(), 500)
        self.assertGreater(statuses[200], 15)
        self.assertEqual(statuses[401], 0)


for _person in ("odalys", "imre"):
    globals()[f"AnyInput{_person.title()}"] = type(
        f"AnyInput{_person.title()}", (AnyInput,), {"person": _person, "__module__": __name__}
    )
del AnyInput
