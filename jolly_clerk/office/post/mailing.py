"""What leaves the office: laid out in the writer's transaction, sent afterwards, at least once and harmless twice.

With a mail server set, what goes to a mail address goes there; everything else lies with the post room.
"""

from __future__ import annotations

import smtplib
import time
from collections.abc import Callable, Collection
from contextlib import suppress
from datetime import datetime
from email.message import EmailMessage
from email.utils import format_datetime

import structlog
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from jolly_clerk.core.mandates import Mandate, in_force
from jolly_clerk.core.news import News, goes_by
from jolly_clerk.core.ports import Item
from jolly_clerk.core.say import say
from jolly_clerk.office.office import Office
from jolly_clerk.store.beside import FirmMember, MandateGiven
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Outgoing, Person

log = structlog.get_logger()


#: how letters reach somebody without an account
ON_PAPER = "print"


def put_out(
    session: Session,
    case: Case,
    key: str,
    subject: str,
    pdf_sha256: str,
    at: datetime,
    text: str = "",
    to: str = "",
    by_post: bool = False,
    news: News = "letters",
    holder: str = "",
) -> None:
    """Lay something about a case out for its applicant (or ``to``, or the ``holder`` of its permit), in the caller's transaction; ``by_post``
    it waits to be printed.

    What goes to the applicant goes by the way that they chose for this kind of ``news``, and by mail to those as well who have a mandate
    to receive it.
    """
    person = session.get_one(Person, holder or case.applicant_id)
    by_post = by_post and person.id == case.applicant_id  # the other holder did not choose it
    by_mail, by_text = goes_by(person.news, news, bool(person.mobile)) if not to else (True, False)
    by_post = by_post or (
        not to and not person.mail and person.letters == ON_PAPER
    )  # somebody without an account gets printed letters
    own = [to or person.mail or person.name] if to or not person.is_firm else _keepers(session, person)
    receivers = [(f"{key}-{n}" if n else key, one, by_post) for n, one in enumerate(own)] if by_mail or by_post else []
    if by_text:
        put_out_text(
            session,
            f"{key}-text",
            person.mobile,
            say("{subject} ({reference})", subject=subject, reference=case.reference),
            at,
            case.id,
        )
    if not to and person.id == case.applicant_id:
        receivers += [(f"{key}-to-{given.id}", given.mail, False) for given in _told_as_well(session, case, at)]
    for own_key, address, printed in receivers:
        session.merge(
            Outgoing(
                key=own_key,
                case_id=case.id,
                to=address,
                subject=subject[:200],
                text=text,
                pdf_sha256=pdf_sha256,
                put_at=at,
                delivered_at=None,
                by_post=printed,
            )
        )


def _keepers(session: Session, firm: Person) -> list[str]:
    """The addresses of those who mind a firm: what is sent to it goes to each of them."""
    there = select(FirmMember.mail).where(FirmMember.firm_id == firm.id, FirmMember.keeper, FirmMember.ended_at.is_(None))
    return list(session.scalars(there.where(FirmMember.accepted_at.is_not(None)).order_by(FirmMember.made_at))) or [firm.name]


def _told_as_well(session: Session, case: Case, at: datetime) -> list[MandateGiven]:
    """The mandates by which somebody receives what is sent to an applicant."""
    given = select(MandateGiven).where(MandateGiven.owner_id == case.applicant_id, MandateGiven.accepted_at.is_not(None))
    return [
        row
        for row in session.scalars(given.where(MandateGiven.ended_at.is_(None)))
        if "letters" in row.rights
        and in_force(row.first_day, row.last_day, at.date())
        and Mandate(row.id, row.owner_id, (), tuple(row.kinds), tuple(row.cases)).covers(row.owner_id, case.kind, case.reference)
    ]


def put_out_text(
    session: Session,
    key: str,
    number: str,
    text: str,
    at: datetime,
    case_id: str | None = None,
    secret_until: datetime | None = None,
) -> None:
    """Lay a text message out, in the caller's transaction; of its text is kept what :func:`put_out_mail` keeps."""
    session.merge(
        Outgoing(
            key=key[:120],
            case_id=case_id,
            to=f"{NUMBER}{number}",
            subject="",
            text=text[:MOST_TEXT],
            pdf_sha256="",
            put_at=at,
            delivered_at=None,
            secret_until=secret_until,
        )
    )


#: before the number to which a text message goes (RFC 3966), and the most letters of one
NUMBER, MOST_TEXT = "tel:", 300


def tell(session: Session, person: Person, key: str, subject: str, text: str, at: datetime, news: News = "steps") -> None:
    """Lay out for a person something that belongs to no case yet, by the way that they chose for this kind of news."""
    by_mail, by_text = goes_by(person.news, news, bool(person.mobile))
    if by_mail and person.mail:
        put_out_mail(session, key, person.mail, subject, text, at)
    if by_text:
        put_out_text(session, f"{key}-text", person.mobile, subject, at)


