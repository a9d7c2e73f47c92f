"""The documents of the checklist: each slot, how old its paper is and until when it is valid, and groups of which some are enough."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from jolly_clerk.core.absence import is_absent
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.findings import Finding, slot_findings
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.facts.stated import stated
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.requirements import Requirement, Standing
from jolly_clerk.core.rulebook.compiled import (
    CompiledEither,
    CompiledSlot,
    Rulebook,
)
from jolly_clerk.core.rulebook.dates import CALENDAR
from jolly_clerk.core.rulebook.model import Slot
from jolly_clerk.core.say import day as said_day
from jolly_clerk.core.say import things


@dataclass(frozen=True, slots=True)
class One:
    """What a requirement is made for: the whole filing, or one item of a part that repeats."""

    values: Mapping[str, Any]
    part: str = ""
    number: str = ""
    label: str = ""

    @property
    def own(self) -> str:
        """``persons.2``, or nothing for the whole."""
        return f"{self.part}.{self.number}" if self.number else ""

    def id(self, base: str) -> str:
        """The id of a requirement: with the item's lasting number."""
        return f"{base}.{self.number}" if self.number else base

    def title(self, base: str) -> str:
        """The title of a requirement: with what the item is called."""
        return f"{base}: {self.label}" if self.label else base


class DocumentMaker:
    """Makes the requirements for slots. What it needs of the whole checklist is given by the class that is built on it."""

    rulebook: Rulebook
    dossier: Dossier
    sheet: Sheet
    readings: Mapping[str, Reading]
    same: dict[str, list[Attachment]]
    files: Callable[[str], tuple[Attachment, ...]]
    made: Callable[..., Requirement]
    not_asked: Callable[[Any, Any, One], tuple[Standing, str]]

    def slot(self, compiled: CompiledSlot, one: One) -> Requirement:
        slot, name = compiled.slot, one.id(compiled.slot.slot)
        ref = f"documents.{name}"
        files = self.files(name)
        findings: list[Finding] = []
        asked = True if compiled.when is None else compiled.when.holds(one.values)
        stops = slot.delivered_by is None and compiled.until is None
        if asked is not True:
            (proposed, because), put_right = self.not_asked(compiled.when, asked, one), ""
        elif not files:
            proposed, because, put_right = self.empty_slot(compiled, one)
        else:
            others = [other for a in files for other in self.same[a.sha256] if other.slot != name]
            findings = [*slot_findings(slot, files, self.readings, others), *self.days_of(compiled, one, files)]
            worst = {f.weight for f in findings}
            proposed = "wanting" if "fault" in worst else "in doubt" if "look" in worst else "to read"
            faults = [f.text for f in findings if f.weight != "note"]
            because = " ".join(faults) or f"{things(len(files), 'file')} attached, read without findings."
            put_right = " ".join(faults)
            stops = True
        if not files and proposed == "wanting":
            files = tuple(a for other in slot.may_be_in for a in self.files(one.id(other)))
            if files:
                proposed, because, put_right = "to read", f"Nothing of its own; it may stand in “{files[0].name}”.", ""
        return self.made(
            ref,
            "document",
            one.title(slot.title),
            "documents",
            slot.says,
            slot.article,
            proposed,
            because,
            put_right,
            [ref],
            findings,
            files,
            stops_filing=stops,
            item=one.own,
            named=self.named(compiled, one),
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
        either, values = group.either, self.sheet.values
        titles = [self.rulebook.slots[s].slot.title for s in either.slots]
        refs = [f"documents.{s}" for s in either.slots]
        asked = True if group.when is None else group.when.holds(values)
        filled = sum(1 for s in either.slots if self.files(s))
        put_right = ""
        if asked is not True:
            proposed, because = self.not_asked(group.when, asked, One(values))
        elif filled >= either.at_least:
            proposed, because = "met", self.group_said(group)
        else:
            proposed, because = "wanting", self.group_said(group)
            put_right = f"Attach at least {either.at_least} of: {', '.join(titles)}. {either.says}"
        return self.made(
            either.id, "document", either.title, "documents", either.says, either.article, proposed, because, put_right, refs
        )
