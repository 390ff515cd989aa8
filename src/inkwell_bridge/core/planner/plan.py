"""A plan: the documents to make, a reason for everything on them, and what there is to say."""

from __future__ import annotations

from decimal import Decimal
from enum import StrEnum

from inkwell_bridge.core.books import AnyBooksDocument, Contact
from inkwell_bridge.core.findings import Cause, Finding
from inkwell_bridge.core.values import Code, Exact, Text, Value


class Outcome(StrEnum):
    """What a plan asks for."""

    CARRY = "carry"
    HOLD = "hold"
    LEFT_OUT = "left out"


class Placed(Value):
    """How much of one source amount landed in one place; ``source`` is a pointer into the source document."""

    source: Text
    amount: Exact


class Reason(Value):
    """Why a value stands where it stands.

    Shape: ``target`` points into the plan (``/documents/0/lines/2/net``); ``sources`` point into the
    source document; ``rule`` points into the rulebook, or names a law of the planner as ``planner:...``;
    ``placed`` says, for an amount, how much of each source amount it took.
    """

    target: Text
    sources: tuple[Text, ...]
    rule: Text
    text: Text
    placed: tuple[Placed, ...] = ()


class Withheld(Value):
    """So much of a source amount never reaches the seller: a tax that a marketplace collects and remits itself."""

    source: Text
    amount: Exact
    text: Text


class Deducted(Value):
    """A voucher that was taxed when it was sold: deducted from what it pays for. Both amounts are positive."""

    source: Text
    net: Exact
    tax: Exact

    @property
    def gross(self) -> Decimal:
        """What the voucher paid."""
        return self.net + self.tax


class Plan(Value):
    """What is to be done about one source document.

    Shape: the first document is the sale's own (or the credit note); those that follow from it and the money's come
    after it. ``drafts`` are the marks of documents that are left as drafts. ``open_balance`` is what is left to be
    paid after them. Units: in the source document's currency.
    """

    outcome: Outcome
    contact: Contact | None = None
    documents: tuple[AnyBooksDocument, ...] = ()
    drafts: tuple[Code, ...] = ()
    withheld: tuple[Withheld, ...] = ()
    deducted: tuple[Deducted, ...] = ()
    open_balance: Exact | None = None
    reasons: tuple[Reason, ...] = ()
    findings: tuple[Finding, ...] = ()
    left_out_by: Code | None = None

    @property
    def cause(self) -> Cause | None:
        """The cause of a hold: that of the first finding which has one."""
        return next((finding.cause for finding in self.findings if finding.cause), None)
