"""The rows of the route table for counter, till and calendar feeds: who may, at which stage, with which body; and the stages."""

from __future__ import annotations

from datetime import date, time
from decimal import Decimal
from typing import Any

from sqlalchemy import select

from jolly_clerk.office.cases import ledger, paying, refunding
from jolly_clerk.office.desk import feeds, own_views
from jolly_clerk.office.meetings import planning, tabling
from jolly_clerk.office.office import Who
from jolly_clerk.office.preparing import counter, pile
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.office.settings import set_in_file
from jolly_clerk.office.till import drawers, files, placing, statements
from jolly_clerk.shelf.rulebooks import SHIPPED
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.till import BankMovement
from tests.bank import OFFICE, Entry, camt, iban
from tests.office.test_journey import ROOF, Cases

DESK = ("officer", "lead")
KEEPS_LIMITS = ("officer", "lead", "reviewer")
TILL: dict[tuple[str, str], tuple[str, str, dict[str, Any] | None]] = {
    ("get", "/api/till"): ("filed", "", None),
    ("get", "/api/till/days"): ("filed", "", None),
    ("get", "/api/till/files"): ("filed", "", None),
    ("post", "/api/till/days"): ("filed", "", {"opened_with": "150.00"}),
    ("post", "/api/till/statements"): ("filed", "", None),
    ("get", "/api/till/cases/{reference}"): ("filed", "", None),
    ("post", "/api/till/counter"): ("till", "", {"reference": "BW-26-00001-B", "amount": "1.00", "means": "cheque", "mark": "C 77"}),
    ("get", "/api/till/movements/{movement}"): ("till", "", None),
    ("post", "/api/till/movements/{movement}/placing"): ("till", "empty", {"parts": [{"reference": "BW-26-00001-B", "amount": "1.00"}]}),
    ("post", "/api/till/movements/{movement}/keeping"): ("till", "empty", {"because": ""}),
    ("post", "/api/till/movements/{movement}/return"): ("till", "empty", {"because": "not ours"}),
    ("post", "/api/till/movements/{movement}/no-case"): ("till", "empty", {"because": "of the bank"}),
    ("post", "/api/till/movements/{movement}/taking-back"): ("till back", "empty", {"reference": "BW-26-00001-B", "payment": "transfer T 1"}),
    ("delete", "/api/till/movements/{movement}/decision"): ("till kept", "empty", None),
    ("post", "/api/till/confirmed"): ("till", "", {"movements": ["none"]}),
    ("post", "/api/till/days/{day}/closing"): ("till open", "", {"counted": "150.00"}),
    ("post", "/api/till/days/{day}/second"): ("till counted", "", None),
    ("delete", "/api/till/days/{day}/closing"): ("till counted", "", None),
    ("get", "/api/till/days/{number}/closing.{form}"): ("till closed", "", None),
    ("post", "/api/till/files"): ("till refund", "", {"currency": "EUR"}),
    ("get", "/api/till/files/{number}"): ("till file", "", None),
    ("get", "/api/counter/filings"): ("filed", "", None),
    ("post", "/api/counter/filings"): ("filed", "", {"kind": "BW", "came": "post", "reached": "2026-11-04", "name": "Ann Holt", "address": "3 Mizzen Court"}),
    ("delete", "/api/counter/filings/{draft}"): ("counter", "empty", None),
    ("put", "/api/counter/filings/{draft}/consent"): ("counter", "", {"name": "Ann Holt", "on_paper": True}),
    ("post", "/api/counter/filings/{draft}/split"): ("counter", "", {"kind": "BW", "pieces": ["{piece}"], "person": "tamsin"}),
    ("get", "/api/counter/filings/{draft}/likely"): ("counter", "", None),
    ("get", "/api/counter/people"): ("filed", "", None),
    ("get", "/api/counter/things/{docket}"): ("filed", "", None),
    ("post", "/api/counter/photographs"): ("filed", "", None),
    ("post", "/api/counter/things/{docket}"): ("filed", "", {"place": "shelf 3"}),
}  # fmt: skip
FEEDS: dict[tuple[str, str], tuple[str, str, dict[str, Any] | None]] = {
    ("get", "/api/feeds"): ("filed", "", None),
    ("post", "/api/feeds"): ("filed", "", {"team": True}),
    ("delete", "/api/feeds/{feed}"): ("feed", "empty", None),
}
VIEWS: dict[tuple[str, str], tuple[str, str, dict[str, Any] | None]] = {
    ("get", "/api/views"): ("filed", "", None),
    ("post", "/api/views"): ("filed", "", {"name": "Mine", "whose": "mine"}),
    ("delete", "/api/views/{view}"): ("view", "", None),
}
ON = {"body": "committee", "on": "2026-11-18", "at": "14:00", "place": "Town hall"}
MEETINGS: dict[tuple[str, str], tuple[str, str, dict[str, Any] | None]] = {
    ("get", "/api/meetings"): ("filed", "", None),
    ("post", "/api/meetings"): ("meeting", "", {**ON, "at": "16:00"}),
    ("get", "/api/meetings/{meeting}"): ("meeting", "", None),
    ("put", "/api/meetings/{meeting}/order"): ("meeting on", "", {"references": ["BW-26-00001-B"]}),
    ("post", "/api/meetings/{meeting}/called-off"): ("meeting", "", {"because": "The hall is flooded."}),
    ("get", "/api/meetings/{meeting}/agenda"): ("meeting on", "", None),
    ("get", "/api/meetings/{meeting}/papers"): ("meeting on", "", None),
    ("get", "/api/cases/{reference}/agendas"): ("meeting", "", None),
    ("post", "/api/cases/{reference}/agenda"): ("meeting", "", {"meeting": "{meeting}"}),
    ("post", "/api/cases/{reference}/agenda/off"): ("meeting on", "", {"because": ""}),
    ("post", "/api/cases/{reference}/minutes"): ("meeting held", "", {"result": "in favour"}),
}
PLANS = [("post", "/api/meetings"), ("put", "/api/meetings/{meeting}/order"), ("post", "/api/meetings/{meeting}/called-off")]
TURN = ("post", "/api/cases/{reference}/turning")
BOTH = TILL | FEEDS | VIEWS | MEETINGS | {TURN: ("turn", "", {"kind": "IP", "grounds": "It is an invention and no building."})}
MAY = dict.fromkeys(TILL, DESK) | dict.fromkeys(FEEDS, KEEPS_LIMITS) | dict.fromkeys(VIEWS, (*KEEPS_LIMITS, "auditor"))
MOVES = [("post", f"/api/cases/{{reference}}/{move}") for move in ("agenda", "agenda/off", "minutes")]
MAY |= {route: DESK if route in PLANS else (*KEEPS_LIMITS, "auditor") for route in MEETINGS if route not in MOVES}
STAGES = {route: stage for route, (stage, _, _) in BOTH.items() if stage != "filed"}
BODIES = {route: body for route, (_, _, body) in BOTH.items() if body is not None}
EMPTY = {route for route, (_, empty, _) in BOTH.items() if empty}
QUERIES = {
    "/api/counter/people": "?words=odalys",
    "/api/counter/filings/{draft}/likely": "?pieces={piece}",
}


