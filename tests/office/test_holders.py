"""A permit that was transferred is offered to its new holder, who accepts it, files on it and is told its days."""

from __future__ import annotations

import json
from datetime import timedelta
from io import BytesIO
from unittest.mock import patch
from zipfile import ZipFile

from sqlalchemy import select, update

from jolly_clerk.core.say import speaking
from jolly_clerk.demo.drawings import statement
from jolly_clerk.office.cases import notices, paying
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.cases.seeing import held_by
from jolly_clerk.office.desk import reviewing
from jolly_clerk.office.errors import NotAllowed, NotFound, NotReady
from jolly_clerk.office.keeping import erasing
from jolly_clerk.office.keeping.copying import copy_of
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import Who
from jolly_clerk.office.people.directory import person
from jolly_clerk.office.permits import holding, stepping
from jolly_clerk.office.post.letterhead import letterhead
from jolly_clerk.office.preparing import attaching, drafts, filing, signing
from jolly_clerk.office.views.case import look_at
from jolly_clerk.office.views.draft import draft_view
from jolly_clerk.office.views.permit import permit_document, permit_page
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.permits import HeldPermit
from jolly_clerk.store.tables import Case, Outgoing, Person
from jolly_clerk.texts import catalogue
from tests.office.test_permit_steps import OnPermits


