"""A bank for the tests: statements of the office's account as camt.053, and whether a file is valid by the standard."""

from __future__ import annotations

import importlib
import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from xml.sax.saxutils import escape

from stdnum.iso7064 import mod_97_10
from xsdata.formats.dataclass.parsers import XmlParser
from xsdata.formats.dataclass.parsers.config import ParserConfig

VERSION = "08"
NAMESPACE = "urn:iso:std:iso:20022:tech:xsd:camt.053.001.{version}"


def iban(number: int, country: str = "QH") -> str:
    """An account number of Quillhaven with the right check digits."""
    own = f"{number:012}"
    return f"{country}{mod_97_10.calc_check_digits(own + country)}{own}"


OFFICE = iban(123456789)


@dataclass(frozen=True)
class Entry:
    """An entry of a statement; below zero money went out. ``reason`` makes it a return. ``parts`` are the amounts of a collected one."""

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


def camt(
    entries: Sequence[Entry],
    opening: str = "1000.00",
    closing: str = "",
    account: str = OFFICE,
    version: str = VERSION,
    number: str = "2026-231",
) -> bytes:
    """A statement with these entries; without ``closing`` its balance is that to which they lead."""
    after = closing or str(Decimal(opening) + sum((Decimal(e.amount) for e in entries if e.status == "BOOK"), Decimal(0)))
    balances = "".join(_balance(code, amount) for code, amount in (("OPBD", opening), ("CLBD", after)))
    told = "".join(_entry(e, int(version)) for e in entries)
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<Document xmlns="{NAMESPACE.format(version=version)}"><BkToCstmrStmt>
<GrpHdr><MsgId>M-1</MsgId><CreDtTm>2026-11-06T08:40:00+00:00</CreDtTm></GrpHdr>
<Stmt><Id>{number}</Id><CreDtTm>2026-11-06T08:40:00+00:00</CreDtTm>
<Acct><Id><IBAN>{account}</IBAN></Id><Ccy>EUR</Ccy></Acct>
{balances}{told}</Stmt></BkToCstmrStmt></Document>""".encode()


def _sign(amount: str) -> str:
    return f'<Amt Ccy="EUR">{amount.lstrip("-")}</Amt><CdtDbtInd>{"DBIT" if amount.startswith("-") else "CRDT"}</CdtDbtInd>'


def _balance(code: str, amount: str) -> str:
    return f"<Bal><Tp><CdOrPrtry><Cd>{code}</Cd></CdOrPrtry></Tp>{_sign(amount)}<Dt><Dt>2026-11-06</Dt></Dt></Bal>"


def _entry(e: Entry, version: int) -> str:
    newer = version >= 8
    other = "Cdtr" if e.amount.startswith("-") else "Dbtr"
    name = f"<Nm>{escape(e.payer)}</Nm>"
    party = f"<{other}>{f'<Pty>{name}</Pty>' if newer else name}</{other}>" if e.payer else ""
    if e.account:
        party += f"<{other}Acct><Id><IBAN>{e.account}</IBAN></Id></{other}Acct>"
    back = f"<RtrInf><Rsn><Cd>MD06</Cd></Rsn><AddtlInf>{escape(e.reason)}</AddtlInf></RtrInf>" if e.reason else ""
    return f"""<Ntry>{_sign(e.amount)}<Sts>{f"<Cd>{e.status}</Cd>" if newer else e.status}</Sts>
<BookgDt><Dt>{e.day}</Dt></BookgDt><ValDt><Dt>{e.value or e.day}</Dt></ValDt>
{f"<AcctSvcrRef>{e.mark}</AcctSvcrRef>" if e.mark else ""}
<BkTxCd><Domn><Cd>PMNT</Cd><Fmly><Cd>RCDT</Cd><SubFmlyCd>ESCT</SubFmlyCd></Fmly></Domn></BkTxCd>
<NtryDtls><TxDtls><Refs><EndToEndId>{escape(e.end_to_end)}</EndToEndId></Refs>{_sign(e.amount) if version >= 3 else ""}
{f"<RltdPties>{party}</RltdPties>" if party else ""}{f"<RmtInf><Ustrd>{escape(e.text)}</Ustrd></RmtInf>" if e.text else ""}{back}
</TxDtls></NtryDtls></Ntry>"""


def is_standard(content: bytes) -> bool:
    """True if a file keeps to the classes that were made from the schema of its message: no unknown element, none missing, each of its
    type."""
    message = re.search(rb"xsd:([a-z]+)\.(\d{3})\.(\d{3})\.(\d{2})", content)
    assert message
    name = "_".join(part.decode() for part in message.groups())
    module = importlib.import_module(f"pyiso20022.{name.partition('_')[0]}.{name}")
    strict = ParserConfig(fail_on_unknown_properties=True, fail_on_unknown_attributes=True, fail_on_converter_warnings=True)
    return XmlParser(config=strict).from_bytes(content, module.Document) is not None
