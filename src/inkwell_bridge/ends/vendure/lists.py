"""What Vendure hands out: how each kind is asked for and read; nothing that is not understood is lost."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.core.errors import DocumentInvalid, InkwellError
from inkwell_bridge.ends.errors import Away
from inkwell_bridge.ends.shapes import Fetched
from inkwell_bridge.ends.vendure import goods, people, queries, refunds_and_dispatches
from inkwell_bridge.ends.vendure.graphql import GraphQL
from inkwell_bridge.ends.vendure.mapping import Json, moment
from inkwell_bridge.ends.vendure.orders import Orders

PAGE = 50
TIMES_PAGE = 500
# Vendure does not say that an order was settled, sent or refunded: orders are looked at again for so long.
WATCHED = timedelta(days=60)
_NOT_OPEN = {"active": {"eq": False}}
Translated = Callable[[Any, Orders], list[dict[str, Any]]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Listing:
    """One kind: the query and list it comes from, how an entry of that becomes documents of ours."""

    query: str
    name: str
    by_number: str
    translate: Translated

    @property
    def of_orders(self) -> bool:
        """Whether it comes with the orders."""
        return self.name == "orders"


LISTINGS = {
    SourceKind.ORDERS: Listing(query=queries.ORDERS, name="orders", by_number="code",
                               translate=lambda said, read: [read.order(said)]),
    SourceKind.REFUNDS: Listing(query=queries.ORDERS, name="orders", by_number="code",
                                translate=refunds_and_dispatches.refunds),
    SourceKind.DISPATCHES: Listing(query=queries.ORDERS, name="orders", by_number="code",
                                   translate=refunds_and_dispatches.dispatches),
    SourceKind.CUSTOMERS: Listing(query=queries.CUSTOMERS, name="customers", by_number="id",
                                  translate=lambda said, _: [people.customer(said)]),
    SourceKind.PRODUCTS: Listing(query=queries.VARIANTS, name="productVariants", by_number="sku",
                                 translate=lambda said, read: [goods.product(said, read)]),
    SourceKind.STOCK: Listing(query=queries.VARIANTS, name="productVariants", by_number="sku",
                              translate=lambda said, _: goods.stock_levels(said)),
}  # fmt: skip


class Lists:
    """Asks for entries and reads them."""

    def __init__(self, graphql: GraphQL) -> None:
        self._graphql = graphql

    def page(self, kind: SourceKind, since: datetime | None, start: int) -> tuple[list[Any], int | None]:
        """Entries from place ``start`` on that changed since, and the place to go on from."""
        listing = LISTINGS[kind]
        if listing.of_orders and since is not None:
            return self._changed_orders(since, start)
        order = {"updatedAt": "ASC"} if since else {"id": "ASC"}
        conditions: list[Any] = [{"updatedAt": {"after": _text(since)}}] if since else []
        options = {"skip": start, "take": PAGE, "sort": order}
        entries, total = self._entries(listing.query, listing.name, options, conditions)
        return entries, start + PAGE if start + PAGE < total else None

    def by_ids(self, kind: SourceKind, ids: Sequence[str]) -> Iterator[Any]:
        """The entries with these ids, or that hold parts with these ids."""
        yield from self._among(LISTINGS[kind], "id", sorted({one.partition(".")[0] for one in ids}))

    def by_numbers(self, kind: SourceKind, numbers: Sequence[str]) -> Iterator[Any]:
        """The entries with these numbers, or those of their owners."""
        yield from self._among(LISTINGS[kind], LISTINGS[kind].by_number, numbers)

    def _among(self, listing: Listing, field: str, values: Sequence[str]) -> Iterator[Any]:
        for start in range(0, len(values), PAGE):
            conditions = [{field: {"in": list(values[start : start + PAGE])}}]
            yield from self._entries(listing.query, listing.name, {"take": PAGE}, conditions)[0]

    def _changed_orders(self, since: datetime, start: int) -> tuple[list[Any], int | None]:
        """Orders that anything happened to since, found by looking at the times of all that are still watched."""
        watched = {
            "_or": [{"updatedAt": {"after": _text(since)}}, {"orderPlacedAt": {"after": _text(since - WATCHED)}}]
        }
        place: int | None = start
        while place is not None:
            options = {"skip": place, "take": TIMES_PAGE, "sort": {"id": "ASC"}}
            times, total = self._entries(queries.ORDER_TIMES, "orders", options, [watched])
            place = place + TIMES_PAGE if place + TIMES_PAGE < total else None
            changed = [one["id"] for one in times if _happened(one, since)]
            if changed:
                return list(self.by_ids(SourceKind.ORDERS, changed)), place
        return [], None

    def _entries(
        self, query: str, name: str, options: Mapping[str, Any], conditions: Sequence[Any]
    ) -> tuple[list[Any], int]:
        """A page of a list; a basket that was never ordered is no order."""
        every = [*conditions, *([_NOT_OPEN] if name == "orders" else [])]
        narrowed = {"filter": {"_and": every}} if every else {}
        answer = self._graphql.read(query, options={**options, **narrowed}).get(name)
        if not isinstance(answer, Mapping) or not isinstance(answer.get("items"), list):
            raise Away(f"Vendure answered without a list of {name}")
        return answer["items"], int(answer.get("totalItems") or 0)


def fetched(kind: SourceKind, said: Any, read: Orders) -> list[Fetched]:
    """What an entry holds; where it cannot be understood, that comes back with what is wrong with it."""
    if not isinstance(said, Mapping):
        return [Fetched(id="", number="", changed_at=None, document=None, problem="an entry that is no JSON object")]
    try:
        return [_fetched(kind.shape.read(one)) for one in LISTINGS[kind].translate(said, read)]
    except (InkwellError, KeyError, TypeError, ValueError, AttributeError, StopIteration) as error:
        problem = str(error) if isinstance(error, DocumentInvalid) else f"Vendure's answer lacks or misstates {error}"
        identity = str(said.get("id", ""))
        number = str(said.get("code") or said.get("sku") or identity)
        # Refunds stand within their order.
        parent = identity if kind is SourceKind.REFUNDS else ""
        return [Fetched(id=identity, number=number, changed_at=None, document=None, problem=problem, parent_id=parent)]


def _fetched(document: Any) -> Fetched:
    return Fetched(id=document.id, number=document.number, changed_at=document.changed_at, document=document)


def _happened(times: Json, since: datetime) -> bool:
    entries = times["history"]["items"]
    moments = [moment(times["updatedAt"]), *(moment(entry["createdAt"]) for entry in entries)]
    return any(found is not None and found >= since for found in moments)


def _text(since: datetime) -> str:
    # Vendure's "after" leaves the moment itself out.
    return (since - timedelta(milliseconds=1)).isoformat()
