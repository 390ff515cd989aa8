"""What a sales side must do, asked of each through real HTTP."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime
from decimal import Decimal
from typing import cast

import pytest

from inkwell_bridge.core.commerce import Dispatch, Order, Refund, SourceKind, StockLevel, WriteBackKind, books_digest
from inkwell_bridge.ends.contract import ListsPeriods, SalesEnd
from inkwell_bridge.ends.errors import Away, NotOffered, Refused
from inkwell_bridge.ends.shapes import AddDispatch, AddNote, AddTag, Fetched, SetStock, SignedCall
from tests.support.bench import Bench
from tests.support.ends import BENCHES, SALES, SALES_SIDES
from tests.support.world import World

ORDERS = SourceKind.ORDERS


@pytest.fixture(params=SALES)
def bench(request: pytest.FixtureRequest) -> Bench:
    """Each kind of sales side in turn."""
    return BENCHES[request.param]


@pytest.fixture
def shop(world: World, bench: Bench) -> Iterator[SalesEnd]:
    """The sales side of a world."""
    bench.fill_shelves(world)
    yield bench.sales(world)
    bench.misbehave(world)


@pytest.fixture(params=SALES_SIDES)
def side(world: World, request: pytest.FixtureRequest) -> Iterator[SalesEnd]:
    """Each sales side in turn, those among them that sell nothing."""
    bench = BENCHES[request.param]
    bench.fill_shelves(world)
    yield bench.sales(world)
    bench.misbehave(world)


def everything(shop: SalesEnd, kind: SourceKind, since: datetime | None = None) -> list[Fetched]:
    """All documents of a kind, page by page."""
    page = shop.documents(kind, changed_since=since)
    found = list(page.documents)
    while page.next is not None:
        page = shop.documents(kind, changed_since=since, page=page.next)
        found += page.documents
    return found


def order_of(shop: SalesEnd, number: str) -> Order:
    """One order."""
    found = shop.document(ORDERS, number).document
    assert isinstance(found, Order)
    return found


def test_every_kind_it_lists_is_read_by_list_number_and_id(side: SalesEnd) -> None:
    """Everything once and understood; the same document each way."""
    for kind in side.capabilities.lists:
        found = everything(side, kind)
        assert len({one.id for one in found}) == len(found) > 0, kind
        assert [one.problem for one in found if one.document is None] == [], kind
        first = found[0]
        assert isinstance(first.document, kind.shape)
        assert side.document(kind, first.number) == first
        assert side.fetch_by_ids(kind, [first.id, "999999"]) == (first,)


def test_what_it_lists_of_some_days_is_what_it_hands_out(side: SalesEnd) -> None:
    """Page by page, each once, with the amount and the moment of the document itself; nothing of the days besides."""
    first, before = datetime(2026, 10, 2, tzinfo=UTC), datetime(2026, 10, 20, tzinfo=UTC)
    for kind in side.capabilities.lists_periods:
        lists = cast(ListsPeriods, side)
        page = lists.of_period(kind, first, before)
        listed, told = list(page.documents), page.told
        while page.next is not None:
            page = lists.of_period(kind, first, before, page=page.next)
            listed += page.documents
        documents = [cast(Order | Refund, one.document) for one in everything(side, kind)]
        moments = {one.id: getattr(one, "placed_at", None) or one.refunded_at for one in documents}
        of_days = [one for one in documents if first <= moments[one.id] < before]
        assert sorted((one.id, one.number, one.placed_at, one.currency, one.gross) for one in listed) == sorted(
            (one.id, one.number, moments[one.id], one.currency, one.total) for one in of_days
        ), kind
        assert of_days, kind
        assert kind is not ORDERS or len(of_days) < len(documents)
        if told is not None:
            assert sum(one.count for one in told.sums) == len(of_days)
            assert sum(one.gross for one in told.sums) == sum(one.total for one in of_days)
        assert not lists.of_period(kind, before, before).documents


def test_kinds_it_does_not_list_by_day_are_not_offered(side: SalesEnd) -> None:
    """Its capabilities said so."""
    if side.capabilities.lists_periods:
        with pytest.raises(NotOffered, match="by day"):
            cast(ListsPeriods, side).of_period(SourceKind.CHARGES, datetime.now(UTC), datetime.now(UTC))


def test_every_order_adds_up(shop: SalesEnd) -> None:
    """Lines, carriage and extras less discounts make the total; their taxes make the tax."""
    for found in everything(shop, ORDERS):
        assert isinstance(found.document, Order)
        order = found.document
        off = sum((discount.amount for discount in order.discounts), Decimal(0))
        tax = sum((charge.tax for charge in order.charges), Decimal(0))
        on_top = Decimal(0) if order.prices_include_tax else tax
        assert sum((charge.reduced for charge in order.charges), on_top - off) == order.total, order.number
        assert tax == order.tax_total, order.number


def test_a_number_that_is_not_there_is_not_found(side: SalesEnd) -> None:
    """Told from other refusals, for every kind."""
    for kind in side.capabilities.by_number:
        with pytest.raises(Refused) as caught:
            side.document(kind, "MW-0")
        assert caught.value.why == "not found", kind


def test_kinds_it_does_not_list_are_not_offered(side: SalesEnd) -> None:
    """Its capabilities said so."""
    for kind in set(SourceKind) - set(side.capabilities.lists):
        with pytest.raises(NotOffered, match=f"no list of {kind}"):
            side.documents(kind, changed_since=None)


def test_what_happens_to_an_order_is_found_by_time(world: World, bench: Bench, shop: SalesEnd) -> None:
    """Whether or not the end moves its own time of change: a note changes the order, and it is listed."""
    number = bench.an_order(world)
    order = order_of(shop, number)
    shop.write_back(AddNote(id=order.id, text="Look here"))
    since = order_of(shop, number).changed_at
    assert since > order.changed_at
    assert number in {found.number for found in everything(shop, ORDERS, since)}


def test_notes_are_written_once_and_change_nothing_for_the_books(world: World, bench: Bench, shop: SalesEnd) -> None:
    """Twice is once, and the books_digest stays."""
    before = order_of(shop, bench.an_order(world))
    for _ in range(2):
        shop.write_back(AddNote(id=before.id, text="Invoice SI-00001"))
    after = order_of(shop, before.number)
    assert [note.text for note in after.notes] == ["Invoice SI-00001"]
    assert books_digest(after) == books_digest(before)


def test_tags_are_written_once_or_not_offered(world: World, bench: Bench, shop: SalesEnd) -> None:
    """As its capabilities say."""
    order = order_of(shop, bench.an_order(world))
    tag = AddTag(id=order.id, tag="in the books: SI-00001")
    if WriteBackKind.TAG not in shop.capabilities.writes_back:
        with pytest.raises(NotOffered, match="no tags"):
            shop.write_back(tag)
        return
    for _ in range(2):
        shop.write_back(tag)
    after = order_of(shop, order.number)
    assert (after.tags, books_digest(after)) == ((tag.tag,), books_digest(order))


def test_a_dispatch_told_twice_is_one(world: World, bench: Bench, shop: SalesEnd) -> None:
    """In two parcels, the first told twice; the order's status follows when all has gone."""
    order = order_of(shop, bench.an_order(world))
    now = datetime.now(UTC)
    parcels = [
        Dispatch.read({
            "id": name, "number": name, "order_number": order.number, "dispatched_at": now, "changed_at": now,
            "carrier": "Otter Parcels", "tracking_number": name,
            "lines": [{"line": line.id, "sku": line.sku, "quantity": str(line.quantity)} for line in lines],
        })
        for name, lines in ((f"OT-{order.id}-1", order.lines[:1]), (f"OT-{order.id}-2", order.lines[1:]))
    ]  # fmt: skip
    statuses = []
    for parcel in (parcels[0], parcels[0], parcels[1]):
        shop.write_back(AddDispatch(id=order.id, dispatch=parcel))
        statuses.append(order_of(shop, order.number).status)
    assert statuses[0] == statuses[1] != statuses[2]
    told = [found.document for found in everything(shop, SourceKind.DISPATCHES)]
    sent = [one for one in told if isinstance(one, Dispatch) and one.order_number == order.number]
    assert sorted(one.tracking_number for one in sent) == [parcel.tracking_number for parcel in parcels]
    assert [(line.sku, line.quantity) for line in sent[0].lines] == [
        (line.sku, line.quantity) for line in parcels[0].lines
    ]


