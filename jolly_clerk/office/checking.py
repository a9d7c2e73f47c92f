"""Checking: begun, judged, points worded, the letter sent, points closed or asked again, accepted."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

from jolly_clerk.core import history as h
from jolly_clerk.core.clock import answers_due
from jolly_clerk.core.requirements import Evidence, Requirement
from jolly_clerk.office.casework import Loaded, act, key_of, load_case, need_lane, need_move, need_officer
from jolly_clerk.office.errors import Invalid, NotFound, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.papers import acceptance_letter, correction_letter
from jolly_clerk.office.registers import ask_for_case
from jolly_clerk.office.telling import act_and_tell


def begin_checking(office: Office, who: Who, reference: str, seen: int | None = None) -> Loaded:
    """The officer's own word that checking begins; the case is this officer's from then on, and the registers are asked."""
    need_officer(who)

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        need_move(loaded, who.role, "begin checking")
        names = list(loaded.rulebook.edition.registers)
        registers = ask_for_case(office, who, loaded.rulebook, loaded.dossier, names, loaded.case.applicant_id)
        return [h.CheckingBegan(at=office.now(), who=who.id, role=_role(who)), *registers]

    return act(office, who, reference, entries, seen)


def _role(who: Who) -> h.Role:
    return "lead" if who.role == "lead" else "officer"


def judge(
    office: Office,
    who: Who,
    reference: str,
    requirement: str,
    standing: h.GivenStanding | None,
    reason: str = "",
    seen: int | None = None,
) -> Loaded:
    """Give a requirement its standing; None takes it back. A waiver needs a reason."""
    need_officer(who)
    if standing == "waived" and len(reason.strip()) < 3:
        raise Invalid("A waiver needs a reason: say in a few words why this is not asked here.", requirement)

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        found = _requirement(loaded, requirement)
        need_move(loaded, who.role, "judge", found.lane)
        return [_judged(office, who, loaded, found, standing, reason)]

    return act(office, who, reference, entries, seen)


def _requirement(loaded: Loaded, id_: str) -> Requirement:
    found = loaded.assessment.requirement(id_)
    if found is None:
        raise NotFound("This requirement is not on the checklist.")
    return found


def _judged(
    office: Office,
    who: Who,
    loaded: Loaded,
    found: Requirement,
    standing: h.GivenStanding | None,
    reason: str = "",
    at: datetime | None = None,
) -> h.Judged:
    looked = Evidence(loaded.dossier, loaded.so_far, loaded.assessment.fees).at([p.ref for p in found.places])
    return h.Judged(
        at=at or office.now(),
        who=who.id,
        role=_role(who),
        requirement=found.id,
        standing=standing,
        reason=reason.strip()[:2000],
        version=loaded.assessment.version,
        evidence=looked,
    )


def word_point(office: Office, who: Who, reference: str, requirement: str, text: str, seen: int | None = None) -> Loaded:
    """Keep the officer's own words for a point."""
    need_officer(who)
    if not text.strip() or len(text) > 4000:
        raise Invalid("Write what would put it right, in at most 4000 characters.", requirement)

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        for id_ in requirement.split("+"):  # points that were merged are worded as one
            need_move(loaded, who.role, "judge", _requirement(loaded, id_).lane)
        return [h.PointWorded(at=office.now(), who=who.id, role=_role(who), requirement=requirement, text=text.strip())]

    return act(office, who, reference, entries, seen)


def due_if_sent_now(office: Office, loaded: Loaded) -> date:
    """The day on which answers would be due if the letter went out now."""
    return answers_due(office.now(), loaded.rulebook.edition.clock.answers.within, loaded.known.calendar)


def preview_letter(office: Office, who: Who, reference: str, lane: str = "") -> bytes:
    """The letter of a lane as it would be sent now."""
    need_officer(who)
    loaded = load_case(office, who, reference)
    need_lane(loaded, lane)
    points = loaded.assessment.points_in(lane)
    if not points:
        raise NotReady("There is no point to ask yet: judge something wanting first.")
    return correction_letter(office, loaded, who, points, due_if_sent_now(office, loaded), lane)


def send_letter(office: Office, who: Who, reference: str, seen: int | None = None, lane: str = "") -> Loaded:
    """Send the letter of a lane with all its points and pause its clock. The PDF is made before anything is written."""
    need_officer(who)
    loaded = load_case(office, who, reference)
    need_move(loaded, who.role, "send the letter", lane)
    points, due = loaded.assessment.points_in(lane), due_if_sent_now(office, loaded)
    sha256 = office.vault.put(correction_letter(office, loaded, who, points, due, lane))
    number = len(need_lane(loaded, lane).rounds) + 1

    def entries(now: Loaded) -> Sequence[h.Entry]:
        need_move(now, who.role, "send the letter", lane)
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
        return [
            h.LetterSent(
                at=office.now(),
                who=who.id,
                role=_role(who),
                lane=lane,
                round=number,
                version=now.assessment.version,
                points=asked,
                due=due,
                letter_sha256=sha256,
            )
        ]

    return act_and_tell(
        office, who, loaded, entries, "correction", sha256, seen, f"{reference}-letter-{key_of(lane)}{number}", len(points)
    )


def close_point(office: Office, who: Who, reference: str, no: int, seen: int | None = None, lane: str = "") -> Loaded:
    """An answered point is good: it is closed and its requirement given as met."""
    need_officer(who)

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        number, asked = _answered_point(loaded, who, no, lane)
        now = office.now()
        judged = [
            _judged(office, who, loaded, _requirement(loaded, id_), "met", at=now) for id_ in (asked.requirement, *asked.also)
        ]
        return [h.PointClosed(at=now, who=who.id, role=_role(who), lane=lane, round=number, no=no), *judged]

    return act(office, who, reference, entries, seen)


