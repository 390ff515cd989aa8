"""Who stands at the ends of the demo: the stand-ins with their October, or two real systems with today's orders."""

from __future__ import annotations

from collections.abc import Callable

from inkwell_bridge.client import WorkspaceCalls
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.launch import demo_client, demo_peers
from inkwell_bridge.launch.stack import Stack

Say = Callable[[str], None]


class October:
    """The stand-ins, with the month of the demo's client."""

    database = "inkwell"
    stores = "standins"
    loaded = (
        "The demo's October is loaded: two shops, a marketplace, a payment provider and a bank statement wait, and six "
        "bridges lie ready."
    )

    def set_clock(self, stack: Stack) -> None:
        """Each start begins at the end of October, however long ago an earlier one ran; it goes on from there."""
        demo_client.set_clock(stack)

    def is_set_up(self, calls: WorkspaceCalls) -> bool:
        """Whether the bridges lie."""
        return any(calls.bridges())

    def set_up(self, stack: Stack, calls: WorkspaceCalls) -> None:
        """Fill the stand-ins, lay all bridges, and load the reference data of the ends."""
        demo_client.fill_standins(stack.standin, whole_month=True)
        demo_client.set_up(stack, calls)
        demo_client.set_up_others(stack, calls)
        demo_client.set_up_payouts(stack, calls)
        demo_client.read_statement(demo_client.add_bank_account(calls))
        demo_client.load_names(calls)

    def point_at(self, stack: Stack, calls: WorkspaceCalls, say: Say) -> None:
        """Point what is there at this start's ports."""
        where = {end: demo_client.address_of(stack, end) for end in demo_client.CONNECTIONS}
        for end in demo_client.point_at(calls, where):
            name = facts()[end]["name"]
            say(f"An earlier version made this demo, without {name}: ./inkwell demo --fresh has it.")

    def lines(self, stack: Stack) -> list[str]:
        """Where everything is, and what to do first."""
        return [
            f"The shops        {stack.shop}/{demo_client.WORLD}/",
            f"                 {stack.shop}/{demo_client.WORLD}-ireland/",
            f"The marketplace  {stack.standin('marketplace')}/{demo_client.WORLD}/",
            f"The provider     {stack.standin('payment-provider')}/{demo_client.WORLD}/",
            f"The books        {stack.erp}/{demo_client.WORLD}/",
            f"                 {stack.standin('ledger')}/{demo_client.WORLD}/",
            f"The contacts     {stack.standin('contact-list')}/{demo_client.WORLD}/",
            f"Carry October    ./inkwell run {facts()['bridge']['slug']}",
        ]


class Empty(October):
    """The same stand-ins, and a workspace with nothing in it: for connecting them oneself, from the first command."""

    database = "inkwell_empty"
    stores = "standins-empty"
    loaded = "The shops and the books are full, and nothing is connected: docs/guide begins here."

    def is_set_up(self, calls: WorkspaceCalls) -> bool:
        """Once something is connected, the ends are left as they are."""
        return any(calls.connections())

    def set_up(self, stack: Stack, calls: WorkspaceCalls) -> None:
        """Fill the stand-ins alone."""
        demo_client.fill_standins(stack.standin, whole_month=True)

    def point_at(self, stack: Stack, calls: WorkspaceCalls, say: Say) -> None:
        """Point what was connected, under the names of the guide, at this start's ports."""
        where = {end: demo_client.address_of(stack, end) for end in demo_client.CONNECTIONS}
        demo_client.point_at(calls, where)

    def lines(self, stack: Stack) -> list[str]:
        """Where each end is, and what opens it."""
        lines = ["", "The ends, and what opens them:"]
        for end, (kind, credentials) in demo_client.CONNECTIONS.items():
            lines.append(f"  {facts()[end]['name']}: --kind {kind} --address {demo_client.address_of(stack, end)}")
            lines += [f"      {name}: {facts()[end][name]}" for name in credentials]
        return lines


class WithPeers:
    """Vendure and Tryton; their clocks are the real ones, so ours is too."""

    database = "inkwell_peers"
    stores = "standins"
    loaded = "Vendure's orders wait, and the bridge to Tryton lies ready."

    def __init__(self) -> None:
        self._where = demo_peers.addresses()

    def set_clock(self, stack: Stack) -> None:
        """Nothing is set; a clock that another demo set is forgotten."""
        (stack.home / "clock").unlink(missing_ok=True)

    def is_set_up(self, calls: WorkspaceCalls) -> bool:
        """Whether the bridge lies."""
        return any(calls.bridges())

    def set_up(self, stack: Stack, calls: WorkspaceCalls) -> None:
        """Connect both, and lay the bridge."""
        demo_peers.set_up(calls, self._where)
        demo_client.load_names(calls)

    def point_at(self, stack: Stack, calls: WorkspaceCalls, say: Say) -> None:
        """Point the connections at where the two are this time."""
        demo_client.point_at(calls, self._where)

    def lines(self, stack: Stack) -> list[str]:
        """Where everything is, and what to do first."""
        return [
            f"The storefront   {self._where['vendure']}",
            f"The books        {self._where['tryton']}",
            f"Carry its orders ./inkwell run {facts()['peers_bridge']['slug']}",
        ]
