"""States and moves: every role in every state, allowed or refused with its reason; the line of time; what comes next."""

from __future__ import annotations

import unittest
from datetime import date, datetime, timedelta
from decimal import Decimal

from jolly_clerk.core import history as h
from jolly_clerk.core.clock import clock
from jolly_clerk.core.dossier.model import Version
from jolly_clerk.core.history import ENTRY, History
from jolly_clerk.core.lifecycle import fold
from jolly_clerk.core.story import story
from jolly_clerk.core.to_come import next_steps
from tests.helpers import BW, QUILLHAVEN, assessed, at, dossier

FILED = h.Filed(at=at(2026, 11, 5), who="o", role="applicant", edition="BW 2026-07-01", due_at_filing=Decimal("438.18"))
PAID = h.Paid(
    at=at(2026, 11, 5, 11), who="o", role="applicant", amount=Decimal("438.18"), means="card", key="k1", receipt="2026-00001"
)
BEGAN = h.CheckingBegan(at=at(2026, 11, 9), who="i", role="officer")
ASKED = h.LetterSent(
    at=at(2026, 11, 12),
    who="i",
    role="officer",
    round=1,
    version=1,
    due=date(2026, 12, 14),
    points=(h.AskedPoint(no=1, requirement="distance-stated", title="Distance", text="How far?", places=("works.distance",)),),
)
CAME = h.Answered(at=at(2026, 11, 25), who="o", role="applicant", round=1, version=2, words={1: "18 m."}, note="Sorry.")
CLOSED = h.PointClosed(at=at(2026, 11, 25, 12), who="i", role="officer", round=1, no=1)
DONE = h.Accepted(at=at(2026, 11, 26), who="i", role="officer", target=date(2027, 1, 27))
STATES: dict[str, tuple[h.Entry, ...]] = {
    "Draft": (),
    "Waiting for payment": (FILED,),
    "Filed": (FILED, PAID),
    "Being checked": (FILED, PAID, BEGAN),
    "Answers wanted": (FILED, PAID, BEGAN, ASKED),
    "Answers came back": (FILED, PAID, BEGAN, ASKED, CAME),
    "Complete": (FILED, PAID, BEGAN, ASKED, CAME, CLOSED, DONE),
}


def history(state: str) -> History:
    entries = STATES[state]
    versions = [Version(no=1, at=at(2026, 11, 5), dossier=dossier())] if entries else []
    if CAME in entries:
        versions.append(Version(no=2, at=at(2026, 11, 25), dossier=dossier()))
    return History(entries=entries, versions=tuple(versions))


