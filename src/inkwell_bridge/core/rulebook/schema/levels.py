"""The tables by which some sales have a setting otherwise; the same for every setting."""

from __future__ import annotations

from inkwell_bridge.core.rulebook.levels import LEVELS, LONGEST_NAME
from inkwell_bridge.core.rulebook.schema.shapes import Json, keyed_by, table

# What each level goes by, with one that the demo's shop has.
BY = {
    "tag": ("a tag of the order", "trade fair"),
    "attribute": ("an attribute of the order, as name=value", "occasion=fair"),
    "product": ("the article's code", "BOOK-ISL"),
    "product_type": ("the type of product", "book"),
    "customer": ("the buyer's account at the shop", "70012"),
    "customer_group": ("the buyer's group", "trade"),
    "language": ("the buyer's language (BCP 47); de is for de-AT as well", "de"),
    "location": ("the location that the goods leave from", "Mill"),
    "channel": ("the channel", "fair"),
    "country": ("the country that the goods go to (ISO 3166)", "US"),
    "treatment": ("how the sale is taxed", "export"),
}
_KEYS = {
    "product": keyed_by("source", "products"),
    "product_type": keyed_by("source", "product-types"),
    "customer_group": keyed_by("source", "customer-groups"),
    "language": keyed_by("source", "languages"),
    "location": keyed_by("source", "locations"),
}


def levels(value: Json, example: str) -> Json:
    """A table for each level, of values of this shape."""
    return {f"by_{level}": _table(level, value, example) for level in LEVELS}


def _table(level: str, value: Json, example: str) -> Json:
    meaning, met = BY[level]
    pattern = {"pattern": "^[^=]+=.+$"} if level == "attribute" else {}
    return table(f"Goes before what follows, by {meaning}.", value, example={met: example},
                 propertyNames={"maxLength": LONGEST_NAME, **pattern}, **_KEYS.get(level, {}))  # fmt: skip
