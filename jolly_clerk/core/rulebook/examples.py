"""The examples that an edition carries: a dossier, what happened to it, and what must come out."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints

from jolly_clerk.core.rulebook.said import Id, RuleId, Said


class ExampleFile(Said):
    """A file as a reader would have read it: sheets like ``A3`` or ``A3 upright``, and the lines of its text.

    ``slot`` of one of each repeat is ``passport.2``; ``words`` are on the first sheet; ``pixels`` are those of a picture;
    ``languages`` are those of its sheets, in their order; ``claims`` are counted as ``27, 3 independent, 1 multiple``.
    ``head`` is the height of the one head in a portrait, in percent of the picture; ``free`` is what is left free on each sheet, in
    millimetres: ``20, 20, 10, 10`` for top, left, right and bottom.
    """

    slot: Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,39}(\.[0-9a-z]{1,10})?$")]
    name: str = ""
    type: str = "pdf"
    opens: str = "yes"
    size: str = "1 MB"
    sheets: list[str] = ["A4"]
    text: list[str] = []
    words: int = 30
    languages: list[str] = []
    pixels: Annotated[str, StringConstraints(pattern=r"^(\d+ x \d+)?$")] = ""
    head: int | None = Field(default=None, ge=0, le=100)
    free: Annotated[str, StringConstraints(pattern=r"^(\d{1,3}(, \d{1,3}){3})?$")] = ""
    claims: Annotated[str, StringConstraints(pattern=r"^(\d+, \d+ independent, \d+ multiple)?$")] = ""


class Event(Said):
    """Something that happened: ``at`` is a day, or a day with an hour of the office's zone; ``lane`` is where (``sites.2``).

    ``debt`` is the one that was paid, by its key (``check.1.2``); by default those that are asked for, then the next.
    """

    at: str
    lane: str = ""
    what: Literal[
        "paid", "body asked", "body answered", "checking began", "letter", "letter returned", "letter again", "extended", "answered",
        "accepted", "granted", "issued", "withdrawn", "out of scope", "not accepted", "fee raised",
    ]  # fmt: skip
    amount: str | None = None
    debt: str = ""
    prepaid: str | None = None


class LaneGives(Said):
    """What must come out of one lane; only what is said is compared."""

    state: str | None = None
    holder: str | None = None
    limit: str | None = None


class Gives(Said):
    """What must come out; only what is said is compared. ``lanes`` are called ``common`` and ``part.n``.

    ``permit`` tells of what was granted: ``state``, the days ``starts``, ``begin``, ``finish`` and ``ends``, and ``reminders``. ``does`` tells
    what a short filing does to its permit: ``does``, ``starts``, ``until``, the days that it moves, ``back``, what it says by its title, and
    whether it is decided ``by itself``. ``agenda`` tells by the day of a meeting of the pathway when its agenda closes.
    ``debts`` are told as ``Ada Finch 129.86 until 2027-04-12 paid``.
    """

    way_in: str | None = None
    pathway: str | None = None
    agenda: dict[date, date] = {}
    values: dict[str, str] = {}
    fees: dict[str, str] = {}
    due: dict[str, str] = {}
    standings: dict[str, str] = {}
    wanting: list[str] | None = None
    state: str | None = None
    holder: str | None = None
    step: str | None = None
    limit: str | None = None
    reminders: list[str] | None = None
    lapses: str | None = None
    refund: str | None = None
    refund_out_of_scope: str | None = None
    open: str | None = None
    debts: list[str] | None = None
    lanes: dict[str, LaneGives] = {}
    permit: dict[Literal["state", "starts", "begin", "finish", "ends", "reminders"], str] = {}
    does: dict[str, str] = {}


class Variant(Said):
    """The same dossier with some answers changed (``part.question: value``), other files or declarations, another instant."""

    say: dict[str, Any] = {}
    not_declared: list[Id] | None = None
    files: list[ExampleFile] | None = None
    as_of: str | None = None
    now: str | None = None
    happened: list[Event] | None = None
    gives: Gives


class Example(Said):
    """A dossier as of a day (the filing day), what happened since, and what must come out.

    All is declared but ``not_declared``. ``now`` is the instant of looking, the last event's if it is left out. ``also`` are variants of it.
    """

    id: RuleId
    as_of: str
    now: str | None = None
    dossier: dict[str, Any] = {}
    registers: dict[Id, dict[str, str]] = {}
    files: list[ExampleFile] = []
    signed: bool = True
    not_declared: list[Id] = []
    happened: list[Event] = []
    gives: Gives = Gives()
    also: list[Variant] = []
