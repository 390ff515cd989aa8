"""What is set against the ERP's invoices: receipts, money that went back, credit notes, balances that were given up.

Each invoice keeps what was set against it, so that what is open on it, and by what, is told in one call.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.standins.erp import computing
from inkwell_bridge.standins.erp.refusal import refused
from inkwell_bridge.standins.store import Store

Json = dict[str, Any]
ZERO = Decimal(0)


def settle(store: Store, world: str, money: Json) -> None:
    """Set a receipt, or a balance that was given up, against what it names."""
    _set_against(store, world, money, 1)


def take_back(store: Store, world: str, money: Json) -> None:
    """Set money that went back against what it names."""
    _set_against(store, world, money, -1)


def credit(store: Store, world: str, note: Json) -> None:
    """A credit note lowers what is owed of the invoice that it names, by its reference or its number."""
    for invoice in _invoices(store, world, note.get("credits") or ""):
        part = {"reference": note["reference"], "amount": note["gross"], "family": "credit_notes"}
        _keep(store, world, "invoice", {**invoice, "settled_by": [*invoice.get("settled_by", []), part]})


def free(store: Store, world: str, money: Json) -> None:
    """What money was set against is open again: somebody voided it, or took it away."""
    for part in money.get("settles", []):
        for kind, document in _named(store, world, part):
            left = [one for one in document.get("settled_by", []) if one["reference"] != money["reference"]]
            if len(left) < len(document.get("settled_by", [])):
                paid = Decimal(document.get("paid", "0")) - Decimal(part["amount"])
                _keep(store, world, kind, {**document, "paid": str(paid), "settled_by": left})


def open_of(invoice: Json) -> Decimal:
    """What is still owed of an invoice; below zero where more was credited or paid than that."""
    return Decimal(invoice["gross"]) - sum((Decimal(one["amount"]) for one in invoice.get("settled_by", [])), ZERO)


def _invoices(store: Store, world: str, named: str) -> Iterator[Json]:
    found = store.search(world, "invoice", named) if named else []
    # What somebody types in at a screen is named by its number.
    found = found or [one for one in (store.all(world, "invoice") if named else ()) if one["number"] == named]
    yield from (one for one in found if one["state"] == "posted")


def _named(store: Store, world: str, part: Json) -> Iterator[tuple[str, Json]]:
    """What a part of some money names, by its reference or by the id of an invoice, and of which kind each is."""
    if part.get("invoice"):
        found = store.get(world, "invoice", int(part["invoice"]))
        yield from [("invoice", found)] if found else []
        return
    for kind in ("invoice", "credit_note"):
        yield from ((kind, one) for one in store.search(world, kind, part["reference"]))


def _set_against(store: Store, world: str, money: Json, sign: int) -> None:
    _exchange_ties(store, world, money, sign)
    for part in money["settles"]:
        name = part.get("reference") or f"invoice {part['invoice']}"
        live = next(((kind, one) for kind, one in _named(store, world, part) if one["state"] == "posted"), None)
        if live is None:
            raise refused(f"nothing posted under {name}", field="settles")
        kind, document = live
        # More than the document is refused, as books do: what comes beyond has to be posted as something else.
        paid = Decimal(document.get("paid", "0")) + Decimal(part["amount"])
        if paid > Decimal(document["gross"]):
            raise refused(f"{name} would be paid with {paid} of {document['gross']}", field="settles")
        settled = {"reference": money["reference"], "amount": part["amount"]}
        _keep(store, world, kind, {**document, "paid": str(paid),
                                   "settled_by": [*document.get("settled_by", []), settled]})  # fmt: skip
        if kind == "credit_note":
            # What was paid out on it is owed again of the invoice that it credits.
            for invoice in _invoices(store, world, document.get("credits") or ""):
                back = {"reference": money["reference"], "amount": str(-Decimal(part["amount"]))}
                _keep(store, world, "invoice", {**invoice, "settled_by": [*invoice.get("settled_by", []), back]})


def _keep(store: Store, world: str, kind: str, document: Json) -> None:
    changed = datetime.now(UTC).isoformat()
    store.put(world, kind, document["id"], {**document, "changed": changed}, find=document["reference"], sort=changed)


def _exchange_ties(store: Store, world: str, money: dict[str, Any], sign: int) -> None:
    """What is told to be gained or lost must be what the rates make of it, give or take a minor unit a document."""
    if not money.get("rate") or not money.get("base") or not money["settles"]:
        return
    own = (store.get(world, "company", 1) or {}).get("currency", "")
    step = Decimal(1).scaleb(-computing.DIGITS.get(own, 2))
    left = Decimal(money["amount"])
    expected = Decimal(money["base"])
    for part in money["settles"]:
        found = [one for _, one in _named(store, world, part)]
        rate = Decimal(next((one["base_rate"] for one in found if one.get("base_rate")), money["rate"]))
        expected -= computing.in_own(Decimal(part["amount"]), rate, step)
        left -= Decimal(part["amount"])
    expected -= computing.in_own(left, Decimal(money["rate"]), step)
    told = sign * Decimal(money["exchange"]["amount"]) if money.get("exchange") else Decimal(0)
    if abs(expected - told) > step * (len(money["settles"]) + 1):
        raise refused(f"the rates make a difference of {expected}, told were {told}", field="exchange")
