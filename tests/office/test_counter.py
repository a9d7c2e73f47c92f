"""Recording at the counter: for somebody with an account or without, on the day it came, with consent; a pile of three; things that come."""

from __future__ import annotations

import io
import zipfile
from datetime import date
from decimal import Decimal

from sqlalchemy import select

from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.reference import DOCKET_MARK
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.paying import take_money
from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.keeping.removing import tidy
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.people import claiming
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.post.printing import as_one_pdf, print_queue
from jolly_clerk.office.preparing import attaching, counter, dockets, drafts, filing, photographing, pile, placing
from jolly_clerk.office.preparing.counter import Contact
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED
from jolly_clerk.store.counter import DocketSent
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Draft, FiledVersion, Outgoing, Person
from tests.helpers import answers
from tests.office.test_journey import PLAN, ROOF, Cases, text_of
from tests.photographs import photograph

WEDNESDAY = date(2026, 11, 4)
ANN = Contact(name="Ann Holt", address="3 Mizzen Court, Quill", telephone="0300 55 99")


class CounterTest(Cases):
    def tearDown(self) -> None:
        self.assertEqual(list(verify(self.office)), [])
        self.assertEqual(rebuild(self.office), 0)

    def begin(self, contact: Contact = ANN, came: str = "post", reached: date = WEDNESDAY) -> str:
        return counter.begin_recording(self.office, self.imre, "BW", came, reached, contact)  # type: ignore[arg-type]

    def fill(self, draft: str) -> None:
        drafts.keep(self.office, self.imre, draft, None, answers=answers())
        attaching.attach(self.office, self.imre, draft, "site_plan", "plan.pdf", PLAN)
        attaching.attach(self.office, self.imre, draft, "sections", "sections.pdf", ROOF)

    def recorded(self, contact: Contact = ANN) -> str:
        draft = self.begin(contact)
        self.fill(draft)
        counter.note_consent(self.office, self.imre, draft, "Ann Holt", on_paper=True)
        return filing.file(self.office, self.imre, draft, take_gaps=True)


class Counter(CounterTest):
    def test_the_filing_day_is_the_day_on_which_it_came(self) -> None:
        """It came on Wednesday, is recorded on Thursday, paid on Friday: the receipt and the ribbon begin on Wednesday."""
        reference = self.recorded()
        loaded = load_case(self.office, self.imre, reference)
        self.assertEqual(loaded.known.calendar.local_day(loaded.so_far.filed.filed_at), WEDNESDAY)  # type: ignore[union-attr]
        self.assertEqual(loaded.assessment.state, "Waiting for payment")
        self.assertIn("We received your application on Wed 4 Nov 2026", text_of(papers_of(self, reference)))
        first = loaded.assessment.clock.ribbon[0]  # type: ignore[union-attr]
        self.assertEqual(first.day, WEDNESDAY)
        with read_session(self.office.engine) as session:
            case = session.scalars(select(Case)).one()
            owner = session.get_one(Person, case.applicant_id)
        self.assertEqual((owner.name, owner.mail, owner.letters), ("Ann Holt", "", "print"))
        told = [m.text for m in loaded_story(self, reference)]
        self.assertIn("Recorded by Imre Holt: it came by post on Wed 4 Nov 2026", told)

    def test_what_is_asked_before_it_begins(self) -> None:
        for contact, reached, field in (
            (ANN, date(2026, 11, 6), "reached"),
            (Contact(name="A", address=ANN.address), WEDNESDAY, "name"),
            (Contact(name="Ann Holt"), WEDNESDAY, "address"),
        ):
            with self.subTest(field), self.assertRaises(Invalid) as told:
                self.begin(contact, reached=reached)
            self.assertEqual(told.exception.place, field)
        with self.assertRaises(NotFound):
            self.begin(Contact("nobody"))
        with self.assertRaises(NotFound):
            self.begin(Contact("maud"))
        for who in (self.odalys, self.anselm):
            with self.assertRaises(NotAllowed):
                counter.begin_recording(self.office, who, "BW", "post", WEDNESDAY, ANN)

    def test_the_office_never_signs(self) -> None:
        draft = self.begin()
        self.fill(draft)
        with self.assertRaises(NotReady) as told:
            filing.file(self.office, self.imre, draft, take_gaps=True)
        self.assertIn("consent of the applicant", told.exception.detail)
        with self.assertRaises(Invalid):
            counter.note_consent(self.office, self.imre, draft, "imre  holt", on_paper=False)
        done = counter.note_consent(self.office, self.imre, draft, "Ann Holt", on_paper=False)
        signature = done.dossier.signature
        assert signature
        self.assertEqual((signature.name, signature.witness, signature.on_paper), ("Ann Holt", "Imre Holt", False))

    def test_whoever_filled_it_in_does_not_decide_it(self) -> None:
        reference = self.recorded()
        take_money(self.office, self.imre, reference, Decimal("438.18"), "transfer", "T-1")
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference)
        with self.assertRaises(NotAllowed) as told:
            checking.accept(self.office, self.imre, reference)
        self.assertIn("You filled this filing in", told.exception.detail)
        brisa = add_person(self.office, "brisa", "Brisa Quay", "officer")
        self.assertEqual(checking.accept(self.office, brisa, reference).assessment.state, "Complete")

    def test_for_somebody_with_an_account(self) -> None:
        (found,) = counter.people_found(self.office, self.imre, "odalys")
        self.assertEqual((found.id, found.name), ("odalys", "Odalys Renn"))
        reference = self.recorded(Contact(found.id))
        self.assertEqual(load_case(self.office, self.odalys, reference).case.applicant_id, "odalys")
        (row,) = counter.recordings(self.office, self.imre)
        self.assertEqual((row.reference, row.owner, row.mine), (reference, "Odalys Renn", True))

    def test_no_officer_comes_into_a_draft_that_is_not_recorded(self) -> None:
        draft = self.draft()
        for use in (
            lambda: drafts.open_draft(self.office, self.imre, draft),
            lambda: counter.discard(self.office, self.imre, draft),
        ):
            with self.assertRaises(NotFound):
                use()
        own = self.begin()
        with self.assertRaises(NotFound):
            drafts.open_draft(self.office, self.tamsin, own)
        counter.discard(self.office, self.maud, own)
        self.assertEqual(counter.recordings(self.office, self.imre), [])

    def test_letters_are_printed_and_the_code_on_them_makes_an_account(self) -> None:
        reference = self.recorded()
        (waits,) = print_queue(self.office, self.imre)
        self.assertEqual((waits.reference, waits.to), (reference, "Ann Holt"))
        printed = text_of(as_one_pdf(self.office, self.imre))
        self.assertIn("To follow your case yourself, open", printed)
        with read_session(self.office.engine) as session:
            text = session.scalars(select(Outgoing.text).where(Outgoing.by_post)).one()
        code = text.rpartition(" ")[2].rstrip(".")
        with self.assertRaises(NotFound):
            claiming.claim(self.office, "AAAAA-BBBBB", "ann@post.quillhaven.example", "a long pass phrase")
        begun = claiming.claim(self.office, code.lower(), "ann@post.quillhaven.example", "a long pass phrase")
        self.assertTrue(begun.secret)
        with self.assertRaises(NotFound):
            claiming.claim(self.office, code, "other@post.quillhaven.example", "a long pass phrase")
        self.move_to(2027, 1, 20)  # an address that was not confirmed for a month takes no case along
        tidy(self.office)
        with read_session(self.office.engine) as session:
            owner = session.get_one(Person, session.scalars(select(Case.applicant_id)).one())
            self.assertEqual((owner.mail, owner.confirmed), ("ann@post.quillhaven.example", False))


