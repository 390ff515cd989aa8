"""What becomes of a sale that changes after it was posted: the difference, as further documents."""

from inkwell_bridge.core.amendments.amendment import plan_again, plan_amendment
from inkwell_bridge.core.amendments.difference import sums_of
from inkwell_bridge.core.amendments.journal import PostedJournals, plan_journal_amendment
from inkwell_bridge.core.amendments.owing import MarketplaceTax, owing_of
from inkwell_bridge.core.amendments.posted_sale import PostedSale
from inkwell_bridge.core.amendments.put_right import (
    CannotPutRight,
    Differing,
    Further,
    Names,
    credit_and_reissue,
    put_back,
    restated,
)
from inkwell_bridge.core.amendments.taken_back import with_money_taken_back
from inkwell_bridge.core.amendments.write_off import OpenBalance, is_due, open_balance, with_write_off

__all__ = ["CannotPutRight", "Differing", "Further", "MarketplaceTax", "Names", "OpenBalance", "PostedJournals",
           "PostedSale", "credit_and_reissue", "is_due", "open_balance", "owing_of", "plan_again", "plan_amendment",
           "plan_journal_amendment", "put_back", "restated", "sums_of", "with_money_taken_back",
           "with_write_off"]  # fmt: skip
