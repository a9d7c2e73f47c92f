"""Registers of other bodies: searched and taken over while a filing is prepared, asked by the officer as evidence."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jolly_clerk.core.dossier.differences import raw_answers
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.history import RegisterAsked
from jolly_clerk.core.ports import NoAnswer, as_key
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.model import Register
from jolly_clerk.core.say import _, say
from jolly_clerk.office.cases.own_cases import own_case, own_cases
from jolly_clerk.office.errors import NotFound, TooOften
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.slowing import try_once
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import RegisterAnswer

SILENT = _("it does not answer just now")


@dataclass(frozen=True, slots=True)
class Found:
    """What a search in a register gave: rows with their outer columns, or why there is no answer."""

    title: str
    columns: dict[str, str]
    rows: tuple[dict[str, str], ...]
    trouble: str


def register_of(rulebook: Rulebook, name: str) -> Register:
    """A register that an edition names. Raises NotFound."""
    found = rulebook.edition.registers.get(name)
    if found is None:
        raise NotFound(say("There is no such register."))
    return found


def outer(register: Register, row: dict[str, str]) -> dict[str, str]:
    """A row without the columns that are the office's alone."""
    return {column: row.get(column, "") for column in register.columns if column not in register.inner}


#: a search of a register names at least so many letters, so that nobody lists it whole
LEAST_LETTERS = 3


def search(office: Office, rulebook: Rulebook, name: str, words: str, applicant_id: str) -> Found:
    """Look for words in the outer columns of a register; in one of the office's own cases, among those of the applicant."""
    register = register_of(rulebook, name)
    shown = {c: title for c, title in register.columns.items() if c not in register.inner}
    if register.cases_of:
        asked = as_key(words).split()
        own = [
            row for row in own_cases(office, register, applicant_id) if all(w in as_key(" ".join(row.values())) for w in asked)
        ]
        return Found(register.title, shown, tuple(outer(register, row) for row in own[:8]), "")
    if len("".join(as_key(words).split())) < LEAST_LETTERS:
        return Found(
            register.title, shown, (), say("Type at least {least_letters} letters or digits of it.", least_letters=LEAST_LETTERS)
        )
    with write_session(office.engine) as session:
        try_once(office, session, "register", applicant_id)
    try:
        rows = office.registers.search(name, words, list(shown))
    except NoAnswer:
        return Found(
            register.title,
            shown,
            (),
            say("The {title} does not answer just now. Type it by hand; the officer is told.", title=register.title.lower()),
        )
    return Found(register.title, shown, tuple(outer(register, row) for row in rows), "")


def _entry(office: Office, name: str, register: Register, key: str, applicant_id: str) -> dict[str, str] | None:
    """One entry of a register. Raises NoAnswer."""
    if register.cases_of:
        return own_case(office, register, applicant_id, key)
    return office.registers.entry(name, register.key, key)


def keep_answer(office: Office, rulebook: Rulebook, name: str, key: str, applicant_id: str) -> dict[str, str] | None:
    """Ask a register for one entry and keep what it said; an own case is looked up anew each time. Raises NoAnswer."""
    register = register_of(rulebook, name)
    row = _entry(office, name, register, key, applicant_id)
    if register.cases_of:
        return row
    with write_session(office.engine) as session:
        session.merge(RegisterAnswer(register=name, key=_key(key), row=row, asked_at=office.now()))
    return row


def _key(key: str) -> str:
    return " ".join(key.casefold().split())[:120]


def prepared(office: Office, rulebook: Rulebook, dossier: Dossier, applicant_id: str) -> dict[str, RegisterAsked]:
    """What the registers said about the keys of a draft, without their inner part, for the applicant's own assessment."""
    found: dict[str, RegisterAsked] = {}
    flat = raw_answers(dossier) if rulebook.edition.registers else {}
    for name, register in rulebook.edition.registers.items():
        key = str(flat.get(register.asked_by) or "")
        if not key:
            continue
        if register.cases_of:
            row = own_case(office, register, applicant_id, key)
            found[name] = RegisterAsked(at=office.now(), who="register", role="office", name=name, key=key, row=row)
            continue
        with read_session(office.engine) as session:
            kept = session.get(RegisterAnswer, (name, _key(key)))
        if kept:
            row = outer(register, kept.row) if kept.row is not None else None
            found[name] = RegisterAsked(at=kept.asked_at, who="register", role="office", name=name, key=key, row=row)
    return found


def look_up_typed(office: Office, rulebook: Rulebook, dossier: Dossier, applicant_id: str) -> bool:
    """Ask the registers about keys that were typed rather than found, so that what they hold is told before filing.

    True if one answered that had not. A register that does not answer, or was asked too often, is asked again by the officer.
    """
    flat, answered = raw_answers(dossier) if rulebook.edition.registers else {}, False
    for name, register in rulebook.edition.registers.items():
        key = str(flat.get(register.asked_by) or "")
        if register.cases_of or len("".join(as_key(key).split())) < LEAST_LETTERS:
            continue
        with read_session(office.engine) as session:
            if session.get(RegisterAnswer, (name, _key(key))) is not None:
                continue
        try:
            with write_session(office.engine) as session:
                try_once(office, session, "register", applicant_id)
            keep_answer(office, rulebook, name, key, applicant_id)
            answered = True
        except (NoAnswer, TooOften):
            continue
    return answered


def ask_for_case(
    office: Office, who: Who, rulebook: Rulebook, dossier: Dossier, names: Sequence[str], applicant_id: str
) -> list[RegisterAsked]:
    """Ask registers about a case; each answer, or that there was none, becomes an entry."""
    flat, made = raw_answers(dossier), []
    for name in names:
        register = register_of(rulebook, name)
        key = str(flat.get(register.asked_by) or "").strip()
        if not key:
            continue
        row, trouble = None, ""
        try:
            row = _entry(office, name, register, key, applicant_id)
        except NoAnswer:
            trouble = say(SILENT)
        made.append(
            RegisterAsked(at=office.now(), who=who.signs, role=who.role, name=name, key=key[:200], row=row, trouble=trouble)
        )
    return made
