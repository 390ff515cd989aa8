"""Holding a rulebook against what both ends really have, and against what the books can do."""

from __future__ import annotations

from collections.abc import Iterator

from inkwell_bridge.core.books import AccountType, BooksCapabilities, Reference, Role
from inkwell_bridge.core.commerce import SalesReference
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.rulebook.accounts import ALLOWED_TYPES, MONEY_TYPES, escaped
from inkwell_bridge.core.rulebook.model import OrderRulebook, Rulebook
from inkwell_bridge.core.rulebook.near import near_miss
from inkwell_bridge.core.rulebook.orders import OrderRules
from inkwell_bridge.core.rulebook.places import Places


def check(rulebook: Rulebook, reference: Reference, *, places: Places | None = None) -> tuple[Finding, ...]:
    """Everything the rulebook names that the books do not have, or have as another type.

    ``places`` gives the lines of the file; without it findings carry the pointer alone.
    """
    found = [*_for_orders(rulebook, reference), *_long_lists(rulebook, reference), *_others(rulebook, reference)]
    return tuple(_placed(finding, places) for finding in found)


def check_capabilities(
    rulebook: Rulebook,
    capabilities: BooksCapabilities,
    *,
    reference: Reference | None = None,
    places: Places | None = None,
) -> tuple[Finding, ...]:
    """Every rule that the books' end cannot honour."""
    found = [*_cannot(rulebook, capabilities)]
    if reference is not None and rulebook.orders is not None:
        found += _not_on_sales(rulebook.for_orders, capabilities, reference)
    return tuple(_placed(finding, places) for finding in found)


def check_source(
    rulebook: Rulebook, source: SalesReference, *, reference: Reference | None = None, places: Places | None = None
) -> tuple[Finding, ...]:
    """Everything the rulebook names that the sales side does not have; a warning each, for an old order may have it.

    A kind of name that the sales side does not tell is not checked. With ``reference``, the rates of both are held
    against each other.
    """
    found = [*_at_source(rulebook, source), *(_rates(rulebook, source, reference) if reference else ())]
    return tuple(_placed(finding, places) for finding in found)


def _at_source(rulebook: Rulebook, source: SalesReference) -> Iterator[Finding]:
    if rulebook.orders is None:
        return
    classes = [known.name for known in source.tax_classes]
    for name in rulebook.for_orders.tax_codes.by_class if classes else ():
        if name not in classes:
            yield _warning(
                "REF-W007", f"/tax_codes/by_class/{escaped(name)}", f"tax class {name}", near_miss(name, classes)
            )
    statuses = source.order_statuses
    for place, name in enumerate(rulebook.orders.statuses if statuses else ()):
        if name not in statuses:
            yield _warning("REF-W008", f"/orders/statuses/{place}", f"order status {name}", near_miss(name, statuses))


def _rates(rulebook: Rulebook, source: SalesReference, reference: Reference) -> Iterator[Finding]:
    """Classes of one rate whose code in the books has another."""
    if rulebook.orders is None:
        return
    rules = rulebook.for_orders.tax_codes
    for known in source.tax_classes:
        code = reference.tax_code(rules.by_class.get(known.name, ""))
        rates = {rate.rate_percent for rate in known.rates}
        if code is None or not rates or rules.stands_on_lines(known.name) or code.rate_percent in rates:
            continue
        told = " or ".join(f"{rate.normalize():f} %" for rate in sorted(rates))
        text = f"tax class {known.name} is taxed with {told}, code {code.code} with {code.rate_percent.normalize():f} %"
        hint = "Name a code of the same rate, or an exception for the sales that it is meant for."
        at = f"/tax_codes/by_class/{escaped(known.name)}"
        yield Finding(id="REF-W009", level=Level.WARNING, text=text, hint=hint, at=at)


def _warning(code: str, at: str, what: str, hint: str) -> Finding:
    return Finding(id=code, level=Level.WARNING, text=f"{what} is not known at the sales side", hint=hint, at=at)


def _placed(finding: Finding, places: Places | None) -> Finding:
    if places is None:
        return finding
    file, line = places.find(finding.at)
    return finding.model_copy(update={"line": line, "text": f"{file}, line {line}: {finding.text}"})


