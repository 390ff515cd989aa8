"""Closing a month: what is open, what a person accepts of it, the report that is frozen, and its seal."""

from inkwell_bridge.core.closing.months import Month
from inkwell_bridge.core.closing.open_items import (
    OpenDocument,
    OpenItem,
    PartAmount,
    not_accepted,
    open_items,
)
from inkwell_bridge.core.closing.report import (
    AcceptedItem,
    AgeOfOpen,
    ClosedReport,
    DifferingDocuments,
    MonthReport,
    ReportAccountRow,
    ReportBridge,
    ReportCompany,
    ReportDocument,
    ReportMoneyAccount,
    ReportPart,
    ReportPayout,
    ReportRow,
    account_row_of,
    row_of,
)
from inkwell_bridge.core.closing.seal import BrokenLink, Seal, broken_links, checksum_of

__all__ = [
    "AcceptedItem",
    "AgeOfOpen",
    "BrokenLink",
    "ClosedReport",
    "DifferingDocuments",
    "Month",
    "MonthReport",
    "OpenDocument",
    "OpenItem",
    "PartAmount",
    "ReportAccountRow",
    "ReportBridge",
    "ReportCompany",
    "ReportDocument",
    "ReportMoneyAccount",
    "ReportPart",
    "ReportPayout",
    "ReportRow",
    "Seal",
    "account_row_of",
    "broken_links",
    "checksum_of",
    "not_accepted",
    "open_items",
    "row_of",
]
