"""Holding a rulebook against what the books' end can do at all."""

from __future__ import annotations

from collections.abc import Iterator

from inkwell_bridge.core.books import BooksCapabilities, MasterData, Role
from inkwell_bridge.core.findings import Finding
from inkwell_bridge.core.rulebook.accounts import ALLOWED_TYPES, OF_MONEY
from inkwell_bridge.core.rulebook.found import placed, wrong
from inkwell_bridge.core.rulebook.model import OrderRulebook, Rulebook
from inkwell_bridge.core.rulebook.orders import OrderRules
from inkwell_bridge.core.rulebook.source_map import SourceMap


def check_capabilities(
    rulebook: Rulebook,
    capabilities: BooksCapabilities,
    *,
    master_data: MasterData | None = None,
    source_map: SourceMap | None = None,
) -> tuple[Finding, ...]:
    """Every rule that the books' end cannot honour."""
    found = [*_cannot(rulebook, capabilities)]
    if master_data is not None and rulebook.orders is not None:
        found += _not_on_sales(rulebook.for_orders, capabilities, master_data)
    return tuple(placed(finding, source_map) for finding in found)


def _cannot(rulebook: Rulebook, capabilities: BooksCapabilities) -> Iterator[Finding]:
    if rulebook.orders is not None:
        for at, role, arrive in _wanted(rulebook.orders):
            yield from _cannot_stand(at, role, arrive, capabilities)
        if rulebook.orders.numbered == "shop" and not capabilities.takes_numbers:
            yield wrong("CAN-E006", "/orders/numbered", "these books give their invoices numbers of their own alone",
                         "Let the books number; the order's number stands on every document.")  # fmt: skip
    if rulebook.tax_codes and rulebook.tax_codes.carry == "books compute" and capabilities.tax == "given":
        yield wrong("CAN-E009", "/tax_codes/carry", "these books take tax as it is given and compute none",
                    "Set it to 'on lines', with amounts: 'worked out' if the shop tells none by line.")  # fmt: skip
    for step in rulebook.customers.find_by:
        if step not in capabilities.contacts_by:
            can = ", ".join(capabilities.contacts_by)
            yield wrong("CAN-E007", "/customers/find_by", f"these books cannot look for a contact by {step}",
                         f"They can by: {can}.")  # fmt: skip
    if rulebook.items is not None and not capabilities.items:
        yield wrong("CAN-E008", "/items", "these books keep no items", "Leave this key out.")
    for name, rule, roles in (
        ("payments", rulebook.payments, (Role.PAYMENT,)),
        ("write_offs", rulebook.write_offs, (Role.WRITE_OFF,)),
        ("refunds", rulebook.refunds, (Role.CREDIT_NOTE, Role.REFUND_PAYMENT)),
    ):
        missing = [role for role in roles if role not in capabilities.documents]
        if rule is not None and missing:
            yield wrong("CAN-E001", f"/{name}", f"these books take no {missing[0]}", "Leave them for later.")
    if rulebook.requests is not None and not capabilities.tells_of_invoices:
        yield wrong("CAN-E014", "/requests", "these books do not tell of their invoices", "Leave this key out.")
    if len(rulebook.dimensions) > capabilities.most_dimensions:
        text = f"these books keep {capabilities.most_dimensions} dimensions a line, not {len(rulebook.dimensions)}"
        yield wrong("CAN-E003", "/dimensions", text, "Leave out those that matter least.")
    if (rulebook.fields.further or rulebook.fields.line_further) and not capabilities.further_fields:
        at = "/fields/further" if rulebook.fields.further else "/fields/line_further"
        yield wrong("CAN-E010", at, "these books keep no fields beside their own", "Put it in a text.")
    if rulebook.periods.own_date and not capabilities.further_fields:
        yield wrong("CAN-E010", "/periods/own_date", "these books keep no fields beside their own",
                    "Leave this key out: the text of the document says it then.")  # fmt: skip
    if rulebook.exchange_rates is not None and not capabilities.exchange_rates:
        yield wrong("CAN-E013", "/exchange_rates", "these books take no rates from outside",
                    "Leave this key out, so that they take their own; or leave such orders out.")  # fmt: skip
    for name in rulebook.fields.header_codes:
        if name not in capabilities.header_codes:
            text = f"these books keep no {name.replace('_', ' ')} on their documents"
            yield wrong("CAN-E011", f"/fields/{name}", text, "Leave this key out, or put it in a text.")
    if rulebook.warehouses.any and not capabilities.warehouses:
        yield wrong("CAN-E004", "/warehouses", "these books keep no stock by warehouse", "Leave this key out.")


def _wanted(rules: OrderRules) -> Iterator[tuple[str, Role, str]]:
    """Every document that orders can become: where the rule stands, its role, and how it arrives."""
    # Whatever any order arrives as, any document may have to: one order can be of two exceptions at once.
    arrive = "draft" if "draft" in rules.arrive.every else "posted"
    for become in sorted(rules.become.every):
        yield "/orders", Role(become), arrive
    for place, instead in enumerate(rules.instead):
        yield f"/orders/instead/{place}", Role(instead.become), instead.arrive
    for name in ("invoiced", "delivered"):
        follows = getattr(rules, name)
        if follows is not None:
            yield f"/orders/{name}", Role.INVOICE, follows.arrive


def _cannot_stand(at: str, role: Role, arrive: str, capabilities: BooksCapabilities) -> Iterator[Finding]:
    # What follows is always an invoice: there is no key that names it, so the whole rule is shown.
    follows = at in {"/orders/invoiced", "/orders/delivered"}
    if role not in capabilities.documents:
        can = ", ".join(sorted(capabilities.documents))
        where = at if follows else f"{at}/become"
        yield wrong("CAN-E001", where, f"these books take no {role}", f"They take: {can}.")
    if arrive == "draft" and role not in capabilities.drafts:
        yield wrong("CAN-E002", f"{at}/arrive", f"these books have no drafts of a {role}", "Post it instead.")


def _not_on_sales(
    rulebook: OrderRulebook, capabilities: BooksCapabilities, master_data: MasterData
) -> Iterator[Finding]:
    """Accounts that have the right type for their role, and yet cannot stand on a document of a sale here."""
    # Some ledgers take income alone on an invoice, though a debt is what a gift card is: then the order cannot cross as
    # one, and it is better said now than by the books.
    for role in sorted(ALLOWED_TYPES.keys() - OF_MONEY):
        rule = rulebook.accounts.rule(role)
        for at, code in rule.codes(role) if rule else ():
            account = master_data.account(code)
            if account is not None and account.type not in capabilities.sale_accounts:
                can = " and ".join(sorted(capabilities.sale_accounts))
                text = f"account {code} is of type {account.type}; on their sales these books take {can} alone"
                yield wrong("CAN-E005", at, text, "Leave such orders out, or enter them by hand.")
