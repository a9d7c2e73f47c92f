"""Others invited to a filing: each does what the invitation says and nothing else, in the draft and in the case; each use is seen."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from datetime import timedelta
from itertools import count

from sqlalchemy import select

from jolly_clerk.office.cases import endings, notices, paying
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking, talking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, OfficeError, TooLarge
from jolly_clerk.office.keeping import removing
from jolly_clerk.office.keeping.copying import copy_of
from jolly_clerk.office.keeping.erasing import erase_person
from jolly_clerk.office.office import Who
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import answering, attaching, drafts, filing, inviting, own, pile, signing, transferring
from jolly_clerk.office.views.draft import draft_view
from jolly_clerk.store.beside import Erasure, Invitation
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Draft, Outgoing, Person
from tests.office.test_journey import PLAN, SMALL_PLAN, Cases
from tests.reading.test_reading import pdf

ADA = "ada@marsh.example"


class Inviting(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.ada = add_person(self.office, "ada", "Ada Marsh", "applicant", ADA)
        self.filing = self.draft()
        self.instant += timedelta(minutes=3)  # nobody writes any more

    def invite(self, *rights: str, of: str = "", parts: tuple[str, ...] = ()) -> list[inviting.Invited]:
        return inviting.invite(self.office, self.odalys, of or self.filing, f" {ADA.upper()} ", "Ada  Marsh", rights, parts)

    def type(self, who: Who, part: str, question: str, value: str) -> drafts.OpenDraft:
        answers = drafts.open_draft(self.office, who, self.filing).dossier.answers
        now = {**answers, part: {**answers.get(part, {}), question: value}}
        return drafts.keep(self.office, who, self.filing, None, answers=now)

    def refused(self, kind: type[OfficeError], act: Callable[[], object]) -> str:
        with self.assertRaises(kind) as raised:
            act()
        return raised.exception.detail

    def test_nobody_finds_it_before_and_after(self) -> None:
        self.refused(NotFound, lambda: drafts.open_draft(self.office, self.ada, self.filing))
        (invited,) = self.invite("fill")
        self.assertEqual((invited.mail, invited.name, invited.rights, invited.joined), (ADA, "Ada Marsh", ("look", "fill"), True))
        self.assertEqual(invited.said, "look at it, fill in")
        self.assertFalse(drafts.open_draft(self.office, self.ada, self.filing).access.owner)
        self.refused(NotFound, lambda: drafts.open_draft(self.office, self.tamsin, self.filing))
        (to,) = inviting.invited_to(self.office, self.ada)
        self.assertEqual((to.draft, to.owner, to.kind_title), (self.filing, "Odalys Renn", "Building works permit"))
        self.assertEqual(inviting.invited_to(self.office, self.odalys), [])
        inviting.end(self.office, self.odalys, invited.id)
        self.refused(NotFound, lambda: drafts.open_draft(self.office, self.ada, self.filing))
        self.assertEqual(
            (inviting.invited_to(self.office, self.ada), inviting.invitations(self.office, self.odalys, self.filing)), ([], [])
        )
        (again,) = self.invite("fill")
        self.refused(NotFound, lambda: inviting.end(self.office, self.tamsin, again.id))
        inviting.end(self.office, self.ada, again.id)  # whoever was invited leaves
        self.refused(NotFound, lambda: drafts.open_draft(self.office, self.ada, self.filing))

    def test_every_right_and_every_act(self) -> None:
        areas = count(11)
        piece = lambda: pile.add_to_pile(self.office, self.ada, self.filing, "x.pdf", pdf())  # noqa: E731
        acts: dict[str, tuple[str, Callable[[], object]]] = {
            "fill": ("fill", lambda: self.type(self.ada, "works", "area", f"{next(areas)}")),
            "attach": (
                "attach",
                lambda: attaching.attach(self.office, self.ada, self.filing, "site_plan", "b.pdf", pdf(text="another")),
            ),
            "pile": ("attach", piece),
            "sign": ("sign", lambda: signing.sign(self.office, self.ada, self.filing, "Ada Marsh")),
            "unsign": ("sign", lambda: signing.unsign(self.office, self.ada, self.filing)),
            "note": ("owner", lambda: drafts.keep(self.office, self.ada, self.filing, None, note="Soon, please.")),
            "own reference": ("owner", lambda: drafts.keep(self.office, self.ada, self.filing, None, own_reference="mine")),
            "folder": ("owner", lambda: drafts.keep(self.office, self.ada, self.filing, None, folder="mine")),
            "throw away": ("owner", lambda: drafts.throw_away(self.office, self.ada, self.filing)),
            "offer": ("owner", lambda: transferring.offer(self.office, self.ada, self.filing, "x@y.example")),
            "invite": ("owner", lambda: inviting.invite(self.office, self.ada, self.filing, "x@y.example", "Xenia", ["look"])),
            "see the invited": ("owner", lambda: inviting.invitations(self.office, self.ada, self.filing)),
            "take over": ("owner", lambda: drafts.take_part_over(self.office, self.ada, self.filing, "works")),
            "file": ("owner", lambda: filing.file(self.office, self.ada, self.filing, take_gaps=True)),
        }
        for right in ("look", "fill", "attach", "sign", "pay", "answer"):
            self.invite(right)
            signing.sign(self.office, self.odalys, self.filing, "Odalys Renn")  # that there is one to take back
            for name, (needed, act) in acts.items():
                with self.subTest(right=right, act=name):
                    if right == needed:
                        act()
                    else:
                        self.refused(NotAllowed, act)
        self.refused(NotFound, lambda: own.begin_like(self.office, self.ada, self.filing))

    def test_parts_and_what_the_page_tells(self) -> None:
        self.invite("fill", parts=("works",))
        self.type(self.ada, "works", "area", "12")
        told = self.refused(NotAllowed, lambda: self.type(self.ada, "place", "address", "2 Pier Road"))
        self.assertEqual(told, "You were invited to fill in other parts of this filing.")
        view = draft_view(drafts.open_draft(self.office, self.ada, self.filing))
        self.assertNotIn("works", view.read_only)
        self.assertTrue({"place", "documents", "sign"} <= set(view.read_only))
        self.assertEqual((view.own, view.owner, view.folder), (False, "Odalys Renn", ""))
        self.refused(Invalid, lambda: self.invite("fill", parts=("nonsense",)))
        self.refused(Invalid, lambda: self.invite("nonsense"))
        self.refused(Invalid, lambda: inviting.invite(self.office, self.odalys, self.filing, "no address", "Ada", ["look"]))

    def test_one_writes_a_part_at_a_time(self) -> None:
        self.invite("fill")
        self.type(self.ada, "works", "area", "12")
        told = self.refused(NotReady, lambda: self.type(self.odalys, "works", "area", "13"))
        self.assertIn("Ada Marsh is writing this part", told)
        view = draft_view(drafts.open_draft(self.office, self.odalys, self.filing))
        self.assertEqual([(w.part, w.name) for w in view.written], [("works", "Ada Marsh")])
        self.assertIn("works", view.read_only)
        self.type(self.odalys, "place", "address", "2 Pier Road")  # another part is free
        drafts.take_part_over(self.office, self.odalys, self.filing, "works")
        self.type(self.odalys, "works", "area", "13")
        told = self.refused(NotReady, lambda: self.type(self.ada, "works", "area", "14"))
        self.assertIn("Odalys Renn is writing", told)
        self.instant += timedelta(seconds=121)
        self.type(self.ada, "works", "area", "14")

    def test_each_use_is_seen(self) -> None:
        self.invite("fill", "attach", "sign")
        found = drafts.open_draft(self.office, self.ada, self.filing)
        inviting.note_look(self.office, found.access)
        inviting.note_look(self.office, found.access)  # within a minute: once
        self.instant += timedelta(minutes=1)
        self.type(self.ada, "works", "area", "12")
        self.instant += timedelta(minutes=1)
        attaching.attach(self.office, self.ada, self.filing, "site_plan", "b.pdf", pdf(text="another"))
        self.instant += timedelta(minutes=1)
        signing.sign(self.office, self.ada, self.filing, "Ada Marsh")
        (invited,) = inviting.invitations(self.office, self.odalys, self.filing)
        self.assertEqual(
            [(u.said, u.count) for u in invited.uses],
            [("signed or declared", 1), ("changed the files", 1), ("filled in “The works”", 1), ("looked at it", 1)],
        )

    def test_a_payer_pays_the_case_and_nothing_else(self) -> None:
        self.invite("pay")
        reference = filing.file(self.office, self.odalys, self.filing, take_gaps=True)
        self.assertEqual([to.reference for to in inviting.invited_to(self.office, self.ada)], [reference])
        with self.assertRaises(NotFound) as raised:
            drafts.open_draft(self.office, self.ada, self.filing)
        self.assertEqual(raised.exception.reference, reference)  # its old address leads to the case
        self.refused(NotFound, lambda: load_case(self.office, self.tamsin, reference))
        self.refused(NotAllowed, lambda: endings.withdraw(self.office, self.ada, reference, "No more."))
        self.refused(NotAllowed, lambda: endings.take_back(self.office, self.ada, reference, "No more."))
        self.refused(NotAllowed, lambda: talking.write(self.office, self.ada, reference, "Hello."))
        asked = paying.ask_payment(self.office, self.ada, reference)
        notices.at_stand_in(self.office, self.ada, asked.key, "approved")
        self.assertEqual(load_case(self.office, self.ada, reference).assessment.account.open, 0)
        (invited,) = inviting.invitations(self.office, self.odalys, reference)
        self.assertIn("went to pay", [use.said for use in invited.uses])
        inviting.end(self.office, self.odalys, invited.id)
        self.refused(NotFound, lambda: load_case(self.office, self.ada, reference))
        self.refused(NotFound, lambda: notices.at_stand_in(self.office, self.ada, asked.key, "approved"))

    def test_whoever_only_looks_does_not_pay(self) -> None:
        self.invite("look")
        reference = filing.file(self.office, self.odalys, self.filing, take_gaps=True)
        load_case(self.office, self.ada, reference)
        self.refused(NotAllowed, lambda: paying.ask_payment(self.office, self.ada, reference))

    def test_a_letter_is_answered_by_whoever_was_invited_to(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference, site_plan="wanting")
        checking.send_letter(self.office, self.imre, reference)
        self.assertEqual(load_case(self.office, self.odalys, reference).assessment.state, "Answers wanted")
        self.refused(NotFound, lambda: answering.begin_answering(self.office, self.ada, reference))
        self.invite("look", of=reference)
        self.refused(NotAllowed, lambda: answering.begin_answering(self.office, self.ada, reference))
        self.invite("answer", of=reference)
        self.filing = answering.begin_answering(self.office, self.ada, reference)
        self.assertEqual(answering.begin_answering(self.office, self.odalys, reference), self.filing)  # one for both
        self.assertTrue(drafts.open_draft(self.office, self.odalys, self.filing).access.owner)
        old = drafts.open_draft(self.office, self.ada, self.filing).dossier.attachments[0]
        attaching.detach(self.office, self.ada, self.filing, old.id)
        attaching.attach(self.office, self.ada, self.filing, "site_plan", "plan-c.pdf", PLAN)
        drafts.keep(self.office, self.ada, self.filing, None, words={1: "Drawn anew."}, note="Sorry.")
        signing.sign(self.office, self.ada, self.filing, "Ada Marsh")
        answering.send_answers(self.office, self.ada, self.filing)
        self.assertEqual(load_case(self.office, self.odalys, reference).history.entries[-1].who, "ada")
        (invited,) = inviting.invitations(self.office, self.odalys, reference)
        self.assertIn("sent answers", [use.said for use in invited.uses])

    def test_who_is_invited_and_how_many(self) -> None:
        with write_session(self.office.engine) as session:
            session.get_one(Person, "odalys").mail = "odalys@renn.example"
            session.get_one(Person, "ada").confirmed = False
        self.refused(
            Invalid, lambda: inviting.invite(self.office, self.odalys, self.filing, "odalys@renn.example", "I", ["look"])
        )
        self.invite("look")
        self.refused(
            NotFound, lambda: drafts.open_draft(self.office, self.ada, self.filing)
        )  # the address is not shown to be hers
        for n in range(inviting.MOST_INVITED - 1):
            inviting.invite(self.office, self.odalys, self.filing, f"p{n}@y.example", "Somebody", ["look"])
        self.refused(
            TooLarge, lambda: inviting.invite(self.office, self.odalys, self.filing, "z@y.example", "Somebody", ["look"])
        )
        self.assertEqual(len(self.invite("look", "fill")), inviting.MOST_INVITED)  # other rights for the same: no further one
        with read_session(self.office.engine) as session:
            mails = list(session.scalars(select(Outgoing.subject).where(Outgoing.to == ADA)))
        self.assertEqual(mails, ["You were invited to a filing"] * 2)

    def test_a_copy_of_what_is_held_tells_it_on_both_sides(self) -> None:
        self.invite("look", "sign")
        for person in ("odalys", "ada"):
            copy = io.BytesIO()
            copy_of(self.office, person, copy)
            with zipfile.ZipFile(copy) as told:
                (one,) = json.loads(told.read("invitations.json"))
            self.assertEqual((one["mail"], one["rights"]), (ADA, ["look", "sign"]))

    def test_it_goes_with_the_draft_and_with_the_person(self) -> None:
        self.invite("look")
        with write_session(self.office.engine) as session:
            erasure = Erasure(what="person", target_id="ada", called="", reason="", asked_by="", asked_at=self.office.now())
            erasure.done_at = self.office.now()
            erase_person(session, erasure)
        with read_session(self.office.engine) as session:
            self.assertEqual(list(session.scalars(select(Invitation))), [])
        self.invite("look")
        drafts.throw_away(self.office, self.odalys, self.filing)
        self.refused(NotFound, lambda: drafts.open_draft(self.office, self.ada, self.filing))
        self.assertEqual(inviting.invited_to(self.office, self.ada), [])
        self.instant += timedelta(days=8)
        removing.tidy(self.office)
        with read_session(self.office.engine) as session:
            self.assertEqual((list(session.scalars(select(Invitation))), session.get(Draft, self.filing)), ([], None))
