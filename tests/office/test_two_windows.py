"""Two windows at once: what each changed is kept, and only where both changed the same thing the second is told."""

from __future__ import annotations

import unittest
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.core.conflicts import FEE, WHOLE, conflicting
from jolly_clerk.core.dossier.merging import merge, places, touched
from jolly_clerk.office.errors import Stale
from jolly_clerk.office.preparing import attaching, drafts, filing, signing
from tests.core.test_lifecycle import ASKED, BEGAN, CLOSED, FILED, PAID
from tests.core.test_requirements import judged
from tests.helpers import answers, at
from tests.office.test_journey import PLAN, ROOF, SMALL_PLAN, Cases


class Drafts(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.id = self.draft()

    def now(self) -> Any:
        return drafts.open_draft(self.office, self.odalys, self.id)

    def keep(self, seen: int, **changes: Any) -> Any:
        return drafts.keep(self.office, self.odalys, self.id, seen, answers(**changes))

    def test_different_answers_are_both_kept(self) -> None:
        seen = self.now().draft.revision
        self.keep(seen, works_area="50")
        self.keep(seen, place_plot="Q-9")
        kept = self.now().dossier.answers
        self.assertEqual((kept["works"]["area"], kept["place"]["plot"]), ("50", "Q-9"))

    def test_the_same_answer_is_told_with_its_place(self) -> None:
        seen = self.now().draft.revision
        self.keep(seen, works_area="50")
        with self.assertRaises(Stale) as caught:
            self.keep(seen, works_area="60")
        self.assertEqual(caught.exception.place, "works.area")
        self.assertEqual([r.place and r.place.label for r in caught.exception.reasons], ["The works, Floor area under it"])
        self.assertEqual(self.now().dossier.answers["works"]["area"], "50")
        self.keep(seen, works_area="50")  # both typed the same

    def test_a_file_and_an_answer_never_meet(self) -> None:
        seen = self.now().draft.revision
        attaching.attach(self.office, self.odalys, self.id, "consent", "consent.pdf", SMALL_PLAN, seen)
        signing.unsign(self.office, self.odalys, self.id, seen)
        kept = self.keep(seen, works_area="50")
        self.assertEqual(len(kept.dossier.attachments), 3)
        self.assertIsNone(kept.dossier.signature)

    def test_filing_needs_the_state_that_was_seen(self) -> None:
        seen = self.now().draft.revision
        self.keep(seen, works_area="50")
        signing.sign(self.office, self.odalys, self.id, "Odalys Renn")
        with self.assertRaises(Stale):
            filing.file(self.office, self.odalys, self.id, seen, take_gaps=True)
        with self.assertRaises(Stale):
            drafts.throw_away(self.office, self.odalys, self.id, seen)
        with self.assertRaises(Stale):
            self.keep(seen + 99, works_area="50")

    def test_files_put_in_and_taken_out_at_once_are_all_done(self) -> None:
        """Each change is made from what is read inside its own write."""
        made = [(f"{n}.pdf", PLAN + bytes([n])) for n in range(4)]
        for name, content in made:
            attaching.attach(self.office, self.odalys, self.id, "consent", name, content)
        old = [a.id for a in self.now().dossier.attachments if a.slot == "consent"]

        def work(n: int) -> None:
            if n < 4:
                attaching.detach(self.office, self.odalys, self.id, old[n])
            else:
                attaching.attach(self.office, self.odalys, self.id, "consent", f"new-{n}.pdf", ROOF + bytes([n]))

        with ThreadPoolExecutor(8) as pool:
            list(pool.map(work, range(8)))
        names = sorted(a.name for a in self.now().dossier.attachments if a.slot == "consent")
        self.assertEqual(names, [f"new-{n}.pdf" for n in range(4, 8)])

    def test_what_is_typed_beside_the_answers_is_merged_too(self) -> None:
        seen = self.now().draft.revision
        drafts.keep(self.office, self.odalys, self.id, seen, note="On foot.")
        drafts.keep(self.office, self.odalys, self.id, seen, own_reference="roof-5")
        drafts.keep(self.office, self.odalys, self.id, seen, words={1: "Here."})
        now = self.now()
        self.assertEqual((now.dossier.note, now.draft.own_reference, now.words), ("On foot.", "roof-5", {1: "Here."}))
        with self.assertRaises(Stale):
            drafts.keep(self.office, self.odalys, self.id, seen, note="By boat.")


PERSONS = [{"id": 1, "name": "Ines"}, {"id": 2, "name": "Tom"}]
RAW = st.one_of(st.none(), st.booleans(), st.sampled_from(["", "a", "b"]))
PART = st.dictionaries(st.sampled_from("pqr"), RAW, max_size=3)
ITEMS = st.lists(st.integers(1, 4), unique=True, max_size=4).flatmap(
    lambda ids: st.tuples(*(PART.map(lambda own, i=i: {**own, "id": i}) for i in ids)).map(list)
)
ANSWERS = st.fixed_dictionaries({}, optional={"one": PART, "two": PART, "persons": ITEMS})


class Merging(unittest.TestCase):
    def put(self, base: Any, theirs: Any, mine: Any) -> Any:
        return merge(mine, theirs, touched(base, theirs))

    def test_items_of_others_stay(self) -> None:
        base = {"persons": PERSONS}
        theirs = {"persons": [*PERSONS, {"id": 3, "name": "Nell"}]}
        mine = {"persons": [{"id": 1, "name": "Ines M."}, PERSONS[1]]}
        merged = self.put(base, theirs, mine)
        self.assertEqual(merged.conflicts, ())
        self.assertEqual([p["name"] for p in merged.answers["persons"]], ["Ines M.", "Tom", "Nell"])

    def test_an_item_taken_out_by_one_and_changed_by_the_other_is_a_conflict(self) -> None:
        theirs = {"persons": [PERSONS[0], {"id": 2, "name": "Thomas"}]}
        self.assertEqual(self.put({"persons": PERSONS}, theirs, {"persons": PERSONS[:1]}).conflicts, ("persons.2.name",))

    @given(ANSWERS, ANSWERS)
    def test_what_only_one_changed_is_as_that_one_says(self, base: Any, other: Any) -> None:
        self.assertEqual(places(self.put(base, other, base).answers), places(other))
        self.assertEqual(places(self.put(base, base, other).answers), places(other))

    @given(ANSWERS, ANSWERS, ANSWERS)
    def test_each_place_is_somebodys(self, base: Any, theirs: Any, mine: Any) -> None:
        merged = self.put(base, theirs, mine)
        seen, now, wanted, found = places(base), places(theirs), places(mine), places(merged.answers)
        for place in {*seen, *now, *wanted}:
            if place in merged.conflicts or place.rpartition(".")[0] in merged.conflicts:
                continue
            theirs_changed = seen.get(place, 0) != now.get(place, 0) or (place in seen) != (place in now)
            mine_changed = seen.get(place, 0) != wanted.get(place, 0) or (place in seen) != (place in wanted)
            if theirs_changed and not mine_changed:
                self.assertEqual((place in found, found.get(place)), (place in now, now.get(place)), place)
            elif not theirs_changed:
                self.assertEqual((place in found, found.get(place)), (place in wanted, wanted.get(place)), place)


class CaseConflicts(unittest.TestCase):
    """Which entries since a revision a change conflicts with."""

    def test_the_table(self) -> None:
        from jolly_clerk.core import history as h

        note = h.NoteWritten(at=at(2026, 11, 10), who="m", role="lead", text="x")
        word = h.PointWorded(at=at(2026, 11, 10), who="m", role="lead", requirement="may-act+plot-number", text="x")
        fee = h.FeeSet(at=at(2026, 11, 10), who="m", role="lead", line="permit", amount=1, was=2, reason="x")
        undone = h.Undone(at=at(2026, 11, 10), who="m", role="lead", of=(4,))
        start = (FILED, PAID, BEGAN)
        for entry, relies_on, conflicts in (
            (judged("may-act"), {"may-act"}, True),
            (judged("may-act"), {"plot-number"}, False),
            (judged("may-act"), {WHOLE}, True),
            (note, {WHOLE}, False),
            (word, {"plot-number"}, True),
            (word, {"signature"}, False),
            (fee, {FEE}, True),
            (fee, {"line:permit"}, True),
            (fee, {"line:shoreline"}, False),
            (PAID, {FEE}, True),
            (ASKED, {"may-act"}, True),
            (CLOSED, {"point::1:1"}, True),
            (CLOSED, {"may-act"}, False),
        ):
            with self.subTest(entry.what, relies_on=relies_on):
                self.assertEqual(conflicting(relies_on, (*start, entry), 3), (4,) if conflicts else ())
        self.assertEqual(conflicting({"may-act"}, (*start, judged("may-act"), undone), 4), (5,))
        self.assertEqual(conflicting({"may-act"}, (*start, judged("may-act")), 4), ())
