"""Documents read again: what became of each, and when to look next."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal

import pytest

from inkwell_bridge.core.books import Application, BooksRecord, Payment, Standing
from inkwell_bridge.core.proof import Verdict, next_reading, reread

THEN = BooksRecord(
    id="7", number="RC-7", standing=Standing.POSTED, contact_id="3",
    document=Payment(external_reference="INK:shop:1:payment:t1", date=date(2026, 10, 5), currency="GBP",
                     account="1250", amount=Decimal("13.94"), transaction="t1",
                     applied=(Application(external_reference="INK:shop:1:invoice:1", amount=Decimal("13.94")),)),
)  # fmt: skip


def now(**fields: object) -> BooksRecord:
    """The receipt with something else of it."""
    of_document = {name: value for name, value in fields.items() if name in Payment.model_fields}
    others = {name: value for name, value in fields.items() if name not in of_document}
    return THEN.model_copy(update={"document": THEN.document.model_copy(update=of_document), **others})


VOID = now(standing=Standing.VOID)


@pytest.mark.parametrize(
    ("found", "by_id", "verdict", "said"),
    [
        ([THEN], None, Verdict.SAME, ()),
        ([VOID, THEN], None, Verdict.SAME, ()),
        ([now(amount=Decimal("14.94"))], None, Verdict.CHANGED, ("amount 14.94 in place of 13.94",)),
        ([now(account="1200")], None, Verdict.CHANGED, ("account 1200 in place of 1250",)),
        ([now(order_number="MW-9")], None, Verdict.CHANGED, ("order number is another",)),
        ([now(applied=())], None, Verdict.CHANGED, ("applied is another",)),
        ([now(number="RC-8")], None, Verdict.CHANGED, ("number RC-8 in place of RC-7",)),
        ([now(standing=Standing.DRAFT)], None, Verdict.CHANGED, ("it is a draft again, and in no account",)),
        ([now(contact_id="4")], None, Verdict.CHANGED, ("contact 4 in place of 3",)),
        ([VOID], VOID, Verdict.VOIDED, ()),
        ([], VOID, Verdict.VOIDED, ()),
        ([], None, Verdict.MISSING, ()),
        ([THEN, now(id="8")], None, Verdict.TWICE, ("2 of them",)),
        ([], now(external_reference="INK:other"), Verdict.OTHER_REFERENCE, ("it bears INK:other there",)),
    ],
)
def test_what_became_of_a_document(
    found: list[BooksRecord], by_id: BooksRecord | None, verdict: Verdict, said: tuple[str, ...]
) -> None:
    """Read back as posted; then as the books hold it now."""
    got = reread(THEN, found, by_id)
    assert (got.verdict, got.said) == (verdict, said)
    assert (got.now is None) == (verdict in (Verdict.VOIDED, Verdict.MISSING))


def test_one_that_was_gone_and_is_there_again_is_news() -> None:
    """And of two the one that we know counts."""
    assert reread(None, [THEN]).verdict is Verdict.CHANGED
    assert reread(None, []).verdict is Verdict.MISSING
    twice = reread(THEN, [now(id="8"), THEN])
    assert twice.now is not None
    assert twice.now.id == "7"


@pytest.mark.parametrize(
    ("day", "today", "pause"),
    [
        ("2026-10-31", "2026-10-31", 1),
        ("2026-10-31", "2026-11-06", 1),
        ("2026-10-31", "2026-11-07", 7),
        ("2026-10-01", "2026-11-30", 7),
        ("2026-10-01", "2026-12-01", None),
        ("2026-12-15", "2027-01-31", 7),
        ("2026-12-15", "2027-02-01", None),
        # Dated ahead: it is new.
        ("2026-11-20", "2026-11-10", 1),
    ],
)
def test_when_to_look_next(day: str, today: str, pause: int | None) -> None:
    """Each day for a week, each week until the month after its own is over."""
    found = next_reading(date.fromisoformat(day), date.fromisoformat(today))
    assert found == (timedelta(days=pause) if pause else None)
