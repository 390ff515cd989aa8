"""What the ledger's released documents put on an account of money, and what that comes to.

Invoices and credit notes stand on income and tax alone, so only payments, write-offs and journals are looked through.
"""

from __future__ import annotations

from collections.abc import Iterator
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

from starlette.requests import Request
from starlette.responses import JSONResponse, Response

from inkwell_bridge.standins.doors import Turned
from inkwell_bridge.standins.ledger.documents import LARGEST_PAGE
from inkwell_bridge.standins.store import Store

Json = dict[str, Any]
ZERO, CENT = Decimal(0), Decimal("0.01")
_SIGNS = {"payments-in": 1, "payments-out": -1, "write-offs": 1, "journals": 1}
# The types of accounts whose entries it tells.
MONEY = ("bank", "asset", "liability")


class Entries:
    """The ledger, seen by account; debits are positive, amounts in the company's own currency."""

    def __init__(self, store: Store) -> None:
        self.store = store

    def balance(self, request: Request, world: str, _: bytes) -> Response:
        """What an account comes to at the end of a day."""
        found = self._entries(request, world, "", request.query_params["day"])
        return JSONResponse({"balance": str(sum((Decimal(one["own"]) for one in found), ZERO))})

    def entries(self, request: Request, world: str, _: bytes) -> Response:
        """The entries of an account from day to day, a page at a time, in the order of their days."""
        given = request.query_params
        found = self._entries(request, world, given["first"], given["last"])
        begins = int(given.get("after") or 0)
        ends = begins + min(int(given["limit"]), LARGEST_PAGE)
        return JSONResponse({"entries": found[begins:ends], "onward": ends if ends < len(found) else None})

    def _entries(self, request: Request, world: str, first: str, last: str) -> list[Json]:
        code = request.path_params["code"]
        account = next(iter(self.store.search(world, "account", code)), None)
        if account is None:
            raise Turned(404, f"no account {code}")
        if account["type"] not in MONEY:
            raise Turned(422, f"account {code} is {account['type']}: entries are told of {', '.join(MONEY)} alone")
        found = [
            {"id": one["id"], "list": kind, "number": one["number"], "day": one["day"], "reference": one["reference"],
             "text": one["said"].get("text") or "", "own": str(own)}
            for kind in _SIGNS
            for one in self.store.all(world, kind)
            if one["state"] == "released" and first <= one["day"] <= last
            and (own := sum((amount for on, amount in self._rows(world, kind, one["said"]) if on == code), ZERO))
        ]  # fmt: skip
        return sorted(found, key=lambda one: (one["day"], one["list"], one["id"]))

    def _rows(self, world: str, kind: str, said: Json) -> Iterator[tuple[str, Decimal]]:
        if kind == "journals":
            yield from ((row["account"], Decimal(row["own"])) for row in said["rows"])
            return
        sign = -1 if said.get("debtor") == "company" else _SIGNS[kind]
        yield said["account"], sign * self._own(world, said)
        if said.get("exchange"):
            yield said["exchange"]["account"], -Decimal(said["exchange"]["own"])

    def _own(self, world: str, said: Json) -> Decimal:
        if said.get("own"):
            return Decimal(said["own"])
        amount, currency = Decimal(said["sum"]), (self.store.get(world, "company", 1) or {}).get("currency")
        if said["currency"] == currency or not said.get("rate"):
            return amount
        return (amount * Decimal(said["rate"])).quantize(CENT, ROUND_HALF_UP)
