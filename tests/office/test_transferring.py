"""A draft transferred to somebody else: seen by whom it is offered to alone, theirs once they accept it, and nothing before."""

from __future__ import annotations

from sqlalchemy import select

from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid, NotFound, NotReady, TooOften
from jolly_clerk.office.keeping.erasing import erase_person
from jolly_clerk.office.office import Who
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import answering, drafts, filing, signing, transferring
from jolly_clerk.store.beside import Erasure
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Outgoing, Person
from tests.office.test_journey import SMALL_PLAN, Cases

ADA = "ada@marsh.example"


class Transferring(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.ada = add_person(self.office, "ada", "Ada Marsh", "applicant", ADA)
        with write_session(self.office.engine) as session:
            session.get_one(Person, "odalys").mail = "odalys@renn.example"

    def offered(self, who: Who) -> list[str]:
        return [one.id for one in transferring.offered(self.office, who)]

    def mails(self, to: str) -> list[str]:
        with read_session(self.office.engine) as session:
            return [row.subject for row in session.scalars(select(Outgoing).where(Outgoing.to == to).order_by(Outgoing.put_at))]

    def test_it_is_theirs_once_they_accept_it(self) -> None:
        draft = self.draft()
        signing.sign(self.office, self.odalys, draft, self.odalys.name)
        drafts.keep(self.office, self.odalys, draft, None, folder="Spring")
        transferring.offer(self.office, self.odalys, draft, " ADA@marsh.example ")
        self.assertEqual(self.offered(self.ada), [draft])
        self.assertEqual((self.offered(self.odalys), self.offered(self.tamsin)), ([], []))
        self.assertEqual(self.mails(ADA), ["A filing is offered to you"])
        with self.assertRaises(NotFound):
            drafts.open_draft(self.office, self.ada, draft)  # what stands in it is not seen yet
        before = drafts.open_draft(self.office, self.odalys, draft)
        taken = transferring.accept(self.office, self.ada, draft)
        self.assertEqual(taken.dossier.answers, before.dossier.answers)
        self.assertEqual(taken.dossier.attachments, before.dossier.attachments)
        self.assertEqual((taken.dossier.signature, taken.dossier.declared, taken.draft.folder), (None, (), ""))
        self.assertGreater(taken.draft.revision, before.draft.revision)
        with self.assertRaises(NotFound):
            drafts.open_draft(self.office, self.odalys, draft)
        with self.assertRaises(NotFound):
            transferring.accept(self.office, self.ada, draft)
        self.assertEqual(self.mails("odalys@renn.example"), ["Your filing: Building works permit"])
        signing.sign(self.office, self.ada, draft, "Ada Marsh")
        reference = filing.file(self.office, self.ada, draft, take_gaps=True)
        self.assertTrue(reference.startswith("BW-"))

    def test_taken_back_or_declined_it_stays(self) -> None:
        draft = self.draft()
        transferring.offer(self.office, self.odalys, draft, ADA)
        self.assertEqual(transferring.take_back(self.office, self.odalys, draft).draft.offered_to, "")
        with self.assertRaises(NotFound):
            transferring.accept(self.office, self.ada, draft)
        transferring.offer(self.office, self.odalys, draft, ADA)
        transferring.decline(self.office, self.ada, draft)
        self.assertEqual((self.offered(self.ada), drafts.open_draft(self.office, self.odalys, draft).draft.offered_to), ([], ""))
        self.assertEqual(self.mails("odalys@renn.example"), ["Your filing: Building works permit"])

    def test_who_may_and_who_may_not(self) -> None:
        draft = self.draft()
        for mail, said in (("no address", "mail address"), ("odalys@renn.example", "your own")):
            with self.subTest(mail), self.assertRaisesRegex(Invalid, said):
                transferring.offer(self.office, self.odalys, draft, mail)
        with self.assertRaises(NotFound):
            transferring.offer(self.office, self.tamsin, draft, ADA)
        transferring.offer(self.office, self.odalys, draft, ADA)
        with self.assertRaises(NotFound):
            transferring.accept(self.office, self.tamsin, draft)
        # an address that nobody has shown to be theirs gets nothing, and an officer with it takes nothing over
        with write_session(self.office.engine) as session:
            session.get_one(Person, "ada").confirmed = False
        self.assertEqual(self.offered(self.ada), [])
        with self.assertRaises(NotFound):
            transferring.accept(self.office, self.ada, draft)

    def test_thrown_away_or_filed_it_is_offered_no_more(self) -> None:
        draft = self.draft(plan=SMALL_PLAN)
        transferring.offer(self.office, self.odalys, draft, ADA)
        drafts.throw_away(self.office, self.odalys, draft)
        self.assertEqual(self.offered(self.ada), [])
        other = self.draft(plan=SMALL_PLAN)
        transferring.offer(self.office, self.odalys, other, ADA)
        filing.file(self.office, self.odalys, other, take_gaps=True)
        with self.assertRaises(NotFound):
            transferring.accept(self.office, self.ada, other)

    def test_whoever_is_erased_is_offered_nothing_any_more(self) -> None:
        draft = self.draft()
        transferring.offer(self.office, self.odalys, draft, ADA)
        with write_session(self.office.engine) as session:
            erase_person(session, Erasure(target_id="ada", done_at=self.office.now()))
        self.assertEqual(drafts.open_draft(self.office, self.odalys, draft).draft.offered_to, "")

    def test_answers_to_a_letter_stay_with_whoever_filed(self) -> None:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "documents.site_plan", "wanting")
        checking.send_letter(self.office, self.imre, reference)
        draft = answering.begin_answering(self.office, self.odalys, reference)
        with self.assertRaises(NotReady):
            transferring.offer(self.office, self.odalys, draft, ADA)

    def test_many_offers_have_to_wait(self) -> None:
        draft = self.draft()
        with self.assertRaises(TooOften):
            for n in range(40):
                transferring.offer(self.office, self.odalys, draft, f"a{n}@b.example")
