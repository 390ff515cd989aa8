"""A world: one workspace of the service with a shop and books of its own, and the means to look at all of them."""

from __future__ import annotations

import itertools
import json
import os
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, TypeVar

import httpx

from inkwell_bridge.client import Client, WorkspaceCalls
from inkwell_bridge.client.models import LinkCounts, Loading, Member, Run
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.demo.october import october
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack

OWNER = "first.owner@inkwell.example"
PASSWORD = "a-long-enough-password"
BRIDGE = "web-shop-to-uk-books"
FEW = 28
NOT_PLAIN = ("currencies:", "exchange_differences:", "tips:", "goodwill:", "donations:", "duties:", "gift_cards:",
             "tax:", "us-sales:", "as_lines:", "exceptions:", "- {treatment:")  # fmt: skip
# One for all: a new client would load certificates each time.
HTTP = httpx.Client(trust_env=False, verify=False, timeout=30, limits=httpx.Limits(max_keepalive_connections=0))
# Short enough for tests to wait for, long enough for a busy machine to answer in.
FAST = {
    "INKWELL_END_TIMEOUT_SECONDS": "1.5",
    "INKWELL_HEARTBEAT_SECONDS": "0.5",
    "INKWELL_STALLED_AFTER_SECONDS": "2",
    "INKWELL_PAUSE_SECONDS": "0.3",
    "INKWELL_POLL_SECONDS": "0.5",
    "INKWELL_UPKEEP_SECONDS": "0.5",
    "INKWELL_PROBE_SECONDS": "1",
    "INKWELL_NOTICE_BUNDLE_SECONDS": "1",
    "INKWELL_NOTICE_GREW_SECONDS": "0.1",
    "INKWELL_SIGN_INS_PER_MINUTE": "100000",
    "INKWELL_FAILED_SIGN_INS": "100000",
    "INKWELL_OPENINGS_PER_MINUTE": "100000",
}
# Seconds between two looks at something that is waited for, at first and in the end.
FIRST_LOOK, LAST_LOOK = 0.1, 0.5
Case = TypeVar("Case")
# Every moment and every size, as ``./inkwell test --long`` asks for; without it each proof has a few of its own.
LONG = bool(os.environ.get("INKWELL_TEST_LONG"))
_numbers = itertools.count(1)


def every(some: Sequence[Case], *, of: int) -> Sequence[Case]:
    """All of these in the long form of the tests, else one ``of`` so many, the first among them."""
    return some if LONG else some[::of]


@dataclass(frozen=True, slots=True, kw_only=True)
class World:
    """One client's side of everything."""

    stack: Stack
    slug: str
    token: str
    calls: WorkspaceCalls

    @property
    def client(self) -> Client:
        """The owner's client."""
        return Client(self.stack.address, token=self.token)

    def run(self, bridge: str = BRIDGE, *, seconds: float = 60) -> Run:
        """Run a bridge to its end."""
        return self.ended(self.calls.bridge(bridge).run(), seconds=seconds)

    def ended(self, run: Run, *, seconds: float = 60) -> Run:
        """A run, once it has ended."""

        def look() -> Run | None:
            found = self.calls.run(run.id)
            return None if found.under_way else found

        return wait_for(look, seconds=seconds, what="the run")

    def loaded(self, connection: str, *parts: str, seconds: float = 60) -> list[Loading]:
        """An end's reference data, once it has been gone over."""
        asked = {loading.id for loading in self.calls.connection(connection).load(*parts)}

        def look() -> list[Loading] | None:
            found = [one for one in self.calls.connection(connection).loadings() if one.id in asked]
            return None if any(one.under_way for one in found) else found

        return wait_for(look, seconds=seconds, what="the loading")

    def matched(self, kind: str, *, bridge: str = BRIDGE) -> LinkCounts:
        """How far the linking is, once the rules have looked."""
        links = self.calls.bridge(bridge).links(kind)
        before = links.counts().version
        self.loaded("web-shop", kind)
        self.loaded("uk-books", {"products": "items", "customers": "contacts"}[kind])

        def look() -> LinkCounts | None:
            found = links.counts()
            return found if found.version != before else None

        return wait_for(look, seconds=20, what="the matching")

    def settled(self, *, seconds: float = 60) -> None:
        """Wait until no document waits any more."""

        def look() -> bool | None:
            return None if any(self.calls.crossings(state=["waiting"])) else True

        wait_for(look, seconds=seconds, what="the documents")

    def put_orders(self, *orders: dict[str, Any], reset: bool = False) -> None:
        """Place orders at the shop, in place of those of the same number."""
        shop = {"shop": demo_client.facts()["web_shop"]} if reset else {}
        self.put("web-shop", reset=reset, orders=list(orders), **shop)

    def put(self, kind: str, *, place: str = "", **contents: Any) -> None:
        """Put something into a stand-in of this world, or of the world beside it that ``place`` names."""
        address = f"{self.stack.standin(kind)}/{self.slug}{place}/control/contents"
        HTTP.put(address, json=contents).raise_for_status()

    def after_sale(self, kind: str, sale: str, does: str, *, place: str = "", **told: Any) -> httpx.Response:
        """Let the merchant at a stand-in do something to a sale; see ``standins.after_sale``."""
        address = f"{self.stack.standin(kind)}/{self.slug}{place}/control/after-sale"
        return HTTP.post(address, json={"sale": sale, "does": does, **told})

    def held_by(self, kind: str, *, place: str = "") -> dict[str, list[dict[str, Any]]]:
        """What a stand-in holds, asked past the service; see ``put``."""
        return dict(HTTP.get(f"{self.stack.standin(kind)}/{self.slug}{place}/control/contents").json())

    def books(self) -> dict[str, list[dict[str, Any]]]:
        """What the books hold, asked past the service."""
        return self.held_by("erp")

    def invoices(self) -> list[dict[str, Any]]:
        """The books' invoices that are not void."""
        return [invoice for invoice in self.books()["invoice"] if invoice["state"] != "void"]

    def change_books(self, **fields: Any) -> None:
        """Change the books' company: its permissions, its lock date."""
        company = {**demo_client.facts()["books"], **fields}
        kept = {name: value for name, value in company.items() if name not in demo_client.LISTS}
        self.put("erp", company=kept)

    def misbehave(self, end: str, *rules: dict[str, Any], place: str = "") -> None:
        """Tell ``shop`` or a kind of books to misbehave; without rules, to behave."""
        standin = self.stack.standin("web-shop" if end == "shop" else end)
        address = f"{standin}/{self.slug}{place}/control/misbehaviour"
        # Written by json itself, which has an escape for what is no UTF-8.
        HTTP.put(address, content=json.dumps({"rules": rules})).raise_for_status()

    def misbehaved(self, end: str) -> list[dict[str, Any]]:
        """How often each rule struck."""
        address = self.stack.standin("web-shop" if end == "shop" else end)
        return list(HTTP.get(f"{address}/{self.slug}/control/misbehaviour").json()["rules"])


