"""The provider's charges: taken from buyers, reserved first and captured after, or given back; each under a number.

What stands in a payout, or waits for one, was taken and is listed with the rest; what was loaded as a charge of its own
may come as far as a reservation, be captured for less, or be let go.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from starlette.requests import Request
from starlette.responses import JSONResponse, Response

from inkwell_bridge.standins.doors import Turned
from inkwell_bridge.standins.hooks import Hooks
from inkwell_bridge.standins.store import Store

Json = dict[str, Any]
CHARGES_PAGE = 50
STATES = ("reserved", "taken", "let go", "failed")
_MOVES = {"charge": "take", "payback": "give back"}


class Charges:
    """A merchant's charges."""

    def __init__(self, store: Store, hooks: Hooks) -> None:
        self._store, self._hooks = store, hooks

    def load(self, world: str, contents: Json) -> None:
        """Charges of their own; one of a number that is there takes its place, as a capture does."""
        for charge in contents.get("charges", []):
            if charge["state"] not in STATES:
                raise ValueError(f"expected one of {', '.join(STATES)}, got {charge['state']!r}")
            known = self._store.search(world, "charge", charge["charge"])
            number = known[0]["id"] if known else self._store.highest(world, "charge") + 1
            kept = {**charge, "id": number}
            self._store.put(world, "charge", number, kept, find=charge["charge"], sort=charge["altered"])
            self._hooks.tell(world, "charge", kept)

    def listed(self, request: Request, world: str, body: bytes) -> Response:
        """Those altered at or after a moment, oldest first; or some by their numbers."""
        given = request.query_params
        every = sorted(self._every(world), key=lambda one: (one["altered"], one["charge"]))
        if "numbers" in given:
            wanted = set(given["numbers"].split(",")[:CHARGES_PAGE])
            return JSONResponse({"charges": [one for one in every if one["charge"] in wanted], "cursor": None})
        moment, _, number = given.get("cursor", "").rpartition("|")
        after = (moment, number) if moment else (given.get("altered_since") or "0", "")
        found = [one for one in every if (one["altered"], one["charge"]) > after]
        last = found[CHARGES_PAGE - 1] if len(found) > CHARGES_PAGE else None
        cursor = f"{last['altered']}|{last['charge']}" if last else None
        return JSONResponse({"charges": found[:CHARGES_PAGE], "cursor": cursor})

    def read(self, request: Request, world: str, _: bytes) -> Response:
        """One of them."""
        number = request.path_params["charge"]
        found = next((one for one in self._every(world) if one["charge"] == number), None)
        if found is None:
            raise Turned(404, "no such charge")
        return JSONResponse(found)

    def _every(self, world: str) -> Iterator[Json]:
        own = {one["charge"]: one for one in self._store.all(world, "charge")}
        yield from own.values()
        money = (self._store.get(world, "company", 1) or {}).get("currency", "")
        payouts = self._store.all(world, "payout")
        of_payouts = [(entry, payout["money"]) for payout in payouts for entry in payout["entries"]]
        waiting = [(entry, money) for entry in self._store.all(world, "open entry")]
        for entry, currency in (*of_payouts, *waiting):
            if entry["does"] in _MOVES and entry.get("about") and entry["about"] not in own:
                own[entry["about"]] = entry
                yield _of_entry(entry, currency)


def _of_entry(entry: Json, money: str) -> Json:
    return {"charge": entry["about"], "does": _MOVES[entry["does"]], "state": "taken", "shop_ref": entry["shop_ref"],
            "minor": abs(entry["minor"]), "money": money, "how": "card", "when": entry["when"],
            "altered": entry["when"]}  # fmt: skip