class Piles(CounterTest):
    def scan(self) -> bytes:
        """A scan of two filings: a plan and sections of each."""
        import pikepdf

        whole = pikepdf.new()
        for content in (PLAN, ROOF, PLAN, ROOF):
            whole.pages.extend(pikepdf.open(io.BytesIO(content)).pages)
        out = io.BytesIO()
        whole.save(out)
        return out.getvalue()

    def test_a_scan_of_two_filings_becomes_two(self) -> None:
        draft = self.begin()
        pile.add_to_pile(self.office, self.imre, draft, "scan.pdf", self.scan())
        pieces = pile.pile_view(self.office, self.imre, draft).pieces
        self.assertEqual(len(pieces), 4)
        others = [p.id for p in pieces[2:]]
        likely = counter.likely_kinds(self.office, self.imre, draft, others)
        self.assertEqual(likely[0].kind, "BW")
        self.assertIn("fit", likely[0].because)
        second = counter.split(self.office, self.imre, draft, others, "BW", Contact("tamsin"))
        self.assertEqual(len(pile.pile_view(self.office, self.imre, draft).pieces), 2)
        there = pile.pile_view(self.office, self.imre, second).pieces
        self.assertEqual(len(there), 2)
        with self.assertRaises(NotFound):
            counter.split(self.office, self.imre, draft, others, "BW", Contact("tamsin"))
        for one in (draft, second):
            now = pile.pile_view(self.office, self.imre, one)
            spots = ("site_plan", "sections")
            placing.place(self.office, self.imre, one, [placing.Placed(p.id, s) for p, s in zip(now.pieces, spots, strict=True)])
            self.assertEqual(pile.pile_view(self.office, self.imre, one).pieces, ())
        self.assertEqual({r.owner for r in counter.recordings(self.office, self.imre)}, {"Ann Holt", "Tamsin Oake"})

    def test_what_was_put_right_is_learnt(self) -> None:
        """Sections are taken for a plan and put right; the next alike is offered there first, for whoever records."""
        for n in range(2):
            draft = self.begin()
            pile.add_to_pile(self.office, self.imre, draft, f"sheet{n}.pdf", ROOF)
            (piece,) = pile.pile_view(self.office, self.imre, draft).pieces
            if n == 0:
                self.assertEqual(piece.offers[0].spot, "site_plan")
                placing.place(self.office, self.imre, draft, [placing.Placed(piece.id, "sections")])
            else:
                self.assertEqual(piece.offers[0].spot, "sections")
                self.assertIn("a paper that begins like this was put here by hand", piece.offers[0].because)

    def test_nobody_learns_from_an_applicant(self) -> None:
        for _ in range(2):
            draft = drafts.start_draft(self.office, self.odalys, "BW")
            pile.add_to_pile(self.office, self.odalys, draft, "sheet.pdf", ROOF)
            (piece,) = pile.pile_view(self.office, self.odalys, draft).pieces
            self.assertEqual(piece.offers[0].spot, "site_plan")
            placing.place(self.office, self.odalys, draft, [placing.Placed(piece.id, "sections")])

    def test_a_zip_and_a_mail(self) -> None:
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as archive:
            archive.writestr("plan.pdf", PLAN)
        draft = self.begin(came="mail")
        pile.add_to_pile(self.office, self.imre, draft, "all.zip", packed.getvalue())
        self.assertEqual([p.file.name for p in pile.pile_view(self.office, self.imre, draft).pieces], ["plan.pdf"])


