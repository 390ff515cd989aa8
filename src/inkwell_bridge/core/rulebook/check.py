"""Holding a rulebook against what the books really have."""

from __future__ import annotations

from collections.abc import Iterator

from inkwell_bridge.core.books import AccountType, Reference
from inkwell_bridge.core.commerce import SalesReference
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.rulebook.model import OrderRulebook, Rulebook
from inkwell_bridge.core.rulebook.reader import line_of, near_miss

# The types a role may use, by trade practice: money on the wrong type is found only at year end.
ALLOWED_TYPES: dict[str, frozenset[AccountType]] = {
    "sales": frozenset({AccountType.INCOME}),
    "shipping": frozenset({AccountType.INCOME}),
    "rounding": frozenset({AccountType.EXPENSE, AccountType.INCOME}),
}


def check(
    rulebook: Rulebook, reference: Reference, *, places: dict[str, int] | None = None, file: str = "rulebook.yaml"
) -> tuple[Finding, ...]:
    """Everything the rulebook names that the books do not have, or have as another type.

    ``places`` gives the lines of the file; without it findings carry the pointer alone.
    """
    found = [*_for_orders(rulebook, reference), *_contacts(rulebook, reference)]
    return tuple(_placed(finding, places, file) for finding in found)


def check_source(
    rulebook: Rulebook, source: SalesReference, *, places: dict[str, int] | None = None, file: str = "rulebook.yaml"
) -> tuple[Finding, ...]:
    """Everything the rulebook names that the sales side does not have; a warning each, for an old order may have it.

    A kind of name that the sales side does not tell is not checked.
    """
    return tuple(_placed(finding, places, file) for finding in _at_source(rulebook, source))


def _at_source(rulebook: Rulebook, source: SalesReference) -> Iterator[Finding]:
    if rulebook.orders is None:
        return
    classes = [known.name for known in source.tax_classes]
    for name in rulebook.for_orders.tax_codes.by_class if classes else ():
        if name not in classes:
            yield _warning("REF-W007", f"/tax_codes/by_class/{name}", f"tax class {name}", near_miss(name, classes))
    statuses = source.order_statuses
    for place, name in enumerate(rulebook.orders.statuses if statuses else ()):
        if name not in statuses:
            yield _warning("REF-W008", f"/orders/statuses/{place}", f"order status {name}", near_miss(name, statuses))


def _warning(code: str, at: str, what: str, hint: str) -> Finding:
    return Finding(id=code, level=Level.WARNING, text=f"{what} is not known at the sales side", hint=hint, at=at)


def _placed(finding: Finding, places: dict[str, int] | None, file: str) -> Finding:
    if places is None:
        return finding
    line = line_of(finding.at, places)
    return finding.model_copy(update={"line": line, "text": f"{file}, line {line}: {finding.text}"})


def _for_orders(rulebook: Rulebook, reference: Reference) -> Iterator[Finding]:
    if rulebook.orders is not None:
        yield from _accounts(rulebook.for_orders, reference)
        yield from _tax_codes(rulebook.for_orders, reference)


def _accounts(rulebook: OrderRulebook, reference: Reference) -> Iterator[Finding]:
    for role, allowed in ALLOWED_TYPES.items():
        code = getattr(rulebook.accounts, role)
        account = reference.account(code)
        at = f"/accounts/{role}"
        if account is None:
            hint = near_miss(code, [known.code for known in reference.accounts])
            yield _error("REF-E001", at, f"account {code} for {role} is not in the books of {reference.company}", hint)
        elif account.type not in allowed:
            wanted = " or ".join(sorted(allowed))
            text = f"account {code} ({account.name}) is of type {account.type}; {role} needs {wanted}"
            yield _error("REF-E002", at, text, "Choose an account of that type, or change its type in the books.")


def _tax_codes(rulebook: OrderRulebook, reference: Reference) -> Iterator[Finding]:
    for name, code in rulebook.tax_codes.by_class.items():
        if reference.tax_code(code) is None:
            yield _no_tax_code(f"/tax_codes/by_class/{name}", code, reference)
    outside = reference.tax_code(rulebook.tax_codes.outside)
    if outside is None:
        yield _no_tax_code("/tax_codes/outside", rulebook.tax_codes.outside, reference)
    elif not outside.outside:
        text = f"tax code {outside.code} is not outside tax; a rounding line would be taxed"
        yield _error(
            "REF-E004", "/tax_codes/outside", text, "Choose a code that the books keep outside the tax return."
        )


def _contacts(rulebook: Rulebook, reference: Reference) -> Iterator[Finding]:
    code = rulebook.customers.without_email
    if code is not None and reference.contacts is not None and code not in reference.contacts:
        text = f"contact {code} is not in the books of {reference.company}"
        yield _error("REF-E005", "/customers/without_email", text, near_miss(code, reference.contacts))


def _no_tax_code(at: str, code: str, reference: Reference) -> Finding:
    hint = near_miss(code, [known.code for known in reference.tax_codes])
    return _error("REF-E003", at, f"tax code {code} is not in the books of {reference.company}", hint)


def _error(code: str, at: str, text: str, hint: str) -> Finding:
    return Finding(id=code, level=Level.ERROR, text=text, hint=hint, at=at, cause=Cause.REFERENCE_MISSING)
