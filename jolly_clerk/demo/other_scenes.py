"""The scenes of the other kinds: stall licences, surveyors, tours, patents, product files, each brought as far as it is told."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date
from typing import Literal

from jolly_clerk.demo import dossiers, papers
from jolly_clerk.demo.dossiers import Dossier
from jolly_clerk.demo.stage import Stage, draft_of, file_and_pay, judge_all, pay_now
from jolly_clerk.office.cases import endings
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, reviewing
from jolly_clerk.office.preparing import answering, attaching, drafts, signing

Until = Literal[
    "draft", "unpaid", "filed", "begun", "asked", "answered", "complete", "review", "granted", "refused", "not accepted",
    "out of scope", "withdrawn", "lapsed",
]  # fmt: skip


@dataclass(frozen=True)
class Scene:
    """One case: whose, of which kind, filed how many working days ago, and how far it has come.

    ``wanting`` are the requirements found wanting, with the officer's words if they are own ones; ``answer`` is what the
    applicant says to them.
    """

    kind: str
    who: str
    officer: str
    back: int
    until: Until
    made: Callable[[date], Dossier]
    wanting: dict[str, str] = field(default_factory=dict)
    answer: str = "Here it is."
    own: str = ""
    said: str = ""

    def __call__(self, s: Stage) -> None:
        """Play it."""
        play(s, self)


def play(s: Stage, scene: Scene) -> str:
    """Bring a case as far as its scene says; returns its reference, or the id of the draft."""
    s.go(scene.back, 9, 20)
    given, files = scene.made(s.calendar.local_day(s.instant))
    draft = draft_of(s, scene.who, scene.kind, given, files, signed=scene.until != "draft", own=scene.own)
    if scene.until == "draft":
        return draft
    reference = file_and_pay(s, scene.who, draft, pay=scene.until not in ("unpaid", "lapsed"))
    if scene.until == "lapsed":
        for back in range(scene.back - 5, max(scene.back - 20, 0), -4):
            s.go(back, 6)
            run_clock(s.office)
    elif scene.until == "withdrawn":
        s.go(scene.back - 1, 11)
        endings.withdraw(s.office, s.who[scene.who], reference, scene.said)
    elif scene.until == "out of scope":
        s.go(scene.back - 1, 11)
        endings.put_out_of_scope(s.office, s.who[scene.officer], reference, scene.said)
    elif scene.until not in ("unpaid", "filed"):
        _check(s, scene, reference)
    return reference


def _check(s: Stage, scene: Scene, reference: str) -> None:
    officer = s.who[scene.officer]
    s.go(max(scene.back - 2, 0), 9)
    checking.begin_checking(s.office, officer, reference)
    special = dict.fromkeys(scene.wanting, ("wanting", ""))
    if scene.until == "begun":
        judge_all(s, scene.officer, reference, special, only=5)
        return
    judge_all(s, scene.officer, reference, special)
    if scene.wanting:
        for id_, words in scene.wanting.items():
            if words:
                checking.word_point(s.office, officer, reference, id_, words)
        s.go(max(scene.back - 3, 0), 15)
        checking.send_letter(s.office, officer, reference)
    if scene.until == "asked":
        return
    if scene.wanting:
        s.go(max(scene.back - 6, 0), 11)
        answer(s, scene, reference)
    if scene.until == "answered":
        return
    s.go(max(scene.back - 7, 0), 13)
    if scene.until == "not accepted":
        endings.do_not_accept(s.office, officer, reference, scene.said)
        return
    if scene.wanting:
        for no in load_case(s.office, officer, reference).so_far.rounds[-1].points:
            checking.close_point(s.office, officer, reference, no, reason="Looked at by hand; it is right.")
        judge_all(s, scene.officer, reference)
    checking.accept(s.office, officer, reference)
    if scene.until != "complete":
        _decide(s, scene, reference)


def _decide(s: Stage, scene: Scene, reference: str) -> None:
    pay_now(s, scene.who, reference)
    s.later(12)
    reviewing.hand_over(s.office, s.who[scene.officer], reference, "silas")
    if scene.until == "review":
        return
    s.go(max(scene.back - 14, 0), 14)
    if scene.until == "refused":
        reviewing.refuse(s.office, s.who["silas"], reference, scene.said)
        return
    reviewing.grant(s.office, s.who["silas"], reference, scene.said)
    if scene.back > 20:
        s.later(60)
        pay_now(s, scene.who, reference)


def answer(s: Stage, scene: Scene, reference: str, lane: str = "") -> None:
    """Answer a letter: words to every point, and a new paper in every slot that it names."""
    person = s.who[scene.who]
    draft = answering.begin_answering(s.office, person, reference, lane)
    points = drafts.open_draft(s.office, person, draft).assessment.rounds_in(lane)[-1].points
    for point in points:
        for place in point.places:
            if place.ref.startswith("documents."):
                slot = place.ref.removeprefix("documents.")
                again = papers.paper(point.title, "Sent again.", scene.answer)
                attaching.attach(s.office, person, draft, slot, f"{slot.replace('.', '-')}-again.pdf", again)
    drafts.keep(s.office, person, draft, None, words={p.no: scene.answer for p in points})
    signing.sign(s.office, person, draft, person.name)
    answering.send_answers(s.office, person, draft)


def _stall(name: str, *pitches: str, **more: object) -> Callable[[date], Dossier]:
    return lambda day: dossiers.stall(day, name, pitches, **more)  # type: ignore[arg-type]


def _surveyor(name: str, **more: object) -> Callable[[date], Dossier]:
    return lambda day: dossiers.surveyor(day, name, **more)  # type: ignore[arg-type]


def _tour(promoter: str, title: str, people: tuple[tuple[str, int], ...], **more: object) -> Callable[[date], Dossier]:
    return lambda day: dossiers.tour(day, promoter, title, people, **more)  # type: ignore[arg-type]


def _patent(name: str, title: str, dependent: int = 8, independent: int = 1, **more: object) -> Callable[[date], Dossier]:
    return lambda day: dossiers.patent(name, title, dependent, independent, **more)


TIDE = (("Ines Marrow", 36), ("Tom Ashby", 41), ("Lior Sedge", 15), ("Nell Ashby", 9), ("Perrin Vale", 52))
HORNS = (("Basil Rook", 28), ("Hanna Rook", 26), ("Odo Fenn", 33))

STALLS = (
    Scene("TL", "odalys", "imre", 1, "filed", _stall("Odalys Renn", "fish_quay"), own="stall"),
    Scene("TL", "tamsin", "imre", 2, "begun", _stall("Tamsin Oake", "market_cross", "tide_street", goods="hot", language="pt")),
    Scene(
        "TL",
        "corvin",
        "brisa",
        4,
        "asked",
        _stall("Corvin Pell", "upper_green", goods="cold", language="pt"),
        {"documents.food": ""},
    ),
    Scene(
        "TL",
        "odalys",
        "imre",
        8,
        "answered",
        _stall("Odalys Renn", "lamp_lane"),
        {"documents.sketch.1": "Send the sketch again with the width that stays free on the pavement."},
        answer="There are 1.9 m left to the kerb.",
    ),
    Scene("TL", "tamsin", "jonas", 9, "complete", _stall("Tamsin Oake", "ferry_steps", charity="C-12")),
    Scene("TL", "corvin", "jonas", 12, "review", _stall("Corvin Pell", "tide_street", "lamp_lane", "fish_quay")),
    Scene(
        "TL",
        "odalys",
        "brisa",
        24,
        "granted",
        _stall("Odalys Renn", "fish_quay", "lamp_lane"),
        own="year",
        said="Keep the steps to the water free.",
    ),
    Scene("TL", "corvin", "brisa", 6, "withdrawn", _stall("Corvin Pell", "ferry_steps"), said="I found a shop."),
    Scene("TL", "tamsin", "imre", 0, "draft", _stall("Tamsin Oake", "fish_quay", "fish_quay", goods="cold")),
)
SURVEYORS = (
    Scene("PL", "corvin", "imre", 1, "filed", _surveyor("Corvin Pell", qualifications=4)),
    Scene("PL", "tamsin", "imre", 5, "begun", _surveyor("Tamsin Oake", other_name="Tamsin Reed", degree_name="Tamsin Reed")),
    Scene(
        "PL",
        "odalys",
        "brisa",
        9,
        "asked",
        _surveyor("Odalys Renn", points=130, post="print"),
        {"documents.practice": "Send a letter of Sark and Daughters with the first and the last day."},
    ),
    Scene(
        "PL",
        "corvin",
        "jonas",
        12,
        "answered",
        _surveyor("Corvin Pell", sort="restoration", number="S-0388"),
        {"documents.cover": ""},
    ),
    Scene("PL", "tamsin", "imre", 14, "review", _surveyor("Tamsin Oake", sort="restoration", number="S-0399")),
    Scene("PL", "odalys", "brisa", 30, "granted", _surveyor("Odalys Renn", qualifications=2), said="For bounds and plots."),
    Scene("PL", "tamsin", "jonas", 2, "unpaid", _surveyor("Tamsin Oake", sort="carried")),
    Scene(
        "PL",
        "corvin",
        "jonas",
        26,
        "refused",
        _surveyor("Corvin Pell"),
        said="The practice was not under a surveyor who signs (art. 9).",
    ),
)
TOURS = (
    Scene("QV", "tamsin", "imre", 1, "filed", _tour("Tamsin Oake", "The Tide Players", TIDE, roll="P-88"), own="tide"),
    Scene(
        "QV",
        "odalys",
        "imre",
        3,
        "begun",
        _tour("Odalys Renn", "Horns of Merrow", HORNS, roll="P-91", art="music", broken=(2,), translated=(1,)),
    ),
    Scene(
        "QV",
        "corvin",
        "brisa",
        5,
        "asked",
        _tour("Corvin Pell", "The Rope Circus", HORNS[:2], art="ring", fire=True),
        {"documents.fire_plan": ""},
    ),
    Scene(
        "QV",
        "tamsin",
        "jonas",
        10,
        "answered",
        _tour("Tamsin Oake", "Evening of Songs", HORNS[1:], art="music", roll="P-88"),
        {"documents.contract.1": ""},
    ),
    Scene("QV", "odalys", "imre", 12, "complete", _tour("Odalys Renn", "The Lamp Sisters", TIDE[:2], roll="P-91", days=60)),
    Scene(
        "QV",
        "corvin",
        "brisa",
        22,
        "granted",
        _tour("Corvin Pell", "Puppets of Skerry", HORNS[:1], fast=True),
        said="For Old Hall.",
    ),
    Scene("QV", "tamsin", "jonas", 20, "lapsed", _tour("Tamsin Oake", "Bells and Whistles", HORNS)),
    Scene("QV", "corvin", "imre", 0, "draft", _tour("Corvin Pell", "The Salt Choir", TIDE[:4], art="music", foreign=(2,))),
)
PATENTS = (
    Scene(
        "IP",
        "odalys",
        "imre",
        2,
        "filed",
        _patent("Odalys Renn", "Winch that holds", 24, 3, multiple=True, size="micro", pages=32),
        own="winch",
    ),
    Scene("IP", "tamsin", "imre", 6, "begun", _patent("Tamsin Oake", "Pawl that falls back", 9, 1, stated=12)),
    Scene(
        "IP",
        "corvin",
        "brisa",
        8,
        "asked",
        _patent("Corvin Pell", "Rope end that does not fray", 6, 1, skip=4),
        {"documents.claims": "Claim 4 is left out. Number the claims from 1 without a gap and send them again."},
    ),
    Scene(
        "IP",
        "odalys",
        "jonas",
        13,
        "answered",
        _patent("Odalys Renn", "Lamp for fog", 5, 1, figures=2),
        {"documents.drawings": ""},
    ),
    Scene("IP", "tamsin", "imre", 16, "complete", _patent("Tamsin Oake", "Hinge without a pin", 12, 1, exam="now")),
    Scene(
        "IP",
        "corvin",
        "brisa",
        19,
        "review",
        _patent("Corvin Pell", "Anchor that folds", 11, 2, agent="Ada Marrow", size="small"),
    ),
    Scene(
        "IP",
        "odalys",
        "jonas",
        11,
        "withdrawn",
        _patent("Odalys Renn", "Kettle that whistles twice"),
        said="It was known already.",
    ),
    Scene("IP", "tamsin", "imre", 4, "unpaid", _patent("Tamsin Oake", "Net float of cork")),
    Scene(
        "IP",
        "corvin",
        "brisa",
        3,
        "out of scope",
        _patent("Corvin Pell", "Look of a bench"),
        said="How a thing looks is kept by the register of designs (art. 2).",
    ),
    Scene(
        "IP",
        "tamsin",
        "imre",
        0,
        "draft",
        _patent("Tamsin Oake", "Sail that reefs itself", 24, 3, stated=28, skip=4, multiple=True, size="micro", pages=30),
    ),
)
FILES = (
    Scene("CP", "odalys", "imre", 16, "complete", lambda day: dossiers.product("Odalys Renn", "Ondrelin")),
    Scene("CP", "tamsin", "imre", 20, "granted", lambda day: dossiers.product("Tamsin Oake", "Skerrazine")),
    Scene("CP", "corvin", "brisa", 3, "filed", lambda day: dossiers.product("Corvin Pell", "Tidazol")),
)

#: the oldest first, so that the numbers of a kind grow with the day of filing
OTHER_SCENES = tuple(sorted((*STALLS, *SURVEYORS, *TOURS, *PATENTS, *FILES), key=lambda scene: -scene.back))
