"""Reasons that were written down with figures, and those of documents that differ.

That of a difference is kept beside it, see ``carriage.models.Difference``.
"""

from __future__ import annotations

from django.db.models import Q

from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.proof import Reason, Reconciles

# What was written down as a reason when the figure was.
NAMED: dict[str, Reason] = {
    Reconciles.WITHHELD: Reason.WITHHELD,
    Reconciles.VOUCHERS: Reason.VOUCHERS,
    Reconciles.DEPOSITS: Reason.DEPOSITS,
    Reconciles.PENNY: Reason.PENNY,
    Reconciles.TAX_COMPUTED: Reason.TAX_COMPUTED,
    Reconciles.TAX_LINES: Reason.TAX_LINES,
    Reconciles.CANCELLED: Reason.CANCELLED,
    Reconciles.CONVERTED: Reason.CONVERTED,
    Reconciles.CREDITED: Reason.CREDITED,
    Reconciles.NOT_MONEY: Reason.NOT_MONEY,
}
# Why a document differs, by the cause that it differs for.
_DIFFERS: dict[str, Reason] = {
    Cause.CHANGED_THERE: Reason.CHANGED,
    Cause.VOIDED_THERE: Reason.VOIDED,
    Cause.MISSING_THERE: Reason.MISSING,
    Cause.TWICE_THERE: Reason.TWICE,
    Cause.REFERENCE_CHANGED: Reason.OTHER_REFERENCE,
}


# What documents differ for, whether an amount does or not.
OF_DIFFERING = frozenset({*_DIFFERS.values(), Reason.OTHERWISE})


def differing_for(reason: Reason) -> Q:
    """Of the documents that differ those that do so for this reason; see ``reason_of_difference``."""
    if reason is Reason.OTHERWISE:
        return ~Q(cause__in=list(_DIFFERS))
    return Q(cause__in=[cause for cause, found in _DIFFERS.items() if found is reason])


def reason_of_difference(cause: str) -> Reason:
    """The reason of a document that differs, by the cause that it differs for."""
    return _DIFFERS.get(cause, Reason.OTHERWISE)
