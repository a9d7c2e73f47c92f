"""Drafts: started, kept as one types, files attached and read at once, signed, thrown away."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.assess import Assessment, assess
from jolly_clerk.core.dossier.lanes import take_lane
from jolly_clerk.core.dossier.model import Answers, Attachment, Declared, Dossier, Signing
from jolly_clerk.core.history import NO_HISTORY, History
from jolly_clerk.core.known import Known
from jolly_clerk.core.lifecycle import fold
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, Stale, TooLarge
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.profiles import begin_with, profile
from jolly_clerk.office.registers import prepared
from jolly_clerk.office.rulebooks import edition_on, known_for, office_calendar, rulebook
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import reading, writing
from jolly_clerk.store.tables import Case, Draft, StoredFile, StoredReading

MOST_FILES = 200
MOST_ANSWERS = 1_000_000


@dataclass(slots=True)
class OpenDraft:
    """A draft with what the core says about it; ``case`` is the case it answers, if any."""

    draft: Draft
    dossier: Dossier
    words: dict[int, str]
    rulebook: Rulebook
    edition_sha256: str
    history: History
    known: Known
    assessment: Assessment
    case: Case | None


def start_draft(office: Office, who: Who, kind: str, answers: Answers | None = None) -> str:
    """Begin a filing of a kind, with what the profile knows and perhaps the answers of the way in; returns the draft's id.

    Raises NotFound for an unknown kind.
    """
    if who.role != "applicant":
        raise NotAllowed("Filings are begun by applicants.")
    rules = rulebook(office, edition_on(office, kind, office_calendar(office).local_day(office.now())))
    begun, filled = begin_with(rules, profile(office, who), answers or {}, office.now())
    draft_id = new_id()
    with writing(office.engine) as session:
        session.add(_new(office, who, draft_id, kind, Dossier(answers=begun, prefilled=filled), None))
    return draft_id


def _new(office: Office, who: Who, draft_id: str, kind: str, dossier: Dossier, case_id: str | None, lane: str = "") -> Draft:
    return Draft(
        id=draft_id,
        owner_id=who.id,
        kind=kind,
        case_id=case_id,
        lane=lane,
        own_reference="",
        dossier=dossier.model_dump(mode="json"),
        words={},
        kept_at=office.now(),
    )


def start_answering(office: Office, who: Who, case: Case, dossier: Dossier, lane: str = "") -> str:
    """The draft in which a letter of a lane is answered, begun from the latest version if it is not there yet."""
    with writing(office.engine) as session:
        there = session.scalars(
            select(Draft.id).where(Draft.case_id == case.id, Draft.owner_id == who.id, Draft.lane == lane)
        ).first()
        if there:
            return there
        draft_id = new_id()
        session.add(_new(office, who, draft_id, case.kind, dossier, case.id, lane))
    return draft_id


def _own(session: Session, who: Who, draft_id: str) -> Draft:
    draft = session.get(Draft, draft_id)
    if draft is None or draft.owner_id != who.id:
        raise NotFound("There is no such draft of yours.")
    return draft


def open_draft(office: Office, who: Who, draft_id: str) -> OpenDraft:
    """A draft of one's own, assessed now."""
    with reading(office.engine) as session:
        draft = _own(session, who, draft_id)
        case = session.get(Case, draft.case_id) if draft.case_id else None
        history = load_history(session, case.id) if case else NO_HISTORY
    return opened(office, draft, case, history)


def opened(office: Office, draft: Draft, case: Case | None, history: History) -> OpenDraft:
    """Ask the core about a draft."""
    now = office.now()
    taken_back = bool(history.entries) and fold(history.entries).filed is None
    sha256 = (
        case.edition_sha256 if case and not taken_back else edition_on(office, draft.kind, office_calendar(office).local_day(now))
    )
    rules = rulebook(office, sha256)
    dossier = Dossier.model_validate(draft.dossier)
    if case and not taken_back:
        dossier = take_lane(rules, history.versions[-1].dossier, dossier, draft.lane)
    words = {int(no): text for no, text in draft.words.items()}
    hashes = {a.sha256 for d in (dossier, *(v.dossier for v in history.versions)) for a in d.attachments}
    known = known_for(office, sha256, hashes)
    known = replace(known, registers=prepared(office, rules, dossier, draft.owner_id))
    found = assess(rules, dossier, history, known, now, words, draft.lane)
    return OpenDraft(draft, dossier, words, rules, sha256, history, known, found, case)


