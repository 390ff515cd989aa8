"""What was fetched, what was planned, what was posted, the proof; and what happened on the way."""

from inkwell_bridge.service.carriage.models.calls import ContactLink, Exchange
from inkwell_bridge.service.carriage.models.documents import (
    COUNTED_DOCUMENT,
    GROSS_OR_LEAST,
    MOMENT_OR_FIRST,
    MONEY_ROLES,
    OPEN_STATES,
    Crossing,
    CrossingEvent,
    Document,
    DocumentSource,
)
from inkwell_bridge.service.carriage.models.fields import amount_field
from inkwell_bridge.service.carriage.models.money import (
    DayTotal,
    Difference,
    Figure,
    MoneyMovement,
    OpenBalance,
    ToldPayment,
)
from inkwell_bridge.service.carriage.models.requests import PaymentLink, RequestState, Wish
from inkwell_bridge.service.carriage.models.runs import Run, RunEntry
from inkwell_bridge.service.carriage.models.snapshots import Erasure, PersonalData, Snapshot

__all__ = [
    "COUNTED_DOCUMENT",
    "GROSS_OR_LEAST",
    "MOMENT_OR_FIRST",
    "MONEY_ROLES",
    "OPEN_STATES",
    "ContactLink",
    "Crossing",
    "CrossingEvent",
    "DayTotal",
    "Difference",
    "Document",
    "DocumentSource",
    "Erasure",
    "Exchange",
    "Figure",
    "MoneyMovement",
    "OpenBalance",
    "PaymentLink",
    "PersonalData",
    "RequestState",
    "Run",
    "RunEntry",
    "Snapshot",
    "ToldPayment",
    "Wish",
    "amount_field",
]
