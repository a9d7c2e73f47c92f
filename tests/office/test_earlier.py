"""What was named in earlier filings is offered where it fits, once, and comes with its source; nothing of anybody else's."""

from __future__ import annotations

from pathlib import Path

from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Who
from jolly_clerk.office.preparing import drafts, earlier, filing, signing
from jolly_clerk.office.rules.rulebooks import publish
from tests.helpers import ROOT
from tests.office.test_journey import Cases

QV, IP = (ROOT / "rulebooks" / kind for kind in ("QV", "IP"))
PERSONS = [
    {"id": 1, "name": "Ines Marrow", "born": "1990-02-03"},
    {"id": 2, "name": "Odo Fenn", "born": "1991-04-05", "minor": False},
]


def newest(folder: Path) -> Path:
    return sorted(folder.glob("2026*.yaml"))[-1]


class Earlier(Cases):
    def setUp(self) -> None:
        super().setUp()
        for kind in (QV, IP):
            publish(self.office, newest(kind))
        self.old = self.begin(self.odalys, "QV", PERSONS)
        self.new = self.begin(self.odalys, "QV", [])

    def begin(self, who: Who, kind: str, persons: list[dict[str, object]]) -> str:
        draft = drafts.start_draft(self.office, who, kind)
        part = "persons" if kind == "QV" else "inventors"
        drafts.keep(self.office, who, draft, None, answers={part: persons}, own_reference=f"mine-{kind}")
        return draft

    def offered(self, draft: str, part: str = "persons", who: Who | None = None) -> list[tuple[str, str]]:
        return [(one.label, one.called) for one in earlier.earlier(self.office, who or self.odalys, draft, part)]

    def test_each_once_with_its_source_and_the_answers_that_fit(self) -> None:
        self.begin(self.odalys, "QV", [{"id": 1, "name": "  odo   FENN "}])
        self.assertEqual(sorted(label.casefold() for label, _ in self.offered(self.new)), ["ines marrow", "odo fenn"])
        keys = [one.key for one in earlier.earlier(self.office, self.odalys, self.new, "persons") if one.label == "Ines Marrow"]
        done = earlier.pick(self.office, self.odalys, self.new, "persons", keys)
        (item,) = done.dossier.answers["persons"]
        self.assertEqual((item["name"], item["id"]), ("Ines Marrow", 1))
        sources = {p.place: (p.source, p.key) for p in done.dossier.prefilled if p.place.startswith("persons.")}
        self.assertEqual(sources["persons.1.name"], ("pattern", "mine-QV"))
        self.assertEqual(
            [label.casefold() for label, _ in self.offered(self.new)], ["odo fenn"]
        )  # who stands there is not offered
        with self.assertRaises(NotFound):
            earlier.pick(self.office, self.odalys, self.new, "persons", keys)

    def test_another_kind_takes_only_what_it_asks_too(self) -> None:
        patent = self.begin(self.odalys, "IP", [])
        self.assertEqual({label for label, _ in self.offered(patent, "inventors")}, {"Ines Marrow", "Odo Fenn"})
        keys = [one.key for one in earlier.earlier(self.office, self.odalys, patent, "inventors")]
        done = earlier.pick(self.office, self.odalys, patent, "inventors", keys)
        asked = done.rulebook.asked_in["inventors"] | {"id"}
        for item in done.dossier.answers["inventors"]:
            self.assertLessEqual(set(item), asked)

    def test_nothing_of_anybody_else_and_of_no_part_that_stands_once(self) -> None:
        other = self.begin(self.tamsin, "QV", [])
        self.assertEqual(self.offered(other, who=self.tamsin), [])
        for part in ("group", "nonsense"):
            with self.assertRaises(NotFound):
                self.offered(self.new, part)
        with self.assertRaises(NotFound):
            earlier.earlier(self.office, self.tamsin, self.new, "persons")

    def test_what_was_filed_is_offered_with_its_reference_and_too_many_are_refused(self) -> None:
        most = drafts.open_draft(self.office, self.odalys, self.new).rulebook.parts["persons"].at_most
        full = [{"id": n, "name": f"Somebody {n}"} for n in range(1, most + 1)]
        drafts.keep(self.office, self.odalys, self.new, None, answers={"persons": full})
        keys = [one.key for one in earlier.earlier(self.office, self.odalys, self.new, "persons")][:1]
        with self.assertRaises(Invalid):
            earlier.pick(self.office, self.odalys, self.new, "persons", keys)
        self.assertTrue(keys)
        signing.sign(self.office, self.odalys, self.old, "Odalys Renn")
        reference = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        self.assertNotIn(reference, [called for _, called in self.offered(self.new)])  # it names nobody who fits
