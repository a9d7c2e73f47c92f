"""A stand-in for the office's bank: statements of its account as camt.053, as a bank sends them in the morning."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from xml.sax.saxutils import escape

from jolly_clerk.core.till.day import sum_of

NAMESPACE = "urn:iso:std:iso:20022:tech:xsd:camt.053.001.{version:02}"
#: from this version on, a party stands in an element of its own
PARTY_FROM, AMOUNT_FROM = 8, 3


@dataclass(frozen=True, slots=True)
class BankEntry:
    """An entry of a statement; below zero money went out. ``value`` is the value day if it is another, ``reason`` makes it a return."""

    mark: str
    amount: str
    text: str = ""
    payer: str = ""
    account: str = ""
    day: date = date(2026, 11, 6)
    value: date | None = None
    end_to_end: str = "NOTPROVIDED"
    reason: str = ""
    status: str = "BOOK"


def bank_statement(
    entries: Sequence[BankEntry], account: str, number: str, opening: str = "1000.00", closing: str = "", version: int = 8
) -> bytes:
    """A statement with these entries; without ``closing`` its balance is that to which they lead."""
    booked = [Decimal(e.amount) for e in entries if e.status == "BOOK"]
    after = closing or str(sum_of([Decimal(opening), *booked]))
    day = max((e.day for e in entries), default=date(2026, 11, 6))
    balances = "".join(_balance(code, amount, day) for code, amount in (("OPBD", opening), ("CLBD", after)))
    told = "".join(_entry(e, version) for e in entries)
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<Document xmlns="{NAMESPACE.format(version=version)}"><BkToCstmrStmt>
<GrpHdr><MsgId>M-{number}</MsgId><CreDtTm>{day}T08:40:00+00:00</CreDtTm></GrpHdr>
<Stmt><Id>{number}</Id><CreDtTm>{day}T08:40:00+00:00</CreDtTm>
<Acct><Id><IBAN>{account}</IBAN></Id><Ccy>EUR</Ccy></Acct>
{balances}{told}</Stmt></BkToCstmrStmt></Document>""".encode()


def _sign(amount: str) -> str:
    return f'<Amt Ccy="EUR">{amount.lstrip("-")}</Amt><CdtDbtInd>{"DBIT" if amount.startswith("-") else "CRDT"}</CdtDbtInd>'


def _balance(code: str, amount: str, day: date) -> str:
    return f"<Bal><Tp><CdOrPrtry><Cd>{code}</Cd></CdOrPrtry></Tp>{_sign(amount)}<Dt><Dt>{day}</Dt></Dt></Bal>"


def _entry(e: BankEntry, version: int) -> str:
    newer, other = version >= PARTY_FROM, "Cdtr" if e.amount.startswith("-") else "Dbtr"
    name = f"<Nm>{escape(e.payer)}</Nm>"
    party = f"<{other}>{f'<Pty>{name}</Pty>' if newer else name}</{other}>" if e.payer else ""
    if e.account:
        party += f"<{other}Acct><Id><IBAN>{e.account}</IBAN></Id></{other}Acct>"
    back = f"<RtrInf><Rsn><Cd>MD06</Cd></Rsn><AddtlInf>{escape(e.reason)}</AddtlInf></RtrInf>" if e.reason else ""
    number = f"<AcctSvcrRef>{e.mark}</AcctSvcrRef>" if e.mark else ""
    status = f"<Cd>{e.status}</Cd>" if newer else e.status
    amount = _sign(e.amount) if version >= AMOUNT_FROM else ""
    parties = f"<RltdPties>{party}</RltdPties>" if party else ""
    text = f"<RmtInf><Ustrd>{escape(e.text)}</Ustrd></RmtInf>" if e.text else ""
    return f"""<Ntry>{_sign(e.amount)}<Sts>{status}</Sts>
<BookgDt><Dt>{e.day}</Dt></BookgDt><ValDt><Dt>{e.value or e.day}</Dt></ValDt>{number}
<BkTxCd><Domn><Cd>PMNT</Cd><Fmly><Cd>RCDT</Cd><SubFmlyCd>ESCT</SubFmlyCd></Fmly></Domn></BkTxCd>
<NtryDtls><TxDtls><Refs><EndToEndId>{escape(e.end_to_end)}</EndToEndId></Refs>{amount}{parties}{text}{back}
</TxDtls></NtryDtls></Ntry>
"""
