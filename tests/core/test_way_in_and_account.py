"""The way in, pathways, altered answers, and the account of a case: what is open, what comes back, never more than was paid."""

from __future__ import annotations

import unittest
from datetime import date, datetime, time, timedelta, timezone
from decimal import Decimal
from typing import Any, get_args

from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_clerk.core import history as h
from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.clock import reminders
from jolly_clerk.core.dossier.model import Dossier, Prefilled, Version
from jolly_clerk.core.fees.account import Ending
from jolly_clerk.core.history import ENTRY, History
from jolly_clerk.core.known import Known
from jolly_clerk.core.lifecycle import fold
from jolly_clerk.core.states import FINAL
from jolly_clerk.core.story import _TOLD, story
from jolly_clerk.core.urgency import days_left, finished_at_once, group_of, running_out_until, soonest_that_does_not_run_out
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file
from tests.helpers import QUILLHAVEN, at, dossier

FULL = read_rulebook_file(SHIPPED / "BW" / "2026-07-01.yaml").rulebook


def asked(need: dict[str, Any], **others: dict[str, Any]) -> Assessment:
    return assess(FULL, Dossier(answers={"need": need, **others}), known=Known(QUILLHAVEN), now=at(2026, 11, 5))


class Waits(unittest.TestCase):
    def test_a_part_of_which_it_is_not_known_whether_it_is_asked(self) -> None:
        for works, told in (({}, (True, True)), ({"distance": "20"}, (True, False)), ({"distance": "210"}, (False, False))):
            parts = {p.id: p for p in asked({}, works=works).parts}
            self.assertEqual((parts["shore"].asked, parts["shore"].waits), told)
            self.assertFalse(parts["works"].waits)


class WayIn(unittest.TestCase):
    def test_it_stops_at_the_first_branch_that_is_not_known(self) -> None:
        for need, others, depends in (
            ({}, {}, ("need.island",)),
            ({"island": "quill"}, {}, ("need.below_water",)),
            ({"island": "quill", "below_water": "no"}, {}, ("need.sort", "place.listed")),
            ({"island": "quill", "below_water": "no", "sort": "fence"}, {}, ("need.height", "place.listed")),
            ({"island": "quill", "below_water": "no", "sort": "fence", "height": "1.8"}, {}, ("place.listed",)),
            ({"island": "quill", "below_water": "no", "sort": "new", "height": "2.5"}, {}, ("place.listed", "works.area")),
            (
                {"island": "quill", "below_water": "no", "sort": "new", "height": "2.5"},
                {"place": {"listed": "no"}},
                ("works.area",),
            ),
        ):
            with self.subTest(need=need):
                found = asked(need, **others).way_in
                assert found
                self.assertEqual((found.then, found.depends_on), ("", depends))

    def test_one_answer_may_decide_what_others_would(self) -> None:
        found = asked({"island": "far_skerry"}).way_in
        assert found
        self.assertEqual((found.branch, found.then, found.article), ("far-skerry", "belongs elsewhere", "2(3)"))
        high = asked({"island": "quill", "below_water": "no", "sort": "fence", "height": "1.9"}).way_in
        assert high
        self.assertEqual(high.then, "needed")

    def test_its_reason_names_what_was_said(self) -> None:
        found = asked({"island": "quill", "below_water": "no", "sort": "fence", "height": "1.75"}, place={"listed": "no"}).way_in
        assert found
        self.assertIn("of 1.75 m", found.because)

    def test_it_asks_in_the_order_of_its_branches(self) -> None:
        self.assertEqual(FULL.way_in_asks[:4], ("need.island", "need.below_water", "need.sort", "need.height"))
        self.assertEqual(set(FULL.way_in_asks[4:]), {"place.listed", "works.area"})

    def test_a_rulebook_without_a_way_in_says_nothing(self) -> None:
        from tests.helpers import assessed

        self.assertIsNone(assessed(dossier()).way_in)

    def test_pathways(self) -> None:
        for place, works, pathway in (
            ({"listed": "yes"}, {}, "heritage"),
            ({"listed": "no"}, {"distance": "30"}, "shore"),
            ({"listed": "no"}, {"distance": "31"}, "plain"),
            ({}, {}, None),
        ):
            found = asked({}, place=place, works=works).pathway
            self.assertEqual(found.id if found else None, pathway)