class Things(CounterTest):
    def sent(self, of: str = "a model of the winch") -> tuple[str, str]:
        """A filing of an invention to which something comes by post: its draft and the docket."""
        publish(self.office, SHIPPED / "IP" / "2026-01-01.yaml")
        draft = drafts.start_draft(self.office, self.odalys, "IP")
        slot = next(s for s, c in drafts.open_draft(self.office, self.odalys, draft).rulebook.slots.items() if c.slot.by_post)
        return draft, dockets.add(self.office, self.odalys, draft, slot, of).dossier.dockets[0].no

    def test_what_is_no_docket_or_not_filed_yet(self) -> None:
        _, no = self.sent()
        for docket, error, said in (
            (no, NotFound, "not filed yet"),
            ("D-26-00017-A", Invalid, "no number of a docket"),
            ("", Invalid, "no number"),
        ):
            with self.subTest(docket), self.assertRaises(error) as told:
                counter.thing(self.office, self.imre, docket)
            self.assertIn(said, told.exception.detail)
        with self.assertRaises(NotAllowed):
            counter.thing(self.office, self.odalys, no)

    def test_a_photograph_in_which_there_is_no_docket(self) -> None:
        for content, said in (
            (photograph(""), "No code can be read"),
            (photograph("JC-SIGN A1B2C3D4E5 0123456789AB"), "none of a docket"),
            (photograph("")[:200], "could not be opened"),
        ):
            with self.subTest(said), self.assertRaises(Invalid) as told:
                photographing.thing_photographed(self.office, self.imre, content)
            self.assertIn(said, told.exception.detail)
        with self.assertRaises(NotAllowed):
            photographing.thing_photographed(self.office, self.odalys, photograph(""))

    def test_a_docket_is_scanned_when_its_thing_comes(self) -> None:
        draft, no = self.sent()
        with read_session(self.office.engine) as session:
            dossier = Dossier.model_validate(session.get_one(Draft, draft).dossier)
        reference = self.filed()
        loaded = load_case(self.office, self.imre, reference)
        later = loaded.dossier.model_copy(
            update={"dockets": tuple(d.model_copy(update={"slot": "sections"}) for d in dossier.dockets)}
        )
        with write_session(self.office.engine) as session:  # as if it had been filed with it
            row = session.get_one(FiledVersion, (loaded.case.id, 1))
            as_filed, row.dossier = row.dossier, later.model_dump_json()
            session.merge(DocketSent(no=no, case_id=loaded.case.id))
        found = counter.thing(self.office, self.imre, f"JC-DOCKET {no}")
        self.assertEqual((found.reference, found.what, found.place), (reference, "a model of the winch", ""))
        for seed in range(5):
            code = photograph(f"{DOCKET_MARK} {no}", seed)
            self.assertEqual(photographing.thing_photographed(self.office, self.imre, code), found)
        with self.assertRaises(Invalid):
            counter.thing_came(self.office, self.imre, no, "", "")
        counter.thing_came(self.office, self.imre, no, "shelf 3", "one corner is bent")
        found = counter.thing_came(self.office, self.brisa(), no, "strong room", "")
        self.assertEqual((found.place, found.condition), ("strong room", ""))
        told = [m.text for m in loaded_story(self, reference)]
        self.assertTrue(any(f"{no} came:" in text and "It lies at shelf 3. one corner is bent" in text for text in told), told)
        with write_session(self.office.engine) as session:  # and back, so that the chain verifies
            session.get_one(FiledVersion, (loaded.case.id, 1)).dossier = as_filed

    def brisa(self):
        return add_person(self.office, "brisa", "Brisa Quay", "officer")


def papers_of(test: Cases, reference: str) -> bytes:
    from jolly_clerk.office.post.receipts import filing_receipt

    return filing_receipt(test.office, load_case(test.office, test.imre, reference))


def loaded_story(test: Cases, reference: str):
    from jolly_clerk.office.cases.casework import moments_of
    from jolly_clerk.office.people.directory import names

    loaded = load_case(test.office, test.imre, reference)
    return moments_of(loaded, names(test.office, loaded.people))
