"""What an officer does by hand beside judging: registers, fees set, own requirements, points arranged, time given, steps undone."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import Literal

from jolly_clerk.core import history as h
from jolly_clerk.core.checklist import Evidence
from jolly_clerk.core.currency import coin_of
from jolly_clerk.core.deadlines import answers_due, deemed, due_said
from jolly_clerk.core.fees.account import amount_fault
from jolly_clerk.core.fees.sheet import fee_sheet
from jolly_clerk.core.form import question_at
from jolly_clerk.core.say import say
from jolly_clerk.core.second_person import is_second_person, needs_second
from jolly_clerk.office.cases.casework import Loaded, act, by, check_seen, key_of, load_case, need_lane, permit
from jolly_clerk.office.cases.endings import words_of
from jolly_clerk.office.desk.checking import due_if_sent_now
from jolly_clerk.office.desk.registers import ask_for_case
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import leads_of
from jolly_clerk.office.post.papers import correction_letter, plain_letter
from jolly_clerk.office.post.telling import act_and_tell


def ask_register(office: Office, who: Who, reference: str, name: str, seen: int | None = None) -> Loaded:
    """Ask a register about a case again; its answer is kept as evidence."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        made = ask_for_case(office, who, loaded.rulebook, loaded.dossier, [name], loaded.case.applicant_id)
        if not made:
            raise NotReady(say("The answer by which the register is asked is open; ask the applicant for it."))
        return made

    return act(office, who, reference, "ask a register", entries, seen, relies_on=(f"register:{name}",))


def add_requirement(
    office: Office,
    who: Who,
    reference: str,
    title: str,
    text: str,
    seen: int | None = None,
    lane: str = "",
    answer: Literal["words", "file", "answer"] = "words",
    place: str = "",
) -> Loaded:
    """Ask for something that the rules did not foresee, in one lane; it is wanting and becomes a point of the next letter.

    Args:
        answer: what may answer it besides words: a file, for which a slot is opened, or the answer at ``place``.

    Raises:
        Invalid: there is no such answer in the lane.
    """
    title, text = words_of(title, say("what it is called"))[:120], words_of(text, say("what would put it right"))

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        number = 1 + sum(isinstance(e, h.RequirementAdded) for e in loaded.history.entries)
        if answer == "answer" and (question_at(loaded.rulebook, place) is None or loaded.rulebook.lane_of(place) != lane):
            raise Invalid(say("Name the answer that may be changed."), place[:120])
        own = {"file": (f"documents.added-{number}",), "answer": (place,), "words": ()}[answer]
        id_ = f"added-{number}"
        now, version = by(office, who), loaded.assessment.version
        looked = Evidence(loaded.dossier, loaded.so_far, loaded.assessment.fees).at(own or [id_])
        return [
            h.RequirementAdded(**now, requirement=id_, title=title, text=text, lane=lane, places=own),
            h.Judged(**now, requirement=id_, standing="wanting", version=version, evidence=looked),
        ]

    return act(office, who, reference, "add a requirement", entries, seen, lane=lane, relies_on=())


def arrange_points(
    office: Office, who: Who, reference: str, groups: Sequence[Sequence[str]], seen: int | None = None, lane: str = ""
) -> Loaded:
    """Put the points of the next letter of a lane into an order; requirements in one group share a point."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        there = [id_ for p in loaded.assessment.points_in(lane) for id_ in (p.requirement, *p.also)]
        if sorted(id_ for group in groups for id_ in group) != sorted(there):
            raise Invalid(say("Name each point once; points are made and taken away by judging."))
        return [h.PointsArranged(**by(office, who), lane=lane, groups=tuple(tuple(group) for group in groups if group))]

    return act(office, who, reference, "judge", entries, seen, lane=lane)


def undo(office: Office, who: Who, reference: str, seen: int | None = None) -> Loaded:
    """Take the own last step back, as long as no letter and no decision went out since."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        last = loaded.so_far.undoable.get(who.id)
        if not last or loaded.so_far.ended:
            raise NotReady(say("There is nothing of yours to take back since the last letter."))
        return [h.Undone(**by(office, who), of=last)]

    return act(office, who, reference, "undo", entries, seen)


