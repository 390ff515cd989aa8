"""Requests for payment and what is paid on them, planned: each figure worked out by hand."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as some

from inkwell_bridge.core.books import (
    Account,
    AccountType,
    BooksCapabilities,
    Journal,
    MasterData,
    Payment,
    PaymentRequest,
    Period,
)
from inkwell_bridge.core.commerce import PostedInvoice, RequestPayment
from inkwell_bridge.core.findings import Cause, Finding
from inkwell_bridge.core.planner import (
    Outcome,
    Plan,
    RequestContext,
    RequestPaymentContext,
    plan_request,
    plan_request_payment,
)
from inkwell_bridge.core.rulebook import check, check_capabilities, read
from inkwell_bridge.core.rulebook.invalid import RulebookInvalid
from inkwell_bridge.core.rulebook.periods import PeriodRules
from inkwell_bridge.core.rulebook.requests import RequestRules

ZERO = Decimal(0)
BOOKS = MasterData(
    company="Marrowby", currency="GBP", tax_codes=(),
    accounts=(Account(code="1250", name="Weirgate clearing", type=AccountType.ASSET),
              Account(code="2340", name="Overpaid by buyers", type=AccountType.LIABILITY),
              Account(code="4000", name="Sales", type=AccountType.INCOME)),
)  # fmt: skip
BY_LINK = '"payment" in invoice.fields && invoice.fields["payment"] == "by link"'


def invoice(**fields: Any) -> PostedInvoice:
    """SI-9 of 480.00, all of it open."""
    said = {"id": "12", "number": "SI-9", "issued_on": "2026-10-05", "due_on": "2026-11-04", "contact_id": "104",
            "changed_at": "2026-10-05T12:00:00Z", "currency": "GBP", "total": "480.00", "open": "480.00",
            "fields": [{"name": "payment", "value": "by link"}]}  # fmt: skip
    return PostedInvoice.read({**said, **fields})


def rules(**fields: Any) -> RequestRules:
    """Everything that is to be paid by link."""
    return RequestRules.read({"account": "1250", "overpaid": "2340", "only": BY_LINK, **fields})


def asked(told: PostedInvoice, *, under: RequestRules | None = None, **fields: Any) -> Plan:
    """What its request is."""
    return plan_request(told, RequestContext(books="uk-books", rules=under or rules(), master_data=BOOKS, **fields))


def request(told: PostedInvoice, **fields: Any) -> PaymentRequest:
    """The one that is planned."""
    (document,) = asked(told, **fields).documents
    assert isinstance(document, PaymentRequest)
    return document


def paid(amount: str = "480.00", **fields: Any) -> RequestPayment:
    """A payment by card on it."""
    said = {"id": "WGR-1", "number": "WGR-1", "transaction": "WGR-1", "request": "INK:uk-books:12:payment request:1",
            "invoice_id": "12", "invoice_number": "SI-9", "method": "card", "tender": "card", "currency": "GBP",
            "amount": amount, "paid_at": "2026-11-02T23:30:00Z", "recorded_at": "2026-11-03T09:00:00Z",
            "changed_at": "2026-11-03T09:00:00Z"}  # fmt: skip
    return RequestPayment.read({**said, **fields})


def became(
    payment: RequestPayment, told: PostedInvoice | None, *, opened: str | None = None,
    under: RequestRules | None = None,
    books: MasterData = BOOKS, periods: PeriodRules | None = None, zone: str = "Europe/London",
) -> Plan:  # fmt: skip
    """What comes of a payment while so much of its invoice is open."""
    left = Decimal(opened) if opened is not None else told.open if told else ZERO
    return plan_request_payment(payment, RequestPaymentContext(
        source="weirgate", rules=under or rules(), periods=periods or PeriodRules(), master_data=books,
        time_zone=zone, invoice=told, open=left,
    ))  # fmt: skip


def amounts(plan: Plan) -> list[tuple[str, ...]]:
    """Its receipts with their account, and its journals line by line."""
    found: list[tuple[str, ...]] = []
    for document in plan.documents:
        if isinstance(document, Payment):
            found.append(("receipt", document.account, str(document.amount)))
        elif isinstance(document, Journal):
            found.append(("journal", *(f"{line.account} {line.base}" for line in document.lines)))
    return found


def test_an_open_invoice_is_asked_for_as_it_stands() -> None:
    """480.00 to the contact that the books have it for, under a name of our own that never changes."""
    found = request(invoice())
    assert (found.amount, found.invoice_number, found.invoice_id, found.buyer) == (
        Decimal("480.00"),
        "SI-9",
        "12",
        "104",
    )
    assert (found.withdrawn, found.on_file, found.ends_on) == (False, False, None)
    assert found.external_reference == request(invoice(open="100.00", number="SI-9b")).external_reference


@pytest.mark.parametrize(("fields", "received", "amount", "withdrawn"), [
    # Its own money came in, and is posted: 380.00 open and 100.00 received are 480.00 as before.
    ({"open": "380.00"}, "100.00", "480.00", False),
    # 30.00 were credited besides: 350.00 open.
    ({"open": "350.00"}, "100.00", "450.00", False),
    # Paid in full on the request.
    ({"open": "0.00"}, "480.00", "480.00", False),
    # 100.00 came on the request, the rest by bank: nothing more is asked, and it is paid.
    ({"open": "0.00"}, "100.00", "100.00", False),
    # All of it came by bank: nothing was paid on the request, so that it is withdrawn, and keeps what it asked for.
    ({"open": "0.00"}, "0.00", "480.00", True),
    # Cancelled in the books, before anything and after a part was paid.
    ({"state": "cancelled", "open": "480.00"}, "0.00", "480.00", True),
    ({"state": "cancelled", "open": "380.00"}, "100.00", "100.00", False),
    # A debit note, or a corrected invoice, made it more.
    ({"total": "500.00", "open": "400.00"}, "100.00", "500.00", False),
])  # fmt: skip
def test_a_request_says_what_is_open_and_what_was_paid_on_it(
    fields: dict[str, Any], received: str, amount: str, withdrawn: bool
) -> None:  # fmt: skip
    """Whatever else was set against the invoice lowers it; its own money does not."""
    found = request(invoice(**fields), received=Decimal(received), decided=True, asked=Decimal("480.00"))
    assert (found.amount, found.withdrawn) == (Decimal(amount), withdrawn)


@pytest.mark.parametrize(("opened", "received", "came_in", "asked_before", "amount"), [
    # 450.00 came by bank, and 100.00 by link that are not posted yet: 30.00 are open, and 100.00 the least.
    ("30.00", "0.00", "100.00", "480.00", "100.00"),
    # Posted: 30.00 of the 100.00 settled it, 70.00 are owed to the buyer.
    ("0.00", "30.00", "100.00", "100.00", "100.00"),
    # More came than was ever asked: it asks for no more than it did.
    ("0.00", "480.00", "500.00", "480.00", "480.00"),
    ("480.00", "0.00", "500.00", "480.00", "480.00"),
])  # fmt: skip
def test_a_request_is_never_lowered_below_what_was_paid_on_it(
    opened: str, received: str, came_in: str, asked_before: str, amount: str
) -> None:  # fmt: skip
    """For the provider would refuse that; nor is it raised by money that was too much."""
    found = request(invoice(open=opened), received=Decimal(received), came_in=Decimal(came_in), decided=True,
                    asked=Decimal(asked_before))  # fmt: skip
    assert (found.amount, found.withdrawn) == (Decimal(amount), False)


@pytest.mark.parametrize(("fields", "by"), [
    ({"fields": [{"name": "payment", "value": "by bank"}]}, "/requests/only"),
    ({"fields": []}, "/requests/only"),
    ({"open": "0.00"}, "planner:nothing-open"),
    ({"state": "cancelled"}, "planner:nothing-open"),
])  # fmt: skip
def test_others_are_left_out_with_the_rule(fields: dict[str, Any], by: str) -> None:
    """What the condition does not choose, and what nothing is open of."""
    plan = asked(invoice(**fields))
    assert (plan.outcome, plan.left_out_by, plan.documents) == (Outcome.LEFT_OUT, by, ())


def test_invoices_of_before_the_bridges_day_are_left_out() -> None:
    """The day itself is not before it; by hand an older one is asked for all the same."""
    for starts, by in (("2026-10-06", "/bridge/starts_on"), ("2026-10-05", None)):
        assert asked(invoice(), starts_on=date.fromisoformat(starts)).left_out_by == by
    assert asked(invoice(), starts_on=date(2026, 10, 6), wish="made").outcome is Outcome.CARRY


def test_whether_one_is_asked_for_is_asked_until_it_is_made() -> None:
    """Its field is changed after: the request stands."""
    changed = invoice(fields=[{"name": "payment", "value": "by bank"}])
    assert asked(changed, decided=True, asked=Decimal(480)).outcome is Outcome.CARRY


def test_what_somebody_decided_goes_before_the_rules() -> None:
    """Made though the condition says no; cancelled, and taken up again under the same name."""
    by_bank = invoice(fields=[])
    assert request(by_bank, wish="made").amount == Decimal("480.00")
    assert asked(by_bank, wish="cancelled").left_out_by == "cancelled by hand"
    stopped = request(invoice(), wish="cancelled", decided=True, asked=Decimal(480))
    again = request(invoice(), wish="made", decided=True, asked=Decimal(480))
    assert (stopped.withdrawn, again.withdrawn) == (True, False)
    paid_before = request(
        invoice(open="0.00"), wish="cancelled", received=Decimal(480), decided=True, asked=Decimal(480)
    )
    assert paid_before.withdrawn is False
    assert stopped.external_reference == again.external_reference
    # By hand nothing is asked for of what is paid.
    assert asked(invoice(open="0.00"), wish="made").left_out_by == "planner:nothing-open"


def test_what_is_paid_in_another_currency_is_held() -> None:
    """The provider pays out in the company's own."""
    plan = asked(invoice(currency="EUR"))
    assert (plan.outcome, [one.id for one in plan.findings], plan.findings[0].cause) == (
        Outcome.HOLD, ["REQUEST-E001"], Cause.CURRENCY_NOT_KEPT)  # fmt: skip


