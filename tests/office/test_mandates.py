"""Mandates: given and accepted by both, held to their rights, kinds, cases and days; after the end only what was sent until then."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from datetime import date, timedelta
from itertools import count

from sqlalchemy import select

from jolly_clerk.office.cases import endings, lists, paying
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, OfficeError
from jolly_clerk.office.keeping.copying import copy_of
from jolly_clerk.office.keeping.erasing import erase_person
from jolly_clerk.office.office import Who
from jolly_clerk.office.people.directory import add_person, person
from jolly_clerk.office.preparing import answering, attaching, drafts, filing, inviting, mandates, signing, transferring
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED
from jolly_clerk.store.beside import Erasure
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Outgoing, Person
from tests.helpers import answers
from tests.office.test_journey import PLAN, ROOF, SMALL_PLAN, Cases

ADA, ODALYS = "ada@marsh.example", "odalys@renn.example"


class Mandates(Cases):
    def setUp(self) -> None:
        super().setUp()
        add_person(self.office, "ada", "Ada Marsh", "applicant", ADA)
        with write_session(self.office.engine) as session:
            session.get_one(Person, "odalys").mail = ODALYS

    @property
    def ada(self) -> Who:
        """As she comes just now, with the mandates in force."""
        return person(self.office, "ada")

    def give(self, *rights: str, accepted: bool = True, **more: object) -> str:
        told = mandates.give(self.office, self.odalys, ADA.upper(), "Ada  Marsh", rights, **more)  # type: ignore[arg-type]
        made = next(m.id for m in told if m.state == "offered")
        if accepted:
            mandates.accept(self.office, self.ada, made)
        return made

    def refused(self, kind: type[OfficeError], act: Callable[[], object]) -> str:
        with self.assertRaises(kind) as raised:
            act()
        return raised.exception.detail

    def mails(self, to: str) -> list[str]:
        with read_session(self.office.engine) as session:
            return [m.subject for m in session.scalars(select(Outgoing).where(Outgoing.to == to).order_by(Outgoing.put_at))]

    def test_nothing_holds_before_it_is_accepted(self) -> None:
        filing_ = self.draft()
        mandate = self.give("prepare", accepted=False)
        self.assertEqual(self.mails(ADA), ["You are asked to act for somebody"])
        self.refused(NotFound, lambda: drafts.open_draft(self.office, self.ada, filing_))
        (asked,) = mandates.given(self.office, self.ada)
        self.assertEqual(
            (asked.state, asked.mine, asked.name, asked.said), ("offered", False, "Odalys Renn", "prepare filings and answers")
        )
        self.refused(NotFound, lambda: mandates.accept(self.office, self.tamsin, mandate))
        self.refused(NotAllowed, lambda: mandates.accept(self.office, self.odalys, mandate))
        mandates.accept(self.office, self.ada, mandate)
        self.assertIn("Ada Marsh acts for you now", self.mails(ODALYS))
        self.assertEqual(drafts.open_draft(self.office, self.ada, filing_).access.mandate, mandate)
        self.assertEqual([m.state for m in mandates.given(self.office, self.odalys)], ["in force"])

    def test_an_agent_prepares_and_files_for_the_owner(self) -> None:
        self.give("prepare", "file", "pay", "letters")
        self.assertEqual([(a.owner, a.kinds) for a in mandates.acting_for(self.office, self.ada)], [("odalys", ())])
        draft = drafts.start_draft(self.office, self.ada, "BW", owner="odalys")
        self.assertTrue(drafts.open_draft(self.office, self.odalys, draft).access.owner)
        drafts.keep(self.office, self.ada, draft, None, answers=answers())
        attaching.attach(self.office, self.ada, draft, "site_plan", "plan.pdf", PLAN)
        attaching.attach(self.office, self.ada, draft, "sections", "sections.pdf", ROOF)
        signing.sign(self.office, self.ada, draft, "Ada Marsh")
        reference = filing.file(self.office, self.ada, draft, take_gaps=True)
        loaded = load_case(self.office, self.odalys, reference)
        self.assertEqual((loaded.case.applicant_id, loaded.history.entries[0].who), ("odalys", "ada"))
        self.assertEqual(sum(page.count for page in lists.my_cases(self.office, self.odalys)), 1)
        subject = f"Filed: {loaded.assessment.title}"
        self.assertEqual((self.mails(ADA)[-1], subject in self.mails(ODALYS)), (subject, True))
        (found,) = mandates.acting_in(self.office, self.ada)
        self.assertEqual((found.reference, found.owner), (reference, "Odalys Renn"))
        self.assertEqual(paying.ask_payment(self.office, self.ada, reference).reference, reference)
        self.refused(NotAllowed, lambda: endings.withdraw(self.office, self.ada, reference, "No more."))

    def test_an_agent_answers(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        self.give("prepare", "file", "letters")
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference, site_plan="wanting")
        checking.send_letter(self.office, self.imre, reference)
        self.assertIn("We need 1 thing from you", self.mails(ADA))
        answer = answering.begin_answering(self.office, self.ada, reference)
        drafts.keep(self.office, self.ada, answer, None, words={1: "It is that large."})
        answering.send_answers(self.office, self.ada, answer)
        self.assertEqual(self.said(reference).state, "Answers came back")
        self.refused(NotFound, lambda: drafts.open_draft(self.office, self.ada, answer))

    def test_each_right_allows_its_own(self) -> None:
        filing_, unpaid = self.draft(), filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        areas = count(71)
        acts: dict[str, Callable[[], object]] = {
            "prepare": lambda: drafts.keep(self.office, self.ada, filing_, None, answers=answers(works_area=f"{next(areas)}")),
            "file": lambda: signing.sign(self.office, self.ada, filing_, "Ada Marsh"),
            "pay": lambda: paying.ask_payment(self.office, self.ada, unpaid),
        }
        for right in ("prepare", "file", "pay", "letters"):
            mandate = self.give(right)
            self.instant += timedelta(minutes=3)  # nobody writes any more
            for needed, act in acts.items():
                with self.subTest(right=right, act=needed):
                    if right == needed:
                        act()
                    else:
                        self.refused(NotAllowed, act)
            mandates.end(self.office, self.ada if right == "pay" else self.odalys, mandate)
            for act in acts.values():
                self.refused(NotFound, act)

    def test_the_owner_alone(self) -> None:
        filing_ = self.draft()
        self.give("prepare", "file", "pay", "letters")
        for act in (
            lambda: drafts.throw_away(self.office, self.ada, filing_),
            lambda: inviting.invite(self.office, self.ada, filing_, "ida@marsh.example", "Ida", ["fill"]),
            lambda: transferring.offer(self.office, self.ada, filing_, "ida@marsh.example"),
            lambda: drafts.keep(self.office, self.ada, filing_, None, own_reference="mine"),
        ):
            self.refused(NotAllowed, act)

    def test_kinds_cases_and_days(self) -> None:
        filing_, reference, other = self.draft(), self.filed(), self.filed()
        publish(self.office, next(SHIPPED.glob("TL/*.yaml")))
        self.give("prepare", kinds=["TL"])
        self.refused(NotFound, lambda: drafts.open_draft(self.office, self.ada, filing_))
        self.refused(NotAllowed, lambda: drafts.start_draft(self.office, self.ada, "BW", owner="odalys"))
        self.refused(NotFound, lambda: load_case(self.office, self.ada, reference))
        self.give("letters", cases=[reference])
        self.assertEqual(load_case(self.office, self.ada, reference).access.rights, ("look",))
        self.refused(NotFound, lambda: load_case(self.office, self.ada, other))
        self.refused(NotFound, lambda: drafts.open_draft(self.office, self.ada, filing_))
        self.assertEqual([c.reference for c in mandates.acting_in(self.office, self.ada)], [reference])
        to_come = self.give("prepare", kinds=["BW"], first=date(2026, 11, 7), last=date(2026, 11, 8))
        self.refused(NotFound, lambda: drafts.open_draft(self.office, self.ada, filing_))
        states = {m.id: m.state for m in mandates.given(self.office, self.ada)}
        self.assertEqual(states[to_come], "to come")
        self.move_to(2026, 11, 7, 0, 5)
        self.assertFalse(drafts.open_draft(self.office, self.ada, filing_).access.owner)
        self.move_to(2026, 11, 8, 23, 55)
        drafts.open_draft(self.office, self.ada, filing_)
        self.move_to(2026, 11, 9, 0, 1)
        self.refused(NotFound, lambda: drafts.open_draft(self.office, self.ada, filing_))
        self.assertEqual((mandates.tell_what_is_over(self.office), mandates.tell_what_is_over(self.office)), (1, 0))
        self.assertIn("A mandate is over", self.mails(ODALYS))

    def test_what_cannot_be_given(self) -> None:
        for wrong in (
            {"rights": ["rule"]}, {"kinds": ["XX"]}, {"cases": ["BW-26-00099-X"]}, {"last": date(2026, 11, 1)},
            {"first": date(2026, 12, 2), "last": date(2026, 12, 1)}, {"mail": ODALYS}, {"mail": "nobody"},
        ):  # fmt: skip
            told = {"mail": ADA, "name": "Ada", "rights": ["pay"]} | wrong
            with self.subTest(wrong=wrong):
                self.refused(Invalid, lambda told=told: mandates.give(self.office, self.odalys, **told))  # type: ignore[misc]

    def test_after_the_end_what_was_sent_until_then(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        mandate = self.give("letters")
        self.refused(NotFound, lambda: mandates.sent_until_its_end(self.office, self.ada, mandate))
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference, site_plan="wanting")
        self.move_to(2026, 11, 12, 15)
        due = checking.send_letter(self.office, self.imre, reference).assessment.rounds[0].due
        self.instant += timedelta(hours=1)
        mandates.end(self.office, self.odalys, mandate)
        self.assertIn("A mandate was ended", self.mails(ODALYS))
        self.assertEqual(self.said(reference).rounds[0].due, due)  # no limit moves
        self.refused(NotFound, lambda: load_case(self.office, self.ada, reference))
        self.instant += timedelta(hours=1)
        endings.withdraw(self.office, self.odalys, reference, "Not any more.")
        sent = mandates.sent_until_its_end(self.office, self.ada, mandate)
        self.assertIn("The office asked 1 thing", sent[0].text)
        self.assertTrue(all("ithdr" not in one.text for one in sent))
        name, pdf = mandates.sent_paper(self.office, self.ada, mandate, reference, sent[0].no)
        self.assertEqual((name, pdf[:4]), (f"{reference}-letter-1.pdf", b"%PDF"))
        last = len(load_case(self.office, self.imre, reference).history.entries)
        self.refused(NotFound, lambda: mandates.sent_paper(self.office, self.ada, mandate, reference, last))
        self.refused(NotFound, lambda: mandates.sent_until_its_end(self.office, self.tamsin, mandate))
        self.refused(NotReady, lambda: paying.ask_payment(self.office, self.odalys, reference))

    def test_held_about_both_and_erased(self) -> None:
        self.give("pay")
        for who in ("odalys", "ada"):
            out = self.folder / "copy.zip"
            copy_of(self.office, who, out)
            told = json.loads(zipfile.ZipFile(io.BytesIO(out.read_bytes())).read("mandates.json"))
            self.assertEqual([m["name"] for m in told], ["Ada Marsh"])
        with write_session(self.office.engine) as session:
            erasure = Erasure(id="e", what="person", target_id="ada")
            erase_person(session, erasure)
        self.assertEqual(mandates.given(self.office, self.odalys), [])
