"""What an issuer does with a one-time link: sees what is wanted, and sends one file or a statement straight to the office."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import IO

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.delivering import CameLater, put_delivered
from jolly_clerk.core.dossier.changing import AlreadyThere
from jolly_clerk.core.dossier.model import Attachment, Dossier, FromIssuer, Version
from jolly_clerk.core.facts.file_findings import file_findings
from jolly_clerk.core.facts.findings import slot_findings
from jolly_clerk.core.history import NO_HISTORY, Entry
from jolly_clerk.core.in_words import day
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import _, say
from jolly_clerk.core.states import UNFILED
from jolly_clerk.letters.render import render
from jolly_clerk.office.cases.casework import act, load_case
from jolly_clerk.office.errors import Invalid, NotFound, Stale, TooLarge
from jolly_clerk.office.lifetimes import ONCE, before
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.accounts import name_of
from jolly_clerk.office.people.directory import hash_of, names_in, person
from jolly_clerk.office.post.letterhead import paper_words
from jolly_clerk.office.post.mailing import deliver_soon, tell
from jolly_clerk.office.preparing.access import rules_of
from jolly_clerk.office.preparing.attaching import MOST_FILES, already_there, clean_name, free_name, keep_files, too_large
from jolly_clerk.office.preparing.drafts import opened
from jolly_clerk.office.preparing.issuing import thing_of
from jolly_clerk.office.preparing.reading_queue import wait_until_read
from jolly_clerk.office.preparing.revisions import note_other_change
from jolly_clerk.office.rules.rulebooks import kind_titles, office_calendar, readings_of
from jolly_clerk.store.beside import IssuerAsked
from jolly_clerk.store.chain import load_history, seal
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Draft, Person

MOST_TRIES, MOST_STATEMENT = 4, 8000
_OVER = _("This link was used, is too old, or the document is wanted no more. Ask whoever sent it for a new one.")


@dataclass(frozen=True, slots=True)
class Wanted:
    """What an issuer is asked for: by whom, which document, what it has to say, in which form a file is taken, for which kind
    and title of filing, until when."""

    owner: str
    name: str
    document: str
    says: str
    accepts: str
    kind: str
    title: str
    words: str
    wanted_by: date
    office: str
    most_mb: int


@dataclass(frozen=True, slots=True)
class Delivered:
    """What has come: the file's name, size in bytes and SHA-256, at which instant; ``reference`` is the case, if it is filed already."""

    name: str
    size: int
    sha256: str
    at: datetime
    document: str
    owner: str
    reference: str


@dataclass(frozen=True, slots=True)
class Sent:
    """What an issuer sends: a file, or a statement in words; ``shown`` allows whoever applied to see it, ``anyway`` sends it
    though it is not quite what is asked."""

    name: str
    firm: str
    shown: bool = False
    file: str = ""
    content: bytes | IO[bytes] | None = None
    statement: str = ""
    anyway: bool = False


def may_deliver(office: Office, secret: str) -> bool:
    """True while a link works: then a file is taken by it."""
    with read_session(office.engine) as session:
        return _found(office, session, secret) is not None


def _found(office: Office, session: Session, secret: str) -> tuple[IssuerAsked, Draft | Case] | None:
    row = session.scalars(select(IssuerAsked).where(IssuerAsked.link_hash == hash_of(secret))).first()
    if row is None or row.came_at or row.ended_at or row.link_until is None or row.link_until < office.now():
        return None
    thing = thing_of(session, row)
    return (row, thing) if thing else None


def _need(office: Office, session: Session, secret: str) -> tuple[IssuerAsked, Draft | Case]:
    found = _found(office, session, secret)
    if found is None:
        raise NotFound(say(_OVER))
    return found