def test_a_condition_that_comes_to_nothing_holds_and_says_so() -> None:
    """A field that the invoice does not have."""
    plan = asked(invoice(fields=[]), under=rules(only='invoice.fields["payment"] == "by link"'))
    assert [one.id for one in plan.findings] == ["RULE-E006"]
    plan = asked(invoice(fields=[]), under=rules(only="invoice.open > 1000", on_file='invoice.fields["a"] == "b"'))
    assert [one.id for one in plan.findings] == ["RULE-E006"]


@pytest.mark.parametrize(("condition", "chosen"), [
    ("invoice.open >= 48000", True), ("invoice.open > 48000", False), ("invoice.total == 48000", True),
    ('invoice.number.startsWith("SI-")', True), ('invoice.currency == "EUR"', False),
    ('invoice.due_on < "2026-11-05"', True), ('invoice.issued_on == "2026-10-05"', True),
    ('invoice.order_number == ""', True),
])  # fmt: skip
def test_conditions_see_the_invoice(condition: str, chosen: bool) -> None:
    """Amounts in pence, days as text."""
    assert (asked(invoice(), under=rules(only=condition)).outcome is Outcome.CARRY) is chosen


def test_the_method_on_file_and_the_last_day_by_rule() -> None:
    """Charged at once where the rule says so; ninety days after 4 November is 2 February."""
    found = request(invoice(), under=rules(on_file="invoice.total < 50000", open_for_days=90))
    assert (found.on_file, str(found.ends_on)) == (True, "2027-02-02")
    assert str(request(invoice(due_on=None), under=rules(open_for_days=0)).ends_on) == "2026-10-05"


