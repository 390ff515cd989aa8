"""What the shop keeps: orders, customers, products, refunds, parcels, stock, each listed in the order of its change."""

from __future__ import annotations

from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.standins.store import Store

KINDS = {"orders": "order", "customers": "customer", "products": "product", "refunds": "refund",
         "dispatches": "dispatch", "stock": "stock"}  # fmt: skip
LARGEST_PAGE = 250
# What each is dated by.
_DATED = {"order": "placed", "refund": "when"}


class Shelves:
    """The shop's documents in one world after another."""

    def __init__(self, store: Store) -> None:
        self.store = store

    def load(self, world: str, contents: dict[str, Any]) -> list[tuple[str, dict[str, Any]]]:
        """Put documents (and, where given, the shop's own facts) there, take away those that are ``removed``; answers
        what was put.

        One that is ``lost`` stands in no list of changes, one that is ``unlisted`` in no list at all; by its id or its
        number both are there.
        """
        if contents.get("reset"):
            self.store.clear(world)
        if "shop" in contents:
            self.store.put(world, "shop", 1, contents["shop"])
        if "hook" in contents:
            self.store.put(world, "hook", 1, contents["hook"])
        for name, numbers in contents.get("removed", {}).items():
            for number in numbers:
                self.store.remove(world, KINDS[name], number)
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
        page, onward = found[:limit], None
        if len(found) > limit:
            onward = f"{in_utc(page[-1]['last_change'])}~{page[-1]['id']}"
        # Told to: the shop loses some on the way, as shops do.
        return [one for one in page if not (one.get("lost") or one.get("unlisted"))], onward

    def placed(
        self, world: str, kind: str, first: str, before: str, *, after: int, limit: int
    ) -> dict[str, Any]:  # fmt: skip
        """What was placed, or made, between two moments, each in a line and by number; on the first page also how many
        there are in all, and what they come to."""
        start, end = in_utc(first), in_utc(before)
        there = [one for one in self.store.all(world, kind) if start <= in_utc(one[_DATED[kind]]) < end]
        listed = [one for one in there if not one.get("unlisted") and one["id"] > after]
        page = listed[: min(limit, LARGEST_PAGE)]
        found: dict[str, Any] = {
            "entries": [{name: one[name] for name in ("id", "reference", "last_change", "currency", "total")}
                        | {"when": one[_DATED[kind]]} for one in page],
            "onward": page[-1]["id"] if len(listed) > len(page) else None,
        }  # fmt: skip
        if not after:
            sums: dict[str, list[Any]] = {}
            for one in there:
                so_far = sums.setdefault(one["currency"], [0, Decimal(0)])
                so_far[0] += 1
                so_far[1] += Decimal(one["total"])
            found["in_all"] = [{"currency": currency, "number": number, "total": str(total)}
                               for currency, (number, total) in sorted(sums.items())]  # fmt: skip
        return found

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
