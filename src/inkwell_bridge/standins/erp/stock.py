"""The ERP's stock: by article, warehouse and lot; and what it hands out about goods."""

from __future__ import annotations

from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.standins.changed import changed_since
from inkwell_bridge.standins.erp.refusal import refused
from inkwell_bridge.standins.store import Store


def take(store: Store, world: str, dispatch: dict[str, Any]) -> None:
    """Goods leave: no more than there is, of the lot that is named."""
    for line in dispatch["lines"]:
        _change(store, world, line, dispatch["warehouse"], -Decimal(line["quantity"]))


def move(store: Store, world: str, moved: dict[str, Any]) -> None:
    """Goods go from one warehouse to another, out, or in."""
    for line in moved["lines"]:
        if moved["from"]:
            _change(store, world, line, moved["from"], -Decimal(line["quantity"]))
        if moved["to"]:
            _change(store, world, line, moved["to"], Decimal(line["quantity"]))


def _change(store: Store, world: str, line: dict[str, Any], warehouse: str, by: Decimal) -> None:
    find = f"{line['article']}|{warehouse}"
    found = store.search(world, "stock", find)
    level = found[0] if found else _nothing(line["article"], warehouse)
    left = Decimal(level["there"]) + by
    lots = {**level.get("lots", {})}
    if line.get("lot"):
        lots[line["lot"]] = str(Decimal(lots.get(line["lot"], "0")) + by)
    if left < 0 or any(Decimal(count) < 0 for count in lots.values()):
        raise refused(f"{warehouse} has not {-by} of {line['article']} {line.get('lot', '')}".strip(), field="lines")
    changed = datetime.now(UTC).isoformat()
    free = Decimal(level["free"]) + by
    body = {**level, "there": str(left), "free": str(max(free, Decimal(0))), "lots": lots, "changed": changed}
    if found:
        store.put(world, "stock", level["id"], body, find=find, sort=changed)
    else:
        store.add(world, "stock", body, find=find, sort=changed)


def _nothing(article: str, warehouse: str) -> dict[str, Any]:
    return {"article": article, "warehouse": warehouse, "there": "0", "free": "0", "lots": {}}


def listed(store: Store, world: str, kind: str, params: dict[str, Any]) -> dict[str, Any]:
    """What changed at or after a moment, oldest first; what was cancelled stays out."""
    since, onward = str(params.get("changed_since", "")), str(params.get("after", ""))
    page = changed_since(store, world, kind, since=since, onward=onward)
    return {**page, "entries": [one for one in page["entries"] if one.get("state") != "void"]}
