"""Routes: accounts, passwords, and the people of the office."""

from __future__ import annotations

import tempfile
from datetime import date
from typing import Annotated

from fastapi import Response
from pydantic import BaseModel, Field

from jolly_clerk.office.keeping.copying import copy_of
from jolly_clerk.office.keeping.looks import looked
from jolly_clerk.office.people import accounts, claiming
from jolly_clerk.office.people.directory import Begun
from jolly_clerk.office.preparing import profiles
from jolly_clerk.web.asking import COOKIE, Asker, Cookie, Sender, TheOffice
from jolly_clerk.web.turns import router_of

router = router_of("/api", "accounts")


class SignUp(BaseModel):
    """A new account of an applicant."""

    name: str = Field(max_length=200)
    mail: str = Field(max_length=300)
    password: str = Field(max_length=400)


class SignIn(BaseModel):
    """Signing in; ``code`` is the one that came by text message, where one is asked for."""

    mail: str = Field(max_length=300)
    password: str = Field(max_length=400)
    code: str = Field(default="", max_length=20)


class Mail(BaseModel):
    """The address of a forgotten password."""

    mail: str = Field(max_length=300)


class Claim(BaseModel):
    """The code that stands on a letter of the office, and the account that is made with it."""

    code: str = Field(max_length=40)
    mail: str = Field(max_length=300)
    password: str = Field(max_length=400)


class NewPassword(BaseModel):
    """A password set by a one-time link."""

    secret: str = Field(max_length=100)
    password: str = Field(max_length=400)


class ChangePassword(BaseModel):
    """The own password, old and new."""

    old: str = Field(max_length=400)
    new: str = Field(max_length=400)


class KeepProfile(BaseModel):
    """What filings begin with."""

    address: str = Field(max_length=1000)
    telephone: str = Field(max_length=200)
    born: date | None = None
    firm: str = Field(default="", max_length=1000)
    language: str = Field(default="", max_length=20)
    letters: str = Field(default="", max_length=20)


class Invite(BaseModel):
    """Somebody new in the office."""

    name: str = Field(max_length=200)
    mail: str = Field(max_length=300)
    role: str = Field(max_length=20)
    kinds: list[Annotated[str, Field(max_length=10)]] = Field(default=[], max_length=50)


class LimitTo(BaseModel):
    """The kinds that somebody is limited to; none means all."""

    kinds: list[Annotated[str, Field(max_length=10)]] = Field(max_length=50)


class Confirm(BaseModel):
    """The code that was sent to the own address."""

    code: str = Field(max_length=20)


class StaffOut(BaseModel):
    """Somebody of the office. ``ready`` tells that a password was set."""

    id: str
    name: str
    mail: str
    role: str
    kinds: list[str]
    ready: bool
    left: bool


def keep_cookie(response: Response, office: TheOffice, begun: Begun) -> None:
    """Put a session into its cookie: never seen by scripts, only sent to us, and only over TLS where the office has it."""
    response.set_cookie(
        COOKIE,
        begun.secret,
        httponly=True,
        samesite="strict",
        secure=office.settings.base_url.startswith("https:"),
        max_age=office.settings.session_hours * 3600,
    )


@router.post("/session/sign-up", status_code=204)
def sign_up(body: SignUp, response: Response, office: TheOffice, sender: Sender) -> None:
    """Make an account, and be signed in. A code goes to the address; the answer tells nothing about who has an account."""
    keep_cookie(response, office, accounts.sign_up(office, body.name, body.mail, body.password, sender))


@router.post("/session/claim", status_code=204)
def claim(body: Claim, response: Response, office: TheOffice, sender: Sender) -> None:
    """Make an account by the code on a letter of the office, and be signed in."""
    keep_cookie(response, office, claiming.claim(office, body.code, body.mail, body.password, sender))


@router.post("/session/code", status_code=204)
def send_code_again(office: TheOffice, who: Asker) -> None:
    """Send a new code to the own address."""
    accounts.send_code_again(office, who)


