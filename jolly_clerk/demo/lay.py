"""The Quillhaven demo: people, editions and building works cases in every state of the intake.

Cases come about only by the functions that a person's clicks call, at instants relative to today.
"""

from __future__ import annotations

import shutil
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from pathlib import Path
from typing import Any

from jolly_clerk.core.time.calendar import DAY, Calendar
from jolly_clerk.demo import drawings
from jolly_clerk.office import answering, checking, drafts, filing, paying
from jolly_clerk.office.casework import load_case
from jolly_clerk.office.office import Office, Who, open_office
from jolly_clerk.office.people import add_person
from jolly_clerk.office.rulebooks import office_calendar, publish
from jolly_clerk.shelf.rulebooks import SHIPPED, editions_in
from jolly_clerk.store.database import writing
from jolly_clerk.store.tables import Counter

PEOPLE = (
    ("odalys", "Odalys Renn", "applicant"),
    ("tamsin", "Tamsin Oake", "applicant"),
    ("corvin", "Corvin Pell", "applicant"),
    ("imre", "Imre Holt", "officer"),
    ("brisa", "Brisa Quay", "officer"),
    ("jonas", "Jonas Wick", "officer"),
    ("maud", "Maud Ferrier", "lead"),
    ("silas", "Silas Thorne", "reviewer"),
    ("petra", "Petra Lune", "rule-keeper"),
    ("anselm", "Anselm Gray", "auditor"),
)


@dataclass
class Stage:
    """The demo's own clock: moved by hand, so that each click happens at its instant."""

    office: Office
    who: dict[str, Who]
    calendar: Calendar
    today: date
    instant: datetime

    def go(self, working_days_back: int, hour: int, minute: int = 0) -> None:
        """To a working day before today, at an hour of Lisbon; 0 is today, or the last working day before it."""
        day = self.today
        while not self.calendar.is_working(day):
            day -= DAY
        for _ in range(working_days_back):
            day -= DAY
            while not self.calendar.is_working(day):
                day -= DAY
        self.instant = datetime.combine(day, time(hour, minute), self.calendar.zone).astimezone(UTC)

    def back(self, hours: float) -> None:
        """To so many hours before now."""
        self.instant = datetime.now(UTC) - timedelta(hours=hours)

    def later(self, minutes: int) -> None:
        """A little later."""
        self.instant += timedelta(minutes=minutes)


def lay(folder: Path, fresh: bool = False) -> str:
    """Lay the demo data into ``folder``; says what it did."""
    if (folder / "office.db").exists() and not fresh:
        return f"{folder}: the demo data is laid already."
    if folder.exists():
        shutil.rmtree(folder)
    building = folder.with_name(folder.name + ".building")
    shutil.rmtree(building, ignore_errors=True)
    office = open_office(building, demo=True)
    try:
        count = _lay(office)
    finally:
        office.close()
    building.rename(folder)
    return f"{folder}: {count} cases of Quillhaven laid."


def _lay(office: Office) -> int:
    for edition in editions_in(SHIPPED):
        publish(office, edition)
    who = {id_: add_person(office, id_, name, role, f"{id_}@post.quillhaven.example") for id_, name, role in PEOPLE}
    calendar = office_calendar(office)
    stage = Stage(office, who, calendar, calendar.local_day(datetime.now(UTC)), datetime.now(UTC))
    office.now = lambda: stage.instant
    with writing(office.engine) as session:
        session.add(Counter(name=f"case BW {stage.today.year}", last=397))
    for scene in SCENES:
        scene(stage)
    return len(SCENES)


def answers(**changes: Any) -> dict[str, Any]:
    """A whole set of answers, with some of them changed (``part_question=value``); None leaves one out."""
    base: dict[str, dict[str, Any]] = {
        "place": {"address": "4 Saltern Slip", "plot": "Q-114/2", "role": "owner", "listed": False},
        "works": {
            "what": "New workshop roof",
            "use": "workshop",
            "built_of": "timber",
            "area": "95.8",
            "estimate": "31000.00",
            "distance": "18",
            "begun_yet": False,
        },
        "service": {"speed": "normal"},
    }
    for key, value in changes.items():
        part, _, question = key.partition("_")
        if value is None:
            base[part].pop(question, None)
        else:
            base[part][question] = value
    return base


