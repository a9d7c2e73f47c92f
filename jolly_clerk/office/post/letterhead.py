"""What stands at the head of every paper of a case."""

from __future__ import annotations

from datetime import date
from typing import Any

from jolly_clerk.core.in_words import day
from jolly_clerk.core.say import say, spoken_language
from jolly_clerk.office.cases.casework import Loaded
from jolly_clerk.office.office import Office
from jolly_clerk.office.people.directory import names


def letterhead(office: Office, loaded: Loaded, on: date, lane: str = "") -> dict[str, Any]:
    """The values that every paper of a case has; one about a single lane says which."""
    to = loaded.so_far.permit.holder or loaded.case.applicant_id
    own = f", {loaded.assessment.lane(lane).title}" if loaded.assessment.lanes and lane else ""
    return {
        "office": office.name,
        "address": office.address,
        "date": day(on),
        "reference": loaded.case.reference,
        "title": f"{loaded.assessment.title}{own}",
        "to": names(office, [to]).get(to, ""),
        "to_address": postal_address(loaded) if to == loaded.case.applicant_id else "",
        "contact": " · ".join(
            x for x in (office.settings.telephone, f"{office.settings.base_url}/cases/{loaded.case.reference}") if x
        ),
        **paper_words(),
    }


def paper_words() -> dict[str, str]:
    """The words that every paper has in the language that is spoken, and the code of that language."""
    return {"page_word": say("page"), "of_word": say("of"), "lang": spoken_language() or "en"}


def postal_address(loaded: Loaded) -> str:
    """Where a printed letter goes: the answer that is taken from the address of the applicant's account."""
    questions = loaded.rulebook.questions.items()
    found = (str(loaded.sheet.raw.get(ref) or "") for ref, q in questions if q.question.profile == "address")
    return next((address for address in found if address), "")