class MovesByState(unittest.TestCase):
    #: state -> the moves that are allowed there, for the applicant and for an officer
    UNPAID = {"take money", "write", "note", "assign"}
    TALK = UNPAID | {"charge back"}
    DESK = TALK | {"judge", "do not accept", "put out of scope", "set a fee", "ask a register", "add a requirement", "put right"}
    TABLE = {
        "Draft": ({"file"}, set()),
        "Waiting for payment": ({"pay", "take back", "withdraw", "write"}, UNPAID),
        "Filed": (
            {"take back", "withdraw", "write"},
            TALK | {"begin checking", "put out of scope", "set a fee", "ask a register"},
        ),
        "Being checked": ({"withdraw", "write"}, DESK),
        "Answers wanted": ({"more time", "withdraw", "write"}, TALK | {"letter came back", "more time", "replace the letter"}),
        "Answers came back": ({"withdraw", "write"}, DESK),
        "Complete": ({"withdraw", "write"}, TALK | {"hand over"}),
    }

    def settles(self, state: str) -> set[str]:
        """A lead is the second person while fees can be set."""
        return {"settle a fee"} if "set a fee" in self.TABLE[state][1] else set()

    def test_the_table(self) -> None:
        for state, (applicant, officer) in self.TABLE.items():
            found = assessed(dossier(), history(state), at(2026, 11, 27))
            self.assertEqual(found.state, state)
            for role, allowed in (("applicant", applicant), ("officer", officer), ("lead", officer | self.settles(state))):
                with self.subTest(state=state, role=role):
                    self.assertEqual({m.move for m in found.moves if m.role == role and m.allowed} - {"undo"}, allowed)

    def test_every_refusal_has_its_reason(self) -> None:
        for state in STATES:
            for move in assessed(dossier(), history(state), at(2026, 11, 27)).moves:
                with self.subTest(state=state, move=move.move, role=move.role):
                    self.assertEqual(move.allowed, not move.why_not)
                    self.assertTrue(all(w.text.endswith(".") for w in move.why_not))

    def test_reasons_name_the_state_that_would_be_right(self) -> None:
        for state, role, move, says in (
            ("Draft", "applicant", "pay", "File first"),
            ("Filed", "applicant", "file", "It is filed already."),
            ("Filed", "applicant", "pay", "Everything due so far is paid."),
            ("Filed", "officer", "judge", "this needs “Being checked” or “Answers came back”."),
            ("Being checked", "officer", "begin checking", "this needs “Filed”."),
            ("Being checked", "officer", "send the letter", "Nothing was judged wanting"),
            ("Being checked", "officer", "accept as complete", "is not yet judged"),
            ("Answers wanted", "applicant", "send the answers", "Point 1 needs a changed answer or a few words."),
            ("Answers came back", "officer", "send the letter", "Nothing was judged wanting"),
            ("Complete", "applicant", "pay", "Nothing is due now"),
            ("Complete", "lead", "accept as complete", "The case is “Complete”"),
        ):
            with self.subTest(state=state, move=move):
                found = assessed(dossier(), history(state), at(2026, 11, 27)).move(role, move)
                self.assertFalse(found.allowed)
                self.assertIn(says, found.why_not[0].text)

    def test_a_move_asked_for_alone_is_the_one_of_the_list(self) -> None:
        for state in STATES:
            listed = assessed(dossier(), history(state), at(2026, 11, 27))
            for move in listed.moves:
                alone = assessed(dossier(), history(state), at(2026, 11, 27)).move(move.role, move.move)
                self.assertEqual(alone, move, (state, move.role, move.move))

    def test_a_move_that_nobody_knows(self) -> None:
        with self.assertRaises(KeyError):
            assessed(dossier()).move("auditor", "judge")

    def test_the_next_thing_to_do_in_words(self) -> None:
        for state, officer, applicant in (
            ("Draft", "Not filed yet", "Ready to be read over and filed"),
            ("Waiting for payment", "Payment of what is due at filing", "Pay EUR 438.18"),
            ("Filed", "Begin checking, 2 files read", "Nothing to do: the office will begin checking"),
            ("Being checked", "Judge 8, next: Applicant may act for the owner", "Nothing to do: the office is checking"),
            ("Answers wanted", "Answers to 1 point", "Answer 1 point"),
            ("Answers came back", "Read 1 answer", "Nothing to do: the office is reading your answers"),
            ("Complete", "Hand over to a reviewer", "Nothing to do: the decision comes next"),
        ):
            with self.subTest(state=state):
                found = assessed(dossier(), history(state), at(2026, 11, 27))
                self.assertEqual((found.next_officer, found.next_applicant), (officer, applicant))

    def test_gaps_stand_beside_filing_as_warnings(self) -> None:
        found = assessed(dossier(files=False)).move("applicant", "file")
        self.assertTrue(found.allowed)
        self.assertEqual([w.place.ref for w in found.warnings if w.place], ["documents.site_plan", "documents.sections"])


