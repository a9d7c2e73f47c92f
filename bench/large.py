"""An office as large as a country's: filled by import, then what people wait for, what jobs take, and the ratio to the bare SQL.

python -m bench.large 20000        as ``make bench`` does it
python -m bench.large 200000       as ``make bench-large`` does it; takes up to an hour
"""

from __future__ import annotations

import gc
import io
import itertools
import json
import os
import random
import shutil
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import event, select

from bench.pace import Pace, at_pace
from jolly_clerk.core.reference import make_reference
from jolly_clerk.demo.lay import lay
from jolly_clerk.office.cases import clock_job, in_tray, lists
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking
from jolly_clerk.office.keeping.importing import Imported, import_cases
from jolly_clerk.office.keeping.verifying import Verified, verify
from jolly_clerk.office.office import Office, Who, open_office
from jolly_clerk.office.people.directory import person
from jolly_clerk.office.views.case import look_at
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, Person

FIRST = (
    "Ada", "Bo", "Corvin", "Dorit", "Edda", "Finn", "Gesa", "Hanno",
    "Ilka", "Jory", "Kerra", "Loveday", "Merryn", "Nessa", "Odo", "Pasco",
)  # fmt: skip
LAST = (
    "Marsh", "Fenn", "Pell", "Quay", "Reed", "Sark", "Tregar", "Ushant",
    "Varr", "Wick", "Yarrow", "Zennor", "Holt", "Oake", "Lune", "Vey",
)  # fmt: skip
PLACES = (
    "Fathom Street", "Saltern Slip", "Harbour Stairs", "Marram Point",
    "Widgeon Lane", "Kiln Row", "Pilot Hill", "Sand Quay",
)  # fmt: skip
WORKS = ("Workshop roof", "Bakehouse", "Boat shed", "Lime kiln", "Hen house", "Stable", "Net loft", "Cistern")
#: one applicant has so many cases, and one has three
MANY, FEW = 5_000, 3
ROUNDS = 40


