"""Routes by which a lead runs the office: its condition, its settings, its registers, what could not be sent."""

from __future__ import annotations

from typing import Annotated

from fastapi import Form, Query, Response, UploadFile
from pydantic import BaseModel, Field

from jolly_clerk.office.running import condition, copies, maps, registers, settling
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.attached import attached
from jolly_clerk.web.turns import router_of

router = router_of("/api/office", "office")


class NewValue(BaseModel):
    """What a setting is to be."""

    value: str = Field(max_length=400)


class OutboxItem(BaseModel):
    """Something in the outbox, by its key."""

    key: str = Field(max_length=120)


@router.get("")
def the_office_itself(office: TheOffice, who: Asker) -> condition.OfficePage:
    """The condition of the office in words, what could not be sent, its settings, its registers, what was done to it."""
    return condition.office_page(office, who)


@router.post("/copies", status_code=204)
def take_copy(office: TheOffice, who: Asker) -> None:
    """Begin to take a copy of the office; how it went stands on its page."""
    copies.take_copy(office, who)


@router.put("/settings/{name}", status_code=204)
def change_setting(name: str, given: NewValue, office: TheOffice, who: Asker) -> None:
    """Change a setting that is safe to change."""
    settling.change_setting(office, who, name, given.value)


@router.get("/outbox/mail", response_class=Response)
def mail(key: Annotated[str, Query(max_length=120)], office: TheOffice, who: Asker) -> Response:
    """Something of the outbox as a mail (EML)."""
    return attached(condition.mail_of_outbox(office, who, key), "message/rfc822", "mail.eml")


@router.post("/outbox/again", status_code=204)
def send_again(item: OutboxItem, office: TheOffice, who: Asker) -> None:
    """Try once more to send what was set aside."""
    condition.send_again(office, who, item.key)


@router.post("/registers/{name}/look")
def look_over(name: str, file: UploadFile, office: TheOffice, who: Asker) -> registers.RegisterChange:
    """What a CSV file would change in a register; nothing is kept."""
    return registers.look_over(office, who, name, file.file.read(registers.MOST_BYTES + 1))


@router.post("/registers/{name}")
def take_register(
    name: str, file: UploadFile, sha256: Annotated[str, Form(max_length=64)], office: TheOffice, who: Asker
) -> registers.RegisterChange:
    """Take a new state of a register, as it was looked over."""
    return registers.take(office, who, name, file.file.read(registers.MOST_BYTES + 1), sha256)


@router.post("/registers/{name}/map/look")
def look_over_map(name: str, file: UploadFile, office: TheOffice, who: Asker) -> registers.RegisterChange:
    """What a map in GeoJSON would change beside a register; nothing is kept."""
    return maps.look_over_map(office, who, name, file.file.read(registers.MOST_BYTES + 1))


@router.post("/registers/{name}/map")
def take_map(
    name: str, file: UploadFile, sha256: Annotated[str, Form(max_length=64)], office: TheOffice, who: Asker
) -> registers.RegisterChange:
    """Take a map, as it was looked over."""
    return maps.take_map(office, who, name, file.file.read(registers.MOST_BYTES + 1), sha256)
