"""Reference data of both ends: listed to be looked through, and held against the rules before an order meets it."""

from __future__ import annotations

from typing import Any

import pytest

from inkwell_bridge.core.books import MasterData
from inkwell_bridge.core.commerce import SalesMasterData
from inkwell_bridge.core.findings import Level
from inkwell_bridge.core.listing import Listed, listed
from inkwell_bridge.core.rulebook import check_source, read
from tests.core.test_cases import BASE, books

SHOP: dict[str, Any] = {
    "seller": "Marrowby", "currency": "GBP",
    "tax_classes": [
        {"name": "standard", "rates": [{"name": "VAT", "country": "GB", "rate_percent": "20"}]},
        {"name": "reduced", "rates": [{"name": "VAT", "country": "GB", "rate_percent": "5"},
                                      {"name": "VAT", "country": "GB", "region": "IM", "rate_percent": "5"}]},
        {"name": "zero"}, {"name": "export"}, {"name": "us-sales"},
    ],
    "order_statuses": ["paid", "completed"], "payment_methods": ["card", "cash", "card"], "locations": ["Mill"],
    "languages": ["en-GB", "cy-GB"],
}  # fmt: skip


def shop(**fields: Any) -> SalesMasterData:
    """The shop's reference data."""
    return SalesMasterData.read({**SHOP, **fields})


def said(source: SalesMasterData, more: str = "", master_data: MasterData | None = None) -> list[tuple[str, str, str]]:
    """Id, text and hint of what does not fit; every one of them a warning with its line."""
    text = f"rulebook: 1\nbased_on: base.yaml\n{more}"
    book, source_map = read(text, file="rules.yaml", base=lambda name: BASE if name == "base.yaml" else None)
    found = check_source(book, source, master_data=master_data, source_map=source_map)
    assert all(one.level is Level.WARNING and one.line for one in found)
    return [(one.id, one.text.partition(": ")[2], one.hint) for one in found]


def test_rules_that_fit_the_shop_have_no_findings() -> None:
    """Nothing to say is a good answer."""
    assert said(shop(), master_data=books()) == []


def test_a_class_that_the_shop_does_not_have() -> None:
    """With the near one; an old order may still have it, so it is no error."""
    ((code, text, hint),) = said(shop(), "tax_codes: {by_class: {standart: S20}}\n")
    assert (code, "tax class standart" in text, hint) == ("REF-W007", True, "Did you mean 'standard'?")


def test_a_status_that_the_shop_does_not_have() -> None:
    """Orders in it would be waited for in vain."""
    ((code, text, hint),) = said(shop(), "orders: {statuses: [paid, complete]}\n")
    assert (code, "order status complete" in text, hint) == ("REF-W008", True, "Did you mean 'completed'?")


@pytest.mark.parametrize(("rule", "what", "hint"), [
    ('payments: {accounts: {by_method: {crad: "1250"}}}', "payment method crad", "Did you mean 'card'?"),
    ('payments: {accounts: {by_brand: {Kestral: "1250"}}}', "card brand Kestral", "Did you mean 'Kestrel'?"),
    ("warehouses: {by_location: {Mil: MILL}}", "location Mil", "Did you mean 'Mill'?"),
    ("customers: {groups: {trad: T}}", "customer group trad", "Did you mean 'trade'?"),
    ("customers: {languages: {en-BG: en}}", "language en-BG", "Did you mean 'en-GB'?"),
    ('accounts: {sales: {default: "4000", by_product_type: {yran: "4010"}}}', "product type yran",
     "Did you mean 'yarn'?"),
    ('accounts: {shipping: {default: "4100", by_customer_group: {traed: "4010"}}}', "customer group traed",
     "Did you mean 'trade'?"),
])  # fmt: skip
def test_a_name_that_the_shop_does_not_have(rule: str, what: str, hint: str) -> None:
    """Any table that goes by the shop's own names; the near one is told."""
    source = shop(customer_groups=["trade", "retail"], product_types=["yarn", "bowl"], card_brands=["Kestrel"])
    ((code, text, told),) = said(source, f"{rule}\n")
    assert (code, f"{what} is not known" in text, told) == ("REF-W011", True, hint)


