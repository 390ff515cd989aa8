"""Planning a customer's account as a contact."""

from __future__ import annotations

from inkwell_bridge.core.books import MasterData
from inkwell_bridge.core.commerce import Customer
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner.contacts import contact_of, unknown_terms
from inkwell_bridge.core.planner.plan import Outcome, Plan, Reason
from inkwell_bridge.core.rulebook.customers import CustomerRules


def plan_customer(customer: Customer, rules: CustomerRules, master_data: MasterData) -> Plan:
    """The contact that an account becomes; one without an e-mail could not be told from the next."""
    if not customer.active:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by="planner:customer-inactive")
    if customer.person is None or not customer.person.email_key:
        finding = Finding(
            id="CUST-E005",
            level=Level.ERROR,
            at="/person/email",
            cause=Cause.CUSTOMER_UNCLEAR,
            text=f"Customer {customer.number} has no e-mail to be known by.",
            hint="Add the e-mail in the shop, then run again.",
        )
        return Plan(outcome=Outcome.HOLD, findings=(finding,))
    reason = Reason(
        target="/contact",
        sources=("/person",),
        rule="/customers/find_by",
        text="Found by e-mail; case, spaces and punctuation do not matter.",
    )
    terms = customer.payment_terms
    contact = contact_of(customer.person, rules, master_data, group=customer.group, terms=terms)
    findings = tuple(unknown_terms(terms, contact, "/payment_terms"))
    return Plan(outcome=Outcome.CARRY, contact=contact, reasons=(reason,), findings=findings)
