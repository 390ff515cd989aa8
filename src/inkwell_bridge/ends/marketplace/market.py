"""Calls to a marketplace. It takes only so many a second from each seller, so nothing here is called side by side."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from urllib.parse import quote

from inkwell_bridge.core.commerce import SalesCapabilities, SalesMasterData, SourceKind, WriteBackKind
from inkwell_bridge.ends.entries import Translate, fetched
from inkwell_bridge.ends.errors import Away, NotOffered, TooLarge
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.marketplace import sales, settlements
from inkwell_bridge.ends.marketplace.calls import event_of
from inkwell_bridge.ends.marketplace.mapping import Json
from inkwell_bridge.ends.marketplace.settlements import Report
from inkwell_bridge.ends.oauth import OAuth
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.pace import Rate
from inkwell_bridge.ends.period_pages import period_page
from inkwell_bridge.ends.reading import read_source_json
from inkwell_bridge.ends.shapes import (
    AddDispatch,
    AddNote,
    Check,
    Event,
    Fetched,
    Page,
    PeriodPage,
    SignedCall,
    WriteBack,
)

NAME = "the marketplace"
# It publishes 20 calls a second; what is on its way may arrive bunched, so a little is left unused.
RATE = Rate(calls=18, seconds=1.0, burst=6)
PAGE_SIZE = 50
DAYS_PAGE_SIZE = 100
MOST_KEYS = 50
SCOPES = ("sales", "handbacks", "sales.write")
# Each right that the work needs, and the scope that gives it.
NEEDED = {"read sales": "sales", "read money handed back": "handbacks", "tell of parcels": "sales.write"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Listing:
    """One list of the marketplace: where it is, what names an entry there and what it belongs to, how an entry is
    translated."""

    path: str
    number: str
    translate: Translate
    parent: str = ""


LISTINGS = {
    SourceKind.ORDERS: Listing(path="sales", number="sale", translate=sales.order),
    SourceKind.REFUNDS: Listing(path="handbacks", number="handback", translate=sales.refund, parent="sale_key"),
    SourceKind.DISPATCHES: Listing(path="parcels", number="parcel", translate=sales.dispatch),
    SourceKind.PAYOUTS: Listing(path="settlements", number="settlement", translate=settlements.settlement),
}
CAPABILITIES = SalesCapabilities(
    lists=tuple(LISTINGS),
    by_number=tuple(LISTINGS),
    writes_back=(WriteBackKind.NOTE, WriteBackKind.DISPATCH),
    signed_calls=True,
    lists_periods=(SourceKind.ORDERS, SourceKind.REFUNDS),
)


def consent(opening: Opening) -> OAuth:
    """The marketplace's consent page."""
    return OAuth(opening, Http(opening), page="/oauth/page", tokens="/oauth/token", scopes=SCOPES)