def set_fee(
    office: Office, who: Who, reference: str, line: str, amount: Decimal | None, reason: str, seen: int | None = None
) -> Loaded:
    """Waive a fee line (``amount`` None) or set it. Above the limit of the office a second person must confirm it."""
    reason = words_of(reason, "why")

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        there = next((x for x in loaded.assessment.fees.lines if x.id == line), None)
        if there is None or there.state == "not asked":
            raise NotFound(say("There is no such fee line in this case."))
        if there.follows:
            raise Invalid(say("This line follows from the others; set one of those."))
        currency = loaded.rulebook.edition.currency
        if amount is not None and (fault := amount_fault(amount, currency, least_is_zero=True)):
            raise Invalid(fault)
        if there.amount is None and there.depends_on:
            raise NotReady(say("This line hangs on an open question; ask for the answer first."))
        new = (amount or Decimal(0)).quantize(coin_of(currency))
        rules, limit = fee_sheet(loaded.sheet), Decimal(office.settings.fee_limit)
        above = needs_second(loaded.so_far, rules, line, new, limit)
        return [
            h.FeeSet(
                **by(office, who),
                line=line,
                amount=new,
                was=there.amount or Decimal(0),
                waived=amount is None,
                reason=reason,
                needs_second=above,
            )
        ]

    return act(office, who, reference, "set a fee", entries, seen, relies_on=(f"line:{line}",))


def settle_fee(
    office: Office, who: Who, reference: str, line: str, confirmed: bool, reason: str = "", seen: int | None = None
) -> Loaded:
    """The second person's word about a fee that was set: a lead, and not the one who set it. For what a lead set it is another
    lead, or an officer where there is none."""
    leads = leads_of(office)

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        waiting = loaded.so_far.fees_waiting.get(line)
        if waiting is None:
            raise NotFound(say("Nothing waits for a second person there."))
        if waiting.who == who.id:
            raise NotAllowed(say("You set this yourself; a second person must confirm it."))
        if not is_second_person(waiting, who.id, who.role, leads):
            raise NotAllowed(say("A lead confirms this, one who did not set it."))
        return [h.FeeSettled(**by(office, who), line=line, confirmed=confirmed, reason=reason.strip()[:2000])]

    return act(office, who, reference, "settle a fee", entries, seen, relies_on=(f"line:{line}",))


def letter_came_back(office: Office, who: Who, reference: str, seen: int | None = None, lane: str = "") -> Loaded:
    """The letter came back undelivered: it never paused the clock."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        return [h.LetterReturned(**by(office, who), lane=lane, round=len(need_lane(loaded, lane).rounds))]

    return act(office, who, reference, "letter came back", entries, seen, lane=lane)


def send_again(office: Office, who: Who, reference: str, seen: int | None = None, lane: str = "") -> Loaded:
    """Write the letter that came back anew, with today's date and the new last day, and send it; the pause and the applicant's
    period begin now."""
    loaded = load_case(office, who, reference)
    check_seen(office, loaded, who, seen)
    permit(loaded, who, "send again", lane)
    latest, due = need_lane(loaded, lane).rounds[-1], due_if_sent_now(office, loaded)
    points = [p.asked for p in latest.points.values()]
    first = loaded.known.calendar.local_day(latest.sent_at)
    sha256 = office.vault.put(correction_letter(office, loaded, who, points, due, lane, came_back=first))

    def entries(now: Loaded) -> Sequence[h.Entry]:
        own = by(office, who)
        received = deemed(own["at"], now.assessment.clock_rules.answers, now.known.calendar)
        again = h.LetterSentAgain(
            **own, lane=lane, round=latest.no, due=due.day, due_at=due.at, received=received, letter_sha256=sha256
        )
        return [again]

    key = f"{reference}-letter-{key_of(lane)}{latest.no}-again-{loaded.entries}"
    return act_and_tell(office, who, loaded, "send again", entries, "correction", sha256, key, len(points), lane=lane)


def more_time(office: Office, who: Who, reference: str, seen: int | None = None, lane: str = "") -> Loaded:
    """The one extension of the applicant's period: asked for by the applicant, or given by an officer who was called."""
    loaded = load_case(office, who, reference)
    check_seen(office, loaded, who, seen)
    permit(loaded, who, "more time", lane)
    calendar, latest = loaded.known.calendar, need_lane(loaded, lane).rounds[-1]
    sent = latest.replaced_at or latest.paused_from or latest.sent_at
    due = answers_due(sent, loaded.assessment.clock_rules, calendar, extended=True, received=latest.received)
    sha256 = office.vault.put(plain_letter(office, loaded, "extended", who, lane, due=lambda: due_said(due, calendar)))

    def entries(now: Loaded) -> Sequence[h.Entry]:
        whole = by(office, who)
        return [h.Extended(**whole, lane=lane, round=latest.no, due=due.day, due_at=due.at, letter_sha256=sha256)]

    key = f"{reference}-extended-{key_of(lane)}{latest.no}"
    return act_and_tell(office, who, loaded, "more time", entries, "extended", sha256, key, lane=lane)
