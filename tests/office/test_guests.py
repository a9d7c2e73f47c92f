"""Whoever comes by the link of an invitation: a code to the invited address, and no more than look, sign and pay without a password."""

from __future__ import annotations

import re
from datetime import timedelta

from sqlalchemy import select

from jolly_clerk.office.cases import notices, paying
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, TooOften
from jolly_clerk.office.lifetimes import CODE_TRIES
from jolly_clerk.office.office import Who
from jolly_clerk.office.people import accounts, guests
from jolly_clerk.office.people.directory import add_person, signed_in
from jolly_clerk.office.preparing import attaching, drafts, filing, inviting, signing
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Outgoing
from tests.office.test_journey import Cases
from tests.reading.test_reading import pdf

ADA, PASSWORD = "ada@marsh.example", "harbour-lamp-ferry-9"


class Guests(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.filing = self.draft(signed=False)
        self.instant += timedelta(minutes=3)

    def mail(self, to: str = ADA) -> str:
        """The newest mail to an address, as the post room keeps it."""
        with read_session(self.office.engine) as session:
            keys = list(session.scalars(select(Outgoing.key).where(Outgoing.to == to).order_by(Outgoing.put_at)))
        text = (self.office.post_room.folder / f"{keys[-1]}.eml").read_text("utf-8")
        return text.replace("=\n", "").replace("=3D", "=")

    def link(self, *rights: str) -> str:
        inviting.invite(self.office, self.odalys, self.filing, ADA, "Ada Marsh", rights)
        return self.link_in_mail()

    def link_in_mail(self) -> str:
        found = re.search(r"/invited/([\w-]+)", self.mail())
        assert found
        return found[1]

    def code(self, link: str) -> str:
        guests.send_code(self.office, link)
        found = re.search(r"\b(\d{6})\b", self.mail())
        assert found
        return found[1]

    def come_in(self, link: str) -> Who:
        found = signed_in(self.office, guests.come_in(self.office, link, self.code(link)).secret)
        assert found
        return found.who

    def test_by_link_and_code_one_looks_and_signs_and_nothing_else(self) -> None:
        link = self.link("fill", "attach", "sign")
        told = guests.at_the_door(self.office, link)
        self.assertEqual(
            (told.name, told.owner, told.mail, told.has_account), ("Ada Marsh", "Odalys Renn", "a…@marsh.example", False)
        )
        ada = self.come_in(link)
        self.assertEqual((ada.name, ada.guest, ada.role), ("Ada Marsh", True, "applicant"))
        self.assertEqual([to.draft for to in inviting.invited_to(self.office, ada)], [self.filing])
        signing.sign(self.office, ada, self.filing, "Ada Marsh")
        for act in (
            lambda: drafts.keep(self.office, ada, self.filing, None, answers={"works": {"area": "9"}}),
            lambda: attaching.attach(self.office, ada, self.filing, "consent", "x.pdf", pdf()),
            lambda: drafts.start_draft(self.office, ada, "BW"),
        ):
            with self.assertRaises(NotAllowed):
                act()
        accounts.change_password(self.office, ada, "", PASSWORD)  # from now on it is an account
        again = signed_in(self.office, accounts.sign_in(self.office, ADA, PASSWORD).secret)
        assert again and not again.who.guest
        drafts.keep(self.office, again.who, self.filing, None, answers={"works": {"area": "9"}})
        self.assertTrue(guests.at_the_door(self.office, link).has_account)
        with self.assertRaises(NotReady):
            guests.send_code(self.office, link)

    def test_a_payer_by_link_pays(self) -> None:
        link = self.link("pay")
        signing.sign(self.office, self.odalys, self.filing, "Odalys Renn")
        reference = filing.file(self.office, self.odalys, self.filing, take_gaps=True)
        ada = self.come_in(link)
        asked = paying.ask_payment(self.office, ada, reference)
        notices.at_stand_in(self.office, ada, asked.key, "approved")
        self.assertEqual(load_case(self.office, ada, reference).assessment.account.open, 0)

    def test_codes_and_links_end(self) -> None:
        link = self.link("look")
        with self.assertRaises(Invalid):
            guests.come_in(self.office, link, "000000")  # none was asked for
        code = self.code(link)
        for wrong in range(CODE_TRIES):
            with self.assertRaises(Invalid):
                guests.come_in(self.office, link, f"{(int(code) + wrong + 1) % 1_000_000:06}")
        with self.assertRaises(Invalid):
            guests.come_in(self.office, link, code)  # tried too often
        code = self.code(link)
        self.instant += timedelta(minutes=31)
        with self.assertRaises(Invalid):
            guests.come_in(self.office, link, code)  # too old
        with self.assertRaises(TooOften):
            for _ in range(6):
                self.code(link)
        self.instant += timedelta(hours=2)
        code = self.code(link)
        newer = self.link("look")  # invited once more: the link before works no more
        for old in (link, "x" * 43):
            with self.assertRaises(NotFound):
                guests.at_the_door(self.office, old)
        self.instant += timedelta(days=31)
        with self.assertRaises(NotFound):
            guests.at_the_door(self.office, newer)

    def test_an_invitation_that_was_ended_lets_nobody_in(self) -> None:
        link = self.link("look")
        (one,) = inviting.invitations(self.office, self.odalys, self.filing)
        inviting.end(self.office, self.odalys, one.id)
        with self.assertRaises(NotFound):
            guests.send_code(self.office, link)

    def test_who_has_an_account_signs_in_with_it(self) -> None:
        add_person(self.office, "ada", "Ada Marsh", "applicant", ADA)
        link = self.link("look")
        self.assertTrue(guests.at_the_door(self.office, link).has_account)
        with self.assertRaises(NotReady):
            guests.send_code(self.office, link)
        with self.assertRaises(Invalid):
            guests.come_in(self.office, link, "123456")

    def test_a_signature_is_asked_for_again_twice(self) -> None:
        self.link("sign")
        subjects = []
        for _ in range(12):
            self.instant += timedelta(days=1)
            self.office.tidied_at = None
            run_clock(self.office)
            with read_session(self.office.engine) as session:
                subjects = list(session.scalars(select(Outgoing.subject).where(Outgoing.to == ADA).order_by(Outgoing.put_at)))
        self.assertEqual(subjects, ["You were invited to a filing", *["Your signature is still wanted"] * 2])
        ada = self.come_in(self.link_in_mail())
        signing.sign(self.office, ada, self.filing, "Ada Marsh")
        self.assertEqual(inviting.remind_signers(self.office), 0)
