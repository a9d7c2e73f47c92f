"""What leaves the office: laid out in the writer's transaction, sent afterwards, at least once and harmless twice.

With a mail server set, what goes to a mail address goes there; everything else lies with the post room.
"""

from __future__ import annotations

import smtplib
import threading
from datetime import datetime
from email.message import EmailMessage
from email.utils import format_datetime

import structlog
from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.ports import Item
from jolly_clerk.core.say import say
from jolly_clerk.office.office import Office
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Outgoing, Person

log = structlog.get_logger()


def put_out(
    session: Session, case: Case, key: str, subject: str, pdf_sha256: str, at: datetime, text: str = "", to: str = ""
) -> None:
    """Lay something about a case out for its applicant (or ``to``), in the caller's transaction."""
    person = session.get_one(Person, case.applicant_id)
    session.merge(
        Outgoing(
            key=key,
            case_id=case.id,
            to=to or person.mail or person.name,
            subject=subject[:200],
            text=text,
            pdf_sha256=pdf_sha256,
            put_at=at,
            delivered_at=None,
        )
    )


def put_out_mail(session: Session, key: str, to: str, subject: str, text: str, at: datetime) -> None:
    """Lay a mail that belongs to no case out, in the caller's transaction."""
    session.merge(
        Outgoing(key=key, case_id=None, to=to, subject=subject[:200], text=text, pdf_sha256="", put_at=at, delivered_at=None)
    )


def message_of(office: Office, out: Outgoing, reference: str) -> EmailMessage:
    """The mail of an outgoing row. Its Message-ID is made from its key, so that a second copy is known as one."""
    mail = EmailMessage()
    one_line = " ".join(f"{out.subject} ({reference})".split()) if reference else " ".join(out.subject.split())
    mail["Subject"] = one_line
    mail["From"] = office.settings.mail_from
    if "@" in out.to:
        mail["To"] = " ".join(out.to.split())
    mail["Date"] = format_datetime(out.put_at)
    domain = office.settings.mail_from.rpartition("@")[2] or "localhost"
    mail["Message-ID"] = f"<{out.key}@{domain}>"
    link = say("\n\n{base_url}/cases/{reference}", base_url=office.settings.base_url, reference=reference) if reference else ""
    mail.set_content(
        (out.text or say("{subject}. The letter is attached.", subject=out.subject)) + link + f"\n\n{office.settings.name}\n"
    )
    if out.pdf_sha256:
        mail.add_attachment(office.vault.get(out.pdf_sha256), "application", "pdf", filename=f"{out.key}.pdf")
    return mail


def deliver_soon(office: Office) -> None:
    """Send what waits: to the post room at once, to a mail server beside the request, which does not wait for it.

    It never raises: what was done is done, and what waits is tried again by the clock job.
    """
    if office.settings.smtp_host:
        threading.Thread(target=_deliver_quietly, args=(office,), name="mail", daemon=True).start()
    else:
        _deliver_quietly(office)


def _deliver_quietly(office: Office) -> None:
    try:
        deliver_waiting(office)
    except Exception as error:
        log.error("mail not sent", error=type(error).__name__)


def deliver_waiting(office: Office) -> int:
    """Send everything that waits. What cannot be sent now stays, and is tried again. Returns how many went."""
    with office.sending:
        return _deliver(office)


def _deliver(office: Office) -> int:
    with read_session(office.engine) as session:
        wanted = select(Outgoing).where(Outgoing.delivered_at.is_(None), Outgoing.trouble == "").order_by(Outgoing.put_at)
        waiting = list(session.scalars(wanted))
        references = {o.key: session.get_one(Case, o.case_id).reference if o.case_id else "" for o in waiting}
    return sum(_deliver_one(office, out, references[out.key]) for out in waiting)


def _deliver_one(office: Office, out: Outgoing, reference: str) -> bool:
    """Send one item; True if it went. One that can never go is set aside with the reason, so that it holds up no other."""
    trouble = ""
    try:
        mail = message_of(office, out, reference)
        if office.settings.smtp_host and "@" in out.to:
            _send(office, mail)
        else:
            item = Item(out.key, reference, out.to, out.subject, out.put_at.isoformat())
            office.post_room.deliver(item, office.vault.get(out.pdf_sha256) if out.pdf_sha256 else None, mail.as_bytes())
    except FileNotFoundError:
        trouble = say("its letter is not in the vault")
    except (OSError, smtplib.SMTPException) as error:  # the server or the disk: tried again
        log.warning("mail not sent", key=out.key, error=type(error).__name__)
        return False
    except Exception as error:  # the header parser of the standard library raises many kinds for an odd address
        trouble = say("it cannot be put into a mail ({name})", name=type(error).__name__)
    if trouble:
        log.error("mail set aside", key=out.key, reason=trouble)
    with write_session(office.engine) as session:
        row = session.get_one(Outgoing, out.key)
        row.trouble, row.delivered_at = trouble, None if trouble else office.now()
    return not trouble


def _send(office: Office, mail: EmailMessage) -> None:
    s = office.settings
    with smtplib.SMTP(s.smtp_host, s.smtp_port, timeout=20) as server:
        if s.smtp_starttls:
            server.starttls()
        if s.smtp_user:
            server.login(s.smtp_user, s.smtp_password)
        server.send_message(mail)


def outbox(office: Office) -> list[tuple[Outgoing, str]]:
    """Everything that ever left or waits, newest last, each with the reference of its case."""
    with read_session(office.engine) as session:
        rows = list(session.scalars(select(Outgoing).order_by(Outgoing.put_at)))
        return [(row, session.get_one(Case, row.case_id).reference if row.case_id else "") for row in rows]
