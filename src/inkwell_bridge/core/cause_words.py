"""The causes of holds as people read them."""

from __future__ import annotations

from inkwell_bridge.core.findings import Cause

CAUSE_WORDS: dict[str, str] = {
    Cause.SOURCE_INVALID: "the order does not add up",
    Cause.CURRENCY_NOT_KEPT: "the other side does not keep its currency",
    Cause.RATE_MISSING: "no exchange rate is known for its day",
    Cause.TAX_CLASS_UNMAPPED: "a tax class has no tax code",
    Cause.TAX_UNCLEAR: "the tax cannot be shared out",
    Cause.RULE_MISSING: "no rule says where an amount goes",
    Cause.CUSTOMER_UNCLEAR: "the customer is unclear",
    Cause.ITEM_UNCLEAR: "the item is unclear",
    Cause.REFERENCE_MISSING: "the rulebook names what the books lack",
    Cause.RULEBOOK_INVALID: "the rulebook cannot be used",
    Cause.PENNY: "the difference is over the allowance",
    Cause.CODE_RATE: "the books have another rate for a tax code by now",
    Cause.BOOKS_REFUSED: "the books refused the document",
    Cause.SALES_REFUSED: "the sales side refused the document",
    Cause.PERIOD_LOCKED: "the books are locked for its date",
    Cause.TYPED_IN: "somebody typed it into the books",
    Cause.OUTCOME_UNCLEAR: "the outcome is unclear",
    Cause.SOURCE_CHANGED: "the order changed after it was posted",
    Cause.BOOKS_EDITED: "somebody changed it in the books",
    Cause.ORDER_FIRST: "its order is not carried yet",
    Cause.INVOICE_FIRST: "its order is not invoiced yet",
    Cause.NOT_PROVED: "the books hold something else than was planned",
    Cause.CHANGED_THERE: "somebody changed what was posted",
    Cause.VOIDED_THERE: "it was voided in the books",
    Cause.MISSING_THERE: "it is not in the books any more",
    Cause.TWICE_THERE: "it stands in the books twice",
    Cause.REFERENCE_CHANGED: "its reference in the books is another",
    Cause.UNFORESEEN: "Inkwell Bridge itself failed",
}


def detail_in_words(detail: str) -> str:
    """What stands beside a reason: the cause of a hold, or the rule that left something out by its place (JSON
    Pointer)."""
    if detail.startswith("/"):
        return f"the rulebook’s {' › '.join(detail.strip('/').split('/'))}"
    return CAUSE_WORDS.get(detail, detail)
