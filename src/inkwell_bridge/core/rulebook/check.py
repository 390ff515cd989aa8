"""Holding a rulebook against what the books really have."""

from __future__ import annotations

from collections.abc import Iterator

from inkwell_bridge.core.books import HEADER_CODES, AccountType, MasterData
from inkwell_bridge.core.commerce import Nature
from inkwell_bridge.core.findings import Finding
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.rulebook.accounts import ALLOWED_TYPES, MONEY_TYPES
from inkwell_bridge.core.rulebook.found import placed, wrong
from inkwell_bridge.core.rulebook.levels import Facts
from inkwell_bridge.core.rulebook.model import OrderRulebook, Rulebook
from inkwell_bridge.core.rulebook.near import near_miss
from inkwell_bridge.core.rulebook.payouts import PAYOUT_ACCOUNT_TYPES
from inkwell_bridge.core.rulebook.requests import REQUEST_ACCOUNT_TYPES
from inkwell_bridge.core.rulebook.source_map import SourceMap
from inkwell_bridge.core.rulebook.taxes import Supply


def check(rulebook: Rulebook, master_data: MasterData, *, source_map: SourceMap | None = None) -> tuple[Finding, ...]:
    """Everything the rulebook names that the books do not have, or have as another type.

    ``source_map`` gives the lines of the file; without it findings carry the pointer alone.
    """
    found = [
        *_for_orders(rulebook, master_data),
        *_of_provider(rulebook, master_data),
        *_long_lists(rulebook, master_data),
        *_others(rulebook, master_data),
    ]
    return tuple(placed(finding, source_map) for finding in found)


def _for_orders(rulebook: Rulebook, master_data: MasterData) -> Iterator[Finding]:
    if rulebook.orders is not None:
        yield from _accounts(rulebook.for_orders, master_data)
        yield from _money_accounts(rulebook.for_orders, master_data)
        yield from _tax_codes(rulebook.for_orders, master_data)
        yield from _vouchers(rulebook.for_orders)


def _accounts(rulebook: OrderRulebook, master_data: MasterData) -> Iterator[Finding]:
    for role, allowed in ALLOWED_TYPES.items():
        rule = rulebook.accounts.rule(role)
        for at, code in rule.codes(role) if rule else ():
            yield from _account(at, code, role, allowed, master_data)


def _money_accounts(rulebook: OrderRulebook, master_data: MasterData) -> Iterator[Finding]:
    """Money comes in on a bank or clearing account; only what was a debt before (a gift card) on that."""
    if rulebook.payments is None:
        return
    for at, code in rulebook.payments.accounts.codes():
        # A gift card that pays lowers what was owed for it; on a bank account the same money would come in twice.
        debts = frozenset({AccountType.LIABILITY}) if at.endswith(("/gift card", "/voucher")) else frozenset()
        yield from _account(
            at, code, at.rpartition("/")[2].replace("default", "payments"), MONEY_TYPES | debts, master_data
        )


def _of_provider(rulebook: Rulebook, master_data: MasterData) -> Iterator[Finding]:
    for role, code in rulebook.payouts.codes if rulebook.payouts else ():
        yield from _account(f"/payouts/{role}", code, role, PAYOUT_ACCOUNT_TYPES[role], master_data)
    for role, code in rulebook.requests.codes if rulebook.requests else ():
        yield from _account(f"/requests/{role}", code, role, REQUEST_ACCOUNT_TYPES[role], master_data)


def _account(
    at: str, code: str, role: str, allowed: frozenset[AccountType], master_data: MasterData
) -> Iterator[Finding]:
    account = master_data.account(code)
    if account is None:
        hint = near_miss(code, [known.code for known in master_data.accounts])
        yield wrong("REF-E001", at, f"account {code} for {role} is not in the books of {master_data.company}", hint)
    elif account.type not in allowed:
        wanted = " or ".join(sorted(allowed))
        text = f"account {code} ({account.name}) is of type {account.type}; {role} needs {wanted}"
        yield wrong("REF-E002", at, text, "Choose an account of that type, or change its type in the books.")


def _vouchers(rulebook: OrderRulebook) -> Iterator[Finding]:
    """Vouchers that are deducted need the account that they were sold on, and the code that they were taxed under."""
    rules = rulebook.payments.vouchers if rulebook.payments else None
    if rules is None:
        return
    if rulebook.accounts.vouchers is None:
        yield wrong("REF-E011", "/payments/vouchers", "vouchers are deducted, and accounts names none for vouchers",
                    "Add accounts: vouchers, the account that they were sold on.")  # fmt: skip
    codes = rulebook.tax_codes
    if codes.chosen(Facts(), Supply("", rules.taxed_as, str(Nature.VOUCHER))) is None:
        yield wrong("REF-E011", "/payments/vouchers/taxed_as", f"tax class {rules.taxed_as} has no tax code",
                    near_miss(rules.taxed_as, list(codes.by_class)))  # fmt: skip


