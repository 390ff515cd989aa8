"""Where the money of an order goes: tenders to accounts, refunds to credit notes, the penny to its place."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import ROUND_DOWN, Decimal
from functools import cached_property
from typing import Literal

from inkwell_bridge.core.commerce import Payment, Teller
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.money import minor_unit
from inkwell_bridge.core.rulebook.levels import Chosen, tables
from inkwell_bridge.core.values import Code, Exact, Value

# What the account of a tender can hang on, first to last: the first that fits wins.
PRECEDENCE = ("brand", "gateway", "method", "tender")


class TenderRules(Value):
    """The account that each kind of money comes in on; without a default, money that no rule fits is held."""

    default: Code | None = None
    by_brand: dict[str, Code] = {}
    by_gateway: dict[str, Code] = {}
    by_method: dict[str, Code] = {}
    by_tender: dict[str, Code] = {}

    @cached_property
    def overrides(self) -> dict[str, dict[str, Code]]:
        """The codes that go before the default, by what they hang on, in the order in which they are tried."""
        return tables(self, PRECEDENCE)

    def chosen(self, money: Payment) -> Chosen | None:
        """The account for a payment, by the fixed precedence; nothing where no rule has one."""
        for name, codes in self.overrides.items():
            met = str(getattr(money, name))
            code = codes.get(met) if met else None
            if code:
                text = f"Money by {name} '{met}' goes to {code}."
                return Chosen(code, f"/payments/accounts/by_{name}/{escaped(met)}", text)
        if self.default is None:
            return None
        return Chosen(self.default, "/payments/accounts/default", f"Other money goes to {self.default}.")

    def codes(self) -> Iterator[tuple[str, str]]:
        """Every account it names, with its JSON Pointer."""
        if self.default is not None:
            yield "/payments/accounts/default", self.default
        for name, codes in self.overrides.items():
            for met, code in codes.items():
                yield f"/payments/accounts/by_{name}/{escaped(met)}", code


class TellerRules(Value):
    """Who tells of each kind of money, so that it is posted once: the first that fits, as with accounts.

    Source: trade practice; shop, provider and bank see the same money, and one of them is believed.
    """

    default: Teller = Teller.SALES_SIDE
    by_brand: dict[str, Teller] = {}
    by_gateway: dict[str, Teller] = {}
    by_method: dict[str, Teller] = {}
    by_tender: dict[str, Teller] = {}

    @cached_property
    def overrides(self) -> dict[str, dict[str, Teller]]:
        """What goes before the default, in the order in which it is tried."""
        return {name: getattr(self, f"by_{name}") for name in PRECEDENCE}

    def of(self, money: Payment) -> tuple[Teller, str]:
        """Who tells of a payment, with the rule that says so."""
        for name, tellers in self.overrides.items():
            met = str(getattr(money, name))
            if met and met in tellers:
                return tellers[met], f"/payments/told_by/by_{name}/{escaped(met)}"
        return self.default, "/payments/told_by/default"

    @property
    def every(self) -> frozenset[Teller]:
        """All that are believed of anything."""
        return frozenset({self.default, *(one for tellers in self.overrides.values() for one in tellers.values())})


_BY_SALES_SIDE = TellerRules()


class VoucherRules(Value):
    """A voucher for one known thing was taxed when it was sold; used, it is deducted with its tax.

    Source: directive 2006/112/EC, article 30b (single-purpose vouchers).
    """

    taxed_as: Code


class PaymentRules(Value):
    """Payments are carried, each as a document of its own; ``told_by`` says who is believed of them, and ``vouchers``
    are deducted where there is a rule for them."""

    accounts: TenderRules
    told_by: TellerRules | None = None
    vouchers: VoucherRules | None = None

    @property
    def tellers(self) -> TellerRules:
        """Who is believed: the sales side of all money, where nothing is said."""
        return self.told_by or _BY_SALES_SIDE


class RefundRules(Value):
    """Refunds are carried, as credit notes and the money that went back.

    ``money_differs`` says what becomes of one whose money is not its credit: a person looks, or the difference stays
    open on the customer's account. ``beyond_paid`` says whether an amount beyond what was paid is a person's to judge,
    or a kindness.
    """

    arrive: Literal["posted", "draft"] = "posted"
    beyond_paid: Literal["hold", "goodwill"] = "hold"
    money_differs: Literal["hold", "leave open"] = "hold"


class PennyRules(Value):
    """What becomes of a difference between the shop's and the books' totals.

    Units: ``allowance`` is in the company's own currency; ``by_currency`` names others'.
    """

    allowance: Exact
    by_currency: dict[Code, Exact] = {}
    goes_to: Literal["rounding account", "largest line", "hold"] = "rounding account"

    def allowed(self, currency: str, *, own: str) -> Decimal:
        """The largest difference that is settled by rule in a currency.

        One that is not named may be as many minor units apart as the company's ``own``, for that is what rounding
        makes: five pence, five yen, five fils; and one at the least where there is any allowance.
        """
        if currency in self.by_currency:
            return self.by_currency[currency]
        if currency == own or not self.allowance:
            return self.allowance
        units = max((self.allowance / minor_unit(own)).to_integral_value(rounding=ROUND_DOWN), Decimal(1))
        return units * minor_unit(currency)
