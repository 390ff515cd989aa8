"""Rulebooks: every error names its file, its line, and what was expected there."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from jsonschema import Draft202012Validator

from inkwell_bridge.core.books import HEADER_CODES, PARTICULARS, STEPS, BooksCapabilities, Role
from inkwell_bridge.core.commerce import SalesCapabilities
from inkwell_bridge.core.rulebook import (
    SCHEMA,
    NoRulesForOrders,
    OrderRulebook,
    Rulebook,
    check,
    check_capabilities,
    check_written_back,
    read,
    read_base,
)
from inkwell_bridge.core.rulebook.fields import pieces_of
from inkwell_bridge.core.rulebook.invalid import RulebookInvalid
from inkwell_bridge.core.rulebook.orders import WrittenBack
from inkwell_bridge.demo.facts import rulebook_text
from tests.core.test_cases import books
from tests.support.orders import master_data

GOOD = """\
rulebook: 1
orders:
  statuses: [paid]
accounts:
  sales: "4000"
  shipping: "4100"
  rounding: "8200"
tax_codes:
  by_class:
    standard: S20
  outside: OUT
penny:
  allowance: 0.05
"""


def wrong(text: str) -> list[tuple[int | None, str, str]]:
    """Line, text and hint of everything wrong with a rulebook."""
    with pytest.raises(RulebookInvalid) as caught:
        read(text, file="rules.yaml")
    return [(finding.line, finding.text, finding.hint) for finding in caught.value.findings]


def test_defaults_are_filled_in() -> None:
    """What is not said has its published default."""
    book, source_map = read(GOOD)
    assert (book.orders.arrive.default, book.customers.not_found, book.penny.goes_to) == (
        "posted",
        "create",
        "rounding account",
    )
    assert book.penny.allowance == Decimal("0.05")
    assert source_map.find("/accounts/rounding") == ("rulebook.yaml", 7)


CUSTOMERS_ALONE = "rulebook: 1\ncustomers:\n  update: always\n"


def test_a_rulebook_may_speak_of_customers_alone() -> None:
    """It then says nothing of orders, and whoever asks is told."""
    book, _ = read(CUSTOMERS_ALONE)
    assert (book.customers.update, book.orders, book.accounts) == (PARTICULARS, None, None)
    assert check(book, master_data()) == ()
    with pytest.raises(NoRulesForOrders):
        _ = book.for_orders
    with_house = read(CUSTOMERS_ALONE + "  without_email: NOBODY\n")[0]
    assert [finding.id for finding in check(with_house, master_data())] == ["REF-E005"]


def test_a_rulebook_of_orders_says_all_that_orders_need() -> None:
    """Nothing of either is told, and so is each thing that is missing."""
    ((_, nothing, _),) = wrong("rulebook: 1\n")
    assert "expected orders, customers, payouts or requests" in nothing
    missing = [text for _, text, _ in wrong("rulebook: 1\norders:\n  statuses: [paid]\n")]
    assert len(missing) == 3
    assert all("which goes with 'orders'" in text for text in missing)
    book = read(GOOD)[0].for_orders
    assert isinstance(book, OrderRulebook)
    assert book.accounts.sales.default == "4000"


@pytest.mark.parametrize("bridge", [
    "web-shop-to-uk-books", "irish-shop-to-ledger", "web-shop-to-contact-list", "lanternfair-to-ledger",
    "lanternfair-to-uk-books", "storefront-to-tryton",
])  # fmt: skip
def test_the_demos_rulebooks_are_good(bridge: str) -> None:
    """Each of its bridges."""
    assert read(rulebook_text(bridge))[0].name


def test_the_schema_is_a_schema() -> None:
    """And the demo's rulebook fits it."""
    Draft202012Validator.check_schema(SCHEMA)
    assert read(rulebook_text())[0].customers.without_email == "WEB-GUEST"


