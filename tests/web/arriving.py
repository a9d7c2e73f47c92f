"""An office before which a file arrives: filed over HTTP, read, and looked at by the officer; filings that are whole but for it."""

from __future__ import annotations

import io
import random
import unittest
from collections.abc import Callable
from copy import deepcopy
from datetime import date, timedelta
from typing import Any, ClassVar

from httpx2 import Client
from PIL import Image
from reportlab.lib.pagesizes import A3, A4, landscape
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from bench.made import passports
from jolly_clerk.demo import dossiers, drawings, papers
from jolly_clerk.demo.stage import answers
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.people.directory import sign_in_by_click
from jolly_clerk.office.preparing.reading_again import read_waiting_pages
from jolly_clerk.web.app import create_app
from jolly_clerk.web.asking import COOKIE, CSRF_HEADER
from tests.helpers import SHARED_READERS, demo_folder
from tests.web import asking

Files = dict[str, tuple[str, bytes]]
Kind = tuple[str, dict[str, Any], Files]


def drawing(
    *said: tuple[float, float, str], size: tuple[float, float] = landscape(A3), draw: Callable[[Canvas], None] | None = None
) -> bytes:
    """A site plan with its scale and its title block, and what is written on it."""
    canvas = Canvas(out := io.BytesIO(), pagesize=size)
    canvas.drawString(40, 20, "Scale 1:200")
    canvas.drawString(size[0] - 250, 20, "Site plan, drawing 4, sheet 1")
    canvas.drawString(300, 300, "workshop 13.3 x 7.2 m")
    for x, y, text in said:
        canvas.drawString(x, y, text)
    if draw:
        draw(canvas)
    canvas.save()
    return out.getvalue()


DISTANCE = (300, 200, "18 m to mean high water")


def scan(content: bytes, seed: int = 1) -> bytes:
    """A paper as a scanner gives it, on a sheet of a PDF."""
    with Image.open(io.BytesIO(papers.scanned(content, seed, 0.6))) as image:
        wide, high = image.width * 72 / 150, image.height * 72 / 150
        canvas = Canvas(out := io.BytesIO(), pagesize=(wide, high))
        canvas.drawImage(ImageReader(image), 0, 0, wide, high)
        canvas.save()
    return out.getvalue()


def in_strips(content: bytes) -> bytes:
    """A scan whose picture is cut into strips."""
    with Image.open(io.BytesIO(papers.scanned(content, 1, 0.0))) as image:
        canvas = Canvas(out := io.BytesIO(), pagesize=A4)
        for top in range(0, image.height, 300):
            strip = image.crop((0, top, image.width, min(image.height, top + 300)))
            high = strip.height * A4[1] / image.height
            canvas.drawImage(ImageReader(strip), 0, A4[1] - top * A4[1] / image.height - high, A4[0], high)
        canvas.save()
    return out.getvalue()


def photographed(name: str, number: str, broken: bool = False) -> bytes:
    """The page of a passport as a photograph."""
    dice = random.Random(name)
    told = passports.passport(dice)
    given, surname = name.upper().split()
    first = f"P<UTO{surname}<<{given}".ljust(44, "<")
    number = number.ljust(9, "<")
    second = f"{number}{passports.digit(number)}" + told.lines[1][10:43]
    second += passports.digit(second[:10] + second[13:20] + second[21:43])
    if broken:
        second = second[:9] + str((int(second[9]) + 1) % 10) + second[10:]
    made = passports.Passport((first, second), number, told.born, told.expires, surname, given, "UTO", broken)
    passports.drawn(made, 300, dice).save(out := io.BytesIO(), "JPEG", quality=88, dpi=(300, 300))
    return out.getvalue()


