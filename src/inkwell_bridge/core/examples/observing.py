"""What each example says of each rule: which account, code or day stands in the books, and under which facts."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from inkwell_bridge.core.books import HEADER_CODES, DocumentLine, Invoice, Payment
from inkwell_bridge.core.commerce import Nature, Order
from inkwell_bridge.core.examples.alignment import Alignment, Wanted, align
from inkwell_bridge.core.examples.decision_list import Observation
from inkwell_bridge.core.examples.example import Example, Sale
from inkwell_bridge.core.findings import Level
from inkwell_bridge.core.json_pointer import parts_of
from inkwell_bridge.core.planner import Plan, PlanningContext, plan_order
from inkwell_bridge.core.planner.account_coding import taxed_in
from inkwell_bridge.core.planner.moments import moment_of
from inkwell_bridge.core.planner.rule_steps import charge_at, facts_at

# The levels that accounts are learnt by: those of which an order has one each. Which of several tags counted, or that a
# person made an exception by hand, no document says.
LEARNT_BY = ("product", "product_type", "customer", "customer_group", "channel", "country", "treatment")
MOMENTS = ("placed", "paid", "dispatched")


@dataclass
class Observed:
    """What the examples that were added say, by the rule that it speaks for.

    ``unexplained`` is what stands in the way of an example, in words, by its place among them; ``fitting`` counts those
    whose every line is accounted for.
    """

    accounts: dict[str, list[Observation]] = field(default_factory=lambda: defaultdict(list))
    tax_codes: list[Observation] = field(default_factory=list)
    outside: list[Observation] = field(default_factory=list)
    tenders: list[Observation] = field(default_factory=list)
    items: list[Observation] = field(default_factory=list)
    warehouses: list[Observation] = field(default_factory=list)
    dimensions: dict[str, list[Observation]] = field(default_factory=lambda: defaultdict(list))
    roles: list[Observation] = field(default_factory=list)
    statuses: list[Observation] = field(default_factory=list)
    days: list[frozenset[str]] = field(default_factory=list)
    tax_points: list[frozenset[str]] = field(default_factory=list)
    due: list[int] = field(default_factory=list)
    headers: dict[str, list[Observation]] = field(default_factory=lambda: defaultdict(list))
    numbered_by_shop: int = 0
    numbered: int = 0
    unexplained: dict[int, list[str]] = field(default_factory=dict)
    fitting: int = 0


def order_facts(order: Order) -> dict[str, str]:
    """What rules for whole documents can go by."""
    return {
        "status": order.status,
        "customer_group": order.customer_group,
        "channel": order.channel,
        "country": order.country,
        "currency": order.currency,
        "location": order.location,
        "payment_terms": order.payment_terms,
        "shipping_method": order.shipping[0].method if order.shipping else "",
    }


def observe(examples: Sequence[Example], context: PlanningContext) -> Observed:
    """Go over all examples; ``context`` has the rules of a skeleton."""
    observed = Observed()
    for number, example in enumerate(examples):
        facts = order_facts(example.order)
        observed.statuses.append(Observation(number, facts, "yes" if example.sale else "no"))
        if example.sale is not None:
            observed.roles.append(Observation(number, facts, example.sale.role))
            _observe_header(observed, number, example, example.sale, context)
            _observe_lines(observed, number, example, example.sale, context)
    return observed


def _observe_header(observed: Observed, number: int, example: Example, sale: Sale, context: PlanningContext) -> None:
    order = example.order
    days = {name: context.day(at) for name in MOMENTS if (at := moment_of(order, name)) is not None}
    observed.days.append(frozenset(name for name, day in days.items() if day == sale.date))
    observed.numbered += bool(example.sale_number)
    observed.numbered_by_shop += example.sale_number == order.number
    for name in ("terms", *HEADER_CODES):
        if said := getattr(sale, name, ""):
            observed.headers[name].append(Observation(number, order_facts(order), said))
    if isinstance(sale, Invoice):
        if sale.tax_point and sale.tax_point != sale.date:
            observed.tax_points.append(frozenset(name for name, day in days.items() if day == sale.tax_point))
        if sale.due_on:
            observed.due.append((sale.due_on - sale.date).days)


def _observe_lines(observed: Observed, number: int, example: Example, sale: Sale, context: PlanningContext) -> None:
    plan = plan_order(example.order, context)
    planned = next((one for one in plan.documents if isinstance(one, Sale)), None)
    if planned is None:
        wrong = next((one.text for one in plan.findings if one.level is Level.ERROR), "it comes to nothing")
        observed.unexplained[number] = [wrong]
        return
    order, said = example.order, example.order.as_json()
    reasons = {reason.target: reason for reason in plan.reasons}
    wanted, facts = [], []
    for place, line in enumerate(planned.lines):
        reason = reasons[f"/documents/0/lines/{place}/account"]
        coded = reasons[f"/documents/0/lines/{place}/tax_code"]
        charge = charge_at(said, reason.sources[0])
        role = parts_of(reason.rule)[1] if reason.rule.startswith("/accounts/") else ""
        tax_class = _class_of(coded.rule)
        wanted.append(Wanted(line, charge.get("sku") or "", role, tax_class))
        facts.append((charge, role, tax_class))
    found = align(wanted, sale.lines)
    for place, line in found.pairs:
        charge, role, tax_class = facts[place]
        _observe_line(observed, number, order, line, charge, role, tax_class)
    _say_what_is_left(observed, number, wanted, found)
    _observe_money(observed, number, example, plan)


def _class_of(rule: str) -> str:
    parts = parts_of(rule) if rule.startswith("/tax_codes/by_class/") else []
    return parts[-1] if parts else ""


def _observe_line(
    observed: Observed, number: int, order: Order, line: DocumentLine, charge: Mapping[str, Any], role: str,
    tax_class: str,
) -> None:  # fmt: skip
    met = facts_at(charge, order)
    facts = {name: met.one(name) for name in LEARNT_BY}
    if role and line.account:
        observed.accounts[role].append(Observation(number, facts, line.account))
    if line.tax_code:
        nature = str(charge.get("nature") or Nature.GOODS)
        coded = {"treatment": facts["treatment"], "country": taxed_in(Nature(nature), order), "tax_class": tax_class,
                 "nature": nature}  # fmt: skip
        (observed.tax_codes if tax_class else observed.outside).append(Observation(number, coded, line.tax_code))
    of_line = facts | order_facts(order) | {"location": charge.get("location") or order.location,
                                            "tax_class": tax_class}  # fmt: skip
    if role == "sales":
        observed.items.append(Observation(number, {"sku": facts["product"]}, line.item))
        observed.warehouses.append(Observation(number, of_line, line.warehouse))
    for dimension in line.dimensions:
        observed.dimensions[dimension.name].append(Observation(number, of_line, dimension.value))


def _say_what_is_left(observed: Observed, number: int, wanted: Sequence[Wanted], found: Alignment) -> None:
    surplus = found.surplus
    if len(surplus) == 1 and not found.missing and abs(surplus[0].net) <= _MOST_OF_ROUNDING:
        # What coins or the books' own sums leave, on a line of its own.
        observed.accounts["rounding"].append(Observation(number, {}, surplus[0].account))
        surplus = ()
    left = [
        f"a line of {line.net} on {line.account or 'no account'} that no amount of the order makes" for line in surplus
    ]
    left += [
        f"{wanted[place].line.net} for '{wanted[place].line.text[:60]}' stands on no line"
        for place in found.missing[:_MOST_SAID]
    ]
    if len(found.missing) > _MOST_SAID:
        left.append(f"{sum(wanted[place].line.net for place in found.missing)} in all stands on no line")
    if found.unsure:
        left.append("lines of one amount that cannot be told apart")
    if left:
        observed.unexplained[number] = left
    else:
        observed.fitting += 1


_MOST_SAID = 3
_MOST_OF_ROUNDING = Decimal("0.10")


def _observe_money(observed: Observed, number: int, example: Example, plan: Plan) -> None:
    """Pair payments by their amounts, where each amount is there once."""
    there: dict[Decimal, list[Payment]] = defaultdict(list)
    for money in example.money:
        there[money.amount].append(money)
    for facts, amount in _tenders(example.order, plan):
        accounts = {money.account for money in there.get(amount, ())}
        if len(accounts) == 1:
            observed.tenders.append(Observation(number, facts, accounts.pop()))


def _tenders(order: Order, plan: Plan) -> Iterator[tuple[dict[str, str], Decimal]]:
    for reason in plan.reasons:
        if reason.rule.startswith("/payments/accounts") and reason.target.endswith("/account"):
            money = order.payments[int(parts_of(reason.sources[0])[1])]
            facts = {"brand": money.brand, "gateway": money.gateway, "method": money.method, "tender": money.tender}
            yield {name: str(value) for name, value in facts.items()}, money.amount
