"""Keys of ledger accounts."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.core.rulebook.accounts import ALLOWED_TYPES
from inkwell_bridge.core.rulebook.schema.levels import levels
from inkwell_bridge.core.rulebook.schema.shapes import code_of, group

_MEANT = {
    "sales": "Goods and services.",
    "shipping": "Carriage charged to buyers.",
    "discounts": "Discounts on lines of their own; without it they stand on the account of what they reduce.",
    "goodwill": "Money given back with no line to it.",
    "tips": "Tips that buyers add.",
    "donations": "Donations that are passed on.",
    "duties": "Duties collected in advance.",
    "surcharges": "Other charges, such as for hazardous goods.",
    "gift_cards": "Gift cards that could buy anything: a debt until they are used, and where their use is posted.",
    "vouchers": "Vouchers for one known thing at one known rate, taxed when they are sold.",
    "deposits": "Money for what is delivered later.",
    "tax": "Taxes that stand on lines of their own.",
    "rounding": "Where a penny goes that the books compute differently, and the rounding of cash.",
    "exchange_differences": "What money in another currency gained or lost between its document and its payment.",
    "write_offs": "Small balances that are given up, both ways.",
}
# As the demo's books have them.
_SHOWN = {"sales": "4000", "shipping": "4100", "discounts": "4800", "goodwill": "4900", "tips": "4200",
          "donations": "2320", "duties": "2330", "surcharges": "4300", "gift_cards": "2310", "vouchers": "2340",
          "deposits": "2300", "tax": "2210", "rounding": "8200",
          "exchange_differences": "8300", "write_offs": "8400"}  # fmt: skip


def _role(role: str) -> dict[str, Any]:
    types = " or ".join(sorted(ALLOWED_TYPES[role]))
    account = code_of("books", "accounts", *ALLOWED_TYPES[role])
    default = {**account, "description": "The account where nothing below fits.", "examples": ["4000"]}
    one = group(
        "A default, and what goes before it.", {"default": default, **levels(account, "4020")}, required=("default",)
    )
    return {
        "description": f"{_MEANT[role]} An account of type {types}.",
        "oneOf": [account, one],
        "examples": [_SHOWN[role]],
        "x-findings": ["REF-E001", "REF-E002"],
    }


ACCOUNTS = group(
    "Ledger accounts by role, by their code in the books: a code, or a group of default and of what goes before it for "
    "some sales (see Settings on levels).",
    {role: _role(role) for role in ALLOWED_TYPES},
    required=("sales", "shipping", "rounding"),
)
