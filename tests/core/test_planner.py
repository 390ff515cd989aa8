"""Plans of orders: by hand for the odd ones, by property for all."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given, settings

from inkwell_bridge.core.commerce import Customer, Order
from inkwell_bridge.core.findings import Cause, Level
from inkwell_bridge.core.money import rounded
from inkwell_bridge.core.planner import Outcome, Plan, plan_customer, plan_order
from inkwell_bridge.core.planner.conservation import conserved, source_amounts
from inkwell_bridge.core.rulebook.customers import CustomerRules
from tests.core.test_cases import books
from tests.support.orders import context, line, order, orders, rulebook

TAXES = rulebook().tax_codes


def plan(given: Order, **rules: Any) -> Plan:
    """The plan of an order under rules."""
    return plan_order(given, context(rulebook(**rules)))


def errors(found: Plan) -> list[str]:
    """The ids of a plan's errors."""
    return [finding.id for finding in found.findings if finding.level is Level.ERROR]


def test_a_price_that_does_not_divide() -> None:
    """9.99 with 1.67 of tax inside: net is the remainder, 8.32."""
    found = plan(order(lines=[line(amount="9.99", tax="1.67")], shipping=[], tax_total="1.67", total="9.99"))
    (invoice,) = found.documents
    assert (invoice.net, invoice.tax, invoice.gross) == (Decimal("8.32"), Decimal("1.67"), Decimal("9.99"))
    (note,) = [finding for finding in found.findings if finding.id == "PENNY-N001"]
    assert note.text == "The books will compute 1.66 of tax where the shop charged 1.67: +0.01 to settle."


def test_a_discount_over_three_equal_lines() -> None:
    """10.00 off three skeins of 18.50: 3.34, 3.33, 3.33; the nets follow."""
    given = order(
        lines=[line(1, tax="2.53"), line(2, tax="2.53"), line(3, tax="2.53")],
        discounts=[{"code": "HARVEST10", "amount": "10.00"}],
        shipping=[],
        tax_total="7.59",
        total="45.50",
    )
    found = plan(given)
    nets = [str(part.net) for part in found.documents[0].lines]
    assert nets == ["12.63", "12.64", "12.64"]
    assert found.documents[0].gross == Decimal("45.50")


def test_prices_without_tax() -> None:
    """The tax comes on top, and each tax line is placed by itself."""
    found = plan(order(prices_include_tax=False, shipping=[], lines=[line(amount="10.00", tax="2.00")],
                       tax_total="2.00", total="12.00"))  # fmt: skip
    (made,) = found.documents[0].lines
    assert (made.net, made.tax) == (Decimal("10.00"), Decimal("2.00"))
    tax = next(reason for reason in found.reasons if reason.target.endswith("/tax"))
    assert [part.source for part in tax.allocated] == ["/lines/0/taxes/0/amount"]


def test_a_line_of_many_pieces_keeps_its_amount() -> None:
    """300 pieces of 0.0333 make 9.99, never 10.00: where the price cannot say it, the lot is one line."""
    given = order(
        lines=[line(amount="9.99", tax="0.00", quantity="997", tax_class="zero",
                    taxes=[{"rate_percent": "0", "amount": "0.00"}])],
        shipping=[], tax_total="0.00", total="9.99",
    )  # fmt: skip
    (made,) = plan(given).documents[0].lines
    assert (made.quantity, made.unit_price, made.net) == (Decimal(1), Decimal("9.9900"), Decimal("9.99"))
    assert made.text == "997 x Skein 1"


def test_accounts_and_codes_follow_the_rules() -> None:
    """Goods to sales, carriage to shipping, classes to codes; each with the rule that says so."""
    found = plan(order())
    assert [(part.account, part.tax_code, part.kind) for part in found.documents[0].lines] == [
        ("4000", "S20", "goods"),
        ("4100", "S20", "shipping"),
    ]
    rules = {reason.target: reason.rule for reason in found.reasons}
    assert rules["/documents/0/lines/0/account"] == "/accounts/sales"
    assert rules["/documents/0/lines/1/account"] == "/accounts/shipping"
    assert rules["/documents/0/lines/0/tax_code"] == "/tax_codes/by_class/standard"
    assert rules["/contact"] == "/customers/find_by"


def test_the_day_is_the_companys_own() -> None:
    """Half past midnight in London is still the day before in UTC, in summer time."""
    given = order(placed_at="2026-10-04T23:30:00+00:00")
    assert plan_order(given, context()).documents[0].date.isoformat() == "2026-10-05"
    assert plan_order(given, context(zone="America/New_York")).documents[0].date.isoformat() == "2026-10-04"


def test_the_reference_names_connection_source_role_and_part() -> None:
    """It is the same for every attempt."""
    assert plan(order()).documents[0].external_reference == "INK:web-shop:501:invoice:1"


