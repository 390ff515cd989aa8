"""Calls about requests for payment."""

from __future__ import annotations

from collections.abc import Iterator

from inkwell_bridge.client import models
from inkwell_bridge.client.transport import Transport


class RequestCalls:
    """Invoices of the books that buyers are asked to pay by a link."""

    def __init__(self, transport: Transport, path: str) -> None:
        self._transport, self._path = transport, path

    def all(self, *, bridge: str = "", standing: str = "", invoice: str = "") -> Iterator[models.PaymentRequest]:
        """The requests, newest first; over a bridge, of a standing (open, part paid, paid, cancelled, waiting), or of
        an invoice by its number."""
        filters = (("bridge", bridge), ("standing", standing), ("invoice", invoice))
        return self._transport.pages(
            models.PaymentRequest, self._path, {name: value for name, value in filters if value}
        )

    def read(self, number: int) -> models.PaymentRequest:
        """How a request stands."""
        return self._transport.one(models.PaymentRequest, "GET", f"{self._path}/{number}")

    def make(self, *, bridge: str, invoice: str) -> models.PaymentRequest:
        """Ask for an invoice by its number, whatever the conditions of the rules say; it is made in the background."""
        body = {"bridge": bridge, "invoice": invoice}
        return self._transport.one(models.PaymentRequest, "POST", self._path, body=body)

    def cancel(self, number: int, note: str = "") -> models.PaymentRequest:
        """Ask for it no more: its link says so at once. What was paid stays paid."""
        return self._transport.one(models.PaymentRequest, "POST", f"{self._path}/{number}/cancel", body={"note": note})
