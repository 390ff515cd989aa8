"""Which rules were asked for an account or a tax code, in their order, up to the one that answered."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from inkwell_bridge.core.commerce import Nature, Order, Payment
from inkwell_bridge.core.json_pointer import escaped, parts_of
from inkwell_bridge.core.planner.plan import Plan, Reason
from inkwell_bridge.core.rulebook import OrderRulebook
from inkwell_bridge.core.rulebook.accounts import Facts
from inkwell_bridge.core.rulebook.taxes import TaxRules
from inkwell_bridge.core.values import Text, Value


class RuleStep(Value):
    """One rule that was asked: ``by`` what it goes, the value that was ``met`` there, and the code that it ``gave``, if
    any. ``rule`` is a JSON Pointer into the rulebook."""

    by: Text
    met: Text = ""
    gave: Text = ""
    rule: Text


class RuleSteps(Value):
    """The rules that were asked for one value of a plan (``target``, a JSON Pointer into it); the last one answered."""

    target: Text
    steps: tuple[RuleStep, ...]


def rule_steps(plan: Plan, order: Order, rules: OrderRulebook) -> tuple[RuleSteps, ...]:
    """The steps to every account and tax code of an order's plan that a table of rules gave.

    They are worked out anew from the order; where that does not lead to the rule which the plan itself names, nothing
    is said.
    """
    said = order.as_json()
    found = []
    for reason in plan.reasons:
        asked = list(_until_answered(_asked(reason, said, order, rules)))
        if asked and asked[-1].gave and asked[-1].rule == reason.rule:
            found.append(RuleSteps(target=reason.target, steps=tuple(asked)))
    return tuple(found)


def _until_answered(steps: Iterator[RuleStep]) -> Iterator[RuleStep]:
    for step in steps:
        yield step
        if step.gave:
            return


def _asked(reason: Reason, said: dict[str, Any], order: Order, rules: OrderRulebook) -> Iterator[RuleStep]:
    section, *way = parts_of(reason.rule) if reason.rule.startswith("/") else [""]
    if section == "accounts" and way[0] != "tax":
        return _account(way[0], facts_of(charge_at(said, reason.sources[0]), order), rules)
    if section == "tax_codes" and reason.target.endswith("/tax_code"):
        charge = charge_at(said, reason.sources[0].removesuffix("/tax_class"))
        # A discount, or what a voucher pays, is taxed as something else is: the rule names as what.
        tax_class = way[1] if way[0] == "by_class" else charge.get("tax_class") or ""
        return _tax_code(tax_class, str(charge.get("nature") or Nature.GOODS), order, rules.tax_codes)
    if section == "payments" and way[:1] == ["accounts"] and rules.payments is not None:
        place = parts_of(reason.sources[0])
        if len(place) == 2 and place[0] == "payments":
            return _tender(order.payments[int(place[1])], rules)
    return iter(())


def _account(role: str, facts: Facts, rules: OrderRulebook) -> Iterator[RuleStep]:
    rule = rules.accounts.rule(role)
    if rule is None:
        return
    for name, codes in rule.overrides.items():
        met = getattr(facts, name)
        at = f"/accounts/{role}/by_{name}"
        yield RuleStep(by=name.replace("_", " "), met=met, gave=codes.get(met, "") if met else "",
                       rule=f"{at}/{escaped(met)}" if met else at)  # fmt: skip
    yield RuleStep(by="default", gave=rule.default, rule=f"/accounts/{role}")


def facts_of(charge: dict[str, Any], order: Order) -> Facts:
    """What the rules for an account look at, of a charge of an order."""
    return Facts(
        product=charge.get("sku") or "",
        product_type=charge.get("product_type") or "",
        customer=(order.buyer.account_id or "") if order.buyer else "",
        customer_group=order.customer_group,
        channel=order.channel,
        country=order.country,
        treatment=str(order.treatment or ""),
    )


def _tax_code(tax_class: str, nature: str, order: Order, rules: TaxRules) -> Iterator[RuleStep]:
    country = taxed_in(nature, order)
    for place, exception in enumerate(rules.exceptions):
        fits = exception.fits(treatment=str(order.treatment or ""), country=country, tax_class=tax_class, nature=nature)
        yield RuleStep(by=exception.said, gave=exception.code if fits else "", rule=f"/tax_codes/exceptions/{place}")
    yield RuleStep(by="tax class", met=tax_class, gave=rules.by_class.get(tax_class, ""),
                   rule=f"/tax_codes/by_class/{escaped(tax_class)}")  # fmt: skip


def taxed_in(nature: str, order: Order) -> str:
    """The country that the tax of a charge goes by; see ``AccountCoding``: what is digital, where the buyer lives."""
    if nature == Nature.DIGITAL and order.buyer and order.buyer.billing:
        return order.buyer.billing.country or order.country
    return order.country


def _tender(money: Payment, rules: OrderRulebook) -> Iterator[RuleStep]:
    assert rules.payments is not None, "asked for where there are rules for payments"
    accounts = rules.payments.accounts
    for name, codes in accounts.overrides.items():
        met = str(getattr(money, name))
        at = f"/payments/accounts/by_{name}"
        yield RuleStep(by=name, met=met, gave=codes.get(met, "") if met else "",
                       rule=f"{at}/{escaped(met)}" if met else at)  # fmt: skip
    if accounts.default is not None:
        yield RuleStep(by="default", gave=accounts.default, rule="/payments/accounts/default")


def charge_at(said: Any, pointer: str) -> dict[str, Any]:
    """The part of the order that a pointer leads to; nothing of it where it leads to none."""
    for part in parts_of(pointer):
        if isinstance(said, list):
            said = said[int(part)] if part.isdecimal() and int(part) < len(said) else {}
        else:
            said = said.get(part, {}) if isinstance(said, dict) else {}
    return said if isinstance(said, dict) else {}
