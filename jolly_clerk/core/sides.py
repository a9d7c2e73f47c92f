"""What each side of the counter may know of an assessment: the office everything, the applicant nothing of the office's own mind."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.assessment_view import AssessmentView, RequirementView, assessment_view
from jolly_clerk.core.corrections import RoundView
from jolly_clerk.core.moves import Move
from jolly_clerk.core.roles import Role
from jolly_clerk.core.sharing import OWNER, Access, as_invited


def as_office(assessment: Assessment, names: Mapping[str, str], role: Role) -> AssessmentView:
    """The whole assessment with people's names instead of their ids, and the moves of one role."""
    whole = assessment_view(assessment)
    return replace(
        whole,
        requirements=tuple(_named(r, names) for r in whole.requirements),
        moves=_moves(whole.moves, role),
        lanes=tuple(replace(lane, moves=_moves(lane.moves, role)) for lane in whole.lanes),
    )


def as_applicant(assessment: Assessment, access: Access = OWNER) -> AssessmentView:
    """Without what is the office's alone: given standings, what was added by hand, points not yet sent, the officer's moves. An invited
    person makes the moves that the invitation allows."""
    whole = assessment_view(assessment)
    return replace(
        whole,
        requirements=tuple(_proposed(r) for r in whole.requirements if r.kind != "added"),
        points=(),
        rounds=_rounds(whole.rounds),
        moves=as_invited(_moves(whole.moves, "applicant"), access),
        refunds=tuple(r for r in whole.refunds if r.ending == "withdrawn"),
        next_officer="",
        lanes=tuple(
            replace(
                lane,
                points=(),
                judged=0,
                rounds=_rounds(lane.rounds),
                moves=as_invited(_moves(lane.moves, "applicant"), access),
                next_officer="",
            )
            for lane in whole.lanes
        ),
    )


def _named(r: RequirementView, names: Mapping[str, str]) -> RequirementView:
    return replace(r, given=replace(r.given, who=names.get(r.given.who, r.given.who))) if r.given else r


def _proposed(r: RequirementView) -> RequirementView:
    asked = r.proposed not in ("not asked", "not known yet")
    return replace(r, given=None, standing=r.proposed, asked=asked, judged=False, overruled=False, met_needs_reason=False)


def _moves(moves: tuple[Move, ...], role: Role) -> tuple[Move, ...]:
    return tuple(m for m in moves if m.role == role)


def _rounds(rounds: tuple[RoundView, ...]) -> tuple[RoundView, ...]:
    """What the officer has made of answers is not told before the next letter."""
    return tuple(
        replace(
            r,
            unasked=tuple(replace(u, taken=False) for u in r.unasked),
            points=tuple(replace(p, state="answered") if p.state in ("closed", "asked again") else p for p in r.points),
        )
        for r in rounds
    )
