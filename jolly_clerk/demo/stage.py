"""The stage of the demo: its people, its own clock, and what several scenes share."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Any

from jolly_clerk.core.checklist import Requirement
from jolly_clerk.core.history import Entry
from jolly_clerk.core.roles import Role
from jolly_clerk.core.time.calendar import DAY, Calendar
from jolly_clerk.core.values import Raw
from jolly_clerk.demo import drawings
from jolly_clerk.office.cases import notices, paying
from jolly_clerk.office.cases.casework import Loaded, act, load_case
from jolly_clerk.office.desk import checking
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing import attaching, drafts, filing, signing

PEOPLE: tuple[tuple[str, str, Role], ...] = (
    ("odalys", "Odalys Renn", "applicant"),
    ("tamsin", "Tamsin Oake", "applicant"),
    ("corvin", "Corvin Pell", "applicant"),
    ("imre", "Imre Holt", "officer"),
    ("brisa", "Brisa Quay", "officer"),
    ("jonas", "Jonas Wick", "officer"),
    ("maud", "Maud Ferrier", "lead"),
    ("silas", "Silas Thorne", "reviewer"),
    ("tove", "Tove Marsh", "reviewer"),
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

    def before(self, day: date, working_days: int, hour: int) -> None:
        """To so many working days before a day: for cases of an older edition."""
        at = day
        for _ in range(working_days):
            at -= DAY
            while not self.calendar.is_working(at):
                at -= DAY
        self.instant = datetime.combine(at, time(hour), self.calendar.zone).astimezone(UTC)

    def later(self, minutes: int) -> None:
        """A little later."""
        self.instant += timedelta(minutes=minutes)


def answers(**changes: Raw) -> dict[str, Any]:
    """A whole set of answers, with some of them changed (``part_question=value``); None leaves one out."""
    base: dict[str, Any] = {
        "need": {"island": "quill", "sort": "larger", "below_water": False, "height": "5.2"},
        "filer": {"language": "en", "post": "mail"},
        "place": {
            "address": "4 Saltern Slip",
            "plot": "Q-114/2",
            "owner": "Odalys Renn",
            "role": "owner",
            "listed": False,
            "neighbours": True,
        },
        "works": {
            "what": "New workshop roof",
            "use": "workshop",
            "built_of": "timber",
            "area": "95.8",
            "estimate": "31000.00",
            "storeys": "1",
            "span": "4.8",
            "distance": "18",
            "begun_yet": False,
        },
        "people": [{"id": 1, "name": "Wim Sark", "task": "designer"}, {"id": 2, "name": "Tolly Builders", "task": "builder"}],
        "site": {"months": "4", "street": False, "waste": "yard"},
        "service": {"speed": "normal"},
    }
    if float(base["works"]["distance"] if changes.get("works_distance") is None else changes["works_distance"]) <= 30:
        base["shore"] = {"floor": "0.80", "anchored": True, "fuel": False}
    for key, value in changes.items():
        part, _, question = key.partition("_")
        if not question:
            base[part] = value
            continue
        if value is None:
            base[part].pop(question, None)
        else:
            base[part][question] = value
    return base


Files = list[tuple[str, str, bytes]]


def prepare(s: Stage, who: str, given: dict[str, Any], files: Files, signed: bool = True, own: str = "") -> str:
    """A draft of a building works permit with these answers and files; returns its id."""
    given["filer"].setdefault("name", s.who[who].name)
    given["site"].setdefault("start", (s.calendar.local_day(s.instant) + timedelta(days=120)).isoformat())
    return draft_of(s, who, "BW", given, files, signed, own)


def draft_of(s: Stage, who: str, kind: str, given: dict[str, Any], files: Files, signed: bool = True, own: str = "") -> str:
    """A draft of any kind with these answers and files; returns its id."""
    person = s.who[who]
    draft = drafts.start_draft(s.office, person, kind)
    drafts.keep(s.office, person, draft, None, answers=given, own_reference=own)
    s.later(len(files))
    if files:
        attaching.attach_all(s.office, person, draft, [attaching.NewFile(*file) for file in files])
    if signed:
        s.later(2)
        for said in drafts.open_draft(s.office, person, draft).rulebook.declarations:
            signing.declare(s.office, person, draft, said.declaration.declare, True)
        signing.sign(s.office, person, draft, person.name)
    return draft


def file_and_pay(s: Stage, who: str, draft: str, pay: bool = True, prepay: bool = False) -> str:
    """File a draft, gaps and all, and pay by card; returns the reference."""
    s.later(3)
    reference = filing.file(s.office, s.who[who], draft, take_gaps=True)
    if pay:
        pay_now(s, who, reference, prepay)
    return reference


def pay_now(s: Stage, who: str, reference: str, prepay: bool = False) -> None:
    """Pay what is open by card, if anything is."""
    if not load_case(s.office, s.who[who], reference).assessment.account.open:
        return
    s.later(4)
    at = paying.ask_payment(s.office, s.who[who], reference, prepay)
    notices.at_stand_in(s.office, s.who[who], at.key, "approved")


def looked_at(r: Requirement) -> str:
    """Why an officer gives *met*: nothing, or what is said where the machine sees a fault or a doubt."""
    return "Looked at by hand; it is right." if r.met_needs_reason else ""


def judge_all(
    s: Stage, officer: str, reference: str, special: dict[str, tuple[str, str]] | None = None, only: int | None = None
) -> None:
    """Judge the checklist: *met*, but for what ``special`` says (standing, reason)."""
    who, special = s.who[officer], special or {}

    def entries(loaded: Loaded) -> list[Entry]:
        made: list[Entry] = []
        for r in [r for r in loaded.assessment.requirements if r.asked][:only]:
            s.later(1)
            standing, reason = special.get(r.id, ("met", looked_at(r)))
            made.append(checking.judged_entry(s.office, who, loaded, r, standing, reason))  # type: ignore[arg-type]
        return made

    act(s.office, who, reference, "judge", entries)


def plan(
    place: str, what: str, w: float, d: float, distance: float, sheet: str = "A3", name: str = "site-plan.pdf"
) -> tuple[str, str, bytes]:
    """A site plan for its slot."""
    return ("site_plan", name, drawings.site_plan(place, what, w, d, distance, sheet, scale_bar=sheet == "A3"))


def roof(place: str, name: str = "roof-sections.pdf") -> tuple[str, str, bytes]:
    """Sections for their slot."""
    return ("sections", name, drawings.sections(place))


def paper(slot: str, title: str, *lines: str) -> tuple[str, str, bytes]:
    """A written statement for a slot."""
    return (slot, f"{slot.replace('_', '-')}.pdf", drawings.statement(title, lines))


def shore(place: str) -> tuple[str, str, bytes]:
    """The shoreline declaration for its slot."""
    return paper(
        "shore_declaration", "Shoreline declaration", f"We know the flood line at {place} and build at our own risk.", "(signed)"
    )


def whole(s: Stage, who: str, address: str, plot: str, what: str, **changes: Raw) -> str:
    """A draft with nothing left: answers, plan and sections that agree."""
    owner = changes.pop("owner", s.who[who].name)
    area, distance = changes.get("works_area", "40"), changes.get("works_distance", "210")
    given = answers(
        place_address=address,
        place_plot=plot,
        place_owner=owner,
        works_what=what,
        **{"works_area": area, "works_distance": distance, **changes},
    )
    w = float(area) / 5
    return prepare(s, who, given, [plan(address, "building", w, 5, float(distance)), roof(address)])


def checked(s: Stage, officer: str, reference: str) -> None:
    """Checked and found complete."""
    checking.begin_checking(s.office, s.who[officer], reference)
    judge_all(s, officer, reference)
    s.later(5)
    checking.accept(s.office, s.who[officer], reference)
