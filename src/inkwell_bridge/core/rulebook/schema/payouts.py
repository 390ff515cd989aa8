"""Keys of payouts."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.core.rulebook.payouts import PAYOUT_ACCOUNT_TYPES
from inkwell_bridge.core.rulebook.schema.shapes import code_of, group

_MEANT = {
    "bank": "The bank account that payouts arrive on.",
    "on_its_way": "Where a payout stands between the day it was made and the day the bank has it; without it the "
    "bank account is debited at once, on the day that it arrives.",
    "clearing": "What the provider owes: receipts of its charges stand there until it pays them out, and refunds were "
    "paid from there.",
    "fees": "What the provider keeps for itself, of single charges and else.",
    "fee_tax": "Tax on those fees.",
    "chargebacks": "What a buyer's bank took back; what is won again goes back there.",
    "reserves": "What the provider keeps for a while.",
    "conversions": "What converting between currencies gained or lost.",
    "taxes_kept": "Taxes that the provider keeps and remits.",
    "corrections": "Corrections of earlier payouts.",
    "subscriptions": "What the provider's own service costs.",
    "advertising": "What a marketplace charges for advertising.",
    "shipping_labels": "Shipping labels bought from the provider.",
    "referral_fees": "A marketplace's share of each sale.",
    "fulfilment_fees": "What a marketplace charges for sending goods.",
    "suspense": "Charges and refunds whose order nobody here knows; without it they hold the payout.",
}
_SHOWN = {"bank": "1200", "on_its_way": "1210", "clearing": "1250", "reserves": "1270", "fee_tax": "2200",
          "taxes_kept": "2210", "suspense": "2390", "chargebacks": "7510"}  # fmt: skip


def _role(role: str) -> dict[str, Any]:
    types = PAYOUT_ACCOUNT_TYPES[role]
    return {**code_of("books", "accounts", *types),
            "description": f"{_MEANT[role]} An account of type {' or '.join(sorted(types))}.",
            "examples": [_SHOWN.get(role, "7500")], "x-findings": ["PAYOUT-E003", "REF-E001", "REF-E002"]}  # fmt: skip


PAYOUTS = group(
    "What a payment provider or a marketplace pays out, one journal each: the account of each role. What an entry "
    "needs and nothing names holds the payout.",
    {
        **{role: _role(role) for role in PAYOUT_ACCOUNT_TYPES},
        "currencies": {
            "type": "array",
            "minItems": 1,
            "uniqueItems": True,
            "items": {"type": "string", "pattern": "^[A-Z]{3}$"},
            "description": "Payouts in these currencies alone; those in others are left out. Without it all of them "
            "cross, and one that the books do not keep is held.",
            "examples": [["EUR"]],
            "x-findings": ["PAYOUT-E006"],
        },
    },
    required=("bank", "clearing"),
    examples=[{"bank": "1200", "clearing": "1250", "fees": "7500", "fee_tax": "2200"}],
)