@router.post("/session/confirmation", status_code=204)
def confirm(body: Confirm, office: TheOffice, who: Asker) -> None:
    """Confirm the own address by the code that was sent to it."""
    accounts.confirm(office, who, body.code)


@router.post("/session/sign-in", status_code=204)
def sign_in(body: SignIn, response: Response, office: TheOffice, sender: Sender) -> None:
    """Sign in with a password. Who asked for a code by text message gets 409 at ``code`` first, and sends it with all the rest."""
    keep_cookie(response, office, accounts.sign_in(office, body.mail, body.password, sender, body.code))


@router.post("/session/forgotten", status_code=204)
def forgotten(body: Mail, office: TheOffice, sender: Sender) -> None:
    """Ask for a link to set a new password; the answer tells nothing about who has an account."""
    accounts.forgotten(office, body.mail, sender)


@router.post("/session/new-password", status_code=204)
def new_password(body: NewPassword, response: Response, office: TheOffice) -> None:
    """Set a password by a one-time link, and be signed in."""
    keep_cookie(response, office, accounts.set_password(office, body.secret, body.password))


@router.post("/session/password", status_code=204)
def change_password(body: ChangePassword, office: TheOffice, who: Asker, cookie: Cookie) -> None:
    """Change the own password; every other session ends."""
    accounts.change_password(office, who, body.old, body.new, cookie)


@router.delete("/session/others", status_code=204)
def end_others(office: TheOffice, who: Asker, cookie: Cookie) -> None:
    """End every other session of whoever is signed in."""
    accounts.end_others(office, who, cookie)


@router.get("/session/profile")
def own_profile(office: TheOffice, who: Asker) -> profiles.Profile:
    """What the own account says: filings begin with it."""
    return profiles.profile(office, who.id)


@router.put("/session/profile")
def keep_profile(body: KeepProfile, office: TheOffice, who: Asker) -> profiles.Profile:
    """Change what filings begin with."""
    return profiles.keep_profile(office, who, profiles.Kept(**body.model_dump()))


@router.get("/session/copy", response_class=Response, responses={200: {"content": {"application/zip": {}}}})
def own_copy(office: TheOffice, who: Asker) -> Response:
    """All that the office holds about whoever is signed in, as a ZIP of JSON and files."""
    looked(office, who, "copy")
    with tempfile.SpooledTemporaryFile(max_size=20_000_000) as made:
        copy_of(office, who.signs, made)
        made.seek(0)
        content = made.read()
    headers = {"Content-Disposition": 'attachment; filename="what-is-held-about-you.zip"', "Cache-Control": "no-store"}
    return Response(content, media_type="application/zip", headers=headers)


@router.get("/people")
def people(office: TheOffice, who: Asker) -> list[StaffOut]:
    """Everybody who works in the office."""
    return [
        StaffOut(
            id=p.id, name=p.name, mail=p.mail, role=p.role, kinds=p.kinds, ready=bool(p.password_hash), left=p.left_at is not None
        )
        for p in accounts.staff(office, who)
    ]


@router.post("/people", status_code=201)
def invite(body: Invite, office: TheOffice, who: Asker) -> StaffOut:
    """Add somebody to the office; a link to set the first password goes out."""
    made = accounts.invite(office, who, body.name, body.mail, body.role, body.kinds)
    return StaffOut(id=made.id, name=made.name, mail=body.mail, role=made.role, kinds=list(made.kinds), ready=False, left=False)


@router.put("/people/{person}/kinds", status_code=204)
def limit_to(person: str, body: LimitTo, office: TheOffice, who: Asker) -> None:
    """Limit somebody of the office to some kinds, or to none."""
    accounts.limit_to(office, who, person, body.kinds)


@router.delete("/people/{person}", status_code=204)
def leave(person: str, office: TheOffice, who: Asker) -> None:
    """Somebody leaves the office."""
    accounts.leave(office, who, person)