@pytest.mark.parametrize("without", ["tax_classes", "order_statuses"])
def test_what_the_shop_does_not_tell_is_not_checked(without: str) -> None:
    """An end without such a list knows nothing better."""
    more = "orders: {statuses: [nowhere]}\n" if without == "order_statuses" else "tax_codes: {by_class: {odd: S20}}\n"
    assert said(shop(**{without: []}), more) == []


@pytest.mark.parametrize(("rate", "fits"), [("20", True), ("20.00", True), ("19", False), ("0", False)])
def test_the_rates_of_both_sides_are_held_against_each_other(rate: str, fits: bool) -> None:
    """A class of 19 % under a code of 20 % would be wrong on every line."""
    classes = [{"name": "standard", "rates": [{"name": "Tax", "rate_percent": rate}]}, *SHOP["tax_classes"][1:]]
    found = said(shop(tax_classes=classes), master_data=books())
    assert (found == []) is fits
    if not fits:
        assert found[0][:2] == ("REF-W009", f"tax class standard is taxed with {rate} %, code S20 with 20 %")


@pytest.mark.parametrize("more", ["tax_codes: {as_lines: [standard]}\n", "tax_codes: {carry: one line}\n"])
def test_a_class_whose_taxes_stand_apart_has_no_rate_to_fit(more: str) -> None:
    """The line above bears none of it."""
    classes = [{"name": "standard", "rates": [{"name": "State", "rate_percent": "6.25"}]}, *SHOP["tax_classes"][1:]]
    assert said(shop(tax_classes=classes), more, master_data=books()) == []


def test_rules_of_customers_alone_ask_nothing_of_the_shop() -> None:
    """They name no class and no status."""
    book, _ = read("rulebook: 1\ncustomers: {find_by: email}\n")
    assert check_source(book, shop(), master_data=books()) == ()


def of_kind(master_data: MasterData | SalesMasterData, kind: str) -> list[Listed]:
    """The entries of one list."""
    return [entry for entry in listed(master_data) if entry.kind == kind]


def test_the_books_lists_are_told_entry_by_entry() -> None:
    """Each with what is worth showing beside its name."""
    account = next(entry for entry in of_kind(books(), "accounts") if entry.code == "2300")
    assert (account.name, account.details) == ("Customer deposits", {"type": "liability"})
    code = next(entry for entry in of_kind(books(), "tax-codes") if entry.code == "OUT")
    assert code.details == {"rate_percent": "0", "outside": "yes"}
    assert [(one.code, one.name) for one in of_kind(books(), "warehouses")] == [("MILL", "Mill"),
                                                                               ("DYEHOUSE", "Dyehouse")]  # fmt: skip
    (channel, _) = of_kind(books(), "dimensions")
    assert (channel.code, channel.details) == ("channel", {"values": "shop, fair"})
    assert [one.code for one in of_kind(books(), "currencies")] == ["GBP", "EUR", "USD", "JPY", "KWD"]
    assert [one.code for one in of_kind(books(), "terms")] == ["NET30", "CASH"]


def test_periods_are_told_with_their_days_and_their_state() -> None:
    """An open one takes documents."""
    periods = [{"name": "October 2026", "first": "2026-10-01", "last": "2026-10-31", "open": True},
               {"name": "September 2026", "first": "2026-09-01", "last": "2026-09-30", "open": False}]  # fmt: skip
    master_data = MasterData.read({**books().as_json(), "periods": periods})
    assert [one.details for one in of_kind(master_data, "periods")] == [
        {"first": "2026-10-01", "last": "2026-10-31", "state": "open"},
        {"first": "2026-09-01", "last": "2026-09-30", "state": "closed"},
    ]


def test_the_shops_lists_are_told_entry_by_entry() -> None:
    """Rates in words; a name that comes twice stands once."""
    reduced = next(entry for entry in of_kind(shop(), "tax-classes") if entry.code == "reduced")
    assert reduced.details == {"rates": "VAT 5 % (GB); VAT 5 % (IM)"}
    assert [one.code for one in of_kind(shop(), "payment-methods")] == ["card", "cash"]
    assert [one.code for one in of_kind(shop(), "languages")] == ["en-GB", "cy-GB"]
    assert of_kind(shop(), "card-brands") == []
