"""A letter that was wrong is replaced by another while its answers are out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from jolly_clerk.core import history as h
from jolly_clerk.core.checklist import Evidence
from jolly_clerk.core.deadlines import deemed
from jolly_clerk.core.rounds import PointSoFar
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, by, check_seen, key_of, load_case, need_lane, permit
from jolly_clerk.office.cases.endings import words_of
from jolly_clerk.office.desk.checking import due_if_sent_now
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.papers import correction_letter
from jolly_clerk.office.post.telling import act_and_tell


@dataclass(frozen=True, slots=True)
class NewWords:
    """A point as it is asked from now on: its number in the letter that is replaced, or 0 and a title for one that is new; a new one may be
    answered by words, or by a file in a slot of its own."""

    no: int
    text: str
    title: str = ""
    file: bool = False


def replace_letter(
    office: Office, who: Who, reference: str, points: Sequence[NewWords], seen: int | None = None, lane: str = ""
) -> Loaded:
    """Replace the letter that is out: points reworded, left out and added. What is left out is wanting no more; the period to answer begins
    anew, and the clock stands still all the while.

    Raises:
        Invalid: no point is left, one is named twice or is none of the letter, or has no words.
    """
    loaded = load_case(office, who, reference)
    check_seen(office, loaded, who, seen)
    permit(loaded, who, "replace the letter", lane)
    latest = need_lane(loaded, lane).rounds[-1]
    own = by(office, who)
    asked, added = _asked(loaded, latest.points, points, own, lane)
    kept = {id_ for p in asked for id_ in (p.requirement, *p.also)}
    version = loaded.assessment.version
    gone = [id_ for p in latest.points.values() for id_ in (p.asked.requirement, *p.asked.also) if id_ not in kept]
    dropped = [h.Judged(**own, requirement=id_, standing=None, version=version) for id_ in gone]
    due = due_if_sent_now(office, loaded)
    before = loaded.known.calendar.local_day(latest.replaced_at or latest.sent_at)
    sha256 = office.vault.put(correction_letter(office, loaded, who, asked, due, lane, replaces=before))
    received = deemed(own["at"], loaded.assessment.clock_rules.answers, loaded.known.calendar)
    replaced = h.LetterReplaced(
        **own, lane=lane, round=latest.no, points=asked, due=due.day, due_at=due.at, received=received, letter_sha256=sha256
    )

    def entries(_: Loaded) -> Sequence[h.Entry]:
        return [*added, *dropped, replaced]

    key = f"{reference}-letter-{key_of(lane)}{latest.no}-replaced-{loaded.entries}"
    return act_and_tell(office, who, loaded, "replace the letter", entries, "correction", sha256, key, len(asked), lane=lane)


def _asked(
    loaded: Loaded, before: dict[int, PointSoFar], points: Sequence[NewWords], own: dict[str, Any], lane: str
) -> tuple[tuple[h.AskedPoint, ...], list[h.Entry]]:
    """The points of the new letter, and the entries of those that are new."""
    numbers = [p.no for p in points if p.no]
    if not points or len(set(numbers)) != len(numbers) or not set(numbers) <= set(before):
        raise Invalid(say("Name each point of the letter once; at least one is left."))
    asked: list[h.AskedPoint] = []
    made: list[h.Entry] = []
    number = 1 + sum(isinstance(e, h.RequirementAdded) for e in loaded.history.entries)
    next_no = max(before) + 1
    for point in points:
        text = words_of(point.text, say("what would put it right"))
        if point.no:
            asked.append(before[point.no].asked.model_copy(update={"text": text, "messages": {}}))
            continue
        title, id_ = words_of(point.title, say("what it is called"))[:120], f"added-{number}"
        places = (f"documents.added-{number}",) if point.file else ()
        made.append(h.RequirementAdded(**own, requirement=id_, title=title, text=text, lane=lane, places=places))
        evidence = Evidence(loaded.dossier, loaded.so_far, loaded.assessment.fees).at(places or (id_,))
        version = loaded.assessment.version
        made.append(h.Judged(**own, requirement=id_, standing="wanting", version=version, evidence=evidence))
        asked.append(h.AskedPoint(no=next_no, requirement=id_, title=title, text=text, places=places))
        number, next_no = number + 1, next_no + 1
    return tuple(asked), made
