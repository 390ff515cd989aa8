"""From a source document to the documents it becomes, with a reason for every amount."""

from inkwell_bridge.core.planner.articles import Article, Articles, Asked, LinkedItem, articles_of, asked_of
from inkwell_bridge.core.planner.customers import plan_customer
from inkwell_bridge.core.planner.opening import plan_opening
from inkwell_bridge.core.planner.orders import plan_order
from inkwell_bridge.core.planner.penny import Settlement, settle
from inkwell_bridge.core.planner.plan import Outcome, Placed, Plan, Reason, Withheld
from inkwell_bridge.core.planner.refunds import plan_refund
from inkwell_bridge.core.planner.sale import DELIVERED, ends_deposits
from inkwell_bridge.core.planner.setting import Setting

__all__ = ["DELIVERED", "Article", "Articles", "Asked", "LinkedItem", "Outcome", "Placed", "Plan", "Reason", "Setting",
           "Settlement", "Withheld", "articles_of", "asked_of", "ends_deposits", "plan_customer", "plan_opening",
           "plan_order", "plan_refund", "settle"]  # fmt: skip
