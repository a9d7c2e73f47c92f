"""Sentences: made from a message and values, told in any language, kept with what they were made from."""

from __future__ import annotations

import copy
import pickle
import unittest
from decimal import Decimal
from typing import Any

from jolly_clerk.core import history as h
from jolly_clerk.core.history import ENTRY
from jolly_clerk.core.in_words import in_words
from jolly_clerk.core.say import Sentence, _, say, say_n, speaking
from jolly_clerk.core.things import THINGS, things
from jolly_clerk.core.time.periods import Period, Span
from tests.helpers import Marked, at


class Saying(unittest.TestCase):
    def test_a_message_with_its_values(self) -> None:
        said = say("“{name}” is empty ({size} bytes).", name="plan.pdf", size=0)
        self.assertEqual(said, "“plan.pdf” is empty (0 bytes).")
        self.assertEqual((said.message, said.values), ("“{name}” is empty ({size} bytes).", {"name": "plan.pdf", "size": 0}))
        self.assertEqual(say("Nothing {here} is filled in."), "Nothing {here} is filled in.")
        with self.assertRaises(KeyError):
            say("{name} and {other}", name="one")

    def test_one_and_many(self) -> None:
        self.assertEqual([say_n("{n} file", "{n} files", n) for n in (0, 1, 2)], ["0 files", "1 file", "2 files"])
        self.assertEqual([things(1, what) for what in THINGS][:2], ["1 answer", "1 comment"])
        self.assertEqual(f"{Period(1, 'working days')}, {Period(10, 'working days')}", "1 working day, 10 working days")

    def test_another_language(self) -> None:
        table = {"late": _("It is late.")}
        with speaking(Marked()):
            self.assertEqual(say(table["late"]), "«It is late.»")
            self.assertEqual(in_words(True), "«yes»")
            self.assertEqual(in_words(Span(months=1, days=2)), "««1 month» and «2 days»»")
            with speaking(None):
                self.assertEqual(say(table["late"]), "It is late.")
            self.assertEqual(say(""), "")
        self.assertEqual(say(table["late"]), "It is late.")

    def test_a_sentence_is_a_text_like_any_other(self) -> None:
        said = say("{n} of {of}", n=1, of=2)
        for other in (copy.deepcopy(said), pickle.loads(pickle.dumps(said))):
            self.assertEqual((other, other.message, type(other)), ("1 of 2", "{n} of {of}", Sentence))


class Kept(unittest.TestCase):
    def test_an_entry_keeps_what_its_sentence_was_made_from(self) -> None:
        because = say("{what} comes back, since nothing is issued", what="the bond")
        whose: dict[str, Any] = {"at": at(2026, 11, 5), "who": "clock", "role": "clock"}
        entry = h.PaidBack(**whose, amount=Decimal("20.00"), because=because, key="k")
        self.assertEqual(entry.because, "the bond comes back, since nothing is issued")
        kept = entry.model_dump(mode="json")
        self.assertEqual(kept["messages"]["because"], {"message": because.message, "values": {"what": "the bond"}})
        self.assertEqual(ENTRY.validate_python(kept), entry)

    def test_one_with_a_plain_text_is_written_as_before(self) -> None:
        whose: dict[str, Any] = {"at": at(2026, 11, 5), "who": "clock", "role": "clock"}
        self.assertNotIn(
            "messages", h.PaidBack(**whose, amount=Decimal("20.00"), because="typed", key="k").model_dump(mode="json")
        )
