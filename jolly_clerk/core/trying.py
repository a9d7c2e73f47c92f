"""Tries an edition on the examples that it carries: what must come out, against what does."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import Any

from jolly_clerk.core import history as h
from jolly_clerk.core.absence import is_absent
from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.clock import decision_day, reminders
from jolly_clerk.core.deadlines import answers_due, body_due, deemed
from jolly_clerk.core.dossier.model import Answers, Dossier, Version
from jolly_clerk.core.due import permit_reminders
from jolly_clerk.core.example_dossiers import laid_out, variants_of
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.fees.debts import Debt, allotted, debts_of, later
from jolly_clerk.core.history import NO_HISTORY, History
from jolly_clerk.core.in_words import in_words
from jolly_clerk.core.known import Known
from jolly_clerk.core.lifecycle import fold, in_lane
from jolly_clerk.core.meetings import closes_on, meeting_on
from jolly_clerk.core.permit_steps import told_of_step
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.examples import Event, Example, Gives, Variant
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.values import Value

_SOMEBODY = "example"


@dataclass(frozen=True, slots=True)
class Miss:
    """Something that did not come out: which example (and which variant of it, from 1), what, wanted and found."""

    example: str
    variant: int
    what: str
    wanted: str
    found: str

    def __str__(self) -> str:
        where: str = self.example
        if self.variant:
            where = say("{example}, variant {variant}", example=self.example, variant=self.variant)
        return say(
            "{where}: {what} should be {wanted}, and is {found}",
            where=where,
            what=self.what,
            wanted=self.wanted,
            found=self.found,
        )


def try_examples(rulebook: Rulebook, calendar: Calendar) -> Iterator[Miss]:
    """Every miss of every example; nothing if all come out."""
    for example in rulebook.edition.examples:
        yield from try_example(rulebook, calendar, example)


def try_example(rulebook: Rulebook, calendar: Calendar, example: Example, only: int | None = None) -> Iterator[Miss]:
    """The misses of one example (0) and of its variants (from 1 on), or of one of them ``only``."""
    for n, variant in enumerate(variants_of(example)):
        if only is not None and n != only:
            continue
        dossier, readings = laid_out(rulebook, example, variant)
        try:
            found = _Trial(rulebook, calendar, example, dossier, readings, variant).run()
        except (ValueError, KeyError) as error:
            yield Miss(example.id, n, say("the example"), "possible", f"{type(error).__name__}: {error}")
            continue
        yield from (Miss(example.id, n, what, wanted, was) for what, wanted, was in found)


def assessed_example(
    rulebook: Rulebook, calendar: Calendar, id_: str, under: Rulebook | None = None, answers: Answers | None = None
) -> Assessment | None:
    """An example as its form stands on the day of its filing, before anything happened, or what another edition makes of it; with other
    ``answers`` if given, which need no example (``id_`` is empty) and are of the edition's first day then. None if there is no such example."""
    example = next((e for e in rulebook.edition.examples if e.id == id_), None)
    if answers is not None and not id_:
        example = Example(id="own", as_of=str(rulebook.edition.in_force), signed=False, gives=Gives())
    if example is None:
        return None
    example = example if answers is None else example.model_copy(update={"dossier": answers})
    variant = variants_of(example)[0]
    dossier, readings = laid_out(rulebook, example, variant)
    trial = _Trial(rulebook, calendar, example, dossier, readings, variant)
    if dossier.signature is not None:  # it is shown, and was given when it was filed
        signed = dossier.signature.model_copy(update={"at": trial.filed_at})
        dossier = dossier.model_copy(update={"signature": signed})
    return assess(under or rulebook, dossier, NO_HISTORY, trial.known, trial.filed_at)


