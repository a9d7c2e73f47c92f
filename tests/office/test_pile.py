"""A pile of a draft: archives and mails taken apart, places offered with reasons, a long scan split, persons made of passports."""

from __future__ import annotations

import io
import random
import unittest
import zipfile
from email.message import EmailMessage

import pikepdf
from reportlab.lib.pagesizes import A4
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from bench.made import passports
from jolly_clerk.core.sorting.parts import SEPARATOR, parts_of
from jolly_clerk.demo import papers
from jolly_clerk.letters.render import render
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import Invalid, NotFound, TooLarge
from jolly_clerk.office.preparing import attaching, drafts, filing, pile, placing, taking
from jolly_clerk.office.preparing.reading_again import read_again, to_read_again
from jolly_clerk.office.preparing.unpacking import MOST_ENTRIES, unpack
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.office.views.case import case_view
from jolly_clerk.reading.read import read_bytes
from jolly_clerk.store.database import write_session
from jolly_clerk.store.tables import StoredReading
from tests.helpers import ROOT
from tests.office.test_journey import Cases


def zipped(**files: bytes) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            archive.writestr(name.replace("folder__", "folder/").replace("__MACOSX__", "__MACOSX/"), content)
    return buffer.getvalue()


def mail(**files: bytes) -> bytes:
    made = EmailMessage()
    made["From"], made["Subject"], made["Date"] = (
        "Corvin Pell <corvin@post.example>",
        "The papers",
        "Fri, 27 Nov 2026 08:12:00 +0000",
    )
    made.set_content("Here are the papers.")
    for name, content in files.items():
        made.add_attachment(content, maintype="application", subtype="octet-stream", filename=name)
    return made.as_bytes()


def scanned(name: str, number: str) -> bytes:
    """The page of a passport as a photograph."""
    given, surname = name.upper().split()
    dice = random.Random(name)
    told = passports.passport(dice)
    number = number.ljust(9, "<")
    first = f"P<UTO{surname}<<{given}".ljust(44, "<")
    second = f"{number}{passports.digit(number)}" + told.lines[1][10:43]
    second += passports.digit(second[:10] + second[13:20] + second[21:43])
    told = passports.Passport((first, second), number, told.born, told.expires, surname, given, "UTO", False)
    buffer = io.BytesIO()
    passports.drawn(told, 300, dice).save(buffer, "JPEG", quality=85, dpi=(300, 300))
    return buffer.getvalue()


class Unpacking(unittest.TestCase):
    def test_archives_and_mails_in_one_another_keep_names_and_senders(self) -> None:
        inner = zipped(**{"a.pdf": b"one", "folder__b.txt": b"two", "__MACOSX__x": b"no", ".DS_Store": b"no"})
        found = unpack("all.eml", mail(**{"papers.zip": inner, "c.pdf": b"three"}))
        self.assertEqual([f.name for f in found], ["all.txt", "a.pdf", "folder/b.txt", "c.pdf"])
        self.assertEqual(found[1].within, "all.eml › papers.zip")
        self.assertIn("mail of Corvin Pell <corvin@post.example>, Fri, 27 Nov 2026 08:12:00 +0000: The papers", found[3].told)

    def test_bounds_on_entries_depth_and_size(self) -> None:
        with self.assertRaises(TooLarge):
            unpack("many.zip", zipped(**{f"{n}.txt": b"x" for n in range(MOST_ENTRIES + 1)}))
        with self.assertRaises(TooLarge):
            unpack("bomb.zip", zipped(**{f"{n}.txt": b"\0" * 30_000_000 for n in range(14)}))
        deep = zipped(a=b"x")
        for n in range(6):
            deep = zipped(**{f"{n}.zip": deep})
        (one,) = unpack("deep.zip", deep)
        self.assertTrue(one.name.endswith(".zip"))

    def test_what_cannot_be_taken_apart_stays_as_it_is(self) -> None:
        for name, content in (
            ("x.zip", b"PK\x03\x04 broken"),
            ("x.docx", zipped(a=b"x")),
            ("x.eml", b"no mail at all"),
            ("x.pdf", b"%PDF"),
        ):
            (one,) = unpack(name, content)
            self.assertEqual((one.name, one.content), (name, content))


