"""Anything paid ahead, given back before or after its day, under any rules of deposits: the debt ends at nothing."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Sequence
from decimal import Decimal

from hypothesis import given, settings
from hypothesis import strategies as st

from inkwell_bridge.core.books import CreditNote, TradeDocument
from inkwell_bridge.core.commerce import Nature, Order, Refund
from inkwell_bridge.core.money import allocate, minor_unit
from inkwell_bridge.core.planner import Outcome, Plan, PlanningContext, plan_order, plan_refund
from inkwell_bridge.core.rulebook import read
from tests.core.test_cases import BASE, PLACED, context
from tests.support.orders import orders

ZERO = Decimal(0)
DEBT = "2300"


@st.composite
def rules_of_deposits(draw: st.DrawFn) -> PlanningContext:
    """Every way in which deposits, their discounts and their taxes can stand."""
    pick = draw
    said = {
        "rulebook": 1,
        "based_on": "base.yaml",
        "orders": {
            "deposits": pick(st.sampled_from(["taxed when paid", "taxed when delivered"])),
            "delivered": {"when": '"held" in order.tags', "dated": "placed"},
            "discounts": pick(st.sampled_from(["in lines", "own lines"])),
            "currencies": "kept",
        },
        "tax_codes": {
            "carry": pick(st.sampled_from(["on lines", "one line", "books compute"])),
            "amounts": pick(st.sampled_from(["as charged", "worked out"])),
            "rounded_by": pick(st.sampled_from(["line", "document"])),
            "as_lines": pick(st.lists(st.sampled_from(["standard", "reduced"]), unique=True)),
        },
        "penny": {"allowance": 100},
    }
    book, _ = read(json.dumps(said), base=lambda name: BASE)
    return context({}).model_copy(update={"rulebook": book.for_orders})


@st.composite
def paid_ahead(draw: st.DrawFn) -> Order:
    """Orders of deposits, most of them, and paid to the last penny."""
    made = draw(orders())
    natures = st.sampled_from([Nature.DEPOSIT, Nature.DEPOSIT, Nature.GOODS])
    lines = tuple(line.model_copy(update={"nature": draw(natures)}) for line in made.lines)
    money = [{"transaction": "wg_1", "method": "card", "amount": str(made.total), "tender": "card",
              "state": "received", "paid_at": made.placed_at}] if made.total else []  # fmt: skip
    # The shop says what its discount is for: by itself it would never reduce a debt.
    off = [{**one.model_dump(), "applies_to": [line.id for line in lines]} for one in made.discounts]
    return Order.read(
        {**made.model_dump(), "lines": [line.model_dump() for line in lines], "payments": money, "discounts": off}
    )


@st.composite
def parts_given_back(draw: st.DrawFn, order: Order) -> list[Refund]:
    """Up to four refunds, each of a part of some lines; together never more than a line was charged at."""
    unit = minor_unit(order.currency)
    off = order.discounts[0].amount if order.discounts else ZERO
    shares = allocate(off, [line.amount for line in order.lines], order.currency)
    left = {line.id: [line.amount - share, line.tax] for line, share in zip(order.lines, shares, strict=True)}
    refunds = []
    for number in range(draw(st.integers(0, 4))):
        taken = []
        for name, parts in left.items():
            part = Decimal(draw(st.integers(0, 4))) / 4
            amount, tax = ((one * part).quantize(unit, rounding="ROUND_FLOOR") for one in parts)
            if amount:
                left[name] = [parts[0] - amount, parts[1] - tax]
                taken.append((name, amount, tax))
        if taken:
            refunds.append(_refund(order, number, taken))
    return refunds


def _refund(order: Order, number: int, taken: Sequence[tuple[str, Decimal, Decimal]]) -> Refund:
    known = {line.id: line for line in order.lines}
    lines = [
        {"line": name, "quantity": "0", "amount": str(amount),
         "taxes": [{**known[name].taxes[0].model_dump(mode="json"), "amount": str(tax)}]}
        for name, amount, tax in taken
    ]  # fmt: skip
    tax = sum((one[2] for one in taken), ZERO)
    total = sum((one[1] for one in taken), ZERO if order.prices_include_tax else tax)
    return Refund.read({
        "id": f"80{number}", "number": f"MW-R-80{number}", "order_id": order.id, "order_number": order.number,
        "refunded_at": PLACED, "changed_at": PLACED, "currency": order.currency,
        "prices_include_tax": order.prices_include_tax, "lines": lines, "tax_total": str(tax), "total": str(total),
        "payments": [{"transaction": f"wg_8{number}", "method": "card", "amount": str(total), "tender": "card",
                      "state": "received", "paid_at": PLACED}],
    })  # fmt: skip


def _carried(plan: Plan) -> list[TradeDocument]:
    assert plan.outcome is Outcome.CARRY, plan.findings
    return [one for one in plan.documents if isinstance(one, TradeDocument)]


@settings(max_examples=60)
@given(paid_ahead(), rules_of_deposits(), st.data())
def test_the_debt_of_what_is_paid_ahead_ends_at_nothing(
    order: Order, given_: PlanningContext, data: st.DataObject
) -> None:
    """Paid, given back in part, delivered, given back in part again: what is left in the books is what is left of the
    sale, and all of the tax but what never fell due."""
    refunds = data.draw(parts_given_back(order))
    day = data.draw(st.integers(0, len(refunds)))
    before, after = refunds[:day], refunds[day:]
    held = order.model_copy(update={"tags": ("held",)})

    (first,) = _carried(plan_order(order, given_))
    whole = plan_order(held, given_.model_copy(update={"refunds_before_invoice": tuple(before)}))
    documents = _carried(whole)
    assert documents[0] == first
    for number, refund in enumerate(refunds):
        plan = plan_refund(refund, held, given_, refunded_before=refunds[:number], final_invoice=refund in after)
        documents += _carried(plan)
    gone = sum((one.total for one in refunds), ZERO)
    assert sum((-one.gross if isinstance(one, CreditNote) else one.gross for one in documents), ZERO) == (
        order.total - gone
    )
    standing = _standing(documents)
    assert standing[DEBT] == [ZERO, ZERO]
    if not given_.rulebook.tax_codes.works_out:
        late = given_.rulebook.orders.deposits == "taxed when delivered"
        credited = sum((one.tax_total for one in after), ZERO)
        credited += sum((_taxed_at_once(one, order) if late else one.tax_total for one in before), ZERO)
        taxes = sum((tax for _, tax in standing.values()), ZERO) + standing["2210"][0]
        assert taxes == order.tax_total - (whole.untaxed or ZERO) - credited


def _standing(documents: Sequence[TradeDocument]) -> dict[str, list[Decimal]]:
    """Net and tax of each account after all of these documents."""
    accounts: dict[str, list[Decimal]] = defaultdict(lambda: [ZERO, ZERO])
    for document in documents:
        sign = -1 if isinstance(document, CreditNote) else 1
        for line in document.lines:
            accounts[line.account][0] += sign * line.net
            accounts[line.account][1] += sign * line.tax
    return accounts


def _taxed_at_once(refund: Refund, order: Order) -> Decimal:
    """The tax of what was given back that was no deposit."""
    goods = {line.id for line in order.lines if line.nature is not Nature.DEPOSIT}
    return sum((tax.amount for line in refund.lines if line.line in goods for tax in line.taxes), ZERO)
