"""Checking: begun, judged, points worded, the letter sent, points closed or asked again, accepted."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

from jolly_clerk.core import history as h
from jolly_clerk.core.checklist import Evidence, Requirement
from jolly_clerk.core.checklist.looking_over import confirmable
from jolly_clerk.core.clock import decision_day
from jolly_clerk.core.deadlines import Due, answers_due, deemed
from jolly_clerk.core.fees.debts import later
from jolly_clerk.core.lanes import completes
from jolly_clerk.core.moves import reason_wanted
from jolly_clerk.core.say import say
from jolly_clerk.core.whose import whose
from jolly_clerk.office.cases.casework import Loaded, act, check_seen, key_of, load_case, need_lane, permit
from jolly_clerk.office.desk.registers import ask_for_case
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.languages import their_points
from jolly_clerk.office.post.papers import acceptance_letter, correction_letter
from jolly_clerk.office.post.telling import act_and_tell
from jolly_clerk.reading.read import READER

#: letters that a reason has at least
LEAST_REASON = 3


def begin_checking(office: Office, who: Who, reference: str, seen: int | None = None) -> Loaded:
    """The officer's own word that checking begins; the case is this officer's from then on, and the registers are asked."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        names = list(loaded.rulebook.edition.registers)
        registers = ask_for_case(office, who, loaded.rulebook, loaded.dossier, names, loaded.case.applicant_id)
        return [h.CheckingBegan(at=office.now(), who=who.signs, role=who.role), *registers]

    return act(office, who, reference, "begin checking", entries, seen)


def judge(
    office: Office,
    who: Who,
    reference: str,
    requirement: str,
    standing: h.GivenStanding | None,
    reason: str = "",
    seen: int | None = None,
) -> Loaded:
    """Give a requirement its standing; None takes it back. A waiver needs a reason, and so does *met* over a fault or a doubt."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        found = _requirement(loaded, requirement)
        permit(loaded, who, "judge", found.lane)
        _need_reason(found, standing, reason)
        return [judged_entry(office, who, loaded, found, standing, reason)]

    return act(office, who, reference, "", entries, seen, relies_on=lambda loaded: judged_over(loaded, requirement))


def confirm_rest(office: Office, who: Who, reference: str, requirements: Sequence[str], seen: int | None = None) -> Loaded:
    """Give *met* to what the machine proposes as met and what was looked over, all in one; the list is what was shown.

    Raises Invalid, with nothing given, if one of them is not such: judged already, or with a look or a fault.
    """

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        now = office.now()
        found = [_requirement(loaded, id_) for id_ in dict.fromkeys(requirements)]
        for one in found:
            permit(loaded, who, "judge", one.lane)
            if not confirmable(one):
                raise Invalid(say("“{title}” has to be judged by itself.", title=one.title), one.id)
        judged = (judged_entry(office, who, loaded, one, "met", at=now) for one in found)
        return [entry.model_copy(update={"with_rest": True}) for entry in judged]

    def over(loaded: Loaded) -> set[str]:
        return {token for id_ in requirements for token in judged_over(loaded, id_)}

    return act(office, who, reference, "", entries, seen, relies_on=over)


def _need_reason(found: Requirement, standing: h.GivenStanding | None, reason: str) -> None:
    """Raises Invalid if this judgement needs a reason and has none."""
    if len(reason.strip()) < LEAST_REASON and (why := reason_wanted(standing, found)):
        raise Invalid(why, found.id)


def _requirement(loaded: Loaded, id_: str) -> Requirement:
    found = loaded.assessment.requirement(id_)
    if found is None:
        raise NotFound(say("This requirement is not on the checklist."))
    return found


def judged_entry(
    office: Office,
    who: Who,
    loaded: Loaded,
    found: Requirement,
    standing: h.GivenStanding | None,
    reason: str = "",
    at: datetime | None = None,
) -> h.Judged:
    """The entry of a judgement: what was decided, and a short hash of what it was decided over."""
    looked = Evidence(loaded.dossier, loaded.so_far, loaded.assessment.fees).at(found.looked_at)
    return h.Judged(
        at=at or office.now(),
        who=who.signs,
        role=who.role,
        requirement=found.id,
        standing=standing,
        reason=reason.strip()[:2000],
        version=loaded.assessment.version,
        evidence=looked,
        proposed=found.proposed if standing else "",
        because=found.because[:2000] if h.overrules(standing, found.proposed) else "",
        reader=READER if standing and found.files else "",
    )


def word_point(office: Office, who: Who, reference: str, requirement: str, text: str, seen: int | None = None) -> Loaded:
    """Keep the officer's own words for a point."""
    if not text.strip() or len(text) > 4000:
        raise Invalid(say("Write what would put it right, in at most 4000 characters."), requirement)

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        for id_ in requirement.split("+"):  # points that were merged are worded as one
            permit(loaded, who, "judge", _requirement(loaded, id_).lane)
        return [h.PointWorded(at=office.now(), who=who.signs, role=who.role, requirement=requirement, text=text.strip())]

    return act(office, who, reference, "", entries, seen, relies_on=requirement.split("+"))


