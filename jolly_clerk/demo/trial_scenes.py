"""The scenes of clinical trials: with sites as lanes, complete, filed, with a site closed, and a draft."""

from __future__ import annotations

from collections.abc import Callable

from jolly_clerk.demo import dossiers
from jolly_clerk.demo.other_scenes import Scene, answer
from jolly_clerk.demo.stage import Stage, draft_of, file_and_pay, judge_all, looked_at
from jolly_clerk.office.cases import endings
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking

#: what comes by post, and what a person has seen
BY_POST = {"documents.ethics": ("met", "The opinion of the ethics board came by post.")}


def reference_of(s: Stage, who: str, kind: str) -> str:
    """The applicant's first case of a kind."""
    from jolly_clerk.office.cases.lists import my_cases

    return min(row.reference for at in my_cases(s.office, s.who[who]) for row in at.rows if row.kind == kind)


def filed_trial(
    s: Stage, who: str, back: int, code: str, title: str, substance: str, sites: tuple[tuple[str, str, int], ...], **more: object
) -> str:
    """A trial that was filed and paid so many working days ago."""
    s.go(back, 9, 40)
    day, file = s.calendar.local_day(s.instant), reference_of(s, who, "CP")
    given, files = dossiers.trial(day, s.who[who].name, code, title, file, substance, sites, **more)
    return file_and_pay(s, who, draft_of(s, who, "CT", given, files, own=code.lower()))


SITES = (("Quill Infirmary", "Ines Marrow", 60), ("Near Skerry House", "Tom Ashby", 40), ("Far Hut Clinic", "Lior Sedge", 20))


def trial_in_lanes(s: Stage) -> None:
    """Three sites: one complete, one asked for its contract, one still read; the trial itself was asked and has answered."""
    reference = filed_trial(
        s,
        "odalys",
        8,
        "TW-7",
        "Ondrelin against the winter cough",
        "Ondrelin",
        SITES,
        arms=3,
        uncontracted=(2,),
        insured=5_000_000,
    )
    imre = s.who["imre"]
    s.go(7, 9)
    checking.begin_checking(s.office, imre, reference)
    wanting = {
        "insured-enough": ("wanting", ""),
        "documents.certificate": ("wanting", ""),
        "documents.contract.2": ("wanting", ""),
    }
    asked = load_case(s.office, imre, reference).assessment.requirements
    later = {r.id for r in asked if r.lane == "sites.3"}
    for r in asked:
        if r.asked and r.id not in later:
            s.later(1)
            standing, reason = ({**wanting, **BY_POST}).get(r.id, ("met", looked_at(r)))
            checking.judge(s.office, imre, reference, r.id, standing, reason)  # type: ignore[arg-type]
    s.go(6, 11)
    checking.accept(s.office, imre, reference, lane="sites.1")
    checking.send_letter(s.office, imre, reference, lane="sites.2")
    s.go(5, 10)
    checking.send_letter(s.office, imre, reference)
    s.go(1, 15)
    scene = Scene(
        "CT",
        "odalys",
        "imre",
        8,
        "answered",
        lambda day: ({}, []),
        answer="The insurer has raised the sum; here is the new certificate.",
    )
    answer(s, scene, reference)


def trial_complete(s: Stage) -> None:
    """The trial itself and both of its sites are complete."""
    reference = filed_trial(
        s,
        "tamsin",
        14,
        "SK-2",
        "Skerrazine for restless sleep",
        "Skerrazine",
        SITES[:2],
        academic=True,
        risk=("other_use", "dummy"),
    )
    brisa = s.who["brisa"]
    s.go(12, 9)
    checking.begin_checking(s.office, brisa, reference)
    judge_all(s, "brisa", reference, BY_POST)
    for lane in ("sites.1", "", "sites.2"):
        s.later(20)
        checking.accept(s.office, brisa, reference, lane=lane)


def trial_filed(s: Stage) -> None:
    """High risk, filed yesterday; its product file is not complete."""
    filed_trial(
        s,
        "corvin",
        1,
        "TZ-1",
        "Tidazol, first time in people",
        "Tidazol",
        SITES[:1],
        risk=("first_time", "overnight"),
        untrained=(1,),
    )


def trial_site_closed(s: Stage) -> None:
    """One site was not accepted, the other goes on."""
    reference = filed_trial(s, "tamsin", 6, "SK-3", "Skerrazine at sea", "Skerrazine", SITES[1:], other=(2,))
    jonas = s.who["jonas"]
    s.go(4, 9)
    checking.begin_checking(s.office, jonas, reference)
    judge_all(s, "jonas", reference, {"site-suits.2": ("wanting", ""), "language-spoken.2": ("wanting", ""), **BY_POST}, only=30)
    s.go(2, 10)
    grounds = "Nobody is at the hut at night, so it cannot do what the protocol asks (art. 12)."
    endings.do_not_accept(s.office, jonas, reference, grounds, lane="sites.2")


def trial_draft(s: Stage) -> None:
    """A draft of a trial with two arms too many."""
    s.go(0, 8)
    given, files = dossiers.trial(
        s.calendar.local_day(s.instant),
        "Odalys Renn",
        "TW-8",
        "Ondrelin for children",
        "",
        "Ondrelin",
        SITES[:2],
        risk=("children",),
        arms=4,
    )
    draft_of(s, "odalys", "CT", given, files[:9], signed=False, own="tw-8")


#: the oldest first
TRIALS: tuple[Callable[[Stage], None], ...] = (trial_complete, trial_in_lanes, trial_site_closed, trial_filed, trial_draft)
