"""Nobody of the office decides on a case of their own; who looked at what is searched by auditors and leads."""

from __future__ import annotations

from datetime import date

from jolly_clerk.core.owning import Somebody, why_not_own
from jolly_clerk.office.desk import checking, own_views, owning, talking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, TooLarge
from jolly_clerk.office.keeping import looks
from jolly_clerk.store.database import write_session
from jolly_clerk.store.tables import Person
from tests.office.test_journey import Cases

BORN = date(1980, 5, 4)


class OwnCases(Cases):
    def test_whose_case_is_ones_own(self) -> None:
        """The mail address, or name and day of birth; a name alone is not enough."""
        mine = Somebody("Odalys Renn", "o@renn.example", BORN)
        for other, own in (
            (Somebody("Anybody", "O@Renn.example", None), True),
            (Somebody("Renn, Odalys", "", BORN), True),
            (Somebody("Odalys Renn", "", None), False),
            (Somebody("Odalys Renn", "", date(1981, 5, 4)), False),
            (Somebody("Tamsin Oake", "", BORN), False),
            (Somebody("", "", None), False),
        ):
            with self.subTest(other=other):
                self.assertEqual(bool(why_not_own(mine, other, "judge")), own)
                self.assertEqual(why_not_own(mine, other, "note"), "")

    def test_nobody_decides_on_their_own(self) -> None:
        reference = self.filed()
        with write_session(self.office.engine) as session:
            for id_ in ("imre", "odalys"):
                session.get_one(Person, id_).mail = "imre@home.example"
        with self.assertRaises(NotAllowed) as told:
            checking.begin_checking(self.office, self.imre, reference)
        self.assertIn("a case of your own", told.exception.detail)
        talking.note(self.office, self.imre, reference, "It is mine.")
        owning.assign(self.office, self.maud, reference, "maud")
        self.assertEqual(checking.begin_checking(self.office, self.maud, reference).assessment.state, "Being checked")


class WhoLooked(Cases):
    def test_searched_by_person_reference_and_day(self) -> None:
        looks.looked(self.office, self.imre, "case", "BW-26-00001-B")
        self.move_to(2026, 11, 6)
        looks.looked(self.office, self.maud, "file", "BW-26-00002-M", "plan.pdf")

        def found(**asked: object) -> list[str]:
            return [row.who for row in looks.search_looks(self.office, self.anselm, **asked).rows]  # type: ignore[arg-type]

        self.assertEqual(found(), ["Maud Ferrier", "Imre Holt"])
        self.assertEqual(found(words="imre"), ["Imre Holt"])
        self.assertEqual(found(words="bw-26-00002-m"), ["Maud Ferrier"])
        self.assertEqual(found(words="plan.pdf"), ["Maud Ferrier"])
        self.assertEqual(found(first=date(2026, 11, 6)), ["Maud Ferrier"])
        self.assertEqual(found(last=date(2026, 11, 5)), ["Imre Holt"])
        for who in (self.imre, self.odalys):
            with self.assertRaises(NotAllowed):
                looks.search_looks(self.office, who)

    def test_a_page_at_a_time(self) -> None:
        for n in range(looks.PAGE + 5):
            looks.looked(self.office, self.imre, "case", f"BW-26-{n:05}-B")
        first = looks.search_looks(self.office, self.maud)
        rest = looks.search_looks(self.office, self.maud, after=first.after)
        self.assertEqual((len(first.rows), len(rest.rows), rest.after), (looks.PAGE, 5, ""))


class OwnViews(Cases):
    def test_kept_replaced_dropped(self) -> None:
        own_views.keep(self.office, self.imre, "Nobody has them", "nobody's yet", "BW", "")
        own_views.keep(self.office, self.imre, "Nobody has them", "everyone's", "", "to hand over")
        (one,) = own_views.views(self.office, self.imre)
        self.assertEqual((one.name, one.whose, one.view), ("Nobody has them", "everyone's", "to hand over"))
        self.assertEqual(own_views.views(self.office, self.maud), [])
        for name, whose, view in (("x", "mine", ""), ("Some", "theirs", ""), ("Some", "mine", "all that is red")):
            with self.subTest(name=name, whose=whose, view=view), self.assertRaises(Invalid):
                own_views.keep(self.office, self.imre, name, whose, "", view)
        with self.assertRaises(NotFound):
            own_views.drop(self.office, self.maud, one.id)
        self.assertEqual(own_views.drop(self.office, self.imre, one.id), [])
        with self.assertRaises(NotAllowed):
            own_views.views(self.office, self.odalys)
        with self.assertRaises(TooLarge):
            for n in range(own_views.MOST + 1):
                own_views.keep(self.office, self.imre, f"View {n}", "mine", "", "")
