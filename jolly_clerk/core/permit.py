"""What a permit says: the answers that the rulebook puts on it, those of repeats one by one, and of lanes only those that are complete."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_clerk.core.dossier.differences import said_answer
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.lifecycle import CaseSoFar, in_lane


def permit_says(sheet: Sheet, case: CaseSoFar, public_only: bool = False) -> Iterator[tuple[str, str]]:
    """Each answer that stands on the permit, with its label and in words; ``public_only`` leaves out what is not open to everybody."""
    rulebook = sheet.rulebook
    for node in rulebook.questions.values():
        if not (node.question.public or (node.question.on_permit and not public_only)):
            continue
        for place in sheet.places_of(node):
            lane = rulebook.lane_of(place)
            own = in_lane(case, lane)
            if lane and (own.accepted is None or (own.ended is not None and case.ended is not own.ended)):
                continue  # a site that was not complete is not part of what is granted
            told = said_answer(rulebook, place, sheet.raw.get(place))
            if told:
                yield rulebook.label(place) if node.part.each else node.question.ask, told
