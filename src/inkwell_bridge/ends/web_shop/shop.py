"""Calls to a web shop."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any
from urllib.parse import quote, urljoin

import httpx

from inkwell_bridge.core.commerce import SalesCapabilities, SalesMasterData, SourceKind, WriteBackKind
from inkwell_bridge.ends.errors import Away, NotOffered, TooLarge
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.period_pages import period_page
from inkwell_bridge.ends.reading import read_source_json
from inkwell_bridge.ends.shapes import (
    AddDispatch,
    AddNote,
    AddPayment,
    AddTag,
    Check,
    Event,
    Fetched,
    Page,
    PeriodPage,
    SetStock,
    SignedCall,
    WriteBack,
)
from inkwell_bridge.ends.signed_calls import event_of
from inkwell_bridge.ends.too_large import by_halves
from inkwell_bridge.ends.web_shop.fetching import LISTINGS, counted, fetched, in_a_line, too_large
from inkwell_bridge.ends.web_shop.writing import dispatch_written, payment_written, reference_read, stock_written

NAME = "the web shop"
PAGE_SIZE = 25
# Of what is not kept page by page with all that hangs on it, more goes on a page.
LONG_PAGE_SIZE = 250
_LONG = (SourceKind.CUSTOMERS, SourceKind.PRODUCTS)
MOST_IDS = 50
# A page that is too large is asked for again with so many times fewer on it.
SHORTER = 5
# On a page a document stands in a list, and that in an object.
LISTED_DEPTH = 3
NEEDED = ("read orders", "read customers", "read products", "write orders", "write stock")
CAPABILITIES = SalesCapabilities(
    lists=tuple(LISTINGS),
    by_number=tuple(LISTINGS),
    writes_back=tuple(WriteBackKind),
    signed_calls=True,
    registers_calls=True,
    lists_periods=(SourceKind.ORDERS, SourceKind.REFUNDS),
)


class WebShop:
    """A connected web shop."""

    capabilities = CAPABILITIES

    def __init__(self, opening: Opening) -> None:
        self._http = Http(opening)
        self._auth = httpx.BasicAuth(opening.credentials["key"], opening.credentials["secret"])
        self._signing_secret = opening.credentials.get("signing_secret", "")

    def check(self) -> Check:
        """See ``SalesEnd.check``."""
        shop, _ = self._get("/shop")
        return Check.of(shop, needed=NEEDED, remedy="In the shop's administration, open the key and tick this right.")

    def master_data(self) -> SalesMasterData:
        """See ``SalesEnd.master_data``."""
        said, _ = self._get("/reference")
        return reference_read(said)

    def documents(self, kind: SourceKind, *, changed_since: datetime | None, page: str | None = None) -> Page:
        """See ``SalesEnd.documents``."""
        # Orders come with all their lines and their history, so fewer go on a page.
        limit = LONG_PAGE_SIZE if kind in _LONG else PAGE_SIZE
        query: dict[str, str | int] = {"limit": limit}
        if changed_since is not None:
            query["changed_since"] = changed_since.isoformat()
        first = str(httpx.URL(f"{self._http.address}/{_path(kind)}", params=query))
        return self._page(kind, page or first, limit=limit, whole=limit)

    def _page(self, kind: SourceKind, address: str, *, limit: int, whole: int) -> Page:
        """A page of so many; where it is too large a shorter one, down to the one document that is to blame."""
        try:
            body, response = self._get(address)
        except TooLarge as error:
            if limit > 1:
                shorter = max(1, limit // SHORTER)
                return self._page(kind, _limited(address, shorter), limit=shorter, whole=whole)
            documents: tuple[Fetched, ...] = (too_large(error, depth=LISTED_DEPTH),)
            onward, total = self._onward(httpx.URL(error.url), error.links.get("next", {}).get("url")), None
        else:
            documents, total = self._entries(kind, body), body.get("total")
            onward = self._onward(response.url, response.links.get("next", {}).get("url"))
        # What comes behind a long one is read by whole pages again.
        return Page(documents=documents, next=onward and _limited(onward, whole), total=total)

    def of_period(self, kind: SourceKind, first: datetime, before: datetime, *, page: str | None = None) -> PeriodPage:
        """See ``ListsPeriods.of_period``."""
        if kind not in CAPABILITIES.lists_periods:
            raise NotOffered(NAME, f"list of {kind} by day")
        query = {"from": first.isoformat(), "before": before.isoformat(), "after": page or 0, "limit": LONG_PAGE_SIZE}
        answer, _ = self._get(f"/placed/{_path(kind)}", params=query)
        return period_page(answer, in_a_line, counted, end=NAME)

    def document(self, kind: SourceKind, number: str) -> Fetched:
        """See ``SalesEnd.document``."""
        try:
            body, _ = self._get(f"/{_path(kind)}/{quote(number, safe='')}")
        except TooLarge as error:
            return too_large(error, depth=1)
        return fetched(kind, body)

    def fetch_by_ids(self, kind: SourceKind, ids: Sequence[str]) -> tuple[Fetched, ...]:
        """See ``SalesEnd.fetch_by_ids``."""

        def fetch(some: Sequence[str]) -> Sequence[Fetched]:
            body, _ = self._get(f"/{_path(kind)}", params={"ids": ",".join(some), "limit": MOST_IDS})
            return self._entries(kind, body)

        def tell(error: TooLarge, one: str) -> Fetched:
            return too_large(error, depth=LISTED_DEPTH, known_id=one)

        parts = (ids[start : start + MOST_IDS] for start in range(0, len(ids), MOST_IDS))
        return tuple(one for part in parts for one in by_halves(fetch, part, tell))

    def write_back(self, what: WriteBack) -> None:
        """See ``SalesEnd.write_back``. Each call leaves the shop the same, however often it is made."""
        match what:
            case AddTag():
                self._write("PUT", f"/orders/{quote(what.id, safe='')}/labels/{quote(what.tag, safe='')}")
            case AddNote():
                self._write("PUT", f"/orders/{quote(what.id, safe='')}/remarks", json={"text": what.text})
            case AddDispatch():
                body = dispatch_written(what.dispatch)
                self._write("PUT", f"/orders/{quote(what.id, safe='')}/dispatches", json=body)
            case AddPayment():
                body = payment_written(what.payment)
                self._write("PUT", f"/orders/{quote(what.id, safe='')}/money", json=body)
            case SetStock():
                self._write("PUT", "/stock", json={"levels": [stock_written(level) for level in what.levels]})

    def parse_webhook(self, call: SignedCall, secrets: Sequence[str] = ()) -> Event:
        """See ``SalesEnd.parse_webhook``."""
        return event_of(call, secrets=[*secrets, self._signing_secret], end=NAME)

    def calls_go_to(self) -> str:
        """See ``RegistersCalls.calls_go_to``."""
        said, _ = self._get("/call-address")
        address = said.get("address") if isinstance(said, dict) else None
        return address if isinstance(address, str) else ""

    def register_calls(self, address: str, secret: str) -> None:
        """See ``RegistersCalls.register_calls``."""
        self._write("PUT", "/call-address", json={"address": address, "secret": secret})

    def end_calls(self) -> None:
        """See ``RegistersCalls.end_calls``."""
        self._write("DELETE", "/call-address")

    def _get(self, path: str, **request: Any) -> tuple[Any, httpx.Response]:
        return self._http.call("GET", path, changes=False, reads=read_source_json, auth=self._auth, **request)

    def _write(self, method: str, path: str, **request: Any) -> None:
        self._http.call(method, path, changes=True, auth=self._auth, **request)

    def _entries(self, kind: SourceKind, body: Any) -> tuple[Fetched, ...]:
        name = LISTINGS[kind].path
        if not isinstance(body, dict) or not isinstance(body.get(name), list):
            raise Away(f"{self._http.address} answered without a list of {name}")
        return tuple(fetched(kind, entry) for entry in body[name])

    def _onward(self, url: httpx.URL, link: str | None) -> str | None:
        """The next page's address; a link that leads to another host would take our key there."""
        if link is None:
            return None
        onward = urljoin(str(url), link)
        if httpx.URL(onward).netloc != url.netloc:
            raise Away(f"{self._http.address} led on to another host")
        return onward


def _limited(address: str, limit: int) -> str:
    return str(httpx.URL(address).copy_set_param("limit", limit))


def _path(kind: SourceKind) -> str:
    if kind not in LISTINGS:
        raise NotOffered(NAME, f"list of {kind}")
    return LISTINGS[kind].path
