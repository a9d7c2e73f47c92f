"""The link of an issuer over HTTP: a file from nobody known is taken by a link that works, once, and by nothing else."""

from __future__ import annotations

from typing import Any

from fastapi.testclient import TestClient

from jolly_clerk.office.preparing import drafts, issuing
from jolly_clerk.web.app import create_app
from tests.office import test_issuers
from tests.office.test_issuers import LETTER


class Link(test_issuers.Asking):
    def setUp(self) -> None:
        super().setUp()
        self.client = TestClient(create_app(self.office))
        self.filing = self.empty()
        self.asked = self.ask(self.filing)
        self.secret = self.link()

    def send(self, secret: str, **form: str) -> Any:
        told = {"name": "Ross Hale", "firm": "Hale Surveys", "anyway": "true"} | form
        return self.client.post(f"/api/deliver/{secret}", data=told, files={"file": ("plan.pdf", LETTER, "application/pdf")})

    def test_it_works_once(self) -> None:
        wrong = "x" * 43
        self.assertEqual(self.client.get(f"/api/deliver/{wrong}").status_code, 404)
        self.assertEqual(self.client.post(f"/api/deliver/{wrong}/opened").status_code, 404)
        self.assertEqual(self.send(wrong).status_code, 401)  # not a byte is read for nobody
        self.assertEqual(self.client.get(f"/api/deliver/{self.secret}").json()["title"], "New workshop roof, 4 Saltern Slip")
        self.assertEqual(self.client.post(f"/api/deliver/{self.secret}/opened").status_code, 204)
        self.assertEqual(self.send(self.secret, firm=" ").status_code, 422)
        self.assertEqual(self.send(self.secret).status_code, 201)
        self.assertEqual(self.send(self.secret).status_code, 401)
        self.assertEqual(self.client.get(f"/api/deliver/{self.secret}").status_code, 404)
        files = drafts.open_draft(self.office, self.odalys, self.filing).dossier.attachments
        self.assertEqual([a.name for a in files if a.issuer], ["plan.pdf"])

    def test_too_much_is_refused_before_it_is_read(self) -> None:
        most = self.office.settings.most_upload_mb * 1_000_000
        headers = {"Content-Type": "multipart/form-data; boundary=x", "Content-Length": str(most * 2)}
        answer = self.client.post(f"/api/deliver/{self.secret}", content=b"x", headers=headers)
        self.assertEqual(answer.status_code, 413)

    def test_a_link_that_was_taken_back_is_none(self) -> None:
        issuing.take_back(self.office, self.odalys, self.asked.id)
        self.assertEqual(self.client.get(f"/api/deliver/{self.secret}").status_code, 404)
        self.assertEqual(self.send(self.secret).status_code, 401)