class Arriving(unittest.TestCase):
    """An office of all six kinds, an applicant and an officer before it."""

    office: ClassVar[Office]
    today: ClassVar[date]

    @classmethod
    def setUpClass(cls) -> None:
        cls.office = open_office(demo_folder(), demo=True)
        cls.office.readers = SHARED_READERS
        cls.addClassCleanup(cls.office.engine.dispose)
        cls.app = create_app(cls.office)
        cls.odalys, cls.imre = cls._come("odalys"), cls._come("imre")
        cls.today = date.today()

    @classmethod
    def _come(cls, person: str) -> Client:
        client = asking(cls.app, raises=True)
        begun = sign_in_by_click(cls.office, person)
        client.cookies.set(COOKIE, begun.secret)
        client.headers[CSRF_HEADER] = begun.csrf
        client.headers["If-Match"] = "*"
        return client

    def asked(self, client: Client, method: str, path: str, **how: Any) -> Any:
        answer = client.request(method, path, **how)
        self.assertLess(answer.status_code, 300, f"{method} {path}: {answer.text[:300]}")
        return answer.json() if answer.content else None

    def prepared(self, kind: Kind) -> str:
        """A draft with these answers and files."""
        name, given, files = kind
        draft = self.asked(self.odalys, "POST", "/api/drafts", json={"kind": name})["id"]
        self.asked(self.odalys, "PUT", f"/api/drafts/{draft}", json={"answers": given})
        for key, (file, content) in files.items():
            slot = key.partition(" ")[0]
            path = f"/api/drafts/{draft}/files"
            self.asked(self.odalys, "POST", path, data={"slot": slot}, files={"file": (file, content)})
        read_waiting_pages(self.office)
        return draft

    def on_the_desk(self, kind: Kind) -> dict[str, dict[str, Any]]:
        """What the officer sees of each requirement once it is filed and paid."""
        draft = self.prepared(kind)
        for said in self.asked(self.odalys, "GET", f"/api/drafts/{draft}")["assessment"]["requirements"]:
            if said["id"].startswith("declarations.") and said["asked"]:
                path = f"/api/drafts/{draft}/declarations/{said['id'].partition('.')[2]}"
                self.asked(self.odalys, "PUT", path, json={"ticked": True})
        self.asked(self.odalys, "POST", f"/api/drafts/{draft}/signature", json={"name": "Odalys Renn"})
        filed = self.odalys.post(f"/api/drafts/{draft}/filing", json={"take_gaps": True})
        if filed.status_code == 409:  # what is plainly wrong is told, and stops it here
            seen = self.asked(self.odalys, "GET", f"/api/drafts/{draft}")
        else:
            self.assertEqual(filed.status_code, 201, filed.text[:300])
            case = f"/api/cases/{filed.json()['reference']}"
            self.paid(case)
            self.asked(self.imre, "POST", f"{case}/checking", json={})
            seen = self.asked(self.imre, "GET", case)
        return {r["id"]: r for r in seen["assessment"]["requirements"]}

    def paid(self, case: str) -> None:
        """Pay what is open by card, if anything is."""
        if self.asked(self.odalys, "GET", case)["assessment"]["state"] == "Waiting for payment":
            key = self.asked(self.odalys, "POST", f"{case}/payments", json={})["key"]
            self.asked(self.odalys, "POST", f"/api/terminal/{key}", json={"outcome": "approved"})

    def check(self, kind: Kind, requirement: str, standing: str, words: str) -> None:
        """What is proposed for a requirement, and the words with which it is told."""
        seen = self.on_the_desk(kind)
        self.assertIn(requirement, seen)
        r = seen[requirement]
        told = " ".join([r["because"], *(f["text"] for f in r["findings"]), *_statements(r)])
        self.assertEqual(r["proposed"], standing, told)
        self.assertRegex(told, words)


def _statements(r: dict[str, Any]) -> list[str]:
    return [f"{s['label']}: {s['said']}" for s in (r["table"] or {"statements": []})["statements"]]


def works(plan: bytes, **changes: Any) -> Kind:
    """Building works with one plan."""
    given = answers(**changes)
    given["filer"]["name"] = "Odalys Renn"
    given["site"]["start"] = (date.today() + timedelta(days=150)).isoformat()
    return "BW", given, {"site_plan": ("plan.pdf", plan), "sections": ("sections.pdf", drawings.sections("4 Saltern Slip"))}


def other(kind: str, made: tuple[dict[str, Any], list[tuple[str, str, bytes]]]) -> Kind:
    """A filing of another kind, as the demo makes them."""
    given, files = made
    return kind, deepcopy(given), {slot: (name, content) for slot, name, content in files}


def with_file(kind: Kind, slot: str, name: str, content: bytes) -> Kind:
    """The same filing with another paper in a slot."""
    return kind[0], kind[1], {**kind[2], slot: (name, content)}


def tour() -> Kind:
    return other("QV", dossiers.tour(date.today(), "Odalys Renn", "The Tide Players", (("Basil Rook", 34), ("Hanna Mole", 29))))


def surveyor(**more: Any) -> Kind:
    return other("PL", dossiers.surveyor(date.today(), "Odalys Renn", **more))


def stall() -> Kind:
    return other("TL", dossiers.stall(date.today(), "Odalys Renn", ("fish_quay",)))


def patent(**more: Any) -> Kind:
    return other("IP", dossiers.patent("Odalys Renn", "Winch that holds", **more))
