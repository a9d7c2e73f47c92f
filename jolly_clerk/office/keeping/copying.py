"""A copy of all that is held about somebody, as JSON and files in a ZIP: what the law lets a person ask for."""

from __future__ import annotations

import json
import zipfile
from collections.abc import Iterator
from typing import IO, Any

from pydantic_core import to_jsonable_python
from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.values import Json
from jolly_clerk.office.office import Office
from jolly_clerk.office.people.directory import who_of
from jolly_clerk.office.post.mailing import NUMBER
from jolly_clerk.office.preparing.attaching import clean_name
from jolly_clerk.office.views.case import look_at
from jolly_clerk.store.beside import FileUse, FirmMember, Invitation, IssuerAsked, Look, MandateGiven
from jolly_clerk.store.database import read_session
from jolly_clerk.store.permits import HeldPermit
from jolly_clerk.store.tables import Case, Draft, FiledVersion, Outgoing, Person, SignIn


def copy_of(office: Office, person_id: str, to: IO[bytes]) -> int:
    """Write a ZIP of everything that is held about an applicant; returns how many files of theirs are in it.

    ``person.json`` is the account, ``drafts.json`` what is being prepared, ``cases/REFERENCE/case.json`` each case as the person sees
    it with the filed versions, beside it its files; ``mails.json`` what was mailed, ``invitations.json`` who was invited and what they did,
    ``firms.json`` who belongs to which firm, ``permits.json`` the permits of others that were accepted, ``looks.json`` who looked at it.
    """
    files: dict[str, str] = {}
    with zipfile.ZipFile(to, "w", zipfile.ZIP_DEFLATED) as made:

        def put(name: str, value: Json) -> None:
            made.writestr(name, json.dumps(value, ensure_ascii=False, indent=1, default=str))

        with read_session(office.engine) as session:
            person = session.get_one(Person, person_id)
            put("person.json", _account(session, person))
            drafts = list(session.scalars(select(Draft).where(Draft.owner_id == person_id)))
            put("drafts.json", [{name: getattr(d, name) for name in _OF_DRAFTS} for d in drafts])
            for draft in drafts:
                files |= {
                    f"drafts/{draft.id}/{a.id} {clean_name(a.name)}": a.sha256
                    for a in Dossier.model_validate(draft.dossier).papers
                    if not a.sealed
                }
            reached_at = [to for to in (person.mail, person.mobile and f"{NUMBER}{person.mobile}") if to]
            mails = select(Outgoing).where(Outgoing.to.in_(reached_at)).order_by(Outgoing.put_at, Outgoing.key)
            put("mails.json", [{"at": m.put_at, "subject": m.subject, "text": m.text} for m in session.scalars(mails)])
            own = (Invitation.by_id == person_id) | ((Invitation.mail == person.mail) & (Invitation.mail != ""))
            invited = session.scalars(select(Invitation).where(own).order_by(Invitation.made_at))
            put("invitations.json", [{name: getattr(i, name) for name in _OF_INVITATIONS} for i in invited])
            asked = session.scalars(select(IssuerAsked).where(IssuerAsked.by_id == person_id).order_by(IssuerAsked.made_at))
            put("issuers.json", [{name: getattr(i, name) for name in _OF_ISSUERS} for i in asked])
            acts = (MandateGiven.owner_id == person_id) | ((MandateGiven.mail == person.mail) & (MandateGiven.mail != ""))
            mandates = session.scalars(select(MandateGiven).where(acts).order_by(MandateGiven.made_at))
            put("mandates.json", [{name: getattr(m, name) for name in _OF_MANDATES} for m in mandates])
            of_firms = (FirmMember.firm_id == person_id) | ((FirmMember.mail == person.mail) & (FirmMember.mail != ""))
            firms = session.scalars(select(FirmMember).where(of_firms).order_by(FirmMember.made_at))
            put("firms.json", [{name: getattr(f, name) for name in _OF_FIRMS} for f in firms])
            held = select(Case.reference).join(HeldPermit, HeldPermit.case_id == Case.id).where(HeldPermit.holder_id == person_id)
            put("permits.json", list(session.scalars(held.order_by(Case.reference))))
            cases = list(session.scalars(select(Case).where(Case.applicant_id == person_id, Case.erased_at.is_(None))))
            references = [case.reference for case in cases]
            looks = session.scalars(select(Look).where(Look.reference.in_(references)))
            put("looks.json", [{"at": n.at, "by": n.person_id, "what": n.what, "reference": n.reference} for n in looks])
            for case in cases:
                versions = select(FiledVersion).where(FiledVersion.case_id == case.id).order_by(FiledVersion.no)
                filed = [{"no": v.no, "at": v.at, "dossier": json.loads(v.dossier)} for v in session.scalars(versions)]
                files |= dict(_files_of(session, case, filed))
                put(f"cases/{case.reference}/versions.json", filed)
        for case in cases:
            put(f"cases/{case.reference}/case.json", to_jsonable_python(look_at(office, who_of(person), case.reference)))
        for name, sha256 in files.items():
            made.write(office.vault.path(sha256), name)
    return len(files)


_OF_DRAFTS = ("id", "kind", "own_reference", "folder", "offered_to", "dossier", "kept_at")
_OF_ISSUERS = ("slot", "mail", "name", "words", "wanted_by", "made_at", "came_at", "came_name", "came_firm", "ended_at")
_OF_MANDATES = ("mail", "name", "rights", "kinds", "cases", "first_day", "last_day", "made_at", "accepted_at", "ended_at")
_OF_FIRMS = ("firm_id", "mail", "name", "keeper", "made_at", "accepted_at", "ended_at")
_OF_INVITATIONS = ("mail", "name", "rights", "parts", "made_at", "ended_at", "used")


def _account(session: Session, person: Person) -> dict[str, Any]:
    sessions = session.scalars(select(SignIn.until).where(SignIn.person_id == person.id))
    return {
        "name": person.name,
        "mail": person.mail,
        "confirmed": person.confirmed,
        "address": person.address,
        "telephone": person.telephone,
        "number for text messages": person.mobile,
        "code by text": person.code_by_text,
        "news": person.news,
        "born": person.born,
        "firm": person.firm,
        "language": person.language,
        "letters": person.letters,
        "made_at": person.made_at,
        "sessions_until": list(sessions),
    }


def _files_of(session: Session, case: Case, filed: list[dict[str, Any]]) -> Iterator[tuple[str, str]]:
    named = {a["sha256"]: a for version in filed for a in version["dossier"]["attachments"]}
    sealed = {sha256 for sha256, a in named.items() if Attachment.model_validate(a).sealed}
    for sha256 in session.scalars(select(FileUse.sha256).where(FileUse.case_id == case.id)):
        if sha256 in sealed:
            continue
        a = named.get(sha256)
        name = f"{a['id']} {clean_name(a['name'])}" if a else f"{sha256[:12]}.pdf"
        yield f"cases/{case.reference}/{name}", sha256
