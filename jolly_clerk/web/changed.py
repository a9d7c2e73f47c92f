"""The answer to a change: the new revision, and what differs from the state that the person had before the eyes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fastapi.responses import JSONResponse
from pydantic import BaseModel, TypeAdapter
from pydantic_core import to_json

from jolly_clerk.core.history import Answered, Filed, History
from jolly_clerk.core.roles import ROLES
from jolly_clerk.core.say import spoken_language
from jolly_clerk.office.cases.casework import Loaded, assessed
from jolly_clerk.office.keeping.looks import looked
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.drafts import OpenDraft, open_draft
from jolly_clerk.office.views.case import CaseView, case_view
from jolly_clerk.office.views.draft import DraftView, draft_view
from jolly_clerk.store.database import one_look
from jolly_clerk.web.difference import SAME, difference
from jolly_clerk.web.sent import LATELY, SentView, Written

_CASE: TypeAdapter[CaseView] = TypeAdapter(CaseView)
_DRAFT: TypeAdapter[DraftView] = TypeAdapter(DraftView)
#: what names the state of a view is no part of it
NAMED = {"digest"}


class _Changed(BaseModel):
    """``revision`` is the new one (also as ``ETag``). ``changes`` turn the view whose digest is ``base`` into the one whose digest is
    ``digest``; whoever has another one looks at the whole again. ``view`` is the whole, given where no base is known."""

    revision: int
    digest: str
    base: str = ""
    changes: dict[str, Any] | None = None


class CaseChanged(_Changed):
    """What a change of a case came to; ``meanwhile`` are the numbers of the entries that other people made since it was seen."""

    meanwhile: tuple[int, ...] = ()
    view: CaseView | None = None


class DraftChanged(_Changed):
    """What a change of a draft came to."""

    view: DraftView | None = None


def whole_case(office: Office, who: Who, loaded: Loaded, status: int = 200) -> JSONResponse:
    """A case as a person sees it, with its revision."""
    return _answer(_kept(office, who, loaded.case.id, _case(office, who, loaded)), status)


def whole_draft(office: Office, who: Who, draft: OpenDraft, status: int = 200) -> JSONResponse:
    """A draft as a person sees it, with its revision."""
    return _answer(_kept(office, who, draft.draft.id, _draft(draft)), status)


def case_changed(office: Office, who: Who, seen: int | None, done: Loaded, status: int = 200) -> JSONResponse:
    """What differs in a case from the revision that was seen; it shows the case, so it is a look as well."""
    looked(office, who, "case", done.case.reference)
    before = (
        None
        if seen is None
        else LATELY.find(office, _of(who, done.case.id, seen)) or _case(office, who, as_at(office, done, seen))
    )
    since = enumerate(done.history.entries[seen or 0 :], (seen or 0) + 1)
    others = [no for no, entry in since if seen is not None and entry.role in ROLES and entry.who != who.id]
    return _reply(before, _kept(office, who, done.case.id, _case(office, who, done)), status, {"meanwhile": others})


def draft_seen(office: Office, who: Who, draft: str, seen: int | None) -> SentView | None:
    """The state of a draft that a person has before the eyes; None if it is not at hand. Asked before a change is made.

    Raises NotFound if the person may not see the draft.
    """
    if seen is None:
        return None
    if kept := LATELY.find(office, _of(who, draft, seen)):
        return kept
    now = open_draft(office, who, draft)
    return _draft(now) if now.draft.revision == seen else None


def draft_changed(
    office: Office, who: Who, before: SentView | None, done: OpenDraft, status: int = 200, also: Mapping[str, Any] | None = None
) -> JSONResponse:
    """What differs in a draft from the state that was seen, None if that is not at hand; ``also`` is told beside it."""
    return _reply(before, _kept(office, who, done.draft.id, _draft(done)), status, also)


def as_at(office: Office, loaded: Loaded, revision: int) -> Loaded:
    """A case as it was at a revision, looked at now: the history is the truth."""
    entries = loaded.history.entries[:revision]
    versions = sum(isinstance(entry, (Filed, Answered)) for entry in entries)
    return assessed(office, loaded.case, History(entries=entries, versions=loaded.history.versions[:versions]), revision)


def _case(office: Office, who: Who, loaded: Loaded) -> SentView:
    with one_look(office.engine):
        return SentView(loaded.entries, _CASE.dump_json(case_view(office, who, loaded), exclude=NAMED))


def _draft(draft: OpenDraft) -> SentView:
    view = draft_view(draft)
    return SentView(view.revision, _DRAFT.dump_json(view, exclude=NAMED))


def _kept(office: Office, who: Who, what: str, sent: SentView) -> SentView:
    """What is sent of a case or a draft, kept so that the answer to the next change differs from it."""
    LATELY.keep(office, _of(who, what, sent.revision), sent)
    return sent


def _of(who: Who, what: str, revision: int) -> tuple[str, ...]:
    return (who.id, who.hand, spoken_language(), what, str(revision))


def _reply(before: SentView | None, after: SentView, status: int, also: Mapping[str, Any] | None = None) -> JSONResponse:
    told: dict[str, Any] = {"revision": after.revision, "digest": after.digest, "base": "", "changes": None, "view": None}
    told |= also or {}
    if before is None:
        return _tagged(to_json(told | {"view": after.read()}), after.revision, status)
    found = difference(before.read(), after.read())
    return _tagged(to_json(told | {"base": before.digest, "changes": {} if found is SAME else found}), after.revision, status)


def _answer(shown: SentView, status: int) -> JSONResponse:
    return _tagged(shown.content, shown.revision, status)


def _tagged(content: bytes, revision: int, status: int) -> JSONResponse:
    return Written(content, status, {"ETag": f'"{revision}"'})
