"""What one has named in earlier filings, picked before it is typed again."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from sqlalchemy import select

from jolly_clerk.core.dossier.differences import said_answer
from jolly_clerk.core.dossier.earlier import Filing, Named, named_before, with_named
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft, need_bounded, open_draft
from jolly_clerk.office.rules.rulebooks import edition_on, office_calendar, rulebook
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, Draft, FiledVersion

#: which sorts of answers are told, and how short each has to be
SHOWN, MOST_LETTERS = ("date", "one of", "text"), 30
#: so many of one's own filings are looked through, the newest first
MOST_FILINGS = 60


@dataclass(frozen=True, slots=True)
class Earlier:
    """Somebody or something of an earlier filing that can be picked: what it is called, where it stood, and what of it is known."""

    key: str
    label: str
    called: str
    said: str


def earlier(office: Office, who: Who, draft_id: str, part: str) -> list[Earlier]:
    """What one's own earlier filings name that fits a part of a draft. Raises NotFound."""
    now = open_draft(office, who, draft_id)
    return [Earlier(n.key, n.label, n.called, _said(now.rulebook, part, n)) for n in _named(office, who, now, part)]


def _said(rules: Rulebook, part: str, named: Named) -> str:
    """Some of what is known, by which one person is told from another: dates, choices, short words."""
    asked = (q for q in rules.parts[part].questions if q.id in named.answers and q.type in SHOWN)
    told = (said_answer(rules, f"{part}.{q.id}", named.answers[q.id]) for q in asked)
    return ", ".join([text for text in told if text and text != named.label and len(text) < MOST_LETTERS][:3])


def pick(office: Office, who: Who, draft_id: str, part: str, keys: Sequence[str], seen: int | None = None) -> OpenDraft:
    """Add some of them to a part. Raises NotFound for what is not offered any more, Invalid if there would be too many."""
    now = open_draft(office, who, draft_id)
    there = {n.key: n for n in _named(office, who, now, part)}
    if missing := [key for key in keys if key not in there]:
        raise NotFound(say("{count} of them are not offered any more. Look again.", count=len(missing)))
    chosen, most = [there[key] for key in dict.fromkeys(keys)], now.rulebook.parts[part].at_most

    def put(dossier: Dossier) -> Dossier:
        changed = with_named(dossier, now.history.versions, part, chosen, office.now())
        if len(changed.answers[part]) > most:
            raise Invalid(say("{most} is the most.", most=most), part)
        need_bounded(changed.answers, now.rulebook)
        return changed

    return change_draft(office, who, draft_id, put, seen)


def _named(office: Office, who: Who, now: OpenDraft, part: str) -> list[Named]:
    if part not in now.rulebook.parts or not now.rulebook.parts[part].each:
        raise NotFound(say("The form has no such part that repeats."))
    return named_before(now.rulebook, part, now.dossier.answers, _filings(office, who, now.draft.id))


def _filings(office: Office, who: Who, not_draft: str) -> Iterator[Filing]:
    """One's own filings, the newest first: what is filed, then what is being prepared."""
    with read_session(office.engine) as session:
        own = select(Case).where(Case.applicant_id == who.id, Case.erased_at.is_(None), Case.kept.is_(False))
        for case in session.scalars(own.order_by(Case.filed_at.desc()).limit(MOST_FILINGS)):
            newest = select(FiledVersion).where(FiledVersion.case_id == case.id).order_by(FiledVersion.no.desc()).limit(1)
            for version in session.scalars(newest):
                answers = Dossier.model_validate_json(version.dossier).answers
                yield Filing(case.reference, rulebook(office, case.edition_sha256), answers)
        preparing = select(Draft).where(Draft.owner_id == who.id, Draft.thrown_away_at.is_(None), Draft.case_id.is_(None))
        today = office_calendar(office, session).local_day(office.now())
        for draft in session.scalars(preparing.where(Draft.id != not_draft).order_by(Draft.kept_at.desc()).limit(MOST_FILINGS)):
            rules = rulebook(office, edition_on(office, draft.kind, today, session))
            yield Filing(draft.own_reference or rules.edition.title, rules, Dossier.model_validate(draft.dossier).answers)