def ask_again(office: Office, who: Who, reference: str, no: int, text: str, seen: int | None = None, lane: str = "") -> Loaded:
    """An answered point is still wanting: it goes into the next letter."""
    need_officer(who)

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        number, asked = _answered_point(loaded, who, no, lane)
        now = office.now()
        again = h.PointAskedAgain(
            at=now, who=who.id, role=_role(who), lane=lane, round=number, no=no, text=text.strip()[:4000] or asked.text
        )
        judged = [
            _judged(office, who, loaded, _requirement(loaded, id_), "wanting", at=now) for id_ in (asked.requirement, *asked.also)
        ]
        return [again, *judged]

    return act(office, who, reference, entries, seen)


def _answered_point(loaded: Loaded, who: Who, no: int, lane: str) -> tuple[int, h.AskedPoint]:
    need_move(loaded, who.role, "judge", lane)
    latest = need_lane(loaded, lane).round
    if latest is None or no not in latest.points or latest.points[no].state == "open":
        raise NotFound("There is no such answered point.")
    return latest.no, latest.points[no].asked


def take_change(office: Office, who: Who, reference: str, place: str, seen: int | None = None) -> Loaded:
    """A change that nobody asked for is fine as it is."""
    need_officer(who)

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        lane = loaded.rulebook.lane_of(place)
        need_move(loaded, who.role, "judge", lane)
        rounds = loaded.assessment.rounds_in(lane)
        if not any(u.change.place == place for u in (rounds[-1].unasked if rounds else ())):
            raise NotFound("Nothing was changed there without being asked.")
        return [h.ChangeTaken(at=office.now(), who=who.id, role=_role(who), place=place, version=loaded.assessment.version)]

    return act(office, who, reference, entries, seen)


def ask_about(office: Office, who: Who, reference: str, place: str, text: str, seen: int | None = None) -> Loaded:
    """A change that nobody asked for becomes a point: the requirement it bears on is wanting, in the officer's words."""
    need_officer(who)

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        lane = loaded.rulebook.lane_of(place)
        need_move(loaded, who.role, "judge", lane)
        rounds = loaded.assessment.rounds_in(lane)
        change = next((u.change for u in (rounds[-1].unasked if rounds else ()) if u.change.place == place), None)
        if change is None:
            raise NotFound("Nothing was changed there without being asked.")
        bearing = [r for r in loaded.assessment.requirements if r.asked and any(p.ref == place for p in r.places)]
        id_ = bearing[0].id if bearing else f"answer.{place}"
        places = [p.ref for p in bearing[0].places] if bearing else [place]
        looked = Evidence(loaded.dossier, loaded.so_far, loaded.assessment.fees).at(places)
        words = (
            text.strip()
            or f"You changed “{change.label}” from {change.was or 'nothing'} to {change.now or 'nothing'}. Please say why."
        )
        role, version = _role(who), loaded.assessment.version
        now = office.now()
        return [
            h.Judged(at=now, who=who.id, role=role, requirement=id_, standing="wanting", version=version, evidence=looked),
            h.PointWorded(at=now, who=who.id, role=role, requirement=id_, text=words[:4000]),
        ]

    return act(office, who, reference, entries, seen)


def accept(office: Office, who: Who, reference: str, seen: int | None = None, lane: str = "") -> Loaded:
    """Accept as complete: what was paid too much goes back, the decision day is told, the letter goes out.

    In a case with lanes it is one lane that is accepted; the letter tells the decision day when the case is complete with it.
    """
    need_officer(who)
    loaded = load_case(office, who, reference)
    need_move(loaded, who.role, "accept as complete", lane)
    calendar = loaded.known.calendar
    within = loaded.rulebook.edition.clock.decision.within
    target = within.last_day(calendar.received_on(office.now()), calendar)
    pathway = loaded.assessment.pathway.id if loaded.assessment.pathway else ""
    completes = _completes(loaded, lane)
    letter = "complete" if completes else "lane_complete"
    sha256 = office.vault.put(acceptance_letter(office, loaded, who, target, letter, lane))

    def entries(now: Loaded) -> Sequence[h.Entry]:
        need_move(now, who.role, "accept as complete", lane)
        made: list[h.Entry] = []
        over, at = now.assessment.account.over, office.now()
        if over and not lane:
            because = "the fee due at filing, reckoned again at acceptance, is lower"
            made.append(
                h.PaidBack(at=at, who=who.id, role=_role(who), amount=over, because=because, key=f"{reference}-acceptance")
            )
        due = now.assessment.fees.total("after the check").low
        made.append(
            h.Accepted(
                at=at,
                who=who.id,
                role=_role(who),
                lane=lane,
                target=target,
                due=due,
                completes=completes,
                pathway=pathway,
                letter_sha256=sha256,
            )
        )
        return made

    return act_and_tell(office, who, loaded, entries, letter, sha256, seen, f"{reference}-{letter}-{lane}".removesuffix("-"))


def _completes(loaded: Loaded, lane: str) -> bool:
    """True if the whole case is complete as soon as this lane is."""
    if not loaded.assessment.lanes:
        return True
    if lane:
        return loaded.so_far.accepted is not None and loaded.assessment.state not in ("Complete", "Under review")
    return any(own.accepted and not own.ended for own in loaded.so_far.lanes.values())
