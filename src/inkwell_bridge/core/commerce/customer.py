"""A customer's account at the sales side."""

from __future__ import annotations

from typing import ClassVar

from inkwell_bridge.core.commerce.buyer import Buyer
from inkwell_bridge.core.values import Code, Moment, Text, Value


class Customer(Value):
    """An account; ``person`` is who it is, and stands apart from the rest."""

    PERSONAL: ClassVar[frozenset[str]] = frozenset({"person"})

    id: Code
    number: Code
    changed_at: Moment
    person: Buyer | None = None
    group: Text = ""
    payment_terms: Text = ""
    tags: tuple[Text, ...] = ()
    active: bool = True
    link: Text = ""