@pytest.mark.parametrize(
    ("change", "rule"),
    [
        ({"status": "cancelled"}, "/orders/statuses"),
        ({"placed_at": "2026-09-30T12:00:00+00:00"}, "/orders/placed_from"),
    ],
)
def test_what_is_left_out_says_by_which_rule(change: dict[str, Any], rule: str) -> None:
    """By status, and by the day from which orders cross."""
    found = plan(order(**change), orders={"statuses": ["paid"], "placed_from": "2026-10-01"})
    assert (found.outcome, found.left_out_by, found.documents) == (Outcome.LEFT_OUT, rule, ())


@pytest.mark.parametrize(
    ("change", "finding"),
    [
        ({"lines": [], "total": "3.95", "tax_total": "0.66"}, "SRC-E001"),
        ({"total": "-22.45"}, "SRC-E002"),
        ({"lines": [line(quantity="0")]}, "SRC-E004"),
        ({"discounts": [{"code": "ALL", "amount": "99.00"}]}, "SRC-E005"),
        ({"tax_total": "3.75"}, "SRC-E006"),
        ({"total": "22.46"}, "SRC-E007"),
    ],
)
def test_an_order_that_does_not_add_up_is_held(change: dict[str, Any], finding: str) -> None:
    """Nothing is planned for it, and the finding says what is wrong and what to do."""
    found = plan(order(**change))
    assert finding in errors(found)
    assert (found.outcome, found.cause, found.documents) == (Outcome.HOLD, Cause.SOURCE_INVALID, ())
    assert all(one.hint for one in found.findings)


def test_a_currency_that_the_books_do_not_keep_has_a_cause_of_its_own() -> None:
    """The order itself is right."""
    found = plan(order(currency="EUR"))
    assert (found.outcome, found.cause, errors(found)) == (Outcome.HOLD, Cause.CURRENCY_NOT_KEPT, ["SRC-E003"])


UNTAXED = {"id": "x", "title": "Extra", "amount": "2.00", "tax_class": "outside"}


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"extras": [{**UNTAXED, "kind": "tip"}], "total": "24.45"}, "no account for tips"),
        ({"extras": [{**UNTAXED, "kind": "donation"}], "total": "24.45"}, "no account for donations"),
        ({"lines": [line(nature="gift card")]}, "no account for gift_cards"),
        ({"lines": [line(nature="deposit")]}, "no account for deposits"),
        ({"lines": [line(taxes=[{"rate_percent": "20", "amount": "3.08", "kept": True}])]}, "the marketplace keeps"),
    ],
)
def test_what_no_rule_covers_waits_and_is_never_guessed(change: dict[str, Any], said: str) -> None:
    """The order adds up; without a rule the amount would stand on the wrong account."""
    found = plan(order(**change))
    (finding,) = [one for one in found.findings if one.id == "PLAN-E002"]
    assert (found.outcome, found.cause, found.documents) == (Outcome.HOLD, Cause.RULE_MISSING, ())
    assert said in finding.text


def customer(**fields: Any) -> Customer:
    """An account of the shop."""
    base = {"id": "9", "number": "C-9", "changed_at": "2026-10-05T10:00:00Z", "group": "trade",
            "person": {"email": " Wren@Loom.example", "name": "Wren Dalby", "language": "en-GB"}}  # fmt: skip
    return Customer.read({**base, **fields})


def test_a_customer_becomes_a_contact() -> None:
    """By the e-mail as it is compared; group and language go along."""
    found = plan_customer(customer(payment_terms="30 days"), CustomerRules(terms={"30 days": "NET30"}), books())
    assert found.contact is not None
    assert (found.outcome, found.contact.email, found.contact.name) == (
        Outcome.CARRY, "wren@loom.example", "Wren Dalby",
    )  # fmt: skip
    assert (found.contact.group, found.contact.terms, found.contact.language) == ("trade", "NET30", "en-GB")


@pytest.mark.parametrize("person", [None, {"name": "Walter"}, {"email": "  "}])
def test_a_customer_without_an_email_waits_for_a_person(person: dict[str, str] | None) -> None:
    """It could not be told from the next; also after it was erased."""
    found = plan_customer(customer(person=person), CustomerRules(), books())
    assert (found.outcome, found.cause, errors(found)) == (Outcome.HOLD, Cause.CUSTOMER_UNCLEAR, ["CUST-E005"])


def test_a_customer_who_is_no_longer_active_is_left_out() -> None:
    """And counted, with the law that left them out."""
    found = plan_customer(customer(active=False), CustomerRules(), books())
    assert (found.outcome, found.left_out_by) == (Outcome.LEFT_OUT, "planner:customer-inactive")


def test_carriage_can_have_a_discount_of_its_own() -> None:
    """Placed once, with the rest."""
    shipping = {"id": "carriage", "title": "Parcel", "amount": "3.95", "discount": "1.00", "tax_class": "standard",
                "taxes": [{"rate_percent": "20", "amount": "0.49"}]}  # fmt: skip
    found = plan(order(shipping=[shipping], total="21.45", tax_total="3.57"))
    (invoice,) = found.documents
    assert (invoice.lines[1].net, invoice.gross) == (Decimal("2.46"), Decimal("21.45"))


