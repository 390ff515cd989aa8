"""The reason of each figure that stands between the sides, as an expression for the database."""

from __future__ import annotations

from django.db.models import Case, CharField, F, Q, Value, When

from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import MOVED_BY_RULE, STARTS_ON
from inkwell_bridge.core.proof import Between, Reason, Reconciles
from inkwell_bridge.service.carriage.decided import ACCEPTED
from inkwell_bridge.service.carriage.kinds.entered_by_hand import ENTERED_BY_HAND, NOT_POSTED_HERE
from inkwell_bridge.service.carriage.states import CrossingState, DecisionKind

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


def _when(reason: Reason, **said: object) -> When:
    return When(**{f"crossing__{name}": value for name, value in said.items()}, then=Value(reason.value))


# Of a difference that is open the name is asked for when it is told, from what has become of the document by then; one
# that is carried, with nobody's word for it, has none.
REASON = Case(
    When(between=Between.CUT_OFF.value, crossing__findings__contains=[{"id": MOVED_BY_RULE}],
         then=Value(Reason.MOVED.value)),
    When(between=Between.CUT_OFF.value, then=Value(Reason.CUT_OFF.value)),
    _when(Reason.BY_HAND, kind=ENTERED_BY_HAND),
    _when(Reason.NOT_POSTED_HERE, kind=NOT_POSTED_HERE),
    _when(Reason.GONE, gone_at__isnull=False),
    _when(Reason.BEFORE_START, state=CrossingState.LEFT_OUT, left_out_by=STARTS_ON),
    _when(Reason.LEFT_OUT, state=CrossingState.LEFT_OUT),
    _when(Reason.HELD, state=CrossingState.HELD),
    _when(Reason.WAITING, state=CrossingState.WAITING),
    _when(Reason.ADOPTED, state=CrossingState.ADOPTED),
    *(_when(reason, state=CrossingState.DIFFERS, cause=cause) for cause, reason in _DIFFERS.items()),
    _when(Reason.OTHERWISE, state=CrossingState.DIFFERS),
    _when(Reason.KEPT, state=CrossingState.CARRIED, decision__kind=DecisionKind.KEEP_POSTED.value),
    _when(Reason.ACCEPTED, state=CrossingState.CARRIED, decision__has_key=ACCEPTED),
    _when(Reason.ACCEPTED, state=CrossingState.CARRIED, decision__kind=DecisionKind.KEEP_THEIRS.value),
    default=Value(Reason.UNEXPLAINED.value),
    output_field=CharField(),
)  # fmt: skip
# What it is held for, or the rule that left it out.
DETAIL = Case(
    When(between=Between.CUT_OFF.value, then=Value("")),
    When(crossing__state=CrossingState.HELD, then=F("crossing__cause")),
    When(Q(crossing__state=CrossingState.LEFT_OUT) & ~Q(crossing__left_out_by=STARTS_ON),
         then=F("crossing__left_out_by")),
    default=Value(""),
    output_field=CharField(),
)  # fmt: skip


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
