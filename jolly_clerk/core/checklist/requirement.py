"""One line of the checklist: what is asked, its standing, and why. Each kind of line is a class of its own beside this module."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Literal, NamedTuple

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.agreement import AgreementView
from jolly_clerk.core.facts.file_findings import Finding
from jolly_clerk.core.history import overrules
from jolly_clerk.core.say import _, say

Standing = Literal["met", "wanting", "in doubt", "to read", "waived", "not asked", "not known yet"]
Kind = Literal["answer", "document", "rule", "agreement", "prerequisite", "declaration", "signature", "fee", "added"]


@dataclass(frozen=True, slots=True)
class Place:
    """Somewhere a link can go: a question (``works.area``), a slot (``documents.site_plan``), a declaration
    (``declarations.costs``), ``signature`` or ``fee``."""

    ref: str
    label: str


@dataclass(frozen=True, slots=True)
class Given:
    """A standing that an officer gave. ``holds`` is False when the evidence changed since; ``overrules`` is the sentence of the machine
    that it stands against, empty if it overrules nothing."""

    standing: Standing
    who: str
    at: datetime
    reason: str
    holds: bool
    overrules: str = ""


@dataclass(frozen=True, slots=True)
class Offer:
    """A catalogue entry for the wording of a point, with the values of this case put in."""

    id: str
    title: str
    text: str


#: what a letter asks for by the kind of a requirement, where the edition says nothing of it
_ASKED: dict[Kind, str] = {
    "answer": _("Answer: {title}"),
    "agreement": _("Say which is right: {title}"),
    "rule": _("Still needed: {title}"),
    "prerequisite": _("Still needed: {title}"),
    "declaration": _("Read and tick: {title}"),
    "signature": _("Sign the declaration"),
    "fee": _("Pay what is due at filing"),
}


class Explanation(NamedTuple):
    """What a requirement says: all of it but its standing. ``item`` is the repeat it is about, ``named`` the office's file name."""

    group: str
    says: str
    article: str
    because: str
    put_right: str
    places: tuple[Place, ...]
    findings: tuple[Finding, ...] = ()
    files: tuple[Attachment, ...] = ()
    table: AgreementView | None = None
    item: str = ""
    named: str = ""


class Line(ABC):
    """What is asked, for the whole filing or for one item of a part that repeats.

    ``at`` are the places it looks at, ``lane`` is where it is judged. ``item_label`` is what the item is called; ``title`` ends with it.
    """

    id: str
    kind: Kind
    plain_title: str
    item_label: str
    at: Sequence[str]
    lane: str
    stops_filing: bool

    @property
    def title(self) -> str:
        """The title with what the item is called."""
        return f"{self.plain_title}: {self.item_label}" if self.item_label else self.plain_title

    @abstractmethod
    def propose(self) -> Standing:
        """The standing that the machine proposes."""

    def asks(self) -> str:
        """What a letter asks for where it does not hold, in the words of the edition; nothing if it says none."""
        return ""

    def cell(self) -> str:
        """The value that is looked at, short enough for a cell of a table; nothing if there is none."""
        return ""

    @abstractmethod
    def explain(self, proposed: Standing) -> Explanation:
        """All that is said beside the standing."""


