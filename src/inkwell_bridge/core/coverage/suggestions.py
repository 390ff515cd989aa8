"""For a value that no rule maps: what speaks for a code, and the key of the rulebook that would name it."""

from __future__ import annotations

from typing import NamedTuple

from rapidfuzz import fuzz

from inkwell_bridge.core.books import MasterData
from inkwell_bridge.core.commerce.master_data import Rate, TaxClass
from inkwell_bridge.core.comparing import plain
from inkwell_bridge.core.coverage.met import Aspect, MetValue, Standing
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.rulebook.proposing import account_of_method, account_of_role, code_of_class

_LEAST_ALIKE = 80
_TABLES = {
    Aspect.METHOD: "/payments/accounts/by_method",
    Aspect.TENDER: "/payments/accounts/by_tender",
    Aspect.GATEWAY: "/payments/accounts/by_gateway",
    Aspect.BRAND: "/payments/accounts/by_brand",
}


class Suggestion(NamedTuple):
    """A value for a key of the rulebook (a JSON Pointer), and what speaks for it."""

    at: str
    value: str
    why: str


def suggestion(met: MetValue, books: MasterData) -> Suggestion | None:
    """What would map a value that nothing maps; none where nothing speaks for any code, or nothing is asked."""
    if met.standing is Standing.UNMAPPED:
        if met.aspect is Aspect.TAX_CLASS:
            return _of_class(met, books)
        if met.aspect is Aspect.CHARGE:
            return _of_role(met, books)
        if met.aspect in _TABLES:
            return _of_money(met, books)
    if met.aspect is Aspect.LOCATION and met.standing is Standing.NOT_ASKED:
        return _of_location(met, books)
    return None


def _of_class(met: MetValue, books: MasterData) -> Suggestion | None:
    rates = tuple(Rate(name=met.value, rate_percent=rate) for rate in met.rates)
    code = code_of_class(TaxClass(name=met.value, rates=rates), books.tax_codes)
    if code is None:
        return None
    why = f"{code.name}, {code.whole_rate.normalize():f} %: the rate that it was charged at."
    return Suggestion(f"/tax_codes/by_class/{escaped(met.value)}", code.code, why)


def _of_role(met: MetValue, books: MasterData) -> Suggestion | None:
    account = account_of_role(met.value, books.accounts)
    if account is None:
        return None
    return Suggestion(
        f"/accounts/{met.value}", account.code, f"{account.name}: called like it, and of a type that fits."
    )


def _of_money(met: MetValue, books: MasterData) -> Suggestion | None:
    account = account_of_method(met.value, books.accounts)
    if account is None:
        return None
    return Suggestion(
        f"{_TABLES[met.aspect]}/{escaped(met.value)}", account.code, f"{account.name}, by its name and type."
    )


def _of_location(met: MetValue, books: MasterData) -> Suggestion | None:
    wanted = plain(met.value)
    alike = {
        warehouse: max(fuzz.token_sort_ratio(wanted, plain(warehouse.name)), fuzz.ratio(wanted, plain(warehouse.code)))
        for warehouse in books.warehouses
    }
    best = max(alike, key=lambda one: alike[one], default=None)
    if best is None or alike[best] < _LEAST_ALIKE:
        return None
    return Suggestion(f"/warehouses/by_location/{escaped(met.value)}", best.code, f"{best.name}: named alike.")
