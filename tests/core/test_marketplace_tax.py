"""Sales whose tax a marketplace keeps, changed and paid back in whatever order: its tax never is the seller's money."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from inkwell_bridge.core.books import BooksDocument, CreditNote, LedgerDocument, Payment, RefundPayment
from inkwell_bridge.core.commerce import Order, Refund
from inkwell_bridge.core.planner import Outcome
from tests.core.test_cases import PLACED, context
from tests.support.lives import Life

ZERO, CENT = Decimal(0), Decimal("0.01")
RATES = (Decimal("2.9"), Decimal("3.86"))
Json = dict[str, Any]


def taxes(amount: Decimal, *, inclusive: bool) -> list[Json]:
    """Both taxes of an amount, in it or on top of it."""
    whole = 100 + sum(RATES) if inclusive else Decimal(100)
    return [{"name": f"Tax {rate}", "rate_percent": str(rate), "kept": True,
             "amount": str((amount * rate / whole).quantize(CENT, ROUND_HALF_UP))} for rate in RATES]  # fmt: skip


class Sale:
    """A sale at a marketplace: pence by row, and what its buyer paid and got back."""

    def __init__(self, rows: dict[int, int], *, inclusive: bool) -> None:
        self.rows, self.inclusive, self.called_off = rows, inclusive, False
        self.payments: list[Decimal] = []
        self.back = ZERO
        self.given_back: set[int] = set()
        self.refunds = 0

    def charge(self, row: int) -> Json:
        """A row with its taxes."""
        amount = self.rows[row] * CENT
        return {"id": str(row), "title": f"Row {row}", "quantity": "1", "unit_price": str(amount),
                "amount": str(amount), "tax_class": "us-sales",
                "taxes": taxes(amount, inclusive=self.inclusive)}  # fmt: skip

    def tax(self, rows: Sequence[int]) -> Decimal:
        """The marketplace's tax of some rows."""
        return sum((Decimal(tax["amount"]) for row in rows for tax in self.charge(row)["taxes"]), ZERO)

    def total(self, rows: Sequence[int]) -> Decimal:
        """What some rows cost the buyer."""
        return sum((self.rows[row] * CENT for row in rows), ZERO) + (ZERO if self.inclusive else self.tax(rows))

    @property
    def rows_open(self) -> list[int]:
        """Those that did not come back."""
        return [row for row in self.rows if row not in self.given_back]

    @property
    def owed(self) -> Decimal:
        """What the buyer paid and neither has nor got back; below zero what is to be paid still."""
        stays = [] if self.called_off else self.rows_open
        return sum(self.payments, ZERO) - self.back - self.total(stays)

    @property
    def order(self) -> Order:
        """As the marketplace tells it."""
        rows = list(self.rows)
        return Order.read({
            "id": "501", "number": "LF-501", "status": "paid",
            "called_off": self.called_off, "placed_at": PLACED, "changed_at": PLACED, "currency": "GBP",
            "prices_include_tax": self.inclusive, "treatment": "kept by marketplace", "country": "US",
            "buyer": {"name": "Odette Farraday"}, "lines": [self.charge(row) for row in rows],
            "payments": [{"transaction": f"lfp-{number}", "method": "Lanternfair", "tender": "marketplace",
                          "state": "received", "paid_at": PLACED, "amount": str(amount)}
                         for number, amount in enumerate(self.payments)],
            "tax_total": str(self.tax(rows)), "total": str(self.total(rows)),
        })  # fmt: skip

    def refund(self, amount: Decimal, row: int | None = None) -> Refund:
        """Money that goes back: for a row, or without a word of what for."""
        self.refunds += 1
        self.back += amount
        said = self.charge(row) if row is not None else {"amount": "0", "taxes": []}
        line = {"line": str(row), "quantity": "1", "amount": said["amount"], "taxes": said["taxes"]}
        kindness = {"id": "goodwill-1", "title": "Handed back", "amount": str(amount)}
        return Refund.read({
            "id": f"80{self.refunds}", "number": f"LFH-{self.refunds}", "order_id": "501", "order_number": "LF-501",
            "refunded_at": PLACED, "changed_at": PLACED, "currency": "GBP", "prices_include_tax": self.inclusive,
            "lines": [line] if row is not None else [], "goodwill": [] if row is not None else [kindness],
            "payments": [{"transaction": f"lfr-{self.refunds}", "method": "Lanternfair", "tender": "marketplace",
                          "state": "received", "paid_at": PLACED, "amount": str(amount)}],
            "tax_total": str(self.tax([row]) if row is not None else ZERO), "total": str(amount),
        })  # fmt: skip


def money(documents: Sequence[BooksDocument]) -> Decimal:
    """What came in, less what went back."""
    return sum((one.amount * (-1 if isinstance(one, RefundPayment) else 1) for one in documents
                if isinstance(one, Payment)), ZERO)  # fmt: skip


def sold(documents: Sequence[BooksDocument]) -> Decimal:
    """What was invoiced, less what was credited."""
    return sum((one.gross * (-1 if isinstance(one, CreditNote) else 1) for one in documents
                if isinstance(one, LedgerDocument)), ZERO)  # fmt: skip


