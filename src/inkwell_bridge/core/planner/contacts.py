"""Whom an order's documents are made out to."""

from __future__ import annotations

from inkwell_bridge.core.books import Contact
from inkwell_bridge.core.commerce import Buyer, Order
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner.plan import Reason
from inkwell_bridge.core.rulebook.model import CustomerRules

Planned = tuple[Contact | None, tuple[Reason, ...], tuple[Finding, ...]]


def plan_contact(order: Order, rules: CustomerRules) -> Planned:
    """The contact of an order, with its reason; or a finding, where a person must say."""
    buyer = order.buyer
    if buyer is not None and buyer.email_key:
        return _by_email(buyer)
    if rules.without_email:
        reason = Reason(
            target="/contact",
            sources=("/buyer/email",),
            rule="/customers/without_email",
            text=f"The order has no e-mail, so it goes to the house contact {rules.without_email}.",
        )
        return Contact(house_code=rules.without_email), (reason,), ()
    finding = Finding(
        id="CUST-E001",
        level=Level.ERROR,
        at="/buyer/email",
        cause=Cause.CUSTOMER_UNCLEAR,
        text=f"Order {order.number} has no e-mail to find its customer by.",
        hint="Add the e-mail in the shop, or name a contact for such orders at customers: without_email.",
    )
    return None, (), (finding,)


def _by_email(buyer: Buyer) -> Planned:
    contact = contact_of(buyer)
    reason = Reason(
        target="/contact",
        sources=("/buyer/email",),
        rule="/customers/find_by",
        text="Found by e-mail; case and spaces do not matter.",
    )
    return contact, (reason,), ()


def contact_of(buyer: Buyer, *, group: str = "", terms: str = "") -> Contact:
    """Who bought, as the books keep them."""
    return Contact(
        email=buyer.email_key,
        name=buyer.name,
        company=buyer.company,
        phone=buyer.phone,
        tax_number=buyer.tax_number,
        language=buyer.language,
        group=group,
        terms=terms,
        billing=buyer.billing,
        delivery=buyer.delivery,
    )
