"""Finding the right kind of application by what somebody needs, in plain words and with typing errors."""

from __future__ import annotations

import unittest

from jolly_clerk.core.rulebook.needs import find_by_need
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file

RULEBOOKS = [read_rulebook_file(path).rulebook for path in sorted(SHIPPED.glob("*/2026*.yaml"))]


class ByNeed(unittest.TestCase):
    def kinds(self, said: str) -> list[str]:
        return [need.rulebook.edition.kind for need in find_by_need(said, RULEBOOKS)]

    def test_plain_words(self) -> None:
        for said, kind in (
            ("I want to build a shed", "BW"),
            ("new windows for our house", "BW"),
            ("roof on the boat slip", "BW"),
            ("a hot dog stand", "TL"),
            ("licence for my stall", "TL"),
            ("my band plays three concerts", "QV"),
            ("a circus with animals", "QV"),
            ("I invented a better winch", "IP"),
            ("surveyor from another country", "PL"),
            ("test a new drug", "CT"),
            ("what a medicine is made of", "CP"),
        ):
            with self.subTest(said):
                self.assertEqual(self.kinds(said)[:1], [kind])

    def test_typing_errors(self) -> None:
        for said, kind in (
            ("sel ice creem", "TL"),
            ("put up a fense", "BW"),
            ("clincal study of a vacine", "CT"),
            ("surveyer", "PL"),
            ("musicans", "QV"),
            ("PATNET", "IP"),
        ):
            with self.subTest(said):
                self.assertEqual(self.kinds(said)[:1], [kind])

    def test_words_that_tell_nothing(self) -> None:
        for said in ("", "I need a permit", "xyzzy", "the a an", "?!", "a" * 200):
            self.assertEqual(self.kinds(said), [], said)

    def test_what_fits_hardly_is_left_out(self) -> None:
        needs = find_by_need("a circus on the quay", RULEBOOKS)
        self.assertEqual(needs[0].rulebook.edition.kind, "QV")
        self.assertEqual(needs[0].words, ("circus",))
        self.assertTrue(all(need.score >= needs[0].score / 2 for need in needs))