@pytest.mark.parametrize(
    ("text", "line", "said"),
    [
        ("rulebook: [1", 2, "rules.yaml, line 2: did not find expected ',' or ']'"),
        (GOOD + "penny:\n  allowance: 1\n", 14, "rules.yaml, line 14: the key 'penny' stands here a second time"),
        (GOOD.replace("[paid]", "paid"), 3, "rules.yaml, line 3: /orders/statuses: expected a list, got 'paid'"),
        (
            GOOD.replace('"4000"', "4000"),
            5,
            "rules.yaml, line 5: /accounts/sales: expected text or a group of named values, got '4000'",
        ),
        (
            GOOD.replace('"4000"', "[4000]"),
            5,
            "rules.yaml, line 5: /accounts/sales: expected text or a group of named values, got '[4000]'",
        ),
        (GOOD.replace("0.05", "lots"), 13, "rules.yaml, line 13: /penny/allowance: expected a number, got 'lots'"),
        (GOOD.replace("rulebook: 1", "rulebook: 2"), 1, "rules.yaml, line 1: /rulebook: expected 1, got '2'"),
        (
            GOOD.replace("  outside: OUT\n", ""),
            8,
            "rules.yaml, line 8: /tax_codes: expected 'outside', which is missing",
        ),
        ("a: &x 1\nb: *x\n", 2, "rules.yaml, line 2: aliases (*name) are not read; write the value out"),
        ("", 1, "rules.yaml, line 1: the file is empty"),
    ],
)
def test_errors_name_line_and_expectation(text: str, line: int, said: str) -> None:
    """Syntax, repeats, wrong types, missing keys, aliases."""
    assert (line, said) in [(where, what) for where, what, _ in wrong(text)]


def test_an_unknown_key_suggests_the_nearest() -> None:
    """A slip of the pen is named on its own line."""
    found = wrong(GOOD.replace("allowance", "alowance"))
    assert (13, "rules.yaml, line 13: the key 'alowance' is not known here", "Did you mean 'allowance'?") in found


def test_all_errors_come_at_once_in_the_files_order() -> None:
    """Nobody wants to mend one to be told the next."""
    found = wrong(GOOD.replace("[paid]", "paid").replace("0.05", "lots"))
    assert [line for line, _, _ in found] == [3, 13]


@given(st.text(max_size=300))
def test_no_text_whatever_breaks_the_reader(text: str) -> None:
    """It is a rulebook, or it is refused with a line."""
    try:
        outcome: Rulebook | RulebookInvalid = read(text)[0]
    except RulebookInvalid as error:
        outcome = error
    assert isinstance(outcome, Rulebook) or all(finding.line for finding in outcome.findings)


@pytest.mark.parametrize(
    "text",
    ["!!python/object:os.system {}", "a: !!binary aGk=", "? [1]\n: 2", "x: " + "[" * 40 + "]" * 40, "a" * 200_001],
)
def test_what_yaml_could_do_to_us_is_not_read(text: str) -> None:
    """Tags, odd keys, deep nesting, great length."""
    assert len(wrong(text)) == 1


def test_what_the_books_lack_is_named_with_its_line() -> None:
    """An unknown account suggests a near one, a wrong type names the right ones."""
    text = GOOD.replace('"4000"', '"4001"').replace('"8200"', '"1200"').replace("S20", "S2O").replace("OUT", "Z00")
    book, source_map = read(text)
    found = [(finding.id, finding.line, finding.text) for finding in check(book, master_data(), source_map=source_map)]
    company = "Marrowby Yarn & Dye Works Ltd"
    assert found == [
        ("REF-E001", 5, f"rulebook.yaml, line 5: account 4001 for sales is not in the books of {company}"),
        (
            "REF-E002",
            7,
            "rulebook.yaml, line 7: account 1200 (Current account) is of type bank; rounding needs expense or income",
        ),
        ("REF-E003", 10, f"rulebook.yaml, line 10: tax code S2O is not in the books of {company}"),
        ("REF-E004", 11, "rulebook.yaml, line 11: tax code Z00 is not outside tax; a rounding line would be taxed"),
    ]


def test_an_unknown_house_contact_is_named() -> None:
    """Before the first guest trips on it."""
    book, _ = read(GOOD + "customers:\n  without_email: WEB-GEUST\n")
    (finding,) = check(book, master_data())
    assert (finding.id, finding.hint, finding.line) == ("REF-E005", "Did you mean 'WEB-GUEST'?", None)


def test_a_rulebook_that_fits_the_books_has_no_findings() -> None:
    """Nothing to say is a good answer."""
    assert check(read(GOOD)[0], master_data()) == ()