def test_stock_is_set_by_article_and_place_or_not_offered(shop: SalesEnd) -> None:
    """The same level twice is one level; as its capabilities say."""
    level = StockLevel(id="7", number="x", sku="YRN-LACE-MOS", location="Mill", on_hand=Decimal(410),
                       available=Decimal(408), changed_at=datetime.now(UTC))  # fmt: skip
    if WriteBackKind.STOCK not in shop.capabilities.writes_back:
        with pytest.raises(NotOffered, match="no stock"):
            shop.write_back(SetStock(levels=(level,)))
        return
    for _ in range(2):
        shop.write_back(SetStock(levels=(level,)))
    levels = [found.document for found in everything(shop, SourceKind.STOCK)]
    (set_there,) = [one for one in levels if isinstance(one, StockLevel) and one.number == "YRN-LACE-MOS Mill"]
    assert (set_there.on_hand, set_there.location) == (Decimal(410), "Mill")


@pytest.mark.parametrize("body", ["[]", "{}", '{"orders": 7}', "null", '{"data": {"orders": {"items": 7}}}'])
def test_a_list_that_is_none_is_away(world: World, bench: Bench, shop: SalesEnd, body: str) -> None:
    """Nothing is made of it."""
    shop.check()
    bench.misbehave(world, {"call": bench.searching, "kind": "said", "body": body})
    with pytest.raises(Away):
        shop.documents(ORDERS, changed_since=None)


def test_calls_that_are_not_signed_are_refused(side: SalesEnd) -> None:
    """Or it has none at all."""
    call = SignedCall(headers={}, body=b"{}")
    with pytest.raises(Refused if side.capabilities.signed_calls else NotOffered):
        side.parse_webhook(call)


def test_what_it_calls_things(bench: Bench, shop: SalesEnd) -> None:
    """Each tax class that an order names is among those of the reference."""
    reference = shop.master_data()
    known = {found.name for found in reference.tax_classes}
    orders = [found.document for found in everything(shop, ORDERS)]
    named = {charge.tax_class for order in orders if isinstance(order, Order) for charge in order.charges}
    assert named <= known
    assert reference.locations == bench.places
