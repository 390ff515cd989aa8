"""A rulebook to start from: written from the reference data of both ends, each choice marked as proposed.

Nobody has agreed to a proposal before its mark was taken away; ``still_proposed`` says which are left. What nothing
speaks for is left out, with the reason in a comment, for a wrong account is found only at year end.
"""

from __future__ import annotations

import datetime
import re
from collections.abc import Iterable, Iterator
from decimal import Decimal

from inkwell_bridge.core.books import MasterData
from inkwell_bridge.core.commerce import SalesMasterData, TaxClass
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.rulebook.accounts import ALLOWED_TYPES
from inkwell_bridge.core.rulebook.proposing import (
    CALLED,
    account_of_method,
    account_of_role,
    bank_of,
    code_of_class,
    is_ordinary,
)
from inkwell_bridge.core.rulebook.yaml_writing import commented, quoted, scalar

MARK = "proposed"
_MARKED = re.compile(rf"#\s*{MARK}\b")
_NEEDED = ("sales", "shipping", "rounding")
# Statuses in which nothing is sold yet, or not any more.
_NOT_SOLD = (
    "await",
    "pending",
    "draft",
    "basket",
    "cancel",
    "fail",
    "refund",
    "hold",
    "void",
    "expired",
    "unpaid",
    "called off",
)
# In place of a code where one is needed and none was loaded: every check names it as one that is not there.
UNKNOWN = "?"


def starter(
    name: str,
    books: MasterData,
    sales: SalesMasterData | None,
    *,
    takes_orders: bool = True,
    country: str = "",
    guest_contact: str = "",
    starts_on: datetime.date | None = None,
) -> str:
    """The text of a rulebook, in YAML: for orders, or for customers alone where the books take nothing else.

    ``country`` is the company's own (ISO 3166): of a class that has rates in many, that one's counts.
    ``guest_contact`` is the code of a contact for buyers without an e-mail, where the books have one.
    """
    sold = sales or SalesMasterData(seller="", currency=books.currency)
    orders = _for_orders(books, sold, country, guest_contact, starts_on)
    lines = [
        "# Rules to start from, made from the reference data of both ends.",
        f'# What is marked "{MARK}" was chosen by type, rate and name. Look at it, change it where it is wrong, and',
        "# take the mark away. The rules can be tried and put in force before that; every check says what is left.",
        "rulebook: 1",
        f"name: {quoted(name)}",
        *(orders if takes_orders else _CUSTOMERS_ALONE),
    ]
    return "\n".join(lines) + "\n"


_CUSTOMERS_ALONE = (
    "",
    "customers:",
    "  find_by: email",
    "  not_found: create",
    "  update: always              # or: never, or what a contact takes on, such as [phone, delivery]",
)


def _for_orders(
    books: MasterData, sold: SalesMasterData, country: str, guest_contact: str, starts_on: datetime.date | None
) -> Iterator[str]:
    yield from _orders(sold, starts_on)
    yield from _customers(guest_contact)
    yield from _accounts(books)
    yield from _tax_codes(books, sold, country)
    yield from _payments(books, sold)
    yield from ("", "refunds:", "  arrive: posted              # or: draft", "", "penny:")
    yield "  allowance: 0.05             # so much may the books compute otherwise before a person is asked"
    yield "  goes_to: rounding account"


def still_proposed(text: str, *, file: str = "rulebook.yaml") -> tuple[Finding, ...]:
    """One warning that names the lines whose choice nobody has agreed to yet."""
    lines = [
        number
        for number, line in enumerate(text.splitlines(), start=1)
        if _MARKED.search(line) and line.partition("#")[0].strip()
    ]
    if not lines:
        return ()
    where = ", ".join(map(str, lines))
    return (
        Finding(
            id="RULE-W010",
            level=Level.WARNING,
            text=f"{file}: {len(lines)} choices are proposed, and nobody has agreed to them: lines {where}.",
            hint=f"Change what is wrong, and take the mark '# {MARK}' away from each that is right.",
            line=lines[0],
        ),
    )


