"""An agenda, its minutes and its papers as PDF; nothing of it is kept."""

from __future__ import annotations

import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Any

from jolly_clerk.core.in_words import day
from jolly_clerk.core.say import say
from jolly_clerk.letters.render import render
from jolly_clerk.office.desk.bundling import Binder, check_amount, paper_of
from jolly_clerk.office.errors import NotReady
from jolly_clerk.office.meetings.looking import MeetingLine, meeting_view, with_cases
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.letterhead import paper_words
from jolly_clerk.office.rules.rulebooks import office_calendar


def _head(office: Office, line: MeetingLine) -> dict[str, Any]:
    when = say("{day}, {at}, {place}", day=day(line.day), at=line.at, place=line.place)
    today = office_calendar(office).local_day(office.now())
    return {
        "office": office.name, "address": office.address, "date": day(today), "reference": line.title, "to": line.title, "title": when,
        "to_address": "", "contact": office.settings.telephone, **paper_words(),
    }  # fmt: skip


def agenda_paper(office: Office, who: Who, meeting: str) -> bytes:
    """The agenda, or once something is minuted the minutes, as a PDF. Raises NotAllowed, NotFound."""
    view = meeting_view(office, who, meeting)
    values = {
        "subject": say("Minutes") if view.line.minuted else say("Agenda"),
        "opening": say("Called off: {because}", because=view.line.called_off) if view.line.called_off else "",
        "titles": [say("No"), say("Case"), say("Result") if view.line.minuted else ""],
        "rows": [
            {
                "no": str(n),
                "reference": item.reference,
                "title": item.title,
                "said": say(
                    "{kind} · {applicant} · {reviewer} decides", kind=item.kind, applicant=item.applicant, reviewer=item.reviewer
                ),
                "signed": list(item.signed),
                "result": item.says,
                "words": item.words,
            }
            for n, item in enumerate(view.items, 1)
        ],
    }
    return render("agenda", {**_head(office, view.line), **values})


def papers(office: Office, who: Who, meeting: str) -> tuple[bytes, tuple[str, ...]]:
    """The agenda and the papers of its cases, in order and behind bookmarks, as one PDF; and whose papers these are, by reference.

    Raises NotAllowed, NotFound, NotReady if there are none, Invalid if that is too much for one PDF.
    """
    line, loaded = with_cases(office, who, meeting)
    check_amount((a, one.known.readings.get(a.sha256)) for one in loaded for a in one.dossier.papers)
    bound = [
        replace(paper, title=f"{n}. {one.case.reference} · {paper.title}")
        for n, one in enumerate(loaded, 1)
        for paper in (paper_of(one, a) for a in one.dossier.papers)
    ]
    if not bound:
        raise NotReady(say("There are no papers: no case is on the agenda."))
    today = office_calendar(office).local_day(office.now())
    with tempfile.TemporaryDirectory() as folder:
        binder = Binder(office, _head(office, line), say("Agenda with its papers"), today, Path(folder))
        front = Path(folder) / "agenda.pdf"
        front.write_bytes(agenda_paper(office, who, meeting))
        whole = binder.bind(bound, who, front).read_bytes()
    return whole, tuple(one.case.reference for one in loaded)