class _Trial:
    """One dossier with what happened to it, assessed, and compared with what must come out."""

    def __init__(
        self,
        rulebook: Rulebook,
        calendar: Calendar,
        example: Example,
        dossier: Dossier,
        readings: Mapping[str, Reading],
        variant: Variant,
    ) -> None:
        self.rulebook, self.calendar, self.example, self.variant = rulebook, calendar, example, variant
        self.dossier, self.known = dossier, Known(calendar, dict(readings))
        self.filed_at = self.instant(variant.as_of or example.as_of)
        happened = example.happened if variant.happened is None else variant.happened
        self.history = self.past(happened) if happened or example.registers else NO_HISTORY
        last = happened[-1].at if happened else variant.as_of or example.as_of
        self.now = self.instant(
            variant.now or (example.now if variant.happened is None and variant.as_of is None else None) or last
        )

    def instant(self, said: str) -> datetime:
        day, _, hour = said.strip().partition(" ")
        at = time.fromisoformat(hour) if hour else time(12)
        return datetime.combine(date.fromisoformat(day), at, self.calendar.zone)

    def past(self, happened: Sequence[Event]) -> History:
        versions = [Version(no=1, at=self.filed_at, dossier=self.dossier)]
        draft = assess(self.rulebook, self.dossier, NO_HISTORY, self.known, self.filed_at)
        due = draft.fees.total("at filing").low
        whose: Any = {"at": self.filed_at, "who": _SOMEBODY, "role": "applicant"}
        self.rules = draft.clock_rules
        told: dict[str, Any] = {"due_at_filing": due, "later": later(draft.debts_in("at filing", due, self.filed_at))}
        entries: list[h.Entry] = [h.Filed(**whose, edition=self.rulebook.edition.id, **told)]
        for name, row in self.example.registers.items():
            register = self.rulebook.edition.registers[name]
            entries.append(h.RegisterAsked(**whose, name=name, key=row.get(register.key, ""), row=row or None))
        for event in happened:
            entries.append(self.entry(event, entries, versions, draft))
        return History(entries=tuple(entries), versions=tuple(versions))

    def due_of(self, sent: datetime) -> dict[str, Any]:
        """When answers to a letter are due, and when it counts as received."""
        due = answers_due(sent, self.rules, self.calendar)
        return {"due": due.day, "due_at": due.at, "received": deemed(sent, self.rules.answers, self.calendar)}

    def entry(self, event: Event, entries: list[h.Entry], versions: list[Version], draft: Assessment) -> h.Entry:
        fees = draft.fees
        so_far, at = in_lane(fold(entries), event.lane), self.instant(event.at)
        lane = {"lane": event.lane} if event.lane else {}
        office: Any = {"at": at, "who": _SOMEBODY, "role": "officer", **lane}
        applicant: Any = {"at": at, "who": _SOMEBODY, "role": "applicant", **lane}
        rules, round_no = self.rules, len(so_far.rounds)
        if event.what == "paid":
            owed = fees.total("after the check" if so_far.accepted else "at filing").low
            amount, prepaid = Decimal(event.amount) if event.amount else owed, Decimal(event.prepaid or 0)
            so_owed = debts_of(self.rulebook, draft.sheet, so_far, fees, self.calendar, at)
            told = allotted(so_owed, amount, prepaid, event.debt)
            return h.Paid(**applicant, amount=amount, means="card", key=str(len(entries)), prepaid=prepaid, debts=told)
        if event.what == "letter":
            point = h.AskedPoint(no=1, requirement="signature", title="-", text="-", places=("signature",))
            return h.LetterSent(**office, round=round_no + 1, version=len(versions), points=(point,), **self.due_of(at))
        if event.what == "letter returned":
            return h.LetterReturned(**office, round=round_no)
        if event.what == "letter again":
            return h.LetterSentAgain(**office, round=round_no, **self.due_of(at))
        if event.what == "body asked":
            body = rules.other_body
            assert body is not None
            due = body_due(at, body, self.calendar)
            until = due.ends(self.calendar)
            no = len(so_far.bodies) + 1
            return h.BodyAsked(**office, no=no, body="-", text="-", due=due.day, until=until, pauses=body.pauses)
        if event.what == "body answered":
            return h.BodyAnswered(**office, of=len(so_far.bodies))
        if event.what == "extended":
            sent = so_far.rounds[-1].paused_from or at
            due = answers_due(sent, rules, self.calendar, extended=True, received=so_far.rounds[-1].received)
            return h.Extended(**applicant, round=round_no, due=due.day, due_at=due.at)
        if event.what == "answered":
            versions.append(Version(no=len(versions) + 1, at=at, dossier=self.dossier))
            return h.Answered(**applicant, round=round_no, version=len(versions))
        if event.what == "accepted":
            target = decision_day(at, at, rules, self.calendar)
            total = fees.total("after the check").low
            owed_then = draft.debts_in("after the check", total, at)
            return h.Accepted(**office, target=target, due=total, later=later(owed_then))
        if event.what == "fee raised":
            return h.FeeRaised(**office, due=Decimal(event.amount or 0), because="-")
        if event.what == "granted":
            return h.Granted(**office, due=Decimal(event.amount or 0), code="EXAMPLE")
        if event.what == "issued":
            return h.PermitIssued(**office, code="EXAMPLE", permit_sha256="")
        plain: dict[str, Any] = {
            "checking began": h.CheckingBegan,
            "withdrawn": h.Withdrawn,
            "out of scope": h.OutOfScope,
            "not accepted": h.NotAccepted,
        }
        made: h.Entry = plain[event.what](**office)
        return made

    def run(self) -> list[tuple[str, str, str]]:
        """What was wanted and did not come out."""
        a = assess(self.rulebook, self.dossier, self.history, self.known, self.now)
        wanted = list(_wanted(self.variant.gives))
        told = self.told(a, {what.partition(" ")[0] for what, _ in wanted})
        return [(what, value, told.get(what, "nothing")) for what, value in wanted if told.get(what, "nothing") != value]

    def told(self, a: Assessment, asked: set[str]) -> dict[str, str]:
        """What came out, by name; only the sections that somebody asks for are worked out."""
        told: dict[str, str] = {}
        if "way" in asked:
            told["way in"] = a.way_in.branch if a.way_in else "none"
        if "pathway" in asked:
            told["pathway"] = a.pathway.id if a.pathway else "none"
        if "agenda" in asked and (meeting := meeting_on(self.rulebook, a.pathway.id if a.pathway else "")):
            told |= {f"agenda {on}": str(closes_on(meeting, on, a.known.calendar)) for on in self.variant.gives.agenda}
        if "state" in asked:
            told["state"] = a.state
        if "open" in asked:
            told["open"] = str(a.account.open)
        if "wanting" in asked:
            told["wanting"] = " ".join(sorted(r.id for r in a.requirements if r.standing == "wanting"))
        if "refund" in asked:
            told |= {f"refund {r.ending}": str(r.total) for r in a.refunds}
        if "value" in asked:
            told |= self.values(a)
        if "debts" in asked:
            told["debts"] = "; ".join(_owed(d) for d in a.debts)
        if "permit" in asked:
            told |= self.permit(a)
        if "lane" in asked:
            told |= self.lanes(a)
        if "does" in asked:
            told |= {"does " + what: value for what, value in told_of_step(a)}
        if asked & {"fee", "due"}:
            for line in a.fees.lines:
                told[f"fee {line.id}"] = line.state if line.state in ("waived", "not asked", "open") else str(line.amount)
            told |= {f"due {t.stage}": str(t.amount) for t in a.fees.totals}
        if "standing" in asked:
            told |= {f"standing {r.id}": r.standing for r in a.requirements}
        if asked & {"holder", "step", "reminders", "limit", "lapses"} and (clock := a.clock):
            days = reminders(clock, a.clock_rules)
            told |= {"holder": clock.holder, "step": clock.step, "reminders": " ".join(map(str, days))}
            told["limit"] = str(clock.limit_day)
            if clock.limit_day and clock.holder == "theirs":
                told["lapses"] = str(clock.limit_day + timedelta(days=1))
        return told

    def values(self, a: Assessment) -> dict[str, str]:
        """The computed values; one of each repeat is told as part.n.id."""
        told: dict[str, str] = {}
        for key, node in self.rulebook.computed.items():
            part, value = node.value.each, a.sheet.values[key]
            if part is None or is_absent(value):
                told[f"value {key}"] = _bare(value)
            else:
                numbers = zip(a.sheet.numbers(part), value, strict=True)
                told |= {f"value {part}.{no}.{node.value.id}": _bare(v) for no, v in numbers}
        return told

    @staticmethod
    def permit(a: Assessment) -> dict[str, str]:
        """How what was granted stands, its days, and when its holder is reminded of them."""
        if a.permit is None:
            return {}
        told = {"permit state": a.permit.state} | {f"permit {d.what}": str(d.day) for d in a.permit.days}
        return told | {"permit reminders": " ".join(sorted(str(on) for _, _, on in permit_reminders(a)))}

    @staticmethod
    def lanes(a: Assessment) -> dict[str, str]:
        """The state of each lane, and who holds it until when."""
        told: dict[str, str] = {}
        for lane in a.lanes:
            name = f"lane {lane.id or 'common'}"
            told[f"{name} state"] = lane.state
            if lane.clock:
                told |= {f"{name} holder": lane.clock.holder, f"{name} limit": str(lane.clock.limit_day)}
        return told


