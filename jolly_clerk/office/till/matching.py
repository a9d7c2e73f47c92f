"""Which cases a movement may be for: looked up by what it says, and handed to the core, which proposes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from decimal import Decimal

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jolly_clerk.core.numbers import whole_number
from jolly_clerk.core.say import say
from jolly_clerk.core.states import LIVE
from jolly_clerk.core.till.matching import Awaiting, Booked, Proposal, TakenBack, may_be_meant, named_by, proposals, taken_back
from jolly_clerk.core.till.statement import Movement, plain_account
from jolly_clerk.office.cases.casework import assessed
from jolly_clerk.office.cases.ledger import money_key
from jolly_clerk.office.office import Office
from jolly_clerk.office.rules.rulebooks import rulebook
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.ledger import MoneyIn, Placing, Refund
from jolly_clerk.store.tables import Case, Person
from jolly_clerk.store.till import BankMovement, Owed

#: so many cases are looked at for one amount, one account or one name
MOST_ALIKE = 30
#: what stands before the number of a refund in a file for the bank
REFUND_MARK = "JC-R"


@dataclass(frozen=True, slots=True)
class Matched:
    """What a movement may be: proposals where to place it, the payment that it takes back, or the refund that left with it."""

    proposals: tuple[Proposal, ...] = ()
    back: tuple[TakenBack, ...] = ()
    refund: int = 0
    because: str = ""

    @property
    def is_sure(self) -> bool:
        """True if it may be confirmed without a look."""
        return bool(self.refund) or bool(self.proposals and self.proposals[0].how == "sure")


def movement_of(row: BankMovement) -> Movement:
    """A kept movement for the core."""
    return Movement(
        row.mark, row.booked, row.value_day, Decimal(row.amount), row.currency, row.payer, row.account, row.text, row.end_to_end,
        row.returned, row.reason,
    )  # fmt: skip


def matched(office: Office, session: Session, rows: Sequence[BankMovement], kinds: Iterable[str]) -> dict[str, Matched]:
    """What each movement may be, by its id. ``kinds`` are the letters of the kinds that the office knows."""
    letters, moves = frozenset(kinds), {row.id: movement_of(row) for row in rows}
    came = {id_: m for id_, m in moves.items() if m.amount > 0}
    lookup = _Lookup(office, session)
    lookup.gather(list(came.values()), letters)
    found = {id_: Matched(tuple(proposals(m, lookup.cases_for(m), letters))) for id_, m in came.items()}
    for id_, m in moves.items():
        if m.amount < 0:
            found[id_] = _went(session, m)
    return found


@dataclass
class _Lookup:
    """The cases that movements may be for, each looked up once; ``by_amount`` and ``by_who`` say for which others they come up."""

    office: Office
    session: Session
    cases: dict[str, Awaiting] = field(default_factory=dict)
    owners: dict[str, str] = field(default_factory=dict)

    def gather(self, moves: Sequence[Movement], kinds: frozenset[str]) -> None:
        """Look up every case that one of these movements may be for."""
        named = {reference for m in moves for reference in may_be_meant(m, kinds)}
        ids = set[str]()
        for some in _in_pieces(sorted(named)):
            ids |= set(self.session.scalars(select(Case.id).where(Case.reference.in_(some), Case.kept.is_(False))))
        for m in moves:
            ids |= self._alike(m)
        for some in _in_pieces(sorted(ids)):
            self._load(some)

    def cases_for(self, m: Movement) -> list[Awaiting]:
        """The cases of the currency of a movement."""
        return [case for case in self.cases.values() if case.currency == m.currency]

    def _alike(self, m: Movement) -> set[str]:
        """The cases that await the same amount, and those of whoever pays from this account or bears this name."""
        same = select(Owed.case_id).where(Owed.amount == money_key(m.amount, m.currency), Owed.currency == m.currency)
        ids = set(self.session.scalars(same.order_by(Owed.until).limit(MOST_ALIKE)))
        people = set[str]()
        if m.account:
            paid = (
                select(Case.applicant_id).join(Placing, Placing.case_id == Case.id).join(MoneyIn, MoneyIn.id == Placing.money_id)
            )
            people |= set(
                self.session.scalars(
                    paid.where(MoneyIn.account.in_([m.account, plain_account(m.account)])).distinct().limit(MOST_ALIKE)
                )
            )
        if m.payer:
            called = select(Person.id).where(func.lower(Person.name) == m.payer.lower())
            people |= set(self.session.scalars(called.limit(MOST_ALIKE)))
        if people:
            theirs = select(Owed.case_id).where(Owed.applicant_id.in_(sorted(people)), Owed.currency == m.currency)
            ids |= set(self.session.scalars(theirs.order_by(Owed.until).limit(MOST_ALIKE)))
        return ids

    def _load(self, ids: Sequence[str]) -> None:
        wanted = (
            select(Case, Owed, Person.name).outerjoin(Owed, Owed.case_id == Case.id).join(Person, Person.id == Case.applicant_id)
        )
        rows = self.session.execute(wanted.where(Case.id.in_(ids))).tuples().all()
        paid = self._paid(ids)
        accounts = self._accounts({case.applicant_id for case, _, _ in rows})
        for case, owed, name in rows:
            payments = paid.get(case.id, [])
            amount, currency, until = (Decimal(owed.amount), owed.currency, owed.until) if owed else self._awaited(case)
            self.cases[case.reference] = Awaiting(
                reference=case.reference,
                title=case.title,
                applicant=name,
                awaited=amount,
                currency=currency,
                until=until,
                payers=tuple(dict.fromkeys(m.payer for _, m in payments if m.payer)),
                accounts=accounts.get(case.applicant_id, ()),
                paid=tuple((Decimal(p.amount), m.value_day, m.receipt) for p, m in payments if p.charged_back_at is None),
            )

    def _awaited(self, case: Case) -> tuple[Decimal, str, None]:
        """What a case without a note awaits: nothing, unless it lives and the note was never written."""
        if case.state not in LIVE or case.erased_at is not None:
            return Decimal(0), self._currency(case), None
        loaded = assessed(self.office, case, load_history(self.session, case.id), case.entries, self.session)
        return loaded.assessment.account.open, loaded.rulebook.edition.currency, None

    def _currency(self, case: Case) -> str:
        return rulebook(self.office, case.edition_sha256).edition.currency

    def _paid(self, ids: Sequence[str]) -> dict[str, list[tuple[Placing, MoneyIn]]]:
        wanted = select(Placing, MoneyIn).join(MoneyIn, MoneyIn.id == Placing.money_id).where(Placing.case_id.in_(ids))
        found = dict[str, list[tuple[Placing, MoneyIn]]]()
        for placing, came in self.session.execute(wanted.order_by(Placing.id)).tuples():
            found.setdefault(placing.case_id, []).append((placing, came))
        return found

    def _accounts(self, people: Iterable[str]) -> dict[str, tuple[str, ...]]:
        """The accounts from which was paid for the cases of these people."""
        wanted = select(Case.applicant_id, MoneyIn.account).join(Placing, Placing.case_id == Case.id)
        wanted = wanted.join(MoneyIn, MoneyIn.id == Placing.money_id).where(
            Case.applicant_id.in_(sorted(people)), MoneyIn.account != ""
        )
        found = dict[str, tuple[str, ...]]()
        for person, account in self.session.execute(wanted.distinct()).tuples():
            found[person] = (*found.get(person, ()), account)
        return found


def _in_pieces(some: Sequence[str]) -> Iterable[Sequence[str]]:
    return (some[begin : begin + 500] for begin in range(0, len(some), 500))


def _went(session: Session, m: Movement) -> Matched:
    """What money that went out is: a refund that was ordered, or a payment that the bank took back."""
    refund = _ordered(session, m)
    if refund is not None:
        return Matched(refund=refund.id, because=say("It left the account as it was ordered."))
    amount = money_key(-m.amount, m.currency)
    wanted = (
        select(Placing, MoneyIn, Case.reference)
        .join(MoneyIn, MoneyIn.id == Placing.money_id)
        .join(Case, Case.id == Placing.case_id)
    )
    wanted = wanted.where(Placing.charged_back_at.is_(None))
    named = [w.reference for w in named_by(m)]
    some = wanted.where((Placing.amount == amount) | Case.reference.in_(named) if named else Placing.amount == amount)
    rows = session.execute(some.order_by(Placing.id.desc()).limit(200)).tuples()
    booked = [
        Booked(reference, p.key, came.key.partition(" ")[2], came.receipt, Decimal(p.amount), came.value_day, came.payer)
        for p, came, reference in rows
    ]
    return Matched(back=tuple(taken_back(m, booked)))


def _ordered(session: Session, m: Movement) -> Refund | None:
    if not m.end_to_end.startswith(REFUND_MARK) or (number := whole_number(m.end_to_end.removeprefix(REFUND_MARK))) is None:
        return None
    row = session.get(Refund, number)
    if row is None or row.left_at is None or row.seen_day is not None or Decimal(row.amount) != -m.amount:
        return None
    return row
