"""The two real systems on the bench, each behind a passage that can be told to misbehave."""

from __future__ import annotations

import atexit
import datetime
import os
from collections.abc import Mapping, Sequence
from functools import cache
from typing import Any

import psycopg
from peers.databases import ADMIN, ADMIN_PASSWORD
from peers.places import cluster, running
from peers.servers import Server, start_tryton, tryton_configuration
from peers.vendure.fill import Wish, place

from inkwell_bridge.demo.facts import facts
from inkwell_bridge.ends.opening import Limits, Opening
from inkwell_bridge.ends.tryton.rpc import TrytonRpc
from inkwell_bridge.ends.vendure.graphql import GraphQL
from inkwell_bridge.launch import demo_peers
from inkwell_bridge.launch.places import LOOPBACK
from tests.support.bench import UK_CODES, Bench
from tests.support.world import HTTP, World

PATIENT = Limits(timeout_seconds=30, longest_answer_seconds=60)
# A real system takes its time; what it is cut off from it goes on with.
REAL = Limits(timeout_seconds=6, connect_timeout_seconds=2, longest_answer_seconds=10, largest_answer_bytes=2_000_000)


MOST_DATABASES = 4


class PeerBench(Bench):
    """A real system."""

    def real_address(self, world: World) -> str:
        """Where it is itself."""
        return demo_peers.addresses()[self.kind]

    def address(self, world: World) -> str:
        """The passage that leads to it."""
        passage = f"{world.stack.standin('passage')}/{world.slug}-{self.kind}"
        HTTP.put(f"{passage}/control/contents", json={"leads_to": self.real_address(world)}).raise_for_status()
        return passage

    def misbehave(self, world: World, *rules: dict[str, Any]) -> None:
        """Tell the passage to misbehave."""
        world.misbehave("passage", *rules, place=f"-{self.kind}")


class TrytonBench(PeerBench):
    """Tryton; each world has a database of its own there, copied from the filled one."""

    def real_address(self, world: World) -> str:
        """The world's database, made at its first use."""
        return tryton_of(world)

    def put(self, world: World, **contents: Any) -> None:
        """The real one is filled already."""

    def take_rights(self, world: World) -> None:
        """Out of all groups."""
        rpc = admin(world)
        (user,) = rpc.search("res.user", [["login", "=", self.credentials["user"]]], ["groups"])
        rpc.change("model.res.user.write", [user["id"]], {"groups": [["remove", user["groups"]]]})

    def lock(self, world: World, day: str) -> None:
        """Close every period that ends by then."""
        rpc = admin(world)
        ended = [["end_date", "<=", datetime.date.fromisoformat(day)], ["state", "=", "open"]]
        rpc.change("model.account.period.close", [one["id"] for one in rpc.search("account.period", ended, ["name"])])

    def unlock(self, world: World) -> None:
        """Open every period again."""
        rpc = admin(world)
        closed = rpc.search("account.period", [["state", "=", "closed"]], ["name"])
        rpc.change("model.account.period.reopen", [one["id"] for one in closed])

    def end_sessions(self, world: World) -> None:
        """As if all had run out."""
        with psycopg.connect(cluster().database(_database(world))) as db:
            db.execute("DELETE FROM ir_session")


class VendureBench(PeerBench):
    """Vendure; all worlds share it, so each test that changes an order takes one of its own."""

    def credentials_in(self, world: World) -> Mapping[str, str]:
        """Our user, or the one without rights that was made for this world."""
        return _without_rights.get(world.slug, self.credentials)

    def an_order(self, world: World) -> str:
        """One placed for this test alone."""
        return place_order([("YRN-MER4-HEA", 2), ("YRN-SOCK-FEN", 1)])

    def take_rights(self, world: World) -> None:
        """A user of a role that may do nothing."""
        graphql = vendure_admin()
        role = graphql.change(
            "mutation Role($input: CreateRoleInput!) { createRole(input: $input) { id } }",
            input={"code": f"nothing-{world.slug}", "description": "Nothing", "permissions": []},
        )
        user = {"user": f"{world.slug}@marrowby.example", "password": "may-do-nothing-77"}
        graphql.change(
            "mutation Person($input: CreateAdministratorInput!) { createAdministrator(input: $input) { id } }",
            input={"firstName": "No", "lastName": "Rights", "emailAddress": user["user"], "password": user["password"],
                   "roleIds": [role["id"]]},
        )  # fmt: skip
        _without_rights[world.slug] = user


