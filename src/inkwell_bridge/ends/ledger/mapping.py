"""The ledger's JSON words, for all that is not UBL."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from inkwell_bridge.core.books import Item, MasterData
from inkwell_bridge.ends.fields import Field, amount, as_it_is, day, group, rows, table
from inkwell_bridge.ends.ledger.ubl import Category
from inkwell_bridge.ends.particulars import ContactWords

Json = Mapping[str, Any]


def reference(said: Json) -> MasterData:
    """The ledger's reference data."""
    return MasterData.read(
        {
            "company": said["name"],
            "currency": said["currency"],
            "accounts": [{name: one[name] for name in ("code", "name", "type")} for one in said["accounts"]],
            "tax_codes": [
                {"code": one["code"], "name": one["name"], "rate_percent": one["percent"],
                 "outside": one["category"] == "O"}
                for one in said["taxes"]
            ],
            "terms": [{"code": one["code"], "name": one["name"]} for one in said["terms"]],
            "dimensions": [
                {"name": one["name"], "values": [{"code": value} for value in one["values"]]}
                for one in said["dimensions"]
            ],
            "currencies": said["currencies"],
            "locked_until": said["closed_until"] or None,
        }
    )  # fmt: skip


def categories(said: Json) -> dict[str, Category]:
    """Each tax code's place in UBL."""
    return {one["code"]: Category(id=one["category"], rate_percent=Decimal(one["percent"])) for one in said["taxes"]}


CONTACT = ContactWords(tax_number="vat", billing="invoice_to", delivery="deliver_to")


def item_read(said: Json) -> Item:
    """An item that the ledger has."""
    given = {"code": said["code"], "name": said["name"], "price": said.get("price"), "stocked": False}
    return Item.read({**given, "tax_code": said.get("tax") or "", "account": said.get("account") or ""})


def item(wanted: Item) -> dict[str, Any]:
    """An item as the ledger makes it: a text with a price."""
    return {
        "code": wanted.code,
        "name": wanted.name,
        "price": None if wanted.price is None else f"{wanted.price:f}",
        "tax": wanted.tax_code,
        "account": wanted.account,
    }


# Money in or out.
PAYMENT = table(
    *as_it_is(external_reference="reference", account="account", currency="currency", transaction="transaction"),
    *as_it_is(order_number="order", text="text"),
    day("date", "day"),
    amount("amount", "sum"),
    rows("applied", "against", table(*as_it_is(external_reference="reference"), amount("amount", "sum"))),
    amount("rate", "rate"),
    *as_it_is(rate_from="rate_by"),
    amount("base", "own"),
    group("exchange_difference", "exchange", table(*as_it_is(account="account"), amount("amount", "own"))),
)


def received(said: Json) -> dict[str, Any]:
    """Money in that was released, as a source document for the shop to be told of."""
    return {
        "id": str(said["id"]),
        "number": said["number"],
        "order_number": said.get("order") or "",
        # The ledger keeps days, not moments: at noon UTC it is that day in Europe and the Americas.
        "received_at": f"{said['day']}T12:00:00+00:00",
        "changed_at": said["changed"],
        "currency": said["currency"],
        "account": said["account"],
        "text": said.get("text") or "",
        "amount": said["sum"],
        "settles": [{"external_reference": part["reference"], "amount": part["sum"]} for part in said["against"]],
    }


def entry(said: Json) -> dict[str, Any]:
    """An entry of an account, whoever entered it."""
    return {
        "id": str(said["id"]),
        "family": said["list"],
        "number": said["number"],
        "date": said["day"],
        "external_reference": said["reference"] or "",
        "text": said["text"],
        "amount": said["own"],
    }


# A small balance that is given up.
WRITE_OFF = table(
    *as_it_is(
        external_reference="reference", account="account", currency="currency", order_number="order", text="text"
    ),
    *as_it_is(owed_by="debtor", rate_from="rate_by"),
    day("date", "day"),
    amount("amount", "sum"),
    amount("rate", "rate"),
    rows("applied", "against", table(*as_it_is(external_reference="reference"), amount("amount", "sum"))),
)
# A debit is positive.
JOURNAL = table(
    *as_it_is(external_reference="reference", currency="currency", text="text", order_number="order", link="page"),
    day("date", "day"),
    rows(
        "lines",
        "rows",
        table(
            *as_it_is(account="account", text="text", currency="currency", rate_from="rate_by", tax_code="tax"),
            *as_it_is(line_reference="note"),
            amount("base", "own"),
            amount("amount", "sum"),
            amount("rate", "rate"),
            Field(
                "dimensions",
                "dimensions",
                out=lambda chosen: {one.name: one.value for one in chosen},
                back=lambda said: [{"name": name, "value": value} for name, value in said.items()],
            ),
        ),
    ),
)
