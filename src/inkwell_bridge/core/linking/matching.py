"""What is certain: the first rule that finds exactly one on the other side. Two are a question for a person."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from enum import StrEnum

from inkwell_bridge.core.linking.known import Known, LinkKind
from inkwell_bridge.core.values import Value


class Rule(StrEnum):
    """What two are known to be the same by."""

    CODE = "code"
    BARCODE = "barcode"
    EMAIL = "e-mail"
    TAX_NUMBER = "tax number"
    PLACE = "name and postcode"


# In the order of trade practice; a later rule is asked where an earlier one finds none or several.
RULES: dict[LinkKind, tuple[Rule, ...]] = {
    LinkKind.PRODUCTS: (Rule.CODE, Rule.BARCODE),
    LinkKind.CUSTOMERS: (Rule.EMAIL, Rule.TAX_NUMBER, Rule.PLACE),
}
# The field of ``Known`` that each rule compares.
KEYS = {Rule.CODE: "code_key", Rule.BARCODE: "barcode_key", Rule.EMAIL: "email_key",
        Rule.TAX_NUMBER: "tax_number_key", Rule.PLACE: "place_key"}  # fmt: skip


class Match(Value):
    """The one on the other side, and the rule that found it."""

    id: str
    rule: Rule


def certain(kind: LinkKind, found: Mapping[Rule, Sequence[Known]]) -> Match | None:
    """The match that needs no person, if there is one.

    ``found`` gives for each rule those of the other side whose key is the same.
    """
    for rule in RULES[kind]:
        ids = {one.id for one in found.get(rule, ()) if one.active}
        if len(ids) == 1:
            return Match(id=ids.pop(), rule=rule)
    return None
