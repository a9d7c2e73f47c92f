"""The files of the front end: packed for whoever takes that, as they are for everybody else, and known again."""

from __future__ import annotations

import gzip
import unittest

from fastapi import FastAPI
from fastapi.testclient import TestClient

from jolly_clerk.web.app import STATIC
from jolly_clerk.web.assets import Assets
from tests.folders import new_folder

SCRIPT = b"say('Good morning');\n" * 200


class Packed(unittest.TestCase):
    def setUp(self) -> None:
        folder = new_folder()
        (folder / "page.js").write_bytes(SCRIPT)
        (folder / "page.js.gz").write_bytes(gzip.compress(SCRIPT))
        (folder / "small.js").write_bytes(b"1")
        app = FastAPI()
        app.mount("/assets", Assets(directory=folder))
        self.client = TestClient(app)

    def test_the_packed_file_goes_to_whoever_takes_it(self) -> None:
        answer = self.client.get("/assets/page.js", headers={"Accept-Encoding": "gzip, br"})
        self.assertEqual(SCRIPT, answer.content)
        self.assertEqual("gzip", answer.headers["Content-Encoding"])
        self.assertEqual("Accept-Encoding", answer.headers["Vary"])
        self.assertLess(int(answer.headers["Content-Length"]), len(SCRIPT) // 10)
        self.assertTrue(answer.headers["Content-Type"].startswith("text/javascript"), answer.headers)
        again = {"Accept-Encoding": "gzip", "If-None-Match": answer.headers["ETag"]}
        self.assertEqual(304, self.client.get("/assets/page.js", headers=again).status_code)

    def test_others_get_it_as_it_is(self) -> None:
        answer = self.client.get("/assets/page.js", headers={"Accept-Encoding": "identity"})
        self.assertEqual(SCRIPT, answer.content)
        self.assertNotIn("Content-Encoding", answer.headers)
        self.assertEqual(b"1", self.client.get("/assets/small.js", headers={"Accept-Encoding": "gzip"}).content)

    def test_what_is_built_is_packed(self) -> None:
        largest = max((STATIC / "assets").glob("*.js"), key=lambda file: file.stat().st_size)
        self.assertEqual(largest.read_bytes(), gzip.decompress(largest.with_name(f"{largest.name}.gz").read_bytes()))
