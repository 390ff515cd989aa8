"""Payments and journals: account moves in Tryton.

A move has a description, which holds our mark, so that it can be searched; all else that we say of it
stands in the descriptions of its lines.
"""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from typing import Any

from inkwell_bridge.core.books import BooksDocument, Journal, JournalLine, Payment, RefundPayment, WriteOff
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.ends.tryton import notes
from inkwell_bridge.ends.tryton.names import Names
from inkwell_bridge.ends.tryton.rpc import Json

MOVE_FIELDS = ("description", "date", "state", "number", "post_number", "_timestamp", "lines.account.code",
               "lines.account.type.receivable", "lines.debit", "lines.credit", "lines.party", "lines.description",
               "lines.amount_second_currency", "lines.second_currency.code", "lines.invoice_payment")  # fmt: skip
ENTRY_FIELDS = ("debit", "credit", "description", "move.date", "move.number", "move.post_number", "move.description")
ZERO = Decimal(0)


def journal_words(document: BooksDocument, names: Names) -> dict[str, Any]:
    """A journal as a move; its own currency is the company's."""
    assert isinstance(document, Journal)
    _in_own_currency(document.currency, names)
    accounts = names.ids("account", (line.account for line in document.lines))
    others = {line.currency for line in document.lines} - {document.currency}
    currencies = names.ids("currency", others)
    lines = [_journal_line(line, document, accounts, currencies, first=not place)
             for place, line in enumerate(document.lines)]  # fmt: skip
    return _head(document, names, "general", lines)


def _journal_line(
    line: JournalLine, document: Journal, accounts: dict[str, int], currencies: dict[str, int], *, first: bool
) -> dict[str, Any]:
    of_all = {"Order": document.order_number, "Journal": document.text} if first else {}
    rate = f"{line.rate:f}" if line.rate != 1 else ""
    said = {**of_all, "Text": line.text, "Line": line.line_reference, "Rate": rate}
    other = currencies.get(line.currency)
    second = {"second_currency": other, "amount_second_currency": line.amount} if other else {}
    return _line(accounts[line.account], line.base, said) | second


def payment_words(document: BooksDocument, names: Names, party: int) -> dict[str, Any]:
    """Money from a customer or back to one, as a move: a line on the account it came to, and one for each
    document that it is set against; what is left over stays open on the party."""
    assert isinstance(document, Payment)
    _in_own_currency(document.currency, names)
    sign = -1 if isinstance(document, RefundPayment) else 1
    rate = "" if document.rate is None else f"{document.rate:f}"
    said = {"Order": document.order_number, "Transaction": document.transaction, "Text": document.text, "Rate": rate}
    lines = [_line(names.one("account", document.account), sign * document.amount, said)]
    return _head(document, names, "cash", [*lines, *_owed(document, names, party, -sign)])


def write_off_words(document: BooksDocument, names: Names, party: int) -> dict[str, Any]:
    """A balance that is given up, as a move from the party to the account of such: no money moves."""
    assert isinstance(document, WriteOff)
    _in_own_currency(document.currency, names)
    sign = 1 if document.owed_by == "customer" else -1
    said = {"Order": document.order_number, "Text": document.text}
    given_up = _line(names.one("account", document.account), sign * document.amount, said)
    return _head(document, names, "general", [given_up, *_owed(document, names, party, -sign)])


def _owed(document: Payment | WriteOff, names: Names, party: int, sign: int) -> Iterator[dict[str, Any]]:
    """The party's lines, one for each document that it is set against; what is left over stays open on the party."""
    receivable = names.receivable(party)
    for mark, amount in _parts(document):
        yield _line(receivable, sign * amount, {"Settles": mark}) | {"party": party}


def _parts(document: Payment | WriteOff) -> Iterator[tuple[str, Decimal]]:
    """What it is set against, by mark; what is left is set against nothing yet."""
    yield from ((part.external_reference, part.amount) for part in document.applied)
    left = document.amount - sum((part.amount for part in document.applied), ZERO)
    if left:
        yield "", left


def _head(
    document: Journal | Payment | WriteOff, names: Names, journal: str, lines: list[dict[str, Any]]
) -> dict[str, Any]:
    return {
        "company": names.company()["id"],
        "journal": names.one("journal", journal),
        "period": names.open_period(document.date),
        "date": document.date,
        "description": document.external_reference,
        "lines": lines,
    }


