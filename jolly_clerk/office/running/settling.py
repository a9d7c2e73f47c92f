"""The settings that are safe to change from the browser: what stands in the letterhead, the account, how long a letter can be taken back."""

from __future__ import annotations

import os
from dataclasses import dataclass
from typing import Final

from pydantic import ValidationError
from sqlalchemy import select

from jolly_clerk.core.roles import ROLES
from jolly_clerk.core.say import _, say
from jolly_clerk.core.till.statement import is_iban
from jolly_clerk.office.errors import Invalid, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.mailing import deliver_soon, put_out_mail
from jolly_clerk.office.running.changes import need_lead, note_change
from jolly_clerk.office.settings import FILE, Settings, read_settings, set_in_file
from jolly_clerk.store.database import write_session
from jolly_clerk.store.tables import Person


@dataclass(frozen=True, slots=True)
class SettingTold:
    """A setting: what it is called, what it is for, how it stands. ``fixed`` tells that the server's environment says it; ``choices`` are
    those that it has."""

    name: str
    title: str
    about: str
    value: str
    fixed: bool
    choices: tuple[str, ...]


#: each setting that can be changed here, with its title and what it is for
CHANGEABLE: Final = {
    "name": (_("Name of the office"), _("It stands at the head of every letter and page.")),
    "address": (_("Address"), _("It stands in the letterhead.")),
    "telephone": (_("Telephone"), _("It stands in the letterhead.")),
    "account": (_("Bank account (IBAN)"), _("Applicants are told to pay to it. Every lead gets a mail when it changes.")),
    "mail_from": (_("Mail address of the office"), _("Mails come from it.")),
    "letter_waits": (_("Seconds that a letter waits"), _("So long it can be taken back before it leaves; 0 to 3600.")),
    "step_waits": (_("Seconds that other steps wait"), _("An acceptance, a hand-over or an ending; 0 to 3600.")),
    "language": (_("Language of the office"), _("Of the program's own words; each edition brings its own.")),
}
#: settings that have choices, and those that need something in them
CHOICES: Final = {"language": ("en", "pt")}
NEEDED: Final = ("name", "address", "mail_from")
MOST_LETTERS: Final = 200


def settings_told(office: Office) -> tuple[SettingTold, ...]:
    """The settings that can be changed here, as they stand."""
    return tuple(
        SettingTold(name, say(title), say(about), str(getattr(office.settings, name)), _fixed(name), CHOICES.get(name, ()))
        for name, (title, about) in CHANGEABLE.items()
    )


def change_setting(office: Office, who: Who, name: str, value: str) -> None:
    """Change a setting; it counts at once, in the other serving processes within some seconds.

    Raises NotAllowed for everybody but a lead, NotReady if the environment says it, Invalid for a value that cannot be.
    """
    need_lead(who)
    if name not in CHANGEABLE:
        raise Invalid(say("This setting is changed on the server, in {file}.", file=FILE))
    title, value = say(CHANGEABLE[name][0]), " ".join(value.split())
    if _fixed(name):
        raise NotReady(say("The environment of the server says it; it is changed there."))
    if wrong := _wrong(name, value):
        raise Invalid(wrong, name)
    was = str(getattr(office.settings, name))
    if value == was:
        return
    said = say("{title}: “{was}” became “{value}”", title=title, was=was, value=value)
    with write_session(office.engine) as session:
        note_change(office, session, who.id, "setting", name, said)
        if name == "account":
            leads = [role for role, info in ROLES.items() if info.minds_people]
            told = say(
                "{who} changed the bank account of the office. {said}. If that is wrong, tell your colleagues.",
                who=who.name,
                said=said,
            )
            wanted = select(Person).where(Person.role.in_(leads), Person.left_at.is_(None), Person.mail != "")
            for n, lead in enumerate(session.scalars(wanted.order_by(Person.id))):
                key = f"account-{office.now():%Y%m%d%H%M%S}-{n}"
                put_out_mail(session, key, lead.mail, say("The bank account of the office was changed"), told, office.now())
        set_in_file(office.folder, name, value)
    office.settings = read_settings(office.folder)
    deliver_soon(office)


def _fixed(name: str) -> bool:
    return f"JOLLY_CLERK_{name.upper()}" in os.environ


def _wrong(name: str, value: str) -> str:
    """Why a setting cannot be so; nothing if it can."""
    if name in NEEDED and not value:
        return say("It cannot be empty.")
    if len(value) > MOST_LETTERS:
        return say("It is longer than {most} characters.", most=MOST_LETTERS)
    if name == "account" and value and not is_iban(value):
        return say("This is no IBAN: its check digits do not fit.")
    if name == "mail_from" and ("@" not in value or " " in value):
        return say("This is no mail address.")
    try:
        Settings.model_validate({name: value})
    except ValidationError as error:
        return say("That is not possible here: {why}", why=error.errors()[0]["msg"])
    return ""
