"""Many clients at once for a while: each reads, types and judges as fast as it is answered; every status is counted.

``python -m bench.clients 60 60``: so many clients, so many seconds. It talks to a server of its own on this machine only.
"""

from __future__ import annotations

import statistics
import sys
import threading
import time
import urllib.error
from collections import Counter
from collections.abc import Callable
from http.client import HTTPException
from typing import Any

from bench.kills import Client
from tests.browser.house import Server
from tests.helpers import demo_folder

PEOPLE = ("odalys", "tamsin", "corvin", "imre", "brisa", "jonas", "maud")


def run(clients: int, seconds: float) -> tuple[Counter[int], float, float]:
    """Statuses by how often, the median and the slowest answer in seconds."""
    server = Server(demo_folder())
    statuses, times, over = Counter[int](), list[float](), time.monotonic() + seconds

    def counted(ask: Callable[[], Any]) -> Any:
        began = time.monotonic()
        try:
            answer, status = ask(), 200
        except urllib.error.HTTPError as error:
            answer, status = None, error.code
        except (OSError, HTTPException):
            answer, status = None, 599
        statuses[status] += 1
        times.append(time.monotonic() - began)
        return answer

    def work(n: int) -> None:
        who = PEOPLE[n % len(PEOPLE)]
        client = Client(server.address, who)
        applicant = who in PEOPLE[:3]
        draft = client.ask("POST", "/api/drafts", {"kind": "BW"})["id"] if applicant else ""
        references = (
            []
            if applicant
            else [r["reference"] for group in client.ask("GET", "/api/tray?whose=everyone's")["groups"] for r in group["rows"]]
        )
        round_ = 0
        while time.monotonic() < over:
            round_ += 1
            if applicant:
                typed = {"answers": {"works": {"what": f"Shed {round_}", "area": str(10 + round_ % 80)}}}
                counted(lambda: client.ask("PUT", f"/api/drafts/{draft}", typed))  # noqa: B023
                counted(lambda: client.ask("GET", "/api/my-cases"))
            else:
                reference = references[(n * 7 + round_) % len(references)]
                counted(lambda: client.ask("POST", f"/api/cases/{reference}/notes", {"text": f"Seen, {round_}."}))  # noqa: B023
                counted(lambda: client.ask("GET", "/api/tray?whose=mine"))

    threads = [threading.Thread(target=work, args=(n,)) for n in range(clients)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    server.stop()
    return statuses, statistics.median(times), max(times)


if __name__ == "__main__":
    count, length = (int(arg) for arg in (sys.argv[1:] or ["60", "60"]))
    told, median, slowest = run(count, length)
    print(f"{count} clients for {length} s: {told.total()} answers {dict(told)}, median {median:.2f} s, slowest {slowest:.2f} s")
    sys.exit(any(status >= 500 for status in told))
