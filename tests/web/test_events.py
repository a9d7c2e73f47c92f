"""What changed is told to whoever may know of it, taken up where it stopped, by whichever process changed it; and who minds the office."""

from __future__ import annotations

import json
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.request
from typing import Any

from jolly_clerk.office import events
from jolly_clerk.office.desk import checking, talking
from jolly_clerk.office.events import Feed, is_for, newest, since, taken_up
from jolly_clerk.office.office import Who, open_office
from jolly_clerk.office.people.directory import add_person, sign_in_by_click
from jolly_clerk.office.preparing import drafts
from jolly_clerk.store.beside import Event
from jolly_clerk.store.lease import Lease
from jolly_clerk.web.asking import COOKIE, CSRF_HEADER
from tests.browser.house import Server
from tests.helpers import ROOT
from tests.office.test_journey import Cases


class Told(Cases):
    def test_every_change_of_a_case_and_of_a_draft_is_told_with_its_revision_alone(self) -> None:
        reference = self.filed()
        before = newest(self.office)
        done = checking.begin_checking(self.office, self.imre, reference)
        draft = drafts.start_draft(self.office, self.odalys, "BW")
        drafts.keep(self.office, self.odalys, draft, None, note="x")
        told = [events.told(e) for e in since(self.office, before)]
        self.assertEqual([(t.what, t.name, t.revision) for t in told], [("case", reference, done.entries), ("draft", draft, 2)])
        self.assertEqual(set(type(told[0]).__slots__), {"id", "what", "name", "revision"})

    def test_only_who_may_see_it_is_told(self) -> None:
        silas = add_person(self.office, "silas", "Silas Thorne", "reviewer")
        of_case = Event(what="case", name="x", revision=1, owner_id="odalys", kind="BW", handed=False)
        handed = Event(what="case", name="x", revision=1, owner_id="odalys", kind="BW", handed=True)
        of_draft = Event(what="draft", name="x", revision=1, owner_id="odalys", kind="", handed=False)
        for who, sees in (
            (self.odalys, (True, True, True)),
            (self.tamsin, (False, False, False)),
            (self.imre, (True, True, False)),
            (self.anselm, (True, True, False)),
            (silas, (False, True, False)),
            (Who("petra", "Petra Lune", "rule-keeper"), (False, False, False)),
            (Who("jonas", "Jonas Vey", "officer", ("CT",)), (False, False, False)),
        ):
            self.assertEqual(tuple(is_for(e, who) for e in (of_case, handed, of_draft)), sees, who)

    def test_who_was_away_takes_up_where_it_stopped(self) -> None:
        reference = self.filed()
        last = newest(self.office)
        checking.begin_checking(self.office, self.imre, reference)
        talking.note(self.office, self.imre, reference, "x")
        self.assertEqual([t.what for t in taken_up(self.office, self.maud, last)], ["case", "case"])
        self.assertEqual(taken_up(self.office, self.maud, newest(self.office)), [])
        self.assertEqual([t.what for t in taken_up(self.office, self.maud, newest(self.office) + 5)], ["all"])
        self.instant = self.instant.replace(hour=20)
        events.forget_old_events(self.office)
        talking.note(self.office, self.imre, reference, "y")
        self.assertEqual([t.what for t in taken_up(self.office, self.maud, last)], ["all"])

    def test_a_feed_hands_on_what_another_process_did(self) -> None:
        reference = self.filed()
        other = open_office(self.folder, now=lambda: self.instant, demo=True)
        self.addCleanup(other.engine.dispose)
        feed, heard, came = Feed(self.office), list[Event](), threading.Event()
        feed.start()
        self.addCleanup(feed.stop)

        def listener(event: Event) -> None:
            heard.append(event)
            came.set()

        feed.listen(listener)
        checking.begin_checking(other, self.imre, reference)
        self.assertTrue(came.wait(10))
        self.assertEqual(heard[0].name, reference)
        feed.leave(listener)

    def test_one_process_minds_the_office_and_another_takes_over(self) -> None:
        first, second = Lease(self.office.engine, self.folder), Lease(self.office.engine, self.folder)
        self.assertEqual((first.holds(), second.holds(), first.holds()), (True, False, True))
        first.release()
        self.assertTrue(second.holds())
        second.release()


