"""Every right of an invited person on every route over a draft or a case of the applicant's, and after the invitation has ended."""

from __future__ import annotations

import base64
from datetime import timedelta
from typing import Any, ClassVar

from httpx2 import Client

from jolly_clerk.core.sharing import RIGHTS, Right
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import inviting
from tests.web import test_table as table
from tests.web.rows import CREATED, EMPTY, STAGES

#: what each route needs, beside looking; *owner* is nobody's who was only invited
NEEDS: dict[tuple[str, str], Right | str] = {
    ("get", "/api/drafts/{draft}"): "look",
    ("put", "/api/drafts/{draft}"): "fill",
    ("delete", "/api/drafts/{draft}"): "owner",
    ("post", "/api/drafts/{draft}/files"): "attach",
    ("delete", "/api/drafts/{draft}/files/{attachment}"): "attach",
    ("get", "/api/drafts/{draft}/files/{attachment}"): "look",
    ("post", "/api/drafts/{draft}/signature"): "sign",
    ("delete", "/api/drafts/{draft}/signature"): "sign",
    ("put", "/api/drafts/{draft}/declarations/{declaration}"): "sign",
    ("post", "/api/drafts/{draft}/filing"): "owner",
    ("get", "/api/drafts/{draft}/registers/{name}"): "look",
    ("get", "/api/drafts/{draft}/registers/{name}/map"): "look",
    ("get", "/api/drafts/{draft}/registers/{name}/map.geojson"): "look",
    ("get", "/api/drafts/{draft}/registers/{name}/map/point"): "look",
    ("post", "/api/drafts/{draft}/registers/{name}"): "fill",
    ("post", "/api/uploads"): "attach",
    ("get", "/api/drafts/{draft}/pile"): "look",
    ("post", "/api/drafts/{draft}/pile"): "attach",
    ("post", "/api/drafts/{draft}/pile/{piece}/cut"): "attach",
    ("post", "/api/drafts/{draft}/pile/{piece}/joined"): "attach",
    ("delete", "/api/drafts/{draft}/pile/{piece}"): "attach",
    ("get", "/api/drafts/{draft}/pile/{item}/content"): "look",
    ("post", "/api/drafts/{draft}/exchanged"): "attach",
    ("get", "/api/drafts/{draft}/forms/{slot}"): "look",
    ("post", "/api/drafts/{draft}/dockets"): "attach",
    ("delete", "/api/drafts/{draft}/dockets/{docket}"): "attach",
    ("get", "/api/drafts/{draft}/dockets/{docket}"): "look",
    ("get", "/api/cases/{reference}/dockets/{docket}"): "look",
    ("put", "/api/drafts/{draft}/files/{attachment}"): "attach",
    ("get", "/api/drafts/{draft}/parts/{part}/earlier"): "look",
    ("get", "/api/drafts/{draft}/signing-sheet"): "look",
    ("post", "/api/drafts/{draft}/signing-sheet"): "sign",
    ("post", "/api/drafts/{draft}/remade"): "attach",
    ("delete", "/api/drafts/{draft}/remade/{attachment}"): "attach",
    ("post", "/api/drafts/{draft}/parts/{part}/rows"): "fill",
    ("get", "/api/drafts/{draft}/parts/{part}/table.{kind}"): "look",
    ("post", "/api/drafts/{draft}/offer"): "owner",
    ("delete", "/api/drafts/{draft}/offer"): "owner",
    ("get", "/api/invitations"): "owner",
    ("post", "/api/invitations"): "owner",
    ("get", "/api/issuers"): "look",
    ("post", "/api/issuers"): "owner",
    ("put", "/api/drafts/{draft}/parts/{part}/writer"): "owner",
    ("post", "/api/drafts/{draft}/answers"): "answer",
    ("get", "/api/cases/{reference}"): "look",
    ("get", "/api/cases/{reference}/papers/{no}"): "look",
    ("get", "/api/cases/{reference}/files/{sha256}"): "look",
    ("get", "/api/cases/{reference}/summary"): "look",
    ("get", "/api/cases/{reference}/due.ics"): "look",
    ("post", "/api/cases/{reference}/answering"): "answer",
    ("get", "/api/cases/{reference}/permit"): "look",
    ("get", "/api/cases/{reference}/permit/hours"): "look",
    ("post", "/api/cases/{reference}/permit/steps/{step}"): "owner",
    ("post", "/api/cases/{reference}/permit/inspections"): "answer",
    ("delete", "/api/cases/{reference}/permit/inspections/{no}"): "answer",
    ("post", "/api/cases/{reference}/later"): "owner",
    ("post", "/api/cases/{reference}/additions"): "owner",
    ("post", "/api/drafts/{draft}/addition"): "owner",
    ("post", "/api/cases/{reference}/payments"): "pay",
    ("get", "/api/cases/{reference}/payment-slip"): "look",
    ("post", "/api/terminal/{key}"): "pay",
    ("post", "/api/cases/{reference}/messages"): "owner",
    ("post", "/api/cases/{reference}/more-time"): "owner",
    ("post", "/api/cases/{reference}/withdrawal"): "owner",
    ("post", "/api/cases/{reference}/taking-back"): "owner",
}
ADA = "ada@marsh.example"


