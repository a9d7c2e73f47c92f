"""Uploads by tus: begun with their size, gone on with where they broke off, attached when whole, refused before they are sent."""

from __future__ import annotations

import base64
import fcntl
import hashlib
from datetime import timedelta
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import func, select

from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.preparing import drafts, uploading
from jolly_clerk.store.beside import Upload
from jolly_clerk.store.database import read_session
from tests.office.test_journey import PLAN
from tests.web.test_web import WebTest

#: long enough for several pieces
LONG = PLAN + b"%" * 20_000
PIECES = "application/offset+octet-stream"


class Uploads(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.applicant = self.window("odalys")
        self.draft = drafts.start_draft(self.office, self.odalys, "BW")

    def window(self, person: str) -> TestClient:
        client = self.client(person)
        client.headers["Tus-Resumable"] = "1.0.0"
        return client

    def begin(self, length: int, slot: str = "site_plan", name: str = "plan.pdf", draft: str = "") -> Any:
        told = {"draft": draft or self.draft, "slot": slot, "name": name}
        metadata = ",".join(f"{key} {base64.b64encode(value.encode()).decode()}" for key, value in told.items())
        return self.applicant.post("/api/uploads", headers={"Upload-Length": str(length), "Upload-Metadata": metadata})

    def send(self, where: str, offset: int, content: bytes, client: TestClient | None = None) -> Any:
        headers = {"Upload-Offset": str(offset), "Content-Type": PIECES}
        return (client or self.applicant).patch(where, content=content, headers=headers)

    def files(self) -> list[tuple[str, str]]:
        dossier = drafts.open_draft(self.office, self.odalys, self.draft).dossier
        return [(a.name, a.sha256) for a in dossier.attachments]

    def test_in_one_piece_and_in_many(self) -> None:
        for size in (len(PLAN), 7_000):
            content = PLAN + b"%%%d" % size
            where = self.begin(len(content), name=f"{size}.pdf").headers["location"]
            for at in range(0, len(content), size):
                answer = self.send(where, at, content[at : at + size])
                self.assertEqual(answer.status_code, 204)
                self.assertEqual(int(answer.headers["upload-offset"]), min(at + size, len(content)))
            self.assertEqual(self.files()[-1], (f"{size}.pdf", hashlib.sha256(content).hexdigest()))
            self.assertEqual(self.applicant.head(where).status_code, 404, "it is over")
        self.assertEqual(list((self.folder / "uploads").iterdir()), [])

    def test_one_that_broke_off_goes_on_where_it_stopped(self) -> None:
        where = self.begin(len(LONG)).headers["location"]

        def broken() -> Any:
            yield LONG[:5_000]
            raise ConnectionError

        try:
            self.applicant.patch(where, content=broken(), headers={"Upload-Offset": "0", "Content-Type": PIECES})
        except ConnectionError:
            pass
        came = int(self.applicant.head(where).headers["upload-offset"])
        self.assertIn(came, (0, 5_000))
        self.assertEqual(self.send(where, came, LONG[came:9_000]).status_code, 204)
        told = self.applicant.head(where).headers
        self.assertEqual(
            (told["upload-offset"], told["upload-length"], told["cache-control"]), ("9000", str(len(LONG)), "no-store")
        )
        self.assertEqual(self.send(where, 5_000, LONG[5_000:]).status_code, 409)
        self.assertEqual(self.files(), [])
        self.assertEqual(self.send(where, 9_000, LONG[9_000:]).status_code, 204)
        self.assertEqual(self.files(), [("plan.pdf", hashlib.sha256(LONG).hexdigest())])

    def test_what_is_too_large_is_refused_before_it_is_sent(self) -> None:
        slot = self.begin(30_000_000)
        self.assertEqual((slot.status_code, slot.json()["place"]), (413, "documents.site_plan"))
        self.assertIn("“plan.pdf” has 30.0 MB; at most 20 MB is taken here.", slot.json()["detail"])
        self.assertEqual(self.begin(200_000_000).status_code, 413)
        where = self.begin(100).headers["location"]
        self.assertEqual(self.send(where, 0, b"x" * 101).status_code, 422)
        self.office.settings.most_upload_mb = 1
        header = self.applicant.patch(where, content=b"x" * 1_200_000, headers={"Upload-Offset": "0", "Content-Type": PIECES})
        self.assertEqual(header.status_code, 413)

    def test_what_cannot_be_begun(self) -> None:
        for answer, status in (
            (self.begin(10, slot="cellar"), 422),
            (self.begin(10, draft="nothing"), 404),
            (self.begin(-1), 422),
            (self.applicant.post("/api/uploads", headers={"Upload-Length": "1", "Upload-Metadata": "draft ???"}), 422),
            (self.applicant.post("/api/uploads", headers={"Upload-Length": "1"}), 422),
            (
                self.applicant.post(
                    "/api/uploads", headers={"Upload-Length": "1", "Upload-Metadata": "", "Tus-Resumable": "0.2"}
                ),
                412,
            ),
            (self.window("imre").post("/api/uploads", headers={"Upload-Length": "1", "Upload-Metadata": ""}), 403),
        ):
            self.assertEqual(answer.status_code, status, answer.text)
        nobody = self.client()
        self.assertEqual(nobody.post("/api/uploads", headers={"Tus-Resumable": "1.0.0", "Upload-Length": "1"}).status_code, 401)

    def test_only_ones_own(self) -> None:
        where = self.begin(10).headers["location"]
        other = self.window("tamsin")
        self.assertEqual(other.head(where).status_code, 404)
        self.assertEqual(self.send(where, 0, b"x", other).status_code, 404)
        self.assertEqual(other.delete(where).status_code, 404)
        wrong = self.applicant.patch(where, content=b"x", headers={"Upload-Offset": "0", "Content-Type": "text/plain"})
        self.assertEqual(wrong.status_code, 415)
        self.assertEqual(self.applicant.delete(where).status_code, 204)
        self.assertEqual(self.applicant.head(where).status_code, 404)

    def test_two_pieces_at_once_are_not_mixed(self) -> None:
        where = self.begin(10).headers["location"]
        file = self.folder / "uploads" / where.rpartition("/")[2]
        with file.open("ab") as held:
            fcntl.flock(held, fcntl.LOCK_EX)
            self.assertEqual(self.send(where, 0, b"x").status_code, 409)
        self.assertEqual(self.send(where, 0, b"x").status_code, 204)

    def test_what_a_slot_does_not_take_ends_the_upload_with_its_reason(self) -> None:
        for status in (204, 422):
            where = self.begin(len(PLAN)).headers["location"]
            answer = self.send(where, 0, PLAN)
            self.assertEqual(answer.status_code, status)
        self.assertIn("is in this slot already", answer.json()["detail"])
        self.assertEqual(self.applicant.head(where).status_code, 404)

    def test_an_empty_file_arrives_as_well(self) -> None:
        """It is whole when it is begun: no piece of it follows."""
        where = self.begin(0, name="empty.pdf").headers["location"]
        self.assertEqual([name for name, _ in self.files()], ["empty.pdf"])
        self.assertEqual(self.applicant.head(where).status_code, 404, "it is over")
        self.assertEqual(list((self.folder / "uploads").iterdir()), [])

    def test_so_many_are_under_way_and_old_ones_are_given_up(self) -> None:
        for _ in range(uploading.MOST_UNDER_WAY):
            self.assertEqual(self.begin(10).status_code, 201)
        self.assertEqual(self.begin(10).status_code, 429)
        self.instant += timedelta(days=2)
        run_clock(self.office)
        with read_session(self.office.engine) as session:
            self.assertEqual(session.scalar(select(func.count()).select_from(Upload)), 0)
