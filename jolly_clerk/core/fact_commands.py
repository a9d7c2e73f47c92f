"""The facts of the trade as commands: a name, what goes in, what comes out. ``jolly-clerk fact NAME`` runs them over JSON lines."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import Any

from jolly_clerk.core import fact_lines as lines
from jolly_clerk.core.facts import claims as claims_of
from jolly_clerk.core.facts import mrz as mrz_of
from jolly_clerk.core.facts import names as names_of
from jolly_clerk.core.facts import spans, stays
from jolly_clerk.core.facts import validity as validity_of
from jolly_clerk.core.rulebook.functions import age as age_on
from jolly_clerk.core.say import _, say
from jolly_clerk.core.time.periods import Period, add_months

#: the last day of a cover that goes on
NO_END = date(9000, 1, 1)


def _stretch(first: date, last: date) -> lines.Stretch:
    return lines.Stretch.model_validate({"from": first, "to": last})


def _names(given: lines.NamesIn) -> lines.NamesOut:
    found = names_of.compared(given.one, given.other, given.cut)
    own, other = names_of.words(given.one), names_of.words(given.other)
    return lines.NamesOut(same=found.verdict == "same", verdict=found.verdict, why=found.why, one=own, other=other)


def _mrz(given: lines.MrzIn) -> lines.MrzOut:
    found = mrz_of.read_mrz(given.lines, given.on)
    if isinstance(found, str):
        return lines.MrzOut(trouble=found)
    told = {name: getattr(found, name) for name in found.__dataclass_fields__}
    return lines.MrzOut(
        **{**told, "faults": list(found.faults), "repairs": list(found.repairs)},
        all_right=all(found.checks.values()) and not found.faults,
    )


def _stays(given: lines.StaysIn) -> lines.StaysOut:
    found = _look(given)
    return lines.StaysOut(
        before=found.before,
        used=found.used,
        most=found.most,
        first_day_over=found.first_day_over,
        earliest_entry=found.earliest_entry,
    )


def _look(given: lines.StaysIn) -> stays.StaysView:
    """A stay without an end lasts until the day before the planned one; a planned one has an end."""
    planned = given.planned.until(None)
    earlier = [s.until(planned[0] - stays.DAY) for s in given.earlier if s.last is not None or s.first < planned[0]]
    return stays.look(earlier, planned, given.days, given.window)


def _claims(given: lines.ClaimsIn) -> lines.ClaimsOut:
    found = claims_of.read_claims(given.text)
    return lines.ClaimsOut(
        count=found.count,
        independent=list(found.independent),
        multiple=list(found.multiple),
        gaps=list(found.gaps),
        repeated=list(found.repeated),
        forward=list(found.forward),
        missing=list(found.missing),
        multiple_on_multiple=list(found.multiple_on_multiple),
        cancelled=list(found.cancelled),
        unread=found.unread,
        claims=[lines.ClaimOut(no=c.no, words=c.words, refers_to=list(c.refers_to), multiple=c.multiple) for c in found.claims],
    )


def _practice(given: lines.PracticeIn) -> lines.PracticeOut:
    found = spans.practice([p.until(given.on) for p in given.periods])
    return lines.PracticeOut(months=found.months, days=found.days, periods=[_stretch(m.first, m.last) for m in found.stretches])


def _cover(given: lines.CoverIn) -> lines.CoverOut:
    if given.last < given.first:
        raise ValueError(
            say("the stretch to be covered ends on {last}, before it begins on {first}", last=given.last, first=given.first)
        )
    policies = [spans.Policy(*p.until(NO_END), p.amount) for p in given.policies]
    found = spans.cover(policies, given.first, given.last, given.least)
    return lines.CoverOut(covers=found.covers, gaps=[_stretch(a, b) for a, b in found.gaps])


def _age(given: lines.AgeIn) -> lines.AgeOut:
    if given.on < given.born:
        raise ValueError(say("{on} is before the birth on {born}", on=given.on, born=given.born))
    years = int(age_on(given.born, given.on))
    return lines.AgeOut(years=years, next_birthday=add_months(given.born, 12 * (years + 1)))


def _document_age(given: lines.DocumentAgeIn) -> lines.DocumentAgeOut:
    found = validity_of.document_age(given.dated, given.on, Period.parse(given.within), given.days)
    return lines.DocumentAgeOut(**{name: getattr(found, name) for name in found.__dataclass_fields__})


def _validity(given: lines.ValidityIn) -> lines.ValidityOut:
    after = Period.parse(given.after) if given.after else None
    found = validity_of.validity(given.first, given.last, given.on, after, given.days)
    return lines.ValidityOut(**{name: getattr(found, name) for name in found.__dataclass_fields__})


def _credits(given: lines.CreditsIn) -> lines.CreditsOut:
    records = [validity_of.Record(r.given, r.credits) for r in given.records]
    found = validity_of.credits_in(records, given.first, given.last, given.least)
    return lines.CreditsOut(**{name: getattr(found, name) for name in found.__dataclass_fields__})


def _words(given: lines.WordsIn) -> lines.WordsOut:
    words = re.findall(r"[^\W_]+(?:[-'’.,][^\W_]+)*", given.text)
    pages = given.text.split("\f")
    while len(pages) > 1 and not pages[-1].strip():
        pages.pop()
    paragraphs = [p for p in re.split(r"\n\s*\n|\f", given.text) if p.strip()]
    count = len(pages) if given.text.strip() else 0
    return lines.WordsOut(words=len(words), pages=count, paragraphs=len(paragraphs), characters=len(given.text))


@dataclass(frozen=True, slots=True)
class FactCommand:
    """A fact with its models and what it is for."""

    name: str
    says: str
    takes: type[lines.Line]
    gives: type[lines.Line]
    work: Callable[[Any], lines.Line]

    def run(self, line: str | bytes) -> lines.Line:
        """One line of JSON in, the answer out. ValueError (pydantic's included) for what cannot be taken."""
        return self.work(self.takes.model_validate_json(line))


FACTS: dict[str, FactCommand] = {
    c.name: c
    for c in (
        FactCommand("names", _("two names compared as a clerk would"), lines.NamesIn, lines.NamesOut, _names),
        FactCommand("mrz", _("machine-readable passport lines of all three sizes"), lines.MrzIn, lines.MrzOut, _mrz),
        FactCommand("stays", _("days in a rolling window"), lines.StaysIn, lines.StaysOut, _stays),
        FactCommand("claims", _("patent claims counted from their text"), lines.ClaimsIn, lines.ClaimsOut, _claims),
        FactCommand("practice", _("months of practice, overlaps counted once"), lines.PracticeIn, lines.PracticeOut, _practice),
        FactCommand("cover", _("cover that spans a period"), lines.CoverIn, lines.CoverOut, _cover),
        FactCommand("credits", _("records of credits gathered in a time"), lines.CreditsIn, lines.CreditsOut, _credits),
        FactCommand("document-age", _("how old a paper is on a day"), lines.DocumentAgeIn, lines.DocumentAgeOut, _document_age),
        FactCommand("validity", _("valid on a day and long enough after it"), lines.ValidityIn, lines.ValidityOut, _validity),
        FactCommand("age", _("whole years on a day"), lines.AgeIn, lines.AgeOut, _age),
        FactCommand("words", _("words and pages of a text"), lines.WordsIn, lines.WordsOut, _words),
    )
}