class Marketplace:
    """A connected marketplace."""

    capabilities = CAPABILITIES

    def __init__(self, opening: Opening) -> None:
        self._address = opening.address
        self._oauth = consent(opening)

    def check(self) -> Check:
        """See ``SalesEnd.check``."""
        said = self._get("/stand")
        if isinstance(said, Mapping):
            scopes = said.get("scopes", ())
            said = {**said, "permissions": [right for right, scope in NEEDED.items() if scope in scopes]}
        return Check.of(
            said,
            needed=tuple(NEEDED),
            remedy="Sign in through the consent page again and leave this ticked; or, where the application signs in "
            "by itself, tick it on the application's page of the marketplace.",
        )

    def master_data(self) -> SalesMasterData:
        """See ``SalesEnd.master_data``."""
        said = self._get("/stand/words")
        try:
            return SalesMasterData.read(_reference(said))
        except (KeyError, TypeError, AttributeError) as error:
            raise Away(f"the marketplace's list of names lacks or misstates {error}") from error

    def documents(self, kind: SourceKind, *, changed_since: datetime | None, page: str | None = None) -> Page:
        """See ``SalesEnd.documents``; ``page`` is where the marketplace said that it goes on."""
        query: dict[str, str | int] = {"limit": PAGE_SIZE}
        if page is not None:
            query["from"] = page
        elif changed_since is not None:
            query["moved_since"] = changed_since.isoformat()
        body, entries = self._listed(kind, query)
        onward, total = body.get("onward"), body.get("total")
        if onward is not None and not isinstance(onward, str):
            raise Away(f"{self._address} led on to something that is no place in its list")
        return Page(documents=entries, next=onward, total=total if isinstance(total, int) else None)

    def of_period(self, kind: SourceKind, first: datetime, before: datetime, *, page: str | None = None) -> PeriodPage:
        """See ``ListsPeriods.of_period``; it counts nothing itself."""
        if kind not in CAPABILITIES.lists_periods:
            raise NotOffered(NAME, f"list of {kind} by day")
        query = {"agreed_from": first.isoformat(), "agreed_before": before.isoformat(), "from": page or 0,
                 "limit": DAYS_PAGE_SIZE}  # fmt: skip
        answer = self._get(f"/by-day/{_listing(kind).path}", params=query)
        return period_page(answer, sales.in_a_line, lambda _: None, end=NAME)

    def document(self, kind: SourceKind, number: str) -> Fetched:
        """See ``SalesEnd.document``."""
        return self._read(kind, self._get(f"/{_listing(kind).path}/{quote(number, safe='')}"), {})

    def fetch_by_ids(self, kind: SourceKind, ids: Sequence[str]) -> tuple[Fetched, ...]:
        """See ``SalesEnd.fetch_by_ids``."""
        found: list[Fetched] = []
        for start in range(0, len(ids), MOST_KEYS):
            keys = ",".join(ids[start : start + MOST_KEYS])
            found += self._listed(kind, {"keys": keys, "limit": MOST_KEYS})[1]
        return tuple(found)

    def write_back(self, what: WriteBack) -> None:
        """See ``SalesEnd.write_back``. Each call leaves the marketplace the same, however often it is made."""
        match what:
            case AddNote():
                self._put(f"/sales/keys/{quote(what.id, safe='')}/seller-notes", {"text": what.text})
            case AddDispatch():
                self._put(f"/sales/keys/{quote(what.id, safe='')}/parcels", _parcel(what))
            case _:
                raise NotOffered(NAME, _UNKNOWN[type(what).__name__])

    def parse_webhook(self, call: SignedCall, secrets: Sequence[str] = ()) -> Event:
        """See ``SalesEnd.parse_webhook``."""
        return event_of(call, secrets=secrets, end=NAME)

    def _get(self, path: str, **request: Any) -> Any:
        body, _ = self._oauth.call("GET", f"/v1{path}", changes=False, reads=read_source_json, **request)
        return body

    def _put(self, path: str, body: dict[str, Any]) -> None:
        self._oauth.call("PUT", f"/v1{path}", changes=True, json=body)

    def _listed(self, kind: SourceKind, query: dict[str, str | int]) -> tuple[Json, tuple[Fetched, ...]]:
        path = _listing(kind).path
        body = self._get(f"/{path}", params=query)
        if not isinstance(body, Mapping) or not isinstance(body.get(path), list):
            raise Away(f"{self._address} answered without a list of {path}")
        # One report may have the rows of several settlements.
        reports: dict[str, Report] = {}
        return body, tuple(self._read(kind, said, reports) for said in body[path])

    def _read(self, kind: SourceKind, said: Any, reports: dict[str, Report]) -> Fetched:
        listing = _listing(kind)
        if kind is SourceKind.PAYOUTS and isinstance(said, Mapping) and isinstance(said.get("report"), str):
            said = {**said, "rows": self._report(said["report"], reports)}
        if kind is SourceKind.ORDERS and isinstance(said, Mapping) and listing.number in said:
            said = {**said, "items": self._items(str(said[listing.number]))}
        return fetched(kind, said, listing.translate, id_field="key", number_field=listing.number, end=NAME,
                       parent_field=listing.parent)  # fmt: skip

    def _report(self, name: str, reports: dict[str, Report]) -> Report:
        """A report, fetched once for all settlements of a page; one that is too large says so with each of them."""
        if name not in reports:
            try:
                reports[name], _ = self._oauth.call(
                    "GET", f"/v1/reports/{quote(name, safe='')}", changes=False, reads=settlements.read_report,
                    kind="tab-separated-values",
                )  # fmt: skip
            except TooLarge as error:
                reports[name] = Report(rows={}, problem=str(error))
        return reports[name]

    def _items(self, sale: str) -> list[Any]:
        """The items of a sale, page by page."""
        found: list[Any] = []
        onward: Any = 0
        while onward is not None:
            body = self._get(f"/sales/{quote(sale, safe='')}/items", params={"from": onward})
            if not isinstance(body, Mapping) or not isinstance(body.get("items"), list):
                raise Away(f"{self._address} answered without the items of {sale}")
            found += body["items"]
            onward = body.get("onward") if body["items"] else None
        return found


_UNKNOWN = {"AddTag": "tags", "SetStock": "stock"}


def _listing(kind: SourceKind) -> Listing:
    if kind not in LISTINGS:
        raise NotOffered(NAME, f"list of {kind}")
    return LISTINGS[kind]


def _parcel(what: AddDispatch) -> dict[str, Any]:
    """A parcel as the marketplace takes it; its number makes it one, however often it is told."""
    parcel = what.dispatch
    return {
        "parcel": parcel.number,
        "on": parcel.dispatched_at.isoformat(),
        "carrier": parcel.carrier,
        "tracking": parcel.tracking_number,
        "items": [{"pos": line.line, "code": line.sku, "how_many": f"{line.quantity:f}"} for line in parcel.lines],
    }


def _reference(said: Json) -> dict[str, Any]:
    return {
        "seller": said["name"],
        "currency": said["currency"],
        "tax_classes": [
            {
                "name": group["tax_group"],
                "rates": [
                    {
                        "name": rate["name"],
                        "country": rate.get("land", ""),
                        "region": rate.get("place", ""),
                        "rate_percent": f"{rate['percent']}",
                    }
                    for rate in group["rates"]
                ],
            }
            for group in said["tax_groups"]
        ],
        "payment_methods": ["Lanternfair"],
        "shipping_methods": said["postage"],
        "order_statuses": said["progress"],
        "languages": said["languages"],
        "attributes": ["fair"],
    }
