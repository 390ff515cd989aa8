"""The marketplace's words for things that we have words of our own for, and its amounts in minor units."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.ends.minor_units import Minor

Json = Mapping[str, Any]

# Who answers for the tax of a sale, as the marketplace sees it.
TREATMENTS = {"stand": None, "fair": "kept by marketplace", "union": "one-stop scheme", "abroad": "export",
              "import": "import scheme"}  # fmt: skip
# The progress of a sale that is no more.
CALLED_OFF = "called off"
NATURES = {"goods": "goods", "file": "digital", "course": "service"}


def moment(text: Any) -> datetime | None:
    """A moment as the marketplace writes it; nothing where it writes nothing."""
    return datetime.fromisoformat(text) if text else None


def percent(millionths: int) -> str:
    """A rate in millionths, as per cent: 230000 as '23'."""
    return f"{(Decimal(millionths) / 10_000).normalize():f}"


def taxes(said: Json, minor: Minor) -> list[dict[str, Any]]:
    """The taxes of a charge, each with whether the marketplace keeps it."""
    return [
        {
            "name": tax["name"],
            "jurisdiction": tax.get("place", ""),
            "rate_percent": percent(tax["millionths"]),
            "amount": minor(tax["minor"]),
            "kept": tax["goes_to"] == "fair",
        }
        for tax in said.get("taxes", [])
    ]


def charge(said: Json, minor: Minor, *, identity: str) -> dict[str, Any]:
    """What every charge has in common."""
    return {
        "id": identity,
        "title": said["label"],
        "amount": minor(said["minor"]),
        "discount": minor(said.get("off", 0)),
        "tax_class": said.get("tax_group", ""),
        "taxes": taxes(said, minor),
    }