def _line(account: int, base: Decimal, said: dict[str, str]) -> dict[str, Any]:
    return {"account": account, "debit": max(base, ZERO), "credit": max(-base, ZERO),
            "description": notes.written(said, between=notes.BESIDE)}  # fmt: skip


def _in_own_currency(currency: str, names: Names) -> None:
    own = names.company()["currency"]
    if currency != own:
        raise Refused(f"Tryton's moves are in {own} here, got {currency}", why="document")


def journal_document(found: Json, names: Names) -> dict[str, Any]:
    """A journal read back."""
    own = names.company()["currency"]
    lines = _lines(found)
    first = notes.read(lines[0]["description"], between=notes.BESIDE) if lines else {}
    return {
        "external_reference": found["description"],
        "date": found["date"],
        "currency": own,
        "text": first.get("Journal", ""),
        "order_number": first.get("Order", ""),
        "lines": [_held_journal_line(line, own) for line in lines],
    }


def _held_journal_line(line: Json, own: str) -> dict[str, Any]:
    said, base = notes.read(line["description"], between=notes.BESIDE), line["debit"] - line["credit"]
    other = (line["second_currency."] or {}).get("code")
    return {
        "account": line["account."]["code"] or "",
        "text": said.get("Text", ""),
        "line_reference": said.get("Line", ""),
        "base": base,
        "currency": other or own,
        "amount": line["amount_second_currency"] if other else base,
        "rate": said.get("Rate", "1"),
    }


def payment_document(found: Json, names: Names) -> dict[str, Any]:
    """A payment read back: the lines of the party say what it settles, the other where the money is."""
    base, said, _ = _between_account_and_party(found, names)
    return {**base, "transaction": said.get("Transaction", ""), "rate": said.get("Rate") or None}


def write_off_document(found: Json, names: Names) -> dict[str, Any]:
    """A balance that was given up, read back."""
    base, _, account_line = _between_account_and_party(found, names)
    return {**base, "owed_by": "customer" if account_line["debit"] else "company"}


def _between_account_and_party(found: Json, names: Names) -> tuple[dict[str, Any], dict[str, str], Json]:
    """What payments and write-offs have in common, the note on the line of the account, and that line."""
    lines = _lines(found)
    (money,) = [line for line in lines if not line["party"]]
    owed = [
        (notes.read(line["description"], between=notes.BESIDE), line["debit"] + line["credit"])
        for line in lines
        if line["party"]
    ]
    said = notes.read(money["description"], between=notes.BESIDE)
    base = {
        "external_reference": found["description"],
        "date": found["date"],
        "currency": names.company()["currency"],
        "account": money["account."]["code"],
        "amount": money["debit"] + money["credit"],
        "order_number": said.get("Order", ""),
        "text": said.get("Text", ""),
        "applied": [
            {"external_reference": part["Settles"], "amount": amount} for part, amount in owed if "Settles" in part
        ],
    }
    return base, said, money


def payment_totals(found: Json) -> dict[str, Any]:
    """The one amount of a payment or a write-off."""
    return {"gross": sum((line["debit"] for line in _lines(found)), ZERO)}


def party_of(found: Json) -> str:
    """The party that a payment or a write-off is of."""
    return next((str(line["party"]) for line in _lines(found) if line["party"]), "")


def entry(found: Json) -> dict[str, Any]:
    """An entry of an account: one line of a move, whoever entered it."""
    move, said = found["move."], notes.read(found["description"], between=notes.BESIDE)
    return {
        "id": str(move["id"]),
        "family": "account.move",
        "number": move["post_number"] or move["number"] or "",
        "date": move["date"],
        "external_reference": move["description"] or "",
        "text": said.get("Text") or found["description"] or "",
        "amount": found["debit"] - found["credit"],
    }


def unsettled(found: Json) -> list[tuple[int, str]]:
    """The lines of a payment that are yet to be set against a document: id, and the mark of the document."""
    open_lines = [line for line in _lines(found) if not line.get("invoice_payment")]
    said = [(line["id"], notes.read(line["description"], between=notes.BESIDE)) for line in open_lines]
    return [(number, parts["Settles"]) for number, parts in said if "Settles" in parts]


def _lines(found: Json) -> list[Any]:
    return sorted(found["lines."], key=lambda line: line["id"])
