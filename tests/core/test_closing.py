"""What keeps a month from closing, and the chain of those that are closed."""

from __future__ import annotations

import datetime
import hashlib
import json
from collections.abc import Sequence
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.core.closing import (
    ClosedReport,
    Month,
    MonthReport,
    OpenDocument,
    OpenItem,
    ReportCompany,
    Seal,
    broken_links,
    checksum_of,
    not_accepted,
    open_items,
    row_of,
)
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.proof import Part, Place, Reason, SheetRow, Table, Totals
from inkwell_bridge.launch import places

AT = datetime.datetime(2026, 11, 3, 9, tzinfo=datetime.UTC)


@pytest.mark.parametrize(
    ("text", "last"), [("2026-10", "2026-10-31"), ("2026-12", "2026-12-31"), ("2028-02", "2028-02-29")]
)
def test_a_month_has_a_last_day(text: str, last: str) -> None:
    """Leap years and the end of the year among them."""
    month = Month.read(text)
    assert (str(month), month.first.isoformat(), month.last.isoformat()) == (text, f"{text}-01", last)
    assert Month.of(month.last) == month


@pytest.mark.parametrize("text", ["2026-13", "2026-1", "26-10", "2026-00", "1899-12", "2201-01", "2026-10-01", ""])
def test_what_is_no_month_is_refused(text: str) -> None:
    """Also one of another age."""
    with pytest.raises(DocumentInvalid):
        Month.read(text)


def row(document: int, gross: str, reason: Reason = Reason.HELD, detail: str = "customer-unclear",
        **place: Any) -> OpenDocument:  # fmt: skip
    """One document on the sheet of sales in GBP."""
    amount = Decimal(gross)
    said = {"table": Table.TOTALS, "section": "sales", "currency": "GBP", **place}
    return OpenDocument(reason, detail, document, totals=Totals(count=1, net=amount, gross=amount), **said)


def test_an_item_counts_a_document_once_and_adds_its_amounts() -> None:
    """It may stand in several tables of the sheet; one that only differs has no amount."""
    rows = [row(1, "10.00"), row(1, "10.00", table=Table.TENDERS, section="money", tender="card"), row(2, "2.50"),
            OpenDocument(Reason.CHANGED, "", 7)]  # fmt: skip
    held, changed = open_items(rows)
    assert (held.reason, held.detail, held.documents) == (Reason.HELD, "customer-unclear", 2)
    assert [(part.table, part.totals.count, part.totals.gross) for part in held.amounts] == [
        (Table.TENDERS, 1, Decimal("10.00")), (Table.TOTALS, 2, Decimal("12.50")),
    ]  # fmt: skip
    assert (changed.reason, changed.documents, changed.amounts) == (Reason.CHANGED, 1, ())


def accepted(items: Sequence[OpenItem]) -> set[str]:
    """That somebody accepts all of these."""
    return {item.fingerprint for item in items}


@pytest.mark.parametrize(
    "later",
    [
        [row(1, "10.00"), row(2, "2.51")],
        [row(1, "10.00"), row(3, "2.50")],
        [row(1, "10.00"), row(2, "2.50"), row(3, "0.00")],
        [row(1, "10.00")],
        # Two that cancel out come to the same, and are not what somebody looked at.
        [row(1, "10.00"), row(2, "2.50"), row(3, "4.00"), row(4, "-4.00")],
        [row(1, "10.00"), row(2, "2.50", section="refunds")],
        [row(1, "10.00"), row(2, "2.50", currency="EUR")],
    ],
)
def test_an_acceptance_holds_for_what_was_seen_and_for_nothing_else(later: list[OpenDocument]) -> None:
    """Another amount, another document, one more or one less: somebody looks again."""
    before = open_items([row(1, "10.00"), row(2, "2.50")])
    assert not_accepted(before, accepted(before)) == []
    now = open_items(later)
    assert not_accepted(now, accepted(before)) == now
    assert not_accepted(now, accepted(before) | accepted(now)) == []


def test_the_same_amount_is_the_same_however_many_noughts_it_comes_with() -> None:
    """The database writes four digits, a currency two."""
    (one,), (other,) = open_items([row(1, "10")]), open_items([row(1, "10.0000")])
    assert one.fingerprint == other.fingerprint


