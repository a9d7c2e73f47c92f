"""Archives and mails taken apart: what is in them, with bounds on entries, depth and size. Nothing is written by the names inside."""

from __future__ import annotations

import email
import email.policy
import io
import zipfile
from dataclasses import dataclass
from email.message import EmailMessage, MIMEPart

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import TooLarge

#: so many files in all, so deep (an archive in a mail in an archive), so many bytes unpacked, and so many times what was sent
MOST_ENTRIES, MOST_DEPTH, MOST_BYTES, MOST_TIMES = 200, 3, 400_000_000, 200


@dataclass(frozen=True, slots=True)
class Unpacked:
    """One file with the names of what it came in, and what a mail said of itself."""

    name: str
    content: bytes
    within: str = ""
    told: str = ""


def is_pack(name: str, head: bytes) -> bool:
    """True for a ZIP archive that is no office file, and for a mail."""
    lower = name.lower()
    if head.startswith(b"PK\x03\x04"):
        return not lower.endswith((".docx", ".xlsx", ".pptx", ".odt", ".ods", ".odp", ".jar", ".epub"))
    return lower.endswith(".eml")


def unpack(name: str, content: bytes) -> list[Unpacked]:
    """The files in an archive or a mail, those in archives and mails inside it as well; the file itself if it cannot be taken apart.

    Raises TooLarge if there are more, or more of them, than can be taken.
    """
    found: list[Unpacked] = []
    _take_apart(Unpacked(name, content), found, 0, [MOST_BYTES, max(10_000_000, MOST_TIMES * len(content))])
    return found


def _take_apart(one: Unpacked, found: list[Unpacked], depth: int, left: list[int]) -> None:
    inner: list[Unpacked] | None = None
    if depth < MOST_DEPTH and is_pack(one.name, one.content[:4]):
        inner = _of_mail(one) if one.name.lower().endswith(".eml") else _of_zip(one, left)
    if inner is None:
        if len(found) >= MOST_ENTRIES:
            raise TooLarge(
                say("There are more than {most} files in “{name}”. Send it in parts.", most=MOST_ENTRIES, name=one.name)
            )
        found.append(one)
        return
    for other in inner:
        _take_apart(other, found, depth + 1, left)


def _of_zip(one: Unpacked, left: list[int]) -> list[Unpacked] | None:
    try:
        with zipfile.ZipFile(io.BytesIO(one.content)) as archive:
            entries = [e for e in archive.infolist() if not e.is_dir() and not _noise(e.filename)]
            if len(entries) > MOST_ENTRIES:
                raise TooLarge(
                    say("There are more than {most} files in “{name}”. Send it in parts.", most=MOST_ENTRIES, name=one.name)
                )
            within = f"{one.within} › {one.name}" if one.within else one.name
            made = []
            for entry in entries:
                if entry.flag_bits & 1:
                    return None  # locked: it stays as it is, and is told
                least = min(left)
                with archive.open(entry) as part:
                    content = part.read(least + 1)
                if len(content) > least:
                    raise TooLarge(say("“{name}” unpacks to more than can be taken. Send it in parts.", name=one.name))
                left[:] = [n - len(content) for n in left]
                made.append(Unpacked(entry.filename, content, within[:200], one.told))
            return made
    except (zipfile.BadZipFile, EOFError, OSError, NotImplementedError, RuntimeError, ValueError):
        return None


def _noise(name: str) -> bool:
    last = name.rsplit("/", 1)[-1]
    return name.startswith("__MACOSX/") or last in (".DS_Store", "Thumbs.db", "desktop.ini") or last.startswith("._")


def _of_mail(one: Unpacked) -> list[Unpacked] | None:
    mail = email.message_from_bytes(one.content, policy=email.policy.default)
    if not isinstance(mail, EmailMessage) or not (mail.get("From") or mail.get("Subject")):
        return None
    told = say(
        "mail of {who}, {when}: {what}", who=_header(mail, "From"), when=_header(mail, "Date"), what=_header(mail, "Subject")
    )
    within = f"{one.within} › {one.name}" if one.within else one.name
    made = []
    body = mail.get_body(("plain",))
    text = _content(body) if body else b""
    if text.strip():
        made.append(Unpacked(f"{one.name.rpartition('.')[0]}.txt", text, within[:200], told[:300]))
    for part in mail.iter_attachments():
        name = part.get_filename() or (
            say("mail.eml") if part.get_content_type() == "message/rfc822" else say("file without a name")
        )
        made.append(Unpacked(name, _content(part), within[:200], told[:300]))
        if len(made) > MOST_ENTRIES:
            raise TooLarge(
                say("There are more than {most} files in “{name}”. Send it in parts.", most=MOST_ENTRIES, name=one.name)
            )
    return made or None


def _header(mail: EmailMessage, name: str) -> str:
    return " ".join(str(mail.get(name, "")).split())[:80]


def _content(part: MIMEPart) -> bytes:
    if part.get_content_type() == "message/rfc822":
        inner = part.get_payload(0)
        return inner.as_bytes() if isinstance(inner, EmailMessage) else b""
    try:
        content = part.get_payload(decode=True)
    except (ValueError, LookupError):
        return b""
    return content if isinstance(content, bytes) else b""
