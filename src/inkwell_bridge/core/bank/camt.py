"""Bank statements by ISO 20022: camt.053 (statements), and camt.054 (notifications of single entries).

Read as it comes, entry by entry, so that a file of half a million takes no more memory than one of ten. Any version of
either message is read: what is needed has stood in the same places in all of them.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import date, timedelta
from decimal import Decimal
from typing import BinaryIO, cast

from lxml import etree

from inkwell_bridge.core.bank.statement import (
    LONGEST_NAME,
    LONGEST_REFERENCE,
    LONGEST_TEXT,
    MOST_LINES,
    StatementHead,
    StatementInvalid,
    StatementLine,
    StatementPart,
    amount_of,
    day_of,
    fitting,
)

_MESSAGE = re.compile(r"urn:iso:std:iso:20022:tech:xsd:camt\.05([34])\.001\.[0-9]{2}\Z")
_OPENING, _CLOSING = ("OPBD", "PRCD"), ("CLBD",)
_BOOKED = "BOOK"
# A booking of many payments in one sum may name each of them; so many are read.
_MOST_NAMED = 50


def read_camt(stream: BinaryIO) -> Iterator[StatementPart]:
    """The statements of a file, each as its head and then its lines, in the order of the file.

    Raises:
        StatementInvalid: at the first place that is no such message, with its line; a document type is refused.
    """
    try:
        yield from _parts(stream)
    except etree.XMLSyntaxError as error:
        raise StatementInvalid(f"this is not XML any more ({str(error.msg)[:120]})", error.lineno) from error


def _parts(stream: BinaryIO) -> Iterator[StatementPart]:
    events = etree.iterparse(
        stream, events=("start", "end"), resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False
    )
    space, complete, head, lines, found = "", True, None, 0, False
    for event, element in events:
        if event == "start":
            if element.getparent() is None:
                space, complete = _message(element)
            continue
        name = element.tag.removeprefix(space) if isinstance(element.tag, str) else ""
        if name == "Ntry":
            if head is None:
                # All that is said of a statement stands before its first entry.
                head = _head(element.getparent(), space, complete)
                yield head
            line = _line(element, space, head)
            if line is not None:
                yield line
            lines += 1
            if lines > MOST_LINES:
                raise StatementInvalid(f"more than {MOST_LINES:,} lines in one file: load it in parts")
            _forget(element)
        elif name in ("Stmt", "Ntfctn"):
            if head is None:
                yield _head(element, space, complete)
            head, found = None, True
            _forget(element)
    if not found:
        raise StatementInvalid("there is no statement in this file")


def _message(root: etree._Element) -> tuple[str, bool]:
    """The namespace of the message, in braces; and whether it is one that has every line of its days."""
    if root.getroottree().docinfo.internalDTD is not None:
        raise StatementInvalid("a document type stands in this file, which is not read", 1)
    space = etree.QName(root).namespace or ""
    found = _MESSAGE.match(space)
    if not found or etree.QName(root).localname != "Document":
        raise StatementInvalid("expected a bank statement by ISO 20022, camt.053 or camt.054", _at(root))
    return f"{{{space}}}", found.group(1) == "3"


def _at(element: etree._Element) -> int:
    """The line of the file that an element begins on."""
    return cast(int, element.sourceline or 1)


def _forget(element: etree._Element) -> None:
    """Let go what was read, and what stands before it."""
    element.clear()
    while element.getprevious() is not None:
        parent = element.getparent()
        assert parent is not None
        del parent[0]


def _head(statement: etree._Element | None, space: str, complete: bool) -> StatementHead:
    if statement is None:
        raise StatementInvalid("an entry stands outside of any statement")

    def said(*path: str) -> str:
        return _said(statement, space, *path)

    line = _at(statement)
    account = said("Acct", "Id", "IBAN") or said("Acct", "Id", "Othr", "Id")
    if not account:
        raise StatementInvalid("expected the number of an account, Acct/Id", line)
    currency = said("Acct", "Ccy") or _currency(statement, space)
    first, last = said("FrToDt", "FrDtTm") or said("FrToDt", "FrDt"), said("FrToDt", "ToDtTm") or said("FrToDt", "ToDt")
    balances = dict(_balances(statement, space, currency))
    return StatementHead(
        account=account[:LONGEST_REFERENCE],
        currency=currency,
        number=(said("ElctrncSeqNb") or said("LglSeqNb") or said("Id"))[:LONGEST_REFERENCE],
        first_day=day_of(first, line) if first else None,
        last_day=_last_day(last, line) if last else None,
        opening=next((balances[code] for code in _OPENING if code in balances), None),
        closing=next((balances[code] for code in _CLOSING if code in balances), None),
        complete=complete,
    )


def _last_day(text: str, line: int) -> date:
    """The last day that a statement covers; where it ends with a midnight, the day before that."""
    found = day_of(text, line)
    return found - timedelta(days=1) if text[10:19] == "T00:00:00" else found


def _balances(statement: etree._Element, space: str, currency: str) -> Iterator[tuple[str, Decimal]]:
    for balance in statement.iterfind(f"{space}Bal"):
        code = _said(balance, space, "Tp", "CdOrPrtry", "Cd")
        if code in (*_OPENING, *_CLOSING):
            yield code, _amount(balance, space, currency)


def _currency(statement: etree._Element, space: str) -> str:
    """That of the first amount, where the account names none."""
    amount = statement.find(f".//{space}Amt")
    return "" if amount is None else amount.get("Ccy", "")[:3]


def _line(entry: etree._Element, space: str, head: StatementHead) -> StatementLine | None:
    """An entry that was booked; what is only expected is left to the statement that has it booked."""

    def said(*path: str) -> str:
        return _said(entry, space, *path)

    at = _at(entry)
    # Since version 8 the state stands one step deeper.
    if (said("Sts", "Cd") or said("Sts")) != _BOOKED:
        return None
    booked = said("BookgDt", "Dt") or said("BookgDt", "DtTm")
    if not booked:
        raise StatementInvalid("expected the day that the entry was booked on, BookgDt", at)
    value = said("ValDt", "Dt") or said("ValDt", "DtTm")
    amount = _amount(entry, space, head.currency)
    single = entry.findall(f"{space}NtryDtls/{space}TxDtls")[:_MOST_NAMED]
    texts = [said("AddtlNtryInf")]
    for one in single:
        texts += [part.text or "" for part in one.findall(f"{space}RmtInf/{space}Ustrd")]
        texts.append(_said(one, space, "RmtInf", "Strd", "CdtrRefInf", "Ref"))
    other = ("Dbtr", "Cdtr") if amount > 0 else ("Cdtr", "Dbtr")
    return StatementLine(
        line=at,
        booked_on=day_of(booked, at),
        amount=amount,
        value_on=day_of(value, at) if value else None,
        reference=fitting(said("AcctSvcrRef") or said("NtryRef"), LONGEST_REFERENCE),
        end_to_end=fitting(" ".join(dict.fromkeys(_end_to_end(one, space) for one in single)), LONGEST_REFERENCE),
        name=fitting(next((name for one in single for side in other if (name := _party(one, space, side))), ""),
                     LONGEST_NAME),
        text=fitting(" ".join(dict.fromkeys(filter(None, texts))), LONGEST_TEXT),
    )  # fmt: skip


def _end_to_end(single: etree._Element, space: str) -> str:
    found = _said(single, space, "Refs", "EndToEndId")
    return "" if found == "NOTPROVIDED" else found


def _party(single: etree._Element, space: str, side: str) -> str:
    # Since version 8 a name stands below a party.
    return _said(single, space, "RltdPties", side, "Pty", "Nm") or _said(single, space, "RltdPties", side, "Nm")


def _amount(holder: etree._Element, space: str, currency: str) -> Decimal:
    """The amount of an entry or a balance: credits are the account holder's, debits went out."""
    amount, at = holder.find(f"{space}Amt"), _at(holder)
    if amount is None:
        raise StatementInvalid("expected an amount, Amt", at)
    if amount.get("Ccy", currency) != currency:
        raise StatementInvalid(f"expected an amount in {currency}, got one in {amount.get('Ccy', '')[:10]!r}", at)
    text = (amount.text or "").strip()
    if text.startswith("-"):
        raise StatementInvalid(f"expected an amount without a sign, got {text[:40]!r}", at)
    found = amount_of(text, currency, at)
    side = _said(holder, space, "CdtDbtInd")
    if side not in ("CRDT", "DBIT"):
        raise StatementInvalid(f"expected CRDT or DBIT, CdtDbtInd, got {side[:40]!r}", at)
    return found if side == "CRDT" else -found


def _said(element: etree._Element, space: str, *path: str) -> str:
    found = element.find("/".join(f"{space}{step}" for step in path))
    return "" if found is None or found.text is None else found.text.strip()
