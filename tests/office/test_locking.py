"""Answers, files and declarations that stay as they were filed while a letter is answered that does not name them."""

from __future__ import annotations

from datetime import date

from jolly_clerk.core import history as h
from jolly_clerk.core.dossier.model import Declared, Dossier
from jolly_clerk.core.lifecycle import fold
from jolly_clerk.core.locking import breaks_lock, locked_places
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.preparing import answering, attaching, drafts, signing
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file
from tests.helpers import EDITION, answers, at
from tests.office.test_endings import Endings
from tests.office.test_journey import ROOF, SMALL_PLAN

WHO = {"who": "o", "role": "officer"}
STALLS = [{"id": "1", "pitch": "F-07", "frontage": "2.5"}, {"id": "2", "pitch": "F-08", "frontage": "2.5"}]


def asked(requirement: str, *places: str, answered: bool = False):  # type: ignore[no-untyped-def]
    """The round of a letter with one point."""
    point = h.AskedPoint(no=1, requirement=requirement, title="-", text="-", places=places)
    sent = h.LetterSent(at=at(2026, 11, 12), **WHO, round=1, version=1, points=(point,), due=date(2026, 12, 14))  # type: ignore[arg-type]
    entries: list[h.Entry] = [sent]
    if answered:
        entries.append(h.Answered(at=at(2026, 11, 20), who="o", role="applicant", round=1, version=2))
    return fold(entries).round


def shipped(kind: str, day: str) -> Rulebook:
    return read_rulebook_file(SHIPPED / kind / f"{day}.yaml").rulebook


class Locked(Endings):
    def test_the_stalls_of_a_licence_stay_where_they_are(self) -> None:
        rules, base = shipped("TL", "2026-04-01"), Dossier(answers={"trade": {"table": "yes"}, "stalls": STALLS})
        all_of_them = {"stalls", *(f"stalls.{n}.{q}" for n in (1, 2) for q in ("pitch", "frontage"))}
        self.assertEqual(set(locked_places(rules, base, asked("documents.identity", "documents.identity"))), all_of_them)
        # a point that names one of them, its stall, the part, or whose rule reads it, opens what it names
        self.assertEqual(
            set(locked_places(rules, base, asked("answer.stalls.1.pitch", "stalls.1.pitch"))), all_of_them - {"stalls.1.pitch"}
        )
        self.assertEqual(
            set(locked_places(rules, base, asked("x", "stalls.2"))), all_of_them - {"stalls.2.pitch", "stalls.2.frontage"}
        )
        self.assertEqual(locked_places(rules, base, asked("x", "stalls")), ())
        by_rule = set(locked_places(rules, base, asked("front-fits.1", "documents.sketch")))
        self.assertEqual(by_rule, {"stalls", "stalls.1.pitch", "stalls.2.pitch"})
        # not while none is answered
        self.assertEqual(locked_places(rules, base, None), ())
        self.assertEqual(locked_places(rules, base, asked("x", "documents.identity", answered=True)), ())

    def test_what_breaks_it_and_what_does_not(self) -> None:
        rules, base = shipped("TL", "2026-04-01"), Dossier(answers={"trade": {"table": "yes"}, "stalls": STALLS})
        locked = locked_places(rules, base, asked("documents.identity", "documents.identity"))

        def broken(stalls: list[dict[str, str]], before: Dossier = base, **trade: str) -> str:
            found = breaks_lock(
                rules, locked, base, before, Dossier(answers={"trade": {"table": "yes", **trade}, "stalls": stalls})
            )
            return found.place if found else ""

        self.assertEqual(broken(STALLS, table="no"), "")  # an open part
        self.assertEqual(broken([STALLS[0] | {"pitch": "F-09"}, STALLS[1]]), "stalls.1.pitch")
        self.assertEqual(broken(STALLS[:1]), "stalls.2.frontage")  # taken away
        self.assertEqual(broken([*STALLS, {"id": "3", "pitch": "F-11"}]), "stalls.3.pitch")  # one more
        self.assertEqual(broken([STALLS[0] | {"power": "yes"}, STALLS[1]]), "")  # what was not answered is open
        # what stood in the draft already is not held against a change elsewhere, and may be put back
        other = Dossier(answers={"trade": {"table": "yes"}, "stalls": [STALLS[0] | {"pitch": "F-09"}, STALLS[1]]})
        self.assertEqual(broken([STALLS[0] | {"pitch": "F-09"}, STALLS[1]], other, table="no"), "")
        self.assertEqual(broken(STALLS, other), "")

    def test_the_claims_of_an_invention(self) -> None:
        rules = shipped("IP", "2026-01-01")
        base = Dossier(answers={"count": {"claims": "10", "independent": "2"}, "invention": {"title": "A tap"}})
        self.assertEqual(set(locked_places(rules, base, asked("documents.abstract", "documents.abstract"))), {"count.claims", "count.independent"})  # fmt: skip
        self.assertNotIn("count.claims", locked_places(rules, base, asked("claims-agree", "documents.claims")))
        self.assertEqual(locked_places(rules, base, asked("claims-fit", "documents.claims")), ())

    def test_a_declaration_that_was_given(self) -> None:
        rules = shipped("BW", "2026-07-01")
        base = Dossier(declared=(Declared(id="works", text="-", at=at(2026, 11, 5)),))
        self.assertEqual(locked_places(rules, base, asked("x", "works.area")), ("declarations.works",))
        self.assertEqual(locked_places(rules, base, asked("declarations.works", "declarations.works")), ())

    def test_over_the_counter(self) -> None:
        """A part and a slot of building works locked, answered through the office."""
        text = EDITION.read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-07-02", 1)
        text = text.replace("  - id: service\n    title: ", "  - id: service\n    outside_points: locked\n    title: ", 1)
        text = text.replace("  - slot: sections\n", "  - slot: sections\n    outside_points: locked\n", 1)
        file = self.folder / "BW" / "2026-07-02.yaml"
        file.parent.mkdir()
        file.write_text(text, "utf-8")
        publish(self.office, file)
        reference = self.paid()
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "documents.site_plan", "wanting")
        checking.send_letter(self.office, self.imre, reference)
        draft = answering.begin_answering(self.office, self.odalys, reference)
        found = drafts.open_draft(self.office, self.odalys, draft)
        self.assertEqual(set(found.assessment.locked), {"service.speed", "documents.sections"})
        with self.assertRaises(Invalid) as caught:
            drafts.keep(self.office, self.odalys, draft, None, answers(service_speed="fast"))
        self.assertEqual((caught.exception.place, str(caught.exception)), ("service.speed", "“The service, Which service do you want?” was not asked about; it stays as it was filed."))  # fmt: skip
        drafts.keep(self.office, self.odalys, draft, None, answers(works_area="80"))  # open, and flagged
        roof = next(a for a in found.dossier.attachments if a.slot == "sections")
        for change in (
            lambda: attaching.detach(self.office, self.odalys, draft, roof.id),
            lambda: attaching.attach(self.office, self.odalys, draft, "sections", "more.pdf", ROOF),
        ):
            with self.assertRaises(Invalid):
                change()
        attaching.attach(self.office, self.odalys, draft, "site_plan", "plan-2.pdf", SMALL_PLAN)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        answering.send_answers(self.office, self.odalys, draft)
