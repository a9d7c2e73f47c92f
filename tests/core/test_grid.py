"""Repeats as a table: what each cell becomes, which row belongs to whom, and exactly what is wrong."""

from __future__ import annotations

import unittest
from datetime import date
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.core.dossier.grid import MOST_TOLD, columns_of, given_out, take_in
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.shelf.rulebooks import read_rulebook_file
from tests.helpers import ROOT

QV = read_rulebook_file(sorted((ROOT / "rulebooks" / "QV").glob("*.yaml"))[-1]).rulebook
CT = read_rulebook_file(sorted(Path(ROOT / "rulebooks" / "CT").glob("*.yaml"))[-1]).rulebook
TODAY = date(2026, 11, 27)
HEAD = ["Name as in the passport", "What do they do?", "Date of birth", "Passport number"]


def taken(rows, dossier=None, **more):
    return take_in(QV, dossier or Dossier(), (), "persons", rows, TODAY, **more)


def persons(found):
    return found.dossier.answers["persons"]


class Grid(unittest.TestCase):
    def test_rows_become_persons(self) -> None:
        found = taken(
            [HEAD, ["Ines Marrow", "dances", "15.1.1991", "M7654321"], ["Tom Ashby", "Plays or sings", "2 May 1988", ""]]
        )
        self.assertEqual((found.added, found.changed), (2, 0))
        ines, tom = persons(found)
        self.assertEqual((ines["id"], ines["name"], ines["born"], ines["passport"]), (1, "Ines Marrow", "15.1.1991", "M7654321"))
        self.assertEqual((tom["id"], tom["born"]), (2, "2 May 1988"))
        self.assertNotIn("passport", tom, "an empty cell says nothing")

    def test_choices_by_title_id_and_language(self) -> None:
        options = QV.questions["persons.role"].options
        [(id_, title), *_] = list(options.items())
        pt = QV.edition.translations["pt"]
        in_portuguese = next(said for own, said in pt.items() if own == title)
        found = taken([HEAD[:2], ["A Renn", title.upper()], ["B Renn", id_], ["C Renn", in_portuguese]])
        self.assertEqual([p["role"] for p in persons(found)], [id_] * 3)
        self.assertEqual(found.complaints, ())

    def test_each_cell_has_its_own_complaint(self) -> None:
        found = taken([HEAD, ["Hanna Rook", "juggles fire", "31 Jun 1996", "M7654390"], ["Basil Rook", "", "15/01/99", ""]])
        told = [(c.row, c.column, c.text, c.place) for c in found.complaints]
        self.assertEqual(told[0][:2], (2, "What do they do?"))
        self.assertTrue(told[0][2].startswith("Choose one of: "), told[0])
        self.assertEqual(told[1], (2, "Date of birth", "There is no 31 Jun 1996.", "persons.1.born"))
        self.assertEqual(told[2][:2], (3, "Date of birth"))
        hanna = persons(found)[0]
        self.assertEqual(hanna["born"], "31 Jun 1996", "what is wrong is kept to be put right")
        self.assertNotIn("role", hanna, "a choice that nobody knows would hide the list")

    def test_a_row_goes_to_whom_it_names(self) -> None:
        before = persons(taken([HEAD, ["Ines Marrow", "", "15 Jan 1991", ""], ["Tom Ashby", "", "", ""]]))
        there = Dossier(answers={"persons": before}, numbered={"persons": 2})
        found = taken([["Passport number", "Name as in the passport"], ["M7654324", "tom ashby"], ["M1", "Nell Ashby"]], there)
        self.assertEqual((found.added, found.changed), (1, 1))
        self.assertEqual([(p["id"], p["name"], p.get("passport")) for p in persons(found)],
                         [(1, "Ines Marrow", None), (2, "Tom Ashby", "M7654324"), (3, "Nell Ashby", "M1")])  # fmt: skip

    def test_two_of_one_name_are_two(self) -> None:
        found = taken([[HEAD[0], "Date of birth"], ["Lior Sedge", "1 Jan 1980"], ["Lior Sedge", "2 Feb 2001"]])
        self.assertEqual([p["born"] for p in persons(found)], ["1 Jan 1980", "2 Feb 2001"])

    def test_given_out_and_taken_in_again_changes_nothing(self) -> None:
        found = taken([HEAD, ["Ines Marrow", "", "1991-01-15", "M7654321"], ["=cmd()", "", "1988-05-02", "-3"]])
        table = given_out(QV, found.dossier, "persons", TODAY)
        self.assertEqual(table[0][:2], ["No.", "Name as in the passport"])
        again = taken(table, found.dossier)
        self.assertEqual((again.added, again.changed, again.complaints), (0, 0, ()))
        self.assertEqual(persons(again), persons(found))

    def test_a_name_put_right_in_the_table_stays_the_same_person(self) -> None:
        found = taken([HEAD, ["Ines Marow", "", "1991-01-15", "M7654321"]])
        table = given_out(QV, found.dossier, "persons", TODAY)
        table[1][1] = "Ines Marrow"
        again = taken(table, found.dossier)
        self.assertEqual([(p["id"], p["name"]) for p in persons(again)], [(1, "Ines Marrow")])

    def test_headings_that_nobody_knows_are_said(self) -> None:
        found = taken(
            [
                ["Name as in the passport", "Passport nr", "Shoe size", "Date of birth", "Date of birth"],
                ["Ines Marrow", "1", "2", "", ""],
            ]
        )
        told = {c.column: c.text for c in found.complaints}
        self.assertEqual(told["Passport nr"], "No question is called so; this column was not taken. Is it “Passport number”?")
        self.assertEqual(told["Shoe size"], "No question is called so; this column was not taken.")
        self.assertEqual(told["Date of birth"], "This column stands twice; the first one was taken.")
        self.assertEqual(found.added, 1)

    def test_without_headings_nothing_is_guessed(self) -> None:
        found = taken([["Ines Marrow", "15 Jan 1991"]])
        self.assertEqual((found.added, "persons" in found.dossier.answers), (0, False))
        self.assertTrue(
            found.complaints[0].text.startswith("The first row has to name the columns, for example “Name as in the passport”")
        )

    def test_pasted_from_a_cell_on(self) -> None:
        there = taken([HEAD, ["Ines Marrow", "", "", ""], ["Tom Ashby", "", "", ""]]).dossier
        found = taken([["2 May 1988", "M1"], ["3 Mar 1990", "M2"]], there, columns=["born", "passport"], first=2)
        self.assertEqual([p.get("born") for p in persons(found)], [None, "2 May 1988", "3 Mar 1990"])
        self.assertEqual((found.added, found.changed), (1, 1))
        self.assertNotIn("name", persons(found)[2])

    def test_one_value_called_like_a_column_is_a_value(self) -> None:
        found = taken([["Place"], ["Tom Ashby"]], columns=["name"])
        self.assertEqual([p["name"] for p in persons(found)], ["Place", "Tom Ashby"])

    def test_at_most_thirty(self) -> None:
        found = taken([HEAD[:1], *([f"Odo Fenn {n}"] for n in range(33))])
        self.assertEqual(len(persons(found)), 30)
        self.assertEqual([(c.row, c.text) for c in found.complaints], [(32, "At most 30 fit here; 3 rows were not taken.")])

    def test_numbers_are_never_given_again(self) -> None:
        there = Dossier(answers={"persons": [{"id": 4, "name": "A"}]}, numbered={"persons": 9})
        self.assertEqual([p["id"] for p in persons(taken([HEAD[:1], ["B Renn"]], there))], [4, 10])

    def test_sites_of_a_trial_as_well(self) -> None:
        columns = columns_of(CT, "sites")
        self.assertGreater(len(columns), 2)
        found = take_in(CT, Dossier(), (), "sites", [[c.question.ask for c in columns], ["House 1"] * len(columns)], TODAY)
        self.assertEqual(found.added, 1)

    @given(st.lists(st.lists(st.text(max_size=12), max_size=6), max_size=12), st.booleans())
    def test_whatever_comes_is_borne(self, rows: list[list[str]], headed: bool) -> None:
        found = taken([HEAD, *rows] if headed else rows)
        self.assertLessEqual(len(found.complaints), MOST_TOLD)
        whole = [row for row in rows if any(cell.strip() for cell in row[:4])]
        if headed:
            self.assertEqual(found.added, len(whole))


if __name__ == "__main__":
    unittest.main()