Files = list[tuple[str, str, bytes]]


def prepare(s: Stage, who: str, given: dict[str, Any], files: Files, signed: bool = True, own: str = "") -> str:
    """A draft with these answers and files; returns its id."""
    person = s.who[who]
    draft = drafts.start_draft(s.office, person, "BW")
    drafts.keep(s.office, person, draft, None, answers=given, own_reference=own)
    for slot, name, content in files:
        s.later(1)
        drafts.attach(s.office, person, draft, slot, name, content)
    if signed:
        s.later(2)
        drafts.sign(s.office, person, draft, person.name)
    return draft


def file_and_pay(s: Stage, who: str, draft: str, pay: bool = True) -> str:
    """File a draft, gaps and all, and pay by card; returns the reference."""
    s.later(3)
    reference = filing.file(s.office, s.who[who], draft, take_gaps=True)
    if pay:
        s.later(4)
        at = paying.ask_payment(s.office, s.who[who], reference)
        paying.terminal_says(s.office, s.who[who], at.key, "approved")
    return reference


def judge_all(
    s: Stage, officer: str, reference: str, special: dict[str, tuple[str, str]] | None = None, only: int | None = None
) -> None:
    """Judge the checklist: *met*, but for what ``special`` says (standing, reason)."""
    special = special or {}
    asked = [r for r in load_case(s.office, s.who[officer], reference).assessment.requirements if r.asked]
    for r in asked[:only]:
        s.later(1)
        standing, reason = special.get(r.id, ("met", ""))
        checking.judge(s.office, s.who[officer], reference, r.id, standing, reason)  # type: ignore[arg-type]


def plan(
    place: str, what: str, w: float, d: float, distance: float, sheet: str = "A3", name: str = "site-plan.pdf"
) -> tuple[str, str, bytes]:
    """A site plan for its slot."""
    return ("site_plan", name, drawings.site_plan(place, what, w, d, distance, sheet, scale_bar=sheet == "A3"))


def roof(place: str, name: str = "roof-sections.pdf") -> tuple[str, str, bytes]:
    """Sections for their slot."""
    return ("sections", name, drawings.sections(place))


def saltern_slip(s: Stage) -> None:
    """Answers came back an hour ago: the workshop roof, with a change that nobody asked for."""
    s.go(14, 9, 12)
    given = answers()
    draft = prepare(
        s, "odalys", given, [plan("4 Saltern Slip", "workshop", 13.3, 7.2, 18, "A4", "site-plan-rev-b.pdf")], own="roof-4"
    )
    reference = file_and_pay(s, "odalys", draft)
    s.go(12, 10, 5)
    checking.begin_checking(s.office, s.who["imre"], reference)
    wanting = {"documents.site_plan": ("wanting", ""), "documents.sections": ("wanting", "")}
    judge_all(s, "imre", reference, wanting)
    s.go(9, 15, 20)
    text = (
        "Send the site plan again on A3 or larger, drawn to 1:200 or 1:500, with a scale bar. State how the 18 m were measured."
    )
    checking.word_point(s.office, s.who["imre"], reference, "documents.site_plan", text)
    checking.send_letter(s.office, s.who["imre"], reference)
    s.back(1.2)
    draft = answering.begin_answering(s.office, s.who["odalys"], reference)
    person = s.who["odalys"]
    before = drafts.open_draft(s.office, person, draft)
    drafts.detach(s.office, person, draft, before.dossier.attachments[0].id)
    for slot, name, content in (
        plan("4 Saltern Slip", "workshop", 11.4, 7.2, 11.2, "A3", "site-plan-rev-c.pdf"),
        roof("4 Saltern Slip", "roof-sections-a3.pdf"),
    ):
        drafts.attach(s.office, person, draft, slot, name, content)
    given = answers(works_area="82.1")
    words = {1: "We measured again from the new survey pin. The old plan was taken from the quay wall.", 2: "Here they are."}
    drafts.keep(s.office, person, draft, None, answers=given, note="Sorry about the old plan.", words=words)
    answering.send_answers(s.office, person, draft)


