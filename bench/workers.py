"""Judgements a second with one and with two serving processes, on SQLite and on PostgreSQL, and for each second of the processors' time
that those processes took.

``python -m bench.workers 20``: so many seconds each. As many clients as cases, each in a case of its own, as fast as they are answered.
"""

from __future__ import annotations

import http.client
import itertools
import json
import os
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from pathlib import Path

from bench.kills import APPLICANTS, Client
from jolly_clerk.demo.stage import answers
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED, editions_in
from tests import postgres
from tests.browser.house import Server

CASES, REQUIREMENT, STANDINGS = 8, "documents.sections", ("wanting", "in doubt")
_TICKS = os.sysconf("SC_CLK_TCK")
#: of one serving process, for each second of the workers' time; of one, a second, on PostgreSQL and on SQLite
PER_CPU, PER_SECOND = 0.9, {"PostgreSQL": 1.2, "SQLite": 1.0}


def begun(address: str) -> tuple[Client, list[str]]:
    """An officer, and cases whose checking they began."""
    officer, references = Client(address, "imre"), []
    for n in range(CASES):
        who = APPLICANTS[n % len(APPLICANTS)]
        applicant = Client(address, who)
        draft = applicant.ask("POST", "/api/drafts", {"kind": "BW"})["id"]
        applicant.ask(
            "PUT", f"/api/drafts/{draft}", {"answers": answers(works_area="40", filer_name=who, site_start="2030-01-01")}
        )
        reference = applicant.file(draft, who)
        applicant.pay(reference)
        officer.ask("POST", f"/api/cases/{reference}/checking", {})
        references.append(reference)
    return officer, references


def spent(leader: int) -> float:
    """Seconds of the processors' time that a server and the processes that serve with it have taken, its readers apart."""
    parents: dict[int, list[int]] = {}
    own: dict[int, float] = {}
    for entry in Path("/proc").glob("[0-9]*"):
        try:
            words = (entry / "cmdline").read_bytes()
            parts = (entry / "stat").read_text().rpartition(")")[2].split()
        except OSError:
            continue
        if b"reading.worker" not in words:
            own[int(entry.name)] = (int(parts[11]) + int(parts[12])) / _TICKS
            parents.setdefault(int(parts[1]), []).append(int(entry.name))
    todo, total = [leader], 0.0
    while todo:
        one = todo.pop()
        total += own.get(one, 0.0)
        todo += parents.get(one, [])
    return total


def judging(port: int, officer: Client, reference: str, over: float, done: list[int]) -> None:
    """Judge the same thing one way and the other, on one connection."""
    line = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
    head = {
        "Cookie": officer.cookie,
        "X-Jolly-Clerk": officer.csrf,
        "If-Match": "*",
        "Content-Type": "application/json",
    }
    for turn in itertools.count():
        if time.monotonic() > over:
            return
        body = {"requirement": REQUIREMENT, "standing": STANDINGS[turn % 2], "reason": f"Seen {turn}."}
        line.request("POST", f"/api/cases/{reference}/judgements", json.dumps(body), head)
        answer = line.getresponse()
        said = answer.read()
        if answer.status != 200:
            raise RuntimeError(f"{answer.status}: {said[:300]!r}")
        done.append(1)


def measured(folder: Path, url: str, workers: int, seconds: float) -> tuple[float, float]:
    """Judgements a second, and for each second of the workers' time."""
    office = open_office(folder, demo=True, database=url)
    for edition in editions_in(SHIPPED):
        publish(office, edition)
    for name in APPLICANTS:
        add_person(office, name, name, "applicant", f"{name}@post.example")
    add_person(office, "imre", "Imre Holt", "officer")
    office.close()
    server = Server(folder, "--workers", str(workers), settings={"database": url} if url else {})
    try:
        officer, references = begun(server.address)
        done: list[int] = []
        over = time.monotonic() + seconds
        threads = [threading.Thread(target=judging, args=(server.port, officer, r, over, done)) for r in references]
        before = spent(server.process.pid)
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        cpu = spent(server.process.pid) - before
    finally:
        server.stop()
    return len(done) / seconds, len(done) / cpu


def all_of(seconds: float) -> Iterator[tuple[str, int, float, float]]:
    """Engine, processes, judgements a second and for each second of theirs; PostgreSQL where it is installed."""
    with postgres.server() as socket, tempfile.TemporaryDirectory(prefix="jolly-clerk-workers-") as base:
        os.environ[postgres.SOCKET] = socket
        for engine, workers in itertools.product(("SQLite", "PostgreSQL") if socket else ("SQLite",), (1, 2)):
            url = postgres.url(postgres.new_database()) if engine == "PostgreSQL" else ""
            yield engine, workers, *measured(Path(base) / f"{engine}-{workers}", url, workers, seconds)


def main(seconds: float) -> int:
    """Measure and print; the number of figures that were not reached."""
    missed, one = 0, (0.0, 0.0)
    for engine, workers, a_second, for_cpu in all_of(seconds):
        told = f"{engine}, {workers} serving: {a_second:.1f} judgements a second, {for_cpu:.1f} for each second of theirs"
        if workers == 1:
            one = a_second, for_cpu
        else:
            more, per_cpu = a_second / one[0], for_cpu / one[1]
            reached = more >= PER_SECOND[engine] and per_cpu >= PER_CPU
            missed += not reached
            told += f"; {more:.2f} and {per_cpu:.2f} times one"
            told += "" if reached else f" (asked: {PER_SECOND[engine]} and {PER_CPU})"
        print(told, flush=True)
    return missed


if __name__ == "__main__":
    sys.exit(main(float(sys.argv[1]) if len(sys.argv) > 1 else 20.0))
