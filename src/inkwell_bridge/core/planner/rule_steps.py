"""Which rules were asked for a value of a plan, in their order, up to the one that answered."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any, NamedTuple

from inkwell_bridge.core.commerce import Nature, Order, Payment
from inkwell_bridge.core.json_pointer import escaped, parts_of
from inkwell_bridge.core.planner.account_coding import taxed_in
from inkwell_bridge.core.planner.plan import Plan, Reason
from inkwell_bridge.core.rulebook import OrderRulebook
from inkwell_bridge.core.rulebook.fields import FieldRule
from inkwell_bridge.core.rulebook.levels import Facts, Levelled, facts_of_charge, facts_of_order, rule_of
from inkwell_bridge.core.rulebook.orders import ByLevel
from inkwell_bridge.core.rulebook.taxes import Supply, TaxRules
from inkwell_bridge.core.values import Text, Value

_LONGEST_MET = 200


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
    """The steps to everything in an order's plan that some sales have otherwise: accounts, codes, warehouses,
    dimensions, terms, what it is put down to, and the kind of document.

    They are worked out anew from the order; where that does not lead to the rule which the plan itself names, nothing
    is said.
    """
    # A plan keeps the rule that answered and not those before it, to stay small; they are asked once more here.
    asker, found = _Asker(plan.as_json(), order, order.as_json(), rules), []
    for reason in (*plan.reasons, *_usual(plan, rules)):
        asked = list(_until_answered(asker.asked(reason)))
        # Where the way back to the charge is not clear (a discount over several lines), silence is better than a guess.
        if asked and asked[-1].gave and asked[-1].rule == reason.rule:
            found.append(RuleSteps(target=reason.target, steps=tuple(asked)))
    return tuple(found)


def _usual(plan: Plan, rules: OrderRulebook) -> Iterator[Reason]:
    """As a reason, every setting of which some sales have it otherwise and this one does not: a plan gives none."""
    given = {reason.target: reason for reason in plan.reasons}
    header = [("role", rules.orders.become, "/orders/become"), ("terms", rules.fields.terms, "/fields/terms")]
    for index, document in enumerate(plan.documents):
        at = f"/documents/{index}"
        asked: list[tuple[str, str, Levelled | None, str]] = [
            (f"{at}/{name}", "", rule, where)
            for name, rule, where in header
            # What an order becomes is its first document; what follows is no setting of its own.
            if getattr(document, name, "") and (name != "role" or index == 0)
        ]
        for number, line in enumerate(getattr(document, "lines", ())):
            coded = given.get(f"{at}/lines/{number}/account")
            source = coded.sources[0] if coded else ""
            if line.warehouse:
                asked.append((f"{at}/lines/{number}/warehouse", source, rules.warehouses, "/warehouses"))
            asked += [
                (f"{at}/lines/{number}/dimensions/{place}/value", source, rules.dimensions.get(one.name),
                 f"/dimensions/{escaped(one.name)}")
                for place, one in enumerate(line.dimensions)
            ]  # fmt: skip
        for target, source, rule, where in asked:
            if rule is not None and rule.overrides and target not in given:
                yield Reason(target=target, sources=(source,), rule=where, text="")


def _until_answered(steps: Iterator[RuleStep]) -> Iterator[RuleStep]:
    for step in steps:
        yield step
        if step.gave:
            return


class _Asker(NamedTuple):
    """What the rules are asked with once more: the plan and its order, both also as JSON."""

    plan: dict[str, Any]
    order: Order
    said: dict[str, Any]
    rules: OrderRulebook

    def asked(self, reason: Reason) -> Iterator[RuleStep]:
        """Every rule that is asked for the value of a reason, in their order."""
        section, *way = parts_of(reason.rule) if reason.rule.startswith("/") else [""]
        source = reason.sources[0] if reason.sources else ""
        if section == "tax_codes" and reason.target.endswith("/tax_code"):
            charge = self.charge(reason, source.removesuffix("/tax_class"))
            # A discount, or what a voucher pays, is taxed as something else is: the rule names as what.
            tax_class = way[1] if way[0] == "by_class" else charge.get("tax_class") or ""
            return _tax_code(tax_class, charge, self.order, self.rules.tax_codes)
        place = parts_of(source)
        if section == "payments" and way[:1] == ["accounts"] and len(place) == 2 and place[0] == "payments":
            return _tender(self.order.payments[int(place[1])], self.rules)
        found = _levelled(section, way, self.rules)
        if found is None:
            return iter(())
        setting, at, default = found
        facts = facts_at(self.charge(reason, source), self.order) if source else facts_of_order(self.order)
        return _levels(setting, at, facts, default or str(_at(self.plan, reason.target)))

    def charge(self, reason: Reason, source: str) -> dict[str, Any]:
        """The charge that a line of the plan comes from; of a kit, the article that the line is for."""
        charge = charge_at(self.said, source)
        line = _at(self.plan, reason.target.rpartition("/")[0])
        reference = line.get("line_reference", "") if isinstance(line, dict) else ""
        number = reference.removeprefix(f"{charge.get('id')}.")
        articles = charge.get("components") or ()
        # A line for an article of a kit bears the line's own name with the article's number behind it.
        if not number.isdecimal() or not 0 < int(number) <= len(articles) or number == reference:
            return charge
        article = articles[int(number) - 1]
        own = {"sku": article["sku"], "tax_class": article.get("tax_class") or charge.get("tax_class")}
        return {**charge, **own, "nature": str(Nature.GOODS)}


def _levelled(section: str, way: Sequence[str], rules: OrderRulebook) -> tuple[Levelled, str, str] | None:
    """The setting that a rule belongs to, where it stands, and its default where that is a plain code."""
    match section, *way:
        case "accounts", role, *_ if role != "tax" and (account := rules.accounts.rule(role)) is not None:
            return account, f"/accounts/{role}", account.default
        case "warehouses", *_:
            return rules.warehouses, "/warehouses", rules.warehouses.default
        case "dimensions", name, *_ if name in rules.dimensions:
            return rules.dimensions[name], f"/dimensions/{escaped(name)}", ""
        case "fields", name, *_ if isinstance(field := getattr(rules.fields, name, None), FieldRule):
            return field, f"/fields/{name}", ""
        case "orders", ("become" | "arrive") as name, *_:
            rule: ByLevel = getattr(rules.orders, name)
            return rule, f"/orders/{name}", rule.default
    return None


def _levels(setting: Levelled, at: str, facts: Facts, default: str) -> Iterator[RuleStep]:
    for level in setting.asked(facts):
        # Of many tags the first few tell as well that none of them is in the table.
        met = (level.fits or ", ".join(level.met))[:_LONGEST_MET]
        yield RuleStep(by=level.name.replace("_", " "), met=met, gave=level.gave,
                       rule=rule_of(at, level.name, level.fits) if level.fits else f"{at}/by_{level.name}")  # fmt: skip
    yield RuleStep(by="default", gave=default, rule=at)


def facts_at(charge: Mapping[str, Any], order: Order) -> Facts:
    """What settings go by, of a charge of an order as JSON."""
    return facts_of_charge(
        order,
        product=charge.get("sku") or "",
        product_type=charge.get("product_type") or "",
        location=charge.get("location") or "",
    )


def _tax_code(tax_class: str, charge: Mapping[str, Any], order: Order, rules: TaxRules) -> Iterator[RuleStep]:
    nature = Nature(charge.get("nature") or Nature.GOODS)
    facts, supply = facts_at(charge, order), Supply(taxed_in(nature, order), tax_class, str(nature))
    for place, exception in enumerate(rules.exceptions):
        fits = exception.fits(facts, supply)
        yield RuleStep(by=exception.said, gave=exception.code if fits else "", rule=f"/tax_codes/exceptions/{place}")
    yield RuleStep(by="tax class", met=tax_class, gave=rules.by_class.get(tax_class, ""),
                   rule=f"/tax_codes/by_class/{escaped(tax_class)}")  # fmt: skip


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
    found = _at(said, pointer)
    return found if isinstance(found, dict) else {}


def _at(said: Any, pointer: str) -> Any:
    for part in parts_of(pointer):
        if isinstance(said, list):
            said = said[int(part)] if part.isdecimal() and int(part) < len(said) else {}
        else:
            said = said.get(part, {}) if isinstance(said, dict) else {}
    return said
