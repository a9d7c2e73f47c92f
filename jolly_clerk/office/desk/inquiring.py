"""Asking another body about a case, and what it answered; and that a printed letter left by post."""

from __future__ import annotations

from collections.abc import Sequence

from jolly_clerk.core import history as h
from jolly_clerk.core.deadlines import body_due, due_said
from jolly_clerk.core.due import BodyOver, NotTicked
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, act, by, check_seen, load_case, need_lane, permit
from jolly_clerk.office.cases.endings import words_of
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.papers import inquiry_letter

#: the longest name of a body
MOST_LETTERS = 120


def ask_body(office: Office, who: Who, reference: str, body: str, text: str, seen: int | None = None) -> Loaded:
    """Ask another body; its letter is kept with the case. The office's period stands still until it has answered, or its time is over.

    Raises Invalid without its name or without what it is asked, NotAllowed, NotReady, Stale.
    """
    body = " ".join(body.split())
    if not 3 <= len(body) <= MOST_LETTERS:
        raise Invalid(say("Name the body that is asked."), "body")
    text = words_of(text, say("what it is asked"))
    loaded = load_case(office, who, reference)
    check_seen(office, loaded, who, seen)
    permit(loaded, who, "ask another body")
    rules, calendar = loaded.assessment.clock_rules.other_body, loaded.known.calendar
    assert rules is not None
    told = due_said(body_due(office.now(), rules, calendar), calendar)
    sha256 = office.vault.put(inquiry_letter(office, loaded, who, body, text, told))

    def entries(now: Loaded) -> Sequence[h.Entry]:
        own = by(office, who)
        due = body_due(own["at"], rules, calendar)
        number = len(now.so_far.bodies) + 1
        return [
            h.BodyAsked(
                **own,
                no=number,
                body=body,
                text=text,
                due=due.day,
                until=due.ends(calendar),
                pauses=rules.pauses,
                letter_sha256=sha256,
            )
        ]

    return act(office, who, reference, "ask another body", entries, seen)


def body_answered(office: Office, who: Who, reference: str, no: int, text: str, seen: int | None = None) -> Loaded:
    """The answer of another body came: ``text`` is what it told. Raises NotFound if it was not asked or has answered, Invalid."""
    text = words_of(text, say("what it answered"))

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        if not any(body.asked.no == no and body.answered_at is None for body in loaded.so_far.bodies):
            raise NotFound(say("There is no such question that is still out."))
        return [h.BodyAnswered(**by(office, who), of=no, text=text)]

    return act(office, who, reference, "another body answered", entries, seen)


def go_on_without(office: Office, who: Who, loaded: Loaded, over: BodyOver) -> None:
    """The time of another body is over: the office goes on without its answer."""
    act(office, who, loaded.case.reference, "", lambda _: [h.BodyAnswered(**by(office, who), of=over.no)])


def posting_missed(office: Office, who: Who, loaded: Loaded, missed: NotTicked) -> None:
    """Note that nobody ticked a printed letter as posted by the end of its day; the officer is told."""
    lane, no, day = missed.lane, missed.round, missed.day
    act(office, who, loaded.case.reference, "", lambda _: [h.PostingMissed(**by(office, who), lane=lane, round=no, day=day)])


def letter_posted(office: Office, who: Who, reference: str, seen: int | None = None, lane: str = "") -> Loaded:
    """Tick that the printed letter left by post on the day from which its time is counted; one that left later is written anew."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        return [h.LetterPosted(**by(office, who), lane=lane, round=len(need_lane(loaded, lane).rounds))]

    return act(office, who, reference, "letter posted", entries, seen, lane=lane)
