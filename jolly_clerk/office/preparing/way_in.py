"""The way in: a few questions before an account is needed; what to bring and what it will cost."""

from __future__ import annotations

from dataclasses import dataclass

from pydantic.dataclasses import dataclass as schema_once

from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.assessment_view import AssessmentView
from jolly_clerk.core.dossier.bounds import beyond
from jolly_clerk.core.dossier.merging import places
from jolly_clerk.core.dossier.model import Answers, Dossier
from jolly_clerk.core.fees.estimate import counted_parts, price_asks, with_counts
from jolly_clerk.core.form import asked_in_turn
from jolly_clerk.core.form_views import WayIn
from jolly_clerk.core.known import Known
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.sides import as_applicant
from jolly_clerk.office.errors import Invalid, NotReady
from jolly_clerk.office.office import Office
from jolly_clerk.office.post.papers import way_in_letter
from jolly_clerk.office.rules.rulebooks import calendar_of, edition_on, office_calendar, rulebook


@schema_once(frozen=True, slots=True)
class Count:
    """How many repeats of a part an estimate is reckoned with, and how many there may be."""

    part: str
    title: str
    count: int
    at_most: int


@schema_once(frozen=True, slots=True)
class WayInView:
    """The way in of a kind over some answers: what is still asked, what it says, and the assessment so far.

    ``counts`` tells how many repeats it is reckoned with, ``price_asks`` which further questions settle the price.
    """

    edition_sha256: str
    ask_next: tuple[str, ...]
    answered: tuple[str, ...]
    decided: WayIn | None
    assessment: AssessmentView
    counts: tuple[Count, ...]
    price_asks: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class _Looked:
    edition_sha256: str
    rules: Rulebook
    assessment: Assessment
    asked: tuple[str, ...]


def _look(office: Office, kind: str, answers: Answers) -> _Looked:
    if found := beyond(answers):
        raise Invalid(found.why, found.place[:120])
    if len(str(answers)) > 20_000:
        raise Invalid(say("These answers are longer than the way in can be."))
    today = office_calendar(office).local_day(office.now())
    sha256 = edition_on(office, kind, today)
    rules = rulebook(office, sha256)
    asked = {part: given for part, given in answers.items() if part in rules.parts}
    known = Known(calendar_of(office, sha256))
    dossier = Dossier(answers=with_counts(rules, asked))
    path = asked_in_turn(rules, dossier.answers, today, known.calendar)
    return _Looked(sha256, rules, assess(rules, dossier, known=known, now=office.now()), path)


def ask(office: Office, kind: str, answers: Answers) -> WayInView:
    """What the way in of a kind says to these answers. Raises NotFound for an unknown kind."""
    looked = _look(office, kind, answers)
    decided = looked.assessment.way_in
    states = {q.place: q for part in looked.assessment.parts for q in part.questions}
    answered = looked.asked
    hangs_on = decided.depends_on if decided else ()
    open_now = (
        tuple(sorted(hangs_on, key=looked.rules.way_in_asks.index))
        if set(hangs_on) <= set(looked.rules.way_in_asks)
        else hangs_on
    )
    further = [p for p in places(answers) if p in states and states[p].asked == "yes"]
    asks = price_asks(looked.rules, looked.assessment.fees, further)
    items = looked.assessment.sheet.items
    return WayInView(
        looked.edition_sha256,
        open_now,
        answered,
        decided,
        as_applicant(looked.assessment),
        tuple(Count(p.id, p.title, len(items.get(p.id, ())), p.at_most) for p in counted_parts(looked.rules)),
        tuple(p for p in asks if p not in answered and p not in open_now),
    )


def letter(office: Office, kind: str, answers: Answers) -> bytes:
    """The letter that can be kept, for *not needed* and *belongs elsewhere*. Raises NotReady for anything else."""
    looked = _look(office, kind, answers)
    decided = looked.assessment.way_in
    if decided is None or decided.then not in ("not needed", "belongs elsewhere"):
        raise NotReady(say("There is a letter only when no permit is needed, or when another office decides."))
    today = office_calendar(office).local_day(office.now())
    return way_in_letter(office, looked.rules, answers, looked.asked, decided, today)
