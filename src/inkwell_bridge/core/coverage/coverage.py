"""Going over orders, one after the other, and counting what they hold."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from typing import NamedTuple

from inkwell_bridge.core.commerce import MoneyState, Order, OrderLine, Shipping, Teller
from inkwell_bridge.core.coverage.met import Aspect, MetValue, RuleUse, Standing
from inkwell_bridge.core.expressions import NotEvaluated, evaluation_of_order
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.languages import ranges
from inkwell_bridge.core.planner.account_coding import AccountCoding
from inkwell_bridge.core.planner.charges import PlannedCharge, charges_of
from inkwell_bridge.core.planner.items import on_items
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.planner.selection import left_out_by
from inkwell_bridge.core.rulebook import OrderRulebook
from inkwell_bridge.core.rulebook.levels import Chosen, facts_of_order, rule_of

ZERO = Decimal(0)
MOST_VALUES = 2_000
MOST_EXAMPLES = 3
# What orders hold that settings go by, whatever they are settings of.
_LEVELS = {Aspect.CHANNEL: "channel", Aspect.COUNTRY: "country", Aspect.TREATMENT: "treatment", Aspect.TAG: "tag",
           Aspect.ATTRIBUTE: "attribute"}  # fmt: skip
_NOT_PAID = {MoneyState.FAILED, MoneyState.CANCELLED}


class _Answer(NamedTuple):
    """What a rule said of a value; neither rule nor answer where none was asked."""

    standing: Standing
    rule: str = ""
    gave: str = ""


_NOT_ASKED = _Answer(Standing.NOT_ASKED)
_UNMAPPED = _Answer(Standing.UNMAPPED)


class _Met(NamedTuple):
    """One value on one order, with the money behind it there."""

    aspect: Aspect
    value: str
    amount: Decimal
    answer: _Answer
    rate: Decimal | None = None


@dataclass(slots=True)
class _Counted:
    """What was counted of one value so far."""

    orders: int = 0
    unmapped: int = 0
    standings: Counter[Standing] = field(default_factory=Counter)
    amounts: dict[str, Decimal] = field(default_factory=lambda: defaultdict(lambda: ZERO))
    rules: Counter[tuple[str, str]] = field(default_factory=Counter)
    rates: set[Decimal] = field(default_factory=set)
    examples: list[str] = field(default_factory=list)
    unmapped_examples: list[str] = field(default_factory=list)


class Coverage:
    """The values met in the orders that were added. Memory grows with the values, never with the orders.

    Of an aspect that has more than ``MOST_VALUES`` the first so many are kept, and ``further`` counts how often
    another was met.
    """

    def __init__(self) -> None:
        self.orders = 0
        self.further: Counter[Aspect] = Counter()
        self._counted: dict[tuple[Aspect, str], _Counted] = {}
        self._kept: Counter[Aspect] = Counter()

    def add(self, order: Order, context: PlanningContext) -> None:
        """Count one order; ``context`` has the rules, and what is known of the order's own articles."""
        self.orders += 1
        of_order: dict[tuple[Aspect, str], list[_Met]] = defaultdict(list)
        for met in _met(order, context):
            if met.value:
                of_order[met.aspect, met.value].append(met)
        for key, mets in of_order.items():
            counted = self._of(key)
            if counted is not None:
                _count(counted, mets, order)

    def _of(self, key: tuple[Aspect, str]) -> _Counted | None:
        counted = self._counted.get(key)
        if counted is None:
            aspect = key[0]
            if self._kept[aspect] >= MOST_VALUES:
                self.further[aspect] += 1
                return None
            self._kept[aspect] += 1
            counted = self._counted[key] = _Counted()
        return counted

    def values(self) -> tuple[MetValue, ...]:
        """All values, aspect by aspect; within one those without a rule first, then the most met."""
        order = {aspect: place for place, aspect in enumerate(Aspect)}
        found = [_value(aspect, value, counted) for (aspect, value), counted in self._counted.items()]
        return tuple(
            sorted(found, key=lambda one: (order[one.aspect], -one.unmapped, -one.orders, -one.largest, one.value))
        )