def _bare(value: Value) -> str:
    if isinstance(value, Decimal):
        return f"{value:f}"
    if isinstance(value, datetime):
        return f"{value:%Y-%m-%d %H:%M}"
    return value.isoformat() if isinstance(value, date) else in_words(value)


def _owed(debt: Debt) -> str:
    """``Ada Finch 129.86 until 2027-04-10``, with *paid* when it is."""
    until = ("until", str(debt.due)) if debt.due else ()
    return " ".join(said for said in (debt.payer, str(debt.amount), *until, "" if debt.open else "paid") if said)


def _wanted(gives: Gives) -> Iterator[tuple[str, str]]:
    single = {"way in": gives.way_in, "pathway": gives.pathway, "state": gives.state, "holder": gives.holder, "step": gives.step}
    single |= {"limit": gives.limit, "lapses": gives.lapses, "refund withdrawn": gives.refund, "open": gives.open}
    single["refund out of scope"] = gives.refund_out_of_scope
    yield from ((what, wanted) for what, wanted in single.items() if wanted is not None)
    if gives.wanting is not None:
        yield "wanting", " ".join(sorted(gives.wanting))
    if gives.debts is not None:
        yield "debts", "; ".join(gives.debts)
    if gives.reminders is not None:
        yield "reminders", " ".join(gives.reminders)
    yield from ((f"agenda {on}", str(closes)) for on, closes in gives.agenda.items())
    yield from ((f"value {key}", wanted) for key, wanted in gives.values.items())
    yield from ((f"fee {key}", wanted) for key, wanted in gives.fees.items())
    yield from ((f"due {key}", wanted) for key, wanted in gives.due.items())
    yield from ((f"standing {key}", wanted) for key, wanted in gives.standings.items())
    yield from (("does " + key, wanted) for key, wanted in gives.does.items())
    yield from ((f"permit {key}", wanted) for key, wanted in gives.permit.items())
    for key, lane in gives.lanes.items():
        told = {"state": lane.state, "holder": lane.holder, "limit": lane.limit}
        yield from ((f"lane {key} {what}", wanted) for what, wanted in told.items() if wanted is not None)


def asserted(rulebook: Rulebook) -> set[str]:
    """Everything that some example says something about."""
    return {what for e in rulebook.edition.examples for gives in (e.gives, *(v.gives for v in e.also)) for what in said_in(gives)}


def said_in(gives: Gives) -> set[str]:
    """What an example says something about: ``fee permit``, ``standing consent``, ``way in small-shed``, ``limit check`` ..."""
    found: set[str] = set()
    for what, wanted in _wanted(gives):
        found.add(what)
        if what in ("way in", "pathway"):
            found.add(f"{what} {wanted}")
        if what == "limit" and gives.step:
            found.add(f"limit {gives.step}")
    return found
