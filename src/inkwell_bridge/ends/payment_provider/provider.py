"""Calls to a payment provider: payouts, whose entries are fetched by pages of their own, charges, and requests for
payment."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, datetime
from typing import Any
from urllib.parse import quote

from inkwell_bridge.core.books import PaymentRequest
from inkwell_bridge.core.commerce import PayoutEntry, SalesCapabilities, SalesMasterData, SourceKind
from inkwell_bridge.core.errors import DocumentInvalid, InkwellError
from inkwell_bridge.ends.at_once import at_once
from inkwell_bridge.ends.entries import fetched
from inkwell_bridge.ends.errors import Away, Misstated, NotOffered, OutcomeUnknown, TooLarge
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.minor_units import Minor
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.payment_provider.charges import charge_of
from inkwell_bridge.ends.payment_provider.payouts import entry_of, payout_of
from inkwell_bridge.ends.payment_provider.requests import asked, changed, payment_of, standing
from inkwell_bridge.ends.reading import read_source_json
from inkwell_bridge.ends.shapes import (
    Check,
    Event,
    Fetched,
    NotPaidOutPage,
    Page,
    SignedCall,
    StandingRequest,
    WriteBack,
)
from inkwell_bridge.ends.signed_calls import event_of
from inkwell_bridge.ends.too_large import told_of

NAME = "the payment provider"
NEEDED = ("payouts", "requests")
# What it calls a list of each kind, and one entry of it.
_LISTS = {
    SourceKind.PAYOUTS: ("payouts", "payout"),
    SourceKind.REQUEST_PAYMENTS: ("takings", "taking"),
    SourceKind.CHARGES: ("charges", "charge"),
}
CAPABILITIES = SalesCapabilities(
    lists=tuple(_LISTS),
    by_number=tuple(_LISTS),
    signed_calls=True,
    registers_calls=True,
    takes_requests=True,
    tells_not_paid_out=True,
)
# A payout of more entries than this is no day's takings, whoever the merchant is.
MOST_ENTRIES = 100_000
MOST_NUMBERS = 50


class PaymentProvider:
    """A connected payment provider."""

    capabilities = CAPABILITIES

    def __init__(self, opening: Opening) -> None:
        self._http = Http(opening)
        self._address = opening.address
        self._headers = {"Authorization": f"Bearer {opening.credentials['token']}"}
        self._signing_secret = opening.credentials.get("signing_secret", "")

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
        listed, _ = _offered(kind)
        return self._whole(kind, self._get(f"/{listed}/{quote(number, safe='')}"))

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
        """See ``SalesEnd.parse_webhook``."""
        return event_of(call, secrets=[*secrets, self._signing_secret], end=NAME)

    def calls_go_to(self) -> str:
        """See ``RegistersCalls.calls_go_to``."""
        said = self._get("/calls")
        address = said.get("address") if isinstance(said, dict) else None
        return address if isinstance(address, str) else ""

    def register_calls(self, address: str, secret: str) -> None:
        """See ``RegistersCalls.register_calls``."""
        self._change("PUT", "/calls", json={"address": address, "secret": secret})

    def end_calls(self) -> None:
        """See ``RegistersCalls.end_calls``."""
        self.register_calls("", "")

    def not_paid_out(self, day: date, *, page: str | None = None) -> NotPaidOutPage:
        """See ``TellsNotPaidOut.not_paid_out``."""
        body = self._get("/unpaid", params={"day": day.isoformat(), "cursor": page or "0"})
        try:
            minor = Minor(body["money"])
            entries = tuple(PayoutEntry.read(entry_of(said, minor)) for said in body["entries"])
        except (DocumentInvalid, InkwellError, LookupError, TypeError, ValueError, AttributeError) as error:
            raise Misstated(f"{NAME}'s list of what it has not paid out lacks or misstates {error}") from error
        return NotPaidOutPage(currency=body["money"], entries=entries, next=_onward(body))

    def find_request(self, external_reference: str) -> StandingRequest | None:
        """See ``TakesRequests.find_request``."""
        body = self._get("/requests", params={"ref": external_reference})
        if not isinstance(body, Mapping) or not isinstance(body.get("requests"), list):
            raise Misstated(f"{NAME} answered without a list of requests")
        found = [standing(said, self._address) for said in body["requests"]]
        return next((one for one in found if one.request.external_reference == external_reference), None)

    def make_request(self, request: PaymentRequest, *, key: str) -> StandingRequest:
        """See ``TakesRequests.make_request``."""
        headers = {"Idempotency-Key": key}
        return self._standing("POST", "/requests", json=asked(request), headers=headers)

    def set_request(self, request_id: str, request: PaymentRequest) -> StandingRequest:
        """See ``TakesRequests.set_request``."""
        return self._standing("PUT", f"/requests/{quote(request_id, safe='')}", json=changed(request))

    def fresh_page(self, request_id: str) -> StandingRequest:
        """See ``TakesRequests.fresh_page``."""
        return self._standing("POST", f"/requests/{quote(request_id, safe='')}/pages")

    def _standing(self, method: str, path: str, **request: Any) -> StandingRequest:
        try:
            return standing(self._change(method, path, **request), self._address)
        except Misstated as error:
            raise OutcomeUnknown(str(error)) from error

    def _listed(self, kind: SourceKind, query: dict[str, str]) -> tuple[tuple[Fetched, ...], str | None]:
        listed, _ = _offered(kind)
        body = self._get(f"/{listed}", params=query)
        if not isinstance(body, Mapping) or not isinstance(body.get(listed), list):
            raise Away(f"{NAME} answered without a list of {listed}")
        cursor = _onward(body)
        # The entries of each payout are calls of their own: those of a page at the same time.
        return at_once(lambda said: self._whole(kind, said), body[listed]), cursor

    def _whole(self, kind: SourceKind, said: Any) -> Fetched:
        """An entry of a list, a payout with all of its own; one whose entries cannot be read stops no other."""
        _, number = _offered(kind)
        if kind is SourceKind.REQUEST_PAYMENTS:
            return fetched(kind, said, payment_of, id_field=number, number_field=number, end=NAME,
                           parent_field="bill_id")  # fmt: skip
        if kind is SourceKind.CHARGES:
            return fetched(kind, said, charge_of, id_field=number, number_field=number, end=NAME)
        if isinstance(said, Mapping) and isinstance(said.get("payout"), str):
            try:
                said = {**said, "entries": self._entries(said["payout"])}
            except TooLarge as error:
                return told_of(error, id_field=number, number_field=number, depth=1, known_id=said["payout"])
        return fetched(kind, said, payout_of, id_field=number, number_field=number, end=NAME)

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

    def _change(self, method: str, path: str, *, headers: Mapping[str, str] | None = None, **request: Any) -> Any:
        signed = {**self._headers, **(headers or {})}
        body, _ = self._http.call(method, path, changes=True, headers=signed, **request)
        return body


def _onward(body: Mapping[str, Any]) -> str | None:
    """Where a list goes on."""
    cursor = body.get("cursor")
    if cursor is not None and not isinstance(cursor, str):
        raise Misstated(f"{NAME} led on to something that is no place in its list")
    return cursor


def _offered(kind: SourceKind) -> tuple[str, str]:
    """What it calls a list of that kind, and one entry of it."""
    if kind not in _LISTS:
        raise NotOffered(NAME, f"list of {kind}")
    return _LISTS[kind]
