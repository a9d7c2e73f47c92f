"""The in-tray as a table that is taken along."""

from __future__ import annotations

from jolly_clerk.core.say import say
from jolly_clerk.exchange.spreadsheet import Cell
from jolly_clerk.office.cases.in_tray import Shown, TrayLists
from jolly_clerk.office.cases.rows import people_of
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.store.database import read_session

#: so many cases leave in one file
MOST = 20_000


def tray_table(office: Office, who: Who, shown: Shown) -> list[list[Cell]]:
    """The cases of a part of the in-tray, what runs out first on top, as rows of a table under their headings.

    Raises NotAllowed for roles without an in-tray.
    """
    with read_session(office.engine) as session:
        lists = TrayLists(office, session, who)
        cases = lists.every(shown, MOST)
        names = names_in(session, people_of(cases))
    head: list[Cell] = [
        say("Reference"), say("Kind"), say("Case"), say("Applicant"), say("State"), say("Next"), say("Officer"), say("Filed"),
        say("Limit"), say("Last changed"),
    ]  # fmt: skip
    local = lists.calendar.local_day
    rows: list[list[Cell]] = [
        [
            c.reference, c.kind, c.title, names.get(c.applicant_id, ""), c.state, c.next_officer, names.get(c.officer_id or "", ""),
            local(c.filed_at), c.limit_day or "", local(c.changed_at),
        ]
        for c in cases
    ]  # fmt: skip
    return [head, *rows]
