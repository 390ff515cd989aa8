"""Which product is which item, and which customer is which contact."""

from inkwell_bridge.core.linking.known import Known, LinkKind, known_contact, known_customer, known_item, known_product
from inkwell_bridge.core.linking.matching import KEYS, RULES, Match, Rule, certain
from inkwell_bridge.core.linking.scoring import LEAST_POINTS, Score, scored

__all__ = [
    "KEYS", "LEAST_POINTS", "RULES", "Known", "LinkKind", "Match", "Rule", "Score", "certain", "known_contact",
    "known_customer", "known_item", "known_product", "scored",
]  # fmt: skip
