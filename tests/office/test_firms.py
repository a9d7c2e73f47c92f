"""A firm with several people: its filings are the firm's, whoever belongs to it acts as the firm, and the history names the person."""

from __future__ import annotations

import io
import json
import zipfile

from jolly_clerk.office.cases import lists
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.keeping.copying import copy_of
from jolly_clerk.office.keeping.erasing import erase_person
from jolly_clerk.office.office import Who
from jolly_clerk.office.people import firms
from jolly_clerk.office.people.directory import add_person, begin_session, people, person, signed_in
from jolly_clerk.office.post.mailing import outbox, put_out_text
from jolly_clerk.office.preparing import attaching, drafts, filing, profiles, signing
from jolly_clerk.office.views.case import case_view
from jolly_clerk.store.beside import Erasure
from jolly_clerk.store.database import write_session
from jolly_clerk.store.tables import Person
from tests.helpers import answers
from tests.office.test_erasing import dumped
from tests.office.test_journey import PLAN, ROOF, Cases

BEN = "ben@firm.example"


class Firms(Cases):
    def setUp(self) -> None:
        super().setUp()
        with write_session(self.office.engine) as session:
            session.get_one(Person, "odalys").mail = "odalys@renn.example"
        self.ben = add_person(self.office, "ben", "Ben Marrow", "applicant", BEN)
        self.firm = firms.found(self.office, self.odalys, "  Renn   Works ")[0].id

    def member(self) -> str:
        """Ben is asked and accepts; the id of the membership."""
        (firm,) = firms.ask(self.office, self.odalys, self.firm, BEN, "Ben Marrow", keeper=False)
        firms.accept(self.office, self.ben, self.firm)
        return next(m.id for m in firm.members if not m.own)

    def hat(self, who: Who) -> tuple[Who, str]:
        """Somebody in a session of theirs in which they go on as the firm, and its secret."""
        secret = begin_session(self.office, who).secret
        firms.act_as(self.office, who, secret, self.firm)
        found = signed_in(self.office, secret)
        assert found
        return found.who, secret

    def test_founded_asked_accepted(self) -> None:
        (seen,) = firms.firms_of(self.office, self.odalys)
        self.assertEqual((seen.name, seen.keeper, seen.asked, len(seen.members)), ("Renn Works", True, False, 1))
        firms.ask(self.office, self.odalys, self.firm, BEN, "Ben Marrow", keeper=False)
        (asked,) = firms.firms_of(self.office, self.ben)
        self.assertEqual((asked.asked, len(asked.members)), (True, 1), "nothing of the firm is told before it is accepted")
        with self.assertRaises(NotFound):
            firms.act_as(self.office, self.ben, begin_session(self.office, self.ben).secret, self.firm)
        firms.accept(self.office, self.ben, self.firm)
        self.assertEqual(len(firms.firms_of(self.office, self.ben)[0].members), 2)
        self.assertTrue([out for out, _ in outbox(self.office) if out.to == BEN and "Renn Works" in out.text])
        self.assertNotIn("Renn Works", [who.name for who in people(self.office)], "nobody signs in as a firm")

    def test_only_keepers_mind_it_and_one_is_left(self) -> None:
        ben = self.member()
        with self.assertRaises(NotAllowed):
            firms.ask(self.office, self.ben, self.firm, "cleo@firm.example", "Cleo Fenn", keeper=False)
        with self.assertRaises(NotAllowed):
            firms.set_keeper(self.office, self.ben, self.firm, ben, keeper=True)
        with self.assertRaises(NotFound):
            firms.ask(self.office, self.tamsin, self.firm, "cleo@firm.example", "Cleo Fenn", keeper=False)
        with self.assertRaises(Invalid):
            firms.ask(self.office, self.odalys, self.firm, BEN, "Ben Marrow", keeper=True)
        own = next(m.id for m in firms.firms_of(self.office, self.odalys)[0].members if m.own)
        for change in (
            lambda: firms.set_keeper(self.office, self.odalys, self.firm, own, keeper=False),
            lambda: firms.end(self.office, self.odalys, self.firm, own),
        ):
            with self.assertRaises(NotReady):
                change()
        firms.set_keeper(self.office, self.odalys, self.firm, ben, keeper=True)
        firms.end(self.office, self.odalys, self.firm, own)
        self.assertEqual(firms.firms_of(self.office, self.odalys), [])
        self.assertTrue(firms.firms_of(self.office, self.ben)[0].keeper)

    def test_its_filings_are_the_firms(self) -> None:
        self.member()
        odalys, _ = self.hat(self.odalys)
        ben, secret = self.hat(self.ben)
        self.assertEqual(
            (odalys.id, odalys.name, odalys.signs, odalys.hand_name), (self.firm, "Renn Works", "odalys", "Odalys Renn")
        )
        profiles.keep_profile(self.office, odalys, profiles.Kept(address="1 Pier Road"))
        draft = drafts.start_draft(self.office, odalys, "BW")
        told = profiles.profile(self.office, self.firm)
        self.assertEqual((told.called, told.address), ("Renn Works", "1 Pier Road"))
        self.assertEqual(drafts.drafts_of(self.office, self.odalys), [], "it is the firm's, not the person's")
        drafts.keep(self.office, ben, draft, None, answers=answers())
        with self.assertRaises(NotReady, msg="two of one firm do not write one part at once"):
            drafts.keep(self.office, odalys, draft, None, answers=answers(works_area="99"))
        attaching.attach(self.office, ben, draft, "site_plan", "plan.pdf", PLAN)
        attaching.attach(self.office, ben, draft, "sections", "sections.pdf", ROOF)
        signing.sign(self.office, ben, draft, "Ben Marrow")
        reference = filing.file(self.office, ben, draft, take_gaps=True)
        story = case_view(self.office, odalys, load_case(self.office, odalys, reference)).story
        self.assertIn("Filed by Ben Marrow", [m.text for m in story])
        self.assertEqual(load_case(self.office, self.imre, reference).case.applicant_id, self.firm)
        self.assertTrue(any(page.rows for page in lists.my_cases(self.office, odalys)))
        filed = sorted(out.to for out, ref in outbox(self.office) if ref == reference)
        self.assertEqual(filed, ["odalys@renn.example"], "what is sent goes to the keepers")
        with self.assertRaises(NotFound):
            load_case(self.office, self.tamsin, reference)
        with self.assertRaises(NotFound):
            load_case(self.office, self.ben, reference)  # without the hat it is not his
        member = next(m.id for m in firms.firms_of(self.office, self.odalys)[0].members if not m.own)
        firms.end(self.office, self.odalys, self.firm, member)
        found = signed_in(self.office, secret)
        self.assertEqual(found and found.who.id, "ben", "whoever left goes on as themselves")

    def test_somebody_without_a_known_address_founds_none(self) -> None:
        unknown = Who("ben", "Ben Marrow", "applicant", confirmed=False)
        with self.assertRaises(NotReady):
            firms.found(self.office, unknown, "Shadow Works")
        for name in ("", "x"):
            with self.assertRaises(Invalid):
                firms.found(self.office, person(self.office, "ben"), name)

    def test_held_about_somebody_and_erased(self) -> None:
        self.member()
        with write_session(self.office.engine) as session:
            session.get_one(Person, "odalys").mobile = "+300 55"
            put_out_text(session, "told", "+300 55", "A code for Odalys", self.office.now())
        out = io.BytesIO()
        copy_of(self.office, "odalys", out)
        with zipfile.ZipFile(out) as copy:
            told = {name: json.loads(copy.read(f"{name}.json")) for name in ("firms", "person", "mails")}
        self.assertEqual([(m["mail"], m["keeper"]) for m in told["firms"]], [("odalys@renn.example", True)])
        self.assertEqual(told["person"]["number for text messages"], "+300 55")
        self.assertIn("A code for Odalys", [m["text"] for m in told["mails"]])
        with write_session(self.office.engine) as session:
            keys = erase_person(session, Erasure(id="e", what="person", target_id="odalys"))
        self.assertIn("told", keys)
        self.assertNotIn("+300 55", dumped(self.office))
        (firm,) = firms.firms_of(self.office, self.ben)
        self.assertEqual([(m.name, m.keeper) for m in firm.members], [("Ben Marrow", True)], "somebody minds the firm")

    def test_an_address_that_is_not_confirmed_is_nobodys(self) -> None:
        self.member()
        with write_session(self.office.engine) as session:
            session.get_one(Person, "odalys").confirmed = False
        self.assertEqual(firms.firms_of(self.office, self.odalys), [])
        with self.assertRaises(NotFound):
            firms.ask(self.office, self.odalys, self.firm, "cleo@firm.example", "Cleo Fenn", keeper=False)
