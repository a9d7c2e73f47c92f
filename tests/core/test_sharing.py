"""What an invited person may do in a filing, told by what a change changes; and who is writing which part."""

from __future__ import annotations

import unittest
from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.core.dossier.model import Attachment, Declared, Dossier, Signing
from jolly_clerk.core.moves import Move
from jolly_clerk.core.sharing import OWNER, RIGHTS, Access, Right, as_invited, held, needed_by, refused, refused_move, writing

NOW = datetime(2026, 11, 27, 9, tzinfo=UTC)
FILE = Attachment(id="a1", slot="site_plan", name="plan.pdf", sha256="0" * 64, size=1)
BASE = Dossier(answers={"works": {"area": "18"}, "people": [{"id": 1, "name": "Odo"}]})
#: one change for each right, and one that is the owner's alone
CHANGES: dict[Right | None, Dossier] = {
    "fill": BASE.model_copy(update={"answers": {"works": {"area": "19"}, "people": [{"id": 1, "name": "Odo"}]}}),
    "attach": BASE.model_copy(update={"attachments": (FILE,)}),
    "sign": BASE.model_copy(update={"signature": Signing(name="Odo Fenn", at=NOW, text="It is true.")}),
    "answer": BASE.model_copy(update={"note": "Please hurry."}),
    None: BASE.model_copy(update={"insists": "The council asked for it."}),
}


class Rights(unittest.TestCase):
    def test_each_change_needs_its_right_and_no_other(self) -> None:
        for needed, after in CHANGES.items():
            for right in RIGHTS:
                why = refused(Access(False, ("look", right)), needed_by(BASE, after))
                with self.subTest(needed=needed, right=right):
                    self.assertEqual(why is None, right == needed)
            self.assertIsNone(refused(OWNER, needed_by(BASE, after)))

    def test_a_renamed_or_moved_file_and_a_tick_need_a_right_as_well(self) -> None:
        with_file = BASE.model_copy(update={"attachments": (FILE,)})
        moved = BASE.model_copy(update={"attachments": (FILE.model_copy(update={"slot": "photographs"}),)})
        renamed = BASE.model_copy(update={"attachments": (FILE.model_copy(update={"name": "other.pdf"}),)})
        for after in (moved, renamed, BASE):
            self.assertEqual({need.right for need in needed_by(with_file, after)}, {"attach"})
        ticked = BASE.model_copy(update={"declared": (Declared(id="true", at=NOW, text="All of it is true."),)})
        self.assertEqual([(n.right, n.place) for n in needed_by(BASE, ticked)], [("sign", "declarations.true")])
        self.assertEqual(list(needed_by(BASE, BASE)), [])

    def test_parts_that_were_not_named_are_refused_with_their_place(self) -> None:
        access = Access(False, ("look", "fill"), ("people",))
        why = refused(access, needed_by(BASE, CHANGES["fill"]))
        assert why and why.place
        self.assertEqual(why.place.ref, "works.area")
        other = BASE.model_copy(update={"answers": {"works": {"area": "18"}, "people": [{"id": 1, "name": "Ida"}]}})
        self.assertIsNone(refused(access, needed_by(BASE, other)))
        self.assertTrue(access.may_fill("people") and not access.may_fill("works"))

    def test_moves_of_a_case(self) -> None:
        payer, answers = Access(False, ("look", "pay")), Access(False, ("look", "answer"))
        self.assertIsNone(refused_move(payer, "pay"))
        self.assertIsNone(refused_move(answers, "send the answers"))
        for access, move in (
            (payer, "send the answers"),
            (answers, "pay"),
            (payer, "withdraw"),
            (answers, "write"),
            (payer, "file"),
        ):
            self.assertIsNotNone(refused_move(access, move))  # type: ignore[arg-type]
        self.assertIsNone(refused_move(OWNER, "withdraw"))
        told = as_invited([Move("applicant", "pay", True, ()), Move("applicant", "withdraw", True, ())], payer)
        self.assertEqual([(m.move, m.allowed, len(m.why_not)) for m in told], [("pay", True, 0), ("withdraw", False, 1)])


class WhoWrites(unittest.TestCase):
    def test_a_part_is_written_by_whoever_wrote_in_it_last_for_two_minutes(self) -> None:
        last = {"works": ("ada", NOW), "people": ("me", NOW), "place": ("ida", NOW - timedelta(seconds=121))}
        found = writing(last, "me", NOW + timedelta(seconds=1))
        self.assertEqual(list(found), ["works"])
        self.assertEqual(found["works"].until, NOW + timedelta(minutes=2))
        self.assertEqual(writing(last, "me", NOW + timedelta(minutes=2)), {})
        self.assertEqual(held(["people.1.name", "works.area"], found), ("works.area", found["works"]))
        self.assertIsNone(held(["people.1.name"], found))

    @given(st.dictionaries(st.sampled_from("abc"), st.tuples(st.sampled_from(["me", "ada", "ida"]), st.integers(0, 300))))
    def test_never_held_by_oneself_and_never_longer_than_two_minutes(self, last: dict[str, tuple[str, int]]) -> None:
        told = {part: (who, NOW - timedelta(seconds=ago)) for part, (who, ago) in last.items()}
        for part, one in writing(told, "me", NOW).items():
            self.assertNotEqual(one.who, "me")
            self.assertLess(last[part][1], 120)


if __name__ == "__main__":
    unittest.main()
