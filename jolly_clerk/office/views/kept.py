"""A case that came from elsewhere, as it came."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select

from jolly_clerk.core.say import say
from jolly_clerk.core.states import State
from jolly_clerk.office.cases.seeing import visible
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.store.beside import KeptCase
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case


@dataclass(frozen=True, slots=True)
class KeptAnswer:
    """An answer as it was shown: its label and its value in words."""

    label: str
    value: str


@dataclass(frozen=True, slots=True)
class KeptStep:
    """Something that happened, in words."""

    at: datetime
    text: str
    who: str


@dataclass(frozen=True, slots=True)
class KeptFile:
    """A file that came with it."""

    name: str
    sha256: str
    size: int


@dataclass(frozen=True, slots=True)
class KeptView:
    """A case that came from elsewhere and is kept as it came: nothing of it is assessed, and nothing can be done with it."""

    reference: str
    kind: str
    title: str
    state: State
    applicant: str
    filed_at: datetime
    changed_at: datetime
    answers: tuple[KeptAnswer, ...]
    steps: tuple[KeptStep, ...]
    files: tuple[KeptFile, ...]


def kept_view(office: Office, who: Who, reference: str) -> KeptView:
    """A case that is kept as it came, if this person may see it. Raises NotFound."""
    wanted = select(Case, KeptCase.told).join(KeptCase, KeptCase.case_id == Case.id)
    wanted = wanted.where(Case.reference == reference, Case.erased_at.is_(None), *visible(who))
    with read_session(office.engine) as session:
        found = session.execute(wanted).tuples().first()
    if found is None:
        raise NotFound(say("There is no case {reference} that you may see.", reference=reference[:20]))
    case, told = found[0], json.loads(found[1])
    return KeptView(
        case.reference,
        case.kind,
        case.title,
        case.state,
        told["applicant"]["name"],
        case.filed_at,
        case.changed_at,
        tuple(KeptAnswer(**a) for a in told["answers"]),
        tuple(KeptStep(datetime.fromisoformat(s["at"]), s["text"], s["who"]) for s in told["steps"]),
        tuple(KeptFile(**f) for f in told["files"]),
    )


def kept_file(office: Office, who: Who, reference: str, sha256: str) -> KeptFile:
    """A file of such a case. Raises NotFound."""
    for file in kept_view(office, who, reference).files:
        if file.sha256 == sha256:
            return file
    raise NotFound(say("This file is not in the case."))
