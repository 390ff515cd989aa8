"""Whatever was sold, given back in however many parts, comes to what was sold: by account and code, to the penny."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Sequence
from decimal import Decimal
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from inkwell_bridge.core.books import CreditNote, LineKind, TradeDocument
from inkwell_bridge.core.commerce import Component, Order, Refund
from inkwell_bridge.core.planner import Outcome, Plan, PlanningContext, plan_order, plan_refund
from inkwell_bridge.core.planner.discounts import shared
from inkwell_bridge.core.rulebook import read
from tests.core.test_cases import BASE, context
from tests.support.orders import PLACED, orders

ZERO = Decimal(0)
Sums = dict[tuple[str, str], list[Decimal]]


@st.composite
def rules(draw: st.DrawFn) -> PlanningContext:
    """Every way in which kits, discounts and taxes can stand."""
    pick = draw
    said: dict[str, Any] = {
        "rulebook": 1, "based_on": "base.yaml",
        "orders": {
            "currencies": "kept", "discounts": pick(st.sampled_from(["in lines", "own lines"])),
            "kits": pick(st.sampled_from(["as sold", "components"])),
        },
        "tax_codes": {
            "carry": pick(st.sampled_from(["on lines", "one line"])),
            "amounts": pick(st.sampled_from(["as charged", "worked out"])),
            "rounded_by": pick(st.sampled_from(["line", "document"])), "other_rates": "warn",
        },
        "penny": {"allowance": 100},
    }  # fmt: skip
    book, _ = read(json.dumps(said), base=lambda name: BASE)
    return context({}).model_copy(update={"rulebook": book.for_orders})


@st.composite
def sold(draw: st.DrawFn, like: Order | None = None) -> Order:
    """Orders with kits in them; in the currency and with the prices of the one that they are ``like``."""
    made = draw(orders([like.currency], inclusive=like.prices_include_tax) if like else orders())
    kits = st.sampled_from([
        (), (),
        (Component(sku="A", quantity=Decimal(1)), Component(sku="B", quantity=Decimal(2)),
         Component(sku="C", quantity=Decimal(1))),
        (Component(sku="A", quantity=Decimal(1), share=Decimal(7)), Component(sku="B", quantity=Decimal(1),
                                                                             share=Decimal(3))),
    ])  # fmt: skip
    lines = tuple(line.model_copy(update={"components": draw(kits)}) for line in made.lines)
    targets = draw(st.sampled_from([(), tuple(line.id for line in lines)]))
    off = [{**one.model_dump(), "applies_to": targets} for one in made.discounts]
    return Order.read({**made.model_dump(), "lines": [line.model_dump() for line in lines], "discounts": off})


def parts_of(order: Order, number: int) -> list[Refund]:
    """All of an order, in so many refunds that are as equal as its minor units allow."""
    shares = shared(order).shares
    unit = Decimal(1).scaleb(-{"JPY": 0, "GBP": 2, "KWD": 3}[order.currency])
    refunds = []
    for part in range(1, number + 1):
        lines, total, tax = [], ZERO, ZERO
        for index, line in enumerate(order.lines):
            whole = line.reduced + sum((one.amount for one in shares[f"/lines/{index}"]), ZERO)
            amount, own = (_cut(one, part, number, unit) for one in (whole, line.tax))
            lines.append({"line": line.id, "quantity": "0", "amount": str(amount),
                          "taxes": [{**line.taxes[0].model_dump(mode="json"), "amount": str(own)}]})  # fmt: skip
            total, tax = total + amount, tax + own
        refunds.append(Refund.read({
            "id": f"80{part}", "number": f"MW-R-80{part}", "order_id": order.id, "order_number": order.number,
            "refunded_at": PLACED, "changed_at": PLACED, "currency": order.currency,
            "prices_include_tax": order.prices_include_tax, "lines": lines, "tax_total": str(tax),
            "total": str(total + (ZERO if order.prices_include_tax else tax)),
        }))  # fmt: skip
    return refunds


def _cut(whole: Decimal, part: int, number: int, unit: Decimal) -> Decimal:
    def upto(share: int) -> Decimal:
        return whole if share == number else (whole * share / number).quantize(unit, rounding="ROUND_FLOOR")

    return upto(part) - upto(part - 1)


def sums(plans: Sequence[Plan]) -> Sums:
    """Net and tax under each account and code; a rounding of the whole tax belongs to no line."""
    found: Sums = defaultdict(lambda: [ZERO, ZERO])
    for plan in plans:
        assert plan.outcome is Outcome.CARRY, plan.findings
        for document in plan.documents:
            assert isinstance(document, TradeDocument)
            for line in document.lines:
                if line.kind is not LineKind.ROUNDING:
                    there = found[line.account, line.tax_code]
                    there[0] += line.net
                    there[1] += line.tax
    return {place: amounts for place, amounts in found.items() if any(amounts)}


@settings(max_examples=80, deadline=None)
@given(sold(), rules(), st.integers(1, 4))
def test_all_of_it_given_back_is_what_was_sold(order: Order, given_: PlanningContext, number: int) -> None:
    """Kits as their articles, discounts on lines of their own, taxes worked out: nothing is left by a penny."""
    refunds = parts_of(order, number)
    back = [plan_refund(refund, order, given_, refunded_before=refunds[:place]) for place, refund in enumerate(refunds)]
    assert sums(back) == sums([plan_order(order, given_)])
    for plan, refund in zip(back, refunds, strict=True):
        (note,) = plan.documents
        assert isinstance(note, CreditNote)
        assert note.gross == refund.total
