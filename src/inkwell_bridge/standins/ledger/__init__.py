"""A simulated ledger: UBL 2.1 for invoices and credit notes, JSON for the rest, idempotency keys, ETags."""

from inkwell_bridge.standins.ledger.application import application

__all__ = ["application"]