def _tax_codes(rulebook: OrderRulebook, master_data: MasterData) -> Iterator[Finding]:
    for at, code in rulebook.tax_codes.codes():
        if master_data.tax_code(code) is None:
            hint = near_miss(code, [known.code for known in master_data.tax_codes])
            yield wrong("REF-E003", at, f"tax code {code} is not in the books of {master_data.company}", hint)
    # It exists, and may still be wrong: a code of nought per cent stands in the tax return, and what is outside tax
    # must not.
    outside = master_data.tax_code(rulebook.tax_codes.outside)
    if outside is not None and not outside.outside:
        text = f"tax code {outside.code} is not outside tax; a rounding line would be taxed"
        yield wrong("REF-E004", "/tax_codes/outside", text, "Choose a code that the books keep outside the tax return.")


def _long_lists(rulebook: Rulebook, master_data: MasterData) -> Iterator[Finding]:
    # Contacts and items are absent, not empty, where the list was too long to be loaded: then nothing is said of them.
    for name in ("without_email", "house"):
        code = getattr(rulebook.customers, name)
        if code is not None and master_data.contacts is not None and code not in master_data.contacts:
            text = f"contact {code} is not in the books of {master_data.company}"
            yield wrong("REF-E005", f"/customers/{name}", text, near_miss(code, master_data.contacts))
    sundry = rulebook.items.catch_all if rulebook.items else None
    items = None if master_data.items is None else [item.code for item in master_data.items]
    if sundry is not None and items is not None and sundry not in items:
        text = f"item {sundry} is not in the books of {master_data.company}"
        yield wrong("REF-E009", "/items/catch_all", text, near_miss(sundry, items))


def _others(rulebook: Rulebook, master_data: MasterData) -> Iterator[Finding]:
    """Dimensions with their values, and warehouses."""
    known = {dimension.name: {value.code for value in dimension.values} for dimension in master_data.dimensions}
    for name, rule in rulebook.dimensions.items():
        at = f"/dimensions/{escaped(name)}"
        if name not in known:
            yield wrong("REF-E006", at, f"dimension {name} is not in the books of {master_data.company}",
                         near_miss(name, known))  # fmt: skip
            continue
        # What an expression or a template comes to is known with an order alone, and is held then.
        for where, value in rule.codes(at):
            if value not in known[name]:
                yield wrong("REF-E007", where, f"dimension {name} has no value {value}", near_miss(value, known[name]))
    # Books that tell no terms at all may keep some all the same; with a list, what is not on it is wrong.
    terms = [one.code for one in master_data.terms]
    for at, code in _terms(rulebook) if terms else ():
        if code not in terms:
            text = f"payment terms {code} are not in the books of {master_data.company}"
            yield wrong("REF-E010", at, text, near_miss(code, terms))
    languages = [one.code for one in master_data.languages]
    for name, code in rulebook.customers.languages.items() if languages else ():
        if code not in languages:
            text = f"language {code} is not in the books of {master_data.company}"
            yield wrong("REF-E012", f"/customers/languages/{escaped(name)}", text, near_miss(code, languages))
    lists = (master_data.units, master_data.price_lists, master_data.delivery_methods, master_data.sales_people,
             master_data.languages)  # fmt: skip
    for name, entries in zip(HEADER_CODES, lists, strict=True):
        field = rulebook.fields.header_codes.get(name)
        codes = [one.code for one in entries]
        # As with terms: books that tell none may keep some all the same.
        for at, code in field.codes(f"/fields/{name}") if field and codes else ():
            if code not in codes:
                text = f"{name.replace('_', ' ')} {code} is not in the books of {master_data.company}"
                yield wrong("REF-E012", at, text, near_miss(code, codes))
    warehouses = [one.code for one in master_data.warehouses]
    for at, code in rulebook.warehouses.codes():
        if code not in warehouses:
            yield wrong("REF-E008", at, f"warehouse {code} is not in the books of {master_data.company}",
                         near_miss(code, warehouses))  # fmt: skip


def _terms(rulebook: Rulebook) -> Iterator[tuple[str, str]]:
    """Every payment term that the rules name, for contacts and for documents, with its JSON Pointer."""
    for name, code in rulebook.customers.terms.items():
        yield f"/customers/terms/{escaped(name)}", code
    if rulebook.fields.terms is not None:
        yield from rulebook.fields.terms.codes("/fields/terms")
