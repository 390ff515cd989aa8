"""Two versions of the rules, in words that the person who signs them off can read."""

from __future__ import annotations

import pytest

from inkwell_bridge.core.rulebook import Rulebook, read
from inkwell_bridge.core.rulebook.compare import compare
from tests.core.test_cases import BASE


def book(more: str = "") -> Rulebook:
    """The base rules of the cases, with these above them."""
    return read(f"rulebook: 1\nbased_on: base.yaml\n{more}", base=lambda name: BASE)[0]


@pytest.mark.parametrize(("before", "after", "said"), [
    ("", "orders: {arrive: draft}", ["orders, arrive: was 'posted', is 'draft'."]),
    ("", "orders: {due_after_days: 14}", ["orders, due after days: now '14'; nothing was said before."]),
    ("orders: {due_after_days: 14}", "", ["orders, due after days: no longer said; it was '14'."]),
    ("", "orders: {statuses: [completed, paid]}", ["orders, statuses: the same entries, in another order."]),
    ("", "orders: {statuses: [paid]}", ["orders, statuses: 'completed' was taken out."]),
    ("", "tax_codes: {by_class: {standard: S21}}", ["tax codes, by class, standard: was 'S20', is 'S21'."]),
    ("", "tax_codes: {by_class: {books: Z00}}", [
        "tax codes, by class, books: now 'Z00'; nothing was said before.",
    ]),
    ("", "tax_codes: {exceptions: [{country: DE, tax_class: reduced, code: DE7}]}", [
        "tax codes, exceptions: country 'DE', tax class 'reduced', code 'DE7' was added.",
    ]),
    ("orders: {only: order.total > 0}", "orders: {only: order.total > 100}", [
        "orders, only, expression: was 'order.total > 0', is 'order.total > 100'.",
    ]),
    ("", "orders: {leave_out: [{name: Samples, when: order.total == 0}]}", [
        "orders, leave out: name 'Samples', when 'order.total == 0' was added.",
    ]),
    ("", 'accounts: {sales: {default: "4000", by_channel: {fair/stall: "4010"}}}', [
        "accounts, sales, by channel, fair/stall: now '4010'; nothing was said before.",
    ]),
    ("", "payments: later", [
        "payments: no longer said; it was accounts by tender card '1250', bank transfer '1200', cash '1230', "
        "gift card '2310', marketplace '1260'.",
    ]),
    ("", "penny: {allowance: 0.10, goes_to: hold}", [
        "penny, allowance: was '0.05', is '0.10'.", "penny, goes to: was 'rounding account', is 'hold'.",
    ]),
    ("", "dimensions: {channel: shop}", ["dimensions, channel: now 'shop'; nothing was said before."]),
    ("", "fields: {text: {template: 'Order {order.number}', parts: {}}}", [
        "fields, text: now 'Order {order.number}'; nothing was said before.",
    ]),
])  # fmt: skip
def test_each_change_is_one_sentence(before: str, after: str, said: list[str]) -> None:
    """Named by where it stands, with what was there and what is there now."""
    assert [change.text for change in compare(book(before), book(after))] == said


@pytest.mark.parametrize("more", [
    "", "orders: {become: invoice, arrive: posted, dated: placed}", 'accounts: {sales: {default: "4000"}}',
    "penny: {goes_to: rounding account}", "customers: {find_by: email}", "orders: {deposits: taxed when paid}",
])  # fmt: skip
def test_a_default_that_is_written_out_is_no_change(more: str) -> None:
    """Nor is another way to write the same."""
    assert compare(book(), book(more)) == ()


def test_changes_point_into_the_rulebook() -> None:
    """So that a console can show the lines."""
    changes = compare(book(), book("tax_codes: {by_class: {a/b~c: Z00}}\norders: {arrive: draft}"))
    assert [change.at for change in changes] == ["/orders/arrive/default", "/tax_codes/by_class/a~1b~0c"]


def test_compared_backwards_it_says_the_opposite() -> None:
    """What was added one way was taken out the other way."""
    plain, changed = book(), book("orders: {statuses: [paid, completed, sent]}")
    assert [one.text for one in compare(plain, changed)] == ["orders, statuses: 'sent' was added."]
    assert [one.text for one in compare(changed, plain)] == ["orders, statuses: 'sent' was taken out."]