class Requirement:
    """A line of the checklist with its standing: the given one while it holds, else the proposed one.

    A requirement that does not stop filing is what a third party delivers, or what has a time of its own after filing.
    What is proposed and what is said are computed when they are first looked at, and kept.

    >>> requirement.standing, requirement.because
    ('wanting', 'Nothing is attached.')
    """

    def __init__(self, line: Line, given: Given | None) -> None:
        self._line = line
        self.given = given
        self.id, self.kind, self.lane, self.stops_filing = line.id, line.kind, line.lane, line.stops_filing

    @property
    def looked_at(self) -> tuple[str, ...]:
        """The places that a judgement looks at; it may be told at others besides."""
        return tuple(self._line.at)

    @cached_property
    def proposed(self) -> Standing:
        """The standing that the machine proposes."""
        return self._line.propose()

    @cached_property
    def explanation(self) -> Explanation:
        """All that is said beside the standing."""
        return self._line.explain(self.proposed)

    @property
    def standing(self) -> Standing:
        """The given standing while its evidence holds, else the proposed one."""
        return self.given.standing if self.given is not None and self.given.holds else self.proposed

    @property
    def judged(self) -> bool:
        """True if an officer gave a standing that still holds."""
        return self.given is not None and self.given.holds

    @property
    def overruled(self) -> bool:
        """True if the standing that holds was given over a fault or a doubt of the machine."""
        return self.given is not None and self.given.holds and bool(self.given.overrules)

    @property
    def square(self) -> str:
        """How it is drawn in a list: its standing, or *overruled*."""
        return "overruled" if self.overruled else self.standing

    @property
    def met_needs_reason(self) -> bool:
        """True if *met* would overrule what the machine proposes, and so needs a reason."""
        return overrules("met", self.proposed)

    @property
    def asked(self) -> bool:
        """True if it counts: neither not asked nor still hanging on an open question."""
        return self.judged or self.proposed not in ("not asked", "not known yet")

    @property
    def stands_open(self) -> bool:
        """True if it stands in the way of acceptance: not known yet, or asked and not judged as met or waived."""
        if self.standing == "not known yet":
            return True
        return self.asked and not (self.judged and self.standing in ("met", "waived"))

    @property
    def title(self) -> str:
        """The title with what the item is called: ``Passport: Person 2, Tom Ashby``."""
        return self._line.title

    @property
    def plain_title(self) -> str:
        """The title without the item: ``Passport``."""
        return self._line.plain_title

    @property
    def item_label(self) -> str:
        """What the item is called: ``Person 2, Tom Ashby``; empty for the whole filing."""
        return self._line.item_label

    @property
    def group(self) -> str:
        """The part under which it stands in the checklist."""
        return self.explanation.group

    @property
    def says(self) -> str:
        """The rule in the words of the edition."""
        return self.explanation.says

    @property
    def article(self) -> str:
        """The article of the rule."""
        return self.explanation.article

    @property
    def because(self) -> str:
        """Why the machine proposes what it proposes."""
        return self.explanation.because

    @property
    def put_right(self) -> str:
        """What would put it right; empty if nothing has to be."""
        return self.explanation.put_right

    @property
    def places(self) -> tuple[Place, ...]:
        """Where it looks, as links."""
        return self.explanation.places

    @property
    def findings(self) -> tuple[Finding, ...]:
        """What was noticed, each with its place."""
        return self.explanation.findings

    @property
    def files(self) -> tuple[Attachment, ...]:
        """The files that it rests on."""
        return self.explanation.files

    @property
    def table(self) -> AgreementView | None:
        """The agreement table, if it compares what several places state."""
        return self.explanation.table

    @property
    def item(self) -> str:
        """The repeat it is about, as ``persons.2``; empty for the whole filing."""
        return self.explanation.item

    @cached_property
    def asks(self) -> str:
        """What a letter asks for: the title of its point."""
        asked, title = self._line.asks(), self.plain_title
        if not asked and self.kind == "document":
            asked = say("Send anew: {title}", title=title) if self.files else say("Send: {title}", title=title)
        elif not asked and self.kind in _ASKED:
            asked = say(_ASKED[self.kind], title=title)
        elif not asked:
            asked = title
        return f"{asked} ({self.item_label})" if self.item_label else asked

    @cached_property
    def cell(self) -> str:
        """The value that is looked at, for the table of a part that repeats; nothing for the whole filing."""
        return self._line.cell() if self.asked and self.item_label else ""

    @property
    def named(self) -> str:
        """The office's name for the file of a document; empty if it has none."""
        return self.explanation.named