class Altered(unittest.TestCase):
    def test_only_what_differs_in_meaning(self) -> None:
        def with_register(**place: str) -> Assessment:
            told = (("place.owner", "Odalys Renn"), ("place.listed", "no"), ("place.address", "1 Pier Road"))
            given_ = tuple(Prefilled(place=p, source="plots", key="Q-1", value=v, at=at(2026, 11, 5)) for p, v in told)
            whole = {"owner": "Odalys Renn", "listed": False, "address": "1 Pier Road", **place}
            return assess(FULL, Dossier(answers={"place": whole}, prefilled=given_), known=Known(QUILLHAVEN), now=at(2026, 11, 5))

        self.assertEqual(with_register().altered, ())
        self.assertEqual([(a.place, a.was, a.now) for a in with_register(listed="yes").altered], [("place.listed", "no", "yes")])
        self.assertEqual([a.now for a in with_register(owner="").altered], ["nothing"])


WHOLE = dossier(works_estimate="38176.50", works_area="0.1")
cents = st.decimals(min_value=Decimal("0.01"), max_value=2000, places=2)


class Account(unittest.TestCase):
    @settings(max_examples=60)
    @given(st.lists(st.tuples(cents, st.booleans()), max_size=4), st.booleans())
    def test_whatever_was_paid_no_ending_gives_back_more(self, payments: list[tuple[Decimal, bool]], checking: bool) -> None:
        from tests.helpers import BW

        who: dict[str, Any] = {"at": at(2026, 11, 5), "who": "x", "role": "applicant"}
        entries: list[h.Entry] = [h.Filed(**who, edition="BW", due_at_filing=Decimal("406.00"))]
        for n, (amount, prepaid) in enumerate(payments):
            part = min(amount, Decimal("440.00")) if prepaid else Decimal(0)
            entries.append(h.Paid(**who, amount=amount, means="card", key=str(n), prepaid=part))
        if checking:
            entries.append(h.CheckingBegan(at=at(2026, 11, 5), who="y", role="officer"))
        past = History(entries=tuple(entries), versions=(Version(no=1, at=at(2026, 11, 5), dossier=WHOLE),))
        found = assess(BW, WHOLE, past, Known(QUILLHAVEN), at(2026, 11, 6))
        self.assertEqual({r.ending for r in found.refunds}, set(get_args(Ending)))
        for refund in found.refunds:
            self.assertEqual(refund.total + refund.kept, found.account.paid)
            self.assertGreaterEqual(refund.total, 0)
            self.assertLessEqual(refund.total, found.account.paid)
            self.assertEqual(sum((line.amount for line in refund.lines), Decimal(0)), refund.total)
            if refund.ending == "out of scope":
                self.assertEqual(refund.kept, min(Decimal("45.00"), found.account.paid))
        self.assertEqual(found.account.open_and_prepay, found.account.open + found.account.may_prepay)

    def test_what_is_open_is_never_below_nothing(self) -> None:
        found = assess(FULL, Dossier(), known=Known(QUILLHAVEN), now=at(2026, 11, 5))
        self.assertEqual((found.account.open, found.account.over, found.refunds), (Decimal(0), Decimal("0.00"), ()))


class Told(unittest.TestCase):
    def test_every_kind_of_entry_has_its_words(self) -> None:
        kinds = {get_args(m.model_fields["what"].annotation)[0] for m in get_args(get_args(h.Entry)[0])}
        self.assertEqual(kinds - set(_TOLD), {"point worded"})  # words of a letter that is not sent yet are no event

    def test_what_the_applicant_never_sees(self) -> None:
        who: dict[str, Any] = {"at": at(2026, 11, 5), "who": "imre", "role": "officer"}
        entries = (
            h.NoteWritten(**who, text="careful"),
            h.RegisterAsked(**who, name="plots", key="Q-1", row=None),
            h.FeeSet(**who, line="permit", amount=Decimal(1), was=Decimal(2), reason="r", needs_second=True),
            h.FeeSettled(**who, line="permit", confirmed=False),
            h.RequirementAdded(**who, requirement="added-1", title="Bats", text="t"),
            h.Undone(**who, of=(1,)),
            h.PointsArranged(**who, groups=()),
            h.MessageSent(**who, text="Hello"),
            h.Granted(**who, grounds="If dry.", due=Decimal(0), code="C"),
        )
        moments = story(entries, {"imre": "Imre Holt"}, "EUR", at(2026, 11, 5).date())
        self.assertEqual([m.inner for m in moments], [True] * 7 + [False] * 2)
        self.assertEqual(moments[-1].text, "Granted: If dry.")
        self.assertIn("a second person must confirm", moments[2].text)
        self.assertIn("no such entry", moments[1].text)

    def test_an_entry_comes_back_as_it_was(self) -> None:
        entry = h.Lapsed(at=at(2026, 11, 5), who="clock", role="clock", step="answers", grounds="g")
        self.assertEqual(ENTRY.validate_json(entry.model_dump_json()), entry)