def put_out_mail(
    session: Session, key: str, to: str, subject: str, text: str, at: datetime, secret_until: datetime | None = None
) -> None:
    """Lay a mail that belongs to no case out, in the caller's transaction. Its text is dropped once it was mailed, at the latest
    at ``secret_until``, if it holds a link or a code."""
    session.merge(
        Outgoing(
            key=key,
            case_id=None,
            to=to,
            subject=subject[:200],
            text=text,
            pdf_sha256="",
            put_at=at,
            delivered_at=None,
            secret_until=secret_until,
        )
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
    """Send what waits: in the server by its one mail thread, which no request waits for; in a command at once.

    It never raises: what was done is done, and what waits is tried again by the clock job.
    """
    if office.mail_waits is not None:
        office.mail_waits.set()
        return
    try:
        deliver_waiting(office)
    except Exception as error:
        log.error("mail not sent", error=type(error).__name__)


#: so many items are taken up at a time
AT_ONCE = 50


def deliver_waiting(office: Office, between: Callable[[float], None] | None = None) -> int:
    """Send everything that waits. What cannot be sent now stays, and is tried again. Returns how many went.

    ``between`` is called after each item with the seconds that it took.
    """
    went = 0
    with office.sending, _Post(office) as post:
        tried: set[str] = set()
        while waiting := _waiting(office, tried):
            for out, reference in waiting:
                tried.add(out.key)
                began = time.monotonic()
                went += _deliver_one(office, post, out, reference)
                if post.dead:
                    return went
                if between is not None:
                    between(time.monotonic() - began)
    return went


def _waiting(office: Office, tried: Collection[str]) -> list[tuple[Outgoing, str]]:
    wanted = select(Outgoing, Case.reference).outerjoin(Case, Case.id == Outgoing.case_id)
    wanted = wanted.where(Outgoing.delivered_at.is_(None), Outgoing.trouble == "", Outgoing.by_post.is_(False)).order_by(
        Outgoing.put_at
    )
    with read_session(office.engine) as session:
        rows = session.execute(wanted.limit(AT_ONCE + len(tried))).tuples()
        return [(out, reference or "") for out, reference in rows if out.key not in tried]


class _Post:
    """The way out for one run: a mail server, connected when the first mail goes, and the post room for everything else.

    ``dead`` tells that the server does not answer, so that the rest waits for the next run instead of its patience.
    """

    def __init__(self, office: Office) -> None:
        self.office, self.dead = office, False
        self.server: smtplib.SMTP | None = None

    def __enter__(self) -> _Post:
        return self

    def __exit__(self, *_: object) -> None:
        if self.server is not None:
            with suppress(OSError, smtplib.SMTPException):
                self.server.quit()

    def send(self, out: Outgoing, reference: str) -> bool:
        """Send one item; True if it went out whole, by mail or by text. Raises what the server or the disk says."""
        if out.to.startswith(NUMBER):
            self.office.text_messages.send(out.key, out.to.removeprefix(NUMBER), out.text)
            return True
        mail, s = message_of(self.office, out, reference), self.office.settings
        if not s.smtp_host or "@" not in out.to:
            item = Item(out.key, reference, out.to, out.subject, out.put_at.isoformat())
            pdf = self.office.vault.get(out.pdf_sha256) if out.pdf_sha256 else None
            self.office.post_room.deliver(item, pdf, mail.as_bytes())
            return False
        try:
            if self.server is None:
                self.server = smtplib.SMTP(s.smtp_host, s.smtp_port, timeout=SMTP_PATIENCE)
                if s.smtp_starttls:
                    self.server.starttls()
                if s.smtp_user:
                    self.server.login(s.smtp_user, s.smtp_password)
            self.server.send_message(mail)
        except smtplib.SMTPServerDisconnected:
            self.dead = True
            raise
        except smtplib.SMTPException:
            raise
        except OSError:
            self.dead = True
            raise
        return True


#: seconds that a mail server may be silent
SMTP_PATIENCE = 20


def _deliver_one(office: Office, post: _Post, out: Outgoing, reference: str) -> bool:
    """Send one item; True if it went. One that can never go is set aside with the reason, so that it holds up no other."""
    trouble, mailed = "", False
    try:
        mailed = post.send(out, reference)
    except FileNotFoundError:
        trouble = say("its letter is not in the vault")
    except (OSError, smtplib.SMTPException) as error:  # the server or the disk: tried again, unless this item itself is refused
        if not _refused(error):
            log.warning("mail not sent", key=out.key, error=type(error).__name__)
            return False
        trouble = say("the mail server refuses it for good")
    except Exception as error:  # the header parser of the standard library raises many kinds for an odd address
        trouble = say("it cannot be put into a mail ({name})", name=type(error).__name__)
    if trouble:
        log.error("mail set aside", key=out.key, reason=trouble)
    with write_session(office.engine) as session:
        row = session.get_one(Outgoing, out.key)
        row.trouble, row.delivered_at = trouble, None if trouble else office.now()
        if mailed and row.secret_until is not None:
            row.text = say("(sent; what it held works once and is not kept)")
    return not trouble


def _refused(error: Exception) -> bool:
    """True if the server says that this mail, as it is, will never go."""
    if isinstance(error, smtplib.SMTPRecipientsRefused):
        return all(code >= FOR_GOOD for code, _ in error.recipients.values())
    return isinstance(error, smtplib.SMTPDataError) and error.smtp_code >= FOR_GOOD


#: a reply of a mail server from here on is final (RFC 5321, 4.2.1)
FOR_GOOD = 500


def drop_old_secrets(office: Office) -> None:
    """Drop the texts of mails whose link or code works no more."""
    over = update(Outgoing).where(Outgoing.secret_until < office.now(), Outgoing.text != "")
    with write_session(office.engine) as session:
        session.execute(over.values(text=""))


def outbox(office: Office) -> list[tuple[Outgoing, str]]:
    """Everything that ever left or waits, newest last, each with the reference of its case."""
    with read_session(office.engine) as session:
        all_of_it = select(Outgoing, Case.reference).outerjoin(Case, Case.id == Outgoing.case_id).order_by(Outgoing.put_at)
        return [(row, reference or "") for row, reference in session.execute(all_of_it).tuples()]
