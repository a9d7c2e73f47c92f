"""Cases that are alike, as the desk shows them: looked for by what a case is known by, compared by the core."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.alike import (
    AnswersOfTwo,
    How,
    Identity,
    identity_of,
    in_another_name,
    likeness,
    searched_by,
    side_by_side,
    sorted_likenesses,
)
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.say import say
from jolly_clerk.core.searching import sought
from jolly_clerk.office.cases.casework import Loaded, load_case
from jolly_clerk.office.cases.seeing import visible
from jolly_clerk.office.errors import Invalid, NotAllowed
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.rules.rulebooks import rulebook
from jolly_clerk.store.database import read_session
from jolly_clerk.store.searching import matching
from jolly_clerk.store.tables import Case, FiledVersion

#: so many cases are compared for each thing that is looked for, and so many are told
MOST_COMPARED, MOST_OF_PERSON, MOST_TOLD = 12, 12, 8


@dataclass(frozen=True, slots=True)
class AlikeCase:
    """A case that is alike, and what speaks for it. ``compared`` tells that it can be laid side by side."""

    reference: str
    title: str
    state: str
    applicant: str
    filed: date
    how: How
    because: tuple[str, ...]
    compared: bool


@dataclass(frozen=True, slots=True)
class AlikeView:
    """What is known besides a case: cases that are alike, and that it names another person than the account that filed it.

    ``more`` counts cases that are alike, too, and less so than those that are told.
    """

    cases: tuple[AlikeCase, ...]
    more: int
    other_name: str


def alike(office: Office, who: Who, reference: str) -> AlikeView:
    """The cases that are alike, what may be filed twice first. Raises NotAllowed, NotFound."""
    loaded = _for_office(office, who, reference)
    with read_session(office.engine) as session:
        applicant = names_in(session, [loaded.case.applicant_id]).get(loaded.case.applicant_id, "")
        mine = _identity(loaded, applicant)
        found = _candidates(session, who, loaded.case, mine)
        names = names_in(session, [case.applicant_id for case in found])
        told = []
        for case in found:
            latest = session.get(FiledVersion, (case.id, case.version))
            if latest is None:
                continue
            rules, dossier = rulebook(office, case.edition_sha256), Dossier.model_validate_json(latest.dossier)
            other = identity_of(rules, dossier, case.title, case.applicant_id, names.get(case.applicant_id, ""))
            how = likeness(mine, other, is_open=case.tray != "")
            if how is not None:
                told.append((case.reference, how))
    cases = {case.reference: case for case in found}
    ordered = sorted_likenesses(told)
    rows = [(cases[reference], how) for reference, how in ordered[:MOST_TOLD]]
    zone = loaded.known.calendar
    return AlikeView(
        tuple(
            AlikeCase(
                case.reference, case.title, case.state, names.get(case.applicant_id, ""), zone.local_day(case.filed_at), how.how,
                how.because, case.kind == loaded.case.kind,
            )
            for case, how in rows
        ),
        len(ordered) - len(rows),
        in_another_name(loaded.rulebook, loaded.dossier, applicant),
    )  # fmt: skip


def _for_office(office: Office, who: Who, reference: str) -> Loaded:
    loaded = load_case(office, who, reference)
    if not who.sees_all:
        raise NotAllowed(say("Only the office looks for cases that are alike."))
    return loaded


def _identity(loaded: Loaded, applicant: str) -> Identity:
    return identity_of(loaded.rulebook, loaded.dossier, loaded.assessment.title, loaded.case.applicant_id, applicant)


def _candidates(session: Session, who: Who, case: Case, mine: Identity) -> list[Case]:
    """The cases that may be alike, the latest first: those in which the same is found, and the latest of the same person."""
    ids = dict[str, None]()
    for words in searched_by(mine):
        wanted = sought(words)
        if wanted is not None:
            ids.update(dict.fromkeys(matching(session, wanted)[:MOST_COMPARED]))
    own = select(Case.id).where(Case.applicant_id == case.applicant_id).order_by(Case.filed_at.desc()).limit(MOST_OF_PERSON)
    ids.update(dict.fromkeys(session.scalars(own)))
    ids.pop(case.id, None)
    wanted_cases = select(Case).where(Case.id.in_(list(ids)), Case.kept.is_(False), Case.erased_at.is_(None), *visible(who))
    return list(session.scalars(wanted_cases.order_by(Case.filed_at.desc(), Case.id)))


def compared(office: Office, who: Who, reference: str, other: str) -> list[AnswersOfTwo]:
    """The answers of two cases of one kind side by side. Raises NotAllowed, NotFound, Invalid for two kinds."""
    one, two = _for_office(office, who, reference), _for_office(office, who, other)
    if one.case.kind != two.case.kind:
        raise Invalid(say("These are of two kinds; their forms are not the same."))
    return side_by_side(one.rulebook, one.dossier, two.dossier)
