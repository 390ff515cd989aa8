"""For each kind of end: how a test opens it, which of its calls do what, and documents it can hold."""

from __future__ import annotations

import os
from typing import Any, cast

from inkwell_bridge.core.books import BooksDocument, PaymentRequest, Role
from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.demo.lanternfair import first_sales as demo_lanternfair
from inkwell_bridge.demo.lanternfair import market
from inkwell_bridge.demo.payouts import payouts
from inkwell_bridge.ends.contract import TakesRequests, kinds
from tests.support.bench import UK_CODES, Bench
from tests.support.world import World

SIGNING_SECRET = "whsec_aW5rd2VsbC1icmlkZ2UtdGVzdHMtc2VjcmV0"


T = "2026-10-05T13:20:00+01:00"
TAX = {"class": "standard", "percent": "20", "sum": "3.08"}
CUSTOMER = {"id": 912, "reference": "C-912", "last_change": T, "email": "aoife@thimble.example", "first_name": "Aoife",
            "last_name": "O'Driscoll", "group": "retail"}  # fmt: skip
PRODUCT = {"id": 31, "reference": "YRN-MER4-HEA", "last_change": T, "title": "Merino", "currency": "GBP",
           "price": "18.50", "prices": "with tax", "class": "standard", "barcode": "5012345678900", "pack": "6",
           "contents": [{"article": "NDL-BAM-40", "count": "1", "part": "6.49"}]}  # fmt: skip
REFUND = {"id": 801, "reference": "MW-R-801", "order": "MW-10003", "order_id": 50002, "when": T, "last_change": T,
          "currency": "GBP", "prices": "with tax", "tax": "3.08", "total": "20.50",
          "rows": [{"row": 1, "article": "YRN-MER4-HEA", "count": "1", "sum": "18.50", "tax": TAX,
                    "back_on_shelf": True}],
          "goodwill": [{"row": "goodwill", "title": "Sorry", "sum": "2.00",
                        "tax": {"class": "outside", "percent": "0", "sum": "0.00"}}],
          "paid_back": [{"transaction": "wg_r_801", "by": "card", "with": "card", "sum": "20.50",
                         "when": T}]}  # fmt: skip
DISPATCH = {"id": 5, "reference": "DN-1", "order": "MW-10003", "when": T, "last_change": T, "carrier": "Otter",
            "rows": [{"row": 1, "article": "YRN-MER4-HEA", "count": "1"}]}  # fmt: skip
LEVEL = {"id": 6, "reference": "YRN-MER4-HEA Mill", "article": "YRN-MER4-HEA", "at": "Mill", "there": "10",
         "free": "8", "last_change": T}  # fmt: skip


class WebShopBench(Bench):
    """The web shop's stand-in."""

    def fill_shelves(self, world: World) -> None:
        """One of each kind besides the orders."""
        self.put(world, customers=[CUSTOMER], products=[PRODUCT], refunds=[REFUND], dispatches=[DISPATCH],
                 stock=[LEVEL])  # fmt: skip

    def an_order(self, world: World) -> str:
        """One of three lines."""
        return "MW-10009"


class MarketplaceBench(Bench):
    """The marketplace's stand-in."""

    def fill_shelves(self, world: World) -> None:
        """A parcel and October's settlements besides the sales."""
        self.put(world, settlements=market()["settlements"],
                 parcels=[{"parcel": "OT-0", "key": 900, "sale": "LF-26-4101", "on": T, "moved": T,
                           "items": [{"pos": 1, "code": "X", "how_many": 1}]}])  # fmt: skip

    def an_order(self, world: World) -> str:
        """The first of several items that nobody has sent."""
        sales = demo_lanternfair()["sales"]
        return next(sale["sale"] for sale in sales if len(sale["items"]) > 1 and sale["progress"] == "to send")

    def take_rights(self, world: World) -> None:
        """From the application, and from whoever is in."""
        super().take_rights(world)
        self.put(world, sign_out=True)


