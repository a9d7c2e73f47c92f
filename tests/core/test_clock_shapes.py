"""The clock says what laws say: each shape worked out by hand, and its ribbon adding up to the days that have gone by."""

from __future__ import annotations

import unittest
from datetime import date, datetime
from typing import Any

from jolly_clerk.core import history as h
from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.clock import ClockView
from jolly_clerk.core.deadlines import answers_due, deemed
from jolly_clerk.core.dossier.model import Dossier, Version
from jolly_clerk.core.due import next_look, what_is_due
from jolly_clerk.core.history import History
from jolly_clerk.core.known import Known
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.shelf.nodes import UnreadableRulebook
from jolly_clerk.shelf.rulebooks import read_rulebook
from tests.helpers import QUILLHAVEN, at

EDITION = """
kind: AP
title: Appeal
about: For whoever appeals.
law: Appeals Order
in_force: 2026-01-01
currency: EUR
calendar: quillhaven
case_title: Appeal
parts:
  - id: appeal
    title: The appeal
    questions:
      - {id: urgent, ask: Is it urgent?, type: yes or no, default: "no"}
      - {id: hearing, ask: Day of the hearing, type: date, optional: true}
signature: {text: I have told the truth., article: "1"}
fees:
  - {line: fee, title: Fee, stage: at filing, flat: 40.00, article: "1"}
clock:
"""
PLAIN = {
    "check": 'within: 10 working days, article: "2"', "answers": 'within: 14 days, once_more: 7 days, article: "4"',
    "pay": 'within: 14 days, article: "1"', "decision": 'within: 40 working days, article: "5"',
}  # fmt: skip


def edition(**periods: str) -> Rulebook:
    """An edition whose clock says this."""
    text = EDITION + "".join(f"  {name}: {{{periods.get(name, said)}}}\n" for name, said in PLAIN.items())
    return read_rulebook(text, "ap.yaml").rulebook


def case(rules: Rulebook, now: datetime, *steps: tuple[str, datetime], **appeal: Any) -> Assessment:
    """A case filed on Thu 5 Nov 2026 at 11:00, with what happened since, assessed."""
    dossier = Dossier(answers={"appeal": appeal})
    whose: dict[str, Any] = {"who": "o", "role": "applicant"}
    office: dict[str, Any] = {"who": "i", "role": "officer"}
    entries: list[h.Entry] = [h.Filed(at=at(2026, 11, 5, 11), **whose, edition="AP", due_at_filing=40)]  # type: ignore[arg-type]
    versions = [Version(no=1, at=at(2026, 11, 5, 11), dossier=dossier)]
    point = h.AskedPoint(no=1, requirement="signature", title="-", text="-", places=("signature",))
    for what, when in steps:
        clock = rules.clock_for(
            {"appeal.urgent": appeal.get("urgent", False), "appeal.hearing": appeal.get("hearing"), "case.calendar": QUILLHAVEN}
        )
        due = answers_due(when, clock, QUILLHAVEN)
        told: dict[str, Any] = {"due": due.day, "due_at": due.at, "received": deemed(when, clock.answers, QUILLHAVEN)}
        if what == "paid":
            entries.append(h.Paid(at=when, **whose, amount=40, means="card", key="k"))  # type: ignore[arg-type]
        elif what == "checking":
            entries.append(h.CheckingBegan(at=when, **office))
        elif what == "letter":
            entries.append(h.LetterSent(at=when, **office, round=1, version=1, points=(point,), **told))
        elif what == "answered":
            versions.append(Version(no=2, at=when, dossier=dossier))
            entries.append(h.Answered(at=when, **whose, round=1, version=2))
        elif what == "accepted":
            entries.append(h.Accepted(at=when, **office, target=None))
    return assess(rules, dossier, History(entries=tuple(entries), versions=tuple(versions)), Known(QUILLHAVEN), now)