class Served(Cases):
    """Two serving processes over one office."""

    def serve(self, *options: str) -> Server:
        server = Server(self.folder, *options)
        self.addCleanup(server.stop)
        return server

    def asked(self, server: Server, path: str, cookie: str, csrf: str = "", body: Any = None, **more: str) -> Any:
        headers = {"Cookie": f"{COOKIE}={cookie}", "If-Match": "*", "Content-Type": "application/json", CSRF_HEADER: csrf} | more
        data = None if body is None else json.dumps(body).encode()
        return urllib.request.urlopen(urllib.request.Request(server.address + path, data, headers), timeout=30)

    def test_a_stream_over_http_and_two_workers(self) -> None:
        reference = self.filed()
        server = self.serve("--workers", "2")
        maud, imre = (sign_in_by_click(self.office, who) for who in ("maud", "imre"))
        # the clock of the test stands still; sessions of the server are those of today
        maud, imre = (self.clicked(server, who) for who in ("maud", "imre"))
        stream = self.asked(server, "/api/events", maud[0])
        self.assertTrue(stream.headers["content-type"].startswith("text/event-stream"))
        lines = self.lines_of(stream)
        self.wait(lambda: any(line == "event: begin" for line in lines))
        answer = self.asked(server, f"/api/cases/{reference}/checking", imre[0], imre[1], {})
        self.assertEqual(answer.status, 200)
        self.wait(lambda: any(reference in line for line in lines))
        (data,) = [json.loads(line.removeprefix("data: ")) for line in lines if reference in line]
        self.assertEqual(sorted(data), ["name", "revision", "what"])
        last = next(line.removeprefix("id: ") for line in reversed(lines) if line.startswith("id: "))
        self.asked(server, f"/api/cases/{reference}/notes", imre[0], imre[1], {"text": "x"})
        again = self.lines_of(self.asked(server, "/api/events", maud[0], **{"Last-Event-ID": last}))
        self.wait(lambda: any(reference in line for line in again))
        # a page that begins is told from the event on that the office had when its session was asked for
        newest_then = json.loads(self.asked(server, "/api/session", maud[0]).read())["events"]
        self.assertEqual(newest_then, newest(self.office))
        self.asked(server, f"/api/cases/{reference}/notes", imre[0], imre[1], {"text": "y"})
        begun = self.lines_of(self.asked(server, f"/api/events?since={newest_then}", maud[0]))
        self.wait(lambda: any(reference in line for line in begun))
        began = time.monotonic()
        server.process.send_signal(signal.SIGTERM)
        server.process.wait(20)
        self.assertLess(time.monotonic() - began, 15)

    def clicked(self, server: Server, person: str) -> tuple[str, str]:
        """A session of today: its cookie and its token."""
        request = urllib.request.Request(
            f"{server.address}/api/session/by-click",
            json.dumps({"person": person}).encode(),
            {"Content-Type": "application/json"},
        )
        cookie = urllib.request.urlopen(request).headers["set-cookie"].partition("=")[2].partition(";")[0]
        return cookie, json.loads(self.asked(server, "/api/session", cookie).read())["csrf"]

    def lines_of(self, stream: Any) -> list[str]:
        lines: list[str] = []

        def read() -> None:
            try:
                for line in stream:
                    lines.append(line.decode().strip())
            except (OSError, ValueError):
                return

        threading.Thread(target=read, daemon=True).start()
        return lines

    def wait(self, what: Any, seconds: float = 90) -> None:
        until = time.monotonic() + seconds
        while not what():
            self.assertLess(time.monotonic(), until, "it never came")
            time.sleep(0.05)

    def test_it_ends_within_five_seconds_whatever_is_under_way(self) -> None:
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            port = free.getsockname()[1]
        command = [sys.executable, "-m", "jolly_clerk.cli", "serve", "--demo", "--data", str(self.folder), "--port", str(port)]
        process = subprocess.Popen(command, cwd=ROOT, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL)
        self.addCleanup(process.kill)
        server = Server.__new__(Server)
        server.address, server.process = f"http://127.0.0.1:{port}", process
        server._wait()
        odalys = self.clicked(server, "odalys")
        self.lines_of(self.asked(server, "/api/events", odalys[0]))
        draft = json.loads(self.asked(server, "/api/drafts", *odalys, {"kind": "BW"}).read())["id"]
        boundary, content = "x", b"%PDF-1.4 " + b"0" * 3_000_000
        body = b'--x\r\nContent-Disposition: form-data; name="slot"\r\n\r\nsite_plan\r\n--x\r\n'
        body += b'Content-Disposition: form-data; name="file"; filename="a.pdf"\r\n\r\n' + content + b"\r\n--x--\r\n"
        request = urllib.request.Request(f"{server.address}/api/drafts/{draft}/files", body)
        request.add_header("Content-Type", f"multipart/form-data; boundary={boundary}")
        for name, value in (("Cookie", f"{COOKIE}={odalys[0]}"), (CSRF_HEADER, odalys[1]), ("If-Match", "*")):
            request.add_header(name, value)
        self.assertEqual(urllib.request.urlopen(request, timeout=30).status, 201)
        began = time.monotonic()
        process.send_signal(signal.SIGTERM)
        process.wait(20)
        self.assertLess(time.monotonic() - began, 15)