def due_if_sent_now(office: Office, loaded: Loaded) -> Due:
    """The end of the period in which answers would be due if the letter went out now."""
    return answers_due(office.now(), loaded.assessment.clock_rules, loaded.known.calendar)


def preview_letter(office: Office, who: Who, reference: str, lane: str = "") -> bytes:
    """The letter of a lane as it would be sent now."""
    loaded = load_case(office, who, reference)
    need_lane(loaded, lane)
    if not who.is_officer:
        raise NotAllowed(whose("send the letter"))
    points = their_points(office, loaded, lane)
    if not points:
        raise NotReady(say("There is no point to ask yet: judge something wanting first."))
    return correction_letter(office, loaded, who, points, due_if_sent_now(office, loaded), lane)


def send_letter(office: Office, who: Who, reference: str, seen: int | None = None, lane: str = "") -> Loaded:
    """Send the letter of a lane with all its points and pause its clock. The PDF is made before anything is written."""
    loaded = load_case(office, who, reference)
    check_seen(office, loaded, who, seen)
    permit(loaded, who, "send the letter", lane)
    points, due = their_points(office, loaded, lane), due_if_sent_now(office, loaded)
    sha256 = office.vault.put(correction_letter(office, loaded, who, points, due, lane))
    number = len(need_lane(loaded, lane).rounds) + 1

    def entries(now: Loaded) -> Sequence[h.Entry]:
        asked = tuple(
            h.AskedPoint(
                no=p.no,
                requirement=p.requirement,
                title=p.title,
                text=p.text,
                places=tuple(x.ref for x in p.places),
                article=p.article,
                also=p.also,
            )
            for p in points
        )
        at = office.now()
        return [
            h.LetterSent(
                at=at,
                who=who.signs,
                role=who.role,
                lane=lane,
                round=number,
                version=now.assessment.version,
                points=asked,
                due=due.day,
                due_at=due.at,
                received=deemed(at, now.assessment.clock_rules.answers, now.known.calendar),
                letter_sha256=sha256,
            )
        ]

    key = f"{reference}-letter-{key_of(lane)}{number}"
    return act_and_tell(office, who, loaded, "send the letter", entries, "correction", sha256, key, len(points), lane=lane)


def close_point(
    office: Office, who: Who, reference: str, no: int, seen: int | None = None, lane: str = "", reason: str = ""
) -> Loaded:
    """An answered point is good: it is closed and its requirement given as met, with a reason where the machine still finds a fault."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        number, asked = _answered_point(loaded, no, lane)
        now = office.now()
        about = [_requirement(loaded, id_) for id_ in (asked.requirement, *asked.also)]
        for found in about:
            _need_reason(found, "met", reason)
        judged = [
            judged_entry(office, who, loaded, found, "met", reason if reason_wanted("met", found) else "", at=now)
            for found in about
        ]
        return [h.PointClosed(at=now, who=who.signs, role=who.role, lane=lane, round=number, no=no), *judged]

    return act(office, who, reference, "judge", entries, seen, lane=lane, relies_on=lambda loaded: _over_point(loaded, no, lane))


def ask_again(office: Office, who: Who, reference: str, no: int, text: str, seen: int | None = None, lane: str = "") -> Loaded:
    """An answered point is still wanting: it goes into the next letter."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        number, asked = _answered_point(loaded, no, lane)
        now = office.now()
        again = h.PointAskedAgain(
            at=now, who=who.signs, role=who.role, lane=lane, round=number, no=no, text=text.strip()[:4000] or asked.text
        )
        judged = [
            judged_entry(office, who, loaded, _requirement(loaded, id_), "wanting", at=now)
            for id_ in (asked.requirement, *asked.also)
        ]
        return [again, *judged]

    return act(office, who, reference, "judge", entries, seen, lane=lane, relies_on=lambda loaded: _over_point(loaded, no, lane))


def _over_point(loaded: Loaded, no: int, lane: str) -> set[str]:
    """What a word about an answered point relies on: the point, and the requirements that it is about."""
    number, asked = _answered_point(loaded, no, lane)
    own = (judged_over(loaded, id_) for id_ in (asked.requirement, *asked.also))
    return {f"point:{lane}:{number}:{no}"}.union(*own)


def judged_over(loaded: Loaded, requirement: str) -> set[str]:
    """What a judgement relies on: its requirement, and the registers that it looked into."""
    found = loaded.assessment.requirement(requirement)
    asks = found is not None and found.kind in ("agreement", "prerequisite")
    return {requirement, *(f"register:{name}" for name in (loaded.rulebook.edition.registers if asks else ()))}


