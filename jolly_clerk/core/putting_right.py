"""A plain clerical error in an answer: what an officer may put right alone, and why something is none.

Source: the product page, *Corrections*: the officer may put it right alone, and the applicant is told.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from jolly_clerk.core.dossier.places import answer_at
from jolly_clerk.core.form import question_at
from jolly_clerk.core.in_words import money
from jolly_clerk.core.say import say

if TYPE_CHECKING:
    from jolly_clerk.core.assessment import Assessment

#: what is typed; a choice is never a clerical error
TYPED = (
    "text", "long text", "person", "place", "mail address", "number", "count", "money", "date", "date and time", "hour", "period",
)  # fmt: skip


def said_at(a: Assessment, place: str) -> str:
    """An answer in words."""
    return next((q.said for part in a.parts for q in part.questions if q.place == place), "")


def may_be_put_right(a: Assessment, place: str) -> str:
    """Why the answer at a place is none that can be put right; nothing if it can."""
    node = question_at(a.rulebook, place)
    asked = any(q.place == place and q.asked == "yes" for part in a.parts for q in part.questions)
    if node is None or not asked or node.question.type not in TYPED:
        return say("Name an answer that was typed.")
    if answer_at(a.dossier.answers, place) in (None, ""):
        return say("Nothing was answered there: that is asked for, not put right.")
    return ""


def more_than_clerical(before: Assessment, after: Assessment, place: str) -> str:
    """What the change would change besides the answer, which makes it more than a clerical error; nothing if it is one."""
    fault = next((q.fault for part in after.parts for q in part.questions if q.place == place), "")
    if fault:
        return fault
    if said_at(before, place) == said_at(after, place):
        return say("It says that already.")
    currency = before.rulebook.edition.currency
    for was, now in zip(before.fees.totals, after.fees.totals, strict=True):
        if was.amount != now.amount:
            told = [money(amount, currency) if amount is not None else say("open") for amount in (was.amount, now.amount)]
            return say(
                "That is no clerical error: what is due would be {now} instead of {was}. Ask for it.", was=told[0], now=told[1]
            )
    asked = [{(r.id, r.asked) for r in a.requirements} for a in (before, after)]
    if asked[0] != asked[1]:
        return say("That is no clerical error: other things would be asked for. Ask for it.")
    if before.pathway != after.pathway or before.clock_rules != after.clock_rules:
        return say("That is no clerical error: it would be handled in another way. Ask for it.")
    return ""
