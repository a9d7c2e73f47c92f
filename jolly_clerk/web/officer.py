"""Routes of the office: the in-tray, the search, a letter before it is sent."""

from __future__ import annotations

from datetime import date, time
from decimal import Decimal
from typing import Annotated, Literal

from fastapi import Query, Response
from pydantic import BaseModel, Field

from jolly_clerk.core.alike import AnswersOfTwo
from jolly_clerk.core.say import say
from jolly_clerk.core.shut import Shut
from jolly_clerk.core.urgency import Group
from jolly_clerk.exchange.spreadsheet import csv_file, xlsx_file
from jolly_clerk.office.cases import closures, in_tray, list_file, lists, refunding
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import bundling, checking, likenesses, previewing, sameness
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.keeping import erasing, looks
from jolly_clerk.office.keeping.looks import looked
from jolly_clerk.office.post import printing
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.attached import attached
from jolly_clerk.web.bodies import Number
from jolly_clerk.web.cases import PDF, served
from jolly_clerk.web.tables import MEDIA
from jolly_clerk.web.turns import router_of

router = router_of("/api", "office")


@router.get("/tray")
def tray(
    office: TheOffice,
    who: Asker,
    whose: in_tray.Whose = "mine",
    kind: Annotated[str, Query(max_length=2)] = "",
    view: in_tray.KeptView = "",
) -> lists.Tray:
    """The in-tray, the first page of each group; a reviewer's holds what was handed over."""
    looked(office, who, "list", detail=f"{whose} {kind} {view}".strip())
    return lists.tray(office, who, whose, kind, view)


@router.get("/tray/more")
def more_of_tray(
    office: TheOffice,
    who: Asker,
    group: Group,
    after: Annotated[str, Query(max_length=80)],
    whose: in_tray.Whose = "mine",
    kind: Annotated[str, Query(max_length=2)] = "",
    view: in_tray.KeptView = "",
) -> lists.GroupPage:
    """The next page of a group of the in-tray, from where the one before ended."""
    looked(office, who, "list", detail=f"{whose} {kind} {view} {group} {after}".strip())
    return lists.more_of_tray(office, who, in_tray.Shown(whose, kind, view), group, after)


@router.get("/tray/file.{form}", response_class=Response)
def tray_file(
    form: Literal["csv", "xlsx"],
    office: TheOffice,
    who: Asker,
    whose: in_tray.Whose = "mine",
    kind: Annotated[str, Query(max_length=2)] = "",
    view: in_tray.KeptView = "",
) -> Response:
    """What the in-tray shows, as CSV or XLSX; no cell of it is taken for a formula."""
    rows = list_file.tray_table(office, who, in_tray.Shown(whose, kind, view))
    looked(office, who, "list", detail=f"{form}: {whose} {kind} {view}".strip())
    if form == "csv":
        return attached(csv_file(rows), "text/csv", "in-tray.csv")
    return attached(xlsx_file(say("In-tray"), rows, {}), MEDIA["xlsx"], "in-tray.xlsx")


@router.get("/cases/{reference}/words")
def words(
    reference: str, office: TheOffice, who: Asker, text: Annotated[str, Query(min_length=1, max_length=100)]
) -> bundling.WordsFound:
    """Where words stand in the files of a case."""
    found = bundling.find_words(office, who, reference, text)
    looked(office, who, "search", reference, text)
    return found


@router.get("/cases/{reference}/alike")
def alike(reference: str, office: TheOffice, who: Asker) -> list[sameness.AlikePage]:
    """The pages of a case that are the same as pages of other files, here and in other cases, or nearly."""
    found = sameness.alike_pages(office, who, reference)
    looked(office, who, "case", reference)
    return found


