"""From a source document to the documents it becomes, with a reason for every amount."""

from inkwell_bridge.core.planner.arrivals import ArrivalContext, plan_arrival
from inkwell_bridge.core.planner.articles import Article, Articles, Asked, LinkedItem, articles_of, asked_of
from inkwell_bridge.core.planner.customers import plan_customer
from inkwell_bridge.core.planner.discounts import shares_as_posted
from inkwell_bridge.core.planner.free_numbers import with_free_numbers
from inkwell_bridge.core.planner.open_credits import OpenCredit, Owing
from inkwell_bridge.core.planner.open_days import MOVED_BY_RULE, on_open_days
from inkwell_bridge.core.planner.opening import plan_opening
from inkwell_bridge.core.planner.orders import plan_order
from inkwell_bridge.core.planner.payouts import OF_ORDERS, PayoutContext, plan_payout
from inkwell_bridge.core.planner.penny import Settlement, settle
from inkwell_bridge.core.planner.plan import STARTS_ON, AllocatedAmount, Outcome, Plan, PostedShare, Reason, Withheld
from inkwell_bridge.core.planner.planning_context import PlanningContext, external_reference, is_ours, prefix_of
from inkwell_bridge.core.planner.provider_charges import (
    ChargeContext,
    ChargedDocument,
    as_payment,
    plan_provider_charge,
)
from inkwell_bridge.core.planner.receipts import PaidOrder, plan_receipt
from inkwell_bridge.core.planner.refunds import plan_refund
from inkwell_bridge.core.planner.requests import (
    RequestContext,
    RequestPaymentContext,
    plan_request,
    plan_request_payment,
)
from inkwell_bridge.core.planner.rule_steps import RuleStep, RuleSteps, rule_steps
from inkwell_bridge.core.planner.sale import expected_role, is_final_invoice
from inkwell_bridge.core.planner.tellers import believed
from inkwell_bridge.core.planner.trial import as_a_run_would

__all__ = [
           "MOVED_BY_RULE",
           "OF_ORDERS",
           "STARTS_ON",
           "AllocatedAmount",
           "ArrivalContext",
           "Article",
           "Articles",
           "Asked",
           "ChargeContext",
           "ChargedDocument",
           "LinkedItem",
           "OpenCredit",
           "Outcome",
           "Owing",
           "PaidOrder",
           "PayoutContext",
           "Plan",
           "PlanningContext",
           "PostedShare",
           "Reason",
           "RequestContext",
           "RequestPaymentContext",
           "RuleStep",
           "RuleSteps",
           "Settlement",
           "Withheld",
           "articles_of",
           "as_a_run_would",
           "as_payment",
           "asked_of",
           "believed",
           "expected_role",
           "external_reference",
           "is_final_invoice",
           "is_ours",
           "on_open_days",
           "plan_arrival",
           "plan_customer",
           "plan_opening",
           "plan_order",
           "plan_payout",
           "plan_provider_charge",
           "plan_receipt",
           "plan_refund",
           "plan_request",
           "plan_request_payment",
           "prefix_of",
           "rule_steps",
           "settle",
           "shares_as_posted",
           "with_free_numbers",
]  # fmt: skip
