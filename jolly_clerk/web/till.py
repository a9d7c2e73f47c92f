"""Routes of the till: drawers, statements of the bank and their movements, files for the bank and of a day."""

from __future__ import annotations

from decimal import Decimal
from typing import Annotated, Literal

from fastapi import File, Response, UploadFile
from pydantic import BaseModel, Field

from jolly_clerk.office.cases.paying import take_at_till
from jolly_clerk.office.keeping.looks import looked
from jolly_clerk.office.till import drawers, files, page, placing, statements
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.attached import attached
from jolly_clerk.web.bodies import Number
from jolly_clerk.web.tables import MEDIA
from jolly_clerk.web.turns import router_of

router = router_of("/api/till", "office")

Id = Annotated[str, Field(max_length=40)]
Amount = Annotated[Decimal, Field(gt=0, max_digits=12, decimal_places=3)]
Counted = Annotated[Decimal, Field(ge=0, max_digits=12, decimal_places=3)]


class OpenTill(BaseModel):
    """A drawer that is opened with what was counted in it; ``till`` is what it is called, if there are several."""

    opened_with: Counted
    till: Id = ""


class CloseTill(BaseModel):
    """What was counted in a drawer, and why it differs if it does."""

    counted: Counted
    because: str = Field(default="", max_length=300)


class PlacedPart(BaseModel):
    """A part of the money, and the case that gets it."""

    reference: Id
    amount: Amount


class PlaceMovement(BaseModel):
    """On which cases money is placed."""

    parts: list[PlacedPart] = Field(min_length=1, max_length=50)


class WhySo(BaseModel):
    """Why, in a few words."""

    because: str = Field(default="", max_length=300)


class TakePaymentBack(WhySo):
    """The payment that money which went out takes back: its case and its key."""

    reference: Id
    payment: str = Field(max_length=110)


class ConfirmSure(BaseModel):
    """Movements whose proposals are confirmed as they are."""

    movements: list[Id] = Field(min_length=1, max_length=placing.MOST_AT_ONCE)


class AtCounter(BaseModel):
    """Cash or a cheque taken at the counter. ``mark`` is the number of the cheque; cash gets one of its own."""

    reference: Id
    amount: Amount
    means: Literal["cash", "cheque"]
    mark: str = Field(default="", max_length=60)
    payer: str = Field(default="", max_length=140)


class ForBank(BaseModel):
    """The currency of the refunds that go into a file."""

    currency: str = Field(min_length=3, max_length=3)


@router.get("")
def till(office: TheOffice, who: Asker) -> page.TillView:
    """What is to be looked at, what is sure, and the day."""
    told = page.till(office, who)
    looked(office, who, "list", detail="till")
    return told


@router.post("/days")
def open_till(body: OpenTill, office: TheOffice, who: Asker) -> page.TillView:
    """Open a drawer."""
    drawers.open_till(office, who, body.opened_with, body.till)
    return page.till(office, who)


@router.get("/days")
def closings(office: TheOffice, who: Asker) -> list[drawers.DayView]:
    """The days that were closed, newest first."""
    return drawers.closings(office, who)


@router.post("/days/{day}/closing")
def close_till(day: str, body: CloseTill, office: TheOffice, who: Asker) -> drawers.DayView:
    """Close a drawer with what was counted."""
    return drawers.close_till(office, who, day, body.counted, body.because)


@router.post("/days/{day}/second")
def confirm_closing(day: str, office: TheOffice, who: Asker) -> drawers.DayView:
    """A second person looked at the difference."""
    return drawers.confirm_closing(office, who, day)


@router.delete("/days/{day}/closing")
def count_again(day: str, office: TheOffice, who: Asker) -> drawers.DayView:
    """Count again, before a second person looked."""
    return drawers.count_again(office, who, day)


@router.get("/days/{number}/closing.{form}")
def day_as_table(number: Number, form: Literal["csv", "xlsx"], office: TheOffice, who: Asker) -> Response:
    """What came and went in a closed day, as a table."""
    content = files.day_as_table(office, who, number, form)
    looked(office, who, "list", detail=f"closing {number}")
    return attached(content, MEDIA[form], f"closing-{number:05}.{form}")


@router.post("/statements")
def read_statement(file: Annotated[UploadFile, File()], office: TheOffice, who: Asker) -> list[statements.StatementRead]:
    """Read a statement of the bank: camt.053, CSV or XLSX."""
    content = file.file.read(statements.MOST_BYTES + 1)
    return statements.read_statement(office, who, file.filename or "", content)


@router.get("/movements/{movement}")
def movement(movement: str, office: TheOffice, who: Asker) -> page.MovementView:
    """A movement with what is proposed for it."""
    return page.movement(office, who, movement)


@router.post("/movements/{movement}/placing", status_code=204)
def place(movement: str, body: PlaceMovement, office: TheOffice, who: Asker) -> None:
    """Place money on cases."""
    placing.place_movement(office, who, movement, [(part.reference, part.amount) for part in body.parts])


@router.post("/movements/{movement}/keeping", status_code=204)
def keep(movement: str, body: WhySo, office: TheOffice, who: Asker) -> None:
    """Keep money that is not placed yet."""
    placing.keep_unplaced(office, who, movement, body.because)


@router.post("/movements/{movement}/return", status_code=204)
def send_back(movement: str, body: WhySo, office: TheOffice, who: Asker) -> None:
    """Send money back that belongs to no case."""
    placing.return_movement(office, who, movement, body.because)


@router.post("/movements/{movement}/no-case", status_code=204)
def no_case(movement: str, body: WhySo, office: TheOffice, who: Asker) -> None:
    """Set a movement aside that is none of a case."""
    placing.no_case(office, who, movement, body.because)


@router.post("/movements/{movement}/taking-back", status_code=204)
def take_back(movement: str, body: TakePaymentBack, office: TheOffice, who: Asker) -> None:
    """Money that went out takes a payment back."""
    placing.charge_back_movement(office, who, movement, body.reference, body.payment, body.because)


@router.delete("/movements/{movement}/decision", status_code=204)
def undo(movement: str, office: TheOffice, who: Asker) -> None:
    """Look again at a movement of which nothing came yet."""
    placing.undo(office, who, movement)


@router.post("/confirmed")
def confirm(body: ConfirmSure, office: TheOffice, who: Asker) -> placing.Confirmed:
    """Confirm all movements that are sure."""
    return placing.confirm_sure(office, who, body.movements)


@router.get("/cases/{reference}")
def case_at_till(reference: str, office: TheOffice, who: Asker) -> page.CaseAtTill:
    """What a case awaits now."""
    told = page.case_at_till(office, who, reference)
    looked(office, who, "case", told.reference, detail="till")
    return told


@router.post("/counter")
def take(body: AtCounter, office: TheOffice, who: Asker) -> str:
    """Take cash or a cheque at the counter; answers the number of the receipt."""
    return take_at_till(office, who, body.reference, body.amount, body.means, body.mark, body.payer)


@router.get("/files")
def payment_files(office: TheOffice, who: Asker) -> list[files.FileRow]:
    """The files of refunds that were made, newest first."""
    return files.payment_files(office, who)


@router.post("/files")
def make_payment_file(body: ForBank, office: TheOffice, who: Asker) -> files.FileMade:
    """Put the refunds that were approved into a file for the bank."""
    return files.make_payment_file(office, who, body.currency)


@router.get("/files/{number}")
def payment_file(number: Number, office: TheOffice, who: Asker) -> Response:
    """A file of refunds, as pain.001."""
    content = files.read_payment_file(office, who, number)
    return attached(content, "application/xml", f"refunds-{number:05}.xml")
