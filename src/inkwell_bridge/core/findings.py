"""Findings: what a check has to say, under an id that is never used again for anything else."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum

from inkwell_bridge.core.values import Code, Said, Value


class Level(StrEnum):
    """How much a finding weighs."""

    NOTE = "note"
    WARNING = "warning"
    ERROR = "error"


class Cause(StrEnum):
    """Why a crossing waits for a person: the fixed list by which holds are grouped."""

    SOURCE_INVALID = "source-invalid"
    CURRENCY_NOT_KEPT = "currency-not-kept"
    RATE_MISSING = "rate-missing"
    TAX_CLASS_UNMAPPED = "tax-class-unmapped"
    TAX_UNCLEAR = "tax-unclear"
    RULE_MISSING = "rule-missing"
    CUSTOMER_UNCLEAR = "customer-unclear"
    ITEM_UNCLEAR = "item-unclear"
    REFERENCE_MISSING = "reference-missing"
    RULEBOOK_INVALID = "rulebook-invalid"
    PENNY = "penny-over-allowance"
    CODE_RATE = "code-rate-changed"
    BOOKS_REFUSED = "books-refused"
    SALES_REFUSED = "sales-side-refused"
    PERIOD_LOCKED = "period-locked"
    TYPED_IN = "typed-in-books"
    OUTCOME_UNCLEAR = "outcome-unclear"
    SOURCE_CHANGED = "source-changed"
    BOOKS_EDITED = "edited-in-books"
    ORDER_FIRST = "order-first"
    INVOICE_FIRST = "invoice-first"
    NOT_PROVED = "not-proved"
    CHANGED_THERE = "changed-in-books"
    VOIDED_THERE = "voided-in-books"
    MISSING_THERE = "missing-in-books"
    TWICE_THERE = "twice-in-books"
    REFERENCE_CHANGED = "reference-changed"
    UNFORESEEN = "unforeseen"


# What reading a document back in the books may find: posted otherwise than planned, or not as it was any more.
DIFFERS_THERE = frozenset({Cause.NOT_PROVED, Cause.CHANGED_THERE, Cause.VOIDED_THERE, Cause.MISSING_THERE,
                           Cause.TWICE_THERE, Cause.REFERENCE_CHANGED})  # fmt: skip


class Finding(Value):
    """One thing worth saying.

    Shape: ``id`` such as ``TAX-E002`` (area, weight, number); ``text`` names the thing, the rule and
    the value met; ``hint`` says what to do; ``at`` is a JSON Pointer into the document or rulebook;
    ``line`` counts from 1 in the file, where there is one; ``cause`` groups what holds a crossing.
    """

    id: Code
    level: Level
    text: Said
    hint: Said = ""
    at: Said = ""
    line: int | None = None
    cause: Cause | None = None


def source_error(code: str, at: str, text: str, hint: str, *, cause: Cause = Cause.SOURCE_INVALID) -> Finding:
    """An error that holds a source document; by itself, because the document is not right."""
    return Finding(id=code, level=Level.ERROR, text=text, hint=hint, at=at, cause=cause)


def blocking(findings: Iterable[Finding]) -> bool:
    """Whether one of these holds the document; notes and warnings go with it."""
    return any(finding.level is Level.ERROR for finding in findings)
