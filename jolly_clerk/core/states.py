"""The states of a case, in one table: everything that is said of a state by itself is said here.

A state that is added to :data:`State` and not to :data:`STATES` fails a test; all lists of states derive from the table.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

from jolly_clerk.core.say import _

State = Literal[
    "Draft",
    "Waiting for payment",
    "Filed",
    "Being checked",
    "Answers wanted",
    "Answers came back",
    "Complete",
    "Under review",
    "Granted",
    "Refused",
    "Not accepted",
    "Out of scope",
    "Lapsed",
    "Withdrawn",
]
#: who has a case on a day
Holder = Literal["ours", "theirs", "a third party's"]
Tone = Literal["petrol", "brass", "moss", "madder", "slate"]
#: on whose list a case stands: the intake officers', a reviewer's, or nobody's any more
Desk = Literal["intake", "review", ""]


@dataclass(frozen=True, slots=True)
class StateInfo:
    """What holds of a state by itself.

    ``desk`` is where a case in it lies; ``checking`` tells that the officer judges; ``final`` that nothing follows but money and
    papers; ``closes_intake`` that its stamp is tilted. ``tone`` is the colour of the stamp. ``officer`` and ``applicant`` are the next
    thing to do in words, where the state alone decides it; ``ending`` is the name of the entry that brings it about.
    """

    desk: Desk
    tone: Tone
    officer: str
    applicant: str
    checking: bool = False
    final: bool = False
    closes_intake: bool = False
    ending: str = ""


STATES: Final[dict[State, StateInfo]] = {
    "Draft": StateInfo("", "slate", _("Not filed yet"), ""),
    "Waiting for payment": StateInfo("intake", "brass", _("Payment of what is due at filing"), ""),
    "Filed": StateInfo("intake", "petrol", "", _("Nothing to do: the office will begin checking")),
    "Being checked": StateInfo("intake", "petrol", "", _("Nothing to do: the office is checking"), checking=True),
    "Answers wanted": StateInfo("intake", "brass", "", ""),
    "Answers came back": StateInfo("intake", "petrol", "", _("Nothing to do: the office is reading your answers"), checking=True),
    "Complete": StateInfo(
        "intake", "moss", _("Hand over to a reviewer"), _("Nothing to do: the decision comes next"), closes_intake=True
    ),
    "Under review": StateInfo("review", "petrol", _("Decide: grant or refuse"), _("Nothing to do: a reviewer decides")),
    "Granted": StateInfo(
        "", "moss", _("{Grants} issued"), _("Your {grants} is here"), final=True, closes_intake=True, ending="granted"
    ),
    "Refused": StateInfo(
        "", "madder", "", _("Read the letter: it says what you can do"), final=True, closes_intake=True, ending="refused"
    ),
    "Not accepted": StateInfo(
        "", "madder", "", _("Read the letter: it says what you can do"), final=True, closes_intake=True, ending="not accepted"
    ),
    "Out of scope": StateInfo(
        "", "slate", "", _("Read the letter: it says what you can do"), final=True, closes_intake=True, ending="out of scope"
    ),
    "Lapsed": StateInfo("", "slate", "", _("You may file again"), final=True, closes_intake=True, ending="lapsed"),
    "Withdrawn": StateInfo("", "slate", "", _("You may file again"), final=True, closes_intake=True, ending="withdrawn"),
}

#: the applicant's time ran out
LAPSED: Final = tuple(state for state, info in STATES.items() if info.ending == "lapsed")
#: nothing follows but money and papers
FINAL: Final = tuple(state for state, info in STATES.items() if info.final)
#: not filed yet
UNFILED: Final[State] = "Draft"
#: filed and going on
LIVE: Final = tuple(state for state, info in STATES.items() if info.desk)
#: the officer judges
CHECKING: Final = tuple(state for state, info in STATES.items() if info.checking)
#: what lies before the intake desk
WITH_INTAKE: Final = tuple(state for state, info in STATES.items() if info.desk == "intake")
#: what lies before a reviewer
WITH_REVIEW: Final = tuple(state for state, info in STATES.items() if info.desk == "review")
#: the state that an entry of the history ends a case in
ENDINGS: Final[dict[str, State]] = {info.ending: state for state, info in STATES.items() if info.ending}
#: what a lead may reopen: what the office or its clock ended
REOPENED: Final[tuple[State, ...]] = ("Not accepted", "Out of scope", "Lapsed", "Refused")