def _count(counted: _Counted, mets: Sequence[_Met], order: Order) -> None:
    counted.orders += 1
    unmapped = any(met.answer.standing is Standing.UNMAPPED for met in mets)
    counted.unmapped += unmapped
    examples = counted.unmapped_examples if unmapped else counted.examples
    if len(examples) < MOST_EXAMPLES:
        examples.append(order.number)
    # An order counts once, whichever of its lines the rule answered for.
    for answer in dict.fromkeys(met.answer for met in mets):
        counted.standings[answer.standing] += 1
        if answer.rule:
            counted.rules[answer.rule, answer.gave] += 1
    for met in mets:
        counted.amounts[order.currency] += met.amount
        if met.rate is not None:
            counted.rates.add(met.rate)


def _value(aspect: Aspect, value: str, counted: _Counted) -> MetValue:
    standing = Standing.UNMAPPED if counted.unmapped else counted.standings.most_common(1)[0][0]
    return MetValue(
        aspect=aspect,
        value=value,
        standing=standing,
        orders=counted.orders,
        unmapped=counted.unmapped,
        amounts=dict(counted.amounts),
        rules=tuple(RuleUse(rule=rule, gave=gave, orders=count) for (rule, gave), count in counted.rules.most_common()),
        rates=tuple(sorted(counted.rates)),
        examples=(*counted.unmapped_examples, *counted.examples)[:MOST_EXAMPLES],
    )


def _met(order: Order, context: PlanningContext) -> Iterator[_Met]:
    rules = context.rulebook
    crosses = order.status in rules.orders.statuses
    named = _Answer(Standing.MAPPED, "/orders/statuses", "crosses")
    yield _Met(Aspect.STATUS, order.status, order.total, named if crosses else _Answer(Standing.LEFT_OUT))
    left_out = _left_out(order, context)
    if left_out:
        yield _Met(Aspect.LEFT_OUT, left_out, order.total, _Answer(Standing.LEFT_OUT, left_out))
        # What does not cross needs no rule for anything else in it.
        return
    yield from _of_order(order, context)
    yield from _of_charges(order, context)
    yield from _of_money(order, rules)


def _left_out(order: Order, context: PlanningContext) -> str:
    try:
        return left_out_by(order, context, evaluation_of_order(order, context.day)) or ""
    except NotEvaluated:
        # It would be held, so that its values are waiting for their rules as well.
        return ""


def _of_order(order: Order, context: PlanningContext) -> Iterator[_Met]:
    rules, total = context.rulebook, order.total
    kept = order.currency in context.currencies
    currency = _Answer(Standing.MAPPED, "/orders/currencies", order.currency) if kept else _UNMAPPED
    yield _Met(Aspect.CURRENCY, order.currency, total, currency)
    facts = facts_of_order(order)
    for aspect, level in _LEVELS.items():
        for value in dict.fromkeys(facts.met(level)):
            # What buyers write into a field (a greeting, a name) is nobody's to list: only what a rule asks for.
            if level != "attribute" or value.partition("=")[0] in rules.attributes:
                yield from _of_level(aspect, level, value, total, rules)
    for discount in order.discounts:
        yield _Met(Aspect.DISCOUNT, discount.name, discount.amount, _NOT_ASKED)
    language = order.buyer.language if order.buyer else ""
    group, terms, customers = order.customer_group, order.payment_terms, rules.customers
    for aspect, level, value, row, rule in (
        (Aspect.CUSTOMER_GROUP, "customer_group", group, (group, customers.groups.get(group)), "groups"),
        (Aspect.LANGUAGE, "language", language, customers.language(language) or ("", None), "languages"),
        (Aspect.TERMS, "", terms, (terms, customers.terms.get(terms)), "terms"),
    ):
        name, found = row
        if found:
            yield _Met(aspect, value, total, _Answer(Standing.MAPPED, f"/customers/{rule}/{escaped(name)}", found))
        yield from _of_level(aspect, level, value, ZERO if found else total, rules, asked=bool(found))


