"""Minding the running server: the clock job beside it, its log without anything personal, its health."""

from __future__ import annotations

import logging
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from contextlib import suppress

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from jolly_clerk.core.say import speaking
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.cases.leaving import let_leave
from jolly_clerk.office.keeping.looks import WITHIN, looks_of
from jolly_clerk.office.lifetimes import BEHIND, before
from jolly_clerk.office.office import Office
from jolly_clerk.office.post.mailing import deliver_waiting
from jolly_clerk.office.preparing.reading_queue import ReadingQueue
from jolly_clerk.office.rules.rulebooks import kind_titles
from jolly_clerk.store.database import next_number, write_session
from jolly_clerk.store.lease import Lease
from jolly_clerk.store.outside import last_noted

log = structlog.get_logger()


def set_up_log() -> None:
    """One JSON object a line on standard error; only what the code names gets in, never a request's content."""
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            structlog.processors.JSONRenderer(),
        ],
        wrapper_class=structlog.make_filtering_bound_logger(logging.INFO),
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
        cache_logger_on_first_use=True,
    )


#: seconds after which a thread that computes lets another one go on: a request waits for the database a hundred times, and would
#: each time wait for Python's own 5 ms
SWITCHES = 0.0005
#: seconds after a request in which somebody is at work, and how many times as long as it took what nobody waits for then rests
AT_WORK, RESTS = 2.0, 9.0


class Pace:
    """What nobody waits for gives way while somebody works: after each piece it rests for some time, and goes on at once at night."""

    def __init__(self) -> None:
        self.asked = float("-inf")

    def note(self) -> None:
        """Somebody asks for something."""
        self.asked = time.monotonic()

    def rest(self, over: threading.Event, took: float) -> None:
        """Rest after a piece of work that took so many seconds, at most until ``over``."""
        if time.monotonic() - self.asked < AT_WORK:
            over.wait(RESTS * took)


class Logged:
    """Middleware: logs each request by its route (never the address, which may name a case), its status and its time; ``pace`` learns
    of it."""

    def __init__(self, app: ASGIApp, pace: Pace) -> None:
        self.app, self.pace = app, pace

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve a request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        began = time.perf_counter()
        if scope["path"] != "/health":
            self.pace.note()

        async def sent(message: Message) -> None:
            if message["type"] == "http.response.start" and scope["path"].startswith("/api/"):
                ms = round((time.perf_counter() - began) * 1000)
                log.info("request", method=scope["method"], route=_route(scope), status=message["status"], ms=ms)
            await send(message)

        try:
            await self.app(scope, receive, sent)
        except Exception as error:
            log.error("request failed", method=scope["method"], route=_route(scope), error=type(error).__name__)
            raise


def where(error: BaseException) -> str:
    """Where an error came from, as file and line: enough to find it, and nothing of what was in its text."""
    trace = error.__traceback__
    while trace is not None and trace.tb_next is not None:
        trace = trace.tb_next
    return f"{trace.tb_frame.f_code.co_filename.rpartition('/')[2]}:{trace.tb_lineno}" if trace else ""


def _route(scope: Scope) -> str:
    route = scope.get("route")
    return str(getattr(route, "path", "unknown"))


#: how long the server answers before it begins with what nobody waits for
FIRST_ANSWERS = 0.3


class ClockThread:
    """Runs the clock job every so many seconds until it is stopped; a run that fails is logged and the next one tries again.

    It lets the server answer first: then the readers of files are started, which takes the machine for a moment, and the job runs.
    """

    def __init__(self, office: Office, pace: Pace) -> None:
        self.office, self.pace, self.left = office, pace, 0.0
        self.over = threading.Event()
        self.thread = threading.Thread(target=self._run, name="clock job", daemon=True)

    def start(self) -> None:
        """Begin."""
        self.thread.start()

    def stop(self) -> None:
        """End after the case that is under way; the next run takes up the rest."""
        self.over.set()
        self.thread.join(timeout=2)

    def _run(self) -> None:
        if self.over.wait(FIRST_ANSWERS):
            return
        self.office.readers.warm()
        while not self.over.is_set():
            try:
                done = run_clock(self.office, self._between)
                if done.reminded or done.lapsed or done.sent:
                    log.info("clock job", reminded=done.reminded, lapsed=done.lapsed, sent=done.sent)
            except Exception as error:
                log.error("clock job failed", error=type(error).__name__, where=where(error))
            self._wait()

    def _wait(self) -> None:
        """Until the next run; what is ready leaves when its time has come, looked for every second while something is ready."""
        for _ in range(self.office.settings.clock_seconds):
            if self.over.wait(1):
                return
            self._let_leave()

    def _between(self, took: float) -> bool:
        """Between two cases: rest, let leave what is ready; False once the thread is to end."""
        self.pace.rest(self.over, took)
        if time.monotonic() - self.left > 1:
            self._let_leave()
        return not self.over.is_set()

    def _let_leave(self) -> None:
        self.left = time.monotonic()
        try:
            let_leave(self.office)
        except Exception as error:
            log.error("what is ready did not leave", error=type(error).__name__, where=where(error))


#: seconds after which it is seen again who minds the office
LEASE_EACH = 2.0