def lean_to(s: Stage) -> None:
    """A draft, half filled."""
    s.back(20)
    given = answers(
        place_address="17 Ropewalk", place_plot="Q-88", works_what="Glass lean-to", works_built_of="glass", works_use="dwelling",
        works_area="14.5", works_estimate="16500", works_begun_yet=None, service_speed=None, works_distance="140",
    )  # fmt: skip
    prepare(s, "odalys", given, [plan("17 Ropewalk", "lean-to", 5, 2.9, 140)], signed=False, own="lean-to")


def tarry_steps(s: Stage) -> None:
    """Answers wanted, due in a few days, with the answers half written."""
    s.go(26, 11)
    given = answers(
        place_address="1 Tarry Steps", place_plot="Q-31/4", place_role="tenant", works_what="Slipway winch house",
        works_use="boathouse", works_built_of="masonry", works_area="22", works_estimate="11000", works_distance="6.5",
    )  # fmt: skip
    draft = prepare(
        s, "corvin", given, [plan("1 Tarry Steps", "winch house", 5.5, 4, 6.5), roof("1 Tarry Steps")], signed=True, own="winch"
    )
    reference = file_and_pay(s, "corvin", draft)
    s.go(24, 9, 30)
    checking.begin_checking(s.office, s.who["imre"], reference)
    wanting = {"documents.consent": ("wanting", ""), "may-act": ("wanting", ""), "value-plausible": ("wanting", "")}
    judge_all(s, "imre", reference, wanting)
    s.go(19, 10)
    checking.send_letter(s.office, s.who["imre"], reference)


def ropemaker(s: Stage) -> None:
    """Being checked, runs out tomorrow, almost all judged."""
    s.go(9, 10)
    given = answers(
        place_address="9 Ropemaker Row", place_plot="Q-202", works_what="Store behind the net loft", works_use="store",
        works_area="38", works_estimate="9500", works_distance="64",
    )  # fmt: skip
    draft = prepare(s, "tamsin", given, [plan("9 Ropemaker Row", "store", 9.5, 4, 64), roof("9 Ropemaker Row")])
    reference = file_and_pay(s, "tamsin", draft)
    s.go(7, 9)
    checking.begin_checking(s.office, s.who["imre"], reference)
    judge_all(s, "imre", reference, only=7)


def chandlery(s: Stage) -> None:
    """Filed, nobody's yet: new windows in a listed chandlery, fast."""
    s.go(3, 12)
    given = answers(
        place_address="2 Lantern Quay", place_plot="Q-7/1", place_role="agent", place_listed=True, works_what="New windows in the chandlery",
        works_use="dwelling", works_built_of="masonry", works_area="12", works_estimate="24000", works_distance="21.5",
        works_repair=True, service_speed="fast", service_reason="storm",
    )  # fmt: skip
    files = [
        plan("2 Lantern Quay", "chandlery", 8, 6, 21.5),
        roof("2 Lantern Quay"),
        ("consent", "consent-scan.jpg", drawings.scanned_consent(7)),
    ]
    file_and_pay(s, "corvin", prepare(s, "corvin", given, files))


def boathouse(s: Stage) -> None:
    """Filed today, nobody's yet, with a damaged file."""
    s.back(5)
    given = answers(
        place_address="5 Heron Landing", place_plot="Q-160", works_what="Boathouse with a slip", works_use="boathouse",
        works_area="61.5", works_estimate="33000", works_distance="3",
    )  # fmt: skip
    broken = drawings.sections("5 Heron Landing")[:900]
    files = [plan("5 Heron Landing", "boathouse", 10.2, 6, 3), ("sections", "sections-final.pdf", broken)]
    file_and_pay(s, "tamsin", prepare(s, "tamsin", given, files))


def unpaid(s: Stage) -> None:
    """Waiting for payment."""
    s.go(2, 15)
    given = answers(
        place_address="28 Skerry Lane", place_plot="Q-93/7", works_what="Shed for two boats", works_use="store",
        works_area="24", works_estimate="7400", works_distance="55",
    )  # fmt: skip
    draft = prepare(s, "odalys", given, [plan("28 Skerry Lane", "shed", 6, 4, 55), roof("28 Skerry Lane")], own="shed")
    file_and_pay(s, "odalys", draft, pay=False)


