"""Who may do what next, and why not: the moves of a case for every role."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_clerk.core.checklist import Place, Requirement
from jolly_clerk.core.corrections import PointToAsk, RoundView
from jolly_clerk.core.covering import added_since_acceptance
from jolly_clerk.core.fees.account import Account
from jolly_clerk.core.fees.lines import FeeSheet
from jolly_clerk.core.history import overrules
from jolly_clerk.core.in_words import any_of, money
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.meetings import why_not_minute, why_not_put
from jolly_clerk.core.reviewing import why_not_decide_yet, why_not_sign
from jolly_clerk.core.roles import Role
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.least import least_to_file
from jolly_clerk.core.say import _, say, say_n
from jolly_clerk.core.states import CHECKING, LIVE, REOPENED, UNFILED, WITH_INTAKE


@dataclass(frozen=True, slots=True)
class WhyNot:
    """One thing that stands in the way of a move, with the place that puts it right.

    ``title`` is what it is about, without the complaint; ``count`` how many are alike, said once.
    """

    text: str
    place: Place | None = None
    title: str = ""
    count: int = 1


#: everything that somebody can do with a case, by the name that stands in requests
MoveName = Literal[
    "file", "pay", "more time", "take back", "withdraw", "write", "begin checking", "judge", "undo", "send the letter",
    "letter came back", "send again", "replace the letter", "letter posted", "accept as complete", "do not accept", "put out of scope",
    "set a fee", "ask a register", "add a requirement", "ask another body", "another body answered", "hand over", "take money",
    "charge back", "put right", "note", "settle a fee", "grant", "refuse", "send the answers", "assign", "reopen",
    "book an inspection", "hold an inspection", "sign off", "hand back", "ask the applicant", "put on an agenda", "minute",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Move:
    """Something a role could do with the case, whether it can now, and what stands in the way.

    ``warnings`` do not stop it: they list what an authority that takes incomplete filings will ask for later.
    """

    role: Role
    move: MoveName
    allowed: bool
    why_not: tuple[WhyNot, ...]
    warnings: tuple[WhyNot, ...] = ()


#: what is done in each lane by itself; everything else is done to the whole case
LANE_MOVES = (
    "judge", "send the letter", "letter came back", "send again", "replace the letter", "letter posted", "more time",
    "accept as complete", "do not accept", "add a requirement", "send the answers",
)  # fmt: skip


def moves(
    rulebook: Rulebook,
    whole: CaseSoFar,
    case: CaseSoFar,
    found: Sequence[Requirement],
    left: Sequence[WhyNot],
    fees: FeeSheet,
    account: Account,
    points: Sequence[PointToAsk],
    latest: RoundView | None,
    lane: str = "",
    by_post: bool = False,
    sign_again: str = "",
    not_here: str = "",
) -> tuple[Move, ...]:
    """Every move of every role, in the order in which the work is done.

    ``case`` is the case as ``lane`` sees it, with the requirements, points and round of that lane; ``whole`` the case over all
    its lanes; ``by_post`` tells that its letters go printed, ``sign_again`` why what is prepared has to be signed
    anew, ``not_here`` why nothing is to be filed here. The common lane has every move, that of a site only those of :data:`LANE_MOVES`.
    """
    made = [
        _file(rulebook, whole, left, not_here),
        _pay(whole, account, rulebook.edition.grants),
        _answer(case, latest, sign_again),
        _more_time("applicant", rulebook, case),
        _move("applicant", "take back", _state_is(whole, "Waiting for payment", "Filed")),
        _move("applicant", "withdraw", _live(whole, _("withdraw"))),
        _move("applicant", "write", _was_filed(whole)),
    ]
    role: Role = "officer"
    officers = [
        _begin(role, whole),
        judging(role, case),
        _move(
            role, "undo", None if whole.undoable else WhyNot(say("There is nothing of yours to take back since the last letter."))
        ),
        _send_letter(role, case, found, points, latest),
        _move(role, "letter came back", _state_is(case, "Answers wanted")),
        _send_again(role, case),
        _move(role, "replace the letter", _state_is(case, "Answers wanted")),
        _posted(role, case, by_post),
        _more_time(role, rulebook, case),
        _accept(role, case, found, latest, () if lane else _unsettled_money(case, fees, account)),
        _move(role, "do not accept", _state_is(case if lane else whole, *CHECKING)),
        _move(role, "put out of scope", _state_is(whole, "Filed", *CHECKING)),
        _move(role, "set a fee", _state_is(whole, "Filed", *CHECKING, *_unset(whole))),
        _move(role, "ask a register", _state_is(whole, "Filed", *CHECKING)),
        _move(role, "add a requirement", _state_is(case, *CHECKING)),
        _move(role, "put right", _state_is(whole, *CHECKING)),
        *_other_bodies(role, rulebook, whole),
        _move(role, "hand over", _state_is(whole, "Complete"), _check_unpaid(whole, fees.currency, account)),
        _move(role, "take money", _state_is(whole, *LIVE, "Granted", "Lapsed")),
        _move(role, "charge back", None if whole.payments else WhyNot(say("Nothing was paid on this case."))),
        _move(role, "write", _was_filed(whole)),
        _move(role, "note", _was_filed(whole)),
        _move(role, "assign", _state_is(whole, *WITH_INTAKE)),
        _move(role, "minute", _state_is(whole, "Under review"), *map(WhyNot, why_not_minute(whole))),
    ]
    # what an officer may do a lead may do as well, and more
    made += [*officers, *(Move("lead", m.move, m.allowed, m.why_not, m.warnings) for m in officers)]
    made.append(_move("lead", "settle a fee", _state_is(whole, "Filed", *CHECKING, *_unset(whole))))
    made.append(_move("lead", "reopen", _reopens(whole)))
    if any(fee.role == "lead" for fee in whole.fees_waiting.values()):  # where there is no other lead an officer is the second
        made.append(_move(role, "settle a fee", _state_is(whole, "Filed", *CHECKING, *_unset(whole))))
    made += [
        _grant(rulebook, whole, fees, account),
        *_other_bodies("reviewer", rulebook, whole),
        _move("reviewer", "refuse", _state_is(whole, "Under review"), *map(WhyNot, why_not_decide_yet(rulebook, whole, False))),
        _move("reviewer", "sign off", _state_is(whole, "Under review"), *map(WhyNot, why_not_sign(whole))),
        _move("reviewer", "hand back", _state_is(whole, "Under review")),
        _move("reviewer", "ask the applicant", _state_is(whole, "Under review")),
        _move("reviewer", "put on an agenda", _state_is(whole, "Under review"), *map(WhyNot, why_not_put(rulebook, whole))),
        _move("reviewer", "write", _was_filed(whole)),
        _move("reviewer", "note", _was_filed(whole)),
    ]
    return tuple(m for m in made if m.move in LANE_MOVES) if lane else tuple(made)


def _send_again(role: Role, case: CaseSoFar) -> Move:
    came_back = case.open_round is not None and case.open_round.paused_from is None
    stops = None if came_back and not case.ended else WhyNot(say("No letter has come back."))
    return _move(role, "send again", stops)


def _posted(role: Role, case: CaseSoFar, by_post: bool) -> Move:
    """Ticking that a printed letter left by post, once."""
    latest = case.open_round
    stops = _state_is(case, "Answers wanted")
    if stops is None and not by_post:
        stops = WhyNot(say("The letters of this case do not go by post."))
    elif stops is None and latest is not None and (latest.posted or latest.paused_from is None):
        stops = WhyNot(say("It is ticked as posted already.") if latest.posted else say("It came back; send it again."))
    return _move(role, "letter posted", stops)


def _other_bodies(role: Role, rulebook: Rulebook, case: CaseSoFar) -> tuple[Move, Move]:
    """Asking another body, and that its answer came: while the office checks or decides, where the edition knows of it."""
    states = ("Under review",) if role == "reviewer" else (*CHECKING, "Complete")
    out = any(body.answered_at is None for body in case.bodies)
    known = None if rulebook.edition.clock.other_body else WhyNot(say("This kind asks no other body."))
    none = None if out else WhyNot(say("No other body is asked."))
    return (
        _move(role, "ask another body", known or _state_is(case, *states)),
        _move(role, "another body answered", none or _state_is(case, *states)),
    )


def _reopens(case: CaseSoFar) -> WhyNot | None:
    """Why a case cannot be reopened: it goes on, or the applicant ended it, or it was granted."""
    if not case.ended:
        return WhyNot(say("The case goes on; there is nothing to reopen."))
    if case.state in REOPENED:
        return None
    return WhyNot(say("The case is “{state}”; that is final.", state=say(case.state)))


def _unset(case: CaseSoFar) -> tuple[str, ...]:
    """The state in which fees may be set besides, while the office has to set what the rules could not work out."""
    return ("Waiting for payment",) if case.to_set or case.fees_waiting else ()


def _live(case: CaseSoFar, verb: str) -> WhyNot | None:
    if not case.ended and (case.state in LIVE or case.taken_back):
        return None
    return WhyNot(say("The case is “{state}”; there is nothing to {verb}.", state=say(case.state), verb=say(verb)))


def _was_filed(case: CaseSoFar) -> WhyNot | None:
    return None if case.first_filed else WhyNot(say("Nothing is filed yet; messages belong to a case."))


def _more_time(role: Role, rulebook: Rulebook, case: CaseSoFar) -> Move:
    stops = _state_is(case, "Answers wanted")
    more = rulebook.edition.clock.answers.once_more
    if stops is None and more is None:
        stops = WhyNot(say("This kind gives no more time."))
    elif stops is None and case.open_round and case.open_round.extended:
        stops = WhyNot(say("More time was given already, and it is given once only."))
    return _move(role, "more time", stops)


def _check_unpaid(case: CaseSoFar, currency: str, account: Account) -> WhyNot | None:
    """What keeps a complete case from going on: what fell due after the check is not paid."""
    if case.accepted is None or case.ended or case.check_covered_at is not None:
        return None
    said = say("{open_amount} that fell due after the check is not paid.", open_amount=money(account.open, currency))
    return WhyNot(said, Place("fee", "Payment"))


def _grant(rulebook: Rulebook, case: CaseSoFar, fees: FeeSheet, account: Account) -> Move:
    stops = _state_is(case, "Under review")
    issue = fees.total("at issue")
    lines = [line for line in fees.lines if line.stage == "at issue" and line.state == "open"]
    unsettled = (
        [WhyNot(say("{title} is not settled yet.", title=line.title), Place("fee", "Payment")) for line in lines]
        if issue.amount is None
        else []
    )
    waiting = [WhyNot(say("A fee set by hand waits for a second person: {line}.", line=line)) for line in case.fees_waiting]
    if added_since_acceptance(case) and account.open:
        told = say("{amount} for what came later is not paid.", amount=money(account.open, fees.currency))
        waiting.append(WhyNot(told, Place("fee", "Payment")))
    return _move(
        "reviewer",
        "grant",
        stops,
        *([] if stops else [*map(WhyNot, why_not_decide_yet(rulebook, case, True)), *unsettled, *waiting]),
    )


def _move(role: Role, name: MoveName, *why_not: WhyNot | None, warnings: Sequence[WhyNot] = ()) -> Move:
    reasons = tuple(w for w in why_not if w)
    return Move(role, name, not reasons, reasons, tuple(warnings))


def _state_is(case: CaseSoFar, *states: str) -> WhyNot | None:
    if case.state in states:
        return None
    if case.ended:
        return WhyNot(say("The case is “{state}”; that is final.", state=say(case.state)))
    if states == (UNFILED,):
        return WhyNot(say("It is filed already."))
    needs = any_of(say(s) for s in states)
    return WhyNot(say("The case is “{state}”; this needs {wanted}.", state=say(case.state), wanted=needs))


def _file(rulebook: Rulebook, case: CaseSoFar, left: Sequence[WhyNot], not_here: str) -> Move:
    stops = [_state_is(case, UNFILED), WhyNot(not_here) if not_here else None]
    if rulebook.edition.incomplete_filing == "warn":
        least = least_to_file(rulebook)
        needed = [one for one in left if one.place and one.place.ref in least]
        return _move("applicant", "file", *stops, *needed, warnings=left)
    return _move("applicant", "file", *stops, *left)


def _pay(case: CaseSoFar, account: Account, grants: str) -> Move:
    stops = None
    if case.filed is None:
        stops = WhyNot(say("File first; the fee is due then."))
    elif case.ended and not case.granted:
        stops = WhyNot(say("The case is “{state}”; nothing is due.", state=say(case.state)))
    elif case.to_set:
        stops = WhyNot(say("The office has to set a part of the fee first; you are told when it has."))
    elif account.open or account.later:  # a part that is not asked for yet can be paid before its day
        pass
    elif case.accepted and not case.granted:
        stops = WhyNot(say("Nothing is due now; what is due at issue is asked when the {grants} is granted.", grants=grants))
    else:
        stops = WhyNot(say("Everything due so far is paid."))
    return _move("applicant", "pay", stops)


def _answer(case: CaseSoFar, latest: RoundView | None, sign_again: str) -> Move:
    stops = _state_is(case, "Answers wanted")
    needs = [
        WhyNot(say("Point {no} needs {needs}.", no=p.no, needs=p.needs), p.places[0] if p.places else None)
        for p in (latest.points if latest else ())
        if p.needs
    ]
    if sign_again:
        needs.append(WhyNot(sign_again, Place("signature", say("Promise and sign"))))
    return _move("applicant", "send the answers", stops, *([] if stops else needs))


def _begin(role: Role, case: CaseSoFar) -> Move:
    return _move(role, "begin checking", _state_is(case, "Filed"))


def judging(role: Role, case: CaseSoFar) -> Move:
    """Judging, which hangs on the state alone: asked with each of forty judgements, it needs no look over the checklist."""
    return _move(role, "judge", _state_is(case, "Being checked", "Answers came back"))


def _open_points(latest: RoundView | None) -> list[WhyNot]:
    still = [p for p in (latest.points if latest and latest.answered_at else ()) if p.state == "answered"]
    return [
        WhyNot(say("Point {no}, {title}, is answered but neither closed nor asked again.", no=p.no, title=p.title)) for p in still
    ]


def _untaken(latest: RoundView | None) -> list[WhyNot]:
    changes = [u.change for u in (latest.unasked if latest and latest.answered_at else ()) if not u.taken]
    return [
        WhyNot(say("{label} was changed without being asked: take it, or ask about it.", label=c.label), Place(c.place, c.label))
        for c in changes
    ]


def _send_letter(
    role: Role,
    case: CaseSoFar,
    found: Sequence[Requirement],
    points: Sequence[PointToAsk],
    latest: RoundView | None,
) -> Move:
    stops = _state_is(case, "Being checked", "Answers came back")
    none = None if points else WhyNot(say("Nothing was judged wanting, so there is no point to ask."))
    unjudged = [r for r in found if r.asked and not r.judged]
    warnings = (
        [WhyNot(say_n("{n} requirement is not yet judged.", "{n} requirements are not yet judged.", len(unjudged)))]
        if unjudged
        else []
    )
    return _move(role, "send the letter", stops, none, *([] if stops else _open_points(latest)), warnings=warnings)


def _accept(
    role: Role, case: CaseSoFar, found: Sequence[Requirement], latest: RoundView | None, unsettled: Sequence[WhyNot]
) -> Move:
    stops = _state_is(case, "Being checked", "Answers came back")
    if stops:
        return _move(role, "accept as complete", stops)
    return _move(role, "accept as complete", *_unfinished(found), *unsettled, *_open_points(latest), *_untaken(latest))


def _unfinished(found: Sequence[Requirement]) -> list[WhyNot]:
    """What of the checklist stands in the way of acceptance; what is alike for several items is said once, with its count."""
    alike: dict[tuple[str, str], list[Requirement]] = {}
    unknown = [WhyNot(f"{r.title}: {r.because}", r.places[0], r.title) for r in found if r.standing == "not known yet"]
    for r in found:
        if r.stands_open and r.standing != "not known yet":
            alike.setdefault((r.plain_title, r.standing if r.judged else _("not yet judged")), []).append(r)
    return [*unknown, *(_said_once(said, own) for (_, said), own in alike.items())]


def _said_once(said: str, alike: Sequence[Requirement]) -> WhyNot:
    first, count = alike[0], len(alike)
    if count == 1:
        return WhyNot(say("“{title}” is {said}.", title=first.title, said=say(said)), first.places[0], first.title)
    return WhyNot(
        say("{title}: {count} are {said}.", title=first.plain_title, count=count, said=say(said)),
        first.places[0],
        first.plain_title,
        count,
    )


def _unsettled_money(case: CaseSoFar, fees: FeeSheet, account: Account) -> list[WhyNot]:
    """What of the fees stands in the way of acceptance."""
    payment, missing = Place("fee", "Payment"), account.for_acceptance
    unsettled = [line for line in fees.lines if line.stage == "after the check" and line.state == "open"]
    return [
        *(WhyNot(say("A fee set by hand waits for a second person: {line}.", line=line)) for line in case.fees_waiting),
        *(
            WhyNot(say("{title} {trouble}. Set it by hand.", title=line.title, trouble=line.trouble), payment)
            if line.trouble
            else WhyNot(say("{title}, due after the check, is not settled yet.", title=line.title), payment)
            for line in unsettled
        ),
        *(
            [WhyNot(say("{missing} of the fee due at filing is not paid.", missing=money(missing, fees.currency)), payment)]
            if missing
            else []
        ),
    ]


def reason_wanted(standing: str | None, requirement: Requirement) -> str:
    """Why giving this standing needs a reason: a waiver does, and *met* over a fault or a doubt; empty if it needs none."""
    if standing == "waived":
        return say("A waiver needs a reason: say in a few words why this is not asked here.")
    if overrules(standing, requirement.proposed):
        return say("The machine says: {because} Say in a few words why it is met all the same.", because=requirement.because)
    return ""