def wanted(office: Office, secret: str) -> Wanted:
    """What a link is for. Raises NotFound."""
    titles = kind_titles(office)
    with read_session(office.engine) as session:
        row, thing = _need(office, session, secret)
        rules = rules_of(office, session, thing)
        owner = names_in(session, {row.by_id}).get(row.by_id, "")
        compiled = rules.slot_at(row.slot)
        if compiled is None:  # the rules of today have no such document any more
            raise NotFound(say(_OVER))
        if isinstance(thing, Case):
            title = thing.title
        else:
            case = session.get(Case, thing.case_id) if thing.case_id else None
            history = load_history(session, case.id) if case else NO_HISTORY
            title = opened(office, session, thing, case, history).assessment.title
        return Wanted(
            owner=owner,
            name=row.name,
            document=rules.slot_title(f"documents.{row.slot}"),
            says=compiled.slot.says,
            accepts=compiled.slot.in_words(),
            kind=titles.get(thing.kind, thing.kind),
            title=title,
            words=row.words,
            wanted_by=row.wanted_by,
            office=office.name,
            most_mb=min(office.settings.most_upload_mb, compiled.slot.accepts.most_bytes // 1_000_000),
        )


def note_opened(office: Office, secret: str) -> None:
    """Note that a link was opened, at most once a minute: whoever sent it sees that. Raises NotFound."""
    with write_session(office.engine) as session:
        row, thing = _need(office, session, secret)
        if row.opened_at is None or row.opened_at < before(office.now(), ONCE):
            row.opened, row.opened_at = row.opened + 1, office.now()
            if isinstance(thing, Draft):
                note_other_change(office, session, thing, "")


def deliver(office: Office, secret: str, sent: Sent) -> Delivered:
    """Take what an issuer sends, once. Before filing it is bound to the draft; after it, it is a new version of the case.

    Raises:
        NotFound: the link works no more.
        Invalid: name or firm is missing, nothing is sent or it cannot be read; TooLarge.
    """
    name, firm = name_of(sent.name), " ".join(sent.firm.split())[:120]
    if not firm:
        raise Invalid(say("Say for which office or firm you send it."), "firm")
    with read_session(office.engine) as session:
        row, thing = _need(office, session, secret)
        rules = rules_of(office, session, thing)
    file, content = _file_of(office, rules, row, thing, sent, name, firm)
    owner = person(office, row.by_id)
    ((sha256, size),) = keep_files(office, owner, [content])
    _need_good(office, rules, row, Attachment(id="a0", slot=row.slot, name=file, sha256=sha256, size=size), sent.anyway)
    issuer = FromIssuer(name=name, firm=firm, at=office.now(), shown=sent.shown)
    for _attempt in range(MOST_TRIES):
        with read_session(office.engine) as session:
            row, thing = _need(office, session, secret)
            reference = thing.reference if isinstance(thing, Case) else ""
            draft = thing if isinstance(thing, Draft) else _draft_of(session, rules, thing, row.slot)
        try:
            if draft is not None:
                _into_draft(office, secret, draft.id, (file, sha256, size), issuer)
            else:
                _into_case(office, secret, reference, owner, (file, sha256, size), issuer)
        except Stale:  # it was filed, answered or judged at the same moment
            continue
        deliver_soon(office)
        document = rules.slot_title(f"documents.{row.slot}")
        return Delivered(file, size, sha256, issuer.at, document, owner.name, reference)
    raise Stale(say("Somebody else worked on this filing at the same moment. Send it once more."))


def _file_of(
    office: Office, rules: Rulebook, row: IssuerAsked, thing: Draft | Case, sent: Sent, name: str, firm: str
) -> tuple[str, bytes | IO[bytes]]:
    """The name and the content of what is sent; a statement becomes a PDF."""
    if sent.content is not None:
        file = clean_name(sent.file)
        if isinstance(sent.content, bytes):
            too_large(office, file, len(sent.content))
        return file, sent.content
    words = sent.statement.strip()
    if not words:
        raise Invalid(say("Choose a file, or write what you state."), "file")
    if len(words) > MOST_STATEMENT:
        raise TooLarge(say("A statement has at most {most} characters; send a file instead.", most=MOST_STATEMENT))
    title, sent_on = rules.slot_title(f"documents.{row.slot}"), day(office_calendar(office).local_day(office.now()))
    made = render(
        "statement",
        {
            **paper_words(),
            "reference": thing.reference if isinstance(thing, Case) else "",
            "subject": title, "title": rules.edition.title,
            "text": words, "from": say("Stated by {name}, {firm}", name=name, firm=firm),
            "to": say("Sent to {office} on {day} by a one-time link.", office=office.name, day=sent_on),
        },
    )  # fmt: skip
    return f"{title[:80]}.pdf", made


def _need_good(office: Office, rules: Rulebook, row: IssuerAsked, file: Attachment, anyway: bool) -> None:
    """Raise Invalid for a file that cannot be opened, and unless it is sent ``anyway`` for one that is not what is asked."""
    wait_until_read(office, [file.sha256])
    compiled = rules.slot_at(row.slot)
    reading = readings_of(office, {file.sha256}).get(file.sha256)
    if reading is not None and reading.opens in ("empty", "damaged"):
        raise Invalid(" ".join(f.text for f in file_findings(file, reading)), "file")
    found = slot_findings(compiled.slot, [file], {file.sha256: reading}) if compiled and reading else []
    if not anyway and (faults := [f.text for f in found if f.weight == "fault"]):
        raise Invalid(" ".join(faults), "anyway")


def _draft_of(session: Session, rules: Rulebook, case: Case, slot: str) -> Draft | None:
    """The draft of a case into which it goes: one of answers that are being prepared, or of a filing that was taken back."""
    lane = rules.lane_of(f"documents.{slot}") or ""
    wanted_draft = select(Draft).where(Draft.case_id == case.id, Draft.adds == "", Draft.thrown_away_at.is_(None))
    return session.scalars(
        wanted_draft.where(Draft.lane.in_(["", lane]) if case.state == UNFILED else Draft.lane == lane)
    ).first()


def _into_draft(office: Office, secret: str, draft_id: str, file: tuple[str, str, int], issuer: FromIssuer) -> None:
    """Put it into a draft and end the link, in one write. Stale if the draft is there no more."""
    name, sha256, size = file
    with write_session(office.engine) as session:
        row, _ = _need(office, session, secret)
        draft = session.get(Draft, draft_id)
        if draft is None:
            raise Stale(say("This was filed or sent meanwhile."))
        versions = load_history(session, draft.case_id).versions if draft.case_id else ()
        dossier = Dossier.model_validate(draft.dossier)
        draft.dossier = _with(dossier, versions, row.slot, name, sha256, size, issuer).model_dump(mode="json")
        draft.kept_at = office.now()
        note_other_change(office, session, draft, row.by_id)
        _note_come(office, session, row, issuer)


def _into_case(office: Office, secret: str, reference: str, owner: Who, file: tuple[str, str, int], issuer: FromIssuer) -> None:
    """Append it to a case as a new version and end the link, in one write. Stale if the case changed meanwhile."""
    name, sha256, size = file
    loaded = load_case(office, owner, reference)
    with read_session(office.engine) as session:
        slot = _need(office, session, secret)[0].slot
    number = loaded.history.versions[-1].no + 1
    dossier = _with(loaded.dossier, loaded.history.versions, slot, name, sha256, size, issuer)
    sealed = seal(Version(no=number, at=office.now(), dossier=dossier))
    place = f"documents.{slot}"
    came = CameLater(
        at=office.now(), who=f"{issuer.name}, {issuer.firm}", role="issuer", place=place, title=loaded.rulebook.slot_title(place),
        issuer=f"{issuer.name}, {issuer.firm}", version=number, dossier_hash=sealed.hash,
    )  # fmt: skip

    def finish(session: Session, case: Case, made: Sequence[Entry]) -> Sequence[Entry]:
        row, _ = _need(office, session, secret)
        _note_come(office, session, row, issuer)
        return made

    act(office, owner, reference, "", lambda _: [came], loaded.entries, sealed=sealed, finish=finish)


def _with(
    dossier: Dossier, versions: Sequence[Version], slot: str, name: str, sha256: str, size: int, issuer: FromIssuer
) -> Dossier:
    if len(dossier.attachments) >= MOST_FILES:
        raise TooLarge(say("There are {most_files} files here already; no more can be taken.", most_files=MOST_FILES))
    try:
        return put_delivered(dossier, versions, slot, free_name(dossier, slot, name, sha256), sha256, size, issuer)
    except AlreadyThere:
        raise already_there(name, "file") from None


def _note_come(office: Office, session: Session, row: IssuerAsked, issuer: FromIssuer) -> None:
    """End the link, and tell whoever asked, in the caller's write."""
    row.came_at, row.came_name, row.came_firm, row.shown, row.link_hash = issuer.at, issuer.name, issuer.firm, issuer.shown, ""
    owner = session.get_one(Person, row.by_id)
    if owner.mail:
        text = say("What you asked {name} for has come: it went straight to the office.", name=row.name)
        tell(session, owner, f"issuer-{new_id()}", say("A document has come"), text, office.now())
