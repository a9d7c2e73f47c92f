"""Lines for answers: what is asked and open, what was asked about before, and parts with too few or too many items."""

from __future__ import annotations

from jolly_clerk.core.checklist.case_at_hand import CaseAtHand, CaseLine
from jolly_clerk.core.checklist.requirement import Explanation, Standing
from jolly_clerk.core.dossier.differences import said_answer
from jolly_clerk.core.form import question_at
from jolly_clerk.core.say import say


def answers_looked_at(case: CaseAtHand) -> dict[str, set[str]]:
    """The places of answers that have a line of their own, by part: what is wanting, and what was judged or asked about."""
    places: dict[str, set[str]] = {}
    judged = [id_.removeprefix("answer.") for id_ in (*case.case.given, *case.pointed) if id_.startswith("answer.")]
    for place in (*case.sheet.wanting, *judged):
        if case.sheet.asked.get(place, False) is not False:
            places.setdefault(place.partition(".")[0], set()).add(place)
    return places


class CountLine(CaseLine):
    """Too few or too many items of a part that repeats."""

    def __init__(self, case: CaseAtHand, part: str, fault: str) -> None:
        super().__init__(case, case.each(None)[0], f"answer.{part}", "answer", case.rulebook.parts[part].title, [part])
        self.part, self.fault = part, fault

    def propose(self) -> Standing:
        return "wanting"

    def explain(self, proposed: Standing) -> Explanation:
        return Explanation(self.part, say("So many are asked."), "", self.fault, self.fault, self.case.where(self.at))


class AnswerLine(CaseLine):
    """A question that is asked, and open, wrong or asked about before."""

    def __init__(self, case: CaseAtHand, part: str, place: str) -> None:
        self.node = question_at(case.rulebook, place)
        title = self.node.question.ask if self.node else place
        super().__init__(case, case.each(None)[0], f"answer.{place}", "answer", title, [place])
        self.part, self.place = part, place

    def propose(self) -> Standing:
        return "wanting" if self.place in self.case.sheet.wanting else "met"

    def explain(self, proposed: Standing) -> Explanation:
        sheet, complaint = self.case.sheet, self.case.sheet.faults.get(self.place)
        raw = said_answer(self.case.rulebook, self.place, sheet.raw.get(self.place))
        because = complaint or (say("Answered: {raw}.", raw=raw) if self.place in sheet.raw else say("It was left open."))
        says, article = (
            say("This question is asked and has to be answered."),
            (self.node.question.article if self.node else None) or "",
        )
        put_right = complaint or say("Answer “{plain_title}”.", plain_title=self.plain_title)
        return Explanation(self.part, says, article, because, put_right, self.case.where(self.at))