def begun(s: Stage) -> None:
    """Being checked by another officer: works begun before filing."""
    s.go(6, 9)
    given = answers(
        place_address="12 Barnacle Steps", place_plot="Q-55", works_what="Steel canopy", works_built_of="steel", works_area="30",
        works_estimate="21000", works_distance="80", works_begun_yet=True, works_begun=(s.today - timedelta(days=20)).isoformat(),
    )  # fmt: skip
    draft = prepare(s, "tamsin", given, [plan("12 Barnacle Steps", "canopy", 7.5, 4, 80), roof("12 Barnacle Steps")])
    reference = file_and_pay(s, "tamsin", draft)
    s.go(5, 11)
    checking.begin_checking(s.office, s.who["brisa"], reference)
    judge_all(s, "brisa", reference, {"value-plausible": ("in doubt", "")}, only=4)


def first_look(s: Stage) -> None:
    """Being checked by Imre since this week: consent not signed, a password on a file."""
    s.go(4, 14)
    given = answers(
        place_address="6 Compass Close", place_plot="Q-140", place_role="tenant", works_what="Timber workshop", works_area="44",
        works_estimate="18500", works_distance="30",
    )  # fmt: skip
    files = [
        plan("6 Compass Close", "workshop", 8.8, 5, 30),
        roof("6 Compass Close"),
        ("consent", "consent.pdf", drawings.consent("Ivo Marrable", "6 Compass Close", "3 November", signed=False)),
    ]
    reference = file_and_pay(s, "corvin", prepare(s, "corvin", given, files))
    s.go(2, 9)
    checking.begin_checking(s.office, s.who["imre"], reference)
    judge_all(s, "imre", reference, only=2)


def waiting_for_odalys(s: Stage) -> None:
    """Answers wanted of Odalys: two points, time enough."""
    s.go(11, 10)
    given = answers(
        place_address="3 Mizzen Court", place_plot="Q-77/2", works_what="Roof over the yard", works_area="52", works_estimate="11500",
        works_distance="26", works_begun_yet=False,
    )  # fmt: skip
    draft = prepare(s, "odalys", given, [plan("3 Mizzen Court", "yard roof", 10.4, 5, 26, "A4", "plan-mizzen.pdf")], own="yard")
    reference = file_and_pay(s, "odalys", draft)
    s.go(9, 9)
    checking.begin_checking(s.office, s.who["imre"], reference)
    judge_all(s, "imre", reference, {"documents.site_plan": ("wanting", ""), "documents.sections": ("wanting", "")})
    s.go(7, 16)
    checking.send_letter(s.office, s.who["imre"], reference)


def complete(address: str, plot: str, what: str, area: str, estimate: str, back: int) -> Callable[[Stage], None]:
    """A case accepted as complete some working days ago."""

    def scene(s: Stage) -> None:
        s.go(back + 6, 10)
        given = answers(
            place_address=address,
            place_plot=plot,
            works_what=what,
            works_area=area,
            works_estimate=estimate,
            works_distance="210",
        )
        files = [plan(address, "building", 7, 5, 210), roof(address)]
        reference = file_and_pay(s, "odalys", prepare(s, "odalys", given, files))
        s.go(back + 2, 9)
        checking.begin_checking(s.office, s.who["brisa"], reference)
        judge_all(s, "brisa", reference)
        s.go(back, 14)
        checking.accept(s.office, s.who["brisa"], reference)

    return scene


SCENES: tuple[Callable[[Stage], None], ...] = (
    complete("11 Gull Street", "Q-12", "Workshop of a sailmaker", "40", "19000", 22),
    tarry_steps,
    saltern_slip,
    complete("8 Pilot Walk", "Q-19/3", "Timber store", "26", "12600", 8),
    waiting_for_odalys,
    ropemaker,
    begun,
    first_look,
    chandlery,
    unpaid,
    lean_to,
    boathouse,
)
