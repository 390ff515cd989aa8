"""The bench: how a test opens an end of some kind, and what it may do with it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from inkwell_bridge.ends.contract import BooksEnd, SalesEnd, kinds
from inkwell_bridge.ends.opening import Limits, Opening
from inkwell_bridge.ends.pace import UNPACED, OwnPace, Pace
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.places import LOOPBACK
from tests.support.world import World

LIMITS = Limits(timeout_seconds=0.6, connect_timeout_seconds=0.6, longest_answer_seconds=3,
                largest_answer_bytes=2_000_000)  # fmt: skip

# What the tests name in the chart of the UK company, whichever system keeps its books.
UK_CODES = {"account": "4000", "tax_code": "S20", "untaxed": "Z00", "expense": "5000", "bank": "1200",
            "clearing": "1250"}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Bench:
    """One kind of end on the bench.

    ``secret`` is the credential that a wrong one is tried for; ``describing``, ``searching`` and ``creating``
    name the stand-in's calls behind ``check``, ``find`` (or ``documents``) and ``create``; ``locks`` is the
    company's field that closes a period; ``codes`` an account and a tax code; ``rights`` those that can be
    taken away where that is not all of them; ``places`` what a sales side calls its locations; ``examples`` how
    many a property is tried on.
    """

    kind: str
    credentials: Mapping[str, str]
    secret: str
    describing: str
    searching: str
    creating: str = ""
    posting: str = ""
    facts: str
    path: str = ""
    currency: str = "GBP"
    time_zone: str = "Europe/"
    locks: str = ""
    rights: tuple[str, ...] = ()
    places: tuple[str, ...] = ("Dyehouse", "Mill")
    limits: Limits = LIMITS
    examples: int = 15
    codes: Mapping[str, str] = field(default_factory=dict)

    def address(self, world: World) -> str:
        """Where this end of a world is."""
        return f"{world.stack.standin(self.kind)}/{world.slug}{self.path}"

    def open(self, world: World, *, address: str = "", **credentials: str) -> Any:
        """It, open."""
        opening = Opening(
            address=address or self.address(world),
            credentials={**self.credentials_in(world), **credentials},
            limits=self.limits,
            guard=LOOPBACK,
            pace=self.pace(),
        )
        return kinds()[self.kind].open(opening)

    def pace(self) -> Pace:
        """As fast as this kind may be called."""
        rate = kinds()[self.kind].rate
        return OwnPace(rate) if rate else UNPACED

    def credentials_in(self, world: World) -> Mapping[str, str]:
        """What opens it in a world."""
        return self.credentials

    def sales(self, world: World) -> SalesEnd:
        """It, open, as a sales side."""
        return self.open(world)  # type: ignore[no-any-return]

    def books(self, world: World) -> BooksEnd:
        """It, open, as books."""
        return self.open(world)  # type: ignore[no-any-return]

    def misbehave(self, world: World, *rules: dict[str, Any]) -> None:
        """Tell its stand-in to misbehave."""
        world.misbehave(self.kind, *rules)

    def contents(self, world: World) -> dict[str, Any]:
        """What its stand-in holds."""
        return world.held_by(self.kind)

    def put(self, world: World, **contents: Any) -> None:
        """Put something into its stand-in."""
        world.put(self.kind, **contents)

    def fill_shelves(self, world: World) -> None:
        """See to it that a sales side has something of every kind that it lists."""

    def an_order(self, world: World) -> str:
        """The number of an order of several lines that a test may change, and of which nothing was sent yet."""
        raise NotImplementedError

    def take_rights(self, world: World) -> None:
        """Leave us none of the rights that can be taken away."""
        self.change_company(world, permissions=[])

    def lock(self, world: World, day: str) -> None:
        """Close the books up to a day."""
        self.change_company(world, **{self.locks: day})

    def end_sessions(self, world: World) -> None:
        """Whoever is signed in must sign in again."""
        self.put(world, reset=True)
        self.change_company(world)

    def change_company(self, world: World, **fields: Any) -> None:
        """Change what its company or shop says of itself."""
        entries = {**demo_client.facts()[self.facts], **fields}
        kept = {name: value for name, value in entries.items() if name not in demo_client.LISTS}
        self.put(world, **{"shop" if self.kind == "web-shop" else "company": kept})