def _answered_point(loaded: Loaded, no: int, lane: str) -> tuple[int, h.AskedPoint]:
    latest = need_lane(loaded, lane).round
    if latest is None or no not in latest.points or latest.points[no].state == "open":
        raise NotFound(say("There is no such answered point."))
    return latest.no, latest.points[no].asked


def take_change(office: Office, who: Who, reference: str, place: str, seen: int | None = None) -> Loaded:
    """A change that nobody asked for is fine as it is."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        lane = loaded.rulebook.lane_of(place)
        permit(loaded, who, "judge", lane)
        rounds = loaded.assessment.rounds_in(lane)
        if not any(u.change.place == place for u in (rounds[-1].unasked if rounds else ())):
            raise NotFound(say("Nothing was changed there without being asked."))
        return [h.ChangeTaken(at=office.now(), who=who.signs, role=who.role, place=place, version=loaded.assessment.version)]

    return act(office, who, reference, "", entries, seen, relies_on=(f"change:{place}",))


def ask_about(office: Office, who: Who, reference: str, place: str, text: str, seen: int | None = None) -> Loaded:
    """A change that nobody asked for becomes a point of its own, in the officer's words; what was judged besides stays as it is."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        lane = loaded.rulebook.lane_of(place)
        permit(loaded, who, "judge", lane)
        rounds = loaded.assessment.rounds_in(lane)
        change = next((u.change for u in (rounds[-1].unasked if rounds else ()) if u.change.place == place), None)
        if change is None:
            raise NotFound(say("Nothing was changed there without being asked."))
        words = text.strip() or say(
            "You changed “{label}” from {was} to {now}. Please say why.",
            label=change.label,
            was=change.was or say("nothing"),
            now=change.now or say("nothing"),
        )
        role, version, now = who.role, loaded.assessment.version, office.now()
        number = 1 + sum(isinstance(e, h.RequirementAdded) for e in loaded.history.entries)
        asked = h.RequirementAdded(
            at=now,
            who=who.signs,
            role=role,
            requirement=f"added-{number}",
            title=say("Say why it changed: {label}", label=change.title or change.label),
            text=words[:4000],
            lane=lane,
            places=(place,),
            about=place,
            version=version,
        )
        looked = Evidence(loaded.dossier, loaded.so_far, loaded.assessment.fees).at([place])
        id_ = asked.requirement
        wanting = h.Judged(
            at=now, who=who.signs, role=role, requirement=id_, standing="wanting", version=version, evidence=looked
        )
        return [asked, wanting]

    return act(office, who, reference, "", entries, seen, relies_on=(f"change:{place}",))


def accept(office: Office, who: Who, reference: str, seen: int | None = None, lane: str = "") -> Loaded:
    """Accept as complete: what was paid too much goes back, the decision day is told, the letter goes out.

    In a case with lanes it is one lane that is accepted; the letter tells the decision day when the case is complete with it.
    """
    loaded = load_case(office, who, reference)
    check_seen(office, loaded, who, seen)
    permit(loaded, who, "accept as complete", lane)
    a = loaded.assessment
    due = a.fees.total("after the check").low
    owed, whole = a.debts_in("after the check", due, office.now()), completes(a, lane)
    pdf, target = acceptance_if_now(office, who, loaded, lane)
    letter, sha256 = _acceptance(whole), office.vault.put(pdf)

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        made: list[h.Entry] = []
        over, at = loaded.assessment.account.over, office.now()
        if over and not lane:
            because = say("the fee due at filing, calculated again at acceptance, is lower")
            made.append(
                h.RefundDue(at=at, who=who.signs, role=who.role, amount=over, because=because, key=f"{reference}-acceptance")
            )
        pathway = loaded.assessment.pathway.id if loaded.assessment.pathway else ""
        accepted = h.Accepted(
            at=at,
            who=who.signs,
            role=who.role,
            lane=lane,
            target=target,
            due=due,
            later=later(owed),
            completes=whole,
            pathway=pathway,
            letter_sha256=sha256,
        )
        return [*made, accepted]

    key = f"{reference}-{letter}-{lane}".removesuffix("-")
    return act_and_tell(office, who, loaded, "accept as complete", entries, letter, sha256, key, lane=lane)


def _acceptance(whole: bool) -> str:
    return "complete" if whole else "lane_complete"


def acceptance_if_now(office: Office, who: Who, loaded: Loaded, lane: str) -> tuple[bytes, date | None]:
    """The letter of an acceptance that is made now, and the decision day that it tells."""
    a, now = loaded.assessment, office.now()
    owed = a.debts_in("after the check", a.fees.total("after the check").low, now)
    at_once = any(debt.at_once for debt in owed)
    target = decision_day(now, None if at_once else now, a.clock_rules, loaded.known.calendar)
    return acceptance_letter(office, loaded, who, target, _acceptance(completes(a, lane)), lane), target
