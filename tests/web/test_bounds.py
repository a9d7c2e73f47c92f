"""How much anybody may send: bodies without limit, deep and odd JSON, rows without number; each told clearly, the next request served."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from fastapi.testclient import TestClient

from jolly_clerk.web import bounds
from tests.core.test_bounds import nested
from tests.web.test_web import WebTest


class Bodies(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.read = 0

    def pieces(self, count: int, size: int = 100_000) -> Iterator[bytes]:
        """A body that comes in pieces and says nothing of its length."""
        for _ in range(count):
            self.read += size
            yield b" " * size

    def test_somebody_unknown_may_send_little(self) -> None:
        nobody = self.client()
        for path in ("/api/session/sign-in", "/api/session/sign-up", "/api/session/forgotten", "/api/kinds/BW/way-in"):
            with self.subTest(path):
                answer = nobody.post(
                    path, content=b'{"mail": "' + b"x" * 70_000 + b'"}', headers={"Content-Type": "application/json"}
                )
                self.assertEqual((answer.status_code, answer.json()["detail"]), (413, "At most 0.06 MB can be sent here."))
                self.assertEqual(answer.headers["content-type"], "application/problem+json")

    def test_a_body_that_does_not_tell_its_length_is_counted(self) -> None:
        answer = self.client().post("/api/session/sign-in", content=self.pieces(3000))
        self.assertEqual(answer.status_code, 413)

    def test_files_are_taken_from_nobody_unknown(self) -> None:
        answer = self.client().post("/api/drafts/x/files", data={"slot": "x"}, files={"file": ("a.pdf", b"%PDF" * 100_000)})
        self.assertEqual((answer.status_code, answer.json()["title"]), (401, "Please sign in."))

    def test_a_file_above_the_limit_is_refused_by_its_header(self) -> None:
        self.office.settings.most_upload_mb = 1
        client = self.client("odalys")
        draft = client.post("/api/drafts", json={"kind": "BW"}).json()["id"]
        answer = client.post(
            f"/api/drafts/{draft}/files", data={"slot": "site_plan"}, files={"file": ("a.pdf", b"x" * 1_200_000)}
        )
        self.assertEqual((answer.status_code, answer.json()["detail"]), (413, "At most 1.1 MB can be sent here."))

    def test_who_is_signed_in_may_send_a_long_form_and_no_more(self) -> None:
        client = self.client("odalys")
        draft = client.post("/api/drafts", json={"kind": "BW"}).json()["id"]
        long = {"answers": {"works": {"what": "x" * 200_000}}}
        self.assertEqual(client.put(f"/api/drafts/{draft}", json=long).status_code, 200)
        longer = {"answers": {"works": {"what": "x" * 2_100_000}}}
        self.assertEqual(client.put(f"/api/drafts/{draft}", json=longer).status_code, 413)
        self.assertEqual(client.get(f"/api/drafts/{draft}").json()["dossier"]["answers"], long["answers"])

    def test_a_body_that_stops_coming(self) -> None:
        import anyio

        async def silent() -> dict[str, Any]:
            await anyio.sleep(60)
            return {}

        before, bounds.PATIENCE = bounds.PATIENCE, 0.05
        self.addCleanup(setattr, bounds, "PATIENCE", before)
        sent: list[Any] = []

        async def send(message: Any) -> None:
            sent.append(message)

        scope = {
            "type": "http", "method": "POST", "path": "/api/session/sign-in", "raw_path": b"", "query_string": b"", "scheme": "http",
            "headers": [(b"content-type", b"application/json")], "http_version": "1.1", "server": ("testserver", 80), "client": ("x", 1),
        }  # fmt: skip
        anyio.run(self.app, scope, silent, send)
        self.assertEqual(sent[0]["status"], 408)


class Odd(WebTest):
    """JSON that no form makes: a clear answer with the place, and the draft opens afterwards."""

    def put(self, client: TestClient, draft: str, text: str) -> Any:
        return client.put(f"/api/drafts/{draft}", content=text.encode(), headers={"Content-Type": "application/json"})

    def test_each_is_refused_and_the_draft_still_opens(self) -> None:
        client = self.client("odalys")
        draft = client.post("/api/drafts", json={"kind": "BW"}).json()["id"]
        million = "{" + ",".join(f'"k{n}":1' for n in range(100_000)) + "}"
        for what, inner in (
            ("half a character", '"\\ud800"'),
            ("NUL", '"a\\u0000b"'),
            ("not a number", "NaN"),
            ("infinity", "-Infinity"),
            ("deep lists", json.dumps(nested(900))),
            ("deep objects", '{"a":' * 500 + "1" + "}" * 500),
            ("deeper than JSON is read", "[" * 40_000 + "]" * 40_000),
            ("many keys", million),
        ):
            with self.subTest(what):
                answer = self.put(client, draft, f'{{"answers":{{"works":{{"extra":{inner}}}}}}}')
                self.assertIn(answer.status_code, (400, 413, 422), answer.text[:200])
                self.assertEqual(client.get(f"/api/drafts/{draft}").status_code, 200)
        answer = self.put(client, draft, '{"answers":{"works":{"extra":"\\ud800"}}}')
        self.assertEqual((answer.status_code, answer.json()["place"]), (422, "works.extra"))
        self.assertEqual(self.put(client, draft, '{"answers":{"works":{"what":"a \\\\u0000 that is text"}}}').status_code, 200)

    def test_so_many_persons_are_refused_with_their_part(self) -> None:
        client = self.client("odalys")
        draft = client.post("/api/drafts", json={"kind": "BW"}).json()["id"]
        answer = client.put(f"/api/drafts/{draft}", json={"answers": {"persons": [{"name": "x"}] * 4_000}})
        self.assertEqual((answer.status_code, answer.json()["place"]), (422, "persons"))
        half = b'{"kind": "BW", "answers": {"works": {"x": "\\ud83d"}}}'
        begun = client.post("/api/drafts", content=half, headers={"Content-Type": "application/json"})
        self.assertEqual(begun.status_code, 422)

    def test_the_way_in_is_as_careful(self) -> None:
        answer = self.client().post("/api/kinds/BW/way-in", json={"answers": {"works": {"what": nested(400)}}})
        self.assertEqual(answer.status_code, 422)

    def test_nul_in_an_address_or_a_form(self) -> None:
        client = self.client("imre")
        reference = self.filed()
        self.assertLess(client.get("/api/search?words=a%00b").status_code, 500)
        self.assertLess(client.get("/api/cases/%00").status_code, 500)
        self.assertLess(client.post(f"/api/cases/{reference}/messages", data={"text": "a\x00b"}).status_code, 500)

    def test_an_address_with_a_character_that_no_database_keeps(self) -> None:
        """PostgreSQL takes no NUL; it was told as if the office had too much to do."""
        client = self.client("odalys")
        for address in ("/api/invitations?of=a%00b", "/api/cases/a%00b", "/api/my-cases/found?words=%00"):
            with self.subTest(address):
                answer = client.get(address)
                self.assertEqual((answer.status_code, answer.json()["title"]), (422, "This cannot be taken"))