class Folding(unittest.TestCase):
    def test_paid_in_parts_is_covered_by_the_last_of_them(self) -> None:
        first = PAID.model_copy(update={"amount": Decimal("400.00"), "key": "a"})
        second = PAID.model_copy(update={"amount": Decimal("38.18"), "key": "b", "at": at(2026, 11, 7)})
        self.assertEqual(fold([FILED, first]).state, "Waiting for payment")
        whole = fold([FILED, first, second])
        self.assertEqual((whole.state, whole.covered_at), ("Filed", second.at))

    def test_nothing_due_is_covered_at_once(self) -> None:
        free = FILED.model_copy(update={"due_at_filing": Decimal("0.00")})
        self.assertEqual((fold([free]).state, fold([free]).covered_at), ("Filed", free.at))

    def test_money_back_is_taken_off(self) -> None:
        back = h.PaidBack(at=at(2026, 11, 26), who="i", role="officer", amount=Decimal("32.18"), because="less", key="x")
        self.assertEqual(fold([FILED, PAID, back]).paid, Decimal("406.00"))

    def test_a_returned_letter_leaves_the_case_with_the_office(self) -> None:
        returned = h.LetterReturned(at=at(2026, 11, 16), who="post", role="post room", round=1)
        self.assertEqual(fold([*STATES["Answers wanted"], returned]).state, "Being checked")
        again = h.LetterSentAgain(at=at(2026, 11, 16, 12), who="i", role="officer", round=1, due=date(2026, 12, 16))
        after = fold([*STATES["Answers wanted"], returned, again])
        self.assertEqual((after.state, after.rounds[0].due), ("Answers wanted", date(2026, 12, 16)))

    def test_words_of_points_are_spent_with_the_letter(self) -> None:
        worded = h.PointWorded(at=at(2026, 11, 10), who="i", role="officer", requirement="distance-stated", text="How?")
        self.assertEqual(fold([FILED, PAID, BEGAN, worded]).worded, {"distance-stated": "How?"})
        self.assertEqual(fold([FILED, PAID, BEGAN, worded, ASKED]).worded, {})

    def test_points_go_from_open_over_answered_to_closed_or_asked_again(self) -> None:
        again = h.PointAskedAgain(at=at(2026, 11, 25, 12), who="i", role="officer", round=1, no=1, text="Once more.")
        for entries, state in (
            (STATES["Answers wanted"], "open"),
            (STATES["Answers came back"], "answered"),
            ((*STATES["Answers came back"], CLOSED), "closed"),
            ((*STATES["Answers came back"], again), "asked again"),
        ):
            self.assertEqual(fold(entries).rounds[0].points[1].state, state)

    def test_every_entry_is_read_back_as_it_was_written(self) -> None:
        for entry in STATES["Complete"]:
            with self.subTest(entry.what):
                self.assertEqual(ENTRY.validate_python(entry.model_dump(mode="json")), entry)

    def test_an_entry_that_nobody_knows_is_refused(self) -> None:
        for wrong in (
            {"what": "sold"},
            {
                "what": "paid",
                "at": "2026-11-05T10:00:00Z",
                "who": "o",
                "role": "applicant",
                "amount": "-1",
                "means": "card",
                "key": "k",
            },
            {
                "what": "paid",
                "at": "2026-11-05T10:00:00",
                "who": "o",
                "role": "applicant",
                "amount": "1",
                "means": "card",
                "key": "k",
            },
            {
                "what": "paid",
                "at": "2026-11-05T10:00:00Z",
                "who": "o",
                "role": "burglar",
                "amount": "1",
                "means": "card",
                "key": "k",
            },
            {
                "what": "paid",
                "at": "2026-11-05T10:00:00Z",
                "who": "o",
                "role": "applicant",
                "amount": "1",
                "means": "shells",
                "key": "k",
            },
        ):
            with self.subTest(wrong), self.assertRaises(ValueError):
                ENTRY.validate_python(wrong)