def clock_of(a: Assessment) -> ClockView:
    assert a.clock is not None
    gone = [d for d in a.clock.ribbon if not d.to_come]
    assert len(gone) == (QUILLHAVEN.local_day(a.now) - date(2026, 11, 5)).days + 1, gone
    return a.clock


PAID = ("paid", at(2026, 11, 5, 12))
BEGUN = ("checking", at(2026, 11, 6, 9))


class Shapes(unittest.TestCase):
    def test_begins_anew_with_the_answers(self) -> None:
        """Letter Thu 12 Nov, answers Wed 25 Nov: where it resumes 5 of 10 were used, else ten days follow the 25th."""
        steps = (PAID, BEGUN, ("letter", at(2026, 11, 12, 15)), ("answered", at(2026, 11, 25, 10)))
        for said, limit in (("resumes", date(2026, 12, 3)), ("begins anew", date(2026, 12, 9))):
            found = clock_of(case(edition(check=f"{PLAIN['check']}, after_answers: {said}"), at(2026, 11, 26), *steps))
            self.assertEqual((found.limit_day, found.holder), (limit, "ours"), said)
        waiting = clock_of(case(edition(check=f"{PLAIN['check']}, after_answers: begins anew"), at(2026, 11, 16), *steps[:3]))
        self.assertIn("The office's period begins anew with your answers.", waiting.why)

    def test_by_an_answer(self) -> None:
        rules = edition(
            check=f'{PLAIN["check"]}, instead: [{{when: appeal.urgent, within: 48 hours, article: "6"}}]',
            answers=f'{PLAIN["answers"]}, instead: [{{when: appeal.urgent, within: 36 hours, article: "6"}}]',
        )
        plain, urgent = (case(rules, at(2026, 11, 6, 9), PAID, urgent=yes) for yes in (False, True))
        self.assertEqual((clock_of(plain).limit_day, clock_of(plain).unit), (date(2026, 11, 19), "working days"))
        self.assertEqual(
            (clock_of(urgent).limit_at, clock_of(urgent).unit, clock_of(urgent).left), (at(2026, 11, 7, 12), "hours", 27)
        )

    def test_hours_for_the_applicant(self) -> None:
        rules = edition(
            answers='within: 36 hours, once_more: 12 hours, article: "6"', pay='within: 20 office hours, article: "1"'
        )
        unpaid = case(rules, at(2026, 11, 5, 12))
        self.assertEqual(clock_of(unpaid).limit_at, at(2026, 11, 9, 14))  # 5.5 on Thursday, 8.5 on Friday, 6 on Monday
        letter = at(2026, 11, 12, 15)
        asked = case(rules, at(2026, 11, 13, 9), PAID, BEGUN, ("letter", letter))
        found = clock_of(asked)
        self.assertEqual(
            (found.limit_at, found.short, found.said), (at(2026, 11, 14, 3), "18 hours left", "until Sat 14 Nov 03:00")
        )
        self.assertEqual(next_look(asked), at(2026, 11, 14, 3))
        late = case(rules, at(2026, 11, 14, 3), PAID, BEGUN, ("letter", letter))
        self.assertEqual(type(what_is_due(late)).__name__, "Lapse")
        more = answers_due(letter, rules.edition.clock, QUILLHAVEN, extended=True)
        self.assertEqual(more.at, at(2026, 11, 14, 15))

    def test_more_time_in_another_unit(self) -> None:
        rules = edition(answers='within: 14 days, once_more: 1 month, article: "4"')
        self.assertEqual(
            answers_due(at(2026, 11, 12, 15), rules.edition.clock, QUILLHAVEN, extended=True).day, date(2026, 12, 28)
        )

    def test_a_last_day_that_is_closed_stays(self) -> None:
        """14 days after Thu 5 Nov are Thu 19 Nov; after Sat 7 Nov they are Sat 21 Nov."""
        stays = edition(answers=f"{PLAIN['answers']}, if_closed: stays", check='within: 9 days, article: "2", if_closed: stays')
        moves = edition(check='within: 9 days, article: "2"')
        for rules, answers, check in (
            (stays, date(2026, 11, 21), date(2026, 11, 14)),
            (moves, date(2026, 11, 23), date(2026, 11, 16)),
        ):
            self.assertEqual(answers_due(at(2026, 11, 7, 15), rules.edition.clock, QUILLHAVEN).day, answers)
            self.assertEqual(clock_of(case(rules, at(2026, 11, 6), PAID)).limit_day, check)

    def test_from_which_event(self) -> None:
        """Filed Thu 5 Nov, paid Tue 10 Nov: ten working days after either."""
        late = ("paid", at(2026, 11, 10, 12))
        for said, limit in (("later", 24), ("payment", 24), ("earlier", 19), ("filing", 19)):
            found = clock_of(case(edition(check=f"{PLAIN['check']}, from: {said}"), at(2026, 11, 11), late))
            self.assertEqual(found.limit_day, date(2026, 11, limit), said)

    def test_a_letter_counts_as_received_later(self) -> None:
        """Sent Thu 12 Nov, received on the third working day, Tue 17 Nov; thirty days after it is Thu 17 Dec, closed: Fri 18 Dec."""
        rules = edition(answers='within: 30 days, once_more: 15 days, received: 3 working days, article: "4"')
        a = case(rules, at(2026, 11, 13), PAID, BEGUN, ("letter", at(2026, 11, 12, 15)))
        found = clock_of(a)
        self.assertEqual((found.limit_day, found.since), (date(2026, 12, 18), date(2026, 11, 17)))
        self.assertIn("The letter of Thu 12 Nov counts as received on Tue 17 Nov.", found.why)
        held = {d.day: d.holder for d in found.ribbon}
        self.assertEqual((held[date(2026, 11, 11)], held[date(2026, 11, 12)]), ("ours", "theirs"))
        calendar_days = edition(answers='within: 14 days, received: 3 days, if_closed: stays, article: "4"')
        self.assertEqual(answers_due(at(2026, 11, 12, 15), calendar_days.edition.clock, QUILLHAVEN).day, date(2026, 11, 29))

    def test_counted_backwards_from_an_event(self) -> None:
        rules = edition(answers=f"{PLAIN['answers']}, at_latest: {{before: appeal.hearing, within: 5 working days}}")
        letter = ("letter", at(2026, 11, 12, 15))
        for hearing, due in (("2026-11-27", date(2026, 11, 20)), ("2026-12-24", date(2026, 11, 26)), (None, date(2026, 11, 26))):
            told = {"hearing": date.fromisoformat(hearing)} if hearing else {}
            clock = rules.clock_for({"appeal.hearing": told.get("hearing"), "case.calendar": QUILLHAVEN})
            self.assertEqual(answers_due(letter[1], clock, QUILLHAVEN).day, due, hearing)

    def test_an_edition_that_cannot_run_is_refused(self) -> None:
        for name, said, told in (
            ("answers", 'within: 14 days, received: 3 hours, article: "4"', "a letter counts as received some days after"),
            (
                "answers",
                'within: 14 days, at_latest: {before: appeal.urgent, within: 5 days}, article: "4"',
                "a date is needed here",
            ),
            ("answers", 'within: 14 days, at_latest: {before: appeal.hearing, within: 5 hours}, article: "4"', "not hours"),
            (
                "check",
                'within: 14 days, instead: [{when: appeal.urgnt, within: 2 days, article: "1"}], article: "4"',
                "did you mean `appeal.urgent`",
            ),
            ("check", 'within: 14 days, from: payday, article: "4"', "“payday” is not known at `from`"),
            ("decision", 'within: 14 days, silence: refused, article: "4"', "“refused” is not known at `silence`"),
        ):
            with self.subTest(said=said), self.assertRaises(UnreadableRulebook) as caught:
                edition(**{name: said})
            self.assertIn(told, str(caught.exception))
