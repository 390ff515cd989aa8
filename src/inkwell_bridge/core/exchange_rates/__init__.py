"""What a foreign currency is worth in the company's own, who says so, and what follows from it."""

from inkwell_bridge.core.exchange_rates.choosing import rate_of_money, rate_of_order
from inkwell_bridge.core.exchange_rates.rate import ExchangeRate, fitted
from inkwell_bridge.core.exchange_rates.rate_file import MOST_RATES, RateFileInvalid, read_rates
from inkwell_bridge.core.exchange_rates.sharing import converted_to

__all__ = [
    "MOST_RATES",
    "ExchangeRate",
    "RateFileInvalid",
    "converted_to",
    "fitted",
    "rate_of_money",
    "rate_of_order",
    "read_rates",
]
