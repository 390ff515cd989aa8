"""Calls to a web shop."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any
from urllib.parse import quote, urljoin

import httpx

from inkwell_bridge.core.commerce import SalesCapabilities, SalesMasterData, SourceKind, WriteBackKind
from inkwell_bridge.ends.errors import Away, NotOffered
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.shapes import (
    AddDispatch,
    AddNote,
    AddTag,
    Check,
    Event,
    Fetched,
    Page,
    SetStock,
    SignedCall,
    WriteBack,
)
from inkwell_bridge.ends.signed_calls import event_of
from inkwell_bridge.ends.web_shop.fetching import LISTINGS, fetched
from inkwell_bridge.ends.web_shop.writing import dispatch_written, reference_read, stock_written

NAME = "the web shop"
PAGE_SIZE = 25
# Of what is not kept page by page with all that hangs on it, more goes on a page.
LONG_PAGE_SIZE = 250
_LONG = (SourceKind.CUSTOMERS, SourceKind.PRODUCTS)
MOST_IDS = 50
NEEDED = ("read orders", "read customers", "read products", "write orders", "write stock")
CAPABILITIES = SalesCapabilities(
    lists=tuple(LISTINGS),
    by_number=tuple(LISTINGS),
    writes_back=tuple(WriteBackKind),
    signed_calls=True,
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
        query: dict[str, str | int] = {"limit": LONG_PAGE_SIZE if kind in _LONG else PAGE_SIZE}
        if changed_since is not None:
            query["changed_since"] = changed_since.isoformat()
        path = _path(kind)
        body, response = self._get(page) if page else self._get(f"/{path}", params=query)
        onward = response.links.get("next", {}).get("url")
        entries = self._entries(kind, body)
        return Page(documents=entries, next=self._onward(response, onward), total=body.get("total"))

    def document(self, kind: SourceKind, number: str) -> Fetched:
        """See ``SalesEnd.document``."""
        body, _ = self._get(f"/{_path(kind)}/{quote(number, safe='')}")
        return fetched(kind, body)

    def fetch_by_ids(self, kind: SourceKind, ids: Sequence[str]) -> tuple[Fetched, ...]:
        """See ``SalesEnd.fetch_by_ids``."""
        found: list[Fetched] = []
        for start in range(0, len(ids), MOST_IDS):
            query = {"ids": ",".join(ids[start : start + MOST_IDS]), "limit": MOST_IDS}
            body, _ = self._get(f"/{_path(kind)}", params=query)
            found += self._entries(kind, body)
        return tuple(found)

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
            case SetStock():
                self._write("PUT", "/stock", json={"levels": [stock_written(level) for level in what.levels]})

    def parse_webhook(self, call: SignedCall) -> Event:
        """See ``SalesEnd.parse_webhook``."""
        return event_of(call, secret=self._signing_secret, end=NAME)

    def _get(self, path: str, **request: Any) -> tuple[Any, httpx.Response]:
        return self._http.call("GET", path, changes=False, auth=self._auth, **request)

    def _write(self, method: str, path: str, **request: Any) -> None:
        self._http.call(method, path, changes=True, auth=self._auth, **request)

    def _entries(self, kind: SourceKind, body: Any) -> tuple[Fetched, ...]:
        name = LISTINGS[kind].path
        if not isinstance(body, dict) or not isinstance(body.get(name), list):
            raise Away(f"{self._http.address} answered without a list of {name}")
        return tuple(fetched(kind, entry) for entry in body[name])

    def _onward(self, response: httpx.Response, link: str | None) -> str | None:
        """The next page's address; a link that leads to another host would take our key there."""
        if link is None:
            return None
        onward = urljoin(str(response.url), link)
        if httpx.URL(onward).netloc != response.url.netloc:
            raise Away(f"{self._http.address} led on to another host")
        return onward


def _path(kind: SourceKind) -> str:
    if kind not in LISTINGS:
        raise NotOffered(NAME, f"list of {kind}")
    return LISTINGS[kind].path
