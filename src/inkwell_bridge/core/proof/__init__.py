"""Proving what was carried: document by document, and in total."""

from inkwell_bridge.core.proof.amounts import (
    Coding,
    ReconcilingItem,
    coded_amounts,
    reconciling_items,
    tax_on_own_lines,
)
from inkwell_bridge.core.proof.document import prove
from inkwell_bridge.core.proof.edited import as_changed, edited_in_books
from inkwell_bridge.core.proof.reread import Reread, Verdict, next_reading, reread
from inkwell_bridge.core.proof.totals import Totals

__all__ = [
    "Coding",
    "ReconcilingItem",
    "Reread",
    "Totals",
    "Verdict",
    "as_changed",
    "coded_amounts",
    "edited_in_books",
    "next_reading",
    "prove",
    "reconciling_items",
    "reread",
    "tax_on_own_lines",
]