@router.get("/cases/{reference}/bundle", response_class=Response, responses=PDF)
def bundle(
    reference: str,
    office: TheOffice,
    who: Asker,
    file: Annotated[list[Annotated[str, Field(max_length=80)]], Query(max_length=200)],
) -> Response:
    """Chosen files of a case as one PDF."""
    content = bundling.bundle(office, who, reference, file)
    looked(office, who, "copy", reference, ", ".join(file))
    return served(content, "application/pdf", f"{reference}.pdf")


@router.get("/search")
def search(office: TheOffice, who: Asker, words: Annotated[str, Query(max_length=100)] = "") -> list[lists.Row]:
    """Find a case by reference, person or place."""
    found = list(lists.search(office, who, words))
    looked(office, who, "search", detail=words)
    for row in found:
        looked(office, who, "found", row.reference, words)
    return found


@router.get("/cases/{reference}/letter", response_class=Response, responses=PDF)
def preview(reference: str, office: TheOffice, who: Asker, lane: Annotated[str, Query(max_length=60)] = "") -> Response:
    """The correction letter of a lane as it would be sent now."""
    content = checking.preview_letter(office, who, reference, lane)
    looked(office, who, "letter", reference, lane)
    return Response(content, media_type="application/pdf", headers={"Cache-Control": "no-store"})


@router.get("/cases/{reference}/step-letter", response_class=Response, responses=PDF)
def preview_step(
    reference: str,
    office: TheOffice,
    who: Asker,
    move: Literal["accept as complete", "do not accept", "put out of scope"],
    lane: Annotated[str, Query(max_length=60)] = "",
    grounds: Annotated[str, Query(max_length=4000)] = "",
) -> Response:
    """The letter of a step as it would go out if it were taken now."""
    content = previewing.preview_step(office, who, reference, move, lane, grounds)
    looked(office, who, "letter", reference, move)
    return Response(content, media_type="application/pdf", headers={"Cache-Control": "no-store"})


@router.get("/cases/{reference}/other-cases")
def other_cases(reference: str, office: TheOffice, who: Asker) -> likenesses.AlikeView:
    """Cases that are alike: filed twice perhaps, about the same thing, of the same person."""
    return likenesses.alike(office, who, reference)


@router.get("/cases/{reference}/other-cases/{other}")
def side_by_side(reference: str, other: str, office: TheOffice, who: Asker) -> list[AnswersOfTwo]:
    """The answers of two cases of one kind, side by side."""
    rows = likenesses.compared(office, who, reference, other)
    looked(office, who, "case", other, detail=f"beside {reference}")
    return rows


@router.get("/print-queue")
def what_is_printed(office: TheOffice, who: Asker) -> list[printing.ToPrint]:
    """The letters that wait to be printed."""
    return printing.print_queue(office, who)


@router.get("/print-queue/pdf", response_class=Response, responses=PDF)
def print_all(office: TheOffice, who: Asker) -> Response:
    """All letters that wait to be printed, as one PDF."""
    content = printing.as_one_pdf(office, who)
    looked(office, who, "letter", detail="print-queue")
    return Response(content, media_type="application/pdf", headers={"Cache-Control": "no-store"})


class Printed(BaseModel):
    """Letters that were printed and posted, by their keys."""

    keys: list[Annotated[str, Field(max_length=120)]] = Field(min_length=1, max_length=printing.MOST)


@router.post("/print-queue/printed")
def tick_printed(body: Printed, office: TheOffice, who: Asker) -> int:
    """Letters were printed and posted; answers how many."""
    return printing.printed(office, who, body.keys)


@router.get("/money")
def money(office: TheOffice, who: Asker) -> refunding.Ledger:
    """Money that came and is not placed, refunds that wait for a lead, refunds that left lately."""
    return refunding.ledger(office, who)


class PlaceMoney(BaseModel):
    """On which case a part of the money is placed."""

    reference: str = Field(max_length=40)
    amount: Annotated[Decimal, Field(gt=0, max_digits=12, decimal_places=3)]


