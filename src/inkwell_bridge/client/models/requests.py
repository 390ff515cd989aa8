"""Requests for payment, as the service answers them."""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal

from inkwell_bridge.client.models.answer import Answer


class PaymentRequest(Answer):
    """A request: ``link`` is what the buyer is given, ``request`` its number at the provider; ``crossing`` is the
    document of its invoice. Units: ``amount`` asked in all and ``paid`` of it, in ``currency``."""

    id: int
    crossing: int
    bridge: str
    invoice: str
    invoiced_on: date | None
    currency: str
    standing: str
    amount: Decimal | None
    paid: Decimal | None
    # How it stands with the buyer, and how its document does here: a request may be open and held at once.
    crossing_state: str
    cause: str
    link: str
    request: str
    provider_link: str
    wish: str
    wished_by: str
    wished_at: datetime | None
    note: str
    made_at: datetime
    opened: int
    last_opened_at: datetime | None

    @property
    def under_way(self) -> bool:
        """Whether it is on its way to the provider."""
        return self.crossing_state == "waiting"
