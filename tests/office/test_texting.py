"""Text messages: a number that is known by its code, a code at signing in and at filing, news by the way that one chose."""

from __future__ import annotations

import json
import re
from datetime import timedelta

from jolly_clerk.core.news import NEWS, goes_by, ways_of
from jolly_clerk.office.desk import talking
from jolly_clerk.office.errors import CodeWanted, Invalid, NotReady, TooOften
from jolly_clerk.office.people import accounts, texting
from jolly_clerk.office.people.directory import Begun, person
from jolly_clerk.office.post.mailing import deliver_waiting, outbox
from jolly_clerk.office.preparing import filing
from jolly_clerk.office.rules import rulebooks
from jolly_clerk.shelf.rulebooks import SHIPPED
from jolly_clerk.store.database import write_session
from jolly_clerk.store.tables import Person
from tests.helpers import EDITION
from tests.office.test_journey import Cases

NUMBER = "0300 55 12"


class Texting(Cases):
    def texts(self) -> list[dict[str, str]]:
        """The text messages that went, oldest first."""
        files = sorted(self.folder.glob("text-messages/*.json"), key=lambda f: f.stat().st_mtime_ns)
        return [json.loads(file.read_text("utf-8")) for file in files]

    def code(self) -> str:
        deliver_waiting(self.office)
        found = re.search(r"\d{6}", self.texts()[-1]["text"])
        assert found
        return found[0]

    def known(self) -> None:
        """Odalys's number is known."""
        texting.ask_number(self.office, self.odalys, NUMBER)
        texting.confirm_number(self.office, self.odalys, self.code())

    def test_a_number_is_known_by_its_code(self) -> None:
        self.assertEqual(texting.contact(self.office, self.odalys).number, "")
        asked = texting.ask_number(self.office, self.odalys, NUMBER)
        self.assertEqual((asked.number, asked.asked), ("", "03005512"))
        code = self.code()
        self.assertEqual(self.texts()[-1]["to"], "03005512")
        with self.assertRaises(Invalid):
            texting.confirm_number(self.office, self.odalys, "1" + code[1:] if code[0] != "1" else "2" + code[1:])
        with self.assertRaises(Invalid):
            texting.confirm_number(self.office, self.tamsin, code)
        self.assertEqual(texting.confirm_number(self.office, self.odalys, f"{code[:3]} {code[3:]}").number, "03005512")
        with self.assertRaises(Invalid):  # it works once
            texting.confirm_number(self.office, self.odalys, code)
        self.assertEqual(texting.forget_number(self.office, self.odalys).number, "")
        self.assertFalse([out for out, _ in outbox(self.office) if code in out.text], "a code that went is not kept")

    def test_what_is_no_number_is_told(self) -> None:
        for number in ("", "12", "call me", "+", "0300 55 12 0300 55 12 0300", "٠٣٠٠٥٥"):
            with self.subTest(number=number), self.assertRaises(Invalid) as raised:
                texting.ask_number(self.office, self.odalys, number)
            self.assertEqual(raised.exception.place, "number")

    def test_a_code_is_too_old_and_tried_too_often(self) -> None:
        texting.ask_number(self.office, self.odalys, NUMBER)
        code = self.code()
        for _ in range(5):
            with self.assertRaises(Invalid):
                texting.confirm_number(self.office, self.odalys, "")
        with self.assertRaises(Invalid):
            texting.confirm_number(self.office, self.odalys, code)
        texting.ask_number(self.office, self.odalys, NUMBER)
        code = self.code()
        self.instant += timedelta(minutes=31)
        with self.assertRaises(Invalid):
            texting.confirm_number(self.office, self.odalys, code)
        with self.assertRaises(TooOften):
            for _ in range(9):
                texting.ask_number(self.office, self.odalys, NUMBER)

    def test_news_go_by_the_way_that_one_chose(self) -> None:
        reference = self.filed()
        with self.assertRaises(NotReady):
            texting.keep_contact(self.office, self.odalys, {"messages": "text"}, code_by_text=False)
        self.known()
        for wrong in ({"letters": "text"}, {"messages": "pigeon"}, {"nonsense": "mail"}):
            with self.assertRaises(Invalid):
                texting.keep_contact(self.office, self.odalys, wrong, code_by_text=False)
        talking.write(self.office, self.imre, reference, "First")
        texting.keep_contact(self.office, self.odalys, {"messages": "text", "letters": "both"}, code_by_text=False)
        talking.write(self.office, self.imre, reference, "Second")
        texting.keep_contact(self.office, self.odalys, {"messages": "both"}, code_by_text=False)
        talking.write(self.office, self.imre, reference, "Third")
        sent = [out.to for out, _ in outbox(self.office) if "-message-" in out.key]
        mail = self.mail()
        self.assertCountEqual(sent, [mail, "tel:03005512", mail, "tel:03005512"])
        deliver_waiting(self.office)
        self.assertIn(f"({reference})", self.texts()[-1]["text"])
        texting.forget_number(self.office, self.odalys)
        talking.write(self.office, self.imre, reference, "Fourth")
        self.assertEqual([out.to for out, _ in outbox(self.office) if "-message-" in out.key][-1], mail)

    def mail(self) -> str:
        with write_session(self.office.engine) as session:
            return session.get_one(Person, "odalys").mail or "Odalys Renn"

    def test_each_kind_of_news_has_its_ways(self) -> None:
        self.assertEqual(ways_of("letters"), ("mail", "both"))
        self.assertEqual({name: goes_by({name: "text"}, name, has_number=True) for name in NEWS}["letters"], (True, False))
        self.assertEqual(goes_by({"money": "text"}, "money", has_number=True), (False, True))
        self.assertEqual(goes_by({"money": "both"}, "money", has_number=False), (True, False))

    def test_signing_in_with_a_code(self) -> None:
        accounts.sign_up(self.office, "Ada Marsh", "ada@marsh.example", "correct horse battery")
        (ada,) = [p for p in self.people() if p.mail == "ada@marsh.example"]
        who = person(self.office, ada.id)
        texting.ask_number(self.office, who, NUMBER)
        texting.confirm_number(self.office, who, self.code())
        self.assertIsInstance(self.come_in(), Begun)
        texting.keep_contact(self.office, who, {}, code_by_text=True)
        with self.assertRaises(CodeWanted) as raised:
            self.come_in()
        self.assertIn("ends in 12", raised.exception.detail)
        code = self.code()
        with self.assertRaises(Invalid):
            self.come_in("000000" if code != "000000" else "111111")
        self.assertIsInstance(self.come_in(code), Begun)
        with self.assertRaises(Invalid):
            self.come_in(code)

    def come_in(self, code: str = "") -> Begun:
        return accounts.sign_in(self.office, "ada@marsh.example", "correct horse battery", code=code)

    def people(self) -> list[Person]:
        with write_session(self.office.engine) as session:
            return list(session.query(Person))

    def test_an_edition_asks_for_a_code_at_filing(self) -> None:
        text = EDITION.read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-08-01")
        (self.folder / "BW").mkdir(exist_ok=True)
        file = self.folder / "BW" / "2026-08-01.yaml"
        file.write_text(text.replace("\ncurrency:", "\nconfirm_by: text\ncurrency:", 1), "utf-8")
        rulebooks.publish(self.office, file, SHIPPED / "calendars" / "quillhaven.yaml")
        draft = self.draft()
        with self.assertRaises(Invalid) as raised:
            filing.file(self.office, self.odalys, draft, take_gaps=True)
        self.assertEqual(raised.exception.place, "code")
        with self.assertRaises(NotReady):
            texting.ask_code(self.office, self.odalys)
        self.known()
        self.assertEqual(texting.ask_code(self.office, self.odalys), "12")
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True, code=self.code())
        self.assertTrue(reference.startswith("BW-26-"))
