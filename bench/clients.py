"""Many clients at once for a while, each as fast as it is answered: applicants type, look at their cases and attach 2 MB; officers look at
the in-tray, open a case and judge.

``python -m bench.clients 60 180``: so many clients, so many seconds, over the demo, on a server of its own on this machine. No answer may
be a 5xx, and whatever was acknowledged must be there afterwards.
"""

from __future__ import annotations

import hashlib
import itertools
import json
import os
import sys
import threading
import time
import urllib.error
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from http.client import HTTPException
from pathlib import Path
from typing import Any

from sqlalchemy import select

from bench.kills import Client
from bench.officers import in_short
from jolly_clerk.core.history import Judged
from jolly_clerk.demo.drawings import site_plan
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, Draft, StoredFile
from tests.browser.house import Server
from tests.helpers import demo_folder

APPLICANTS, OFFICERS = ("odalys", "tamsin", "corvin"), ("imre", "brisa", "jonas")
#: bytes of a file, attached after so many rounds of an applicant
LARGE, EACH = 2_000_000, 20
STANDINGS = ("met", "wanting", "in doubt")
#: so many cases of an officer are looked at for what may be judged
FIRST = 10


@dataclass
class Said:
    """What the clients were answered: statuses, what was refused and why, seconds by what was asked, and what was acknowledged."""

    statuses: Counter[int] = field(default_factory=Counter)
    refused: Counter[str] = field(default_factory=Counter)
    took: dict[str, list[float]] = field(default_factory=dict)
    typed: dict[str, str] = field(default_factory=dict)
    files: list[str] = field(default_factory=list)
    judged: list[tuple[str, str]] = field(default_factory=list)

    def timed(self, what: str, ask: Callable[[], Any]) -> Any:
        """What came back; nothing if it was refused."""
        began, answer = time.monotonic(), None
        try:
            answer, status = ask(), 200
        except urllib.error.HTTPError as error:
            status = error.code
            self.refused[f"{what}: {json.loads(error.read() or b'{}').get('detail', '')}"[:160]] += 1
        except (OSError, HTTPException):
            status = 599
        self.statuses[status] += 1
        self.took.setdefault(what, []).append(time.monotonic() - began)
        return answer if status == 200 else None


def a_draft(client: Client) -> str:
    """A new draft of whoever is signed in."""
    return str(client.ask("POST", "/api/drafts", {"kind": "BW"})["id"])


def may_be_judged(client: Client) -> list[tuple[str, str]]:
    """What an officer may judge in the first cases of the in-tray, as (reference, requirement)."""
    groups = client.ask("GET", "/api/tray?whose=mine")["groups"]
    found: list[tuple[str, str]] = []
    for row in [row for group in groups for row in group["rows"]][:FIRST]:
        view = client.ask("GET", f"/api/cases/{row['reference']}")["assessment"]
        if any(m["move"] == "judge" and m["role"] == "officer" and m["allowed"] for m in view["moves"]):
            found += [(row["reference"], requirement["id"]) for requirement in view["requirements"] if requirement["asked"]]
    return found


