"""A document that was lost is replaced by another one with a code of its own; the code before counts no more."""

from __future__ import annotations

from typing import Any

from jolly_clerk.office.desk import reviewing
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.post.papers import paper
from jolly_clerk.office.preparing import filing, signing
from jolly_clerk.office.views.case import look_at
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Outgoing
from tests.office.test_journey import text_of
from tests.office.test_permit_steps import OnPermits


class LostDocuments(OnPermits):
    def test_a_lost_document_is_replaced_and_its_code_counts_no_more(self) -> None:
        licence = self.granted("TL")
        first = self.loaded(licence).case.permit_code
        assert first
        lost = {"lost": {"how": "stolen", "when": self.today().isoformat()}}
        step = self.replaced(licence, lost)
        self.assertEqual("Granted", self.loaded(step).assessment.state)  # paid, and nobody had to look
        after = self.loaded(licence)
        second = after.case.permit_code
        assert second
        self.assertNotEqual(first, second)
        old, new = (reviewing.check_permit(self.office, code) for code in (first, second))
        self.assertIn("was replaced by another one", old.stands)
        self.assertEqual(((), licence, licence), (old.says, old.reference, new.reference))
        self.assertNotIn("replaced", new.stands)
        self.assertTrue(new.says)
        (told,) = (m for m in look_at(self.office, self.odalys, licence).story if "a new document" in m.text)
        name, document = paper(self.office, after, told.no)
        self.assertEqual(("permit", f"{licence}-permit.pdf"), (told.paper, name))
        self.assertIn(second, text_of(document))
        self.assertNotIn(first, text_of(document))
        with read_session(self.office.engine) as session:
            self.assertIsNotNone(session.get(Outgoing, f"{step}-document"))
        third = self.replaced(licence, lost)
        self.assertIn("was replaced", reviewing.check_permit(self.office, second).stands)
        self.assertEqual([], [line for one in (licence, step, third) for line in verify(self.office, one)])

    def replaced(self, licence: str, lost: dict[str, dict[str, Any]]) -> str:
        """Another document filed, declared and paid."""
        draft = self.prepared(licence, "TD", lost)
        signing.declare(self.office, self.odalys, draft, "handed_in", True)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        step = filing.file(self.office, self.odalys, draft)
        self.pay(step)
        return step
