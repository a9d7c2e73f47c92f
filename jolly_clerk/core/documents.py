"""The documents of the checklist: each slot, how old its paper is and until when it is valid, and groups of which some are enough."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from jolly_clerk.core.absence import UNKNOWN, is_absent
from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.findings import Finding, slot_findings
from jolly_clerk.core.facts.languages import language_findings
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.facts.stated import stated
from jolly_clerk.core.making import Maker, One
from jolly_clerk.core.requirements import Requirement, Standing, Words
from jolly_clerk.core.rulebook.compiled import CompiledEither, CompiledSlot
from jolly_clerk.core.rulebook.dates import CALENDAR
from jolly_clerk.core.rulebook.model import Slot
from jolly_clerk.core.say import day as said_day
from jolly_clerk.core.say import things


class DocumentMaker(Maker):
    """Makes the requirements for slots, and for groups of them."""

    def slot(self, compiled: CompiledSlot, one: One) -> Requirement:
        """A place for a document: what is there, what was found in it."""
        slot, name = compiled.slot, one.id(compiled.slot.slot)
        ref, files = f"documents.{name}", self.files(name)
        of = (compiled, one, name, files)
        stops = slot.delivered_by is None and compiled.until is None
        if files and not stops:
            stops = self.asked(compiled.when, one) is True
        lane = one.own if one.part == self.lane_part else ""
        return self.made(ref, "document", one.title(slot.title), [ref], self.slot_proposed, self.slot_words, of, stops, lane)

    def slot_proposed(self, compiled: CompiledSlot, one: One, name: str, files: tuple[Attachment, ...]) -> Standing:
        asked = self.asked(compiled.when, one)
        if asked is not True:
            return "not known yet" if asked is UNKNOWN else "not asked"
        if files:
            worst = {f.weight for f in self.found_in(compiled, one, name, files)}
            return "wanting" if "fault" in worst else "in doubt" if "look" in worst else "to read"
        proposed = self.empty_slot(compiled, one)[0]
        return "to read" if proposed == "wanting" and self.borrowed(compiled, one) else proposed

    def found_in(self, compiled: CompiledSlot, one: One, name: str, files: tuple[Attachment, ...]) -> list[Finding]:
        """What was found in the files of a slot."""
        others = [other for a in files for other in self.same[a.sha256] if other.slot != name]
        found = slot_findings(compiled.slot, files, self.readings, others)
        if compiled.slot.languages:
            read = ((a, self.readings.get(a.sha256)) for a in files)
            found += [f for a, reading in read if reading for f in language_findings(compiled.slot, a, reading)]
        if compiled.issued or compiled.valid:
            found += self.days_of(compiled, one, files)
        return found

    def borrowed(self, compiled: CompiledSlot, one: One) -> tuple[Attachment, ...]:
        """The files of other slots in which the document of this one may stand."""
        return tuple(a for other in compiled.slot.may_be_in for a in self.files(one.id(other)))

    def slot_words(self, proposed: Standing, compiled: CompiledSlot, one: One, name: str, files: tuple[Attachment, ...]) -> Words:
        slot, asked, put_right = compiled.slot, self.asked(compiled.when, one), ""
        findings: list[Finding] = []
        if asked is not True:
            because = self.not_asked(compiled.when, asked, one)
        elif files:
            findings = self.found_in(compiled, one, name, files)
            put_right = " ".join(f.text for f in findings if f.weight != "note")
            because = put_right or f"{things(len(files), 'file')} attached, read without findings."
        elif proposed == "to read":
            files = self.borrowed(compiled, one)
            because = f"Nothing of its own; it may stand in “{files[0].name}”."
        else:
            _, because, put_right = self.empty_slot(compiled, one)
        where, named = self.where([f"documents.{name}"]), self.named(compiled, one)
        return Words(
            "documents", slot.says, slot.article, because, put_right, where, tuple(findings), files, None, one.own, named
        )

    def named(self, compiled: CompiledSlot, one: One) -> str:
        """The office's name for the file of a slot; empty while an answer that it is made of is open."""
        text = compiled.named
        if text is None or any(not isinstance(p, str) and is_absent(p.value(one.values)) for p in text.pieces):
            return ""
        return "-".join(text.fill(one.values).split())

    def days_of(self, compiled: CompiledSlot, one: One, files: Sequence[Attachment]) -> Iterator[Finding]:
        """Whether each file is young enough and still valid, by the days that it bears; a day that is not found is said."""
        slot = compiled.slot
        for attachment in files:
            reading = self.readings.get(attachment.sha256)
            if reading is None or reading.opens != "yes":
                continue
            if slot.issued and compiled.issued:
                yield from self.issued(slot, compiled.issued.value(one.values), attachment, reading)
            if slot.valid and compiled.valid:
                yield from self.valid(slot, compiled.valid.value(one.values), attachment, reading)

    def issued(self, slot: Slot, event: Any, attachment: Attachment, reading: Reading) -> Iterator[Finding]:
        assert slot.issued is not None
        fact = stated(next(f for f in slot.facts if f.id == slot.issued.fact), reading)
        if fact is None:
            yield Finding("note", "The day on which it was issued was not found.", attachment.id)
        elif not is_absent(event):
            oldest = slot.issued.within.limit(event, self.sheet.values[CALENDAR], True, "stays")
            if fact.value < oldest:
                text = f"It bears {said_day(fact.value)}; it may not be older than {said_day(oldest)}."
                yield Finding("fault", text, attachment.id, fact.page)
            elif fact.value > event:
                yield Finding(
                    "look", f"It bears {said_day(fact.value)}, which is after {said_day(event)}.", attachment.id, fact.page
                )

    def valid(self, slot: Slot, on: Any, attachment: Attachment, reading: Reading) -> Iterator[Finding]:
        assert slot.valid is not None
        fact = stated(next(f for f in slot.facts if f.id == slot.valid.fact), reading)
        if fact is None:
            yield Finding("note", "The day until which it is valid was not found.", attachment.id)
        elif not is_absent(on) and fact.value < on:
            text = f"It is valid until {said_day(fact.value)}; it has to be on {said_day(on)}."
            yield Finding("fault", text, attachment.id, fact.page)

    def empty_slot(self, compiled: CompiledSlot, one: One) -> tuple[Standing, str, str]:
        """Why nothing stands in a slot that is asked: its standing, because, and what would put it right."""
        slot = compiled.slot
        if slot.optional:
            return "not asked", "Optional; nothing is attached.", ""
        group = next((e for e in self.rulebook.eithers if slot.slot in e.either.slots), None)
        if group:
            return "not asked", f"{group.either.title}: {self.group_said(group)}", ""
        if compiled.until is not None and slot.until is not None:
            return self.still_to_come(slot, compiled.until.value(one.values))
        if slot.delivered_by:
            said = f"{slot.delivered_by} sends this straight to the office; nothing has come yet."
            return "wanting", said, f"Ask {slot.delivered_by} to send it: {one.title(slot.title)}. {slot.says}"
        return "wanting", "Nothing is attached.", f"Attach: {one.title(slot.title)}. {slot.says}"

    def still_to_come(self, slot: Slot, event: Any) -> tuple[Standing, str, str]:
        """A document with a time of its own: not asked before that is over."""
        calendar, until = self.sheet.values[CALENDAR], slot.until
        if is_absent(event) or calendar is None or until is None:
            return "not known yet", "The time for it depends on an open question.", ""
        last = until.within.limit(event, calendar, until.before is not None, until.if_closed)
        if self.sheet.values["case.today"] <= last:
            return "not asked", f"It may still come, until {said_day(last)}.", ""
        return "wanting", f"The time for it ended on {said_day(last)}; nothing is attached.", f"Attach: {slot.title}. {slot.says}"

    def group_said(self, group: CompiledEither) -> str:
        filled = [self.rulebook.slots[s].slot.title for s in group.either.slots if self.files(s)]
        least = group.either.at_least
        return f"{things(len(filled), 'document')} of {least} that {'is' if least == 1 else 'are'} enough" + (
            f", {', '.join(filled)}." if filled else "."
        )

    def either(self, group: CompiledEither) -> Requirement:
        """Several slots of which some have to be filled; each file is judged in its own slot."""
        either, refs = group.either, [f"documents.{s}" for s in group.either.slots]
        return self.made(either.id, "document", either.title, refs, self.either_proposed, self.either_words, (group, refs))

    def either_proposed(self, group: CompiledEither, _: Sequence[str]) -> Standing:
        asked = self.asked(group.when, One(self.sheet.values))
        if asked is not True:
            return "not known yet" if asked is UNKNOWN else "not asked"
        return "met" if sum(1 for s in group.either.slots if self.files(s)) >= group.either.at_least else "wanting"

    def either_words(self, proposed: Standing, group: CompiledEither, refs: Sequence[str]) -> Words:
        either, whole = group.either, One(self.sheet.values)
        asked, put_right = self.asked(group.when, whole), ""
        because = self.group_said(group) if asked is True else self.not_asked(group.when, asked, whole)
        if proposed == "wanting":
            titles = ", ".join(self.rulebook.slots[s].slot.title for s in either.slots)
            put_right = f"Attach at least {either.at_least} of: {titles}. {either.says}"
        return Words("documents", either.says, either.article, because, put_right, self.where(refs))