def applicant(client: Client, n: int, draft: str, over: float, said: Said) -> None:
    """One who types into a draft of its own, and now and then attaches a file to another."""
    for turn in itertools.count(1):
        if time.monotonic() > over:
            return
        text = f"Shed {n} {turn}"
        typed = {"answers": {"works": {"what": text, "area": str(10 + turn % 80)}}}
        if said.timed("typing", lambda: client.ask("PUT", f"/api/drafts/{draft}", typed)):  # noqa: B023
            said.typed[draft] = text
        said.timed("my cases", lambda: client.ask("GET", "/api/my-cases"))
        if turn % EACH == 0:
            content = site_plan("1 Pier Road", "store", 5 + n, 5, 60 + turn) + b"\n%" + os.urandom(LARGE // 2).hex().encode()
            other = a_draft(client)
            if said.timed("attaching 2 MB", lambda: client.upload(other, "site_plan", content) or True):  # noqa: B023
                said.files.append(hashlib.sha256(content).hexdigest())


def officer(client: Client, n: int, may: list[tuple[str, str]], over: float, said: Said) -> None:
    """One who judges one thing after the other in the cases of whoever it is, which others judge at the same time."""
    for turn in itertools.count():
        if time.monotonic() > over:
            return
        reference, requirement = may[(7 * n + turn) % len(may)]
        case, reason = f"/api/cases/{reference}", f"Seen by {n} in turn {turn}."
        said.timed("in-tray", lambda: client.ask("GET", "/api/tray?whose=mine"))
        said.timed("a case", lambda: client.ask("GET", case))  # noqa: B023
        body = {"requirement": requirement, "standing": STANDINGS[turn % len(STANDINGS)], "reason": reason}
        if said.timed("judging", lambda: client.ask("POST", f"{case}/judgements", body)):  # noqa: B023
            said.judged.append((reference, reason))


def lost(office: Office, said: Said) -> Iterator[str]:
    """What was acknowledged and is not there."""
    with read_session(office.engine) as session:
        for draft, text in said.typed.items():
            if session.get_one(Draft, draft).dossier["answers"]["works"]["what"] != text:
                yield f"draft {draft}: {text}"
        for sha256 in said.files:
            if session.get(StoredFile, sha256) is None or office.vault.check(sha256):
                yield f"file {sha256[:12]}"
        reasons: dict[str, set[str]] = {}
        for reference in {r for r, _ in said.judged}:
            id_ = session.scalars(select(Case.id).where(Case.reference == reference)).one()
            reasons[reference] = {e.reason for e in load_history(session, id_).entries if isinstance(e, Judged)}
    yield from (f"{reference}: {reason}" for reference, reason in said.judged if reason not in reasons[reference])


def run(clients: int, seconds: float, folder: Path, begin: Callable[[Path], Server] = Server) -> Said:
    """Half of them apply, half of them judge, for so many seconds, at what ``begin`` began."""
    server, said = begin(folder), Said()
    try:
        threads = []
        signed_in = [Client(server.address, (APPLICANTS if n % 2 else OFFICERS)[n // 2 % 3]) for n in range(clients)]
        drafts = {n: a_draft(client) for n, client in enumerate(signed_in) if n % 2}
        shares = [may_be_judged(client) for client in signed_in[:6:2]]
        over = time.monotonic() + seconds
        for n, client in enumerate(signed_in):
            if n % 2:
                threads.append(threading.Thread(target=applicant, args=(client, n, drafts[n], over, said)))
            else:
                threads.append(threading.Thread(target=officer, args=(client, n, shares[n // 2 % 3], over, said)))
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    finally:
        server.stop()
    return said


def main(clients: int, seconds: float) -> int:
    """Run, print, and look what is left; the number of things that are wrong."""
    folder = demo_folder()
    said = run(clients, seconds, folder)
    office = open_office(folder, demo=True)
    wrong = [*lost(office, said), *verify(office)]
    office.close()
    wrong += [f"{count} answers {status}" for status, count in said.statuses.items() if status >= 500]
    print(f"{clients} clients for {seconds:.0f} s: {said.statuses.total()} answers {dict(said.statuses)}; in ms:")
    for what, took in sorted(said.took.items()):
        print(f"    {what}: {len(took)} answers, {in_short(took)}")
    for why, count in said.refused.most_common(5):
        print(f"    refused {count} times: {why}")
    kept = f"{len(said.typed)} drafts, {len(said.files)} files, {len(said.judged)} judgements"
    print("\n".join(wrong) if wrong else f"    nothing is lost of what was kept last in {kept}; histories are whole")
    return len(wrong)


if __name__ == "__main__":
    how_many, how_long = (int(arg) for arg in (sys.argv[1:] or ["60", "60"]))
    sys.exit(min(main(how_many, how_long), 99))
