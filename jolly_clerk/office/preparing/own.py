"""What somebody has of one's own, prepared and filed: searched, and taken as a pattern for another filing."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import and_, or_, select

from jolly_clerk.core.dossier.changing import patterned
from jolly_clerk.core.say import say
from jolly_clerk.core.searching import folded, sought, texts_of, words_in
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.lists import Row, own_rows
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.drafts import OpenDraft, drafts_of, open_draft, start_draft
from jolly_clerk.store.beside import SearchRow
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case

#: so many cases are shown at most
MOST_FOUND = 50


@dataclass(frozen=True, slots=True)
class Found:
    """What was found of one's own: what is being prepared, and cases, the newest first."""

    drafts: tuple[OpenDraft, ...]
    cases: tuple[Row, ...]


def find_own(office: Office, who: Who, words: str) -> Found:
    """One's own drafts and cases in which all the words stand: references, one's own too, folders, titles, persons, places."""
    wanted = sought(words)
    if wanted is None:
        return Found((), ())
    all_words = (*wanted.long, *wanted.short)
    drafts = tuple(d for d in drafts_of(office, who) if all(w in _said(d) for w in all_words))
    with read_session(office.engine) as session:
        each = [SearchRow.fields.contains(w) for w in all_words]
        number = [SearchRow.reference.contains(wanted.whole)] if wanted.whole else []
        inside = select(SearchRow.case_id).where(or_(and_(*each), *number))
        own = select(Case).where(Case.applicant_id == who.id, Case.erased_at.is_(None), Case.id.in_(inside))
        cases = list(session.scalars(own.order_by(Case.filed_at.desc()).limit(MOST_FOUND)))
        return Found(drafts, own_rows(office, session, cases))


def _said(draft: OpenDraft) -> str:
    own = (draft.assessment.title, draft.rulebook.edition.title, draft.draft.own_reference, draft.draft.folder)
    return " ".join([*(folded(text) for text in own), *(" ".join(words_in(t)) for t in texts_of(draft.dossier.answers))])


def begin_like(office: Office, who: Who, name: str) -> str:
    """Begin a filing like another of one's own, named by the id of its draft or the reference of its case; returns the new draft's id.

    Raises NotFound where there is none.
    """
    if "-" in name:
        loaded = load_case(office, who, name)
        if loaded.case.applicant_id != who.id:
            raise NotFound(say("There is no such case of yours."))
        kind, answers, called = loaded.case.kind, loaded.history.versions[-1].dossier.answers, loaded.case.reference
    else:
        draft = open_draft(office, who, name)
        if not draft.access.owner:
            raise NotFound(say("There is no such draft of yours."))
        kind, answers, called = draft.draft.kind, draft.dossier.answers, draft.assessment.title
    return start_draft(office, who, kind, made=lambda rules: patterned(rules, answers, called, office.now()))