def p95(times: list[float]) -> float:
    """The 95th percentile, in milliseconds."""
    return sorted(times)[max(0, -(-95 * len(times) // 100) - 1)] * 1000


class Lines:
    """The lines of an import: of five cases four ended and are kept as they came, one lives and is like one of the demo."""

    def __init__(self, office: Office, count: int) -> None:
        self.random, self.count = random.Random(count), count
        self.people = max(20, count * 3 // 10)
        self.templates = list(self._templates(office))

    def _templates(self, office: Office) -> Iterator[dict[str, Any]]:
        clerk = person(office, "maud")
        with read_session(office.engine) as session:
            cases = list(session.scalars(select(Case).where(Case.tray == "intake").order_by(Case.reference)))
        for case in cases:
            loaded = load_case(office, clerk, case.reference)
            account = loaded.assessment.account
            attached = {a.sha256: a for v in loaded.history.versions for a in v.dossier.attachments}
            yield {
                "kind": case.kind, "title": case.title, "state": case.state, "filed_at": case.filed_at.isoformat(),
                "changed_at": case.changed_at.isoformat(), "paid": str(account.paid), "open": str(account.open),
                "versions": [{"no": v.no, "at": v.at.isoformat(), "dossier": v.dossier.model_dump(mode="json")} for v in loaded.history.versions],
                "entries": [e.model_dump(mode="json") | ({"who": "applicant"} if e.who == case.applicant_id else {}) for e in loaded.history.entries],
                "files": [{"name": a.name[:200], "path": f"{h[:2]}/{h}"} for h, a in attached.items()],
            }  # fmt: skip

    def applicant(self, n: int) -> dict[str, str]:
        """Who applied for case n: one has many, one few, the others a long tail."""
        who = (
            0
            if (n < MANY and n % 2 == 0) or (n < 2 * MANY and self.count < 4 * MANY and n % 2 == 0)
            else 1
            if n in (1, 3, 5)
            else 2 + (n * 7919) % self.people
        )
        return {"name": f"{FIRST[who % 16]} {LAST[who // 16 % 16]} {who}", "mail": f"p{who}@post.example"}

    def text(self, size: int) -> str:
        """Made-up words that read like a file."""
        words = (
            self.random.choice((*PLACES, *WORKS, *FIRST, *LAST, "timber", "masonry", "drain", "tide", "slate", "lead"))
            for _ in itertools.count()
        )
        made, length = [], 0
        while length < size:
            made.append(next(words))
            length += len(made[-1]) + 1
        return " ".join(made)

    def __iter__(self) -> Iterator[str]:
        receipts = itertools.count(1)
        for n in range(self.count):
            yield json.dumps(self.living(n, receipts) if n % 5 == 4 else self.kept(n))

    def living(self, n: int, receipts: Iterator[int]) -> dict[str, Any]:
        """One that lives, with its own number and receipts."""
        template = self.templates[n // 5 % len(self.templates)]
        entries = [e | ({"receipt": f"2019-{next(receipts):05}"} if e.get("receipt") else {}) for e in template["entries"]]
        reference = make_reference(template["kind"], 2010, n + 1)
        return template | {"reference": reference, "applicant": self.applicant(n), "entries": entries}

    def kept(self, n: int) -> dict[str, Any]:
        """One that ended long ago, with five thousand characters of text."""
        year, place = 1995 + n % 30, f"{n % 997} {PLACES[n % 8]}"
        filed = datetime(year, 1 + n % 12, 1 + n % 28, 9, tzinfo=UTC)
        return {
            "reference": f"OLD/{year}/{n:06}", "kind": ("BW", "TL", "PL")[n % 3], "title": f"{WORKS[n % 8]}, {place}",
            "state": ("Granted", "Refused", "Withdrawn", "Lapsed")[n % 4], "filed_at": filed.isoformat(),
            "changed_at": (filed + timedelta(days=60 + n % 300)).isoformat(), "applicant": self.applicant(n), "kept": True,
            "answers": [
                {"label": "Place", "value": place}, {"label": "Plot", "value": f"Q-{n % 9000}/{n % 7}"},
                {"label": "Passport", "value": f"QH{1_000_000 + n}"}, {"label": "Account", "value": self.text(2_400)},
            ],
            "steps": [{"at": (filed + timedelta(days=d)).isoformat(), "text": self.text(420), "who": "Registry"} for d in (1, 9, 20, 33, 47, 59)],
        }  # fmt: skip


@contextmanager
def statements(office: Office) -> Iterator[list[tuple[str, Any]]]:
    """The statements that are sent to the database meanwhile, with their parameters."""
    sent: list[tuple[str, Any]] = []

    def note(_c: object, _k: object, statement: str, parameters: Any, *_: object) -> None:
        sent.append((statement, parameters))

    event.listen(office.engine, "before_cursor_execute", note)
    try:
        yield sent
    finally:
        event.remove(office.engine, "before_cursor_execute", note)


class Measured:
    """Times of what people wait for, in the server, and of the bare statements that it sends."""

    def __init__(self, office: Office) -> None:
        self.office = office
        self.bare = sqlite3.connect(office.folder / "office.db")

    def look(self, work: Callable[[int], Any], rounds: int = ROUNDS) -> tuple[float, float]:
        """The p95 in milliseconds, and the ratio of the median to that of the bare statements."""
        work(0)
        times, bare = [], []
        for n in range(1, rounds + 1):
            with statements(self.office) as sent:
                began = time.perf_counter()
                work(n)
                times.append(time.perf_counter() - began)
            began = time.perf_counter()
            for statement, parameters in sent:
                if statement.lstrip()[:6].lower() == "select":
                    self.bare.execute(statement, parameters).fetchall()
            bare.append(time.perf_counter() - began)
        return p95(times), statistics.median(times) / max(statistics.median(bare), 1e-6)


def say(name: str, figure: str, reach: str, well: bool) -> None:
    """Print one figure beside what is to be reached."""
    print(f"{name:52} {figure:>30}   {reach:34} {'reached' if well else 'NOT REACHED'}", flush=True)


@dataclass(frozen=True)
class Filled:
    """A demo office with so many cases more: where it is, what came of the import, and from when to when it was at work (monotonic)."""

    folder: Path
    done: Imported
    began: float
    ended: float

    @property
    def rate(self) -> float:
        """Cases a second."""
        return (self.done.taken + self.done.kept) / (self.ended - self.began)


def filled(base: Path, count: int) -> Filled:
    """Lay a demo office, and import so many cases more."""
    folder = base / "office"
    lay(folder, False, None)
    office = open_office(folder, demo=True)
    lines, report = Lines(office, count), io.StringIO()
    office.close()
    given = base / "lines.jsonl"
    with given.open("w", encoding="utf-8") as out:
        out.writelines(line + "\n" for line in lines)
    began, done = time.monotonic(), Imported()
    with given.open(encoding="utf-8") as lines_again:
        for done in import_cases(folder, lines_again, folder / "vault", report):
            if (done.taken + done.kept) % 25_000 < 250:
                print(f"    {done.taken + done.kept} cases", flush=True)
    ended = time.monotonic()
    given.unlink()
    if report.getvalue():
        print("   refused: " + report.getvalue()[:400])
    return Filled(folder, done, began, ended)


def lists_of(office: Office, clerk: Who, few: Who, many: Who) -> dict[str, tuple[Callable[[int], Any], float]]:
    """What people look at, each with the milliseconds that are to be reached (0 where it is printed alone)."""
    looks: dict[str, tuple[Callable[[int], Any], float]] = {
        f"in-tray, {whose}": (lambda _, w=whose: lists.tray(office, clerk, w), 50.0)
        for whose in ("mine", "nobody's yet", "everyone's")
    }
    looks |= {
        f"in-tray, {view}": (lambda _, v=view: lists.tray(office, clerk, "everyone's", "", v), 50.0) for view in in_tray.VIEWS
    }
    looks["in-tray, one kind"] = (lambda _: lists.tray(office, clerk, "everyone's", "BW"), 50.0)
    for name, words in {
        "a name turned round": lambda n: f"{LAST[n % 16]} {FIRST[n % 16]}",
        "a plot": lambda n: f"Q-{n * 31 % 9000}/{n % 7}",
        "a passport number": lambda n: f"QH{1_000_000 + n * 5}",
        "a reference": lambda n: f"old 2005 {n * 30 + 10:06}",
        "a word of a text": lambda n: ("slate", "masonry", "tide")[n % 3],
        "two letters": lambda n: ("od", "ma", "ki")[n % 3],
        "nothing that is there": lambda n: f"zzgq{n}",
    }.items():
        looks[f"search, {name}"] = (lambda n, w=words: lists.search(office, clerk, w(n)), 80.0)
    looks["my cases, 3 of them"] = (lambda _: lists.my_cases(office, few), 0.0)
    looks["my cases, 5 000 of them"] = (lambda _: lists.my_cases(office, many), 0.0)
    return looks


def work_of(office: Office, count: int) -> dict[str, Callable[[int], Any]]:
    """What is done to a case: opening, judging."""
    clerk = person(office, "maud")
    wanted = select(Case.reference).where(Case.state == "Being checked").order_by(Case.reference).limit(count)
    with read_session(office.engine) as session:
        references = list(session.scalars(wanted))
    first = {r: next(q.id for q in load_case(office, clerk, r).assessment.requirements if q.asked) for r in references}

    def judge(n: int) -> None:
        reference = references[n % len(references)]
        checking.judge(office, clerk, reference, first[reference], "met" if n % 2 else "in doubt")

    return {"opening": lambda n: look_at(office, clerk, references[n % len(references)]), "judging": judge}


def memory_of(process: int) -> float:
    """The resident memory of a process, in MB."""
    text = Path(f"/proc/{process}/status").read_text("utf-8")
    return int(text.split("VmRSS:")[1].split()[0]) / 1000


def served(folder: Path) -> tuple[float, float]:
    """Seconds from the start to ready, and the memory of the serving process after some requests, in MB."""
    import urllib.request

    port = 8471
    command = [sys.executable, "-m", "jolly_clerk.cli", "serve", "--demo", "--data", str(folder), "--port", str(port)]
    began = time.perf_counter()
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        while True:
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/health", timeout=1)
                break
            except OSError:
                time.sleep(0.02)
        ready = time.perf_counter() - began
        time.sleep(3)
        return ready, memory_of(server.pid)
    finally:
        server.terminate()
        server.wait(10)


def small(base: Path, pace: Pace) -> dict[str, tuple[float, float]]:
    """What opening and judging cost in the demo filled up to a thousand cases: the p95, and how much slower the machine was."""
    office = open_office(filled(base / "small", 1_000).folder, demo=True)
    try:
        measured = Measured(office)
        each = {name: pace.over(lambda: measured.look(work)) for name, work in work_of(office, 20).items()}  # noqa: B023
        return {name: (took, times) for name, ((took, _), times) in each.items()}
    finally:
        office.close()


def main(count: int) -> int:
    """Fill, measure, print; the number of figures that were not reached."""
    with Pace() as pace:
        return measured_at(count, pace)


def measured_at(count: int, pace: Pace) -> int:
    """The same, at a pace."""
    base = Path(tempfile.mkdtemp(prefix="jolly-clerk-large-"))
    missed = 0

    def told(name: str, figure: str, reach: str, well: bool) -> None:
        nonlocal missed
        missed += not well
        say(name, figure, reach, well)

    print(
        "    “at 2.0”: meanwhile the machine took twice as long as a quiet one; figures are judged at the pace of that",
        flush=True,
    )
    try:
        before, large = small(base, pace), filled(base, count)
        folder, rate, done, times = large.folder, large.rate, large.done, pace.between(large.began, large.ended)
        told("import, cases a second", at_pace(rate, times), ">= 500", rate * times >= 500)
        told(
            "imported: as our own, kept, refused", f"{done.taken}, {done.kept}, {done.refused}", "none refused", done.refused == 0
        )
        size = (folder / "office.db").stat().st_size / 1e6
        print(f"    database {size:.0f} MB, {size / count * 1000:.1f} kB a case", flush=True)
        office = open_office(folder, demo=True)
        gc.collect()
        gc.freeze()  # as the server does once it has started
        measured, clerk = Measured(office), person(office, "imre")
        with read_session(office.engine) as session:
            few, many = (session.scalars(select(Person.id).where(Person.mail == f"p{n}@post.example")).one() for n in (1, 0))
        looks = lists_of(office, clerk, person(office, few), person(office, many))
        for name, (work, most) in looks.items():
            (took, ratio), times = pace.over(lambda: measured.look(work))  # noqa: B023
            reach = f"p95 <= {most:.0f} ms" if most else "no more than its page"
            reach += ", <= 3 x SQL" if name.startswith("in-tray") else ""
            told(
                name,
                f"p95 {took:.1f} ms at {times:.1f}, {ratio:.1f} x SQL",
                reach,
                not most or (took / times <= most and (ratio <= 3 or not name.startswith("in-tray"))),
            )
        for name, work in work_of(office, 20).items():
            (took, _), times = pace.over(lambda: measured.look(work))  # noqa: B023
            took_before, times_before = before[name]
            told(
                f"{name} a case",
                f"p95 {took:.1f} ms at {times:.1f}, 1 000: {took_before:.1f} at {times_before:.1f}",
                "<= 1.5 x what 1 000 cost",
                took / times <= 1.5 * took_before / times_before,
            )
        clock_job.run_clock(office)
        began = time.monotonic()
        clock_job.run_clock(office)
        took, times = time.monotonic() - began, pace.between(began, time.monotonic())
        told("clock job with nothing due", f"{took:.2f} s at {times:.1f}", "<= 1 s", took / times <= 1)
        began, seen = time.perf_counter(), Verified()

        def progress(now: Verified) -> None:
            seen.cases = now.cases

        cores = os.cpu_count() or 1  # as the command does
        found, times = pace.over(lambda: list(verify(office, progress=progress, workers=cores)))
        wrong = [line for line in found if "receipt 20" not in line]
        per_second = seen.cases / (time.perf_counter() - began)
        told("verify, cases a second", at_pace(per_second, times), ">= 500", per_second * times >= 500)
        told("verify: wrong", f"{len(wrong)} {wrong[:1]}", "nothing", not wrong)
        office.close()
        (ready, memory), times = pace.over(lambda: served(folder))
        told("start to ready", f"{ready:.1f} s at {times:.1f}", "<= 5 s", ready / times <= 5)
        told("memory of the serving process", f"{memory:.0f} MB", "<= 250 MB", memory <= 250)
    finally:
        shutil.rmtree(base, ignore_errors=True)
    print(f"{os.cpu_count()} cores; {missed} not reached", flush=True)
    return missed


if __name__ == "__main__":
    sys.exit(1 if main(int(sys.argv[1]) if len(sys.argv) > 1 else 20_000) else 0)
