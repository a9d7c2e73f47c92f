"""Every right of a mandate on every route over a draft or a case of the owner's: before it is accepted, within it, after it ended."""

from __future__ import annotations

from datetime import timedelta

from fastapi.testclient import TestClient

from jolly_clerk.core.mandates import MANDATE_RIGHTS
from jolly_clerk.office.people.directory import add_person, person
from jolly_clerk.office.preparing import mandates
from tests.web import test_table as table
from tests.web import test_table_invited as invited

#: by which right of a mandate somebody does what an invited person does by another
ALLOWS = {"fill": "prepare", "attach": "prepare", "sign": "file", "answer": "file", "pay": "pay"}
#: what an agent does and an invited person never
MORE = {("post", "/api/drafts/{draft}/filing"): "file"}
NEEDS = {route: ALLOWS.get(right, right) for route, right in invited.NEEDS.items()} | MORE


class TableAgent(invited.TableInvited):
    """The rows of somebody with a mandate."""

    def test_the_rows(self) -> None:
        rows = 0
        for right in (*MANDATE_RIGHTS, "offered", "ended"):
            at, client = "", None
            for method, path in sorted(NEEDS, key=lambda route: (table.STAGES.get(route, "filed"), route)):
                stage = table.STAGES.get((method, path), "filed")
                if stage != at or client is None:
                    self.begin(stage)
                    at, client = stage, self.agent(right)
                answer = self.as_ada(client, method, path)
                rows += 1
                needed = NEEDS[method, path]
                success = 204 if (method, path) in table.EMPTY else 201 if method == "post" and path in table.CREATED else 200
                without = right in ("offered", "ended")
                allowed = not without and needed in ("look", right)
                hidden = without or (needed == "pay" and "{key}" in path and not allowed)  # a payment of another is not there
                with self.subTest(method=method, path=path, right=right):
                    self.assertEqual(answer.status_code, success if allowed else 404 if hidden else 403, answer.text[:200])
                if method != "get" and answer.status_code < 300:
                    at = ""
        print(f"{rows} rows: route, right of a mandate")
        self.assertEqual(rows, len(NEEDS) * (len(MANDATE_RIGHTS) + 2))

    def agent(self, right: str) -> TestClient:
        add_person(self.office, "ada", "Ada Marsh", "applicant", invited.ADA)
        rights = list(MANDATE_RIGHTS) if right in ("offered", "ended") else [right]
        (one,) = mandates.give(self.office, self.odalys, invited.ADA, "Ada Marsh", rights)
        if right != "offered":
            mandates.accept(self.office, person(self.office, "ada"), one.id)
        if right == "ended":
            mandates.end(self.office, self.odalys, one.id)
        self.instant += timedelta(minutes=3)  # nobody writes any more
        return self.client("ada")
