"""Whom an order's documents are made out to."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from inkwell_bridge.core.books import Contact, MasterData, Step
from inkwell_bridge.core.commerce import Buyer, Order
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner.plan import Reason
from inkwell_bridge.core.rulebook.customers import CustomerRules

_SAID: dict[Step, str] = {"email": "e-mail", "tax number": "tax number", "name and postcode": "name with postcode"}
_SOURCES: dict[Step, str] = {"email": "/buyer/email", "tax number": "/buyer/tax_number",
                             "name and postcode": "/buyer/billing"}  # fmt: skip
Planned = tuple[Contact | None, tuple[Reason, ...], tuple[Finding, ...]]


def plan_contact(order: Order, rules: CustomerRules, master_data: MasterData) -> Planned:
    """The contact of an order, with its reason; or a finding, where a person must say."""
    buyer = order.buyer
    guest = buyer is None or buyer.account_id is None
    if rules.house and (rules.house_for == "everybody" or (rules.house_for == "guests" and guest)):
        return _house(rules.house, "/customers/house", f"Orders of {rules.house_for} go to one contact")
    group, terms = order.customer_group, order.payment_terms
    contact = contact_of(buyer, rules, master_data, group=group, terms=terms) if buyer is not None else Contact()
    steps = [step for step in rules.find_by if contact.key(step)]
    if steps:
        return contact, (_by(steps),), tuple(unknown_terms(terms, contact, "/payment_terms"))
    if rules.without_email:
        return _house(
            rules.without_email, "/customers/without_email", "The order has no e-mail, so it goes to the house contact"
        )
    what = " or ".join(_SAID[step] for step in rules.find_by)
    finding = Finding(
        id="CUST-E001",
        level=Level.ERROR,
        at="/buyer/email",
        cause=Cause.CUSTOMER_UNCLEAR,
        text=f"Order {order.number} has no {what} to find its customer by.",
        hint="Add it in the shop, or name a contact for such orders at customers: without_email.",
    )
    return None, (), (finding,)


def _house(code: str, rule: str, text: str) -> Planned:
    reason = Reason(target="/contact", sources=("/buyer/email",), rule=rule, text=f"{text} {code}.")
    return Contact(house_code=code), (reason,), ()


def _by(steps: Sequence[Step]) -> Reason:
    ways = ", then by ".join(_SAID[step] for step in steps)
    return Reason(
        target="/contact",
        sources=tuple(_SOURCES[step] for step in steps),
        rule="/customers/find_by",
        text=f"Found by {ways}; case, spaces and punctuation do not matter.",
    )


def contact_of(
    buyer: Buyer, rules: CustomerRules, master_data: MasterData | None, *, group: str = "", terms: str = ""
) -> Contact:
    """Who bought, as the books keep them: payment terms that ``master_data`` does not have are left out."""
    code = rules.terms.get(terms, terms)
    row = rules.language(buyer.language)
    known = master_data is None or not master_data.terms or code in {one.code for one in master_data.terms}
    return Contact(
        email=buyer.email_key,
        name=buyer.name,
        company=buyer.company,
        phone=buyer.phone,
        tax_number=buyer.tax_number,
        language=row[1] if row else buyer.language,
        group=rules.groups.get(group, group),
        terms=code if known else "",
        billing=buyer.billing,
        delivery=buyer.delivery,
    )


def unknown_terms(terms: str, contact: Contact, at: str) -> Iterator[Finding]:
    """A note where the books do not know the buyer's payment terms."""
    if terms and not contact.terms:
        text = f"The books know no payment terms '{terms}', so they are left out of the contact."
        hint = f"Add '{terms}' under customers: terms in the rulebook, with the books' code."
        yield Finding(id="CUST-N006", level=Level.NOTE, text=text, hint=hint, at=at)
