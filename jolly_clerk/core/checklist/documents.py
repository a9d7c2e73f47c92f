"""Lines for documents: slots (age, validity, language of their files) and "some of these are enough" groups."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from jolly_clerk.core.absence import UNKNOWN, is_absent
from jolly_clerk.core.checklist.case_at_hand import CaseAtHand, CaseLine, Item
from jolly_clerk.core.checklist.requirement import Explanation, Standing
from jolly_clerk.core.delivering import came_from, day_of_arrival
from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.by_name import names
from jolly_clerk.core.facts.file_findings import Finding
from jolly_clerk.core.facts.findings import slot_findings
from jolly_clerk.core.facts.form_fields import fields_of, form_findings
from jolly_clerk.core.facts.languages import language_findings
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.facts.stated import stated
from jolly_clerk.core.in_words import day as said_day
from jolly_clerk.core.rulebook.compiled import CompiledEither, CompiledSlot
from jolly_clerk.core.rulebook.dates import CALENDAR
from jolly_clerk.core.say import say, say_n
from jolly_clerk.core.things import things
from jolly_clerk.core.values import Value


def _unstated(reading: Reading, by: Value) -> Literal["look", "note"]:
    """How much it weighs that a paper does not state a day: nothing while it is not known ``by`` which one is measured, or where a reader
    before this one may have missed it."""
    return "look" if reading.thorough and not is_absent(by) else "note"


class SlotLine(CaseLine):
    """A place for a document: what is there, and what was found in it."""

    def __init__(self, case: CaseAtHand, compiled: CompiledSlot, item: Item) -> None:
        slot = compiled.slot
        self.name = item.id(slot.slot)
        self.compiled, self.files = compiled, case.files_in(self.name)
        stops = slot.delivered_by is None and compiled.until is None
        self.by_post = tuple(d for d in case.dossier.dockets if d.slot == self.name) if slot.by_post and not self.files else ()
        stops = stops and not self.by_post
        if self.files and not stops:
            stops = case.asked(compiled.when, item) is True
        ref, lane = f"documents.{self.name}", item.own if item.part == case.lane_part else ""
        super().__init__(case, item, ref, "document", slot.title, [ref], stops, lane)

    def propose(self) -> Standing:
        asked = self.case.asked(self.compiled.when, self.of)
        if asked is not True:
            return "not known yet" if asked is UNKNOWN else "not asked"
        if self.files:
            worst = {f.weight for f in self._findings()}
            return "wanting" if "fault" in worst else "in doubt" if "look" in worst else "to read"
        proposed = self._empty()[0]
        return "to read" if proposed == "wanting" and self._borrowed() else proposed

    def cell(self) -> str:
        return things(len(self.files), "file") if self.files else say("nothing")

    def explain(self, proposed: Standing) -> Explanation:
        slot, asked, put_right = self.compiled.slot, self.case.asked(self.compiled.when, self.of), ""
        findings, files = list[Finding](), self.files
        if asked is not True:
            because = self.case.not_asked(self.compiled.when, asked, self.of)
            findings = (
                self._findings() if files else []
            )  # what is wrong with a file is told also where nobody knows yet if it is asked
        elif files:
            findings = self._findings()
            put_right = " ".join(f.text for f in findings if f.weight != "note")
            came = " ".join(filter(None, (came_from(a, self.case.sheet.values[CALENDAR]) for a in files)))
            because = f"{came} {put_right}".strip() or say(
                "{count} attached, read without findings.", count=things(len(files), "file")
            )
        elif proposed == "to read":
            files = self._borrowed()
            because = say("Nothing of its own; it may stand in “{name}”.", name=files[0].name)
        else:
            _, because, put_right = self._empty()
        return Explanation(
            "documents", slot.says, slot.article, because, put_right, self.case.where(self.at), tuple(findings), files,
            None, self.of.own, self._named(),
        )  # fmt: skip

    def _findings(self) -> list[Finding]:
        """What was found in the files of the slot."""
        case, slot = self.case, self.compiled.slot
        others = [other for a in self.files for other in case.same[a.sha256] if other.slot != self.name]
        found = slot_findings(slot, self.files, case.readings, others)
        if slot.languages:
            bound = {a.told.translates: (a, case.readings.get(a.sha256)) for a in self.files if a.told and a.told.translates}
            read = ((a, case.readings.get(a.sha256)) for a in self.files)
            found += [f for a, reading in read if reading for f in language_findings(slot, a, reading, bound.get(a.id))]
        if slot.form:
            fields = fields_of(case.rulebook, slot, case.dossier.answers, self.of.number)
            readings = ((a, case.readings.get(a.sha256)) for a in self.files)
            found += [f for a, reading in readings if reading for f in form_findings(case.rulebook, fields, a, reading)]
        if self.compiled.issued or self.compiled.valid:
            found += self._by_their_days()
        if self.compiled.in_the_name_of:
            found += self._by_their_name(self.compiled.in_the_name_of.value(self.of.values))
        return found

    def _borrowed(self) -> tuple[Attachment, ...]:
        """The files of other slots in which the document of this one may stand."""
        return tuple(a for other in self.compiled.slot.may_be_in for a in self.case.files_in(self.of.id(other)))

    def _named(self) -> str:
        """The office's name for the file of the slot; empty while an answer that it is made of is open."""
        text, values = self.compiled.named, self.of.values
        if text is None or any(not isinstance(p, str) and is_absent(p.value(values)) for p in text.pieces):
            return ""
        return "-".join(text.fill(values).split())

    def _by_their_days(self) -> Iterator[Finding]:
        """Whether each file is young enough and still valid, by the days that it bears; a day that is not found is said."""
        compiled = self.compiled
        for attachment in self.files:
            reading = self.case.readings.get(attachment.sha256)
            if reading is None or reading.opens != "yes":
                continue
            if compiled.slot.issued and compiled.issued:
                arrived = day_of_arrival(attachment, self.case.sheet.values[CALENDAR])
                yield from self._issued(arrived or compiled.issued.value(self.of.values), attachment, reading)
            if compiled.slot.valid and compiled.valid:
                yield from self._valid(compiled.valid.value(self.of.values), attachment, reading)

    def _by_their_name(self, name: Value) -> Iterator[Finding]:
        """Whether each file that could be read names whom it is about."""
        for attachment in self.files if not is_absent(name) else ():
            reading = self.case.readings.get(attachment.sha256)
            if reading is not None and reading.thorough and reading.lines and not names(reading, str(name)):
                text = say("“{file}” does not name {name}.", file=attachment.name, name=name)
                yield Finding("look", text, attachment.id, 1)

    def _issued(self, event: Value, attachment: Attachment, reading: Reading) -> Iterator[Finding]:
        slot = self.compiled.slot
        assert slot.issued is not None
        fact = stated(next(f for f in slot.facts if f.id == slot.issued.fact), reading)
        if fact is None:
            yield Finding(_unstated(reading, event), say("The day on which it was issued was not found."), attachment.id)
        elif not is_absent(event):
            oldest = slot.issued.within.limit(event, self.case.sheet.values[CALENDAR], True, "stays")
            if fact.value < oldest:
                text = say(
                    "It bears {day}; it may not be older than {oldest}.", day=said_day(fact.value), oldest=said_day(oldest)
                )
                yield Finding("fault", text, attachment.id, fact.page)
            elif fact.value > event:
                text = say("It bears {day}, which is after {event}.", day=said_day(fact.value), event=said_day(event))
                yield Finding("look", text, attachment.id, fact.page)

    def _valid(self, on: Value, attachment: Attachment, reading: Reading) -> Iterator[Finding]:
        slot = self.compiled.slot
        assert slot.valid is not None
        rule = next(f for f in slot.facts if f.id == slot.valid.fact)
        fact = stated(rule, reading)
        if fact is None:
            yield Finding(_unstated(reading, on), say("The day until which it is valid was not found."), attachment.id)
        elif not is_absent(on) and fact.value < on:
            others = (self.case.readings.get(a.sha256) for a in self.files)
            later = [until.value for other in others if other and (until := stated(rule, other))]
            if max(later) >= on:
                return  # one follows the other: the last of them reaches
            text = say("It is valid until {until}; it has to be on {on}.", until=said_day(fact.value), on=said_day(on))
            yield Finding("fault", text, attachment.id, fact.page)

    def _empty(self) -> tuple[Standing, str, str]:
        """Why nothing stands in the slot that is asked: its standing, because, and what would put it right."""
        slot, until = self.compiled.slot, self.compiled.until
        if self.by_post:
            what = "; ".join(say("docket {no}, {what}", no=d.no, what=d.what) for d in self.by_post)
            because = say("It comes by post: {what}. It has not come yet.", what=what)
            return (
                "not asked" if slot.optional else "wanting",
                because,
                say("Send it by post, with its docket: {title}.", title=self.title),
            )
        if slot.optional:
            return "not asked", say("Optional; nothing is attached."), ""
        group = next((e for e in self.case.rulebook.eithers if slot.slot in e.either.slots), None)
        if group:
            return "not asked", f"{group.either.title}: {filled_of(self.case, group)}", ""
        if until is not None and slot.until is not None:
            return self._still_to_come(until.value(self.of.values))
        if slot.delivered_by:
            said = say("{delivered_by} sends this straight to the office; nothing has come yet.", delivered_by=slot.delivered_by)
            return (
                "wanting",
                said,
                say(
                    "Ask {delivered_by} to send it: {title}. {says}",
                    delivered_by=slot.delivered_by,
                    title=self.title,
                    says=slot.says,
                ),
            )
        return "wanting", say("Nothing is attached."), say("Attach: {title}. {says}", title=self.title, says=slot.says)

    def _still_to_come(self, event: Value) -> tuple[Standing, str, str]:
        """A document with a time of its own: not asked before that is over."""
        slot, values = self.compiled.slot, self.case.sheet.values
        calendar, until = values[CALENDAR], slot.until
        if is_absent(event) or calendar is None or until is None:
            return "not known yet", say("The time for it depends on an open question."), ""
        last = until.within.limit(event, calendar, until.before is not None, until.if_closed)
        if values["case.today"] <= last:
            return "not asked", say("It may still come, until {last}.", last=said_day(last)), ""
        because = say("The time for it ended on {last}; nothing is attached.", last=said_day(last))
        return "wanting", because, say("Attach: {title}. {says}", title=slot.title, says=slot.says)


