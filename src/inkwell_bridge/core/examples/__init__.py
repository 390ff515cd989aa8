"""Rules learnt from examples: orders, and what somebody entered into the books for them."""

from inkwell_bridge.core.examples.example import Example
from inkwell_bridge.core.examples.pairing import Paired, pair
from inkwell_bridge.core.examples.proposal import ExampleDiffers, LearntRule, NothingLearnt, Proposal, propose

__all__ = ["Example", "ExampleDiffers", "LearntRule", "NothingLearnt", "Paired", "Proposal", "pair", "propose"]
