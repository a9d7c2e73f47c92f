"""People and firms that a register knows are looked for by name and filled in, also into one repeat of a part."""

from __future__ import annotations

import shutil

from jolly_clerk.core.form_views import altered
from jolly_clerk.demo.lay import REGISTERS
from jolly_clerk.office.desk.registers import search
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.preparing import drafts, prefilling
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.helpers import OfficeTest


class ByName(OfficeTest):
    def setUp(self) -> None:
        super().setUp()
        shutil.copytree(REGISTERS, self.folder / "registers", dirs_exist_ok=True)
        for edition in ("TL/2026-04-01.yaml", "IP/2026-01-01.yaml"):
            publish(self.office, SHIPPED / edition)
        text = (SHIPPED / "BW" / "2026-07-01.yaml").read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-07-02", 1)
        (self.folder / "BW").mkdir(exist_ok=True)
        (self.folder / "BW" / "2026-07-02.yaml").write_text(text, "utf-8")
        publish(self.office, self.folder / "BW" / "2026-07-02.yaml", SHIPPED / "calendars" / "quillhaven.yaml")

    def begin(self, kind: str, **answers: object) -> str:
        return drafts.start_draft(self.office, self.odalys, kind, dict(answers))

    def test_a_builder_goes_into_the_repeat_that_was_meant(self) -> None:
        draft = self.begin("BW", people=[{"id": 1, "name": "Ada Skerry"}, {"id": 2}])
        rules = drafts.open_draft(self.office, self.odalys, draft).rulebook
        found = search(self.office, rules, "builders", "tarn daughters", "odalys")
        self.assertEqual([row["number"] for row in found.rows], ["B-034"])
        self.assertNotIn("remark", found.rows[0], "what is the office's alone is not told")
        done = prefilling.take_over(self.office, self.odalys, draft, "builders", "B-034", item=2).dossier
        self.assertEqual(done.answers["people"][0], {"id": 1, "name": "Ada Skerry"})
        self.assertEqual(done.answers["people"][1], {"id": 2, "name": "Tarn and Daughters", "number": "B-034"})
        done = prefilling.take_over(self.office, self.odalys, draft, "builders", "B-017", item=1).dossier
        sources = {p.place: p.key for p in done.prefilled if p.source == "builders"}
        self.assertEqual(sources["people.1.name"], "B-017")
        self.assertEqual(sources["people.2.name"], "B-034", "one repeat does not take the source of another")
        changed = {**done.answers, "people": [done.answers["people"][0], {"id": 2, "name": "Tarn", "number": "B-034"}]}
        now = drafts.keep(self.office, self.odalys, draft, None, answers=changed)
        self.assertEqual(
            [(a.place, a.was) for a in altered(now.rulebook, now.dossier)], [("people.2.name", "Tarn and Daughters")]
        )

    def test_what_is_not_there_is_refused(self) -> None:
        draft = self.begin("BW", people=[{"id": 1}])
        for item in (0, 2, 999):
            with self.subTest(item=item), self.assertRaises(Invalid):
                prefilling.take_over(self.office, self.odalys, draft, "builders", "B-034", item=item)
        with self.assertRaises(Invalid):
            prefilling.take_over(self.office, self.odalys, draft, "plots", "Q-88", item=1)
        with self.assertRaises(NotFound):
            prefilling.take_over(self.office, self.odalys, draft, "builders", "B-999", item=1)

    def test_charities_and_agents(self) -> None:
        stall = self.begin("TL", holder={"charity": True})
        done = prefilling.take_over(self.office, self.odalys, stall, "charities", "C-009").dossier
        self.assertEqual(done.answers["holder"]["charity_number"], "C-009")
        patent = self.begin("IP", applicant={"agent": True})
        done = prefilling.take_over(self.office, self.odalys, patent, "agents", "A-103").dossier
        self.assertEqual(done.answers["applicant"]["agent_name"], "Tom Ashby")
        self.assertEqual(done.answers["applicant"]["agent_number"], "A-103")
