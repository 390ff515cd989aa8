"""Calls to a web shop."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from urllib.parse import urljoin

import httpx

from inkwell_bridge.ends.contract import Check, Fetched, Opening, Page
from inkwell_bridge.ends.errors import Away
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.web_shop.translate import fetched

PAGE_SIZE = 25
NEEDED = ("read orders",)


class WebShop:
    """A connected web shop."""

    def __init__(self, opening: Opening) -> None:
        self._http = Http(opening.address, opening.limits)
        self._auth = httpx.BasicAuth(opening.credentials["key"], opening.credentials["secret"])

    def check(self) -> Check:
        """See ``SalesEnd.check``."""
        shop, _ = self._get("/shop")
        return Check.of(shop, needed=NEEDED, remedy="In the shop's administration, open the key and tick this right.")

    def orders(self, *, changed_since: datetime | None, page: str | None = None) -> Page:
        """See ``SalesEnd.orders``."""
        query: dict[str, str | int] = {"limit": PAGE_SIZE}
        if changed_since is not None:
            query["changed_since"] = changed_since.isoformat()
        body, response = self._get(page) if page else self._get("/orders", params=query)
        onward = response.links.get("next", {}).get("url")
        if not isinstance(body, dict) or not isinstance(body.get("orders"), list):
            raise Away(f"{self._http.address} answered without a list of orders")
        return Page(documents=tuple(fetched(order) for order in body["orders"]), next=self._onward(response, onward))

    def order(self, number: str) -> Fetched:
        """See ``SalesEnd.order``."""
        body, _ = self._get(f"/orders/{number}")
        return fetched(body)

    def _get(self, path: str, **request: Any) -> tuple[Any, httpx.Response]:
        return self._http.call("GET", path, changes=False, auth=self._auth, **request)

    def _onward(self, response: httpx.Response, link: str | None) -> str | None:
        """The next page's address; a link that leads to another host would take our key there."""
        if link is None:
            return None
        onward = urljoin(str(response.url), link)
        if httpx.URL(onward).netloc != response.url.netloc:
            raise Away(f"{self._http.address} led on to another host")
        return onward