def bring(cases: Cases, stage: str, names: dict[str, str]) -> dict[str, str]:
    """What a stage of counter, till or feeds needs besides a filed case; the names that its addresses hold."""
    office, imre, reference = cases.office, cases.imre, names["reference"]
    berta = Who("berta", "Berta Quill", "lead")
    made = {"movement": "none", "day": "none", "number": "1", "form": "csv", "feed": "none"}
    if stage.startswith("till"):
        entries = [Entry("T 9", "20.00", "a present", "Ann Holt")]
        if stage == "till back":
            paying.take_money(office, imre, reference, Decimal("7.00"), "transfer", "T 1")
            entries = [Entry("T 8", "-7.00", "T 1", "Ann Holt", reason="not recognised")]
        if stage in ("till", "till back", "till kept"):
            statements.read_statement(office, imre, "s.xml", camt(entries))
            with read_session(office.engine) as session:
                made["movement"] = session.scalars(select(BankMovement.id)).one()
        if stage == "till kept":
            placing.keep_unplaced(office, imre, made["movement"])
        if stage in ("till open", "till counted", "till closed"):
            made["day"] = drawers.open_till(office, berta, Decimal("150.00"))
        if stage in ("till counted", "till closed"):
            there = "139.00" if stage == "till counted" else "150.00"
            drawers.close_till(office, berta, made["day"], Decimal(there), "not known")
        if stage in ("till refund", "till file"):
            office.settings.account = OFFICE
            set_in_file(office.folder, "account", OFFICE)
            came = ledger.Came("transfer T 2", "transfer", Decimal("20.00"), "EUR", cases.instant.date(), "Ann Holt", iban(5))
            with write_session(office.engine) as session:
                money = ledger.keep_money(session, office, "imre", came, came.amount, "a present").id
            refunding.send_back(office, berta, money)
            rows = [row.id for row in refunding.ledger(office, berta).refunds]
            refunding.approve(office, berta, rows, dict.fromkeys(rows, iban(5)))
        if stage == "till file":
            files.make_payment_file(office, imre, "EUR")
    if stage == "counter":
        draft = counter.begin_recording(office, imre, "BW", "post", cases.instant.date(), counter.Contact("odalys"))
        pile.add_to_pile(office, imre, draft, "sheet.pdf", ROOF)
        (piece,) = pile.pile_view(office, imre, draft).pieces
        made |= {"draft": draft, "piece": piece.id}
    if stage.startswith("meeting"):
        made["meeting"] = planning.plan(office, imre, "committee", date(2026, 11, 17), time(14), "Town hall")
        if stage != "meeting":
            silas = Who("silas", "Silas Thorne", "reviewer")
            tabling.put(office, silas, reference, made["meeting"])
        if stage == "meeting held":
            cases.move_to(2026, 11, 17, 15)
    if stage == "turn":
        publish(office, SHIPPED / "IP" / "2026-01-01.yaml")
    if stage == "view":
        for who in (imre, cases.maud, cases.anselm, Who("silas", "Silas Thorne", "reviewer")):
            made[f"view_{who.role}"] = own_views.keep(office, who, "Mine", "mine", "", "")[0].id
    if stage == "feed":
        silas = Who("silas", "Silas Thorne", "reviewer")
        for who in (imre, cases.maud, silas):
            made[f"feed_{who.role}"] = feeds.make_feed(office, who, team=False).id
    return made