def drafts_of(office: Office, who: Who) -> list[OpenDraft]:
    """All filings that a person is preparing, newest first."""
    with reading(office.engine) as session:
        own = select(Draft, Case).outerjoin(Case, Case.id == Draft.case_id).where(Draft.owner_id == who.id)
        own = own.where(Draft.case_id.is_(None) | (Case.state == "Draft")).order_by(Draft.kept_at.desc())
        rows = [(draft, case, load_history(session, case.id) if case else NO_HISTORY) for draft, case in session.execute(own)]
    return [opened(office, draft, case, history) for draft, case, history in rows]


def change_draft(office: Office, who: Who, draft_id: str, counter: int | None, **changes: Any) -> OpenDraft:
    """Put new values into a draft. ``counter`` is the one before the person's eyes; None does not ask."""
    with writing(office.engine) as session:
        draft = _own(session, who, draft_id)
        if counter is not None and draft.counter != counter:
            raise Stale("This draft was changed in another window. What you typed is still here; load the other state first.")
        dossier = Dossier.model_validate(draft.dossier)
        for key in ("words", "own_reference"):
            if key in changes:
                setattr(draft, key, changes.pop(key))
        draft.dossier = dossier.model_copy(update=changes).model_dump(mode="json")
        draft.counter += 1
        draft.kept_at = office.now()
    return open_draft(office, who, draft_id)


def keep(
    office: Office,
    who: Who,
    draft_id: str,
    counter: int | None,
    answers: Answers | None = None,
    note: str | None = None,
    own_reference: str | None = None,
    words: dict[int, str] | None = None,
) -> OpenDraft:
    """Keep what was typed; None leaves a thing as it is. Faulty answers are kept too, with their complaint beside them."""
    changes: dict[str, Any] = {}
    if answers is not None:
        if len(str(answers)) > MOST_ANSWERS:
            raise TooLarge("These answers are longer than a filing can be.")
        changes["answers"] = answers
    if note is not None:
        changes["note"] = note[:4000]
    if own_reference is not None:
        changes["own_reference"] = own_reference.strip()[:80]
    if words is not None:
        changes["words"] = {str(no): text[:4000] for no, text in words.items()}
    return change_draft(office, who, draft_id, counter, **changes)


def throw_away(office: Office, who: Who, draft_id: str) -> None:
    """Throw a draft away; its files stay in the vault until the office tidies up."""
    with writing(office.engine) as session:
        session.delete(_own(session, who, draft_id))


def clean_name(name: str) -> str:
    """A file name without path parts and without what cannot be shown; at most 200 characters."""
    last = re.split(r"[/\\]", unicodedata.normalize("NFC", name))[-1]
    shown = "".join(c for c in last if unicodedata.category(c)[0] != "C").strip(" .")
    stem, dot, ending = shown.rpartition(".")
    if len(shown) > 200:
        shown = f"{stem[: 199 - len(ending)]}{dot}{ending[:20]}"
    return shown or "file without a name"


def too_large(office: Office, name: str, size: int) -> None:
    """Raise TooLarge if a file has more than can be sent at once; ``size`` in bytes."""
    most = office.settings.most_upload_mb
    if size > most * 1_000_000:
        raise TooLarge(f"“{name}” has {size / 1e6:.0f} MB; at most {most} MB can be sent at once.")


def attach(office: Office, who: Who, draft_id: str, slot: str, name: str, content: bytes) -> OpenDraft:
    """Attach a file to a slot: kept first, then read, then named in the draft."""
    too_large(office, clean_name(name), len(content))
    open_now = open_draft(office, who, draft_id)
    compiled = open_now.rulebook.slot_at(slot)
    if compiled is None or open_now.assessment.requirement(f"documents.{slot}") is None:
        raise Invalid("There is no such slot for documents.", f"documents.{slot[:40]}")
    if compiled.slot.delivered_by:
        raise Invalid(
            f"{compiled.slot.delivered_by} sends this straight to the office; it cannot be attached here.", f"documents.{slot}"
        )
    if len(open_now.dossier.attachments) >= MOST_FILES:
        raise TooLarge(f"There are {MOST_FILES} files here already; no more can be taken.")
    sha256 = keep_file(office, content)
    with writing(office.engine) as session:
        draft = _own(session, who, draft_id)
        dossier = Dossier.model_validate(draft.dossier)
        if any(a.sha256 == sha256 and a.slot == slot for a in dossier.attachments):
            raise Invalid(f"“{clean_name(name)}” is in this slot already, with the same content.", f"documents.{slot}")
        older = next((a for a in dossier.attachments if a.slot == slot and a.name == clean_name(name)), None)
        used = [int(a.id[1:]) for v in open_now.history.versions for a in v.dossier.attachments]
        used += [int(a.id[1:]) for a in dossier.attachments]
        new = Attachment(id=f"a{max(used, default=0) + 1}", slot=slot, name=clean_name(name), sha256=sha256, size=len(content))
        if older:  # a newer file of the same name takes the place of the older one
            new = new.model_copy(update={"version": older.version + 1})
        kept = tuple(new if a is older else a for a in dossier.attachments)
        attachments = kept if older else (*kept, new)
        draft.dossier = dossier.model_copy(update={"attachments": attachments}).model_dump(mode="json")
        draft.counter += 1
        draft.kept_at = office.now()
    return open_draft(office, who, draft_id)