class Undone(unittest.TestCase):
    def test_what_was_undone_counts_as_never_done(self) -> None:
        officer: dict[str, Any] = {"who": "imre", "role": "officer"}
        first = h.Judged(at=at(2026, 11, 6, 9), requirement="a", standing="met", version=1, **officer)
        second = h.Judged(at=at(2026, 11, 6, 10), requirement="a", standing="wanting", version=1, **officer)
        undone = h.Undone(at=at(2026, 11, 6, 11), of=(2,), **officer)
        self.assertEqual(fold((first, second)).given["a"].standing, "wanting")
        self.assertEqual(fold((first, second, undone)).given["a"].standing, "met")
        self.assertEqual(fold((first, second)).undoable, {"imre": (2,)})
        self.assertEqual(len(FINAL), 6)


class Lists(unittest.TestCase):
    def test_what_does_not_run_out_lies_behind_an_instant_in_every_zone(self) -> None:
        last, last_in_days = running_out_until(date(2026, 11, 5), QUILLHAVEN)
        instant = soonest_that_does_not_run_out(last, last_in_days)
        for hours in range(-12, 15):
            zone = timezone(timedelta(hours=hours))
            for day in (last, last_in_days):
                self.assertGreater(datetime.combine(day + timedelta(days=1), time(), zone), instant, hours)

    def test_days_left_and_where_a_case_stands(self) -> None:
        today = at(2026, 11, 12).date()
        for limit, holder, left, group in (
            (at(2026, 11, 12).date(), "ours", 0, "running out"),
            (at(2026, 11, 18).date(), "ours", 4, "running out"),
            (at(2026, 11, 19).date(), "ours", 5, "ready"),
            (at(2026, 11, 10).date(), "ours", -2, "running out"),
            (at(2026, 11, 19).date(), "theirs", 7, "waiting"),
            (at(2026, 11, 10).date(), "theirs", -2, "waiting"),
            (None, "ours", None, "ready"),
        ):
            with self.subTest(limit=limit, holder=holder):
                self.assertEqual(days_left(limit, holder, today, QUILLHAVEN), left)
                self.assertEqual(group_of(holder, left, at_once=False), group)
                self.assertEqual(group_of(holder, left, at_once=True), "at once" if group == "ready" else group)

    def test_what_is_finished_at_once(self) -> None:
        doubts, confirmed = [("in doubt", False)] * 3, [("met", False)] * 20 + [("wanting", True)] * 9
        self.assertTrue(finished_at_once("Being checked", doubts + confirmed))
        self.assertFalse(finished_at_once("Being checked", [*doubts, ("to read", False), *confirmed]))
        self.assertTrue(finished_at_once("Complete", [("met", True)]))
        self.assertFalse(finished_at_once("Under review", [("met", True)]))  # a decision takes what it takes

    def test_a_period_that_runs_only_from_a_later_day_has_its_days_from_then(self) -> None:
        saturday, limit = at(2026, 11, 14).date(), at(2026, 11, 20).date()
        self.assertEqual(days_left(limit, "ours", saturday, QUILLHAVEN), 5)
        self.assertEqual(days_left(limit, "ours", saturday, QUILLHAVEN, after=at(2026, 11, 16).date()), 4)
        self.assertEqual(days_left(limit, "ours", saturday, QUILLHAVEN, after=at(2026, 11, 2).date()), 5)

    def test_a_draft_has_no_reminders(self) -> None:
        self.assertEqual(reminders(None, FULL.edition.clock), ())
