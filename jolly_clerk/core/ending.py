"""The entries of a history that hand a case over, decide it and end it, and that of such a step that did not leave."""

from __future__ import annotations

from decimal import Decimal
from typing import Literal

from pydantic import AwareDatetime, Field

from jolly_clerk.core.happened import Happened, InLane


class Ended(InLane):
    """Base of what closes a case, or one lane of it; the letter says what the person can do against it."""

    what: str = ""
    grounds: str = ""
    letter_sha256: str = ""


class Withdrawn(Ended):
    """The applicant withdrew the application."""

    what: Literal["withdrawn"] = "withdrawn"


class NotAccepted(Ended):
    """The office does not accept the application."""

    what: Literal["not accepted"] = "not accepted"


class OutOfScope(Ended):
    """The application does not belong here."""

    what: Literal["out of scope"] = "out of scope"


class Lapsed(Ended):
    """The applicant's time ran out; an entry of the clock job."""

    what: Literal["lapsed"] = "lapsed"
    step: Literal["payment", "answers"]


class HandedOver(Happened):
    """A complete case went to a reviewer, who leads and decides; ``beside`` are the others, who sign off first."""

    what: Literal["handed over"] = "handed over"
    to: str
    beside: tuple[str, ...] = Field(default=(), exclude_if=lambda kept: not kept)


class Granted(Ended):
    """The reviewer granted the application; ``due`` falls due now, ``code`` is the permit's."""

    what: Literal["granted"] = "granted"
    due: Decimal
    code: str


class PermitIssued(Happened):
    """What was due at issue is covered, and the permit goes out."""

    what: Literal["permit issued"] = "permit issued"
    code: str
    permit_sha256: str = ""


class Refused(Ended):
    """The reviewer refused the application."""

    what: Literal["refused"] = "refused"


class StepTakenBack(InLane):
    """A step that was ready did not leave: somebody of the office took it back before ``leaves_at``, or, ``because`` of what happened to
    the case meanwhile, it fell with it; ``of`` is who had made it ready."""

    what: Literal["step taken back"] = "step taken back"
    move: str
    leaves_at: AwareDatetime
    because: str = ""
    of: str = Field(default="", exclude_if=lambda kept: not kept)