def test_an_unmapped_tax_class_is_held_by_name() -> None:
    """The finding names the class, the order and the line."""
    found = plan(order(lines=[line(tax_class="luxury")]))
    (finding,) = found.findings
    assert finding.text == "Tax class 'luxury' has no tax code (order MW-501, Skein 1)."
    assert (finding.at, found.cause) == ("/lines/0/tax_class", Cause.TAX_CLASS_UNMAPPED)


def test_buyers_without_an_email() -> None:
    """Held, or the house contact, as the rules say."""
    nameless = order(buyer={"email": "  ", "name": ""})
    assert plan(nameless).cause is Cause.CUSTOMER_UNCLEAR
    housed = plan(nameless, customers={"without_email": "WEB-GUEST"})
    assert housed.contact is not None
    assert (housed.contact.house_code, housed.contact.email) == ("WEB-GUEST", "")


def test_emails_are_compared_without_case_or_space() -> None:
    """Two spellings are one buyer."""
    found = plan(order(buyer={"email": " WREN@loom.Example "}))
    assert found.contact is not None
    assert found.contact.email == "wren@loom.example"


def test_payments_are_named_and_left_for_later() -> None:
    """A tender is placed in no document yet, but it does not vanish."""
    paid = [{"transaction": "wg_1", "method": "card", "amount": "22.45"}]
    (finding,) = [one for one in plan(order(payments=paid)).findings if one.id == "PAY-N001"]
    assert finding.text == "Payment of 22.45 GBP by card is left for later."
    assert finding.at == "/payments/0/amount"


def test_a_free_order_becomes_an_invoice_of_nothing() -> None:
    """Its lines are there, and come to zero."""
    free = order(lines=[line(tax="0.00")], discounts=[{"code": "THANKYOU", "amount": "18.50"}], shipping=[],
                 tax_total="0.00", total="0.00")  # fmt: skip
    found = plan(free)
    assert found.outcome is Outcome.CARRY
    assert (found.documents[0].gross, len(found.documents[0].lines)) == (Decimal(0), 1)


@settings(max_examples=200, deadline=None)
@given(orders())
def test_every_order_that_adds_up_conserves(given: Order) -> None:
    """Each source amount lands in one place, each planned amount has its sources, and the totals agree."""
    found = plan_order(given, context(currency=given.currency))
    assert errors(found) == []
    (invoice,) = found.documents
    assert invoice.gross == given.total
    allocated = [(part.source, part.amount) for reason in found.reasons for part in reason.allocated]
    for source, amount in source_amounts(given, TAXES).items():
        assert sum((share for where, share in allocated if where == source), Decimal(0)) == amount
    for part in invoice.lines:
        assert rounded(part.unit_price * part.quantity, given.currency) == part.net


@settings(max_examples=60, deadline=None)
@given(orders())
def test_the_same_order_gives_the_same_plan(given: Order) -> None:
    """Byte for byte, also after a journey through JSON."""
    there = context(currency=given.currency)
    first = plan_order(given, there).written()
    again = plan_order(Order.read(given.written()), there).written()
    assert first == again
    assert Plan.read(first).written() == first


@settings(max_examples=60, deadline=None)
@given(orders())
def test_every_amount_and_code_has_a_reason(given: Order) -> None:
    """Nothing stands on a document that nobody can explain."""
    found = plan_order(given, context(currency=given.currency))
    reasoned = {reason.target for reason in found.reasons}
    for number, _ in enumerate(found.documents[0].lines):
        for name in ("net", "tax", "account", "tax_code"):
            assert f"/documents/0/lines/{number}/{name}" in reasoned
    assert {"/contact", "/documents/0/date", "/documents/0/order_number"} <= reasoned


def test_a_plan_that_loses_a_penny_is_found_out() -> None:
    """Conservation is checked, not assumed: tamper with one line, and three findings say so."""
    given = order()
    found = plan(given)
    (invoice,) = found.documents
    short = invoice.lines[0].model_copy(update={"net": invoice.lines[0].net - Decimal("0.01")})
    tampered = invoice.model_copy(update={"lines": (short, *invoice.lines[1:])})
    texts = [finding.text for finding in conserved(source_amounts(given, TAXES), given.total, tampered, found.reasons)]
    assert texts == [
        "The plan does not add up: /documents/0/lines/0/net is 15.41, but its sources give 15.42.",
        "The plan does not add up: the total is 22.45, the invoice's 22.44.",
    ]


def test_an_amount_that_is_placed_twice_is_found_out() -> None:
    """Also where the document's own sums agree."""
    given = order()
    found = plan(given)
    doubled = [*found.reasons, next(reason for reason in found.reasons if reason.allocated)]
    told = conserved(source_amounts(given, TAXES), given.total, found.documents[0], doubled)
    assert any("of which" in finding.text for finding in told)
