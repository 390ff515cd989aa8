"""The reason of each figure that stands between the sides, as an expression for the database."""

from __future__ import annotations

from django.db.models import Case, CharField, F, Q, Value, When

from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import STARTS_ON
from inkwell_bridge.core.proof import Between, Reason
from inkwell_bridge.service.carriage.decided import ACCEPTED
from inkwell_bridge.service.carriage.states import CrossingState, DecisionKind, Reconciles

# What was written down as a reason when the figure was.
NAMED = {
    Reconciles.WITHHELD.value: Reason.WITHHELD,
    Reconciles.VOUCHERS.value: Reason.VOUCHERS,
    Reconciles.DEPOSITS.value: Reason.DEPOSITS,
    Reconciles.PENNY.value: Reason.PENNY,
    Reconciles.TAX_COMPUTED.value: Reason.TAX_COMPUTED,
    Reconciles.TAX_LINES.value: Reason.TAX_LINES,
    Reconciles.CANCELLED.value: Reason.CANCELLED,
    Reconciles.CONVERTED.value: Reason.CONVERTED,
    Reconciles.NOT_MONEY.value: Reason.NOT_MONEY,
}
# Why a document differs, by the cause that it differs for.
_DIFFERS = {
    Cause.CHANGED_THERE: Reason.CHANGED,
    Cause.VOIDED_THERE: Reason.VOIDED,
    Cause.MISSING_THERE: Reason.MISSING,
    Cause.TWICE_THERE: Reason.TWICE,
    Cause.REFERENCE_CHANGED: Reason.OTHER_REFERENCE,
}


def _when(reason: Reason, **said: object) -> When:
    return When(**{f"crossing__{name}": value for name, value in said.items()}, then=Value(reason.value))


# Of a difference that is open the name is asked for when it is told, from what has become of the document by then; one
# that is carried, with nobody's word for it, has none.
REASON = Case(
    When(between=Between.CUT_OFF.value, then=Value(Reason.CUT_OFF.value)),
    _when(Reason.BEFORE_START, state=CrossingState.LEFT_OUT, left_out_by=STARTS_ON),
    _when(Reason.LEFT_OUT, state=CrossingState.LEFT_OUT),
    _when(Reason.HELD, state=CrossingState.HELD),
    _when(Reason.WAITING, state=CrossingState.WAITING),
    _when(Reason.ADOPTED, state=CrossingState.ADOPTED),
    *(_when(reason, state=CrossingState.DIFFERS, cause=cause.value) for cause, reason in _DIFFERS.items()),
    _when(Reason.OTHERWISE, state=CrossingState.DIFFERS),
    _when(Reason.KEPT, state=CrossingState.CARRIED, decision__kind=DecisionKind.KEEP_POSTED.value),
    _when(Reason.ACCEPTED, state=CrossingState.CARRIED, decision__has_key=ACCEPTED),
    default=Value(Reason.UNEXPLAINED.value),
    output_field=CharField(),
)
# What it is held for, or the rule that left it out.
DETAIL = Case(
    When(between=Between.CUT_OFF.value, then=Value("")),
    When(crossing__state=CrossingState.HELD, then=F("crossing__cause")),
    When(Q(crossing__state=CrossingState.LEFT_OUT) & ~Q(crossing__left_out_by=STARTS_ON),
         then=F("crossing__left_out_by")),
    default=Value(""),
    output_field=CharField(),
)  # fmt: skip


def reason_of_difference(cause: str) -> Reason:
    """The reason of a document that differs, by the cause that it differs for."""
    return next((reason for known, reason in _DIFFERS.items() if known == cause), Reason.OTHERWISE)
