"""What is a mail address, and how two are compared: one rule for the answers of a form, for accounts and for whoever is invited."""

from __future__ import annotations

import re
from email.message import EmailMessage
from typing import Final

from jolly_clerk.core.say import _, say

#: what neither part may hold: what a header would take for something else, blanks, control characters
_NOT_IN_MAIL = r"@\s<>,;:\"'()\[\]\\\x00-\x1f\x7f-\x9f"
_MAIL = re.compile(rf"[^{_NOT_IN_MAIL}]{{1,64}}@[^{_NOT_IN_MAIL}]{{1,180}}")
#: an address of plain words between single dots, which every mail takes; most are
_PLAIN = re.compile(r"[a-z0-9_+-]+(?:\.[a-z0-9_+-]+)*@[a-z0-9-]+(?:\.[a-z0-9-]+)*")
#: so many characters fit
LONGEST: Final = 200
NO_ADDRESS: Final = _("This is no mail address. Write it like name@place.example.")


def as_mail_address(text: str) -> str:
    """An address as it is compared, in small letters. Raises ValueError, with what to write, for what is none."""
    mail = text.strip().lower()
    if not _MAIL.fullmatch(mail) or len(mail) > LONGEST or not (_PLAIN.fullmatch(mail) or _fits_a_header(mail)):
        raise ValueError(say(NO_ADDRESS))
    return mail


def _fits_a_header(mail: str) -> bool:
    """True if the standard library can put the address into a mail."""
    try:
        EmailMessage()["To"] = mail
    except Exception:  # its parser raises AttributeError, IndexError and others
        return False
    return True
