"""The checklist line by line: order, standings, reasons, what puts it right, the words of a point, the evidence of a judgement."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal
from typing import Any

from jolly_clerk.core import history as h
from jolly_clerk.core.assessment_view import requirement_view
from jolly_clerk.core.checklist import Evidence, Given, Line, Place, Requirement
from jolly_clerk.core.checklist.requirement import Explanation
from jolly_clerk.core.corrections import missing_from, offers, proposed_words
from jolly_clerk.core.dossier.differences import Difference
from jolly_clerk.core.dossier.model import Dossier, Signing, Version
from jolly_clerk.core.fees.sheet import fee_sheet
from jolly_clerk.core.form import read_answers
from jolly_clerk.core.history import History
from jolly_clerk.core.lifecycle import fold
from tests.helpers import BW, answers, assessed, at, dossier

DAY = date(2026, 11, 5)
FILED = h.Filed(at=at(2026, 11, 5), who="o", role="applicant", edition="BW 2026-07-01", due_at_filing=Decimal("438.18"))
PAID = h.Paid(at=at(2026, 11, 5, 11), who="o", role="applicant", amount=Decimal("438.18"), means="card", key="k1")
BEGAN = h.CheckingBegan(at=at(2026, 11, 9), who="i", role="officer")


def judged(requirement: str, standing: Any = "wanting") -> h.Judged:
    return h.Judged(at=at(2026, 11, 10), who="i", role="officer", requirement=requirement, standing=standing, version=1)


def filed(*entries: h.Entry, of: Dossier | None = None) -> History:
    return History(entries=(FILED, PAID, BEGAN, *entries), versions=(Version(no=1, at=FILED.at, dossier=of or dossier()),))


def one(id_: str, of: Dossier | None = None, *entries: h.Entry) -> Requirement:
    of = of or dossier()
    found = assessed(of, filed(*entries, of=of)).requirement(id_)
    assert found, id_
    return found


class Checklist(unittest.TestCase):
    def test_the_order_is_the_rulebooks(self) -> None:
        self.assertEqual(
            [r.id for r in assessed(dossier(), filed()).requirements],
            [
                "may-act", "plot-number", "value-plausible", "distance-stated", "documents.site_plan", "documents.sections",
                "documents.consent", "signature", "fee.at_filing",
            ],
        )  # fmt: skip

    def test_a_draft_has_no_fee_to_check(self) -> None:
        self.assertIsNone(assessed(dossier()).requirement("fee.at_filing"))

    def test_each_names_its_article_and_its_places(self) -> None:
        for r in assessed(dossier(works_area=None), filed(of=dossier(works_area=None))).requirements:
            with self.subTest(r.id):
                self.assertTrue(r.article)
                self.assertTrue(r.places)
                self.assertTrue(all(p.label and p.label != p.ref for p in r.places))
                self.assertTrue(r.because)
                self.assertTrue(r.says)

    def test_what_is_wanting_says_what_puts_it_right(self) -> None:
        empty = Dossier()
        for r in assessed(empty, filed(of=empty)).requirements:
            if r.proposed == "wanting":
                self.assertTrue(r.put_right, r.id)

    def test_an_open_question_becomes_a_requirement_of_its_own(self) -> None:
        found = one("answer.works.area", dossier(works_area=None))
        self.assertEqual((found.kind, found.group, found.proposed), ("answer", "works", "wanting"))
        self.assertEqual((found.title, found.because), ("Floor area under it", "It was left open."))
        self.assertIsNone(assessed(dossier(), filed()).requirement("answer.works.area"))

    def test_it_stays_on_the_list_once_it_was_asked_about(self) -> None:
        found = one("answer.works.area", dossier(), judged("answer.works.area", "met"))
        self.assertEqual((found.proposed, found.because), ("met", "Answered: 95.8 m²."))

    def test_a_wrong_answer_is_wanting_with_its_complaint(self) -> None:
        found = one("answer.works.area", dossier(works_area="-3"))
        self.assertEqual(found.proposed, "wanting")
        self.assertIn("below 0.1 m²", found.put_right)

    def test_the_signature(self) -> None:
        self.assertEqual(one("signature").proposed, "met")
        self.assertIn("Signed by Odalys Renn", one("signature").because)
        self.assertEqual(one("signature", dossier(signed=False)).proposed, "wanting")
        other = dossier().model_copy(update={"signature": Signing(name="O", at=at(2026, 11, 5), text="I promise nothing.")})
        self.assertEqual(
            (one("signature", other).proposed, one("signature", other).because),
            ("wanting", "Another text was signed than the one asked."),
        )

    def test_the_fee(self) -> None:
        for area, proposed, says in (
            ("95.8", "met", "EUR 438.18 paid, EUR 438.18 due."),
            ("82.1", "met", "EUR 32.18 is paid back on acceptance."),
            ("150", "wanting", "EUR 101.56 is open."),
            (None, "not known yet", "Floor area under it"),
        ):
            with self.subTest(area=area):
                found = one("fee.at_filing", dossier(works_area=area))
                self.assertEqual(found.proposed, proposed)
                self.assertIn(says, found.because)

    def test_why_a_document_is_not_asked(self) -> None:
        found = one("documents.consent")
        self.assertEqual((found.proposed, found.asked), ("not asked", False))
        self.assertEqual(found.because, "Not asked: “What are you to the plot” is “I own the plot”.")

    def test_an_officer_may_judge_what_the_machine_does_not_ask(self) -> None:
        found = one("documents.consent", dossier(), judged("documents.consent", "wanting"))
        self.assertEqual((found.standing, found.asked, found.judged), ("wanting", True, True))


class WhatAPointSays(unittest.TestCase):
    def sheet(self, **changes: Any) -> Any:
        return read_answers(BW, answers(**changes), DAY, DAY)

    def test_the_catalogue_offers_what_fits(self) -> None:
        for id_, titles in (
            (
                "documents.site_plan",
                ["Sheet is too small", "Distance differs", "Nothing attached", "Not readable", "Another paper", "Not whole"],
            ),
            ("documents.consent", ["Nothing attached", "Not signed"]),
            ("may-act", ["Role not clear"]),
            ("value-plausible", ["Estimate is low"]),
            ("signature", ["Not signed"]),
            ("fee.at_filing", ["Not fully paid"]),
        ):
            self.assertEqual([o.title for o in offers(BW, one(id_), self.sheet())], titles)

    def test_offers_hold_the_values_of_the_case(self) -> None:
        texts = {o.title: o.text for o in offers(BW, one("documents.site_plan"), self.sheet())}
        self.assertIn("You state 18 m to high water", texts["Distance differs"])
        open_ = {o.title: o.text for o in offers(BW, one("value-plausible"), self.sheet(works_estimate=None))}
        self.assertIn("EUR not answered", open_["Estimate is low"])

    def test_the_exact_complaint_comes_first(self) -> None:
        for id_, of, words in (
            ("answer.works.area", dossier(works_area=None), "It was left open. Answer “Floor area under it”."),
            ("documents.sections", dossier(files=False), "Send a section through the roof at 1:50."),
            ("plot-number", dossier(), "Plot Q-114/2 was not found. State the number as on your land register extract."),
        ):
            with self.subTest(id_):
                self.assertEqual(proposed_words(BW, one(id_, of), self.sheet()), words)

    def test_points_follow_the_checklist_and_own_words_win(self) -> None:
        own = h.PointWorded(at=at(2026, 11, 10), who="i", role="officer", requirement="plot-number", text="Which plot?")
        of = dossier(works_what=None)
        found = assessed(of, filed(judged("signature"), judged("plot-number"), judged("answer.works.what"), own, of=of)).points
        self.assertEqual(
            [(p.no, p.requirement, p.worded) for p in found],
            [(1, "plot-number", True), (2, "answer.works.what", False), (3, "signature", False)],
        )
        self.assertEqual(found[0].text, "Which plot?")

    def test_words_of_a_wider_point_stay_with_what_is_left_of_it_once(self) -> None:
        """Words for two requirements that shared a point are neither lost nor doubled when one of them is wanting no more."""
        pair = ("distance-stated", "documents.site_plan")
        own = h.PointWorded(at=at(2026, 11, 10), who="i", role="officer", requirement="+".join(pair), text="Draw it anew.")
        parted = h.PointsArranged(at=at(2026, 11, 10), who="i", role="officer", groups=tuple((id_,) for id_ in pair))

        def texts(*entries: h.Entry) -> dict[str, str]:
            return {p.requirement: p.text for p in assessed(dossier(), filed(*entries)).points if p.worded}

        both = [judged(id_) for id_ in pair]
        for n, id_ in enumerate(pair):
            dropped = judged(pair[1 - n], "in doubt")
            self.assertEqual(texts(*both, own, dropped), {id_: "Draw it anew."})
        self.assertEqual(texts(*both, own, parted), {pair[0]: "Draw it anew."})

    def test_only_wanting_makes_a_point(self) -> None:
        for standing in ("met", "in doubt", "waived"):
            self.assertEqual(assessed(dossier(), filed(judged("may-act", standing))).points, ())


class StillNeeded(unittest.TestCase):
    CHANGE = Difference("works.area", "Area", "answer", "1", "2")

    def test_each_kind_of_place(self) -> None:
        for places, needs in (
            (("works.area",), "a changed answer or a few words"),
            (("documents.site_plan",), "a new file or a few words"),
            (("documents.site_plan", "works.area"), "a new file or a changed answer or a few words"),
            (("signature",), "your signature or a few words"),
            (("fee",), ""),
        ):
            with self.subTest(places):
                self.assertEqual(missing_from(places, "", []), needs)
                self.assertEqual(missing_from(places, "Here.", []), "")
                self.assertEqual(missing_from(places, "  ", [self.CHANGE]), "")


class WhatWasLookedAt(unittest.TestCase):
    def mark(self, of: Dossier, *places: str, entries: tuple[h.Entry, ...] = (FILED, PAID)) -> str:
        return Evidence(of, fold(entries), fee_sheet(read_answers(BW, of.answers, DAY, DAY))).at(places)

    def test_only_what_was_looked_at_counts(self) -> None:
        base = dossier()
        for changed, places, same in (
            (dossier(works_area="1"), ("works.area",), False),
            (dossier(works_area="1"), ("works.distance",), True),
            (dossier(files=False), ("documents.site_plan",), False),
            (dossier(files=False), ("works.area",), True),
            (dossier(signed=False), ("signature",), False),
            (dossier(signed=False), ("works.area", "documents.site_plan"), True),
            (dossier(works_area="1"), ("fee",), False),
            (dossier(works_what="Other"), ("fee",), True),
        ):
            with self.subTest(places=places, same=same):
                self.assertEqual(self.mark(base, *places) == self.mark(changed, *places), same)

    def test_money_that_comes_in_changes_the_fee_and_money_back_does_not(self) -> None:
        more = PAID.model_copy(update={"key": "k2"})
        back = h.PaidBack(at=at(2026, 11, 6), who="i", role="officer", amount=Decimal(1), because="x", key="b")
        whole = self.mark(dossier(), "fee")
        self.assertNotEqual(whole, self.mark(dossier(), "fee", entries=(FILED, PAID, more)))
        self.assertEqual(whole, self.mark(dossier(), "fee", entries=(FILED, PAID, back)))

    def test_the_order_of_files_does_not_matter(self) -> None:
        base = dossier()
        turned = base.model_copy(update={"attachments": tuple(reversed(base.attachments))})
        places = ("documents.site_plan", "documents.sections")
        self.assertEqual(self.mark(base, *places), self.mark(turned, *places))


class Looked(Line):
    """A line that notes what is asked of it."""

    def __init__(self, looked: list[str]) -> None:
        self.id, self.kind, self.plain_title, self.item_label = "r", "rule", "R", ""
        self.at, self.lane, self.stops_filing = ["a.b"], "", True
        self.looked = looked

    def propose(self) -> Any:
        self.looked.append("propose r")
        return "wanting"

    def explain(self, proposed: Any) -> Explanation:
        self.looked.append("explain r")
        return Explanation("part", "says", "1", f"It is {proposed}.", "Mend it.", (Place("a.b", "A, B"),))


class WhenTheyAreLookedAt(unittest.TestCase):
    """What is proposed beneath a given standing, and the words, are worked out when somebody looks, and once."""

    def made(self, given: Given | None, looked: list[str]) -> Requirement:
        return Requirement(Looked(looked), given)

    def test_what_is_proposed_is_worked_out_once_and_its_words_later(self) -> None:
        looked: list[str] = []
        r = self.made(None, looked)
        self.assertEqual((r.standing, r.proposed, r.asked, r.judged, looked), ("wanting", "wanting", True, False, ["propose r"]))
        self.assertEqual((r.because, r.put_right, r.places[0].ref), ("It is wanting.", "Mend it.", "a.b"))
        self.assertEqual((r.table, r.item, looked), (None, "", ["propose r", "explain r"]))

    def test_beneath_a_given_one_nothing_is_proposed_until_it_is_asked_for(self) -> None:
        looked: list[str] = []
        r = self.made(Given("met", "imre", at(2026, 11, 9), "", True), looked)
        self.assertEqual((r.standing, r.asked, r.judged, looked), ("met", True, True, []))
        self.assertEqual((r.proposed, r.standing, looked), ("wanting", "met", ["propose r"]))
        view = requirement_view(r)
        self.assertEqual(looked, ["propose r", "explain r"])
        self.assertEqual((view.standing, view.proposed, view.judged, view.because), ("met", "wanting", True, "It is wanting."))

    def test_one_that_does_not_hold_any_more_gives_way(self) -> None:
        looked: list[str] = []
        r = self.made(Given("met", "imre", at(2026, 11, 9), "", False), looked)
        self.assertEqual((r.standing, r.judged, looked), ("wanting", False, ["propose r"]))

    def test_nothing_is_half_made(self) -> None:
        r = self.made(None, [])
        with self.assertRaises(AttributeError):
            _ = r.nothing  # type: ignore[attr-defined]
        with self.assertRaises(AttributeError):
            r.standing = "met"  # type: ignore[misc]
        for requirement in assessed(dossier(), filed()).requirements:
            view = requirement_view(requirement)
            self.assertEqual(view, requirement_view(requirement))
            self.assertEqual(view.title, f"{view.plain_title}: {view.item_label}" if view.item_label else view.plain_title)
