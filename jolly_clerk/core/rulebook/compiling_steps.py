"""The part of the compiler that minds short filings on a permit."""

from __future__ import annotations

from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.compiled_step import CompiledStep
from jolly_clerk.core.rulebook.questions import Questions
from jolly_clerk.core.say import say


class Steps(Questions):
    """An edition whose short filing is checked; faults are noted where they stand."""

    def step(self) -> CompiledStep | None:
        """What the short filing does; None for an edition that is none."""
        self.visits()
        step = self.e.step
        if (step is None) != (self.e.on_ is None):
            self.fault(("on",), say("a short filing says `on: permit`, and at `step` what it does to the permit"))
        if step is None:
            return None
        register = self.e.registers.get(step.register_)
        if self.e.sub_kind_of is None:
            self.fault(("on",), say("a short filing on a permit says at `sub_kind_of` which kind the permit is of"))
        if register is None or register.cases_of is None or register.cases_of != self.e.sub_kind_of:
            message = say(
                "{name} is no register with `cases_of: {kind}`", name=repr(step.register_), kind=self.e.sub_kind_of or "?"
            )
            self.fault(("step", "register"), message)
        days = {
            what: rule
            for what, said in step.days.items()
            if (rule := self.rule(said, ("step", "days", what), types.DATE)) is not None
        }
        sets = []
        for n, said in enumerate(step.sets):
            title, to = (
                self.text(words, ("step", "sets", n, key)) for key, words in (("title", said.title), ("to", said.becomes))
            )
            if title and to:
                sets.append((title, to))
        asked = ((p, q) for p in self.e.parts for q in p.questions if not p.each)
        mails = {f"{p.id}.{q.id}" for p, q in asked if q.type in ("mail address", "text")}
        if step.accepted_by is not None and step.accepted_by not in mails:
            message = say("{name} is no question for a mail address", name=repr(step.accepted_by))
            self.fault(("step", "accepted_by"), message)
        return CompiledStep(
            step,
            register.asked_by if register else "",
            self.rule(step.from_, ("step", "from"), types.DATE),
            self.rule(step.until, ("step", "until"), types.DATE),
            days,
            tuple(sets),
            self.rule(step.back, ("step", "back"), types.NUMBER),
        )

    def visits(self) -> None:
        """Fault an inspection that comes after one that there is not."""
        before: list[str] = []
        for n, visit in enumerate(self.e.inspections.visits if self.e.inspections else ()):
            for name in visit.after:
                if name not in before:
                    self.fault(
                        ("inspections", "visits", n, "after"), say("{name} is no inspection before this one", name=repr(name))
                    )
            if visit.id in before:
                self.fault(("inspections", "visits", n, "id"), say("{name} stands twice", name=repr(visit.id)))
            before.append(visit.id)
