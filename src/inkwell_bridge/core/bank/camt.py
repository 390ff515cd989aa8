"""Bank statements by ISO 20022: camt.053 (statements), and camt.054 (notifications of single entries).

Read as it comes, entry by entry, so that a file of half a million takes no more memory than one of ten. Any version of
either message is read: what is needed has stood in the same places in all of them, or a step deeper.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import date, timedelta
from decimal import Decimal
from typing import BinaryIO
from xml.parsers import expat

from inkwell_bridge.core.bank.statement import (
    LONGEST_NAME,
    LONGEST_REFERENCE,
    LONGEST_TEXT,
    MOST_LINES,
    MOST_STATEMENTS,
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
_STATEMENTS, _BALANCE, _ENTRY, _SINGLE = ("Stmt", "Ntfctn"), "Bal", "Ntry", "TxDtls"
# Those that have a record of their own, by the one that they stand in.
_WITHIN = {"Stmt": ("",), "Ntfctn": ("",), _BALANCE: _STATEMENTS, _ENTRY: _STATEMENTS, _SINGLE: (_ENTRY,)}
# A booking of many payments in one sum may name each of them; so many are read, and so many texts of each.
_MOST_NAMED = 50
_DEEPEST, _LONGEST, _MOST_STEPS = 60, 100_000, 2_000
_AT_ONCE = 65_536


def read_camt(stream: BinaryIO) -> Iterator[StatementPart]:
    """The statements of a file, each as its head and then its lines, in the order of the file.

    Raises:
        StatementInvalid: at the first place that is no such message, with its line; a document type is refused.
    """
    reader, is_last = _Reader(), False
    while not is_last:
        piece = stream.read(_AT_ONCE)
        is_last = not piece
        reader.feed(piece, is_last=is_last)
        yield from reader.parts
        reader.parts.clear()
    if not reader.has_statement:
        raise StatementInvalid("there is no statement by ISO 20022, camt.053 or camt.054, in this file")


class _Record:
    """What stands in one element, by the path to it: its texts, and the records of parts that have one."""

    __slots__ = ("balances", "depth", "line", "name", "singles", "texts")

    def __init__(self, name: str, depth: int, line: int) -> None:
        self.name, self.depth, self.line = name, depth, line
        self.texts: dict[str, list[str]] = {}
        self.balances: list[_Record] = []
        self.singles: list[_Record] = []

    def said(self, *paths: str) -> str:
        """What stands at the first of these paths that has something."""
        for path in paths:
            found = self.texts.get(path)
            if found:
                return found[0]
        return ""


class _Reader:
    """Makes heads and lines of what the parser tells, one after the other, into ``parts``.

    Its handlers are called forty times an entry, so they do as little as they can: paths are put together as they grow,
    and what stands outside of any record is not looked at.
    """

    def __init__(self) -> None:
        self.parts: list[StatementPart] = []
        self.has_statement = False
        # Of each open element its path from the record that it stands in.
        self._paths: list[str] = []
        self._records: list[_Record] = []
        self._text, self._steps = "", dict[tuple[str, str, str], tuple[str, str]]()
        self._complete, self._lines, self._statements = True, 0, 0
        self._head: StatementHead | None = None
        self._parser = expat.ParserCreate(namespace_separator=" ")
        self._parser.buffer_text = True
        self._parser.StartDoctypeDeclHandler = self._refuse_document_type
        self._parser.StartElementHandler = self._begin
        self._parser.EndElementHandler = self._end
        self._parser.CharacterDataHandler = self._add_text

    def feed(self, piece: bytes, *, is_last: bool) -> None:
        """Read on. Without a document type no entity can grow or reach out."""
        try:
            self._parser.Parse(piece, is_last)
        except expat.ExpatError as error:
            said = expat.ErrorString(error.code)
            raise StatementInvalid(f"this is not XML any more ({said})", error.lineno) from error
        except (LookupError, ValueError) as error:
            # What the parser says of an encoding that it cannot read, before anything of the file is read.
            if self._steps:
                raise
            raise StatementInvalid(f"the file is in an encoding that is not read: {error}", 1) from error

    @property
    def _line(self) -> int:
        return self._parser.CurrentLineNumber

    def _refuse_document_type(self, *_: object) -> None:
        raise StatementInvalid("a document type stands in this file, which is not read", self._line)

    def _begin(self, name: str, attributes: dict[str, str]) -> None:
        self._text = ""
        records, paths = self._records, self._paths
        outer = paths[-1] if paths else ""
        above = records[-1].name if records else ""
        # What an element is depends on where it stands alone: the same few stand in every entry.
        step = self._steps.get((above, outer, name)) or self._step(above, outer, name)
        paths.append(step[0])
        if step[1]:
            if step[1] == _ENTRY:
                self._tell_head()
            records.append(_Record(step[1], len(paths), self._parser.CurrentLineNumber))
        elif attributes and records and "Ccy" in attributes:
            records[-1].texts.setdefault(f"{step[0]}@Ccy", [attributes["Ccy"]])

    def _step(self, above: str, outer: str, name: str) -> tuple[str, str]:
        """The path of an element in its record; or nothing, and its name, where it has a record of its own. The first
        of a file is looked at more closely."""
        space, _, local = name.rpartition(" ")
        if not self._steps:
            found = _MESSAGE.match(space)
            if not found or local != "Document":
                raise StatementInvalid("expected a bank statement by ISO 20022, camt.053 or camt.054", self._line)
            self._complete = found.group(1) == "3"
        if len(self._paths) >= _DEEPEST:
            raise StatementInvalid("elements that are nested too deep", self._line)
        has_record = local in _WITHIN and above in _WITHIN[local]
        step = ("", local) if has_record else (f"{outer}/{local}" if outer else local, "")
        if len(self._steps) < _MOST_STEPS:
            self._steps[above, outer, name] = step
        return step

    def _add_text(self, text: str) -> None:
        self._text += text
        if len(self._text) > _LONGEST:
            raise StatementInvalid(f"a text of more than {_LONGEST:,} characters", self._line)

    def _end(self, _: str) -> None:
        path = self._paths.pop()
        text, self._text = self._text, ""
        if not self._records:
            return
        record = self._records[-1]
        if len(self._paths) < record.depth:
            self._finish(self._records.pop())
        elif text:
            text = text.strip()
            if text:
                kept = record.texts.get(path)
                if kept is None:
                    record.texts[path] = [text]
                elif len(kept) < _MOST_NAMED:
                    kept.append(text)

    def _finish(self, record: _Record) -> None:
        above = self._records[-1] if self._records else None
        if record.name in _STATEMENTS:
            self._records.append(record)
            self._tell_head()
            self._records.pop()
            self._head, self.has_statement = None, True
            self._statements += 1
            if self._statements > MOST_STATEMENTS:
                raise StatementInvalid(f"more than {MOST_STATEMENTS:,} statements in one file: load it in parts")
        elif above is not None and record.name == _BALANCE:
            above.balances.append(record)
        elif above is not None and record.name == _SINGLE:
            if len(above.singles) < _MOST_NAMED:
                above.singles.append(record)
        elif self._head is not None:
            self._lines += 1
            if self._lines > MOST_LINES:
                raise StatementInvalid(f"more than {MOST_LINES:,} lines in one file: load it in parts")
            # What is only expected is left to the statement that has it booked.
            if record.said("Sts/Cd", "Sts") == _BOOKED:
                self.parts.append(_line_of(record, self._head.currency))

    def _tell_head(self) -> None:
        """All that is said of a statement stands before its first entry."""
        if self._head is None:
            self._head = _head_of(self._records[-1], complete=self._complete)
            self.parts.append(self._head)


def _head_of(statement: _Record, *, complete: bool) -> StatementHead:
    account = statement.said("Acct/Id/IBAN", "Acct/Id/Othr/Id")
    if not account:
        raise StatementInvalid("expected the number of an account, Acct/Id", statement.line)
    amounts = (one.said("Amt@Ccy") for one in statement.balances)
    currency = statement.said("Acct/Ccy") or next(amounts, "")
    if not re.fullmatch("[A-Z]{3}", currency):
        raise StatementInvalid("expected the currency of the account, Acct/Ccy", statement.line)
    first, last = statement.said("FrToDt/FrDtTm", "FrToDt/FrDt"), statement.said("FrToDt/ToDtTm", "FrToDt/ToDt")
    balances = {one.said("Tp/CdOrPrtry/Cd"): one for one in statement.balances}

    def balance(codes: tuple[str, ...]) -> Decimal | None:
        return next((_amount(balances[code], currency) for code in codes if code in balances), None)

    return StatementHead(
        account=account[:LONGEST_REFERENCE],
        currency=currency,
        number=statement.said("ElctrncSeqNb", "LglSeqNb", "Id")[:LONGEST_REFERENCE],
        first_day=day_of(first, statement.line) if first else None,
        last_day=_last_day(last, statement.line) if last else None,
        opening=balance(_OPENING),
        closing=balance(_CLOSING),
        complete=complete,
    )


def _last_day(text: str, line: int) -> date:
    """The last day that a statement covers; where it ends with a midnight, the day before that."""
    found = day_of(text, line)
    return found - timedelta(days=1) if text[10:19] == "T00:00:00" else found


def _line_of(entry: _Record, currency: str) -> StatementLine:
    booked, value = entry.said("BookgDt/Dt", "BookgDt/DtTm"), entry.said("ValDt/Dt", "ValDt/DtTm")
    if not booked:
        raise StatementInvalid("expected the day that the entry was booked on, BookgDt", entry.line)
    amount = _amount(entry, currency)
    texts = [entry.said("AddtlNtryInf")]
    for one in entry.singles:
        texts += [*one.texts.get("RmtInf/Ustrd", ()), one.said("RmtInf/Strd/CdtrRefInf/Ref")]
    ends = dict.fromkeys(one.said("Refs/EndToEndId") for one in entry.singles)
    return StatementLine(
        line=entry.line,
        booked_on=day_of(booked, entry.line),
        amount=amount,
        value_on=day_of(value, entry.line) if value else None,
        # Never NtryRef: many banks count there, and count anew in every statement.
        reference=fitting(entry.said("AcctSvcrRef") or _of_only(entry, "Refs/AcctSvcrRef"), LONGEST_REFERENCE),
        end_to_end=fitting(" ".join(one for one in ends if one != "NOTPROVIDED"), LONGEST_REFERENCE),
        name=fitting(next(filter(None, (_other(one, amount) for one in entry.singles)), ""), LONGEST_NAME),
        text=fitting(" ".join(dict.fromkeys(filter(None, texts))), LONGEST_TEXT),
    )


def _of_only(entry: _Record, path: str) -> str:
    return entry.singles[0].said(path) if len(entry.singles) == 1 else ""


def _other(single: _Record, amount: Decimal) -> str:
    """Who paid, or was paid; since version 8 a name stands below a party."""
    sides = ("Dbtr", "Cdtr") if amount > 0 else ("Cdtr", "Dbtr")
    return single.said(*(f"RltdPties/{side}/{name}" for side in sides for name in ("Pty/Nm", "Nm")))


def _amount(holder: _Record, currency: str) -> Decimal:
    """The amount of an entry or a balance: credits are the account holder's, debits went out."""
    text = holder.said("Amt")
    if not text:
        raise StatementInvalid("expected an amount, Amt", holder.line)
    if holder.said("Amt@Ccy") not in ("", currency):
        raise StatementInvalid(
            f"expected an amount in {currency}, got one in {holder.said('Amt@Ccy')[:10]!r}", holder.line
        )
    if text.startswith("-"):
        raise StatementInvalid(f"expected an amount without a sign, got {text[:40]!r}", holder.line)
    found, side = amount_of(text, currency, holder.line), holder.said("CdtDbtInd")
    if side not in ("CRDT", "DBIT"):
        raise StatementInvalid(f"expected CRDT or DBIT, CdtDbtInd, got {side[:40]!r}", holder.line)
    return found if side == "CRDT" else -found