class Story(unittest.TestCase):
    NAMES = {"o": "Odalys Renn", "i": "Imre Holt"}

    def told(self, state: str, *more: h.Entry) -> list[tuple[str, str, str, bool]]:
        moments = story((*STATES[state], *more), self.NAMES, "EUR", date(2026, 11, 27))
        return [(m.text, m.holder, m.paper, m.inner) for m in moments]

    def test_the_whole_line_of_time(self) -> None:
        self.assertEqual(
            self.told("Complete"),
            [
                ("Filed by Odalys Renn", "theirs", "filing receipt", False),
                ("EUR 438.18 paid by card", "ours", "payment receipt", False),
                ("Imre Holt began checking", "ours", "", False),
                ("The office asked 1 thing; answers are due Mon 14 Dec", "theirs", "letter", False),
                ("Odalys Renn answered; version 2", "ours", "answers receipt", False),
                ("Imre Holt closed point 1", "ours", "", True),
                ("Accepted as complete; the decision is planned by Wed 27 Jan 2027", "ours", "acceptance letter", False),
            ],
        )

    def test_what_is_the_offices_alone(self) -> None:
        judged = h.Judged(
            at=at(2026, 11, 10), who="i", role="officer", requirement="may-act", standing="waived", reason="known", version=1
        )
        taken = h.ChangeTaken(at=at(2026, 11, 26), who="i", role="officer", place="works.area", version=2)
        for entry, text in (
            (judged, "Imre Holt judged “may-act” waived (known)"),
            (taken, "Imre Holt took the change of “works.area” as it is"),
        ):
            self.assertEqual(self.told("Being checked", entry)[-1], (text, "ours", "", True))

    def test_words_of_points_are_no_moment(self) -> None:
        worded = h.PointWorded(at=at(2026, 11, 10), who="i", role="officer", requirement="may-act", text="?")
        self.assertEqual(len(self.told("Being checked", worded)), 3)

    def test_somebody_who_is_gone_is_named_by_the_id(self) -> None:
        moments = story((FILED.model_copy(update={"who": "x9"}),), self.NAMES, "EUR", date(2026, 11, 27))
        self.assertEqual(moments[0].text, "Filed by x9")

    def next(self, state: str, now: datetime) -> list[tuple[str, str]]:
        case = fold(STATES[state])
        rules = BW.edition.clock
        steps = next_steps(case, rules, clock(case, rules, QUILLHAVEN, now), QUILLHAVEN, now)
        return [(s.day.isoformat() if s.day else s.after, s.text) for s in steps]

    def test_what_comes_next(self) -> None:
        decision = ("later", "Decision, about 40 working days after it is complete")
        self.assertEqual(self.next("Draft", at(2026, 11, 5)), [])
        self.assertEqual(
            self.next("Waiting for payment", at(2026, 11, 6)),
            [
                ("2026-11-12", "A reminder, if nothing came"),
                ("2026-11-19", "Last day to pay; after it the application lapses"),
                decision,
            ],
        )
        self.assertEqual(len(self.next("Waiting for payment", at(2026, 11, 13))), 2)
        self.assertEqual(
            self.next("Being checked", at(2026, 11, 10)),
            [("2026-11-19", "The office has checked whether it is complete"), decision],
        )
        self.assertEqual(
            self.next("Answers wanted", at(2026, 11, 25)),
            [
                ("2026-12-07", "A reminder, if nothing came"),
                ("2026-12-12", "A reminder, if nothing came"),
                ("2026-12-14", "Your answers are due. You may ask once for 15 days more."),
                ("then", "The office checks on; it has 6 working days left"),
                decision,
            ],
        )
        self.assertEqual(self.next("Complete", at(2026, 11, 27))[0][1], "The decision is planned by this day")

    def test_reminders_that_are_past_are_not_announced(self) -> None:
        late = self.next("Answers wanted", at(2026, 12, 13))
        self.assertEqual([day for day, _ in late if day.startswith("2026")], ["2026-12-14"])


class ClockByState(unittest.TestCase):
    def test_holder_step_and_unit(self) -> None:
        for state, told in (
            ("Waiting for payment", ("theirs", "payment", "days", date(2026, 11, 19))),
            ("Filed", ("ours", "check", "working days", date(2026, 11, 19))),
            ("Being checked", ("ours", "check", "working days", date(2026, 11, 19))),
            ("Answers wanted", ("theirs", "answers", "days", date(2026, 12, 14))),
            ("Answers came back", ("ours", "check", "working days", date(2026, 12, 3))),
            ("Complete", ("ours", "decision", "working days", date(2027, 1, 27))),
        ):
            with self.subTest(state=state):
                found = clock(fold(STATES[state]), BW.edition.clock, QUILLHAVEN, at(2026, 11, 27))
                assert found
                self.assertEqual((found.holder, found.step, found.unit, found.limit_day), told)
                self.assertTrue(found.why[0].endswith("."))

    def test_a_draft_has_no_clock(self) -> None:
        self.assertIsNone(clock(fold([]), BW.edition.clock, QUILLHAVEN, at(2026, 11, 5)))

    def test_the_last_day_and_the_days_after_it(self) -> None:
        case = fold(STATES["Being checked"])
        for day, left, said in (
            (18, 1, "1 working day left, by Thu 19 Nov"),
            (19, 0, "ends today at the end of the office day"),
            (20, -1, "1 working day over, the limit was Thu 19 Nov"),
            (24, -3, "3 working days over"),
        ):
            found = clock(case, BW.edition.clock, QUILLHAVEN, at(2026, 11, day))
            assert found
            self.assertEqual(found.left, left)
            self.assertIn(said, found.said)

    def test_the_target_that_is_told_is_the_limit_that_is_shown(self) -> None:
        within = BW.edition.clock.decision.within
        for n in range(60):
            moment = at(2026, 11, 26) + timedelta(days=n, hours=n % 9)
            target = within.last_day(QUILLHAVEN.received_on(moment), QUILLHAVEN)
            done = h.Accepted(at=moment, who="i", role="officer", target=target)
            found = clock(fold((*STATES["Answers came back"], CLOSED, done)), BW.edition.clock, QUILLHAVEN, moment)
            assert found
            self.assertEqual(found.limit_day, target)