def test_a_payment_settles_its_invoice() -> None:
    """By the books' own id, for the invoice bears no reference of ours; on the day in London on which it was paid."""
    plan = became(paid(), invoice())
    (receipt,) = plan.documents
    assert isinstance(receipt, Payment)
    assert amounts(plan) == [("receipt", "1250", "480.00")]
    assert [(one.invoice_id, one.external_reference, str(one.amount)) for one in receipt.applied] == [
        ("12", "", "480.00")
    ]
    assert (receipt.transaction, str(receipt.date)) == ("WGR-1", "2026-11-02")
    assert {part.source: str(part.amount) for reason in plan.reasons for part in reason.allocated} == {
        "/amount": "480.00"
    }


def test_an_invoice_that_was_posted_from_here_is_known_by_its_reference() -> None:
    """And its receipt bears the order's number."""
    ours = invoice(external_reference="INK:trade-shop:7:invoice:1", order_number="TS-7")
    (receipt,) = became(paid(), ours).documents
    assert isinstance(receipt, Payment)
    assert [(one.invoice_id, one.external_reference) for one in receipt.applied] == [("", "INK:trade-shop:7:invoice:1")]
    assert receipt.order_number == "TS-7"
    # What somebody typed there is no reference of ours.
    (receipt,) = became(paid(), invoice(external_reference="PO 4711")).documents
    assert isinstance(receipt, Payment)
    assert receipt.applied[0].invoice_id == "12"


