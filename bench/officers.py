"""Twenty officers at work at once: each looks at the in-tray, opens a case, judges, and thinks for a second to three in between.

``python -m bench.officers 20 60 20000``: so many officers, so many seconds, so many cases in the office. One serving process, SQLite.
"""

from __future__ import annotations

import random
import statistics
import sys
import tempfile
import threading
import time
import urllib.error
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy import select

from bench.kills import Client
from bench.large import filled, p95, say
from bench.pace import Pace
from jolly_clerk.core.history import Judged
from jolly_clerk.office.cases import clock_job
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case
from tests.browser.house import Server
from tests.helpers import read_what_waits

PEOPLE = ("imre", "brisa", "jonas", "maud")
THINKS = (1.0, 3.0)
#: milliseconds within which nineteen of twenty answers come
REACH = 150.0


@dataclass
class Work:
    """What the officers did: how long each kind of answer took, what was refused, and each judgement that was acknowledged."""

    #: of each answer the instant at which it came, and the seconds that it took
    took: dict[str, list[tuple[float, float]]] = field(default_factory=dict)
    refused: list[int] = field(default_factory=list)
    judged: list[tuple[str, str, str]] = field(default_factory=list)

    def timed(self, what: str, ask: Callable[[], Any]) -> Any:
        """Ask, and keep how long it took; None if it was refused."""
        began = time.monotonic()
        try:
            answer = ask()
        except urllib.error.HTTPError as error:
            self.refused.append(error.code)
            return None
        ended = time.monotonic()
        self.took.setdefault(what, []).append((ended, ended - began))
        return answer


def officer(client: Client, n: int, share: list[str], over: float, work: Work) -> None:
    """One of them, signed in already, on cases that nobody else has open."""
    dice, who = random.Random(n), PEOPLE[n % len(PEOPLE)]
    time.sleep(dice.uniform(0, THINKS[1]))  # nobody comes in at the same instant
    for reference in share:
        case = f"/api/cases/{reference}"
        work.timed("in-tray", lambda: client.ask("GET", "/api/tray?whose=mine"))
        time.sleep(dice.uniform(*THINKS))
        view = work.timed("a case", lambda: client.ask("GET", case))  # noqa: B023
        work.timed("opened", lambda: client.ask("POST", f"{case}/opened"))  # noqa: B023
        seen = view["revision"] if view else 0
        for found in [r for r in view["assessment"]["requirements"] if not r["judged"]][:5] if view else ():
            time.sleep(dice.uniform(*THINKS))
            if time.monotonic() > over:
                return
            body = {"requirement": found["id"], "standing": "met", "reason": "Looked at."}
            done = work.timed("judging", lambda: client.ask("POST", f"{case}/judgements", body, seen=seen))  # noqa: B023
            if done is not None:
                seen = done["revision"]
                work.judged.append((reference, found["id"], who))


def lost(office: Office, work: Work) -> Iterator[tuple[str, str, str]]:
    """The judgements that were acknowledged and are not in the history."""
    kept: dict[str, set[tuple[str, str]]] = {}
    with read_session(office.engine) as session:
        for reference in {r for r, _, _ in work.judged}:
            id_ = session.scalars(select(Case.id).where(Case.reference == reference)).one()
            judged = (e for e in load_history(session, id_).entries if isinstance(e, Judged))
            kept[reference] = {(e.requirement, e.who) for e in judged}
    yield from ((r, q, who) for r, q, who in work.judged if (q, who) not in kept[r])


def in_short(took: list[float]) -> str:
    """The median and the p95 of seconds, in milliseconds."""
    return f"median {statistics.median(took) * 1000:.0f} p95 {p95(took):.0f}"


def main(clients: int, seconds: float, count: int) -> int:
    """Fill, work, print; the number of figures that were not reached."""
    with tempfile.TemporaryDirectory(prefix="jolly-clerk-officers-") as base:
        folder = filled(Path(base), count).folder
        office = open_office(folder, demo=True)
        with read_session(office.engine) as session:
            wanted = select(Case.reference).where(Case.state == "Being checked").order_by(Case.reference)
            references = list(session.scalars(wanted))
        began = time.monotonic()
        clock_job.run_clock(office)  # what became due in years before is done before the day begins
        office.close()
        read_what_waits(folder)  # and so is the text of the demo's scans
        print(f"    the clock job and the readers have done what was due, in {time.monotonic() - began:.0f} s", flush=True)
        server, work = Server(folder), Work()
        signed_in = [Client(server.address, PEOPLE[n % len(PEOPLE)]) for n in range(clients)]
        over = time.monotonic() + seconds
        threads = [
            threading.Thread(target=officer, args=(client, n, references[n::clients], over, work))
            for n, client in enumerate(signed_in)
        ]

        with Pace() as pace:
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            times = pace.between(over - seconds, over)
            quiet = {what: pace.quietened(took) for what, took in work.took.items()}
        server.stop()
        office = open_office(folder, demo=True)
        gone = list(lost(office, work))
        office.close()
    print(f"    the machine took {times:.1f} times as long as a quiet one; in ms, here and so much of it as on a quiet one:")
    for what, took in sorted(work.took.items()):
        print(f"    {what}: {len(took)} answers, {in_short([t for _, t in took])}, {in_short(quiet[what])}")
    all_here, all_quiet = [t for took in work.took.values() for _, t in took], [t for took in quiet.values() for t in took]
    print(f"    all: {len(all_here)} answers, {in_short(all_here)}, {in_short(all_quiet)}")
    reached = p95(all_quiet) <= REACH
    say(
        f"{clients} officers at once, {count} cases",
        f"p95 {p95(all_here):.0f} ms at {times:.1f}, so {p95(all_quiet):.0f}",
        f"p95 <= {REACH:.0f} ms",
        reached,
    )
    say(
        "judgements lost",
        f"{len(gone)} of {len(work.judged)}, {len(work.refused)} refused",
        "none",
        not gone and not work.refused,
    )
    return (not reached) + bool(gone) + bool(work.refused)


if __name__ == "__main__":
    n, length, cases = (int(arg) for arg in (sys.argv[1:] or ["20", "60", "20000"]))
    sys.exit(bool(main(n, length, cases)))
