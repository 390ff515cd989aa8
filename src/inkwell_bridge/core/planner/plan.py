"""A plan: the documents to make, a reason for everything on them, and what there is to say."""

from __future__ import annotations

from decimal import Decimal
from enum import StrEnum
from typing import Any, ClassVar

from pydantic import ConfigDict, TypeAdapter

from inkwell_bridge.core.books import AnyBooksDocument, Contact
from inkwell_bridge.core.exchange_rates.rate import ExchangeRate
from inkwell_bridge.core.findings import Cause, Finding
from inkwell_bridge.core.record import record
from inkwell_bridge.core.values import Code, Exact, ExternalReference, Said, Text, Value

CLOSED = ConfigDict(extra="forbid")
# In place of the rule that leaves out what is from before the day on which a bridge begins.
STARTS_ON = "/bridge/starts_on"


class Outcome(StrEnum):
    """What a plan asks for."""

    CARRY = "carry"
    HOLD = "hold"
    LEFT_OUT = "left out"


# Reasons are by far the most numerous values of a plan. They are made here alone, out of values that were checked, so
# they are checked only when a plan is read.
@record
class AllocatedAmount:
    """How much of one source amount landed in one place; ``source`` is a pointer into the source document."""

    __pydantic_config__: ClassVar[ConfigDict] = CLOSED

    source: Text
    amount: Exact


@record
class Reason:
    """Why a value stands where it stands.

    Shape: ``target`` points into the plan (``/documents/0/lines/2/net``); ``sources`` point into the
    source document; ``rule`` points into the rulebook, or names a law of the planner as ``planner:...``;
    ``allocated`` says, for an amount, how much of each source amount it took.
    """

    __pydantic_config__: ClassVar[ConfigDict] = CLOSED

    target: Text
    sources: tuple[Text, ...]
    rule: Text
    text: Said
    allocated: tuple[AllocatedAmount, ...] = ()

    def as_json(self) -> dict[str, Any]:
        """The reason as JSON values."""
        said: dict[str, Any] = _REASON.dump_python(self, mode="json")
        return said


_REASON = TypeAdapter(Reason)


class Withheld(Value):
    """So much of a source amount never reaches the seller: a tax that a marketplace collects and remits itself."""

    source: Text
    amount: Exact
    text: Said


class Deducted(Value):
    """A voucher that was taxed when it was sold: deducted from what it pays for. Both amounts are positive."""

    source: Text
    net: Exact
    tax: Exact

    @property
    def gross(self) -> Decimal:
        """What the voucher paid."""
        return self.net + self.tax


class CalledOff(Value):
    """What was taken off the books again of an order that was cancelled, refunds apart. Both amounts are positive."""

    net: Exact
    tax: Exact


class CreditedBefore(Value):
    """What of a refund only moves money, for a change of its order was credited already. Both amounts are positive."""

    net: Exact
    tax: Exact


class Converted(Value):
    """A source document's own totals in the currency of its documents, where that is another; below zero for what came
    back."""

    net: Exact
    tax: Exact


class PostedShare(Value):
    """What a charge bore of a discount when it was posted, and what the charge came to before that.

    Shape: ``charge`` is the id of a line or of carriage; ``discount`` what people know the discount by; ``tax`` is what
    the shop told of the charge, for a shop that shares anew says another tax. Positive.
    """

    charge: Code
    discount: Text
    of: Exact
    tax: Exact
    amount: Exact


class Plan(Value):
    """What is to be done about one source document.

    Shape: the first document is the sale's own (or the credit note); those that follow from it and the money's come
    after it. ``drafts`` are the references of documents that are left as drafts. ``open_balance`` is what is left to be
    paid after them. ``cancels`` names posted documents that are to be cancelled there. ``amendment``
    counts the differences that were made good by further documents, the last of them those of this one, and
    ``posted_shares`` are what its charges bear of its discounts by then. ``exchange_rate`` is the one that its
    documents go by, where they have one, ``converted`` the source's own totals in their currency, where that is
    another. ``marketplace_tax_returned`` is what a refund gives back, for a change of its order, of tax that a
    marketplace kept, ``credited_before`` what of it was credited with such a change. ``beyond_order``
    is what the documents of a sale make beyond its order as it is told by now, since what came back of it stays in them
    as it came back.
    Units: in the currency of its documents.
    """

    outcome: Outcome
    contact: Contact | None = None
    documents: tuple[AnyBooksDocument, ...] = ()
    drafts: tuple[ExternalReference, ...] = ()
    withheld: tuple[Withheld, ...] = ()
    marketplace_tax_returned: Exact | None = None
    credited_before: CreditedBefore | None = None
    beyond_order: Exact | None = None
    deducted: tuple[Deducted, ...] = ()
    untaxed: Exact | None = None
    open_balance: Exact | None = None
    reasons: tuple[Reason, ...] = ()
    findings: tuple[Finding, ...] = ()
    left_out_by: Code | None = None
    cancels: tuple[ExternalReference, ...] = ()
    called_off: CalledOff | None = None
    amendment: int = 0
    posted_shares: tuple[PostedShare, ...] = ()
    exchange_rate: ExchangeRate | None = None
    converted: Converted | None = None

    @property
    def cause(self) -> Cause | None:
        """The cause of a hold: that of the first finding which has one."""
        return next((finding.cause for finding in self.findings if finding.cause), None)
