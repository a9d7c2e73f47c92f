"""Kills the server (SIGKILL) at random moments of uploads, filings, payments, judgements and letters, starts it again, and looks what is left.

``python -m bench.kills 200``. Everything that the server acknowledged must be there afterwards.
"""

from __future__ import annotations

import hashlib
import json
import os
import random
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
import uuid
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from http.client import HTTPException
from pathlib import Path
from typing import Any
from urllib.error import HTTPError

from jolly_clerk.demo.drawings import site_plan
from jolly_clerk.demo.stage import answers
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.ready import ready_steps
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.people.directory import add_person, person
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED, editions_in
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import StoredFile

ROOT = Path(__file__).resolve().parents[1]
APPLICANTS = ("ada", "bo", "cy")
#: what is waited for, kill after kill, before the random moment: nothing comes while the server and its readers still start
AIMS = ("file", "letter", "paid", "", "judged", "filed", "sent")
#: seconds that are waited for it at most
PATIENCE = 60.0
#: seconds that a server works at most after that before it is killed
LONGEST = 1.5


@dataclass
class Acknowledged:
    """What the server said was done, as (what, reference or SHA-256), and what it would not do, which is nothing."""

    things: list[tuple[str, str]] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)
    #: the kind that is looked for, and whether one of it came
    aim: str = ""
    come: threading.Event = field(default_factory=threading.Event)

    def note(self, what: str, name: str) -> None:
        """Note one thing; lists take appends from several threads."""
        self.things.append((what, name))
        if what == self.aim:
            self.come.set()

    def look_for(self, aim: str) -> None:
        """Begin to look for a thing of a kind, or for nothing."""
        self.aim = aim
        self.come.clear()

    def wait(self) -> None:
        """Wait until what is looked for is noted, if anything is."""
        if self.aim:
            self.come.wait(PATIENCE)


class Client:
    """One signed-in person over HTTP."""

    def __init__(self, address: str, who: str) -> None:
        self.address, self.cookie, self.csrf = address, "", ""
        self.ask("POST", "/api/session/by-click", {"person": who})
        self.csrf = self.ask("GET", "/api/session")["csrf"]

    def ask(self, method: str, path: str, body: Any = None, kind: str = "application/json", seen: int | None = None) -> Any:
        """Send a request, with the revision that was ``seen`` if it matters; OSError or HTTPException when the server dies under it or
        refuses."""
        data = json.dumps(body).encode() if kind == "application/json" and body is not None else body
        request = urllib.request.Request(self.address + path, data, method=method)
        request.add_header("Cookie", self.cookie)
        request.add_header("X-Jolly-Clerk", self.csrf)
        request.add_header("If-Match", "*" if seen is None else f'"{seen}"')
        if body is not None:
            request.add_header("Content-Type", kind)
        with urllib.request.urlopen(request, timeout=10) as answer:
            self.cookie = (answer.headers.get("Set-Cookie") or self.cookie).split(";")[0]
            content = answer.read()
        return json.loads(content) if content else None

    def file(self, draft: str, name: str) -> str:
        """Sign a draft with a name and file it, whatever is missing; gives the reference of the case."""
        self.ask("POST", f"/api/drafts/{draft}/signature", {"name": name})
        return str(self.ask("POST", f"/api/drafts/{draft}/filing", {"take_gaps": True})["reference"])

    def pay(self, reference: str) -> None:
        """Pay what is due by the card of the stand-in."""
        key = self.ask("POST", f"/api/cases/{reference}/payments", {})["key"]
        self.ask("POST", f"/api/terminal/{key}", {"outcome": "approved"})

    def upload(self, draft: str, slot: str, content: bytes, name: str = "plan.pdf") -> None:
        """Attach a file to a draft."""
        edge = uuid.uuid4().hex
        head = f'--{edge}\r\nContent-Disposition: form-data; name="slot"\r\n\r\n{slot}\r\n--{edge}\r\n'
        head += f'Content-Disposition: form-data; name="file"; filename="{name}"\r\nContent-Type: application/pdf\r\n\r\n'
        whole = head.encode() + content + f"\r\n--{edge}--\r\n".encode()
        self.ask("POST", f"/api/drafts/{draft}/files", whole, f"multipart/form-data; boundary={edge}")


