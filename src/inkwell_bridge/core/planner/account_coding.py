"""Where a charge belongs: its account by role, its tax code; and what no rule has a place for."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal

from inkwell_bridge.core.commerce import Nature, Order
from inkwell_bridge.core.findings import Cause, Finding, source_error
from inkwell_bridge.core.planner.charges import PlannedCharge
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.rulebook.levels import Chosen, Facts, facts_of_charge
from inkwell_bridge.core.rulebook.taxes import Supply

# What bears no tax by its nature: money kept for later, or passed on.
_UNTAXED_ROLES = frozenset({"gift_cards", "tips", "donations", "duties", "goodwill"})


class AccountCoding:
    """The places that the rules give to the charges of one order."""

    def __init__(self, order: Order, context: PlanningContext) -> None:
        self._order, self._setting = order, context
        self.rules = context.rulebook
        # Most lines of an order are of few kinds, and what was chosen for one goes for all of them.
        self._accounts: dict[tuple[str, ...], Chosen] = {}
        self._facts: dict[tuple[str, str, str], Facts] = {}
        self._codes: dict[tuple[object, ...], Chosen | None] = {}

    def account(self, charge: PlannedCharge, role: str = "") -> Chosen:
        """The account of a charge."""
        name = role or charge.role
        # Tags, customer, channel, country and treatment are the order's, and so the same for all of its lines.
        key = (name, *_article(charge))
        found = self._accounts.get(key)
        if found is None:
            rule = self.rules.accounts.rule(name)
            assert rule is not None, f"no rule for {name}, which missing() tells"
            found = self._accounts[key] = rule.chosen(name, self.facts(charge))
        return found

    def discount_account(self, charge: PlannedCharge) -> Chosen:
        """The account of a discount that stands on a line of its own; without one, that of what it reduces."""
        return self.account(charge, "discounts" if self.rules.accounts.discounts else "")

    def tax_account(self, name: str) -> Chosen:
        """The account of a tax that stands on a line of its own; overrides by product are by the tax's name."""
        rule = self.rules.accounts.tax
        assert rule is not None, "no rule for tax, which missing() tells"
        return rule.chosen("tax", facts_of_charge(self._order, product=name))

    def code(self, charge: PlannedCharge) -> Chosen:
        """The tax code of a charge."""
        chosen = self.code_or_none(charge)
        assert chosen is not None, "a class without a code, which missing() tells"
        return chosen

    def outside(self, rule: str) -> Chosen:
        """The code outside tax."""
        code = self.rules.tax_codes.outside
        return Chosen(code, rule, f"Outside tax: {code}.")

    def rate(self, article: PlannedCharge) -> Decimal | None:
        """The rate of the code for an article of a kit; nothing where it has none."""
        # Articles of kits are goods, whatever the kit is sold as.
        supply = Supply(self._order.country, article.tax_class, str(Nature.GOODS))
        chosen = self.rules.tax_codes.chosen(self.facts(article), supply)
        return self._setting.master_data.rate(chosen.code) if chosen else None

    def rate_of(self, charge: PlannedCharge) -> Decimal | None:
        """The rate of the code of a charge; nothing where it has none."""
        chosen = self.code_or_none(charge)
        return self._setting.master_data.rate(chosen.code) if chosen else None

    @property
    def own_currency(self) -> str:
        """The currency that the books are kept in."""
        return self._setting.master_data.currency

    @property
    def rounds_by(self) -> str:
        """How tax that is worked out is rounded: as the books do, where it is theirs to compute."""
        rules = self.rules.tax_codes
        return self._setting.capabilities.tax_rounded_by if rules.carry == "books compute" else rules.rounded_by

    def taxes_apart(self, charge: PlannedCharge) -> bool:
        """Whether the taxes of a charge stand on lines of their own."""
        return self.rules.tax_codes.stands_on_lines(charge.tax_class)

    def missing(self, charges: Sequence[PlannedCharge]) -> list[Finding]:
        """An error for everything that no rule has a place for."""
        found: list[Finding] = []
        # One of a kind that has everything speaks for all of that kind; what lacks something is told for each line.
        complete: set[tuple[object, ...]] = set()
        for charge in charges:
            kind = (*self._kind(charge), bool(charge.kept))
            if kind not in complete:
                told = [*self._missing(charge)]
                found += told
                if not told:
                    complete.add(kind)
        return found

    def _missing(self, charge: PlannedCharge) -> Iterator[Finding]:
        if self.rules.accounts.rule(charge.role) is None:
            what = f"'{charge.title[:80]}' of {charge.amount} {self._order.currency}"
            yield self._ruleless(charge.at, f"{what}, and the rulebook names no account for {charge.role}",
                                 f"Add accounts: {charge.role} to the rulebook")  # fmt: skip
        if charge.kept and self.rules.tax_codes.kept == "hold":
            yield self._ruleless(f"{charge.at}/taxes", "a tax that the marketplace keeps, and the rulebook holds such",
                                 "Set tax_codes: kept to 'leave out'")  # fmt: skip
        if self.code_or_none(charge) is None:
            yield self._unmapped(charge)
        # Without an account the tax would have to hide in the price, and the sale would be too large by it.
        if charge.own and charge.tax and self.taxes_apart(charge) and self.rules.accounts.tax is None:
            yield self._ruleless(f"{charge.at}/taxes", "a tax for a line of its own, and the rulebook names no account "
                                 "for tax", "Add accounts: tax to the rulebook")  # fmt: skip

    def code_or_none(self, charge: PlannedCharge) -> Chosen | None:
        """The tax code of a charge; nothing where no rule has one."""
        key = self._kind(charge)
        if key not in self._codes:
            self._codes[key] = self._chosen_code(charge)
        return self._codes[key]

    def _kind(self, charge: PlannedCharge) -> tuple[object, ...]:
        """What two charges of an order have in common that have the same tax code."""
        kind = (charge.role, charge.nature, charge.tax_class, not charge.tax)
        return (*kind, *_article(charge)) if self.rules.tax_codes.by_article else kind

    def _chosen_code(self, charge: PlannedCharge) -> Chosen | None:
        supply = Supply(taxed_in(charge.nature, self._order), charge.tax_class, str(charge.nature))
        found = self.rules.tax_codes.chosen(self.facts(charge), supply)
        untaxed = not charge.tax and (charge.role in _UNTAXED_ROLES or not charge.tax_class)
        # What bears no tax never stands under a code with a rate: it would count as taxed in the tax return.
        if untaxed and (found is None or charge.role == "gift_cards" or self._setting.master_data.rate(found.code)):
            return self.outside("/tax_codes/outside")
        return found

    def facts(self, charge: PlannedCharge) -> Facts:
        """What settings go by, of a charge."""
        article = product, product_type, location = _article(charge)
        found = self._facts.get(article)
        if found is None:
            found = self._facts[article] = facts_of_charge(
                self._order, product=product, product_type=product_type, location=location
            )
        return found

    def _unmapped(self, charge: PlannedCharge) -> Finding:
        name = charge.tax_class
        return source_error(
            "TAX-E001",
            f"{charge.at}/tax_class",
            f"Tax class '{name}' has no tax code (order {self._order.number}, {charge.title[:80]}).",
            f"Add '{name}' under tax_codes: by_class in the rulebook, then release the order.",
            cause=Cause.TAX_CLASS_UNMAPPED,
        )

    def _ruleless(self, at: str, what: str, do: str) -> Finding:
        return source_error(
            "PLAN-E002",
            at,
            f"Order {self._order.number} holds {what}.",
            f"{do}, then release the order; or leave such orders out.",
            cause=Cause.RULE_MISSING,
        )


def taxed_in(nature: Nature, order: Order) -> str:
    """The country that the tax of a charge goes by."""
    if nature is Nature.DIGITAL and order.buyer and order.buyer.billing:
        # What is digital is taxed where the buyer lives (directive 2006/112/EC, article 58).
        return order.buyer.billing.country or order.country
    return order.country


def _article(charge: PlannedCharge) -> tuple[str, str, str]:
    """What tells the charges of one order apart, of all that settings go by."""
    return charge.sku, charge.product_type, charge.location
