"""Routes of how a person is reached: the number for text messages, codes by text, which news go by which way."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from jolly_clerk.office.people import texting
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.turns import router_of

router = router_of("/api/session", "session")
Short = Annotated[str, Field(max_length=20)]


class OwnNumber(BaseModel):
    """A number for text messages."""

    number: str = Field(max_length=60)


class TypedCode(BaseModel):
    """A code that came by text message."""

    code: Short


class KeepContact(BaseModel):
    """By which way each kind of news comes (``mail``, ``text`` or ``both``), and whether a code is asked for at signing in."""

    news: dict[Short, Short] = Field(max_length=20)
    code_by_text: bool


class CodeSent(BaseModel):
    """The last digits of the number to which the code went."""

    digits: str


@router.get("/contact")
def contact(office: TheOffice, who: Asker) -> texting.Contact:
    """How whoever is signed in is reached."""
    return texting.contact(office, who)


@router.put("/contact")
def keep_contact(body: KeepContact, office: TheOffice, who: Asker) -> texting.Contact:
    """Choose by which way news come."""
    return texting.keep_contact(office, who, body.news, body.code_by_text)


@router.post("/number")
def ask_number(body: OwnNumber, office: TheOffice, who: Asker) -> texting.Contact:
    """Send a code to a number; it is kept once the code came back."""
    return texting.ask_number(office, who, body.number)


@router.post("/number/confirmation")
def confirm_number(body: TypedCode, office: TheOffice, who: Asker) -> texting.Contact:
    """Keep the number to which the code was sent."""
    return texting.confirm_number(office, who, body.code)


@router.delete("/number")
def forget_number(office: TheOffice, who: Asker) -> texting.Contact:
    """Forget the number."""
    return texting.forget_number(office, who)


@router.post("/code-by-text")
def ask_code(office: TheOffice, who: Asker) -> CodeSent:
    """Send a code for a filing by text message to the known number."""
    return CodeSent(digits=texting.ask_code(office, who))