def place_order(items: Sequence[tuple[str, int]], **wish: Any) -> str:
    """Place an order at the real storefront, as a guest does; answers its number."""
    found = vendure_admin().read("query Skus { productVariants(options: { take: 100 }) { items { id sku } } }")
    variants = {one["sku"]: one["id"] for one in found["productVariants"]["items"]}
    shop = demo_peers.addresses()["vendure"].replace("admin-api", "shop-api")
    return str(place(shop, Wish(items=items, **wish), variants)["code"])


def cancel_lines(number: str, *lines: tuple[str, int], carriage: bool = False) -> None:
    """Take so many pieces of these order lines, by their ids, off a placed order at the real storefront; or its
    carriage with them."""
    admin_ = vendure_admin()
    found = admin_.read("query Order($o: OrderListOptions) { orders(options: $o) { items { id } } }",
                        o={"filter": {"code": {"eq": number}}})  # fmt: skip
    (order,) = found["orders"]["items"]
    given = {"orderId": order["id"], "reason": "Changed their mind", "cancelShipping": carriage,
             "lines": [{"orderLineId": line, "quantity": count} for line, count in lines]}  # fmt: skip
    admin_.change(
        "mutation Cancel($i: CancelOrderInput!) { cancelOrder(input: $i) { ... on Order { id } "
        "... on ErrorResult { errorCode message } } }", i=given,
    )  # fmt: skip


_without_rights: dict[str, dict[str, str]] = {}
_databases: dict[str, str] = {}


def _database(world: World) -> str:
    return world.slug.replace("-", "_")


def tryton_of(world: World) -> str:
    """A Tryton database of a world's own, and its address; the first call to a new one takes Tryton two seconds."""
    name = _database(world)
    if name not in _databases:
        # Tryton keeps connections to each database it has served.
        while len(_databases) >= MOST_DATABASES:
            oldest = next(iter(_databases))
            cluster().drop(oldest)
            del _databases[oldest]
        cluster().copy(running()["tryton_template"], name)
        _databases[name] = f"{_server().address}{name}/"
        admin(world).read("model.res.user.get_preferences", True)
    return _databases[name]


@cache
def _server() -> Server:
    """A Tryton server of this test process: one that loads a database while it serves others confuses them."""
    configuration = tryton_configuration(cluster().database(running()["tryton_database"]), f"tryton-{os.getpid()}")
    server = start_tryton(configuration)
    atexit.register(_leave, server)
    return server


def _leave(server: Server) -> None:
    server.stop()
    for name in _databases:
        cluster().drop(name)


def admin(world: World) -> TrytonRpc:
    """Tryton as its administrator."""
    credentials = {"user": ADMIN, "password": ADMIN_PASSWORD}
    return TrytonRpc(Opening(address=tryton_of(world), credentials=credentials, limits=PATIENT, guard=LOOPBACK))


def vendure_admin() -> GraphQL:
    """Vendure as its administrator."""
    credentials = {"user": ADMIN, "password": ADMIN_PASSWORD}
    address = demo_peers.addresses()["vendure"]
    return GraphQL(Opening(address=address, credentials=credentials, limits=PATIENT, guard=LOOPBACK))


PEER_BENCHES: dict[str, Bench] = {
    "tryton": TrytonBench(
        kind="tryton",
        credentials={name: facts()["tryton"][name] for name in ("user", "password")},
        secret="password",
        describing="ir.model.access.get_access",
        searching="account.invoice.search_read",
        creating="account.invoice.create",
        posting="account.invoice.post",
        facts="tryton",
        locks="periods",
        rights=("make invoices", "post to the ledger"),
        limits=REAL,
        examples=3,
        codes=UK_CODES,
    ),
    "vendure": VendureBench(
        kind="vendure",
        credentials={name: facts()["vendure"][name] for name in ("user", "password")},
        secret="password",
        describing="Shop",
        searching="Orders",
        facts="vendure",
        time_zone="UTC",
        limits=REAL,
    ),
}
