"""From a source document to the documents it becomes, with a reason for every amount."""

from inkwell_bridge.core.planner.customers import plan_customer
from inkwell_bridge.core.planner.orders import Setting, plan_order
from inkwell_bridge.core.planner.penny import Settlement, settle
from inkwell_bridge.core.planner.plan import Outcome, Placed, Plan, Reason

__all__ = ["Outcome", "Placed", "Plan", "Reason", "Setting", "Settlement", "plan_customer", "plan_order", "settle"]