class Minder:
    """In one of the serving processes, the one that holds the lease: the clock job, the mail, the reading of files."""

    def __init__(self, office: Office, pace: Pace) -> None:
        self.office, self.lease, self.over = office, Lease(office.engine, office.folder), threading.Event()
        self.pace = pace
        self.reading = ReadingQueue(office)
        self.minds = False
        self.parts: tuple[MailThread | ReadingQueue | ClockThread, ...] = ()
        self.thread = threading.Thread(target=self._run, name="minder", daemon=True)

    def start(self) -> None:
        """Begin. What arrives waits in its queue, whichever process reads it."""
        self.office.reading_queue, self.office.mail_waits = self.reading, threading.Event()
        self.thread.start()

    def stop(self) -> None:
        """End."""
        self.over.set()
        self.thread.join(timeout=3)
        self._end()
        self.office.reading_queue = self.office.mail_waits = None

    def _run(self) -> None:
        while True:
            holds = self.lease.holds()
            if holds and not self.minds:
                self._begin()
            elif self.minds and not holds:
                self._end()
            if self.over.wait(LEASE_EACH):
                return

    def _begin(self) -> None:
        log.info("minds the office")
        self.minds = True
        self.parts = (MailThread(self.office, self.pace), self.reading, ClockThread(self.office, self.pace))
        for part in self.parts:
            part.start()

    def _end(self) -> None:
        self.minds = False
        for part in self.parts:
            part.stop()
        self.parts = ()
        self.lease.release()


def read_editions(office: Office) -> None:
    """Read each edition in force once, before twenty people ask for all of them at a time. What cannot be read is told when it is used."""
    try:
        kind_titles(office)
    except Exception as error:
        log.error("editions not read", error=type(error).__name__, where=where(error))


class LooksThread:
    """Writes who looked at what, every two seconds and at the end; and sees whether another process changed the settings."""

    def __init__(self, office: Office) -> None:
        self.office, self.looks, self.over = office, looks_of(office), threading.Event()
        self.thread = threading.Thread(target=self._run, name="looks", daemon=True)

    def start(self) -> None:
        """Begin."""
        self.looks.thread = True
        self.thread.start()

    def stop(self) -> None:
        """End, and write what is left."""
        self.over.set()
        self.thread.join(timeout=3)
        self.looks.thread = False
        self.looks.write()

    def _run(self) -> None:
        while not self.over.wait(WITHIN):
            self.looks.write()
            with suppress(OSError, ValueError):  # a file that is just being written
                self.office.look_at_settings()


#: seconds after which it is looked whether another process put something out
MAIL_EACH = 3.0


class MailThread:
    """Sends what waits whenever something is put out, one mail after the other; a dead mail server keeps no request waiting."""

    def __init__(self, office: Office, pace: Pace) -> None:
        self.office, self.pace, self.over = office, pace, threading.Event()
        self.waits, self.began = threading.Event(), False
        self.thread = threading.Thread(target=self._run, name="mail", daemon=True)

    def start(self) -> None:
        """Begin, with what waits from before."""
        self.office.mail_waits = self.waits
        self.thread.start()

    def stop(self) -> None:
        """End; what is under way is finished within a moment, or goes again at the next start, which is harmless."""
        self.over.set()
        self.waits.set()
        self.thread.join(timeout=1)

    def _run(self) -> None:
        while not self.over.is_set():  # another process may have put something out as well
            self.waits.wait(MAIL_EACH if self.began else 0)
            self.began = True
            self.waits.clear()
            if self.over.is_set():
                return
            try:
                with speaking(self.office.texts):
                    sent = deliver_waiting(self.office, lambda took: self.pace.rest(self.over, took))
                if sent:
                    log.info("mail", sent=sent)
            except Exception as error:
                log.error("mail failed", error=type(error).__name__)


class Health:
    """Whether the office can be read and written; asked often, tried no more than once in so many seconds."""

    def __init__(self, office: Office) -> None:
        self.office = office
        self._lock = threading.Lock()
        self._tried = float("-inf")
        self._found: dict[str, str] = {}

    def __call__(self) -> dict[str, str]:
        """``status`` is ``ok``, or ``broken`` with what is wrong in words."""
        with self._lock:
            if time.monotonic() - self._tried > TRIED_EACH:
                self._found, self._tried = self.look(), time.monotonic()
            return self._found

    def look(self) -> dict[str, str]:
        """Write a row, keep a file, look at the clock."""
        found = {"database": self._try(self._write), "vault": self._try(self._keep), "clock": self._clock()}
        return {"status": "ok" if set(found.values()) == {"ok"} else "broken", **found}

    def _try(self, what: Callable[[], None]) -> str:
        try:
            what()
        except Exception as error:
            return type(error).__name__
        return "ok"

    def _write(self) -> None:
        with write_session(self.office.engine) as session:
            next_number(session, "health")

    def _keep(self) -> None:
        folder = self.office.vault.folder
        if not folder.is_dir():
            raise FileNotFoundError
        with tempfile.TemporaryFile(dir=folder) as probe:
            probe.write(b"ok")

    def _clock(self) -> str:
        last = last_noted(self.office.folder)
        return "behind" if last is not None and self.office.now() < before(last.at, BEHIND) else "ok"


#: seconds between two tries
TRIED_EACH = 2.0
