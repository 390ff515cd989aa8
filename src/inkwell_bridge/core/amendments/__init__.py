"""What becomes of a sale that changes after it was posted: the difference, as further documents."""

from inkwell_bridge.core.amendments.amendment import plan_again, plan_amendment
from inkwell_bridge.core.amendments.difference import sums_of
from inkwell_bridge.core.amendments.owing import owing_of
from inkwell_bridge.core.amendments.posted_sale import PostedSale

__all__ = ["PostedSale", "owing_of", "plan_again", "plan_amendment", "sums_of"]