class TableInvited(table.TableApplicant):  # type: ignore[misc,name-defined]
    """The rows of somebody who was invited; a class below has those of somebody else who works in a filing of others."""

    needs: ClassVar[dict[tuple[str, str], str]] = NEEDS  # type: ignore[assignment]
    #: the rights, and the states in which none of them holds
    rights: ClassVar[tuple[str, ...]] = RIGHTS
    without: ClassVar[tuple[str, ...]] = ("ended",)
    of_whom = "an invited person"

    def test_the_rows(self) -> None:
        rows = 0
        for right in (*self.rights, *self.without):
            at, client = "", None
            for method, path in sorted(self.needs, key=lambda route: (STAGES.get(route, "filed"), route)):
                stage = STAGES.get((method, path), "filed")
                if stage != at or client is None:
                    self.begin(stage)
                    at, client = stage, self.somebody(right)
                answer = self.as_ada(client, method, path)
                rows += 1
                needed = self.needs[method, path]
                success = 204 if (method, path) in EMPTY else 201 if method == "post" and path in CREATED else 200
                allowed = right not in self.without and needed in ("look", right)
                hidden = right in self.without or (needed == "pay" and "{key}" in path)  # a payment of another is not there
                with self.subTest(method=method, path=path, right=right):
                    self.assertEqual(answer.status_code, success if allowed else 404 if hidden else 403, answer.text[:200])
                if method != "get" and answer.status_code < 300:
                    at = ""
        print(f"{rows} rows: route, right of {self.of_whom}")
        self.assertEqual(rows, len(self.needs) * (len(self.rights) + len(self.without)))

    def somebody(self, right: str) -> Client:
        add_person(self.office, "ada", "Ada Marsh", "applicant", ADA)
        for of in (self.names["draft"], self.names["reference"]):
            rights = ["look"] if right == "ended" else [right]
            (one,) = inviting.invite(self.office, self.odalys, of, ADA, "Ada Marsh", rights)
            if right == "ended":
                inviting.end(self.office, self.odalys, one.id)
            elif of == self.names["draft"] and inviting.invitations(self.office, self.odalys, self.names["reference"]):
                break  # answers in a case: it is one invitation for both
        self.instant += timedelta(minutes=3)  # nobody writes any more
        return self.client("ada")

    def as_ada(self, client: Client, method: str, path: str) -> Any:
        if (method, path) == ("put", "/api/drafts/{draft}"):
            return client.put(path.format(**self.names), json={"answers": {"works": {"area": "9"}}})
        if path == "/api/uploads":
            told = ",".join(
                f"{key} {base64.b64encode(value.encode()).decode()}"
                for key, value in (("draft", self.names["draft"]), ("slot", "sections"), ("name", "x.pdf"))
            )
            headers = {"Tus-Resumable": "1.0.0", "Upload-Length": "9", "Upload-Metadata": told}
            return client.post(path, headers=headers)
        return self.ask(client, method, path)