class ProviderBench(Bench):
    """The payment provider's stand-in."""

    def fill_shelves(self, world: World) -> None:
        """October's payouts, and money that came in on a request."""
        self.put(world, payouts=payouts())
        asked = PaymentRequest.read({"external_reference": "INK:uk-books:1:payment request:1", "date": "2026-10-05",
                                     "currency": "GBP", "amount": "480.00", "invoice_id": "1"})  # fmt: skip
        cast(TakesRequests, self.sales(world)).make_request(asked, key="shelves")
        self.put(world, came_in=[{"ref": asked.external_reference, "minor": 1000}])


BENCHES = {
    "payment-provider": ProviderBench(
        kind="payment-provider",
        credentials={"token": "weirgate-demo-token-5b21"},
        secret="token",
        describing="merchant",
        searching="payouts.list",
        facts="weirgate",
        places=(),
    ),
    "marketplace": MarketplaceBench(
        kind="marketplace",
        credentials={"client_id": "marrowby-lanternfair-app", "client_secret": "lanternfair-demo-secret-8d14"},
        secret="client_secret",
        describing="stand",
        searching="sales",
        facts="lanternfair",
        currency="EUR",
        places=(),
    ),
    "web-shop": WebShopBench(
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
        codes=UK_CODES,
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
# Every sales side, and those of them that sell.
SALES_SIDES = [name for name in BENCHES if kinds()[name].side == "sales"]
SALES = [name for name in SALES_SIDES if SourceKind.ORDERS in kinds()[name].capabilities.lists]


def line(bench: Bench, **fields: Any) -> dict[str, Any]:
    """A line of 10.00 at 20 %, or 23 % in the ledger."""
    return {
        "kind": "goods",
        "line_reference": "1",
        "text": "Merino 4-ply skein, Heather",
        "account": bench.codes.get("account", ""),
        "quantity": "2",
        "unit_price": "5.00",
        "net": "10.00",
        "tax_code": bench.codes.get("tax_code", ""),
        "tax": "2.30" if bench.kind == "ledger" else "2.00",
        "order_number": "MW-501",
        "link": "https://shop.marrowby.example/orders/MW-501",
        "fields": [{"name": "article", "value": "YRN-MER4-HEA"}],
        **fields,
    }


def document(bench: Bench, role: Role, **fields: Any) -> BooksDocument:
    """A document of a role that the end can hold in full."""
    base: dict[str, Any] = {
        "role": role.value,
        "external_reference": f"INK:web-shop:501:{role.value}:1",
        "date": "2026-10-05",
        "order_number": "MW-501",
    }
    match role:
        case Role.PAYMENT | Role.REFUND_PAYMENT:
            own: dict[str, Any] = {"currency": bench.currency, "account": bench.codes["clearing"], "amount": "12.00",
                                   "transaction": "wg_70001", "text": "Card"}  # fmt: skip
        case Role.WRITE_OFF:
            own = {"currency": bench.currency, "account": bench.codes["account"], "amount": "0.04", "text": "Given up"}
        case Role.JOURNAL:
            own = {"currency": bench.currency, "text": "Payout 9", "lines": [
                {"account": bench.codes["bank"], "base": "9.50", "currency": bench.currency, "amount": "9.50"},
                {"account": bench.codes["clearing"], "base": "-9.50", "currency": bench.currency, "amount": "-9.50"},
            ]}  # fmt: skip
        case Role.DISPATCH:
            own = {
                "warehouse": "MILL",
                "carrier": "Otter Parcels",
                "tracking_number": "OT1",
                "lines": [{"line_reference": "1", "item": "YRN-MER4-HEA", "quantity": "2", "lot": "BATH-7"}],
            }
        case Role.STOCK_MOVE:
            del base["order_number"]
            own = {"from_warehouse": "MILL", "to_warehouse": "DYEHOUSE",
                   "lines": [{"item": "YRN-MER4-HEA", "quantity": "1", "lot": "BATH-7"}]}  # fmt: skip
        case _:
            own = {"currency": bench.currency, "link": "https://shop.marrowby.example/orders/MW-501",
                   "lines": [line(bench)], "fields": [{"name": "channel", "value": "web shop"}]}  # fmt: skip
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
