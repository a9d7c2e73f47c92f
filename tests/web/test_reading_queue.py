"""Files are answered at once and read beside the requests: fair between people, lost by no stop, waited for by filing."""

from __future__ import annotations

import statistics
import subprocess
import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import func, select

from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import talking
from jolly_clerk.office.errors import TooOften
from jolly_clerk.office.office import new_id
from jolly_clerk.office.preparing import attaching, drafts, filing, signing
from jolly_clerk.office.preparing import reading_queue as queue
from jolly_clerk.office.preparing.reading_queue import Job, ReadingQueue, enqueue, finish, take
from jolly_clerk.reading.fence import Readers
from jolly_clerk.store.beside import ToRead
from jolly_clerk.store.database import Busy, read_session, write_session
from jolly_clerk.store.tables import StoredReading
from tests.helpers import answers
from tests.office.test_journey import PLAN, ROOF
from tests.web.test_web import WebTest


class Slow(Readers):
    """Readers that take so long as a test lets them."""

    def __init__(self) -> None:
        super().__init__()
        self.go_on, self.read_files = threading.Event(), list[str]()

    def read(self, path: Path) -> Reading:
        self.read_files.append(path.name)
        self.go_on.wait(30)
        return super().read(path)


class Intricate(Readers):
    """Readers whose every small file keeps a core busy for two seconds, in a process of its own."""

    def read(self, path: Path) -> Reading:
        if path.stat().st_size > 1000:
            return super().read(path)
        subprocess.run([sys.executable, "-c", BUSY], check=True)
        return self._not_read(path, "too intricate")


BUSY = "import time; until = time.process_time() + 2\nwhile time.process_time() < until: pass"