def test_accepting_one_cause_leaves_another_open() -> None:
    """Each reason and detail is an item of its own."""
    items = open_items([row(1, "1.00"), row(2, "1.00", detail="item-unclear")])
    assert not_accepted(items, accepted(items[:1])) == items[1:]


def test_the_same_documents_for_another_cause_are_another_item() -> None:
    """What was a customer that is unclear, and is an item that is unclear by now, nobody has looked at."""
    before, now = open_items([row(1, "10.00")]), open_items([row(1, "10.00", detail="item-unclear")])
    assert not_accepted(now, accepted(before)) == now
    changed = open_items([OpenDocument(Reason.CHANGED, "", 1)])
    assert not_accepted(open_items([OpenDocument(Reason.VOIDED, "", 1)]), accepted(changed))


def report(gross: str = "120.00") -> MonthReport:
    """A month with one sale in it."""
    amount = Totals(count=1, net=Decimal("100.00"), tax=Decimal(gross) - 100, gross=Decimal(gross))
    sold = SheetRow(Place(section="sales", currency="GBP"), amount, Totals(), (
        Part(Reason.LEFT_OUT, "/orders/statuses", 1, amount),))  # fmt: skip
    empty: dict[str, Any] = dict.fromkeys(
        ("tax_codes", "tenders", "by_bridge", "by_day", "differing", "open_items", "accepted", "documents", "payouts",
         "money_accounts", "open_by_age", "bridges"), ())  # fmt: skip
    company = ReportCompany(client="Marrowby", slug="marrowby-uk", name="Marrowby Ltd", country="GB", currency="GBP",
                            time_zone="Europe/London")  # fmt: skip
    return MonthReport(company=company, month="2026-10", first=Month(2026, 10).first, last=Month(2026, 10).last,
                       ties=True, headline=(row_of(sold),), documents_left_out=0, **empty)  # fmt: skip


def chain(*reports: MonthReport) -> list[tuple[MonthReport, Seal]]:
    """Closings one after the other."""
    found: list[tuple[MonthReport, Seal]] = []
    previous = "0" * 64
    for number, one in enumerate(reports, start=1):
        seal = Seal(number=number, closed_by="Ada (ada@x.example)", closed_at=AT, previous=previous)
        previous = checksum_of(one, seal)
        found.append((one, seal.model_copy(update={"checksum": previous})))
    return found


def test_the_checksum_can_be_worked_out_with_nothing_but_sha_256() -> None:
    """From the report as JSON, as the published format says it."""
    ((one, seal),) = chain(report())
    said = {"report": one.as_json(), "seal": {name: value for name, value in seal.as_json().items()
                                              if name != "checksum"}}  # fmt: skip
    text = json.dumps(said, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    assert seal.checksum == hashlib.sha256(text.encode("utf-8")).hexdigest()
    assert [part["totals"]["gross"] for part in said["report"]["headline"][0]["parts"]] == ["120.00"]  # type: ignore[index]


def test_a_chain_that_nobody_touched_holds() -> None:
    """Of none, of one and of three."""
    for number in (0, 1, 3):
        assert list(broken_links(chain(*[report()] * number))) == []


@given(st.integers(0, 2), st.sampled_from(["figure", "note", "who", "taken out", "swapped", "put in"]))
def test_whatever_is_changed_later_breaks_it(at: int, how: str) -> None:
    """A figure, a word of the seal, a closing more or less, or two that change places."""
    links = chain(report("120.00"), report("121.00"), report("122.00"))
    one, seal = links[at]
    if how == "figure":
        links[at] = report("999.00"), seal
    elif how in ("note", "who"):
        links[at] = one, seal.model_copy(update={"note" if how == "note" else "closed_by": "Somebody else"})
    elif how == "taken out":
        del links[at]
        # The last one can be taken away without a trace in the chain itself; its number is known to the trail.
        if at == 2:
            assert list(broken_links(links)) == []
            return
    elif how == "swapped":
        other = (at + 1) % 3
        links[at], links[other] = links[other], links[at]
    else:
        links.insert(at, links[at])
    assert list(broken_links(links))


def test_the_published_example_holds() -> None:
    """Its checksum is of its figures."""
    said = ClosedReport.read((places.root() / "docs/formats/examples/month-report.json").read_text("utf-8"))
    assert said.seal is not None
    assert list(broken_links([(said.report, said.seal)])) == []