def _for_orders(rulebook: Rulebook, reference: Reference) -> Iterator[Finding]:
    if rulebook.orders is not None:
        yield from _accounts(rulebook.for_orders, reference)
        yield from _money_accounts(rulebook.for_orders, reference)
        yield from _tax_codes(rulebook.for_orders, reference)


def _accounts(rulebook: OrderRulebook, reference: Reference) -> Iterator[Finding]:
    for role, allowed in ALLOWED_TYPES.items():
        rule = rulebook.accounts.rule(role)
        for at, code in rule.codes(role) if rule else ():
            yield from _account(at, code, role, allowed, reference)


def _money_accounts(rulebook: OrderRulebook, reference: Reference) -> Iterator[Finding]:
    """Money comes in on a bank or clearing account; only what was a debt before (a gift card) on that."""
    if rulebook.payments is None:
        return
    for at, code in rulebook.payments.accounts.codes():
        debts = frozenset({AccountType.LIABILITY}) if at.endswith(("/gift card", "/voucher")) else frozenset()
        yield from _account(
            at, code, at.rpartition("/")[2].replace("default", "payments"), MONEY_TYPES | debts, reference
        )


def _account(at: str, code: str, role: str, allowed: frozenset[AccountType], reference: Reference) -> Iterator[Finding]:
    account = reference.account(code)
    if account is None:
        hint = near_miss(code, [known.code for known in reference.accounts])
        yield _error("REF-E001", at, f"account {code} for {role} is not in the books of {reference.company}", hint)
    elif account.type not in allowed:
        wanted = " or ".join(sorted(allowed))
        text = f"account {code} ({account.name}) is of type {account.type}; {role} needs {wanted}"
        yield _error("REF-E002", at, text, "Choose an account of that type, or change its type in the books.")


def _tax_codes(rulebook: OrderRulebook, reference: Reference) -> Iterator[Finding]:
    for at, code in rulebook.tax_codes.codes():
        if reference.tax_code(code) is None:
            hint = near_miss(code, [known.code for known in reference.tax_codes])
            yield _error("REF-E003", at, f"tax code {code} is not in the books of {reference.company}", hint)
    outside = reference.tax_code(rulebook.tax_codes.outside)
    if outside is not None and not outside.outside:
        text = f"tax code {outside.code} is not outside tax; a rounding line would be taxed"
        yield _error(
            "REF-E004", "/tax_codes/outside", text, "Choose a code that the books keep outside the tax return."
        )


def _long_lists(rulebook: Rulebook, reference: Reference) -> Iterator[Finding]:
    for name in ("without_email", "house"):
        code = getattr(rulebook.customers, name)
        if code is not None and reference.contacts is not None and code not in reference.contacts:
            text = f"contact {code} is not in the books of {reference.company}"
            yield _error("REF-E005", f"/customers/{name}", text, near_miss(code, reference.contacts))
    sundry = rulebook.items.catch_all if rulebook.items else None
    items = None if reference.items is None else [item.code for item in reference.items]
    if sundry is not None and items is not None and sundry not in items:
        text = f"item {sundry} is not in the books of {reference.company}"
        yield _error("REF-E009", "/items/catch_all", text, near_miss(sundry, items))


def _others(rulebook: Rulebook, reference: Reference) -> Iterator[Finding]:
    """Dimensions with their values, and warehouses."""
    known = {dimension.name: {value.code for value in dimension.values} for dimension in reference.dimensions}
    for name, rule in rulebook.dimensions.items():
        at = f"/dimensions/{escaped(name)}"
        if name not in known:
            yield _error("REF-E006", at, f"dimension {name} is not in the books of {reference.company}",
                         near_miss(name, known))  # fmt: skip
            continue
        for value in filter(None, (rule.fixed, rule.default, *rule.table.values())):
            if value not in known[name]:
                yield _error("REF-E007", at, f"dimension {name} has no value {value}", near_miss(value, known[name]))
    warehouses = [one.code for one in reference.warehouses]
    named = {"/warehouses/default": rulebook.warehouses.default} | {
        f"/warehouses/by_location/{escaped(name)}": code for name, code in rulebook.warehouses.by_location.items()
    }
    for at, code in named.items():
        if code and code not in warehouses:
            yield _error("REF-E008", at, f"warehouse {code} is not in the books of {reference.company}",
                         near_miss(code, warehouses))  # fmt: skip