@pytest.mark.parametrize(("amount", "opened", "wanted"), [
    ("480.00", "480.00", [("receipt", "1250", "480.00")]),
    ("100.00", "480.00", [("receipt", "1250", "100.00")]),
    ("300.00", "284.60", [("receipt", "1250", "284.60"), ("journal", "1250 15.40", "2340 -15.40")]),
    ("480.00", "0.00", [("journal", "1250 480.00", "2340 -480.00")]),
    # Credited below zero there: all that comes is owed.
    ("20.00", "-5.00", [("journal", "1250 20.00", "2340 -20.00")]),
    ("0.01", "480.00", [("receipt", "1250", "0.01")]),
])  # fmt: skip
def test_what_comes_beyond_the_invoice_is_owed_to_the_buyer(
    amount: str, opened: str, wanted: list[tuple[str, ...]]
) -> None:  # fmt: skip
    """On an account of its own, by a journal that bears the number of the charge."""
    plan = became(paid(amount), invoice(), opened=opened)
    assert amounts(plan) == wanted
    assert [line.line_reference for one in plan.documents if isinstance(one, Journal) for line in one.lines] in (
        [], ["WGR-1", "WGR-1"])  # fmt: skip
    assert ("REQUEST-N001" in [one.id for one in plan.findings]) is (len(wanted) > 1 or wanted[0][0] == "journal")


@pytest.mark.parametrize(("payment", "told", "under", "finding", "cause"), [
    (paid("500.00"), invoice(), rules(overpaid=None), "REQUEST-E003", Cause.RULE_MISSING),
    (paid(currency="EUR"), invoice(), rules(), "REQUEST-E001", Cause.CURRENCY_NOT_KEPT),
    (paid(), invoice(currency="EUR"), rules(), "REQUEST-E001", Cause.CURRENCY_NOT_KEPT),
    (paid("0.00"), invoice(), rules(), "REQUEST-E004", Cause.SOURCE_INVALID),
    (paid("-5.00"), invoice(), rules(), "REQUEST-E004", Cause.SOURCE_INVALID),
    (paid(), None, rules(), "REQUEST-E002", Cause.SOURCE_INVALID),
])  # fmt: skip
def test_what_nobody_can_post_is_held(
    payment: RequestPayment, told: PostedInvoice | None, under: RequestRules, finding: str, cause: Cause
) -> None:  # fmt: skip
    """With what is wrong, and nothing is made of any of it."""
    plan = became(payment, told, under=under)
    assert (plan.outcome, plan.documents) == (Outcome.HOLD, ())
    assert [(one.id, one.cause) for one in plan.findings] == [(finding, cause)]


def test_the_day_is_that_of_the_rule_on_the_companys_clocks() -> None:
    """23:30 in London is half past eight on the next day in Tokyo; the provider had it on the third."""
    days = [became(paid(), invoice(), zone=zone).documents[0].date for zone in ("Europe/London", "Asia/Tokyo")]  # type: ignore[union-attr]
    assert [str(day) for day in days] == ["2026-11-02", "2026-11-03"]
    (receipt,) = became(paid(), invoice(), under=rules(dated="recorded")).documents
    assert str(receipt.date) == "2026-11-03"  # type: ignore[union-attr]


