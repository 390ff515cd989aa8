"""Which accounts the entries of a provider's payouts stand on."""

from __future__ import annotations

from collections.abc import Iterator

from inkwell_bridge.core.books import AccountType
from inkwell_bridge.core.values import Code, Value

_BANK, _ASSET, _LIABILITY = AccountType.BANK, AccountType.ASSET, AccountType.LIABILITY
_COSTS = frozenset({AccountType.EXPENSE, AccountType.INCOME})
# The types that each role may use, by trade practice.
PAYOUT_ACCOUNT_TYPES: dict[str, frozenset[AccountType]] = {
    "bank": frozenset({_BANK}),
    "on_its_way": frozenset({_BANK, _ASSET}),
    "clearing": frozenset({_BANK, _ASSET}),
    "fees": _COSTS,
    "fee_tax": frozenset({_LIABILITY, _ASSET, AccountType.EXPENSE}),
    "chargebacks": _COSTS,
    "reserves": frozenset({_BANK, _ASSET}),
    "conversions": _COSTS,
    "taxes_kept": frozenset({_LIABILITY, _ASSET, AccountType.EXPENSE}),
    "corrections": _COSTS,
    "subscriptions": _COSTS,
    "advertising": _COSTS,
    "shipping_labels": _COSTS,
    "referral_fees": _COSTS,
    "fulfilment_fees": _COSTS,
    "suspense": frozenset({_ASSET, _LIABILITY}),
}


class PayoutRules(Value):
    """The account of each role of a payout. What an entry needs and no rule names holds the payout.

    Shape: ``clearing`` is the account that receipts of the provider's charges debit. With ``on_its_way`` the sum stands
    on that until the bank has it, and on ``bank`` at once without. ``suspense`` takes what is of no known order. With
    ``currencies`` (ISO 4217) payouts in these alone cross; those in others are left out.
    Source: trade practice; a payout is one journal, so that the bank's one line finds one posting.
    """

    bank: Code
    clearing: Code
    on_its_way: Code | None = None
    fees: Code | None = None
    fee_tax: Code | None = None
    chargebacks: Code | None = None
    reserves: Code | None = None
    conversions: Code | None = None
    taxes_kept: Code | None = None
    corrections: Code | None = None
    subscriptions: Code | None = None
    advertising: Code | None = None
    shipping_labels: Code | None = None
    referral_fees: Code | None = None
    fulfilment_fees: Code | None = None
    suspense: Code | None = None
    currencies: tuple[Code, ...] = ()

    def account(self, role: str) -> str | None:
        """The account of a role, where one is named."""
        found: str | None = getattr(self, role)
        return found

    @property
    def codes(self) -> Iterator[tuple[str, str]]:
        """Every role that has an account, with that."""
        for role in PAYOUT_ACCOUNT_TYPES:
            code = self.account(role)
            if code is not None:
                yield role, code
