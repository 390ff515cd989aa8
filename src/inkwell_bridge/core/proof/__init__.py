"""Proving what was carried: document by document, and in total."""

from inkwell_bridge.core.proof.amounts import (
    Coding,
    ReconcilingItem,
    coded_amounts,
    reconciling_items,
    tax_on_own_lines,
)
from inkwell_bridge.core.proof.apart import Between, Gap, gaps, is_of_money, not_as_money, table_of
from inkwell_bridge.core.proof.document import prove
from inkwell_bridge.core.proof.edited import as_changed, edited_in_books, without
from inkwell_bridge.core.proof.figure import (
    IN_TOTALS,
    OF_CODES,
    Amounts,
    Grain,
    Key,
    Reconciles,
    Section,
    Side,
    Table,
    added,
    tables_of,
)
from inkwell_bridge.core.proof.reread import Reread, Verdict, next_reading, reread
from inkwell_bridge.core.proof.sheet import (
    BOTH,
    SETTLED,
    WITH_DETAIL,
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
    "BOTH",
    "IN_TOTALS",
    "OF_CODES",
    "SETTLED",
    "WITH_DETAIL",
    "Amounts",
    "Between",
    "Coding",
    "Gap",
    "Grain",
    "Key",
    "Part",
    "Place",
    "Reason",
    "Reconciles",
    "ReconcilingItem",
    "Reread",
    "Section",
    "SheetRow",
    "Side",
    "Summed",
    "Table",
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
    "table_of",
    "tables_of",
    "tax_on_own_lines",
    "with_both",
    "without",
]
