"""Word that something was carried whose money a bank account may have: a payout, an invoice, a refund."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import transaction
from django.dispatch import Signal

from inkwell_bridge.service.carriage.kinds.protocol import Concluded
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.connections.models import Connection

# Sent with the ``books`` that it was carried to; rooms that stand above listen.
money_awaited = Signal()


def tell(concluded: Sequence[Concluded]) -> None:
    """Tell whoever listens, once this transaction is done, where any of these was carried; all are of one bridge."""
    if any(one.state == CrossingState.CARRIED for one in concluded):
        books = concluded[0].crossing.bridge.books
        transaction.on_commit(lambda: money_awaited.send(Connection, books=books), robust=True)
