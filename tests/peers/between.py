"""What a test asks of both real systems, past the service."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from inkwell_bridge.client.models import Run
from inkwell_bridge.core.commerce import Order, Refund, SourceKind
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.ends.contract import kinds
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.launch import demo_peers
from inkwell_bridge.launch.places import LOOPBACK
from tests.support.peers import PATIENT, admin
from tests.support.world import World

BRIDGE = "storefront-to-tryton"
# What is paid and not cancelled crosses.
CROSSING = frozenset({"PaymentSettled", "PartiallyShipped", "Shipped", "PartiallyDelivered", "Delivered"})


def invoices_alone() -> str:
    """The demo's rules of this bridge without those for money."""
    before, _, after = rulebook_text(BRIDGE).partition("\npayments:")
    return f"{before}\npayments: later\n\npenny:{after.partition('penny:')[2]}"


class Between:
    """The service between both."""

    def __init__(self, world: World) -> None:
        self.world, self.calls = world, world.calls

    def start(self) -> Run:
        """Start a run."""
        return self.calls.bridge(BRIDGE).run()

    def run(self) -> Run:
        """Run to the end."""
        return self.world.ended(self.start(), seconds=180)

    def orders(self) -> dict[str, Order]:
        """The storefront's orders that are to cross, by number, by its own account."""
        where = demo_peers.addresses()["vendure"]
        opening = Opening(address=where, credentials=demo_peers.credentials("vendure"), limits=PATIENT, guard=LOOPBACK)
        shop = kinds()["vendure"].open(opening)
        page = shop.documents(SourceKind.ORDERS, changed_since=None)
        found = list(page.documents)
        while page.next:
            page = shop.documents(SourceKind.ORDERS, changed_since=None, page=page.next)
            found += page.documents
        return {one.number: one.document for one in found if one.document.status in CROSSING}

    def invoices(self) -> list[dict[str, Any]]:
        """The customer invoices in Tryton that are not cancelled, as its administrator sees them, by number."""
        fields = ["number", "reference", "state", "invoice_date", "untaxed_amount", "tax_amount", "total_amount",
                  "comment", "party.name"]  # fmt: skip
        live = [["type", "=", "out"], ["state", "!=", "cancelled"]]
        return admin(self.world).search("account.invoice", live, fields, order=[["number", "ASC"], ["id", "ASC"]])

    def refunds(self) -> dict[str, Refund]:
        """What the storefront gave back, by its reason."""
        where = demo_peers.addresses()["vendure"]
        opening = Opening(address=where, credentials=demo_peers.credentials("vendure"), limits=PATIENT, guard=LOOPBACK)
        found = kinds()["vendure"].open(opening).documents(SourceKind.REFUNDS, changed_since=None)
        return {one.document.reason: one.document for one in found.documents if isinstance(one.document, Refund)}

    def balance(self, account: str) -> Decimal:
        """What stands on an account in Tryton's posted moves."""
        rows = admin(self.world).search("account.move.line", [["move_state", "=", "posted"]],
                                        ["debit", "credit", "account.code"])  # fmt: skip
        return sum((row["debit"] - row["credit"] for row in rows if row["account."]["code"] == account), Decimal(0))

    def assert_each_stands_once(self) -> None:
        """Every order that is to cross is one posted invoice of the same total, and there is nothing else."""
        orders, invoices = self.orders(), self.invoices()
        numbers = [_order_number(invoice) for invoice in invoices]
        assert sorted(numbers) == sorted(orders)
        assert {invoice["state"] for invoice in invoices} == {"posted"}
        sums = {_order_number(invoice): invoice["total_amount"] for invoice in invoices}
        assert sums == {number: order.total for number, order in orders.items()}
        assert [invoice["number"] for invoice in invoices] == [f"TI-{n:05d}" for n in range(1, len(invoices) + 1)]

    def assert_the_ledger_balances(self) -> None:
        """Tryton's own moves: what is owed is what was sold, with its tax."""
        rows = admin(self.world).search("account.move.line", [["move_state", "=", "posted"]], ["debit", "credit"])
        assert sum((row["debit"] - row["credit"] for row in rows), Decimal(0)) == 0
        assert self.balance("1100") == sum((order.total for order in self.orders().values()), Decimal(0))


def _order_number(invoice: dict[str, Any]) -> str:
    return str(invoice["comment"].splitlines()[0].removeprefix("Order: "))