DEEDS = st.lists(
    st.tuples(st.sampled_from(["price", "drop", "row back", "call off", "take up again"]), st.integers(0, 4),
              st.integers(1, 9_000), st.integers(1, 99)),
    min_size=1, max_size=5,
)  # fmt: skip


@settings(max_examples=100, deadline=None)
@given(st.lists(st.integers(1, 9_000), min_size=2, max_size=4), st.booleans(), DEEDS)
def test_the_seller_has_what_he_sold_and_the_marketplace_its_tax(
    pence: list[int], inclusive: bool, deeds: list[tuple[str, int, int, int]]
) -> None:
    """After each deed the buyer pays what is due, or gets back what is owed in two parts: then the seller's money is
    what stands invoiced, to the penny, and what the buyer is out of pocket besides is the marketplace's tax."""
    sale = Sale(dict(enumerate(pence, start=1)), inclusive=inclusive)
    sale.payments.append(sale.total(list(sale.rows)))
    life = Life(sale.order, context({}))
    for deed, row, price, share in deeds:
        if not done(sale, life, deed, row, price):
            continue
        settle(sale, life, share)
        documents = [*life.documents, *life.refunded]
        kept = ZERO if sale.called_off else sale.tax(sale.rows_open)
        assert sale.owed == 0
        assert money(documents) == sold(documents)
        assert sum(sale.payments, ZERO) - sale.back == money(documents) + kept


@settings(max_examples=150, deadline=None)
@given(st.lists(st.integers(1, 9_000), min_size=2, max_size=4), st.booleans(), st.integers(1, 99), DEEDS)
def test_what_was_taken_off_a_part_of_the_money_comes_back_when_the_order_becomes_less(
    pence: list[int], inclusive: bool, paid: int, deeds: list[tuple[str, int, int, int]]
) -> None:
    """Only a part is paid at first, and the whole tax is taken off it; after all deeds the rest is settled."""
    sale = Sale(dict(enumerate(pence, start=1)), inclusive=inclusive)
    sale.payments.append(max((sale.total(list(sale.rows)) * paid / 100).quantize(CENT, ROUND_HALF_UP), CENT))
    life = Life(sale.order, context({}))
    for deed, row, price, _ in deeds:
        # Nobody gets back more than was paid.
        if deed != "row back" or sale.total(sale.rows_open) <= sum(sale.payments, ZERO) - sale.back:
            done(sale, life, deed, row, price)
    settle(sale, life, paid)
    documents = [*life.documents, *life.refunded]
    assert sale.owed == 0
    assert money(documents) == sold(documents)
    references = [one.external_reference for one in documents]
    assert len(set(references)) == len(references)


def test_a_tax_comes_back_with_the_change_that_nobody_is_paid_back_for() -> None:
    """Rows of 100.00 and 50.00 with 6.76 in a hundred on top, 160.14 in all, of which 106.76 are paid: the tax of 10.14
    is taken off that, and 96.62 reach the seller. Without the second row the order is paid; its tax is 6.76, so that
    3.38 more reach him: 100.00, what he sold."""
    sale = Sale({1: 10_000, 2: 5_000}, inclusive=False)
    sale.payments.append(Decimal("106.76"))
    life = Life(sale.order, context({}))
    assert [one.amount for one in life.documents if isinstance(one, Payment)] == [Decimal("96.62")]
    del sale.rows[2]
    plan = life.change(sale.order)
    assert [one.amount for one in life.documents if isinstance(one, Payment)] == [Decimal("96.62"), Decimal("3.38")]
    assert "AMEND-N007" in {one.id for one in plan.findings}
    # The order as it is: nothing comes back twice.
    assert len(life.change(sale.order).documents) == len(life.documents)
    # Bounced, both receipts are taken back, each once.
    sale.payments.clear()
    life.change(sale.order)
    assert money(life.documents) == ZERO


def done(sale: Sale, life: Life, deed: str, row: int, price: int) -> bool:
    """Do it, where it can be done."""
    open_rows = sale.rows_open
    chosen = open_rows[row % len(open_rows)] if open_rows else None
    if deed == "take up again":
        if not sale.called_off or sale.given_back:
            return False
        sale.called_off = False
    elif sale.called_off or chosen is None:
        return False
    elif deed == "row back":
        plan = life.refund(sale.refund(sale.total([chosen]), chosen))
        assert plan.outcome is Outcome.CARRY, plan.findings
        sale.given_back.add(chosen)
        return True
    elif deed == "price":
        sale.rows[chosen] = price
    elif deed == "drop" and len(open_rows) > 1:
        del sale.rows[chosen]
    else:
        sale.called_off = True
    plan = life.change(sale.order)
    assert plan.outcome is Outcome.CARRY, plan.findings
    return True


def settle(sale: Sale, life: Life, share: int) -> None:
    """What is due is paid; what is owed is paid back, a part of it first."""
    if sale.owed < 0:
        sale.payments.append(-sale.owed)
        plan = life.change(sale.order)
        assert plan.outcome is Outcome.CARRY, plan.findings
    first = (sale.owed * share / 100).quantize(CENT, ROUND_HALF_UP)
    for part in (first, sale.owed - first):
        if part > 0:
            plan = life.refund(sale.refund(part))
            assert plan.outcome is Outcome.CARRY, plan.findings
