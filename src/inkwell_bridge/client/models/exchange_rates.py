"""Daily rates of a company, as the service answers them."""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal

from inkwell_bridge.client.models.answer import Answer


class DailyRate(Answer):
    """What one unit of a currency was worth on a day, in the company's own."""

    currency: str
    day: date
    rate: Decimal
    source: str
    entered_by: str
    entered_at: datetime


class KeptRates(Answer):
    """What became of rates that were to be kept."""

    added: int
    corrected: int
    unchanged: int
