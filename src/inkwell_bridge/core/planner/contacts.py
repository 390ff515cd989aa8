"""Whom an order's documents are made out to."""

from __future__ import annotations

from inkwell_bridge.core.books import Contact
from inkwell_bridge.core.commerce import Buyer, Order
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner.plan import Reason
from inkwell_bridge.core.rulebook.orders import CustomerRules

Planned = tuple[Contact | None, tuple[Reason, ...], tuple[Finding, ...]]


def plan_contact(order: Order, rules: CustomerRules) -> Planned:
    """The contact of an order, with its reason; or a finding, where a person must say."""
    buyer = order.buyer
    guest = buyer is None or buyer.account_id is None
    if rules.house and (rules.house_for == "everybody" or (rules.house_for == "guests" and guest)):
        return _house(rules.house, "/customers/house", f"Orders of {rules.house_for} go to one contact")
    if buyer is not None and buyer.email_key:
        return _by_email(buyer)
    if rules.without_email:
        return _house(
            rules.without_email, "/customers/without_email", "The order has no e-mail, so it goes to the house contact"
        )
    finding = Finding(
        id="CUST-E001",
        level=Level.ERROR,
        at="/buyer/email",
        cause=Cause.CUSTOMER_UNCLEAR,
        text=f"Order {order.number} has no e-mail to find its customer by.",
        hint="Add the e-mail in the shop, or name a contact for such orders at customers: without_email.",
    )
    return None, (), (finding,)


def _house(code: str, rule: str, text: str) -> Planned:
    reason = Reason(target="/contact", sources=("/buyer/email",), rule=rule, text=f"{text} {code}.")
    return Contact(house_code=code), (reason,), ()


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
