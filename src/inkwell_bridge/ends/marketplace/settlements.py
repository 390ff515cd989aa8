"""What the marketplace settles: a list of settlements, and the rows of each in a report, a table parted by tabs.

A report may hold the rows of several settlements, one in each currency; a row is one entry, signed as the seller's
account sees it. What a sale comes to there is what the buyer paid less the taxes that the marketplace keeps.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from inkwell_bridge.core.commerce import EntryKind
from inkwell_bridge.ends.marketplace.mapping import Json, moment
from inkwell_bridge.ends.minor_units import Minor

COLUMNS = ("settlement", "row", "on", "what", "sale", "ref", "amount", "tax", "says")
# Who sells more in two weeks gets more reports.
MOST_ROWS = 100_000
KINDS = {
    "sale": EntryKind.CHARGE,
    "handback": EntryKind.REFUND,
    "claim": EntryKind.CHARGEBACK,
    "claim withdrawn": EntryKind.CHARGEBACK_REVERSED,
    "commission": EntryKind.REFERRAL_FEE,
    "sending": EntryKind.FULFILMENT_FEE,
    "advert": EntryKind.ADVERTISING,
    "stand rent": EntryKind.SUBSCRIPTION,
    "postage label": EntryKind.SHIPPING_LABEL,
    "tax withheld": EntryKind.TAX_WITHHELD,
    "held back": EntryKind.RESERVE_KEPT,
    "let go": EntryKind.RESERVE_RELEASED,
    "brought forward": EntryKind.CARRIED_OVER,
    "carried forward": EntryKind.CARRIED_OVER,
    "put right": EntryKind.CORRECTION,
    "exchange": EntryKind.CONVERSION,
}


_AMOUNT = re.compile(r"-?[0-9]{1,15}(\.[0-9]{1,4})?")


@dataclass(frozen=True, slots=True, kw_only=True)
class Report:
    """The rows of a report by their settlement; or what is wrong with it, and then none of them is used."""

    rows: Mapping[str, list[dict[str, str]]]
    problem: str = ""


def read_report(body: bytes) -> Report:
    """A report in UTF-8: its first line names the columns, in any order, and each other has a value for each."""
    try:
        lines = body.decode("utf-8-sig").split("\n")
    except UnicodeDecodeError as error:
        return Report(rows={}, problem=f"byte {error.start + 1} of the report is no UTF-8")
    if lines[-1]:
        return Report(rows={}, problem=f"line {len(lines)} of the report has no end: it is cut off")
    names = lines[0].rstrip("\r").split("\t")
    missing = [name for name in COLUMNS if name not in names]
    if missing:
        return Report(rows={}, problem=f"line 1 of the report: expected the column {missing[0]!r}")
    if len(lines) - 2 > MOST_ROWS:
        return Report(rows={}, problem=f"the report has more than {MOST_ROWS:,} rows")
    rows: dict[str, list[dict[str, str]]] = defaultdict(list)
    for number, line in enumerate(lines[1:-1], start=2):
        values = line.rstrip("\r").split("\t")
        if len(values) != len(names):
            said = f"line {number} of the report: expected {len(names)} values, got {len(values)}"
            return Report(rows={}, problem=said)
        row = dict(zip(names, values, strict=True))
        rows[row["settlement"]].append(row)
    return Report(rows=rows)


def settlement(said: Json) -> dict[str, Any]:
    """A settlement with the rows of its report, as ``Payout`` reads it."""
    report: Report = said["rows"]
    if report.problem:
        raise ValueError(report.problem)
    return {
        "id": str(said["key"]),
        "number": said["settlement"],
        "provider": "Lanternfair",
        "period_from": moment(said["since"]),
        "period_to": moment(said["until"]),
        "paid_at": moment(said["made"]),
        "changed_at": moment(said["moved"]),
        "arrives_on": said.get("lands"),
        "bank_reference": said.get("bank_words", ""),
        "currency": said["money"],
        "total": Minor(said["money"])(said["due"]),
        "entries": [_entry(row) for row in report.rows.get(said["settlement"], [])],
    }


def _entry(row: Mapping[str, str]) -> dict[str, Any]:
    kind = KINDS.get(row["what"], EntryKind.UNKNOWN)
    amount, tax = _amount(row, "amount"), _amount(row, "tax") if row["tax"] else Decimal(0)
    return {
        "id": row["row"],
        "kind": str(kind),
        "called": row["what"] if kind is EntryKind.UNKNOWN else "",
        "transaction": row["ref"],
        "order_number": row["sale"],
        "text": row["says"],
        "occurred_at": moment(row["on"]),
        "amount": amount,
        "fee_tax": tax,
        "net": amount + tax,
    }


def _amount(row: Mapping[str, str], name: str) -> Decimal:
    if not _AMOUNT.fullmatch(row[name]):
        raise ValueError(f"row {row['row'][:40]}: expected an amount with a decimal point, got {row[name][:40]!r}")
    return Decimal(row[name])