class Holders(OnPermits):
    def setUp(self) -> None:
        super().setUp()
        self.corvin, self.tamsin = (person(self.office, id_) for id_ in ("corvin", "tamsin"))
        with read_session(self.office.engine) as session:
            self.patent = session.scalars(select(Case.reference).where(Case.kind == "IP", Case.state == "Under review")).one()
        reviewing.grant(self.office, person(self.office, "silas"), self.patent)
        self.pays(self.corvin, self.patent)

    def mail(self, who: Who) -> str:
        with read_session(self.office.engine) as session:
            return session.get_one(Person, who.id).mail

    def pays(self, who: Who, reference: str) -> None:
        if self.loaded(reference).assessment.account.open:
            at = paying.ask_payment(self.office, who, reference)
            notices.at_stand_in(self.office, who, at.key, "approved")

    def filled(self, who: Who, to: str, mail: str) -> str:
        """A transfer as it is prepared, not signed yet; its draft."""
        draft = stepping.begin_step(self.office, who, self.patent, "IT")
        now = drafts.open_draft(self.office, who, draft).dossier.answers
        new = {"new": {"owner": to, "seat": "4 Saltern Slip, Quill", "mail": mail}, "you": {"language": "en", "post": "mail"}}
        kept = drafts.keep(self.office, who, draft, None, answers={**now, **new})
        for slot in ("deed", "acceptance") if not kept.dossier.attachments else ():
            paper = statement(slot.title(), (f"{who.name} gives the patent to {to}, who accepts it.",))
            attaching.attach(self.office, who, draft, slot, f"{slot}.pdf", paper)
        return draft

    def signed(self, who: Who, to: str, mail: str) -> str:
        """The same, signed."""
        draft = self.filled(who, to, mail)
        signing.sign(self.office, who, draft, who.name)
        return draft

    def transferred(self, who: Who, to: str, mail: str) -> str:
        """A transfer filed, paid and granted."""
        step = filing.file(self.office, who, self.signed(who, to, mail))
        self.pays(who, step)
        self.decide(step)
        return step

    def offered(self, who: Who) -> list[str]:
        return [row.reference for row in holding.permits_of(self.office, who).offered]

    def test_who_accepts_it_holds_it_and_files_on_it(self) -> None:
        self.transferred(self.corvin, "Odalys Renn", self.mail(self.odalys).upper())
        self.assertEqual(([self.patent], []), (self.offered(self.odalys), self.offered(self.tamsin)))
        with read_session(self.office.engine) as session:
            mails = list(
                session.scalars(select(Outgoing).where(Outgoing.to == self.mail(self.odalys), Outgoing.key.like("%-offer")))
            )
        self.assertIn(self.patent, mails[0].text)
        with self.assertRaises(NotFound):
            permit_page(self.office, self.odalys, self.patent)
        self.assertTrue(permit_page(self.office, self.corvin, self.patent).own)
        holding.accept_permit(self.office, self.odalys, self.patent)
        page = permit_page(self.office, self.odalys, self.patent)
        self.assertEqual(("Odalys Renn", True, False), (page.holder, page.own, page.sees_case))
        self.assertIn("Odalys Renn accepted it", page.history[0].text)
        self.assertEqual([False], [filed.opens for filed in page.filed])
        self.assertFalse([line for line in page.history if line.paper or "paid" in line.text])
        name, document = permit_document(self.office, self.odalys, self.patent)
        self.assertEqual((f"{self.patent}-permit.pdf", b"%PDF"), (name, document[:4]))
        with self.assertRaises(NotFound):  # what was filed for it stays with whoever filed it
            look_at(self.office, self.odalys, self.patent)
        before = permit_page(self.office, self.corvin, self.patent)
        self.assertEqual((False, True, ()), (before.own, before.sees_case, before.offers))
        self.assertEqual([True], [filed.opens for filed in before.filed])
        with self.assertRaises(NotAllowed):
            stepping.begin_step(self.office, self.corvin, self.patent, "IT")
        rows = holding.permits_of(self.office, self.odalys)
        self.assertEqual(([], [self.patent]), (list(rows.offered), [row.reference for row in rows.held]))
        self.assertEqual([], list(verify(self.office, self.patent)))

    def test_it_goes_on_to_a_third_and_each_owner_is_named(self) -> None:
        self.transferred(self.corvin, "Odalys Renn", self.mail(self.odalys))
        holding.accept_permit(self.office, self.odalys, self.patent)
        draft = self.signed(self.odalys, "Tamsin Oake", self.mail(self.tamsin))
        held = drafts.open_draft(self.office, self.odalys, draft).dossier.answers["held"]
        self.assertEqual("Odalys Renn", held["holder"])  # not whoever applied
        step = filing.file(self.office, self.odalys, draft)
        self.pays(self.odalys, step)
        self.decide(step)
        holding.accept_permit(self.office, self.tamsin, self.patent)
        self.assertEqual("Tamsin Oake", permit_page(self.office, self.tamsin, self.patent).holder)
        with self.assertRaises(NotFound):
            permit_page(self.office, self.odalys, self.patent)

    def test_declined_it_stays_and_the_one_before_is_told(self) -> None:
        self.transferred(self.corvin, "Odalys Renn", self.mail(self.odalys))
        for somebody in (self.tamsin, self.corvin):
            with self.assertRaises(NotFound):
                holding.accept_permit(self.office, somebody, self.patent)
        holding.decline_permit(self.office, self.odalys, self.patent)
        for answer in (holding.accept_permit, holding.decline_permit):
            with self.assertRaises(NotFound):
                answer(self.office, self.odalys, self.patent)
        self.assertTrue(permit_page(self.office, self.corvin, self.patent).own)
        with read_session(self.office.engine) as session:
            told = list(session.scalars(select(Outgoing.text).where(Outgoing.key.like("%-offer-answered"))))
        self.assertEqual(["Odalys Renn has declined it. It stays with you."], told)

    def test_an_address_that_is_none_or_ones_own_is_told_before_it_is_filed(self) -> None:
        draft = self.signed(self.corvin, "Odalys Renn", self.mail(self.corvin))
        with self.assertRaisesRegex(NotReady, "This address is your own") as refused:
            filing.file(self.office, self.corvin, draft)
        self.assertEqual("new.mail", refused.exception.place)
        draft = self.filled(self.corvin, "Odalys Renn", "odalys at home")
        shown = draft_view(drafts.open_draft(self.office, self.corvin, draft)).assessment
        told = next(q for part in shown.parts for q in part.questions if q.place == "new.mail")
        self.assertEqual("This is no mail address. Write it like name@place.example.", told.fault)
        self.assertIn("new.mail", [left.place.ref for left in shown.left if left.place])

    def test_each_language_reads_it_in_its_own_words(self) -> None:
        self.transferred(self.corvin, "Odalys Renn", "")
        for language, label, title in (("", "Owner", "Transfer of a patent"), ("pt", "Titular", "Transmissão de uma patente")):
            with self.subTest(language), speaking(catalogue(language) if language else None, language):
                page = permit_page(self.office, self.corvin, self.patent)
                self.assertEqual(["Odalys Renn"], [told.value for told in page.says if told.label == label])
                self.assertTrue(any(title in line.text for line in page.history))

    def test_without_an_address_nothing_is_offered(self) -> None:
        self.transferred(self.corvin, "Odalys Renn", "")
        self.assertEqual([], self.offered(self.odalys))
        with read_session(self.office.engine) as session:
            self.assertIsNone(session.scalars(select(HeldPermit)).first())

    def test_an_address_that_was_broken_later_holds_nothing_up(self) -> None:
        with patch("jolly_clerk.office.permits.holding.accepts_it", return_value="odalys at home"):
            self.transferred(self.corvin, "Odalys Renn", self.mail(self.odalys))
        self.assertEqual("transferred", self.permit(self.patent).state)
        self.assertEqual([], self.offered(self.odalys))

    def test_its_days_are_told_to_whoever_holds_it(self) -> None:
        self.transferred(self.corvin, "Odalys Renn", self.mail(self.odalys))
        holding.accept_permit(self.office, self.odalys, self.patent)
        ends = self.permit(self.patent).day("ends")
        assert ends is not None
        later = self.office.now() + (ends - self.today()) - timedelta(days=29)
        self.office.now = lambda: later
        run_clock(self.office)
        with read_session(self.office.engine) as session:
            told = {m.to for m in session.scalars(select(Outgoing).where(Outgoing.key.like(f"{self.patent}-reminder-%")))}
        self.assertEqual({self.mail(self.odalys)}, told)
        head = letterhead(self.office, self.loaded(self.patent), self.today())
        self.assertEqual(("Odalys Renn", ""), (head["to"], head["to_address"]))

    def test_what_is_held_is_in_the_copy_and_keeps_the_account(self) -> None:
        self.transferred(self.corvin, "Tamsin Oake", self.mail(self.tamsin))
        holding.accept_permit(self.office, self.tamsin, self.patent)
        copy_of(self.office, self.tamsin.id, copied := BytesIO())
        self.assertEqual([self.patent], json.loads(ZipFile(copied).read("permits.json")))
        with read_session(self.office.engine) as session:
            held = list(session.scalars(select(Case.reference).where(held_by(self.tamsin.id))))
            before = list(session.scalars(select(Case.reference).where(held_by(self.corvin.id))))
        self.assertEqual((True, False), (self.patent in held, self.patent in before))
        with write_session(self.office.engine) as session:  # as if nothing else of hers were left
            session.execute(update(Case).where(Case.applicant_id == self.tamsin.id).values(erased_at=self.office.now()))
        with self.assertRaisesRegex(NotReady, self.patent):
            erasing.put_person_on_the_list(self.office, self.maud, self.tamsin.id, "she asked for it")
