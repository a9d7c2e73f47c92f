"""Bytes of the answers to a judgement and to a kept answer: every case and draft of the demo, and groups of thirty.

``python -m bench.sizes`` lays a demo of its own and asks the application in this process.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.people.directory import sign_in_by_click
from jolly_clerk.web.app import create_app
from jolly_clerk.web.asking import COOKIE, CSRF_HEADER
from tests.helpers import demo_folder

APPLICANTS, OFFICERS = ("odalys", "tamsin", "corvin"), ("imre", "brisa", "jonas", "maud")
#: parts that repeat for each person or each site
GROUPS = {"persons", "sites"}


def client(office: Office, person: str) -> TestClient:
    """Somebody signed in."""
    begun = sign_in_by_click(office, person)
    made = TestClient(create_app(office))
    made.cookies.set(COOKIE, begun.secret)
    made.headers[CSRF_HEADER] = begun.csrf
    return made


def judgements(office: Office) -> Iterator[tuple[str, int]]:
    """For each case that an officer is checking: what it is called, and the bytes of the answer to one judgement."""
    for officer in OFFICERS:
        asked = client(office, officer)
        tray = asked.get("/api/tray", params={"whose": "mine"}).json()
        for row in (row for group in tray["groups"] for row in group["rows"]):
            path = f"/api/cases/{row['reference']}"
            view = asked.get(path).json()
            lines = [r for r in view["assessment"]["requirements"] if r["asked"] and not r["judged"]]
            if not lines:
                continue
            sent = {"requirement": lines[0]["id"], "standing": "met", "reason": "Looked at."}
            answer = asked.post(f"{path}/judgements", json=sent, headers={"If-Match": f'"{view["revision"]}"'})
            if answer.status_code == 200:
                yield f"{row['reference']} {row['title']}", len(answer.content)


def kept_answers(office: Office) -> Iterator[tuple[str, int]]:
    """For each draft: what it is called, and the bytes of the answer to one answer kept; then with thirty of what repeats."""
    for applicant in APPLICANTS:
        asked = client(office, applicant)
        for row in asked.get("/api/drafts").json():
            path = f"/api/drafts/{row['id']}"
            view = asked.get(path).json()
            kept = one_answer(asked, path, view)
            if kept:
                yield row["title"], kept
            for part, items in view["dossier"]["answers"].items():
                if part in GROUPS and items:
                    many = [{**items[n % len(items)], "id": n + 1} for n in range(30)]
                    now = asked.get(path).json()
                    headers = {"If-Match": f'"{now["revision"]}"'}
                    asked.put(
                        path, json={"answers": {**now["dossier"]["answers"], part: many}}, headers=headers
                    ).raise_for_status()
                    yield f"{row['title']}, 30 {part}", one_answer(asked, path, asked.get(path).json())


def one_answer(asked: TestClient, path: str, view: dict[str, Any]) -> int:
    """The bytes of the answer to one more letter in the first text of a draft; 0 if it has none."""
    answers = view["dossier"]["answers"]
    for part in asked.get(f"/api/editions/{view['edition_sha256']}/form").json()["parts"]:
        given = answers.get(part["id"])
        row = given[-1] if isinstance(given, list) and given else given
        texts = (q["id"] for q in part["questions"] if q["type"] in ("text", "long text") and row and row.get(q["id"]))
        question = next(texts, None)
        if question is None:
            continue
        changed = {**row, question: f"{row[question]}s"}
        sent = {**answers, part["id"]: [*given[:-1], changed] if isinstance(given, list) else changed}
        answer = asked.put(path, json={"answers": sent}, headers={"If-Match": f'"{view["revision"]}"'})
        return len(answer.raise_for_status().content)
    return 0


def run(folder: Path | None = None) -> tuple[list[tuple[str, int]], list[tuple[str, int]]]:
    """Judgements and kept answers, the longest answer first."""
    office = open_office(folder or demo_folder(), demo=True)
    try:
        by_size = [sorted(found(office), key=lambda pair: -pair[1]) for found in (judgements, kept_answers)]
        return by_size[0], by_size[1]
    finally:
        office.close()


if __name__ == "__main__":
    for name, found in zip(("judgement", "kept answer"), run(), strict=True):
        for what, size in found:
            print(f"{name:12} {size:8} bytes  {what}")
