"""What several of these tables have."""

from __future__ import annotations

from django.db import models


def amount_field(*, null: bool = True) -> models.DecimalField[models.DecimalField[object, object], object]:
    """An amount in the currency beside it, with room for the four digits that some have (ISO 4217)."""
    return models.DecimalField(max_digits=20, decimal_places=4, null=null)
