"""What books hold of one order, by account and code, and its money; asked past the service."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from decimal import Decimal
from typing import Any

from inkwell_bridge.standins.ledger import ubl

Json = dict[str, Any]
KINDS = ("invoice", "credit_note", "receipt", "repayment")


def standing(books: dict[str, list[Json]], kind: str) -> Iterator[Json]:
    """What is posted of a kind."""
    return (one for one in books.get(kind, []) if one["state"] == "posted")


def sums_of(books: dict[str, list[Json]], number: str) -> dict[tuple[str, str], int]:
    """What the books hold of an order without tax, in pence, by account and code."""
    found: dict[tuple[str, str], int] = defaultdict(int)
    for kind, sign in (("invoice", 1), ("credit_note", -1)):
        for one in standing(books, kind):
            if one["order"] == number:
                for line in one["lines"]:
                    found[line["account"], line["tax_code"]] += sign * int(Decimal(line["net"]) * 100)
    return {place: amount for place, amount in found.items() if amount}


def money_of(books: dict[str, list[Json]], number: str) -> int:
    """What the books hold of an order's money, in pence."""
    return sum(sign * int((Decimal(one["amount"]) - sign * _gained(one)) * 100)
               for kind, sign in (("receipt", 1), ("repayment", -1))
               for one in standing(books, kind) if one["order"] == number)  # fmt: skip


def sums_in_ledger(books: dict[str, list[Json]], number: str) -> dict[tuple[str, str], int]:
    """The same of the ledger, out of its UBL."""
    found: dict[tuple[str, str], int] = defaultdict(int)
    for kind, name, sign in (("invoices", "Invoice", 1), ("credit-notes", "CreditNote", -1)):
        for one in books.get(kind, []):
            if one["order"] == number and one["state"] == "released":
                for line in ubl.read(one["body"].encode()).findall(f"cac:{name}Line", ubl.NAMES):
                    code = ubl.said(line, "cac:Item/cac:ClassifiedTaxCategory/cbc:Name")
                    net = Decimal(ubl.said(line, "cbc:LineExtensionAmount"))
                    found[ubl.said(line, "cbc:AccountingCost"), code] += sign * int(net * 100)
    return {place: amount for place, amount in found.items() if amount}


def money_in_ledger(books: dict[str, list[Json]], number: str) -> int:
    """What the ledger holds of an order's money, in pence."""
    moved = [
        (sign, one["said"]) for kind, sign in (("payments-in", 1), ("payments-out", -1))
        for one in books.get(kind, []) if one["said"]["order"] == number and one["state"] == "released"
    ]  # fmt: skip
    gained = [Decimal(said["exchange"]["own"]) if said["exchange"] else Decimal(0) for _, said in moved]
    return sum(sign * int((Decimal(said["sum"]) - sign * more) * 100)
               for (sign, said), more in zip(moved, gained, strict=True))  # fmt: skip


def _gained(money: Json) -> Decimal:
    """What was gained with money that was converted: it settles so much less. A gain with money in its own currency is
    not of that currency."""
    return Decimal(money["exchange"]["amount"]) if money["exchange"] and money["currency"] == "GBP" else Decimal(0)
