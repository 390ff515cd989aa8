"""Accounts of money between the buyer and the bank: proved against the books, and what stands on them."""

from inkwell_bridge.core.clearing.at_bank import AtBank, beside_bank
from inkwell_bridge.core.clearing.at_provider import AtProvider, Compared, OneSided, beside_provider, by_column
from inkwell_bridge.core.clearing.columns import CLEARED, Column, Part, in_columns
from inkwell_bridge.core.clearing.proof import (
    AccountDay,
    AccountProof,
    AccountRead,
    Difference,
    Item,
    WhyDiffers,
    differences_of,
    prove_account,
)
from inkwell_bridge.core.clearing.standing import (
    AGES,
    Aged,
    OfDay,
    Standing,
    StandingItem,
    WhyStands,
    standing_of,
    why_standing,
)

__all__ = [
    "AGES",
    "CLEARED",
    "AccountDay",
    "AccountProof",
    "AccountRead",
    "Aged",
    "AtBank",
    "AtProvider",
    "Column",
    "Compared",
    "Difference",
    "Item",
    "OfDay",
    "OneSided",
    "Part",
    "Standing",
    "StandingItem",
    "WhyDiffers",
    "WhyStands",
    "beside_bank",
    "beside_provider",
    "by_column",
    "differences_of",
    "in_columns",
    "prove_account",
    "standing_of",
    "why_standing",
]
