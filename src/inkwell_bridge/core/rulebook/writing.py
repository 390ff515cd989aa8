"""Dates and amounts as a field is to show them, by the patterns of Unicode (CLDR, technical standard 35)."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from functools import lru_cache

from babel import Locale
from babel.core import UnknownLocaleError
from babel.dates import format_date
from babel.numbers import format_decimal

from inkwell_bridge.core.expressions import NotEvaluated
from inkwell_bridge.core.money import minor_unit


@lru_cache(maxsize=64)
def language_of(tag: str) -> Locale:
    """A language by its tag of BCP 47.

    Raises:
        ValueError: nothing is known of it.
    """
    try:
        return Locale.parse(tag, sep="-")
    except (UnknownLocaleError, ValueError) as error:
        raise ValueError(f"a language such as en-GB or de, got {tag}") from error


def written_date(text: str, pattern: str, language: str) -> str:
    """A date of ISO 8601 by a pattern such as ``dd.MM.yyyy``.

    Raises:
        NotEvaluated: it is no date.
    """
    try:
        day = date.fromisoformat(text[:10])
    except ValueError as error:
        raise NotEvaluated(f"{text!r} is no date, such as 2026-10-05") from error
    return str(format_date(day, pattern, locale=language_of(language)))


def written_amount(units: int, currency: str, pattern: str, language: str) -> str:
    """An amount in minor units by a pattern such as ``#,##0.00``."""
    amount = Decimal(units) * minor_unit(currency)
    return str(format_decimal(amount, format=pattern, locale=language_of(language), decimal_quantization=False))