def work(address: str, who: str, said: Acknowledged, seed: int) -> None:
    """File, pay, judge and ask for corrections until the server is gone."""
    rnd = random.Random(seed)
    try:
        applicant, officer = Client(address, who), Client(address, "imre")
        while True:
            draft = applicant.ask("POST", "/api/drafts", {"kind": "BW"})["id"]
            given = answers(works_area=str(rnd.randint(20, 90)), filer_name=who, site_start="2030-01-01")
            applicant.ask("PUT", f"/api/drafts/{draft}", {"answers": given})
            plan = site_plan("1 Pier Road", "store", rnd.uniform(4, 20), 5, rnd.uniform(40, 300))
            applicant.upload(draft, "site_plan", plan)
            said.note("file", hashlib.sha256(plan).hexdigest())
            reference = applicant.file(draft, who)
            said.note("filed", reference)
            applicant.pay(reference)
            said.note("paid", reference)
            officer.ask("POST", f"/api/cases/{reference}/checking", {})
            said.note("begun", reference)
            judgement = {"requirement": "documents.sections", "standing": "wanting", "reason": "Sections are missing."}
            officer.ask("POST", f"/api/cases/{reference}/judgements", judgement)
            said.note("judged", reference)
            officer.ask("POST", f"/api/cases/{reference}/letter", {})
            said.note("letter", reference)
            for ready in officer.ask("GET", f"/api/cases/{reference}")["leaving"]:  # nothing, where a letter leaves at once
                officer.ask("POST", f"/api/cases/{reference}/ready/sent", {"step": ready["id"]})
            said.note("sent", reference)
    except HTTPError as error:
        said.come.set()
        said.refused.append(f"{error.code} {error.url.removeprefix(address)}: {error.read()[:300].decode(errors='replace')}")
    except (OSError, HTTPException, ValueError):
        return


@dataclass
class Served:
    """A server that is ready: the process that leads its group, its address, and how its end is waited for."""

    pid: int
    address: str
    ended: Callable[[], Any]


def serve(folder: Path) -> Served:
    """A server over a folder, begun from nothing."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [sys.executable, "-m", "jolly_clerk.cli", "serve", "--demo", "--data", str(folder), "--port", str(port)]
    quiet = subprocess.DEVNULL
    process = subprocess.Popen(command, cwd=ROOT, stdout=quiet, stderr=quiet, start_new_session=True)
    address = f"http://127.0.0.1:{port}"
    for _ in range(1000):
        try:
            urllib.request.urlopen(f"{address}/health", timeout=1)
            return Served(process.pid, address, process.wait)
        except OSError:
            time.sleep(0.03)
    raise RuntimeError("the server did not come up")


def missing(office: Office, said: Acknowledged) -> list[str]:
    """What was acknowledged and is not there."""
    officer, lost = person(office, "imre"), []
    for what, name in dict.fromkeys(said.things):
        if what == "file":
            with read_session(office.engine) as session:
                there = session.get(StoredFile, name) is not None and not office.vault.check(name)
            if not there:
                lost.append(f"file {name[:12]}")
            continue
        loaded = load_case(office, officer, name)
        so_far = loaded.so_far
        with read_session(office.engine) as session:
            is_ready = bool(ready_steps(session, loaded.case.id))
        kept = {
            "filed": so_far.filed is not None,
            "paid": so_far.covered_at is not None,
            "begun": so_far.checking is not None,
            "judged": "documents.sections" in so_far.given,
            "letter": is_ready or so_far.round is not None,
            "sent": so_far.round is not None,
        }
        if not kept[what]:
            lost.append(f"{name} {what}")
    return lost


def run(count: int, seed: int = 1, begin: Callable[[Path], Served] = serve) -> tuple[int, Counter[str], list[str]]:
    """Kill ``count`` times what ``begin`` began; gives how many things were acknowledged, of which kinds, and what is wrong
    afterwards."""
    with tempfile.TemporaryDirectory(prefix="jolly-clerk-kills-") as base:
        return _killed(Path(base) / "office", count, seed, begin)


def _killed(folder: Path, count: int, seed: int, begin: Callable[[Path], Served]) -> tuple[int, Counter[str], list[str]]:
    office = open_office(folder, demo=True)
    for edition in editions_in(SHIPPED):
        publish(office, edition)
    for name in APPLICANTS:
        add_person(office, name, name.title(), "applicant", f"{name}@post.example")
    add_person(office, "imre", "Imre Holt", "officer")
    office.close()
    rnd, said = random.Random(seed), Acknowledged()
    for kill in range(count):
        served = begin(folder)
        said.look_for(AIMS[kill % len(AIMS)])
        works = [(served.address, name, said, seed + 7 * kill) for name in APPLICANTS]
        threads = [threading.Thread(target=work, args=what) for what in works]
        for thread in threads:
            thread.start()
        said.wait()
        time.sleep(rnd.uniform(0.0, LONGEST))
        os.killpg(served.pid, signal.SIGKILL)
        served.ended()
        for thread in threads:
            thread.join()
    office = open_office(folder, demo=True)
    try:
        wrong = [*verify(office), *missing(office, said), *said.refused]
    finally:
        office.close()
    return len(said.things), Counter(what for what, _ in said.things), wrong


def main() -> None:
    """``python -m bench.kills [how many]``."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    began = time.monotonic()
    total, kinds, wrong = run(count, int(time.time()))
    print(f"{count} kills in {time.monotonic() - began:.0f} s, {total} things acknowledged: {dict(kinds)}")
    print("\n".join(wrong) or "all there; histories, files, lists and receipts are whole")
    sys.exit(1 if wrong else 0)


if __name__ == "__main__":
    main()
