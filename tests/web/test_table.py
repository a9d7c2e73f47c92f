"""Who may do what: every route of the OpenAPI document, for every role, on the own and on somebody else's case.

Each row expects one status and nothing else: a success where it is allowed, at a stage of the work in which it can be done.
"""

from __future__ import annotations

import base64
import hashlib
import shutil
from typing import Any
from unittest.mock import patch

from httpx2 import Client

from jolly_clerk.core.reference import DOCKET_MARK
from jolly_clerk.office.people.directory import sign_in_by_click
from jolly_clerk.web.app import create_app
from jolly_clerk.web.asking import COOKIE, CSRF_HEADER
from tests.folders import new_folder
from tests.office.test_journey import ROOF, Cases
from tests.photographs import photograph
from tests.web import asking
from tests.web.rows import (
    APPLICANT,
    BODIES,
    CREATED,
    EMPTY,
    ERASING,
    EVERYBODY,
    LEAD,
    OFFICER,
    PUBLIC,
    QUERIES,
    READ_CASE,
    READ_KEPT,
    ROLES,
    ROWS,
    SEES_ALL,
    SHARED,
    STAGES,
)
from tests.web.stages import AFTER, PACKAGE, at_stage


class Table(Cases):
    """The rows of one role; each role has a class below."""

    role: str | None

    def setUp(self) -> None:
        super().setUp()
        self.app = create_app(self.office)
        at_once = patch("jolly_clerk.office.running.copies._in_background", lambda work: work())
        at_once.start()
        self.addCleanup(at_once.stop)

    def begin(self, stage: str) -> None:
        """Serve an office at a stage."""
        from jolly_clerk.office.office import open_office
        from tests.helpers import SHARED_READERS

        kept, self.names = at_stage(stage)
        self.move_to(
            2026, 11, {"past": 9, "listed": 9, "inspected": 18, "photographed": 18, "meeting held": 18}.get(stage, 5), 10
        )
        folder = new_folder() / "office"
        shutil.copytree(kept, folder)
        self.office.engine.dispose()
        self.office = open_office(folder, now=lambda: self.instant, demo=True)
        self.office.readers = SHARED_READERS
        self.addCleanup(self.office.engine.dispose)
        self.app.state.office = self.office

    def client(self, person: str | None) -> Client:
        client = asking(self.app)
        client.headers["If-Match"] = "*"
        if person:
            begun = sign_in_by_click(self.office, person)
            client.cookies.set(COOKIE, begun.secret)
            client.headers[CSRF_HEADER] = begun.csrf
        return client

    def ask(self, client: Client, method: str, path: str) -> Any:
        if path.endswith("/like/{name}"):
            return client.post(path.format(name=self.names["draft"]))
        kept = {"reference": "BA-1998-77", "sha256": self.names["kept"]} if "/kept/" in path else {}
        if path.startswith(("/api/cases/", "/api/counter/")) and "{docket}" in path:
            kept = {"docket": self.names["docket_of_case"]}
        if "{feed}" in path:
            kept = {"feed": self.names.get(f"feed_{self.role}", "none")}
        if "{view}" in path:
            kept = {"view": self.names.get(f"view_{self.role}", "none")}
        if "/api/rules" in path:
            kept = {"edition": self.names.get("written", "none"), "sha256": self.names.get("published", "0" * 64)}
        if "/api/office/settings" in path:
            kept = {"name": "telephone"}
        if "/photographs/" in path:
            kept = {"sha256": hashlib.sha256(photograph("north wall")).hexdigest()}
        if "{other}" in path:
            kept = {"other": self.names["reference"]}
        address = path.format(**self.names | kept)
        if path.endswith("}/files") and method == "post":
            return client.post(address, data={"slot": "consent"}, files={"file": ("x.pdf", ROOF, "application/pdf")})
        if path == "/api/counter/photographs":
            taken = photograph(f"{DOCKET_MARK} {self.names['docket_of_case']}")
            return client.post(path, files={"file": ("docket.jpg", taken, "image/jpeg")})
        if path.startswith("/api/packages"):
            return client.post(path, files={"file": ("p.zip", (self.office.folder / PACKAGE).read_bytes(), "application/zip")})
        if path.startswith("/api/office/registers"):
            plots = (self.office.folder / "registers" / f"plots.{'geojson' if '/map' in path else 'csv'}").read_bytes()
            sha256 = hashlib.sha256(plots).hexdigest()
            return client.post(address, data={"sha256": sha256}, files={"file": ("p", plots, "text/plain")})
        if path == "/api/till/statements":
            return client.post(path, files={"file": ("s.csv", b"Date;Amount;Text\n2026-11-05;5.00;x\n", "text/csv")})
        if path.endswith("/split"):
            return client.post(address, json={"kind": "BW", "pieces": [self.names["piece"]], "person": "tamsin"})
        if path.endswith("/later"):
            files = {"file": ("yard.pdf", ROOF, "application/pdf")}
            return client.post(address, data={"slot": "photos", "name": "Somebody"}, files=files)
        if path.endswith("/earlier") and method == "post":
            return client.post(address, json={"keys": [self.names["earlier"]]})
        if path.endswith("/signing-sheet") and method == "post":
            files = {"file": ("sheet.png", self.names["sheet"].encode("latin-1"), "image/png")}
            return client.post(address, data={"name": "Somebody"}, files=files)
        if path.endswith("/parts/table"):
            return client.post(address, files={"file": ("crew.csv", b"Name\nOdo Fenn\n", "text/csv")})
        if path == "/api/invitations" and method == "post":
            told = {"of": self.names["draft"], "mail": "ada@marsh.example", "name": "Ada Marsh", "rights": ["fill"]}
            return client.post(path, json=told)
        if path == "/api/issuers" and method == "post":
            told = {"of": self.names["draft"], "slot": "site_plan", "mail": "ross@survey.example", "name": "Ross Hale"}
            return client.post(path, json=told)
        if path.startswith("/api/basket") and method == "post":
            return client.post(path, json={"references": [self.names["reference"], self.names["unpaid"]]})
        if path == "/api/mandates" and method == "post":
            return client.post(path, json={"mail": "ada@marsh.example", "name": "Ada Marsh", "rights": ["pay"]})
        if path.endswith("/messages"):
            return client.post(address, data={"text": "Hello"})
        if path.endswith("/pile") and method == "post":
            piece = f"{self.names['item']}-2-3" if "item" in self.names else ""
            return client.post(address, json={"placed": [{"piece": piece, "spot": "consent"}]})
        address += QUERIES.get(path, "").format(**self.names)
        if "/uploads" in path:
            draft = base64.b64encode(self.names["draft"].encode()).decode()
            told = f"draft {draft},slot c2VjdGlvbnM=,name eC5wZGY="  # sections, x.pdf
            headers = {"Tus-Resumable": "1.0.0", "Upload-Length": "9", "Upload-Offset": "0", "Upload-Metadata": told}
            headers["Content-Type"] = "application/offset+octet-stream"
            return client.request(method, address, content=b"x" if method == "patch" else None, headers=headers)
        if path.endswith("/result"):
            return client.post(address, data={"passed": "true", "words": ""})
        body = BODIES.get((method, path), {})
        if path.endswith("/agenda"):
            body = {"meeting": self.names["meeting"]}
        return client.request(method, address, json=body if method in ("post", "put") else None)

    def test_the_rows(self) -> None:
        people = dict(zip(ROLES, ("odalys", "imre", "maud", "silas", "anselm", "petra"), strict=True))
        rows, at, clients = 0, "", dict[str | None, Client]()
        for method, path in self.in_turn():
            for own in (True, False):
                stage = self.stage((method, path))
                if stage != at:
                    self.begin(stage)
                    at, clients = stage, {}
                person = None if self.role is None else people[self.role]
                person = "tamsin" if self.role == "applicant" and not own else person
                client = clients.setdefault(person, clients.get(person) or self.client(person))
                answer = self.ask(client, method, path)
                rows += 1
                with self.subTest(method=method, path=path, role=self.role, own=own):
                    self.assertEqual(answer.status_code, self.expected(method, path, own), answer.text[:200])
                if method != "get" and answer.status_code < 300:
                    at = ""  # something was done: the next row starts from the stage again
        print(f"{rows} rows: route, {self.role or 'nobody'}, own or another's")
        self.assertEqual(rows, len(ROWS) * 2)

    def in_turn(self) -> list[tuple[str, str]]:
        """The routes by their stages. Each role begins at another one, so that those that run beside each other do not wait for the
        same to be made."""
        stages = sorted({self.stage(route) for route in ROWS})
        first = len(stages) * (None, *ROLES).index(self.role) // (1 + len(ROLES))
        turn = {stage: n for n, stage in enumerate(stages[first:] + stages[:first])}
        return sorted(ROWS, key=lambda route: (turn[self.stage(route)], route))

    def stage(self, route: tuple[str, str]) -> str:
        """The stage at which a route can be done by this role: a reviewer sees nothing before it was handed over."""
        of_reviewers = route in READ_CASE or "reviewer" in SHARED.get(route, ())
        return "review" if self.role == "reviewer" and of_reviewers and route not in STAGES else STAGES.get(route, "filed")

    def expected(self, method: str, path: str, own: bool) -> int:
        """The one status that a row answers."""
        route, role = (method, path), self.role
        success = 204 if route in EMPTY else 201 if method == "post" and path in CREATED else 200
        sees = role in ("officer", "lead", "reviewer", "auditor")
        if role is None:
            return 401
        if route in SEES_ALL:
            return success if sees else 403
        if route in ERASING:
            return success if role in ERASING[route] else 403
        if route in LEAD:
            return success if role == "lead" else 403
        if route in APPLICANT:
            if role != "applicant":
                return 403
            places = (
                "{draft}",
                "{reference}",
                "{key}",
                "{upload}",
                "{mandate}",
                "{firm}",
                "/like/",
                "/api/invitations",
                "/api/issuers",
                "/api/basket",
            )
            named = any(name in path for name in places) or path == "/api/uploads"
            named = named and route != ("get", "/api/basket")  # a list of one's own
            return success if own or not named else 404
        if role == "reviewer" and "{reference}" in path and self.stage(route) not in AFTER:
            return 404
        if role == "rule-keeper" or (role == "applicant" and not own):
            return 404  # a case that one may not see is not there
        if route in READ_KEPT:
            return 404 if role == "reviewer" else success
        if route in READ_CASE:
            return success
        may = SHARED.get(route, ("officer", "lead"))
        return success if role in may else 403


for _role in (None, *ROLES):
    _name = "Table" + (_role or "nobody").title().replace("-", "")
    globals()[_name] = type(_name, (Table,), {"role": _role, "__module__": __name__})
del Table


class TheTable(Cases):
    def test_every_route_is_in_it(self) -> None:
        table = PUBLIC | EVERYBODY | READ_CASE | APPLICANT | OFFICER | SEES_ALL | LEAD | set(SHARED) | set(ERASING) | READ_KEPT
        paths = create_app(self.office).openapi()["paths"]
        self.assertEqual({(m, p) for p, ms in paths.items() for m in ms}, table)