def _cannot(rulebook: Rulebook, capabilities: BooksCapabilities) -> Iterator[Finding]:
    if rulebook.orders is not None:
        for at, role, arrive in _wanted(rulebook.orders):
            yield from _cannot_stand(at, role, arrive, capabilities)
        if rulebook.orders.numbered == "shop" and not capabilities.takes_numbers:
            yield _error("CAN-E006", "/orders/numbered", "these books give their invoices numbers of their own alone",
                         "Let the books number; the order's number stands on every document.")  # fmt: skip
    for step in rulebook.customers.find_by:
        if step not in capabilities.contacts_by:
            can = ", ".join(capabilities.contacts_by)
            yield _error("CAN-E007", "/customers/find_by", f"these books cannot look for a contact by {step}",
                         f"They can by: {can}.")  # fmt: skip
    if rulebook.items is not None and not capabilities.items:
        yield _error("CAN-E008", "/items", "these books keep no items", "Leave this key out.")
    for name, rule, roles in (
        ("payments", rulebook.payments, (Role.PAYMENT,)),
        ("refunds", rulebook.refunds, (Role.CREDIT_NOTE, Role.REFUND_PAYMENT)),
    ):
        missing = [role for role in roles if role not in capabilities.documents]
        if rule is not None and missing:
            yield _error("CAN-E001", f"/{name}", f"these books take no {missing[0]}", "Leave them for later.")
    if len(rulebook.dimensions) > capabilities.most_dimensions:
        text = f"these books keep {capabilities.most_dimensions} dimensions a line, not {len(rulebook.dimensions)}"
        yield _error("CAN-E003", "/dimensions", text, "Leave out those that matter least.")
    if (rulebook.warehouses.default or rulebook.warehouses.by_location) and not capabilities.warehouses:
        yield _error("CAN-E004", "/warehouses", "these books keep no stock by warehouse", "Leave this key out.")


def _wanted(rules: OrderRules) -> Iterator[tuple[str, Role, str]]:
    """Every document that orders can become: where the rule stands, its role, and how it arrives."""
    yield "/orders", Role(rules.become), rules.arrive
    for place, instead in enumerate(rules.instead):
        yield f"/orders/instead/{place}", Role(instead.become), instead.arrive
    for name in ("invoiced", "delivered"):
        follows = getattr(rules, name)
        if follows is not None:
            yield f"/orders/{name}", Role.INVOICE, follows.arrive


def _cannot_stand(at: str, role: Role, arrive: str, capabilities: BooksCapabilities) -> Iterator[Finding]:
    follows = at in {"/orders/invoiced", "/orders/delivered"}
    if role not in capabilities.documents:
        can = ", ".join(sorted(capabilities.documents))
        where = at if follows else f"{at}/become"
        yield _error("CAN-E001", where, f"these books take no {role}", f"They take: {can}.")
    if arrive == "draft" and role not in capabilities.drafts:
        yield _error("CAN-E002", f"{at}/arrive", f"these books have no drafts of a {role}", "Post it instead.")


def _not_on_sales(rulebook: OrderRulebook, capabilities: BooksCapabilities, reference: Reference) -> Iterator[Finding]:
    """Accounts that have the right type for their role, and yet cannot stand on a document of a sale here."""
    for role in ALLOWED_TYPES:
        rule = rulebook.accounts.rule(role)
        for at, code in rule.codes(role) if rule else ():
            account = reference.account(code)
            if account is not None and account.type not in capabilities.sale_accounts:
                can = " and ".join(sorted(capabilities.sale_accounts))
                text = f"account {code} is of type {account.type}; on their sales these books take {can} alone"
                yield _error("CAN-E005", at, text, "Leave such orders out, or enter them by hand.")


def _error(code: str, at: str, text: str, hint: str) -> Finding:
    return Finding(id=code, level=Level.ERROR, text=text, hint=hint, at=at, cause=Cause.REFERENCE_MISSING)