@router.post("/money/{money}/placing", status_code=204)
def place_money(money: str, body: PlaceMoney, office: TheOffice, who: Asker) -> None:
    """Place money that came on a case."""
    refunding.place_money(office, who, money, body.reference, body.amount)


@router.post("/money/{money}/return", status_code=204)
def send_money_back(money: str, office: TheOffice, who: Asker) -> None:
    """What is left of money that fits no case is to go back."""
    refunding.send_back(office, who, money)


class ApproveRefunds(BaseModel):
    """Refunds that may leave; ``accounts`` names, by the refund, the account to which it goes where none is known."""

    refunds: list[Number] = Field(min_length=1, max_length=200)
    accounts: dict[Number, Annotated[str, Field(max_length=60)]] = {}


@router.post("/money/refunds")
def approve_refunds(body: ApproveRefunds, office: TheOffice, who: Asker) -> int:
    """Let refunds leave, each the way its money came; answers how many left."""
    return refunding.approve(office, who, body.refunds, body.accounts)


class ShutOn(BaseModel):
    """A day, or hours of it, on which the office was shut; why, and by which article."""

    day: date
    begins: time | None = None
    ends: time | None = None
    reason: str = Field(default="", max_length=300)
    article: str = Field(default="", max_length=40)

    def shut(self) -> Shut:
        """The same for the core. Raises Invalid if the hours are none."""
        try:
            return Shut(**self.model_dump())
        except ValueError as error:
            raise Invalid(say("The hours begin before they end; say both, or none.")) from error


@router.get("/closures")
def declared_closures(office: TheOffice, who: Asker) -> list[closures.Declared]:
    """The days on which the office was shut, as they were declared."""
    return closures.declared(office, who)


@router.post("/closures/foreseen")
def foresee_closure(body: ShutOn, office: TheOffice, who: Asker) -> closures.Foreseen:
    """Which limits would move to when if it were declared; nothing is kept."""
    return closures.foresee(office, who, body.shut())


@router.post("/closures")
def declare_closure(body: ShutOn, office: TheOffice, who: Asker) -> closures.Foreseen:
    """Declare that the office was shut; whoever has a limit that moves gets a letter."""
    return closures.declare(office, who, body.shut())


@router.get("/looks")
def all_looks(
    office: TheOffice,
    who: Asker,
    words: Annotated[str, Query(max_length=80)] = "",
    first: date | None = None,
    last: date | None = None,
    after: Annotated[str, Query(max_length=20)] = "",
) -> looks.LooksPage:
    """Who looked at what and when, searched by person, reference and days."""
    return looks.search_looks(office, who, words, first, last, after)


@router.get("/cases/{reference}/looks")
def seen(reference: str, office: TheOffice, who: Asker) -> list[looks.Seen]:
    """Who looked at a case, for leads and auditors."""
    load_case(office, who, reference)
    return list(looks.seen_of(office, who, reference))


class PutOnTheList(BaseModel):
    """A case past its time, by its reference, and why it is erased."""

    reference: str = Field(max_length=40)
    reason: str = Field(max_length=300)


@router.get("/erasing")
def what_is_erased(office: TheOffice, who: Asker) -> erasing.Erasing:
    """What is due to be erased, what waits for a second person, what was erased lately."""
    return erasing.erasing(office, who)


@router.post("/erasing", status_code=204)
def put_on_the_list(body: PutOnTheList, office: TheOffice, who: Asker) -> None:
    """Put a case past its time on the list."""
    erasing.put_on_the_list(office, who, body.reference, body.reason)


@router.post("/erasing/{erasure}/confirmation", status_code=204)
def confirm_erasing(erasure: Number, office: TheOffice, who: Asker) -> None:
    """Confirm as a second person: it is erased."""
    erasing.confirm(office, who, erasure)


@router.delete("/erasing/{erasure}", status_code=204)
def take_off(erasure: Number, office: TheOffice, who: Asker) -> None:
    """Take something off the list."""
    erasing.take_off(office, who, erasure)
