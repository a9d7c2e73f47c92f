"""Lines for prerequisites: another case that has to stand in a certain state."""

from __future__ import annotations

from functools import cached_property

from jolly_clerk.core.absence import UNKNOWN
from jolly_clerk.core.checklist.case_at_hand import CaseAtHand, CaseLine
from jolly_clerk.core.checklist.requirement import Explanation, Standing
from jolly_clerk.core.in_words import any_of
from jolly_clerk.core.rulebook.compiled import CompiledPrerequisite
from jolly_clerk.core.say import say


class PrerequisiteLine(CaseLine):
    """Another case, by what is known of it."""

    def __init__(self, case: CaseAtHand, compiled: CompiledPrerequisite) -> None:
        wanted = compiled.prerequisite
        at = [case.rulebook.edition.registers[wanted.register_].asked_by]
        super().__init__(case, case.each(None)[0], wanted.id, "prerequisite", wanted.title, at)
        self.compiled = compiled

    def propose(self) -> Standing:
        return self._looked_up[0]

    def explain(self, proposed: Standing) -> Explanation:
        wanted, (_, because, put_right) = self.compiled.prerequisite, self._looked_up
        return Explanation(wanted.part, wanted.says, wanted.article, because, put_right, self.case.where(self.at))

    @cached_property
    def _looked_up(self) -> tuple[Standing, str, str]:
        """The standing of a prerequisite, why, and what puts it right."""
        case, wanted = self.case, self.compiled.prerequisite
        register = case.rulebook.edition.registers[wanted.register_]
        reference = str(case.sheet.raw.get(self.at[0]) or "").strip()
        states = any_of(say(s) for s in wanted.states)
        told = case.registers.get(wanted.register_)
        asked = case.asked(self.compiled.when, self.of)
        put_right = say("Name the reference of a case that is {states}.", states=states)
        if asked is not True:
            because = case.not_asked(self.compiled.when, asked, self.of)
            return "not known yet" if asked is UNKNOWN else "not asked", because, ""
        if not reference:
            return "wanting", say("No reference is named."), put_right
        if told is None or told.key.casefold() != reference.casefold() or told.trouble:
            return "in doubt", say("{reference} was not looked up.", reference=reference), put_right
        if told.row is None:
            return (
                "wanting",
                say("{title}: there is no {reference} of yours.", title=register.title, reference=reference),
                put_right,
            )
        if (
            told.row.get("state") in wanted.states
            and wanted.permit
            and (stands := told.row.get("permit", "")) not in wanted.permit
        ):
            named = {"case": told.row[register.key], "states": any_of(say(s) for s in wanted.permit)}
            because = say(
                "{case} is {stands}; it has to be {states}.", stands=say(stands) if stands else say("not issued"), **named
            )
            return "wanting", because, say("{because} Name another.", because=because)
        if told.row.get("state") in wanted.states:
            return "met", say("{case} is “{state}”.", case=told.row[register.key], state=say(told.row["state"])), ""
        because = say(
            "{case} is “{state}”; it has to be {states}.",
            case=told.row[register.key],
            state=say(told.row.get("state", "")),
            states=states,
        )
        return "wanting", because, say("{because} Bring that case on first, or name another.", because=because)
