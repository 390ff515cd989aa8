"""For each kind of end: how a test opens it, which of its calls do what, and documents it can hold."""

from __future__ import annotations

import os
from typing import Any

from inkwell_bridge.core.books import BooksDocument, Role
from inkwell_bridge.ends.contract import kinds
from tests.support.bench import Bench

SIGNING_SECRET = "whsec_aW5rd2VsbC1icmlkZ2UtdGVzdHMtc2VjcmV0"

BENCHES = {
    "web-shop": Bench(
        kind="web-shop",
        credentials={"key": "mwshop_demo_key", "secret": "mwshop-demo-secret-0b1f", "signing_secret": SIGNING_SECRET},
        secret="secret",
        describing="shop",
        searching="orders",
        facts="web_shop",
        path="/api",
    ),
    "erp": Bench(
        kind="erp",
        credentials={"user": "inkwell", "password": "uk-books-demo-password-77c2"},
        secret="password",
        describing="company.describe",
        searching="invoices.search",
        creating="invoices.create",
        posting="invoices.post",
        facts="books",
        locks="locked_until",
        codes={"account": "4000", "tax_code": "S20", "untaxed": "Z00", "bank": "1200", "clearing": "1250"},
    ),
    "ledger": Bench(
        kind="ledger",
        credentials={"token": "ireland-books-demo-token-91ad"},
        secret="token",
        describing="company",
        searching="invoices.search",
        creating="invoices.create",
        posting="invoices.post",
        facts="irish_books",
        currency="EUR",
        locks="closed_until",
        codes={"account": "400", "tax_code": "V23", "untaxed": "V0", "bank": "120", "clearing": "110"},
    ),
    "contact-list": Bench(
        kind="contact-list",
        credentials={"token": "contact-list-demo-token-3e70"},
        secret="token",
        describing="list",
        searching="orders.search",
        creating="orders.put",
        facts="contact_list",
    ),
}
# Real systems are on the bench where they are running, which ``./inkwell test --peers`` sees to.
PEERS = ("tryton", "vendure")
if os.environ.get("INKWELL_TEST_PEERS"):
    from tests.support.peers import PEER_BENCHES

    BENCHES |= PEER_BENCHES
BOOKS = [name for name, bench in BENCHES.items() if bench.creating]
LEDGERS = [name for name in BOOKS if BENCHES[name].locks]
SALES = [name for name in BENCHES if kinds()[name].side == "sales"]


def line(bench: Bench, **fields: Any) -> dict[str, Any]:
    """A line of 10.00 at 20 %, or 23 % in the ledger."""
    return {
        "kind": "goods",
        "mark": "1",
        "text": "Merino 4-ply skein, Heather",
        "account": bench.codes.get("account", ""),
        "quantity": "2",
        "unit_price": "5.00",
        "net": "10.00",
        "tax_code": bench.codes.get("tax_code", ""),
        "tax": "2.30" if bench.kind == "ledger" else "2.00",
        **fields,
    }


def document(bench: Bench, role: Role, **fields: Any) -> BooksDocument:
    """A document of a role that the end can hold in full."""
    base: dict[str, Any] = {"role": role.value, "mark": f"INK:web-shop:501:{role.value}:1", "date": "2026-10-05",
                            "order_number": "MW-501"}  # fmt: skip
    match role:
        case Role.PAYMENT | Role.REFUND_PAYMENT:
            own: dict[str, Any] = {"currency": bench.currency, "account": bench.codes["clearing"], "amount": "12.00",
                                   "transaction": "wg_70001", "text": "Card"}  # fmt: skip
        case Role.JOURNAL:
            own = {"currency": bench.currency, "text": "Payout 9", "lines": [
                {"account": bench.codes["bank"], "base": "9.50", "currency": bench.currency, "amount": "9.50"},
                {"account": bench.codes["clearing"], "base": "-9.50", "currency": bench.currency, "amount": "-9.50"},
            ]}  # fmt: skip
        case Role.DISPATCH:
            own = {"warehouse": "MILL", "carrier": "Otter Parcels", "tracking_number": "OT1",
                   "lines": [{"mark": "1", "item": "YRN-MER4-HEA", "quantity": "2", "lot": "BATH-7"}]}  # fmt: skip
        case Role.STOCK_MOVE:
            del base["order_number"]
            own = {"from_warehouse": "MILL", "to_warehouse": "DYEHOUSE",
                   "lines": [{"item": "YRN-MER4-HEA", "quantity": "1", "lot": "BATH-7"}]}  # fmt: skip
        case _:
            own = {"currency": bench.currency, "link": "https://shop.marrowby.example/orders/MW-501",
                   "lines": [line(bench)]}  # fmt: skip
    return role.shape.read({**base, **own, **fields})


def small(bench: Bench, **fields: Any) -> BooksDocument:
    """The document that every test of these books makes: an invoice, or where there are none a sales order."""
    return document(bench, Role.SALES_ORDER if bench.kind == "contact-list" else Role.INVOICE, **fields)


STOCKED = {
    "articles": [{"code": "YRN-MER4-HEA", "name": "Merino 4-ply skein, Heather", "barcode": "5012345678900"}],
    "stock": [
        {"article": "YRN-MER4-HEA", "warehouse": "MILL", "there": "10", "free": "8", "lots": {"BATH-7": "6"},
         "changed": "2026-10-01T08:00:00+00:00"}
    ],
}  # fmt: skip