def keep_file(office: Office, content: bytes) -> str:
    """Put content into the vault, read it in a fenced reader, and note both; returns its SHA-256."""
    sha256 = office.vault.put(content)
    with reading(office.engine) as session:
        known = session.scalars(select(StoredReading).where(StoredReading.sha256 == sha256)).first()
    found = None if known else office.readers.read(office.vault.path(sha256))
    with writing(office.engine) as session:
        session.merge(StoredFile(sha256=sha256, size=len(content), kept_at=office.now()))
        if found:
            row = StoredReading(sha256=sha256, reader=found.reader, reading=found.model_dump_json(), read_at=office.now())
            session.merge(row)
    return sha256


def detach(office: Office, who: Who, draft_id: str, attachment: str) -> OpenDraft:
    """Take a file out of a draft."""
    dossier = open_draft(office, who, draft_id).dossier
    left = tuple(a for a in dossier.attachments if a.id != attachment)
    if len(left) == len(dossier.attachments):
        raise NotFound("This file is not in the draft.")
    return change_draft(office, who, draft_id, None, attachments=left)


def sign(office: Office, who: Who, draft_id: str, name: str) -> OpenDraft:
    """Sign the declaration with a typed name; the exact text signed is kept with the time."""
    if len(name.strip()) < 2 or len(name) > 120:
        raise Invalid("Sign with your full name, as you would write it.", "signature")
    text = open_draft(office, who, draft_id).rulebook.edition.signature.text
    signing = Signing(name=name.strip(), at=office.now().replace(microsecond=0), text=text)
    return change_draft(office, who, draft_id, None, signature=signing)


def unsign(office: Office, who: Who, draft_id: str) -> OpenDraft:
    """Take the signature back while it is a draft."""
    return change_draft(office, who, draft_id, None, signature=None)


def declare(office: Office, who: Who, draft_id: str, declaration: str, ticked: bool) -> OpenDraft:
    """Tick a declaration, or take the tick back; its exact text is kept with the time."""
    now = open_draft(office, who, draft_id)
    said = next((d.declaration for d in now.rulebook.declarations if d.declaration.declare == declaration), None)
    if said is None:
        raise NotFound("There is no such declaration here.")
    kept = tuple(d for d in now.dossier.declared if d.id != declaration)
    fresh = (Declared(id=declaration, at=office.now().replace(microsecond=0), text=said.text),) if ticked else ()
    return change_draft(office, who, draft_id, None, declared=(*kept, *fresh))


def drop_change(office: Office, who: Who, draft_id: str, place: str) -> OpenDraft:
    """In an answer: put one place back to what was filed."""
    now = open_draft(office, who, draft_id)
    if now.case is None:
        raise Invalid("Nothing was filed yet that could be put back.")
    filed = now.history.versions[-1].dossier
    head, _, rest = place.partition(".")
    if head == "documents":
        kept = [a for a in now.dossier.attachments if a.slot != rest]
        return change_draft(office, who, draft_id, None, attachments=(*kept, *(a for a in filed.attachments if a.slot == rest)))
    if head == "declarations":
        kept_ticks = [d for d in now.dossier.declared if d.id != rest]
        put_back = [d for d in filed.declared if d.id == rest]
        return change_draft(office, who, draft_id, None, declared=(*kept_ticks, *put_back))
    if place == "signature":
        return change_draft(office, who, draft_id, None, signature=filed.signature)
    answers = {part: dict(given) if isinstance(given, dict) else given for part, given in now.dossier.answers.items()}
    before = filed.answers.get(head)
    if isinstance(before, list) or isinstance(answers.get(head), list):
        answers[head] = before
    elif isinstance(before, dict) and rest in before:
        answers.setdefault(head, {})[rest] = before[rest]
    else:
        answers.get(head, {}).pop(rest, None)
    return change_draft(office, who, draft_id, None, answers=answers)
