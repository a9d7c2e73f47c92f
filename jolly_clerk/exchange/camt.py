"""Reading a bank's statement of an account: camt.053 of ISO 20022, whichever of its versions, read by the names of its elements."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from datetime import date
from decimal import Decimal, InvalidOperation

from lxml import etree

from jolly_clerk.core.say import say
from jolly_clerk.core.till.statement import Movement, Statement, comes_to, signed

#: what opens and closes the time of a statement, by the codes of ISO 20022 (external code set, balance type)
OPENING, CLOSING = ("OPBD", "PRCD", "OPAV"), ("CLBD", "CLAV")
MOST_TEXT = 400


class BadStatement(ValueError):
    """The file is no statement that can be read; the message says what is wrong and where."""


def read_camt(content: bytes) -> list[Statement]:
    """The statements of a camt.053 file. Entries that are only announced (status *PDNG*, *INFO*) are left out.

    Raises BadStatement: no XML, another message, an entry without amount or day.
    """
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, remove_comments=True)
    try:
        root = etree.fromstring(content, parser)
    except etree.XMLSyntaxError as error:
        line = error.lineno or 1
        raise BadStatement(say("This XML file is damaged in line {line}. Ask the bank for it again.", line=line)) from None
    if root.getroottree().docinfo.doctype:
        raise BadStatement(say("This file defines entities of its own, which no bank does. It is not read."))
    told = _find(root, "BkToCstmrStmt")
    if told is None:
        name = next((_name(child) for child in root), _name(root))
        raise BadStatement(say("This is no statement of an account (camt.053); it holds “{name}”.", name=name[:40]))
    found = [_statement(statement) for statement in _each(told, "Stmt")]
    if not found:
        raise BadStatement(say("There is no statement in this file."))
    return found


def _statement(statement: etree._Element) -> Statement:
    account = _text(statement, "Acct", "Id", "IBAN") or _text(statement, "Acct", "Id", "Othr", "Id")
    balances = {_text(balance, "Tp", "CdOrPrtry", "Cd"): _signed(balance) for balance in _each(statement, "Bal")}
    opening = next((balances[code] for code in OPENING if code in balances), None)
    closing = next((balances[code] for code in CLOSING if code in balances), None)
    first = next((amount.get("Ccy", "") for amount in statement.iter("{*}Amt")), "")
    currency = _text(statement, "Acct", "Ccy") or first
    number = _text(statement, "Id") or _text(statement, "ElctrncSeqNb")
    moves = [m for n, entry in enumerate(_each(statement, "Ntry"), 1) for m in _movements(entry, n, number)]
    return Statement(number, account, currency, opening, closing, tuple(moves))


def _movements(entry: etree._Element, n: int, statement: str) -> Iterator[Movement]:
    """The movements of one entry: a collected one is told by its parts, if these have amounts that come to it."""
    status = _text(entry, "Sts", "Cd") or _text(entry, "Sts")
    if status in ("PDNG", "INFO", "FUTR"):
        return
    booked = _day(entry, "BookgDt") or _day(entry, "ValDt")
    if booked is None:
        raise BadStatement(say("Entry {entry} of this statement has no day (line {line}).", entry=n, line=entry.sourceline))
    value_day, whole = _day(entry, "ValDt") or booked, _signed(entry)
    details = [d for batch in _each(entry, "NtryDtls") for d in _each(batch, "TxDtls")]
    own = [_amount_of(detail) for detail in details]
    if len(details) > 1 and None not in own:
        parts = [signed(part, out=whole < 0) for part in own if part is not None]
        if parts and comes_to(parts, whole):
            for k, (detail, part) in enumerate(zip(details, parts, strict=True), 1):
                yield _movement(entry, detail, part, booked, value_day, f"{statement} {n}.{k}", f"-{k}")
            return
    yield _movement(entry, details[0] if details else None, whole, booked, value_day, f"{statement} {n}", "")


def _movement(
    entry: etree._Element, detail: etree._Element | None, amount: Decimal, booked: date, value_day: date, where: str, no: str
) -> Movement:
    parties, refs = _find(detail, "RltdPties"), _find(detail, "Refs")
    other = "Dbtr" if amount > 0 else "Cdtr"
    payer = _text(parties, other, "Pty", "Nm") or _text(parties, other, "Nm")
    account = _text(parties, f"{other}Acct", "Id", "IBAN") or _text(parties, f"{other}Acct", "Id", "Othr", "Id")
    info = _find(detail, "RmtInf")
    words = [_clean(part.text) for part in _each(info, "Ustrd")]
    words += [_text(part, "CdtrRefInf", "Ref") for part in _each(info, "Strd")]
    text = " ".join(word for word in words if word) or _text(detail, "AddtlTxInf") or _text(entry, "AddtlNtryInf")
    end_to_end = _text(refs, "EndToEndId")
    reason, back = _find(detail, "RtrInf"), _text(entry, "RvslInd") in ("true", "1")
    why = _text(reason, "AddtlInf") or _text(reason, "Rsn", "Cd") or _text(reason, "Rsn", "Prtry")
    own_number = _text(refs, "AcctSvcrRef") if no else _text(entry, "AcctSvcrRef") or _text(refs, "AcctSvcrRef")
    own_number = own_number or (f"{_text(entry, 'AcctSvcrRef')}{no}" if _text(entry, "AcctSvcrRef") else "")
    currency = entry.find("{*}Amt").get("Ccy", "")
    if not own_number:  # the bank gave none: what it tells is its number
        told = "|".join((where, booked.isoformat(), str(amount), payer, text))
        own_number = hashlib.sha256(told.encode()).hexdigest()[:16]
    return Movement(
        mark=own_number[:60],
        booked=booked,
        value_day=value_day,
        amount=amount,
        currency=currency,
        payer=payer[:140],
        account=account[:40],
        text=text[:MOST_TEXT],
        end_to_end="" if end_to_end == "NOTPROVIDED" else end_to_end[:35],
        returned=amount < 0 and (reason is not None or back),
        reason=why[:105],
    )


def _name(element: etree._Element) -> str:
    return str(etree.QName(element).localname)


def _each(element: etree._Element | None, name: str) -> list[etree._Element]:
    return [] if element is None else element.findall(f"{{*}}{name}")


def _find(element: etree._Element | None, *path: str) -> etree._Element | None:
    for name in path:
        element = None if element is None else element.find(f"{{*}}{name}")
    return element


def _clean(text: str | None) -> str:
    return " ".join((text or "").split())


def _text(element: etree._Element | None, *path: str) -> str:
    found = _find(element, *path)
    return "" if found is None else _clean(found.text)


def _day(entry: etree._Element, name: str) -> date | None:
    text = _text(entry, name, "Dt") or _text(entry, name, "DtTm")[:10]
    if not text:
        return None
    try:
        return date.fromisoformat(text[:10])
    except ValueError:
        raise BadStatement(say("“{text}” in line {line} is no date.", text=text[:30], line=entry.sourceline)) from None


def _amount_of(detail: etree._Element) -> Decimal | None:
    """The amount of a part of a collected entry; None where it has none."""
    found = detail.find("{*}Amt")
    if found is None:
        found = _find(detail, "AmtDtls", "TxAmt", "Amt")
    return None if found is None else _decimal(found)


def _signed(element: etree._Element) -> Decimal:
    """An amount with its sign; money that went out is below zero."""
    amount = element.find("{*}Amt")
    if amount is None:
        raise BadStatement(say("There is an entry without an amount in line {line}.", line=element.sourceline))
    sign = _text(element, "CdtDbtInd")
    if sign not in ("CRDT", "DBIT"):
        raise BadStatement(say("Line {line} does not say whether money came or went.", line=element.sourceline))
    return signed(_decimal(amount), out=sign == "DBIT")


def _decimal(amount: etree._Element) -> Decimal:
    text = _clean(amount.text)
    try:
        found = Decimal(text)
    except InvalidOperation:
        found = Decimal("NaN")
    if not found.is_finite() or found < 0:
        raise BadStatement(say("“{text}” in line {line} is no amount.", text=text[:30], line=amount.sourceline))
    return found
