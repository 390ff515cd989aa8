"""How the ERP works out what stands on a document: net and tax by line, rounded there, halves up."""

from __future__ import annotations

from decimal import ROUND_HALF_UP, Decimal
from typing import Any

from inkwell_bridge.standins.erp.refusal import refused
from inkwell_bridge.standins.store import Store

DIGITS = {"JPY": 0, "KRW": 0, "BHD": 3, "KWD": 3, "TND": 3}
_KEPT = ("text", "note", "account", "quantity", "unit_price", "tax_code")
_ASIDE = {"article": "", "measure": "piece", "warehouse": "", "lot": "", "order": "", "link": "", "further": {}}


def trade_lines(store: Store, world: str, words: dict[str, Any]) -> dict[str, Any]:
    """Lines with their net and tax, and the sums."""
    step = Decimal(1).scaleb(-DIGITS.get(words["currency"], 2))
    done = [_line(store, world, line, step) for line in words["lines"]]
    net = sum((Decimal(line["net"]) for line in done), Decimal(0)).quantize(step)
    tax = sum((Decimal(line["tax"]) for line in done), Decimal(0)).quantize(step)
    sums = {"lines": done, "net": str(net), "tax": str(tax), "gross": str(net + tax)}
    return {**sums, **_in_base(store, world, words, net + tax, tax)}


def _in_base(store: Store, world: str, words: dict[str, Any], gross: Decimal, tax: Decimal) -> dict[str, Any]:
    """A document in another currency in the company's own: at the rate that it says, or else by the company's table."""
    company = store.get(world, "company", 1) or {}
    own = company.get("currency", words["currency"])
    if own == words["currency"]:
        return {"base": None}
    rate = words.get("rate") or company.get("rates", {}).get(words["currency"], "1")
    step = Decimal(1).scaleb(-DIGITS.get(own, 2))
    base, base_tax = (in_own(amount, Decimal(rate), step) for amount in (gross, tax))
    said = {"currency": own, "net": str(base - base_tax), "tax": str(base_tax), "gross": str(base)}
    return {"base": said, "base_rate": str(rate)}


def in_own(amount: Decimal, rate: Decimal, step: Decimal) -> Decimal:
    """An amount at a rate, rounded half up."""
    return (amount * rate).quantize(step, ROUND_HALF_UP)


def sales_lines(store: Store, world: str, words: dict[str, Any]) -> dict[str, Any]:
    """The same on a document of a sale, where only income may stand, and what is owed for later."""
    for line in words["lines"]:
        require_account(store, world, line["account"])
        (account,) = store.search(world, "account", line["account"])[:1]
        if account["type"] not in {"income", "liability"}:
            said = f"account {account['code']} is {account['type']}, neither income nor a liability"
            raise refused(said, field="account")
    return trade_lines(store, world, words)


def _line(store: Store, world: str, line: dict[str, Any], step: Decimal) -> dict[str, Any]:
    tax_code = store.search(world, "tax_code", line["tax_code"])
    if not tax_code:
        raise refused(f"no tax code {line['tax_code']}", field="tax_code")
    require_account(store, world, line["account"])
    require(store, world, "article", line.get("article", ""))
    require(store, world, "warehouse", line.get("warehouse", ""))
    price = Decimal(line["unit_price"])
    if price != price.quantize(Decimal("0.0001")):
        raise refused("a unit price has at most four digits", field="unit_price")
    net = (Decimal(line["quantity"]) * price).quantize(step, ROUND_HALF_UP)
    # Adding nothing takes the sign off a zero.
    tax = (net * _rate(tax_code[0]) / 100).quantize(step, ROUND_HALF_UP) + 0
    return {
        **{name: line[name] for name in _KEPT},
        **{name: line.get(name, default) for name, default in _ASIDE.items()},
        "net": str(net),
        "tax": str(tax),
    }


def _rate(tax_code: dict[str, Any]) -> Decimal:
    """What all taxes of a code come to; some are taken of the price with those before."""
    whole = Decimal(0)
    for part in tax_code.get("parts") or [{"rate": tax_code["rate"], "on_others": False}]:
        whole += Decimal(part["rate"]) * ((100 + whole) / 100 if part["on_others"] else 1)
    return whole


def journal_lines(store: Store, world: str, words: dict[str, Any]) -> dict[str, Any]:
    """A journal's lines, if their accounts are there; an unbalanced one may stand as a draft."""
    for line in words["lines"]:
        require_account(store, world, line["account"])
    return {"lines": words["lines"]}


def goods_lines(store: Store, world: str, words: dict[str, Any]) -> dict[str, Any]:
    """Lines of goods, if the articles and warehouses are there."""
    for place in (words.get("warehouse", ""), words.get("from", ""), words.get("to", "")):
        require(store, world, "warehouse", place)
    for line in words["lines"]:
        require(store, world, "article", line["article"])
    return {"lines": words["lines"]}


def money_in(store: Store, world: str, words: dict[str, Any]) -> dict[str, Any]:
    """A receipt, if its accounts are there and it settles no more than it is."""
    return _money(store, world, words, 1)


def money_out(store: Store, world: str, words: dict[str, Any]) -> dict[str, Any]:
    """Money that went back; more than it settles is a loss."""
    return _money(store, world, words, -1)


def _money(store: Store, world: str, words: dict[str, Any], sign: int) -> dict[str, Any]:
    require_account(store, world, words["account"])
    worth, exchange = Decimal(words["amount"]), words.get("exchange")
    if exchange:
        require_account(store, world, exchange["account"])
        # In the company's own currency what was gained is a part of the amount itself.
        worth -= sign * Decimal(exchange["amount"]) if not words.get("rate") else 0
    settled = sum((Decimal(part["amount"]) for part in words["settles"]), Decimal(0))
    if settled > worth:
        raise refused(f"{settled} settled out of {worth}", field="settles")
    return {}


def given_up(store: Store, world: str, words: dict[str, Any]) -> dict[str, Any]:
    """A balance that is written off: on an account of income or cost, and set against no more than it is."""
    require_account(store, world, words["account"])
    (account,) = store.search(world, "account", words["account"])[:1]
    if account["type"] not in {"income", "expense"}:
        raise refused(f"account {account['code']} is {account['type']}, neither income nor expense", field="account")
    return _money(store, world, words, 1)


def require_account(store: Store, world: str, code: str) -> None:
    """Refuse an account that is not in the chart."""
    if not store.search(world, "account", code):
        raise refused(f"no account {code}", field="account")


def require(store: Store, world: str, kind: str, code: str) -> None:
    """Refuse a code that is not in its list; an empty one names nothing."""
    if code and not store.search(world, kind, code):
        raise refused(f"no {kind} {code}", field=kind)