def _of_level(
    aspect: Aspect, level: str, value: str, total: Decimal, rules: OrderRulebook, *, asked: bool = False
) -> Iterator[_Met]:
    """A value by every setting that names it; the money behind it is counted once. ``asked`` tells that a rule of
    another kind has answered for it."""
    rows = [
        row for one in (ranges(value) if level == "language" else (value,)) for row in rules.rows.get((level, one), ())
    ]
    for place, (rule, gave) in enumerate(rows):
        yield _Met(aspect, value, ZERO if place else total, _Answer(Standing.MAPPED, rule, gave))
    if not rows and not asked:
        yield _Met(aspect, value, total, _NOT_ASKED)


def _of_charges(order: Order, context: PlanningContext) -> Iterator[_Met]:
    rules, coding = context.rulebook, AccountCoding(order, context)
    for charge in charges_of(order, discounts_apart=False):
        gross = charge.reduced + (ZERO if order.prices_include_tax else charge.tax + charge.kept_tax)
        rule = rules.accounts.rule(charge.role)
        account = coding.account(charge) if rule is not None else None
        by_account = _Answer(Standing.MAPPED, account.rule, account.code) if account else _UNMAPPED
        yield _Met(Aspect.CHARGE, charge.role, gross, by_account)
        yield _Met(Aspect.PRODUCT_TYPE, charge.product_type, gross, by_account)
        code = coding.code_or_none(charge)
        by_code = _Answer(Standing.MAPPED, code.rule, code.code) if code else _UNMAPPED
        rates = {one.tax.rate_percent for one in (*charge.own, *charge.kept)} or {ZERO}
        for rate in rates:
            yield _Met(Aspect.TAX_CLASS, charge.tax_class, gross if rate == max(rates) else ZERO, by_code, rate)
        yield from _of_article(charge, gross, order, context, coding)


def _of_article(
    charge: PlannedCharge, gross: Decimal, order: Order, context: PlanningContext, coding: AccountCoding
) -> Iterator[_Met]:
    line = charge.charge
    if isinstance(line, Shipping):
        yield _Met(Aspect.SHIPPING_METHOD, line.method or line.title, gross, _NOT_ASKED)
    if not isinstance(line, OrderLine):
        return
    yield _Met(Aspect.PRODUCT, charge.sku, gross, _item(charge, order, context, coding))
    location, warehouses = line.location or order.location, context.rulebook.warehouses
    facts = coding.facts(charge)
    level, warehouse = warehouses.exception(facts), warehouses.of(facts)
    rule = rule_of("/warehouses", level.name, level.fits) if level else "/warehouses/default"
    yield _Met(Aspect.LOCATION, location, gross, _Answer(Standing.MAPPED, rule, warehouse) if warehouse else _NOT_ASKED)


def _item(charge: PlannedCharge, order: Order, context: PlanningContext, coding: AccountCoding) -> _Answer:
    """What an article is in the books; one that stays a plain text by rule is asked for nothing."""
    rules = context.rulebook.items
    if rules is None:
        return _NOT_ASKED
    made, findings = on_items(
        charge, rules, context.articles, currency=order.currency, inclusive=order.prices_include_tax,
        rate_of=coding.rate,
    )  # fmt: skip
    if findings:
        return _UNMAPPED
    item = made[0].item
    return (
        _Answer(Standing.MAPPED, item.rule, ", ".join(one.item.code for one in made if one.item)[:200])
        if item
        else _NOT_ASKED
    )


def _of_money(order: Order, rules: OrderRulebook) -> Iterator[_Met]:
    for money in order.payments:
        if money.state in _NOT_PAID:
            continue
        answer = _NOT_ASKED
        if rules.payments is not None:
            # What another tells of stands on the account that it came in on: no rule names that.
            teller, rule = rules.payments.tellers.of(money)
            chosen = rules.payments.accounts.chosen(money)
            if teller is not Teller.SALES_SIDE:
                chosen = Chosen(str(teller), rule, f"The {teller} tells of it.")
            answer = _Answer(Standing.MAPPED, chosen.rule, chosen.code) if chosen else _UNMAPPED
        for aspect, value in (
            (Aspect.METHOD, money.method),
            (Aspect.TENDER, str(money.tender)),
            (Aspect.GATEWAY, money.gateway),
            (Aspect.BRAND, money.brand),
        ):
            yield _Met(aspect, value, money.amount, answer)
