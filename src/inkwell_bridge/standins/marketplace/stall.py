"""What a seller has at the marketplace: sales with their items, money handed back, parcels."""

from __future__ import annotations

from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.standins.store import Store

Json = dict[str, Any]
# Each list, the name of one entry in it, and what names an entry.
KINDS = {"sales": "sale", "handbacks": "handback", "parcels": "parcel", "settlements": "settlement"}
REPORT_COLUMNS = ("settlement", "row", "on", "what", "sale", "ref", "amount", "tax", "says")
LARGEST_PAGE = 100
# What each is dated by.
_DATED = {"sale": "agreed", "handback": "on"}
ITEMS_A_PAGE = 25


class NotHere(Exception):
    """There is nothing under that name."""


class Stall:
    """The seller's side of the marketplace, world by world."""

    def __init__(self, store: Store) -> None:
        self.store = store

    def load(self, world: str, contents: Json) -> list[tuple[str, Json]]:
        """Put things (and, where given, the seller's own facts) there; answers each with its kind."""
        if contents.get("reset"):
            self.store.clear(world)
        if "company" in contents:
            self.store.put(world, "company", 1, contents["company"])
        moved = [(kind, entry) for name, kind in KINDS.items() for entry in contents.get(name, [])]
        for kind, entry in moved:
            self._keep(world, kind, entry)
        return moved

    def listed(self, world: str, name: str, *, since: str, onward: str, limit: int) -> Json:
        """Entries moved at or after a moment, in the order of their moves; sales without their items."""
        sort, _, key = (onward or f"{_in_utc(since)}~-1").rpartition("~")
        found = self.store.page(world, KINDS[name], after=(sort, int(key)), limit=min(limit, LARGEST_PAGE) + 1)
        page = found[: min(limit, LARGEST_PAGE)]
        last = page[-1] if len(found) > len(page) else None
        return {name: [_listed(one) for one in page if not (one.get("lost") or one.get("unlisted"))],
                "onward": f"{_in_utc(last['moved'])}~{last['key']}" if last else None,
                "total": self.store.count(world, KINDS[name])}  # fmt: skip

    def agreed(self, world: str, name: str, first: str, before: str, *, after: int, limit: int) -> Json:
        """What was agreed, or handed back, between two moments, each in a line and by key."""
        kind, start, end = KINDS[name], _in_utc(first), _in_utc(before)
        found = [one for one in self.store.all(world, kind)
                 if one["key"] > after and not one.get("unlisted")
                 and start <= _in_utc(one[_DATED[kind]]) < end]  # fmt: skip
        page = found[: min(limit, LARGEST_PAGE)]
        return {"entries": [{"key": one["key"], "name": one[kind], "on": one[_DATED[kind]], "moved": one["moved"],
                             "money": one["money"], "due": one["sums"]["due"]} for one in page],
                "onward": page[-1]["key"] if len(found) > len(page) else None}  # fmt: skip

    def by_keys(self, world: str, name: str, keys: list[int]) -> Json:
        """Those of these entries that are there."""
        found = (self.store.get(world, KINDS[name], key) for key in keys[:LARGEST_PAGE])
        return {name: [_listed(one) for one in found if one is not None]}

    def one(self, world: str, name: str, number: str) -> Json:
        """One entry by the number that people know."""
        found = self.store.search(world, KINDS[name], number)
        if not found:
            raise NotHere(f"no such {KINDS[name]}")
        return _listed(found[0])

    def items(self, world: str, number: str, start: int) -> Json:
        """The items of a sale, some at a time."""
        found = self.store.search(world, "sale", number)
        if not found:
            raise NotHere("no such sale")
        items = found[0]["items"]
        end = start + ITEMS_A_PAGE
        return {"items": items[start:end], "onward": end if end < len(items) else None}

    def report(self, world: str, name: str) -> str:
        """The rows of all settlements that a report is of, parted by tabs under the names of the columns."""
        found = [one for one in self.store.all(world, "settlement") if one["report"] == name]
        if not found:
            raise NotHere("no such report")
        rows = [{**row, "settlement": one["settlement"]} for one in found for row in one["rows"]]
        lines = ["\t".join(str(row.get(name, "")) for name in REPORT_COLUMNS) for row in rows]
        return "\n".join(["\t".join(REPORT_COLUMNS), *lines, ""])

    def note(self, world: str, key: int, text: str) -> Json:
        """Keep a note of the seller, unless it stands there word for word."""
        sale = self._sale(world, key)
        notes = sale.get("seller_notes", [])
        if any(note["text"] == text for note in notes):
            return sale
        return self.moved(world, "sale", {**sale, "seller_notes": [*notes, {"text": text, "on": _now()}]})

    def parcel(self, world: str, key: int, told: Json) -> Json:
        """Take note of a parcel; when every item has gone, the sale is sent."""
        sale = self._sale(world, key)
        if not self.store.search(world, "parcel", told["parcel"]):
            number = self.store.count(world, "parcel") + 1
            self.moved(world, "parcel", {**told, "key": number, "sale": sale["sale"]})
        gone: dict[str, Decimal] = {}
        for item in (item for parcel in self.store.all(world, "parcel") if parcel["sale"] == sale["sale"]
                     for item in parcel["items"]):  # fmt: skip
            gone[str(item["pos"])] = gone.get(str(item["pos"]), Decimal(0)) + Decimal(str(item["how_many"]))
        if all(gone.get(str(item["pos"]), 0) >= item["how_many"] for item in sale["items"]):
            return self.moved(world, "sale", {**sale, "progress": "sent"})
        return sale

    def moved(self, world: str, kind: str, entry: Json, at: str = "") -> Json:
        """Keep an entry as moved now, or at that moment, and answer it so."""
        # Never before what moved already: who asks what moved since then would miss it.
        moment = max(_in_utc(at), self.store.newest(world, kind)) if at else _now()
        entry = {**entry, "moved": moment}
        self._keep(world, kind, entry)
        return entry

    def _sale(self, world: str, key: int) -> Json:
        sale = self.store.get(world, "sale", key)
        if sale is None:
            raise NotHere("no such sale")
        return sale

    def _keep(self, world: str, kind: str, entry: Json) -> None:
        self.store.put(world, kind, entry["key"], entry, find=entry[kind], sort=_in_utc(entry["moved"]))


def _listed(entry: Json) -> Json:
    """As lists have it: the items of a sale, and the rows of a settlement, are on calls of their own."""
    apart = {"items"} if "progress" in entry else {"rows"}
    return {name: value for name, value in entry.items() if name not in apart}


def _in_utc(moment: str) -> str:
    return datetime.fromisoformat(moment).astimezone(UTC).isoformat() if moment else ""


def _now() -> str:
    return datetime.now(UTC).isoformat()
