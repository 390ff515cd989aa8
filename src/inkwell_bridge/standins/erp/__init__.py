"""A simulated ERP: JSON-RPC 2.0 with a session; computes tax itself, by line; no idempotency keys."""

from inkwell_bridge.standins.erp.application import application

__all__ = ["application"]