class EitherLine(CaseLine):
    """Several slots of which some have to be filled; each file is judged in its own slot."""

    def __init__(self, case: CaseAtHand, group: CompiledEither) -> None:
        either = group.either
        places = [f"documents.{s}" for s in either.slots]
        super().__init__(case, case.each(None)[0], either.id, "document", either.title, places)
        self.group = group

    def propose(self) -> Standing:
        asked, either = self.case.asked(self.group.when, self.of), self.group.either
        if asked is not True:
            return "not known yet" if asked is UNKNOWN else "not asked"
        return "met" if sum(1 for s in either.slots if self.case.files_in(s)) >= either.at_least else "wanting"

    def explain(self, proposed: Standing) -> Explanation:
        case, either = self.case, self.group.either
        asked, put_right = case.asked(self.group.when, self.of), ""
        because = filled_of(case, self.group) if asked is True else case.not_asked(self.group.when, asked, self.of)
        if proposed == "wanting":
            titles = ", ".join(case.rulebook.slots[s].slot.title for s in either.slots)
            put_right = say(
                "Attach at least {at_least} of: {titles}. {says}", at_least=either.at_least, titles=titles, says=either.says
            )
        return Explanation("documents", either.says, either.article, because, put_right, case.where(self.at))


def filled_of(case: CaseAtHand, group: CompiledEither) -> str:
    """How many of a group are there, and which."""
    filled = [case.rulebook.slots[s].slot.title for s in group.either.slots if case.files_in(s)]
    least = group.either.at_least
    told = say_n(
        "{filled} of {n} that is enough", "{filled} of {n} that are enough", least, filled=things(len(filled), "document")
    )
    return f"{told}, {', '.join(filled)}." if filled else f"{told}."
