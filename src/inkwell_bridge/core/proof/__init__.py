"""Proving what was carried: document by document, and in total."""

from inkwell_bridge.core.proof.amounts import (
    Coding,
    ReconcilingItem,
    coded_amounts,
    reconciling_items,
    tax_on_own_lines,
)
from inkwell_bridge.core.proof.apart import Between, Gap, gaps, is_of_money, not_as_money
from inkwell_bridge.core.proof.document import prove
from inkwell_bridge.core.proof.edited import as_changed, edited_in_books
from inkwell_bridge.core.proof.figure import Amounts, Grain, Key, Section, Side, added
from inkwell_bridge.core.proof.reread import Reread, Verdict, next_reading, reread
from inkwell_bridge.core.proof.sheet import (
    Part,
    Place,
    Reason,
    SheetRow,
    Summed,
    sheet_rows,
    with_both,
)
from inkwell_bridge.core.proof.totals import Totals

__all__ = [
    "Amounts",
    "Between",
    "Coding",
    "Gap",
    "Grain",
    "Key",
    "Part",
    "Place",
    "Reason",
    "ReconcilingItem",
    "Reread",
    "Section",
    "SheetRow",
    "Side",
    "Summed",
    "Totals",
    "Verdict",
    "added",
    "as_changed",
    "coded_amounts",
    "edited_in_books",
    "gaps",
    "is_of_money",
    "next_reading",
    "not_as_money",
    "prove",
    "reconciling_items",
    "reread",
    "sheet_rows",
    "tax_on_own_lines",
    "with_both",
]