class Queue(WebTest):
    def serve(self, readers: Readers | None = None, count: int = 2) -> ReadingQueue:
        """As a server does it, with readers of the test's own."""
        if readers is not None:
            self.office.readers = readers
            self.addCleanup(readers.end)
        reading = ReadingQueue(self.office, count)
        reading.start()
        self.addCleanup(reading.stop)
        return reading

    def attach(self, client: Any, draft: str, content: bytes, slot: str = "site_plan", name: str = "plan.pdf") -> Any:
        return client.post(f"/api/drafts/{draft}/files", data={"slot": slot}, files={"file": (name, content)})

    def opens(self, client: Any, draft: str) -> list[str]:
        return [f["opens"] for f in client.get(f"/api/drafts/{draft}").json()["files"]]

    def wait(self, what: Any, seconds: float = 90) -> None:
        until = time.monotonic() + seconds
        while not what():
            self.assertLess(time.monotonic(), until, "it never came")
            time.sleep(0.05)

    def test_it_is_answered_at_once_and_read_beside(self) -> None:
        slow = Slow()
        self.serve(slow)
        client = self.client("odalys")
        draft = client.post("/api/drafts", json={"kind": "BW"}).json()["id"]
        began = time.monotonic()
        view = self.attach(client, draft, PLAN).json()["view"]
        self.assertLess(time.monotonic() - began, 20)  # what is slow here would never end
        self.assertEqual([(f["said"], f["opens"]) for f in view["files"]], [("is being read", "being read")])
        requirement = next(r for r in view["assessment"]["requirements"] if r["id"] == "documents.site_plan")
        self.assertEqual([f["text"] for f in requirement["findings"]], ["“plan.pdf” is being read."])
        self.assertEqual(client.put(f"/api/drafts/{draft}", json={"note": "typed meanwhile"}).status_code, 200)
        slow.go_on.set()
        self.wait(lambda: self.opens(client, draft) == ["yes"])
        self.assertEqual(self.attach(client, draft, PLAN, "sections").json()["view"]["files"][1]["opens"], "yes")
        self.assertEqual(len(slow.read_files), 1, "known content is not read again")

    def test_filing_waits_for_what_is_being_read(self) -> None:
        slow = Slow()
        self.serve(slow)
        draft = drafts.start_draft(self.office, self.odalys, "BW")
        drafts.keep(self.office, self.odalys, draft, None, answers=answers())
        attaching.attach(self.office, self.odalys, draft, "site_plan", "plan.pdf", PLAN)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        with ThreadPoolExecutor(1) as pool:
            filed = pool.submit(filing.file, self.office, self.odalys, draft, None, True)
            time.sleep(0.6)
            self.assertFalse(filed.done())
            slow.go_on.set()
            reference = filed.result(30)
        loaded = load_case(self.office, self.odalys, reference)
        self.assertEqual([r.opens for r in loaded.known.readings.values()], ["yes"])

    def test_what_is_not_read_in_time_is_told_so_and_filed(self) -> None:
        slow = Slow()
        self.serve(slow)
        before, queue.PATIENCE = queue.PATIENCE, 0.5
        self.addCleanup(setattr, queue, "PATIENCE", before)
        draft = drafts.start_draft(self.office, self.odalys, "BW")
        drafts.keep(self.office, self.odalys, draft, None, answers=answers())
        attaching.attach(self.office, self.odalys, draft, "site_plan", "plan.pdf", PLAN)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        loaded = load_case(self.office, self.imre, reference)
        (reading,) = loaded.known.readings.values()
        self.assertEqual((reading.opens, reading.trouble), ("not read", "it was not read in time"))
        found = loaded.assessment.requirement("documents.site_plan")
        assert found is not None
        self.assertIn("could not be read by the machine: it was not read in time. A person must look.", found.because)
        slow.go_on.set()

    def test_only_so_many_wait_for_filing_at_once(self) -> None:
        reading = self.serve(Slow())
        draft = drafts.start_draft(self.office, self.odalys, "BW")
        attaching.attach(self.office, self.odalys, draft, "site_plan", "plan.pdf", PLAN)
        for _ in range(queue.MOST_WAITERS):
            reading.waiters.acquire()
        with self.assertRaises(Busy):
            filing.file(self.office, self.odalys, draft, take_gaps=True)

    def test_a_stop_loses_nothing(self) -> None:
        slow = Slow()
        reading = self.serve(slow, 1)
        draft = drafts.start_draft(self.office, self.odalys, "BW")
        for n, content in enumerate((PLAN, ROOF)):
            attaching.attach(self.office, self.odalys, draft, "site_plan", f"{n}.pdf", content)
        self.wait(lambda: slow.read_files)
        began = time.monotonic()
        reading.stop()
        self.assertLess(time.monotonic() - began, 20)  # what is slow here would never end
        slow.go_on.set()
        again = Slow()
        again.go_on.set()
        self.serve(again)
        client = self.client("odalys")
        self.wait(lambda: self.opens(client, draft) == ["yes", "yes"])

    def test_a_file_at_which_the_reader_stops_again_and_again_is_not_read(self) -> None:
        sha256 = self.office.vault.put(b"%PDF-1.4 x")
        with write_session(self.office.engine) as session:
            enqueue(self.office, session, "odalys", [sha256])
        for _ in range(queue.MOST_TRIES):
            self.assertEqual(take(self.office, "me"), Job(sha256))
            self.instant += timedelta(minutes=4)
        self.assertIsNone(take(self.office, "me"))
        with read_session(self.office.engine) as session:
            self.assertEqual(session.scalar(select(func.count()).select_from(ToRead)), 0)
            self.assertIn("its reader stopped", session.scalar(select(StoredReading.reading)) or "")

    def test_one_who_sends_many_does_not_keep_others_waiting(self) -> None:
        with write_session(self.office.engine) as session:
            enqueue(self.office, session, "flood", [f"{n:064x}" for n in range(60)])
        self.instant += timedelta(seconds=1)
        with write_session(self.office.engine) as session:
            enqueue(self.office, session, "odalys", ["a" * 64, "b" * 64])
        taken = [job.sha256 for job in (take(self.office, "me") for _ in range(5)) if job]
        self.assertIn("a" * 64, taken[:3])
        self.assertIn("b" * 64, taken[:5])
        with write_session(self.office.engine) as session:
            session.get_one(ToRead, f"{50:064x}").wanted = True
        self.assertEqual(take(self.office, "me"), Job(f"{50:064x}"), "what somebody waits for comes first")

    def test_so_many_of_one_person_wait_and_no_more(self) -> None:
        with write_session(self.office.engine) as session, self.assertRaises(TooOften):
            enqueue(self.office, session, "flood", [f"{n:064x}" for n in range(queue.MOST_WAITING + 1)])

    def test_what_is_taken_by_two_is_taken_once(self) -> None:
        hashes = [f"{n:064x}" for n in range(40)]
        with write_session(self.office.engine) as session:
            enqueue(self.office, session, "odalys", hashes)
        with ThreadPoolExecutor(8) as pool:
            taken = list(pool.map(lambda _: take(self.office, new_id()), range(40)))
        self.assertEqual(sorted(t.sha256 for t in taken if t), hashes)

    def test_files_of_messages_go_the_same_way(self) -> None:
        reference = self.filed()
        slow = Slow()
        self.serve(slow)
        began = time.monotonic()
        talking.write(self.office, self.odalys, reference, "See here", [("x.pdf", ROOF + b"%x")])
        self.assertLess(time.monotonic() - began, 20)  # what is slow here would never end
        slow.go_on.set()

    def test_a_reading_that_comes_twice_is_kept_once(self) -> None:
        sha256 = self.office.vault.put(PLAN)
        found = self.office.readers.read(self.office.vault.path(sha256))
        for _ in range(2):
            finish(self.office, sha256, found)
        with read_session(self.office.engine) as session:
            self.assertEqual(session.scalar(select(func.count()).select_from(StoredReading)), 1)


class Flood(WebTest):
    serve, attach, opens, wait = Queue.serve, Queue.attach, Queue.opens, Queue.wait

    def test_files_that_are_slow_to_read_keep_no_page_waiting(self) -> None:
        self.serve(Intricate())
        flood, other = self.client("tamsin"), self.client("odalys")
        draft = flood.post("/api/drafts", json={"kind": "BW"}).json()["id"]
        mine = other.post("/api/drafts", json={"kind": "BW"}).json()["id"]
        with ThreadPoolExecutor(20) as pool:
            sent = [pool.submit(self.attach, flood, draft, b"%%PDF-1.4 %d" % n, "site_plan", f"{n}.pdf") for n in range(20)]
            took = []
            while not all(one.done() for one in sent):
                began = time.monotonic()
                self.assertEqual(other.get("/api/kinds").status_code, 200)
                took.append(time.monotonic() - began)
        self.assertEqual({one.result().status_code for one in sent}, {201})
        for _ in range(20):
            began = time.monotonic()
            self.assertEqual(other.get("/api/kinds").status_code, 200)
            took.append(time.monotonic() - began)
        self.assertLess(statistics.median(took), 2)
        self.assertEqual(self.attach(other, mine, PLAN).status_code, 201)
        self.wait(lambda: self.opens(other, mine) == ["yes"])
        self.assertIn("being read", self.opens(flood, draft), "the other one did not wait for the flood")
