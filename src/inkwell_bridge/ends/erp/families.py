"""For each role of a document: the ERP's methods for it, and how it is said there and read back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from inkwell_bridge.core.books import BooksDocument, BooksRecord, Role, Standing
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.ends.entered import with_marks
from inkwell_bridge.ends.erp import goods, money, trade
from inkwell_bridge.ends.erp.mapping import Json
from inkwell_bridge.ends.errors import Misstated
from inkwell_bridge.ends.pages import page_at

_STANDING = {"draft": Standing.DRAFT, "posted": Standing.POSTED, "void": Standing.VOID}


@dataclass(frozen=True, slots=True, kw_only=True)
class Family:
    """One family of methods."""

    name: str
    to_words: Callable[[BooksDocument], dict[str, Any]]
    from_words: Callable[[Json], dict[str, Any]]
    totals: Callable[[Json], dict[str, Any]] = money.no_totals


def _trade(name: str) -> Family:
    return Family(name=name, to_words=trade.to_words, from_words=trade.from_words, totals=trade.totals)


def _payment(name: str) -> Family:
    return Family(name=name, to_words=money.PAYMENT.write, from_words=money.PAYMENT.read, totals=money.payment_totals)


FAMILIES = {
    Role.SALES_ORDER: _trade("sales_orders"),
    Role.INVOICE: _trade("invoices"),
    Role.CASH_SALE: _trade("cash_sales"),
    Role.CREDIT_NOTE: _trade("credit_notes"),
    Role.BILL: _trade("bills"),
    Role.PAYMENT: _payment("receipts"),
    Role.REFUND_PAYMENT: _payment("repayments"),
    Role.WRITE_OFF: Family(
        name="write_offs", to_words=money.WRITE_OFF.write, from_words=money.WRITE_OFF.read, totals=money.payment_totals
    ),
    Role.JOURNAL: Family(name="journals", to_words=money.JOURNAL.write, from_words=money.JOURNAL.read),
    Role.DISPATCH: Family(name="dispatches", to_words=goods.DISPATCH.write, from_words=goods.DISPATCH.read),
    Role.STOCK_MOVE: Family(name="stock_moves", to_words=goods.STOCK_MOVE.write, from_words=goods.STOCK_MOVE.read),
}


def record(role: Role, found: Json, address: str) -> BooksRecord:
    """A document read back from the ERP at ``address``, with its own totals."""
    family = FAMILIES[role]
    try:
        return BooksRecord.read(
            {
                "id": str(found["id"]),
                "number": found["number"],
                "standing": _STANDING[found["state"]],
                "contact_id": str(found.get("contact") or ""),
                "link": page_at(address, found.get("page")),
                "changed_by": found.get("changed_by") or "",
                "document": {
                    "role": role.value,
                    **with_marks(role, family.from_words(found), found["number"], f"draft {found['id']}"),
                },
                **family.totals(found),
            }
        )
    except (DocumentInvalid, KeyError, TypeError, AttributeError) as error:
        raise Misstated(f"the ERP's {role} lacks or misstates {error}") from error


def brief(found: Json) -> dict[str, Any]:
    """A document in a line, whoever entered it."""
    return {
        "id": str(found["id"]),
        "number": found["number"],
        "standing": _STANDING[found["state"]],
        "external_reference": found.get("reference") or "",
        "order_number": found.get("order") or "",
        "date": found.get("date") or None,
        "currency": found.get("currency") or "",
        **{name: found.get(name) for name in ("net", "tax", "gross")},
    }
