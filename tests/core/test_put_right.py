"""What somebody changed of a document in the books, put right: whatever it was, both together are what was posted."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from itertools import count
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.core.amendments import (
    CannotPutRight,
    Differing,
    Further,
    Names,
    credit_and_reissue,
    put_back,
    sums_of,
)
from inkwell_bridge.core.books import (
    BooksDocument,
    BooksRecord,
    CreditNote,
    DocumentLine,
    Invoice,
    LedgerDocument,
    LineKind,
    Payment,
    Role,
    Standing,
)
from inkwell_bridge.core.books.payment import Application

PENNY = Decimal("0.01")
amounts = st.integers(0, 50_000).map(lambda pence: pence * PENNY)
accounts, codes = st.sampled_from(["4000", "4100", "4900"]), st.sampled_from(["S20", "Z00"])


@st.composite
def lines(draw: st.DrawFn, number: int) -> DocumentLine:
    """A line of one piece or several, on some account."""
    kind = draw(st.sampled_from([LineKind.GOODS, LineKind.SHIPPING, LineKind.DISCOUNT, LineKind.ROUNDING]))
    # A discount takes off; what is sold for nothing, such as a gift, is taxed by nothing.
    sign = -1 if kind is LineKind.DISCOUNT else 1
    net, tax = sign * draw(amounts), sign * draw(amounts)
    return DocumentLine(kind=kind, line_reference=f"{number}", text="Yarn", account=draw(accounts),
                        item=draw(st.sampled_from(["", "YARN-1", "YARN-2"])), quantity=Decimal(draw(st.integers(1, 4))),
                        unit_price=net, net=net, tax_code=draw(codes), tax=tax if net else net)  # fmt: skip


@st.composite
def documents(draw: st.DrawFn) -> LedgerDocument:
    """An invoice or a credit note."""
    made = tuple(draw(lines(number)) for number in range(draw(st.integers(1, 4))))
    shape = draw(st.sampled_from([Invoice, CreditNote]))
    return shape(external_reference="INK:shop:1:x:1", date=date(2026, 10, 3), order_number="MW-1", currency="GBP",
                 lines=made)  # fmt: skip


@st.composite
def changed(draw: st.DrawFn, document: LedgerDocument) -> LedgerDocument:
    """The same as somebody left it: other values on some lines, some gone, some added."""
    kept = [line for line in document.lines if draw(st.integers(0, 4))]
    fields = {"account": accounts, "tax_code": codes, "item": st.just("YARN-2"),
              "quantity": st.integers(1, 9).map(Decimal)}  # fmt: skip
    some = [line.model_copy(update=draw(st.fixed_dictionaries({}, optional=fields))
                            | {"net": line.net * (more := draw(st.integers(1, 3))), "tax": line.tax * more})
            for line in kept]  # fmt: skip
    added = [draw(lines(90))] if draw(st.booleans()) else []
    return document.model_copy(update={"lines": (*some, *added)})


def names() -> Names:
    """References and numbers, each once."""
    numbers = count(1)
    return Names(reference=lambda role: f"INK:shop:1:{role}:r{next(numbers)}", number=lambda: f"N{next(numbers)}")


def record(document: BooksDocument, contact: str = "7") -> BooksRecord:
    """As the books have it."""
    totals = {name: getattr(document, name) for name in ("net", "tax", "gross") if isinstance(document, LedgerDocument)}
    return BooksRecord(id="1", number="SI-1", standing=Standing.POSTED, contact_id=contact, document=document, **totals)


def differing(ours: BooksDocument, theirs: BooksRecord | None, *at: str) -> Differing:
    """One that differs there."""
    return Differing(planned=ours, settled=ours, there=theirs, at=at, number="SI-1", contact_id="7")


def in_ledger(*documents: BooksDocument) -> dict[Any, Any]:
    """What they make, place by place, less what is nothing."""
    sums = sums_of(one for one in documents if isinstance(one, LedgerDocument))
    return {place: amounts for place, amounts in sums.items() if not amounts.is_nothing}


def made(further: list[Further]) -> list[BooksDocument]:
    """The documents alone."""
    return [one.document for one in further]


@given(st.data(), st.booleans())
def test_put_back_makes_what_was_posted(data: st.DataObject, together: bool) -> None:
    """Under each account, item and code, as many pieces for as much."""
    ours = data.draw(documents())
    theirs = data.draw(changed(ours))
    try:
        further = put_back(differing(ours, record(theirs), "/lines/0/net"), names(), together=together, price_digits=4)
    except CannotPutRight:
        assert in_ledger(theirs) == in_ledger(ours)
        return
    there, wanted = in_ledger(theirs, *made(further)), in_ledger(ours)
    if together:
        # On one document pieces that go stand beside those that come, below zero in their price alone.
        there, wanted = ({place: (one.net, one.tax) for place, one in sums.items() if one.net or one.tax}
                         for sums in (there, wanted))  # fmt: skip
    assert there == wanted
    assert all(sums > 0 for sums in (len(one.lines) for one in made(further)))  # type: ignore[union-attr]


@given(st.data())
def test_credited_and_made_anew_makes_what_was_posted(data: st.DataObject) -> None:
    """What takes it off is made out to whom it stands for there, on its day there; the new one to whom it was."""
    ours = data.draw(documents())
    theirs = data.draw(changed(ours)).model_copy(update={"date": date(2026, 11, 2)})
    off, anew = credit_and_reissue(differing(ours, record(theirs, "8")), names(), renamed={}, price_digits=4)
    assert (off.contact_id, anew.contact_id) == ("8", "7")
    assert in_ledger(theirs, off.document) == {}
    assert in_ledger(anew.document) == in_ledger(ours)
    assert (off.document.date, anew.document.date) == (date(2026, 11, 2), date(2026, 10, 3))  # type: ignore[union-attr]
    references = {one.external_reference for one in (ours, off.document, anew.document)}
    assert len(references) == 3


def receipt(amount: str, applied: str) -> Payment:
    """Money for an invoice."""
    parts = (Application(external_reference="INK:invoice", amount=Decimal(applied)),) if Decimal(applied) else ()
    return Payment(external_reference="INK:receipt", date=date(2026, 10, 3), currency="GBP", account="1100",
                   amount=Decimal(amount), transaction="wg_1", applied=parts)  # fmt: skip


@pytest.mark.parametrize(("still", "left"), [("13.94", []), ("10.00", ["3.94"]), ("0", ["13.94"])])
def test_money_entered_anew_is_set_against_what_is_not_paid_still(still: str, left: list[str]) -> None:
    """What the books set the first receipt against stays set against it."""
    ours, theirs = receipt("13.94", "13.94"), receipt("13.95", still)
    off, anew = credit_and_reissue(differing(ours, record(theirs)), names(), renamed={}, price_digits=4)
    assert off.document.role == Role.REFUND_PAYMENT
    assert isinstance(off.document, Payment)
    assert isinstance(anew.document, Payment)
    assert (off.document.amount, anew.document.amount) == (Decimal("13.95"), Decimal("13.94"))
    assert [f"{part.amount}" for part in anew.document.applied] == left


def test_what_is_gone_is_made_anew_alone() -> None:
    """There is nothing to take off; money goes against the invoice that was made anew before it."""
    ours = receipt("13.94", "13.94")
    (anew,) = credit_and_reissue(differing(ours, None), names(), renamed={"INK:invoice": "INK:new"}, price_digits=4)
    assert isinstance(anew.document, Payment)
    assert [part.external_reference for part in anew.document.applied] == ["INK:new"]
    assert anew.document.external_reference != ours.external_reference