def _orders(sold: SalesMasterData, starts_on: datetime.date | None) -> Iterator[str]:
    crossing = [one for one in sold.order_statuses if not any(word in one.casefold() for word in _NOT_SOLD)]
    others = [one for one in sold.order_statuses if one not in crossing]
    yield from (
        "",
        "orders:",
        "  become: invoice",
        "  arrive: posted              # or: draft, to be looked over there",
    )
    if crossing:
        left = f"; left out: {', '.join(others)}" if others else ""
        yield commented("statuses", _listed(crossing), f"{MARK}{left}", indent=2)
    else:
        yield '  statuses: ["paid"]          # proposed; the statuses of the shop were not loaded'
    if starts_on:
        yield commented("placed_from", starts_on.isoformat(), "the bridge's start date", indent=2)


def _customers(guest_contact: str) -> Iterator[str]:
    yield from ("", "customers:", "  find_by: email", "  not_found: create")
    if guest_contact:
        yield commented("without_email", quoted(guest_contact), f"{MARK}, by its name", indent=2)
    else:
        yield '  # without_email: "..."      # the contact for buyers without an e-mail; until then they are held'


def _accounts(books: MasterData) -> Iterator[str]:
    yield from ("", "accounts:")
    for role in CALLED:
        allowed = [one for one in books.accounts if one.type in ALLOWED_TYPES[role]]
        found = account_of_role(role, books.accounts)
        if found is not None:
            yield commented(role, quoted(found.code), f"{MARK}: {found.name}", indent=2)
        elif role in _NEEDED:
            first = min(allowed, key=lambda one: one.code, default=None)
            reason = f"{first.name}; nothing is called like it" if first else f"name an account of type {_types(role)}"
            yield commented(role, quoted(first.code if first else UNKNOWN), f"{MARK}: {reason}", indent=2)
        else:
            yield commented(f"# {role}", '"..."', f"no account of type {_types(role)} is called like it", indent=2)


def _types(role: str) -> str:
    return " or ".join(sorted(ALLOWED_TYPES[role]))


def _tax_codes(books: MasterData, sold: SalesMasterData, country: str) -> Iterator[str]:
    yield from ("", "tax_codes:", "  by_class:")
    classes = [_at_home(one, country) for one in sold.tax_classes]
    found = {one.name: code for one in classes if (code := code_of_class(one, books.tax_codes)) is not None}
    for tax_class in classes:
        if (code := found.get(tax_class.name)) is not None:
            reason = f"{MARK}: {code.name}, {_percent(code.whole_rate)}"
            yield commented(scalar(tax_class.name), quoted(code.code), reason, indent=4)
        else:
            rates = sorted({rate.rate_percent for rate in tax_class.rates})
            why = "several taxes: see as_lines" if len(rates) > 1 else "no code of that rate"
            said = ", ".join(map(_percent, rates)) or "no rate"
            yield commented(f"# {scalar(tax_class.name)}", '"..."', f"{said}: {why}", indent=4)
    if not found:
        yield commented(
            "standard", quoted(UNKNOWN), f"{MARK}: name the shop's tax classes, each with its code", indent=4
        )
    ordinary = [one for one in books.tax_codes if is_ordinary(one)]
    outside = next((one for one in books.tax_codes if one.outside), None)
    outside = outside or min(ordinary or books.tax_codes, key=lambda code: code.whole_rate, default=None)
    reason = outside.name if outside else "name the code for what bears no tax"
    yield commented("outside", quoted(outside.code if outside else UNKNOWN), f"{MARK}: {reason}", indent=2)


def _payments(books: MasterData, sold: SalesMasterData) -> Iterator[str]:
    yield from ("", "payments:", "  accounts:")
    if not sold.payment_methods:
        bank = bank_of(books.accounts)
        reason = f"{bank.name}; no payment methods were loaded" if bank else "name the account that money comes to"
        yield commented("default", quoted(bank.code if bank else UNKNOWN), f"{MARK}: {reason}", indent=4)
        return
    yield "    by_method:"
    for method in sold.payment_methods:
        found = account_of_method(method, books.accounts)
        reason = found.name if found else "name the account that its money comes to"
        yield commented(scalar(method), quoted(found.code if found else UNKNOWN), f"{MARK}: {reason}", indent=6)


def _at_home(tax_class: TaxClass, country: str) -> TaxClass:
    """The class with its rates in the company's own country, where it has any there."""
    there = tuple(rate for rate in tax_class.rates if country and rate.country == country)
    return tax_class.model_copy(update={"rates": there}) if there else tax_class


def _listed(texts: Iterable[str]) -> str:
    return f"[{', '.join(map(quoted, texts))}]"


def _percent(rate: Decimal) -> str:
    return f"{rate.normalize():f} %"