@pytest.mark.parametrize(
    ("more", "able", "code", "at"),
    [
        ("orders: {become: cash sale}", {}, "CAN-E001", "/orders/become"),
        (
            "orders: {instead: [{name: T, when: 'true', become: sales order}]}",
            {},
            "CAN-E001",
            "/orders/instead/0/become",
        ),
        ("orders: {invoiced: {when: 'true', arrive: draft}}", {"drafts": ()}, "CAN-E002", "/orders/invoiced/arrive"),
        ("dimensions: {channel: shop}", {}, "CAN-E003", "/dimensions"),
        ("warehouses: {default: MILL}", {}, "CAN-E004", "/warehouses"),
        ("orders: {numbered: shop}", {}, "CAN-E006", "/orders/numbered"),
        ("customers: {find_by: [email, tax number]}", {}, "CAN-E007", "/customers/find_by"),
        ("items: {}", {}, "CAN-E008", "/items"),
        ("tax_codes: {carry: books compute}", {"tax": "given"}, "CAN-E009", "/tax_codes/carry"),
        ("fields: {further: {channel: web}}", {}, "CAN-E010", "/fields/further"),
        ("fields: {line_further: {article: {from: line.sku}}}", {}, "CAN-E010", "/fields/line_further"),
        ("fields: {sales_person: IF}", {"header_codes": ("price_list",)}, "CAN-E011", "/fields/sales_person"),
        ("orders: {delivered: {when: 'true'}}", {"documents": ("sales order",)}, "CAN-E001", "/orders/delivered"),
        ("payments: {accounts: {default: '1250'}}", {}, "CAN-E001", "/payments"),
        ("refunds: {arrive: posted}", {"documents": ("invoice", "credit note")}, "CAN-E001", "/refunds"),
    ],
)  # fmt: skip
def test_what_the_books_cannot_do_is_refused_when_it_is_written(
    more: str, able: dict[str, Any], code: str, at: str
) -> None:
    """Not when an order trips on it; each with a way out."""
    own = f"rulebook: 1\nbased_on: base.yaml\n{more}\n"
    book, source_map = read(own, file="own.yaml", base=lambda name: GOOD)
    abilities = BooksCapabilities(**{"contacts_by": ("email",), **able})
    found = {(one.id, one.at): one for one in check_capabilities(book, abilities, source_map=source_map)}
    finding = found[code, at]
    assert (finding.line is not None, bool(finding.hint)) == (True, True)
    # Books that can do all of it have nothing to say.
    keeps = {
        "header_codes": HEADER_CODES,
        "items": True,
        "warehouses": True,
        "takes_numbers": True,
        "further_fields": True,
        "most_dimensions": 3,
    }
    roles = tuple(Role)
    everything = BooksCapabilities(documents=roles, drafts=roles, contacts_by=STEPS, **keeps)
    assert check_capabilities(book, everything) == ()


@pytest.mark.parametrize(("takes", "refused"), [
    (("income", "expense"), []), (("income",), [("/accounts/rounding", "account 8200 is of type expense")]),
    (("liability",), [("/accounts/sales", "account 4000 is of type income; on their sales these books take liability"),
                      ("/accounts/shipping", "account 4100 is of type income"),
                      ("/accounts/rounding", "account 8200 is of type expense")]),
])  # fmt: skip
def test_an_account_that_cannot_stand_on_a_sale_there_is_named(
    takes: tuple[str, ...], refused: list[tuple[str, str]]
) -> None:
    """It has the right type for its role, and these books would refuse each document all the same."""
    book, source_map = read(GOOD, file="rules.yaml")
    abilities = BooksCapabilities(sale_accounts=takes)
    found = check_capabilities(book, abilities, master_data=master_data(), source_map=source_map)
    assert {(one.id, one.at) for one in found} == {("CAN-E005", at) for at, _ in refused}
    for (_, text), finding in zip(refused, sorted(found, key=lambda one: one.line or 0), strict=True):
        assert text in finding.text
        assert finding.hint


@pytest.mark.parametrize(
    ("more", "code", "text"),
    [
        ("items: {not_found: catch-all, catch_all: SUNDRIES}", "REF-E009", "item SUNDRIES is not in the books"),
        ("customers: {terms: {30 days: NET31}}", "REF-E010", "payment terms NET31 are not in the books"),
        (
            "fields: {organisational_unit: {from: order.channel, table: {fair: TRADES}}}",
            "REF-E012",
            "organisational unit TRADES is not in the books",
        ),
        ("fields: {sales_person: IFF}", "REF-E012", "sales person IFF is not in the books"),
        ("payments: {accounts: {}, vouchers: {taxed_as: standrd}}", "REF-E011", "tax class standrd has no tax code"),
    ],
)
def test_what_lists_of_the_books_lack_is_named(more: str, code: str, text: str) -> None:
    """With a near miss where there is one."""
    book, source_map = read(GOOD + more + "\n", file="own.yaml")
    found = {finding.id: finding for finding in check(book, books(), source_map=source_map)}
    assert text in found[code].text
    assert found[code].line == 14
    assert found[code].hint.startswith("Did you mean")


