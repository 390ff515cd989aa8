"""Calls to a payment provider. A list has payouts without their entries, which are fetched by pages of their own."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any
from urllib.parse import quote

from inkwell_bridge.core.commerce import SalesCapabilities, SalesMasterData, SourceKind
from inkwell_bridge.ends.entries import fetched
from inkwell_bridge.ends.errors import Away, Misstated, NotOffered, TooLarge
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.payment_provider.payouts import payout_of
from inkwell_bridge.ends.reading import read_source_json
from inkwell_bridge.ends.shapes import Check, Event, Fetched, Page, SignedCall, WriteBack
from inkwell_bridge.ends.too_large import told_of

NAME = "the payment provider"
NUMBER = "payout"
NEEDED = ("payouts",)
CAPABILITIES = SalesCapabilities(lists=(SourceKind.PAYOUTS,), by_number=(SourceKind.PAYOUTS,))
# A payout of more entries than this is no day's takings, whoever the merchant is.
MOST_ENTRIES = 100_000
MOST_NUMBERS = 50


class PaymentProvider:
    """A connected payment provider."""

    capabilities = CAPABILITIES

    def __init__(self, opening: Opening) -> None:
        self._http = Http(opening)
        self._headers = {"Authorization": f"Bearer {opening.credentials['token']}"}

    def check(self) -> Check:
        """See ``SalesEnd.check``."""
        return Check.of(self._get("/merchant"), needed=NEEDED, remedy="At the provider, give this right to the token.")

    def master_data(self) -> SalesMasterData:
        """See ``SalesEnd.master_data``; a provider has nothing that rules name but its name and currency."""
        said = self._get("/merchant")
        try:
            return SalesMasterData(seller=said["name"], currency=said["currency"])
        except (KeyError, TypeError) as error:
            raise Misstated(f"{NAME} lacks or misstates {error}") from error

    def documents(self, kind: SourceKind, *, changed_since: datetime | None, page: str | None = None) -> Page:
        """See ``SalesEnd.documents``; ``page`` is the provider's cursor."""
        query: dict[str, str] = {}
        if page is not None:
            query["cursor"] = page
        elif changed_since is not None:
            query["altered_since"] = changed_since.isoformat()
        found, cursor = self._listed(kind, query)
        return Page(documents=found, next=cursor)

    def document(self, kind: SourceKind, number: str) -> Fetched:
        """See ``SalesEnd.document``."""
        _offered(kind)
        return self._whole(self._get(f"/payouts/{quote(number, safe='')}"))

    def fetch_by_ids(self, kind: SourceKind, ids: Sequence[str]) -> tuple[Fetched, ...]:
        """See ``SalesEnd.fetch_by_ids``."""
        found: list[Fetched] = []
        for start in range(0, len(ids), MOST_NUMBERS):
            found += self._listed(kind, {"numbers": ",".join(ids[start : start + MOST_NUMBERS])})[0]
        return tuple(found)

    def write_back(self, what: WriteBack) -> None:
        """See ``SalesEnd.write_back``: a provider takes nothing."""
        raise NotOffered(NAME, type(what).__name__)

    def parse_webhook(self, call: SignedCall, secrets: Sequence[str] = ()) -> Event:
        """See ``SalesEnd.parse_webhook``: it does not call yet."""
        raise NotOffered(NAME, "signed calls")

    def _listed(self, kind: SourceKind, query: dict[str, str]) -> tuple[tuple[Fetched, ...], str | None]:
        _offered(kind)
        body = self._get("/payouts", params=query)
        if not isinstance(body, Mapping) or not isinstance(body.get("payouts"), list):
            raise Away(f"{NAME} answered without a list of payouts")
        cursor = body.get("cursor")
        if cursor is not None and not isinstance(cursor, str):
            raise Misstated(f"{NAME} led on to something that is no place in its list")
        return tuple(self._whole(said) for said in body["payouts"]), cursor

    def _whole(self, said: Any) -> Fetched:
        """A payout with its entries; one whose entries cannot be read stops no other."""
        if isinstance(said, Mapping) and isinstance(said.get("payout"), str):
            try:
                said = {**said, "entries": self._entries(said["payout"])}
            except TooLarge as error:
                return told_of(error, id_field=NUMBER, number_field=NUMBER, depth=1, known_id=said["payout"])
        return fetched(SourceKind.PAYOUTS, said, payout_of, id_field=NUMBER, number_field=NUMBER, end=NAME)

    def _entries(self, payout: str) -> list[Any] | None:
        """The entries of a payout, page by page; nothing where the provider answers with something else."""
        found: list[Any] = []
        cursor: Any = "0"
        while cursor is not None:
            body = self._get(f"/payouts/{quote(payout, safe='')}/entries", params={"cursor": cursor})
            if not isinstance(body, Mapping) or not isinstance(body.get("entries"), list):
                return None
            found += body["entries"]
            if len(found) > MOST_ENTRIES:
                return None
            # A page without entries leads nowhere, whatever it says.
            cursor = body.get("cursor") if body["entries"] else None
        return found

    def _get(self, path: str, **request: Any) -> Any:
        body, _ = self._http.call("GET", path, changes=False, headers=self._headers, reads=read_source_json, **request)
        return body


def _offered(kind: SourceKind) -> None:
    if kind is not SourceKind.PAYOUTS:
        raise NotOffered(NAME, f"list of {kind}")