class Piles(Cases):
    def setUp(self) -> None:
        super().setUp()
        publish(self.office, ROOT / "rulebooks" / "QV" / "2026-06-01.yaml")
        self.tour = drafts.start_draft(self.office, self.odalys, "QV")

    def add(self, **files: bytes) -> None:
        for name, content in files.items():
            pile.add_to_pile(self.office, self.odalys, self.tour, name, content)

    def pieces(self) -> list[pile.Piece]:
        return list(pile.pile_view(self.office, self.odalys, self.tour).pieces)

    def offered(self) -> dict[str, str]:
        return {p.file.name: p.offers[0].spot if p.offers else "" for p in self.pieces()}

    def place(self, *placed: tuple[str, str]) -> None:
        by_name = {p.file.name: p.id for p in self.pieces()}
        told = [placing.Placed(by_name.get(name, name), spot) for name, spot in placed]
        placing.place(self.office, self.odalys, self.tour, told)

    def persons(self) -> list[dict[str, object]]:
        given = drafts.open_draft(self.office, self.odalys, self.tour).dossier.answers.get("persons", [])
        return [p for p in given if isinstance(p, dict)]

    def test_six_passports_make_a_group_of_six(self) -> None:
        names = ("Ada Marek", "Ivo Thorne", "Zoe Quay", "Otto Brandt", "Marta Nowak", "Leila Bibo")
        self.add(**{f"IMG_{n}.jpg": scanned(name, f"M76543{20 + n}") for n, name in enumerate(names)})
        pieces = self.pieces()
        self.assertEqual({p.offers[0].spot for p in pieces}, {"passport.new"})
        self.assertTrue(all(p.offers[0].sure >= pile.SURE for p in pieces))
        self.place(*((p.id, "passport.new") for p in pieces))
        self.assertEqual([p["name"] for p in self.persons()], list(names))
        self.assertEqual([p["passport"] for p in self.persons()], [f"M76543{20 + n}" for n in range(6)])
        now = drafts.open_draft(self.office, self.odalys, self.tour)
        self.assertEqual(sorted(a.slot for a in now.dossier.attachments), [f"passport.{n}" for n in range(1, 7)])
        self.assertEqual({p.source for p in now.dossier.prefilled if p.place.startswith("persons.")}, {"paper"})
        self.assertEqual(self.pieces(), [])

    def test_papers_go_to_the_person_they_name(self) -> None:
        self.add(**{"a.jpg": scanned("Ada Marek", "M7654321"), "b.jpg": scanned("Ivo Thorne", "M7654322")})
        self.place(*((p.id, "passport.new") for p in self.pieces()))
        self.add(
            **{
                "doc1.pdf": papers.contract("The Salt Choir", "Ivo Thorne"),
                "portrait ada.jpg": papers.portrait(1),
                "doc2.pdf": papers.paper("Health cover", "2 persons, every day of the tour.", letterhead="Harbour Mutual"),
                "doc3.pdf": papers.paper("Bill of fare", "Soup, fish, cheese"),
                "again.jpg": scanned("Ivo Thorne", "M7654322"),
            }
        )
        told = self.offered()
        self.assertEqual(
            (told["doc1.pdf"], told["portrait ada.jpg"], told["doc2.pdf"]), ("contract.2", "portrait.1", "health_cover")
        )
        (menu, again) = (p for p in self.pieces() if p.file.name in ("doc3.pdf", "again.jpg"))
        self.assertTrue(not menu.offers or menu.offers[0].sure < pile.SURE)
        self.assertEqual((again.same_as, again.offers), ("b.jpg", ()))
        contract = next(p for p in self.pieces() if p.file.name == "doc1.pdf").offers[0]
        self.assertIn("it names Ivo Thorne", contract.because)

    def test_a_long_scan_is_split_cut_and_joined(self) -> None:
        one = papers.sheets(
            ("Contract", ("The Salt Choir engages Ada Marek for the whole tour.",)),
            ("Contract, continued", ("Second sheet of it.",)),
        )
        two, three = (
            papers.paper("Health cover", "1 person, every day of the tour."),
            papers.paper("List of instruments", "Two drums."),
        )
        with pikepdf.new() as whole:
            for part in (one, two, three):
                with pikepdf.open(io.BytesIO(part)) as opened:
                    whole.pages.extend(opened.pages)
            buffer = io.BytesIO()
            whole.save(buffer)
        self.add(**{"scan.pdf": buffer.getvalue()})
        self.assertEqual([(p.first, p.last) for p in self.pieces()], [(1, 2), (3, 3), (4, 4)])
        (before,) = {p.file.id for p in self.pieces()}
        pieces = self.pieces()
        placing.join(self.office, self.odalys, self.tour, pieces[1].id)
        joined = [(p.first, p.last) for p in self.pieces()]
        self.assertEqual(joined[0], (1, pieces[1].last))
        placing.cut(self.office, self.odalys, self.tour, self.pieces()[0].id, 2)
        self.assertEqual([(p.first, p.last) for p in self.pieces()][:2], [(1, 1), (2, joined[0][1])])
        with self.assertRaises(Invalid):
            placing.cut(self.office, self.odalys, self.tour, self.pieces()[0].id, 2)
        with self.assertRaises(NotFound):
            placing.cut(self.office, self.odalys, self.tour, f"{before}-1-4", 2)
        last = self.pieces()[-1]
        self.place((last.id, "goods_list"))
        now = drafts.open_draft(self.office, self.odalys, self.tour)
        (file,) = now.dossier.attachments
        self.assertIn("scan, sheet", file.name)
        self.assertEqual(len(now.known.readings[file.sha256].pages), last.last - last.first + 1)
        self.assertNotIn(last.id, [p.id for p in self.pieces()])

    def test_blank_sheets_part_documents_and_go_with_none(self) -> None:
        buffer = io.BytesIO()
        canvas = Canvas(buffer, pagesize=A4)
        for text in ("One thing", "goes on", "", "Another thing", "", "", "A third"):
            if text:
                canvas.drawString(60, 400, f"{text}, with some words that fill the middle of the sheet")
            canvas.showPage()
        canvas.save()
        self.add(**{"scan.pdf": buffer.getvalue()})
        self.assertEqual([(p.first, p.last) for p in self.pieces()], [(1, 2), (4, 4), (7, 7)])

    def test_a_mail_with_an_archive_is_sorted_like_files(self) -> None:
        inner = zipped(**{"cover.pdf": papers.paper("Health cover", "2 persons.", letterhead="Harbour Mutual")})
        self.add(**{"mail.eml": mail(**{"all.zip": inner})})
        told = {p.file.name: p for p in self.pieces()}
        self.assertEqual((told["cover.pdf"].within, told["cover.pdf"].offers[0].spot), ("mail.eml › all.zip", "health_cover"))

    def test_nobody_else_sees_it_and_a_place_must_be_one(self) -> None:
        self.add(**{"x.pdf": papers.paper("Health cover", "2 persons.")})
        with self.assertRaises(NotFound):
            pile.pile_view(self.office, self.imre, self.tour)
        (piece,) = self.pieces()
        with self.assertRaises(Invalid):
            self.place((piece.id, "nonsense"))
        placing.drop(self.office, self.odalys, self.tour, [piece.id])
        self.assertEqual(self.pieces(), [])

    def test_answers_are_taken_from_papers_with_their_source(self) -> None:
        self.add(**{"a.jpg": scanned("Ada Marek", "M7654321")})
        (piece,) = self.pieces()
        self.place((piece.id, "passport.new"))
        drafts.keep(self.office, self.odalys, self.tour, None, {"persons": [{"id": 1, "name": "Ada Marek"}]})
        offered = taking.offered(drafts.open_draft(self.office, self.odalys, self.tour).assessment)
        self.assertEqual(set(offered), {"persons.1.passport", "persons.1.born", "persons.1.valid_until"})
        now = taking.take(self.office, self.odalys, self.tour, ["persons.1.passport"])
        self.assertEqual(self.persons()[0]["passport"], "M7654321")
        self.assertEqual([(p.place, p.source) for p in now.dossier.prefilled][-1], ("persons.1.passport", "paper"))
        with self.assertRaises(Invalid):
            taking.take(self.office, self.odalys, self.tour, ["persons.1.role"])
        now = taking.take(self.office, self.odalys, self.tour, [])
        self.assertTrue(self.persons()[0]["born"] and self.persons()[0]["valid_until"])
        standing = {r.id: r.proposed for r in now.assessment.requirements}
        self.assertEqual({standing[f"{name}-agrees.1"] for name in ("number", "born", "expiry")}, {"met"})
        drafts.keep(self.office, self.odalys, self.tour, None, {"persons": [{**self.persons()[0], "valid_until": "2040-01-01"}]})
        again = drafts.open_draft(self.office, self.odalys, self.tour).assessment
        self.assertEqual({r.id: r.proposed for r in again.requirements}["expiry-agrees.1"], "in doubt")

    def test_what_is_usual_is_taken_where_it_is_named_only(self) -> None:
        stops = [{"venue": "Old Hall", "first": "2027-03-02", "last": "2027-03-04"}]
        drafts.keep(self.office, self.odalys, self.tour, None, {"tour": {"stops": stops}, "persons": [{"id": 1}, {"id": 2}]})
        self.assertEqual(taking.take(self.office, self.odalys, self.tour, []).dossier.answers["persons"][0].get("arrival"), None)
        now = taking.take(self.office, self.odalys, self.tour, ["persons.1.arrival", "persons.2.arrival"])
        self.assertEqual([p.get("arrival") for p in now.dossier.answers["persons"]], ["2027-03-02", "2027-03-02"])
        self.assertEqual({p.key for p in now.dossier.prefilled if p.place.endswith("arrival")}, {"the rest of the form"})

    def test_read_again_reads_what_failed_and_what_is_old(self) -> None:
        kept = attaching.keep_files(self.office, self.odalys, [papers.paper("One", "1"), papers.paper("Two", "2")])
        self.assertEqual(to_read_again(self.office), [])
        with write_session(self.office.engine) as session:
            rows = list(session.query(StoredReading))
            rows[0].reading = rows[0].reading.replace('"opens":"yes"', '"opens":"not read"')
            session.flush()
            rows[1].reader = "4"
        self.assertEqual(set(to_read_again(self.office)), {sha256 for sha256, _ in kept})
        (last,) = read_again(self.office, to_read_again(self.office))
        self.assertEqual((last.done, last.of, last.read), (2, 2, 2))
        self.assertEqual(to_read_again(self.office), [])
        self.assertEqual(len(to_read_again(self.office, every=True)), 2)