@contextmanager
def running(stack: Stack) -> Iterator[Stack]:
    """A stack for as long as it is needed."""
    try:
        stack.start()
        yield stack
    finally:
        stack.stop()


def joined(calls: WorkspaceCalls, *, email: str, role: str, name: str = "", password: str = PASSWORD) -> Member:
    """Somebody who was invited and has come."""
    invited = calls.invite(email=email, role=role, name=name)
    Client(calls.address).accept_invitation(invited.link, password=password)
    return next(one for one in calls.people() if one.email == email.lower())


def first_owner(stack: Stack) -> str:
    """A token of somebody who may open workspaces."""
    return demo_client.open_workspace(stack, PASSWORD, workspace="first", email=OWNER)


def invoices_alone() -> str:
    """The demo's rules without those for money, and for what is no plain sale: one invoice an order."""
    kept = rulebook_text(BRIDGE).split("\npayments:")
    text = kept[0] + "\npenny:" + kept[1].split("\npenny:")[1]
    return "\n".join(line for line in text.splitlines() if not line.strip().startswith(NOT_PLAIN)) + "\n"


def with_holds(text: str) -> str:
    """These rules, by which a person looks at every order that changes after it was posted."""
    before = "  statuses: "
    assert before in text
    return text.replace(before, f"  edited: hold\n  cancelled: hold\n{before}", 1)


def new_world(stack: Stack, token: str, *, set_up: bool = True, rules: str = "") -> World:
    """The demo client's October under a name that no other test uses; ``set_up`` in the service too, by these rules."""
    slug = f"world-{os.getpid()}-{next(_numbers)}"
    client = Client(stack.address, token=token)
    world = World(stack=stack, slug=slug, token=token, calls=client.workspace(slug))
    demo_client.fill_standins(stack.standin, world=slug)
    if set_up:
        client.open_workspace(slug=slug, name=f"Marrowby of {slug}")
        demo_client.set_up(stack, world.calls, world=slug, rules=rules or invoices_alone())
    return world


def shop_order(number: str, **fields: Any) -> dict[str, Any]:
    """An order of the demo's October, changed, in the shop's own words."""
    return {**next(order for order in october() if order["reference"] == number), **fields}


def few_orders() -> list[dict[str, Any]]:
    """The first half of October: two pages, every order of which is carried, with most of the odd ones."""
    return october()[:FEW]


def with_few_orders(world: World) -> World:
    """A world whose shop has but few orders."""
    world.put_orders(*few_orders(), reset=True)
    return world


Found = TypeVar("Found")


def wait_for(look: Callable[[], Found | None], *, seconds: float, what: str) -> Found:
    """What ``look`` finds, as soon as it finds something."""
    deadline, pause = time.monotonic() + seconds, FIRST_LOOK
    while (found := look()) is None:
        if time.monotonic() > deadline:
            raise TimeoutError(f"{what} did not come to an end in {seconds} seconds")
        time.sleep(pause)
        # Looking takes time from what is waited for.
        pause = min(pause * 1.25, LAST_LOOK)
    return found
