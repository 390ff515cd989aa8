"""What the shop keeps: orders, customers, products, refunds, parcels, stock, each listed in the order of its change."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from inkwell_bridge.standins.store import Store

KINDS = {"orders": "order", "customers": "customer", "products": "product", "refunds": "refund",
         "dispatches": "dispatch", "stock": "stock"}  # fmt: skip
LARGEST_PAGE = 250


class Shelves:
    """The shop's documents in one world after another."""

    def __init__(self, store: Store) -> None:
        self.store = store

    def load(self, world: str, contents: dict[str, Any]) -> list[tuple[str, dict[str, Any]]]:
        """Put documents (and, where given, the shop's own facts) there; answers what was put."""
        if contents.get("reset"):
            self.store.clear(world)
        if "shop" in contents:
            self.store.put(world, "shop", 1, contents["shop"])
        if "hook" in contents:
            self.store.put(world, "hook", 1, contents["hook"])
        put = [(kind, entry) for name, kind in KINDS.items() for entry in contents.get(name, [])]
        for kind, entry in put:
            self.keep(world, kind, entry)
        return put

    def shop(self, world: str) -> dict[str, Any] | None:
        """The shop's own facts."""
        return self.store.get(world, "shop", 1)

    def keep(self, world: str, kind: str, entry: dict[str, Any]) -> None:
        """Put a document in place of one with the same id."""
        self.store.put(world, kind, entry["id"], entry, find=entry["reference"], sort=in_utc(entry["last_change"]))

    def touched(self, world: str, kind: str, entry: dict[str, Any], at: str = "") -> None:
        """Keep a change of now, or of that moment; in some shops the time of change stands still."""
        if not (self.shop(world) or {}).get("change_times_stand_still"):
            # Never before what changed already: who asks what is new since then would miss it.
            moment = max(in_utc(at), self.store.newest(world, kind)) if at else datetime.now(UTC).isoformat()
            entry = {**entry, "last_change": moment}
        self.keep(world, kind, entry)

    def listed(
        self, world: str, kind: str, *, since: str, after: str, limit: int
    ) -> tuple[list[dict[str, Any]], str | None]:
        """Documents changed at or after a moment, oldest change first, and where to go on."""
        limit = min(limit, LARGEST_PAGE)
        sort, _, number = (after or f"{in_utc(since)}~-1").rpartition("~")
        found = self.store.page(world, kind, after=(sort, int(number)), limit=limit + 1)
        if len(found) <= limit:
            return found, None
        last = found[limit - 1]
        return found[:limit], f"{in_utc(last['last_change'])}~{last['id']}"

    def by_reference(self, world: str, kind: str, reference: str) -> dict[str, Any] | None:
        """One document by the number that people know."""
        found = self.store.search(world, kind, reference)
        return found[0] if found else None

    def by_ids(self, world: str, kind: str, ids: list[int]) -> list[dict[str, Any]]:
        """Those of these documents that are there."""
        found = (self.store.get(world, kind, number) for number in ids[:LARGEST_PAGE])
        return [one for one in found if one is not None]


def in_utc(moment: str) -> str:
    """A moment in UTC, so that text compares as time does."""
    return datetime.fromisoformat(moment).astimezone(UTC).isoformat() if moment else ""