def test_a_locked_day_moves_receipt_and_surplus_to_the_first_that_is_open() -> None:
    """By rule; else each keeps its own, and the books refuse it."""
    closed = Period(name="November", first="2026-11-01", last="2026-11-30", open=False)  # type: ignore[arg-type]
    books = BOOKS.model_copy(update={"periods": (closed,)})
    plan = became(paid(), invoice(), opened="400.00", books=books, periods=PeriodRules(locked="first open day"))
    assert [str(one.date) for one in plan.documents] == ["2026-12-01", "2026-12-01"]  # type: ignore[union-attr]
    assert [one.id for one in plan.findings] == ["DATE-N002", "DATE-N002", "REQUEST-N001"]
    held = became(paid(), invoice(), books=books)
    assert str(held.documents[0].date) == "2026-11-02"  # type: ignore[union-attr]


@given(some.lists(some.tuples(some.sampled_from(("link", "bank", "credit")), some.integers(1, 60_000)), max_size=12))
def test_whatever_comes_in_whatever_order(deeds: list[tuple[str, int]]) -> None:
    """The books never have more than the invoice settled by it; every penny of the buyer's stands once, and the request
    asks for what is open and what it was paid, as long as that is anything."""
    told, received, owed, came = invoice(), ZERO, ZERO, ZERO
    asks = Decimal("480.00")
    for kind, pence in deeds:
        amount = Decimal(pence) / 100
        if kind == "link":
            plan = became(paid(f"{amount:f}"), told)
            came += amount
            settled = sum((one.amount for one in plan.documents if isinstance(one, Payment)), ZERO)
            owed += sum((one.lines[0].base for one in plan.documents if isinstance(one, Journal)), ZERO)
            received += settled
            told = invoice(open=f"{told.open - settled:f}")
        else:
            told = invoice(open=f"{max(told.open - amount, ZERO):f}")
        found = request(told, received=received, decided=True, asked=asks)
        asks = found.amount
        assert told.open >= 0
        assert received + owed == came
        assert found.withdrawn is (told.open + received == 0)
        assert found.withdrawn or found.amount == told.open + received
        # Paid at the provider is what nothing is open of.
        assert found.withdrawn or (received >= found.amount) is (told.open == 0)


def test_a_rulebook_of_requests_is_read_with_its_errors() -> None:
    """It needs nothing of orders; a condition is checked against what an invoice has, an account against its type."""
    text = f"rulebook: 1\nrequests:\n  account: \"1250\"\n  only: '{BY_LINK}'\n"
    book, _ = read(text)
    assert book.requests == RequestRules.read({"account": "1250", "only": BY_LINK})
    assert check(book, BOOKS) == ()
    by_condition = [(one.line, one.at) for one in wrong(text.replace("invoice.fields)", "invoice.field)").replace(
        "in invoice.fields", "in invoice.field"))]  # fmt: skip
    assert by_condition == [(4, "/requests/only")]
    assert [one.at for one in wrong(text.replace(BY_LINK, "invoice.open"))] == ["/requests/only"]
    assert [one.at for one in wrong(text + "  address: ftp://pay.example\n")] == ["/requests/address"]
    assert [one.at for one in wrong(text + "  open_for_days: -1\n")] == ["/requests/open_for_days"]
    for code, finding in (("4000", "REF-E002"), ("1251", "REF-E001")):
        changed, _ = read(text.replace("1250", code))
        assert [(one.id, one.at) for one in check(changed, BOOKS)] == [(finding, "/requests/account")]
    overpaid, _ = read(text + '  overpaid: "1250"\n')
    assert [(one.id, one.at) for one in check(overpaid, BOOKS)] == [("REF-E002", "/requests/overpaid")]
    assert [one.id for one in check_capabilities(book, BooksCapabilities())] == ["CAN-E014"]
    assert check_capabilities(book, BooksCapabilities(tells_of_invoices=True)) == ()


def wrong(text: str) -> tuple[Finding, ...]:
    """What is wrong with a rulebook that cannot be read."""
    with pytest.raises(RulebookInvalid) as caught:
        read(text)
    return tuple(caught.value.findings)
