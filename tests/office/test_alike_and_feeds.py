"""Cases that are alike are found and said why; limits as a calendar by a link; a note of a telephone call."""

from __future__ import annotations

from datetime import timedelta

from icalendar import Calendar

from jolly_clerk.office.desk import checking, feeds, likenesses, talking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, TooLarge
from jolly_clerk.office.people.accounts import leave
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import attaching, drafts, filing, signing
from jolly_clerk.store.database import write_session
from jolly_clerk.store.tables import Person
from tests.helpers import answers
from tests.office.test_journey import PLAN, ROOF, Cases


class Alike(Cases):
    def filed_by(self, who, **changes: object) -> str:
        draft = drafts.start_draft(self.office, who, "BW")
        drafts.keep(self.office, who, draft, None, answers=answers(**changes))
        attaching.attach(self.office, who, draft, "site_plan", "plan.pdf", PLAN)
        attaching.attach(self.office, who, draft, "sections", "sections.pdf", ROOF)
        signing.sign(self.office, who, draft, who.name)
        return filing.file(self.office, who, draft, take_gaps=True)

    def told(self, reference: str) -> dict[str, tuple[str, tuple[str, ...]]]:
        return {c.reference: (c.how, c.because) for c in likenesses.alike(self.office, self.imre, reference).cases}

    def test_what_may_be_filed_twice_comes_first(self) -> None:
        first = self.filed_by(self.odalys)
        again = self.filed_by(self.odalys)
        person = self.filed_by(self.odalys, works_what="Glass house with a pond")
        title = self.filed_by(self.tamsin)
        stranger = self.filed_by(self.tamsin, works_what="Hen house")
        told = self.told(first)
        self.assertEqual((told[again][0], told[title][0], told[person][0]), ("duplicate", "thing", "person"))
        self.assertNotIn(stranger, told)
        self.assertIn("the same person: Odalys Renn", told[again][1])
        self.assertEqual(next(iter(told)), again)

    def test_the_latest_of_a_person_come_first_and_the_rest_is_counted(self) -> None:
        first, filed = self.filed_by(self.odalys), []
        for what in ("Hen house", "Glass house", "Stable of oak", "Boat shed", "Bread oven", "Well", "Barn", "Kennel", "Fence"):
            self.instant += timedelta(minutes=5)
            filed.append(self.filed_by(self.odalys, works_what=what))
        view = likenesses.alike(self.office, self.imre, first)
        persons = [c.reference for c in view.cases if c.how == "person"]
        self.assertEqual(persons, filed[::-1][: len(persons)])
        self.assertEqual((len(view.cases), view.more), (8, 1))

    def test_side_by_side(self) -> None:
        one, two = self.filed_by(self.odalys), self.filed_by(self.odalys, works_area="61")
        rows = likenesses.compared(self.office, self.imre, one, two)
        differing = [row for row in rows if not row.same]
        self.assertEqual([(row.mine, row.other) for row in differing], [("95.8 m²", "61 m²")])
        with self.assertRaises(NotAllowed):
            likenesses.alike(self.office, self.odalys, one)
        with self.assertRaises(NotAllowed):
            likenesses.compared(self.office, self.odalys, one, two)
        with self.assertRaises((NotFound, Invalid)):
            likenesses.compared(self.office, self.imre, one, "BW-26-99999-A")


class Feeds(Cases):
    def read(self, link: str) -> list[str]:
        secret = link.rpartition("/")[2].removesuffix(".ics")
        calendar = Calendar.from_ical(feeds.read_feed(self.office, secret))
        return [str(event["summary"]) for event in calendar.walk("VEVENT")]

    def test_a_link_that_a_calendar_reads(self) -> None:
        mine, nobodys = self.filed(), self.filed()
        checking.begin_checking(self.office, self.imre, mine)
        own, team = feeds.make_feed(self.office, self.imre, team=False), feeds.make_feed(self.office, self.imre, team=True)
        self.assertEqual(self.read(own.link), [f"{mine}: to be checked"])
        self.assertEqual(sorted(self.read(team.link)), sorted([f"{mine}: to be checked", f"{nobodys}: to be checked"]))
        content = feeds.read_feed(self.office, own.link.rpartition("/")[2].removesuffix(".ics"))
        self.assertNotIn(b"Odalys", content)
        self.assertNotIn(b"Saltern", content)
        self.assertEqual({f.read_at for f in feeds.feeds(self.office, self.imre)}, {self.instant})
        feeds.take_back(self.office, self.imre, own.id)
        with self.assertRaises(NotFound):
            self.read(own.link)
        with self.assertRaises(NotFound):
            feeds.take_back(self.office, self.maud, team.id)

    def test_whoever_leaves_takes_the_feed_along(self) -> None:
        brisa = add_person(self.office, "brisa", "Brisa Quay", "officer")
        made = feeds.make_feed(self.office, brisa, team=True)
        self.assertEqual(self.read(made.link), [])
        leave(self.office, self.maud, "brisa")
        with self.assertRaises(NotFound):
            self.read(made.link)
        with self.assertRaises(NotFound):
            feeds.read_feed(self.office, "x")
        for who in (self.odalys,):
            with self.assertRaises(NotAllowed):
                feeds.make_feed(self.office, who, team=False)
        with self.assertRaises(TooLarge):
            for _ in range(feeds.MOST_FEEDS + 1):
                feeds.make_feed(self.office, self.imre, team=False)

    def test_a_limit_to_kinds_holds_in_a_feed(self) -> None:
        self.filed()
        with write_session(self.office.engine) as session:
            session.get_one(Person, "imre").kinds = ["IP"]
        self.assertEqual(self.read(feeds.make_feed(self.office, self.imre, team=True).link), [])


class Calls(Cases):
    def test_a_call_leaves_a_note(self) -> None:
        reference = self.filed()
        loaded = talking.note(self.office, self.imre, reference, "asks when it begins", "Ann Holt, 0300 55 99")
        _, notes = talking.messages(self.office, loaded, {"imre": "Imre Holt"}, inner=True)
        self.assertEqual([n.text for n in notes], ["Call of Ann Holt, 0300 55 99: asks when it begins"])
        self.assertEqual(talking.messages(self.office, loaded, {}, inner=False)[1], ())
