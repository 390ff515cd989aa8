"""A month of orders, rules that can be learnt, and the documents that somebody who follows them would type."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta
from decimal import Decimal
from random import Random
from typing import Any

from inkwell_bridge.core.books import BooksCapabilities, BooksRecord, DocumentLine, MasterData, Payment, Standing
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.examples import Example
from inkwell_bridge.core.money import tax_inside
from inkwell_bridge.core.planner import Outcome, PlanningContext, plan_order
from inkwell_bridge.core.rulebook import OrderRulebook
from tests.support.orders import PLACED, order

Json = dict[str, Any]
_RATES = {"standard": "20", "reduced": "5", "zero": "0"}
_GOODS = [(f"{kind[:3].upper()}-{number}", kind, tax_class) for kind, tax_class in
          (("yarn", "standard"), ("book", "zero"), ("tool", "standard"), ("child seat", "reduced"))
          for number in range(1, 6)]  # fmt: skip
INCOME = ("4010", "4020", "4030", "4040", "4050")


def month(chance: Random, count: int) -> list[Order]:
    """Orders of many kinds; each value that a rule may go by is met on many of them."""
    return [_order(chance, number) for number in range(1, count + 1)]


def _order(chance: Random, number: int) -> Order:
    country = chance.choice(["GB", "GB", "GB", "IE", "DE", "US"])
    export = country == "US"
    lines = [_line(chance, place, export) for place in range(1, chance.randint(1, 3) + 1)]
    tax = sum((Decimal(one["taxes"][0]["amount"]) for one in lines), Decimal(0))
    carriage: list[Json] = []
    if chance.random() < 0.7:
        amount = chance.choice(["3.95", "4.95", "8.50"])
        rate = "0" if export else "20"
        own = tax_inside(Decimal(amount), Decimal(rate), "GBP")[1]
        tax += own
        carriage = [{"id": "carriage", "title": "Parcel", "amount": amount, "tax_class": "zero" if export else
                     "standard", "taxes": [{"rate_percent": rate, "amount": str(own)}]}]  # fmt: skip
    total = sum((Decimal(one["amount"]) for one in [*lines, *carriage]), Decimal(0))
    buyer = chance.randint(1, 900)
    placed = PLACED + timedelta(minutes=37 * number)
    method, tender, brand = chance.choice([("card", "card", "Kestrel"), ("card", "card", "Meridian"),
                                           ("transfer", "bank transfer", "")])  # fmt: skip
    return order(
        id=str(number), number=f"MW-{number}", placed_at=placed, changed_at=placed, country=country,
        status=chance.choice(["paid", "paid", "completed"]),
        channel=chance.choice(["web shop", "web shop", "fair"]),
        customer_group=chance.choice(["", "", "trade", "press"]),
        treatment="export" if export else "domestic",
        buyer={"account_id": str(buyer), "email": f"buyer{buyer}@loom.example", "name": f"Buyer {buyer}"},
        lines=lines, shipping=carriage, tax_total=str(tax), total=str(total),
        payments=[{"transaction": f"t-{number}", "method": method, "tender": tender, "brand": brand,
                   "amount": str(total), "paid_at": placed + timedelta(days=1)}],
    )  # fmt: skip


def _line(chance: Random, place: int, export: bool) -> Json:
    sku, kind, tax_class = chance.choice(_GOODS)
    tax_class = "zero" if export else tax_class
    # Odd prices: no two lines of an order come to the same by chance alone.
    amount = f"{chance.randint(300, 9000) / 100:.2f}"
    tax = tax_inside(Decimal(amount), Decimal(_RATES[tax_class]), "GBP")[1]
    return {"id": str(place), "sku": sku, "product_type": kind, "title": f"{kind} {sku}", "quantity": "1",
            "unit_price": amount, "amount": amount, "tax_class": tax_class,
            "taxes": [{"rate_percent": _RATES[tax_class], "amount": str(tax)}]}  # fmt: skip


def some_rules(chance: Random) -> OrderRulebook:
    """Rules of the family: accounts by up to three of what they may go by, exceptions of tax, tenders, a date."""
    kinds = {"product": [one[0] for one in _GOODS], "product_type": ["yarn", "book", "tool", "child seat"],
             "customer_group": ["trade", "press"], "channel": ["web shop", "fair"],
             "country": ["IE", "DE", "US"], "treatment": ["export"]}  # fmt: skip
    sales: Json = {"default": "4000"}
    for name in chance.sample(sorted(kinds), chance.randint(0, 3)):
        values = chance.sample(kinds[name], min(len(kinds[name]), chance.randint(1, 2)))
        sales[f"by_{name}"] = {value: chance.choice(INCOME) for value in values}
    exceptions = [{"treatment": "export", "code": "X00"}] if chance.random() < 0.6 else []
    return OrderRulebook.read({
        "orders": {"statuses": ["paid", "completed"], "become": chance.choice(["invoice", "cash sale"]),
                   "dated": chance.choice(["placed", "paid"]), "due_after_days": None},
        "accounts": {"sales": sales, "shipping": "4100", "rounding": "8200"},
        "tax_codes": {"by_class": {"standard": "S20", "reduced": "R05", "zero": "Z00"}, "exceptions": exceptions,
                      "outside": "OUT"},
        "payments": {"accounts": chance.choice([
            {"by_method": {"card": "1250", "transfer": "1200"}},
            {"by_method": {"card": "1250", "transfer": "1200"}, "by_brand": {"Meridian": "1260"}},
        ])},
        "penny": {"allowance": "0.05", "goes_to": "rounding account"},
    })  # fmt: skip


def context(rules: OrderRulebook, books: MasterData) -> PlanningContext:
    """All that a plan depends on besides the order."""
    return PlanningContext(source="web-shop", rulebook=rules, master_data=books, capabilities=BooksCapabilities(),
                           time_zone="Europe/London", country="GB")  # fmt: skip


def typed(orders: Sequence[Order], rules: OrderRulebook, books: MasterData) -> list[Example]:
    """The documents that these rules make, as somebody would have entered them, with words of their own."""
    examples = []
    for sold in orders:
        plan = plan_order(sold, context(rules, books))
        assert plan.outcome is Outcome.CARRY, plan.findings
        records = tuple(
            BooksRecord(id=f"{sold.id}-{place}", number=f"INV-{sold.id}", standing=Standing.POSTED,
                        document=one if isinstance(one, Payment) else one.model_copy(update={"lines": tuple(
                            line.model_copy(update={"line_reference": "entered there"})
                            for line in one.lines)}))  # type: ignore[union-attr]
            for place, one in enumerate(plan.documents)
        )  # fmt: skip
        examples.append(Example(order=sold, records=records))
    return examples


def disturbed(example: Example, chance: Random) -> Example:
    """The same with a mistake in it: a line on an account that the rules do not give it."""
    sale = example.sale
    assert sale is not None
    place = chance.randrange(len(sale.lines))
    other = chance.choice([code for code in (*INCOME, "4200", "4300") if code != sale.lines[place].account])
    lines: list[DocumentLine] = list(sale.lines)
    lines[place] = lines[place].model_copy(update={"account": other})
    first = example.records[0].model_copy(update={"document": sale.model_copy(update={"lines": tuple(lines)})})
    return example.model_copy(update={"records": (first, *example.records[1:])})