class SameName(Cases):
    def test_three_photographs_of_one_name_stay_three(self) -> None:
        draft = drafts.start_draft(self.office, self.odalys, "BW", {})
        for n in range(3):
            attaching.attach(self.office, self.odalys, draft, "site_plan", "image.jpg", papers.portrait(n))
        names = [a.name for a in drafts.open_draft(self.office, self.odalys, draft).dossier.attachments]
        self.assertEqual(names, ["image.jpg", "image (2).jpg", "image (3).jpg"])
        with self.assertRaises(Invalid):
            attaching.attach(self.office, self.odalys, draft, "site_plan", "image.jpg", papers.portrait(1))


class Elsewhere(Cases):
    def test_the_office_alone_is_told_of_the_same_file_in_another_case(self) -> None:
        first = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        second = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        seen = case_view(self.office, self.imre, load_case(self.office, self.imre, second)).same_elsewhere
        self.assertTrue(seen)
        self.assertEqual(set(seen.values()), {(first,)})
        own = case_view(self.office, self.odalys, load_case(self.office, self.odalys, second))
        self.assertEqual(own.same_elsewhere, {})


class Separators(unittest.TestCase):
    def test_a_scan_is_cut_at_the_sheet_that_is_laid_between(self) -> None:
        """Two papers whose first sheets say nothing of it, with the printed sheet between them, scanned askew."""
        divider = render("separator", {"office": "Quillhaven", "text": "Lay this sheet between papers.", "lang": "en"})
        sheets = [papers.paper("", f"Line {n} of a letter") for n in range(4)]
        order = [*sheets[:2], divider, *sheets[2:]]
        canvas = Canvas(out := io.BytesIO(), pagesize=A4)
        for n, content in enumerate(order):
            canvas.drawImage(ImageReader(io.BytesIO(papers.scanned(content, n, 2.0))), 0, 0, *A4)
            canvas.showPage()
        canvas.save()
        found = read_bytes(out.getvalue())
        self.assertEqual([page.code for page in found.pages], ["", "", SEPARATOR, "", ""])
        parts = parts_of(found)
        self.assertEqual([(p.first, p.last) for p in parts if p.because], [(4, parts[-1].last)])
        self.assertEqual(parts[0].last, 2, "it belongs to none")
        self.assertEqual(parts[-1].because, "a separator sheet lies before it")
