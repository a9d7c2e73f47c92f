"""What differs between two views: applied to the one before it gives the one after, on the server and (from the same file) on the screen."""

from __future__ import annotations

import json
import unittest
from typing import Any
from unittest.mock import patch

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.office.desk import checking
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import drafts
from jolly_clerk.web.changed import as_at, case_changed, draft_changed, draft_seen, whole_case, whole_draft
from jolly_clerk.web.difference import SAME, applied, difference
from jolly_clerk.web.sent import LATELY, SentView
from tests.helpers import ROOT, answers
from tests.office.test_journey import Cases

FILE = ROOT / "tests" / "web" / "differences.json"
PLAIN = st.one_of(st.none(), st.booleans(), st.integers(0, 3), st.sampled_from(["", "a", "b"]))
MEMBER = st.fixed_dictionaries({"id": st.sampled_from("xyz"), "v": PLAIN})
VALUES = st.recursive(
    PLAIN,
    lambda inner: st.one_of(
        st.lists(inner, max_size=3),
        st.lists(MEMBER, max_size=3, unique_by=lambda m: m["id"]),
        st.dictionaries(st.sampled_from(["id", "a", "b", "l"]), inner, max_size=3),
    ),
    max_leaves=12,
)


class Differences(unittest.TestCase):
    def test_the_file_that_the_screen_reads_too(self) -> None:
        for case in json.loads(FILE.read_text("utf-8")):
            with self.subTest(case=case):
                found = difference(case["before"], case["after"])
                self.assertEqual({} if found is SAME else found, case["change"])
                self.assertEqual(applied(case["before"], case["change"]), case["after"])

    @given(
        st.dictionaries(st.sampled_from("abc"), VALUES, max_size=3), st.dictionaries(st.sampled_from("abc"), VALUES, max_size=3)
    )
    def test_applied_it_gives_the_state_after(self, before: Any, after: Any) -> None:
        found = difference(before, after)
        self.assertEqual(before if found is SAME else applied(before, found), after)
        self.assertEqual(json.loads(json.dumps(None if found is SAME else found)), None if found is SAME else found)


class Replies(Cases):
    """The reply to a change over the state that was seen gives the view that a fresh look gives, and is small."""

    def view(self, who: Any, reference: str) -> Any:
        from jolly_clerk.office.cases.casework import load_case

        return json.loads(whole_case(self.office, who, load_case(self.office, who, reference)).body)

    def test_a_judgement(self) -> None:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        before = self.view(self.imre, reference)
        done = checking.judge(self.office, self.imre, reference, "may-act", "wanting", seen=before["revision"])
        reply = case_changed(self.office, self.imre, before["revision"], done)
        told = json.loads(reply.body)
        self.assertEqual((told["base"], told["view"], reply.headers["etag"]), (before["digest"], None, f'"{done.entries}"'))
        after = applied(before, told["changes"]) | {"digest": told["digest"]}
        self.assertEqual(after, self.view(self.imre, reference))
        self.assertLess(len(reply.body), 15_000)

    def test_over_an_older_revision_it_tells_what_others_did_too(self) -> None:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        before = self.view(self.imre, reference)
        checking.judge(self.office, self.maud, reference, "plot-number", "met")
        done = checking.judge(self.office, self.imre, reference, "may-act", "met", seen=before["revision"])
        told = json.loads(case_changed(self.office, self.imre, before["revision"], done).body)
        self.assertEqual(told["base"], before["digest"])
        self.assertEqual(applied(before, told["changes"]) | {"digest": told["digest"]}, self.view(self.imre, reference))
        self.assertEqual(as_at(self.office, done, before["revision"]).entries, before["revision"])

    def test_what_was_shown_is_at_hand_whatever_changed_beside_it(self) -> None:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        before = self.view(self.imre, reference)
        add_person(
            self.office, "brisa", "Brisa Quay", "officer"
        )  # one more to whom it could be given, which is no entry of the case
        self.move_to(2026, 11, 6)
        done = checking.judge(self.office, self.imre, reference, "may-act", "met", seen=before["revision"])
        told = json.loads(case_changed(self.office, self.imre, before["revision"], done).body)
        self.assertEqual(told["base"], before["digest"])
        after = applied(before, told["changes"]) | {"digest": told["digest"]}
        self.assertEqual(after, self.view(self.imre, reference))
        self.assertIn("Brisa Quay", [one["name"] for one in after["officers"]])

    def test_what_is_not_kept_any_more_is_worked_out_anew(self) -> None:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        before = self.view(self.imre, reference)
        done = checking.judge(self.office, self.imre, reference, "may-act", "met", seen=before["revision"])
        with patch("jolly_clerk.web.sent.MOST", 1):
            LATELY.keep(self.office, ("one more",), SentView(1, b'{"a":1}'))
        told = json.loads(case_changed(self.office, self.imre, before["revision"], done).body)
        self.assertEqual(told["base"], before["digest"])

    def test_nobody_is_told_over_what_another_was_shown(self) -> None:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        imres, mauds = self.view(self.imre, reference), self.view(self.maud, reference)
        self.assertNotEqual(imres["digest"], mauds["digest"])
        done = checking.judge(self.office, self.maud, reference, "may-act", "met", seen=mauds["revision"])
        told = json.loads(case_changed(self.office, self.maud, mauds["revision"], done).body)
        self.assertEqual(told["base"], mauds["digest"])

    def test_a_kept_answer(self) -> None:
        draft = self.draft()
        before = drafts.open_draft(self.office, self.odalys, draft)
        old = json.loads(whole_draft(self.office, self.odalys, before).body)
        seen = draft_seen(self.office, self.odalys, draft, old["revision"])
        done = drafts.keep(self.office, self.odalys, draft, before.draft.revision, answers(works_area="150"))
        told = json.loads(draft_changed(self.office, self.odalys, seen, done).body)
        whole = json.loads(whole_draft(self.office, self.odalys, done).body)
        self.assertEqual(told["base"], old["digest"])
        self.assertEqual(applied(old, told["changes"]) | {"digest": told["digest"]}, whole)
        self.assertLess(len(json.dumps(told)), 15_000)
