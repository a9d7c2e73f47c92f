"""Every right of a mandate on every route over a draft or a case of the owner's: before it is accepted, within it, after it ended."""

from __future__ import annotations

from datetime import timedelta

from httpx2 import Client

from jolly_clerk.core.mandates import MANDATE_RIGHTS
from jolly_clerk.office.people.directory import add_person, person
from jolly_clerk.office.preparing import mandates
from tests.web import test_table_invited as invited

#: by which right of a mandate somebody does what an invited person does by another
ALLOWS = {"fill": "prepare", "attach": "prepare", "sign": "file", "answer": "file", "pay": "pay"}
#: what an agent does and an invited person never
LATER = "/api/cases/{reference}/later", "/api/cases/{reference}/additions", "/api/drafts/{draft}/addition"
MORE = dict.fromkeys([("post", path) for path in ("/api/drafts/{draft}/filing", *LATER)], "file")
MORE |= {("post", "/api/cases/{reference}/permit/steps/{step}"): "prepare"}
NEEDS = {route: ALLOWS.get(right, right) for route, right in invited.NEEDS.items()} | MORE


class TableAgent(invited.TableInvited):
    """The rows of somebody with a mandate."""

    needs = NEEDS
    rights = MANDATE_RIGHTS
    without = ("offered", "ended")
    of_whom = "a mandate"

    def somebody(self, right: str) -> Client:
        add_person(self.office, "ada", "Ada Marsh", "applicant", invited.ADA)
        rights = list(MANDATE_RIGHTS) if right in self.without else [right]
        (one,) = mandates.give(self.office, self.odalys, invited.ADA, "Ada Marsh", rights)
        if right != "offered":
            mandates.accept(self.office, person(self.office, "ada"), one.id)
        if right == "ended":
            mandates.end(self.office, self.odalys, one.id)
        self.instant += timedelta(minutes=3)  # nobody writes any more
        return self.client("ada")