@pytest.mark.parametrize(
    ("template", "pieces"),
    [
        ("plain", [("plain", False)]),
        ("{a}{b}", [("a", True), ("b", True)]),
        ("{{x}} {a}", [("{", False), ("x", False), ("}", False), (" ", False), ("a", True)]),
        ("", []),
    ],
)
def test_a_template_is_taken_to_pieces(template: str, pieces: list[tuple[str, bool]]) -> None:
    """A doubled brace stands for itself."""
    assert [tuple(piece) for piece in pieces_of(template)] == pieces


@pytest.mark.parametrize("template", ["{a", "a}", "{a{b}}", "{}"])
def test_a_brace_alone_is_refused_with_its_line(template: str) -> None:
    """Else part of a text would be missing, and nobody would notice."""
    (found,) = wrong(GOOD + f"fields: {{text: {{template: '{template}'}}}}\n")
    assert (found[0], "each { of a template" in found[1]) == (14, True)


def test_an_expression_in_a_template_is_checked_too() -> None:
    """Its name is looked up when the rulebook is written."""
    (found,) = wrong(GOOD + "fields: {text: {template: 'To {order.contry}'}}\n")
    assert "order.contry" in found[1]


@pytest.mark.parametrize(
    "field", ["{fixed: a, from: order.number}", "{template: '{a}', from: order.number}", "{table: {a: b}}"]
)
def test_a_field_has_one_source(field: str) -> None:
    """Fixed, computed, or a template."""
    assert wrong(GOOD + f"fields: {{text: {field}}}\n")


def test_a_base_may_lack_what_a_rulebook_needs() -> None:
    """Its bridges say the rest; what could stand in no rulebook is refused all the same."""
    read_base("rulebook: 1\naccounts: {sales: {by_country: {US: '4010'}}}\n", file="client.yaml")
    with pytest.raises(RulebookInvalid) as caught:
        read_base("rulebook: 1\naccounts: {salse: '4000'}\n", file="client.yaml")
    (finding,) = caught.value.findings
    assert (finding.line, finding.hint) == (2, "Did you mean 'sales'?")


def test_a_misspelt_key_hides_nothing_else() -> None:
    """The expression that cannot be, and the key that nobody knows, each once and in the order of the file."""
    text = GOOD.replace("  statuses: [paid]\n", "  statuses: [paid]\n  onyl: a\n  only: order.totl > 1\n")
    found = wrong(text)
    assert [(line, said.partition(": ")[2][:30]) for line, said, _ in found] == [
        (4, "the key 'onyl' is not known he"), (5, found[1][1].partition(": ")[2][:30]),
    ]  # fmt: skip
    assert "totl" in found[1][1]
    with pytest.raises(RulebookInvalid) as caught:
        read(text.replace('sales: "4000"', 'sales: "4001"'))
    assert caught.value.without_unknown is not None
    book, source_map = caught.value.without_unknown
    assert [one.id for one in check(book, master_data(), source_map=source_map)] == ["REF-E001"]


def test_the_same_is_told_once() -> None:
    """A value that fits none of several shapes is wrong in one way."""
    found = wrong(GOOD.replace("standard: S20", "standard: [S20]"))
    assert len(found) == len(set(found)) == 1


@pytest.mark.parametrize(("takes", "codes"), [
    (("tag", "note"), []), (("note",), [("CAN-E012", "/orders/written_back/tag")]),
    ((), [("CAN-E012", "/orders/written_back/tag"), ("CAN-E012", "/orders/written_back/note")]),
])  # fmt: skip
def test_what_the_sales_side_cannot_be_told_is_refused(takes: tuple[str, ...], codes: list[tuple[str, str]]) -> None:
    """With the line that asks for it."""
    own = "rulebook: 1\nbased_on: base.yaml\norders: {written_back: {tag: done, note: 'See {link}'}}\n"
    book, source_map = read(own, file="own.yaml", base=lambda name: GOOD)
    found = check_written_back(book, SalesCapabilities(writes_back=takes), source_map=source_map)
    assert [(one.id, one.at) for one in found] == codes
    assert all(one.line == 3 for one in found)


def test_the_note_has_the_number_and_the_link_once() -> None:
    """Whatever the books put into a number of theirs."""
    said = WrittenBack(note="Invoice {number}, {link}. {other}")
    assert said.note_of("A{link}", "http://x") == "Invoice A{link}, http://x. {other}"
    assert WrittenBack(note="{link}").note_of("1", "") == ""
