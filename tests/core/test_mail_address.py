"""What counts as a mail address: what is plain is taken at sight, and that is nothing that a mail would not take."""

from __future__ import annotations

import unittest
from unittest.mock import patch

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.core import mail_address
from jolly_clerk.core.mail_address import LONGEST, as_mail_address

WORD = st.text("abcz019_+-", min_size=1, max_size=9)
NAME = st.text("abcz019-", min_size=1, max_size=9)


class MailAddresses(unittest.TestCase):
    @given(st.lists(WORD, min_size=1, max_size=5), st.lists(NAME, min_size=1, max_size=5))
    def test_a_plain_one_is_taken_at_sight_and_fits_a_mail(self, words: list[str], names: list[str]) -> None:
        mail = f"{'.'.join(words)}@{'.'.join(names)}"
        with patch.object(mail_address, "_fits_a_header", side_effect=AssertionError("it is plain")):
            self.assertEqual(as_mail_address(f" {mail.upper()} "), mail)
        self.assertTrue(mail_address._fits_a_header(mail))

    def test_what_is_none_is_refused(self) -> None:
        for text in (
            "",
            "ada",
            "ada@",
            "@marsh.example",
            "a@b@c",
            "ada @marsh.example",
            "a\nb@c.example",
            f"{'a' * LONGEST}@b.example",
        ):
            with self.subTest(text=text), self.assertRaisesRegex(ValueError, "no mail address"):
                as_mail_address(text)

    def test_one_that_is_not_plain_is_asked_of_the_mail(self) -> None:
        with patch.object(mail_address, "_fits_a_header", return_value=False) as asked:
            for text in (
                "zoë@marsh.example",
                "a..b@marsh.example",
                "ada@marsh..example",
                ".ada@marsh.example",
                "=?q?x?=@b.example",
            ):
                with self.subTest(text=text), self.assertRaises(ValueError):
                    as_mail_address(text)
            self.assertEqual(asked.call_count, 5)
