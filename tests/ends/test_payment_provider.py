"""The payment provider's dialect, over real HTTP: long lists, long payouts, its words, and what it may misstate."""

from __future__ import annotations

import json
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.books import PaymentRequest
from inkwell_bridge.core.commerce import EntryKind, Payout, PayoutEntry, SourceKind
from inkwell_bridge.ends.errors import Misstated, OutcomeUnknown, Refused
from inkwell_bridge.ends.payment_provider.payouts import KINDS
from tests.support.ends import BENCHES
from tests.support.world import World

PAYOUTS = SourceKind.PAYOUTS
PROVIDER = BENCHES["payment-provider"]
Json = dict[str, Any]


def told(number: int, entries: int = 1, **fields: Any) -> Json:
    """A payout of so many charges of a penny."""
    made = f"2026-10-{1 + number % 28:02}T07:00:00+01:00"
    charges = [{"entry": f"we-{number}-{place}", "does": "charge", "about": f"wg-{number}-{place}", "when": made,
                "minor": 1, "fee": 0, "fee_tax": 0, "left": 1} for place in range(entries)]  # fmt: skip
    return {"payout": f"WP-{number}", "seq": number, "by": "Weirgate", "made": made, "altered": made, "lands": None,
            "money": "GBP", "minor": entries, "entries": charges, **fields}  # fmt: skip


def everything(world: World, since: Any = None) -> list[Payout]:
    """All payouts, page by page."""
    end = PROVIDER.sales(world)
    page = end.documents(PAYOUTS, changed_since=since)
    found = list(page.documents)
    while page.next is not None:
        page = end.documents(PAYOUTS, changed_since=since, page=page.next)
        found += page.documents
    assert [one.problem for one in found if one.document is None] == []
    return [one.document for one in found if isinstance(one.document, Payout)]


def test_a_long_list_is_read_once_in_the_order_of_change(world: World) -> None:
    """Three pages of fifty; from a moment on, what was altered since."""
    PROVIDER.put(world, payouts=[told(number) for number in range(1, 131)])
    found = everything(world)
    assert len({one.id for one in found}) == len(found) == 130
    assert [one.changed_at for one in found] == sorted(one.changed_at for one in found)
    since = found[-5].changed_at
    assert {one.id for one in everything(world, since)} == {one.id for one in found if one.changed_at >= since}


def test_a_payout_of_many_entries_is_read_whole(world: World) -> None:
    """A thousand and one, in six pages, each once."""
    PROVIDER.put(world, payouts=[told(1, entries=1001)])
    (payout,) = everything(world)
    assert (len({one.id for one in payout.entries}), payout.total) == (1001, Decimal("10.01"))


def test_what_it_has_not_paid_out_by_a_day(world: World) -> None:
    """401 charges in three pages, by the company's own clock: one of 23:30 UTC in summer is of the next day; and on the
    evening before a payout what came to be in it."""
    late = {"entry": "we-late", "does": "charge", "about": "wg-late", "when": "2026-10-07T23:30:00+00:00", "minor": 1,
            "fee": 0, "fee_tax": 0, "left": 1}  # fmt: skip
    charges = told(6, entries=400)["entries"]
    # Three of the seventh, in a payout of the eighth.
    paid_out = told(7, entries=0, minor=3) | {"entries": told(34, entries=3)["entries"]}
    PROVIDER.put(world, payouts=[paid_out], open_entries=[*charges, late])

    def by(day: int) -> tuple[int, Decimal]:
        end, found, page = PROVIDER.sales(world), list[PayoutEntry](), None
        while True:
            said = end.not_paid_out(date(2026, 10, day), page=page)
            found += said.entries
            if said.next is None:
                break
            page = said.next
        assert said.currency == "GBP"
        return len({one.id for one in found}), sum((one.amount for one in found), Decimal(0))

    assert [by(day) for day in (6, 7, 8)] == [(0, Decimal(0)), (403, Decimal("4.03")), (401, Decimal("4.01"))]


def test_its_words_are_ours(world: World) -> None:
    """Each kind that it knows, and one that nobody does; minor units of three currencies."""
    kinds = [*KINDS, "moonlight"]
    rows = [{"entry": f"e{place}", "does": kind, "when": "2026-10-05T06:00:00+01:00", "minor": 100, "left": 100}
            for place, kind in enumerate(kinds)]  # fmt: skip
    PROVIDER.put(world, payouts=[told(place, entries=0, money=money, minor=100 * len(rows)) | {
        "entries": rows} for place, money in enumerate(("GBP", "JPY", "KWD"), start=1)])  # fmt: skip
    for payout, each in zip(everything(world), ("1.00", "100", "0.100"), strict=True):
        assert [one.kind for one in payout.entries] == [*KINDS.values(), EntryKind.UNKNOWN]
        assert (payout.entries[-1].called, {str(one.amount) for one in payout.entries}) == ("moonlight", {each})


@pytest.mark.parametrize(("fields", "said"), [
    ({"minor": "100"}, "a whole number of minor units was expected"),
    ({"minor": 1.5}, "a whole number of minor units was expected"),
    ({"money": "QQQ"}, "QQQ"),
    ({"made": "yesterday"}, "paid_at"),
    ({"made": None}, "paid_at"),
    ({"lands": "soon"}, "arrives_on"),
    ({"entries": [{"entry": "e1"}]}, "does"),
    ({"entries": ["e1"]}, "misstates"),
])  # fmt: skip
def test_what_it_misstates_is_told_and_stops_no_other(world: World, fields: Json, said: str) -> None:
    """By itself, with what is wrong."""
    PROVIDER.put(world, payouts=[{**told(1), **fields}, told(2)])
    wrong, right = PROVIDER.sales(world).documents(PAYOUTS, changed_since=None).documents
    assert (wrong.id, wrong.document, said in wrong.problem) == ("WP-1", None, True), wrong.problem
    assert right.document is not None


@pytest.mark.parametrize("body", ["[]", "{}", '{"entries": 7}', "null"])
def test_entries_that_are_none_are_told_with_their_payout(world: World, body: str) -> None:
    """The list goes on behind it."""
    PROVIDER.put(world, payouts=[told(1), told(2)])
    PROVIDER.misbehave(world, {"call": "payouts.entries", "kind": "said", "body": body})
    wrong, right = PROVIDER.sales(world).documents(PAYOUTS, changed_since=None).documents
    assert "misstates the entries of WP-1" in wrong.problem
    assert right.document is not None


def test_entries_without_end_are_told_with_their_payout(world: World) -> None:
    """500 MB are offered for one; the other is read."""
    PROVIDER.put(world, payouts=[told(1), told(2)])
    PROVIDER.misbehave(world, {"call": "payouts.entries", "kind": "huge"})
    wrong, right = PROVIDER.sales(world).documents(PAYOUTS, changed_since=None).documents
    assert (wrong.id, "bytes" in wrong.problem) == ("WP-1", True), wrong.problem
    assert right.document is not None


def test_a_cursor_that_is_none_is_not_followed(world: World) -> None:
    """Nothing is asked at a place that is no text."""
    body = json.dumps({"payouts": [], "cursor": {"at": 1}})
    PROVIDER.misbehave(world, {"call": "payouts.list", "kind": "said", "body": body})
    with pytest.raises(Misstated, match="no place in its list"):
        PROVIDER.sales(world).documents(PAYOUTS, changed_since=None)


def request(**fields: Any) -> PaymentRequest:
    """A request of 480.00."""
    said = {"external_reference": "INK:uk-books:12:payment request:1", "date": "2026-10-05", "currency": "GBP",
            "amount": "480.00", "invoice_id": "12", "invoice_number": "SI-9", "text": "Invoice SI-9",
            "buyer": "104"}  # fmt: skip
    return PaymentRequest.read({**said, **fields})


def asking(world: World) -> Any:
    """The end, as one that asks for money."""
    return PROVIDER.sales(world)


def test_a_request_is_made_once_found_changed_and_withdrawn(world: World) -> None:
    """Under its key and its reference; what it says comes back as it was said."""
    end = asking(world)
    assert end.find_request(request().external_reference) is None
    made = end.make_request(request(ends_on="2027-02-02"), key="k1")
    assert made.request == request(ends_on="2027-02-02")
    assert (made.paid, made.page.startswith("http"), made.link.endswith("/request/1")) == (Decimal(0), True, True)
    assert end.make_request(request(ends_on="2027-02-02"), key="k1") == made
    with pytest.raises(Refused, match="already"):
        end.make_request(request(), key="k2")
    changed = end.set_request(made.id, request(amount="450.00"))
    assert (changed.request.amount, changed.request.ends_on, changed.page) == (Decimal("450.00"), None, made.page)
    assert end.set_request(made.id, request(amount="450.00", withdrawn=True)).request.withdrawn is True
    assert end.find_request(request().external_reference).request == request(amount="450.00", withdrawn=True)


@pytest.mark.parametrize(("currency", "amount", "minor"), [("JPY", "480", 480), ("KWD", "480.125", 480_125)])
def test_minor_units_of_other_currencies(world: World, currency: str, amount: str, minor: int) -> None:
    """None, and three digits."""
    made = asking(world).make_request(request(currency=currency, amount=amount), key=currency)
    assert made.request.amount == Decimal(amount)
    assert world.held_by("payment-provider")["request"][0]["minor"] == minor


def test_what_was_paid_is_never_asked_back(world: World) -> None:
    """A request cannot ask for less than came in on it."""
    end = asking(world)
    made = end.make_request(request(), key="k1")
    PROVIDER.put(world, came_in=[{"ref": made.request.external_reference, "minor": 10_000}])
    with pytest.raises(Refused, match="10000 have come in"):
        end.set_request(made.id, request(amount="99.99"))
    assert end.find_request(made.request.external_reference).paid == Decimal("100.00")


def test_a_page_is_made_anew_once_it_has_run_out(world: World) -> None:
    """Until then it stays."""
    end = asking(world)
    made = end.make_request(request(), key="k1")
    assert end.fresh_page(made.id).page == made.page
    PROVIDER.put(world, clock=(made.page_ends_at + timedelta(days=1)).isoformat())
    fresh = end.fresh_page(made.id)
    assert fresh.page != made.page
    assert fresh.page_ends_at > made.page_ends_at + timedelta(days=30)


def test_takings_are_told_page_by_page_and_by_number(world: World) -> None:
    """A hundred and one, each once, in their order; one by its number, and some by their ids."""
    end = asking(world)
    made = end.make_request(request(amount="500.00"), key="k1")
    PROVIDER.put(
        world, came_in=[{"ref": made.request.external_reference, "minor": number + 1} for number in range(101)]
    )
    page = end.documents(SourceKind.REQUEST_PAYMENTS, changed_since=None)
    found = list(page.documents)
    while page.next is not None:
        page = end.documents(SourceKind.REQUEST_PAYMENTS, changed_since=None, page=page.next)
        found += page.documents
    assert [one.document.amount for one in found] == [Decimal(number + 1) / 100 for number in range(101)]
    first = found[0].document
    assert (first.request, first.invoice_id, first.invoice_number) == (made.request.external_reference, "12", "SI-9")
    assert end.document(SourceKind.REQUEST_PAYMENTS, first.number).document == first
    ids = [one.id for one in found[:60]]
    assert {one.id for one in end.fetch_by_ids(SourceKind.REQUEST_PAYMENTS, [*ids, "WGR-99999"])} == set(ids)
    with pytest.raises(Refused, match="no such thing"):
        end.document(SourceKind.REQUEST_PAYMENTS, "WGR-99999")


def test_charges_are_told_page_by_page_with_how_far_they_have_come(world: World) -> None:
    """Sixty of their own and one of a payout; what was given back has its sign as a word, and a capture its amount."""
    end = asking(world)
    when = "2026-10-21T10:00:00+00:00"
    own = [{"charge": f"wg_{number:03}", "does": "take", "state": "reserved", "shop_ref": "MW-1", "minor": 100,
            "money": "GBP", "how": "card", "when": when, "altered": when} for number in range(60)]  # fmt: skip
    captured = {**own[0], "state": "taken", "minor": 80, "altered": "2026-10-22T10:00:00+00:00"}
    entry = {"entry": "we_1", "does": "payback", "about": "wg_back", "shop_ref": "MW-2", "when": when, "minor": -999,
             "fee": 0, "fee_tax": 0, "left": -999}  # fmt: skip
    payout = {"payout": "WP-1", "seq": 1, "by": "Weirgate", "made": when, "altered": when, "lands": "2026-10-22",
              "money": "GBP", "minor": -999, "statement_text": "", "entries": [entry]}  # fmt: skip
    PROVIDER.put(world, charges=[*own, captured], payouts=[payout])
    page = end.documents(SourceKind.CHARGES, changed_since=None)
    found = list(page.documents)
    while page.next is not None:
        page = end.documents(SourceKind.CHARGES, changed_since=None, page=page.next)
        found += page.documents
    assert len(found) == 61
    by_id = {one.id: one.document for one in found}
    assert (by_id["wg_000"].state, f"{by_id['wg_000'].amount}") == ("received", "0.80")
    assert (by_id["wg_001"].state, by_id["wg_001"].gives_back) == ("authorised", False)
    assert (by_id["wg_back"].gives_back, f"{by_id['wg_back'].amount}", by_id["wg_back"].order_number) == (
        True, "9.99", "MW-2")  # fmt: skip
    assert end.document(SourceKind.CHARGES, "wg_back").document == by_id["wg_back"]
    assert {one.id for one in end.fetch_by_ids(SourceKind.CHARGES, ["wg_001", "wg_none"])} == {"wg_001"}
    with pytest.raises(Refused, match="no such thing"):
        end.document(SourceKind.CHARGES, "wg_none")


@pytest.mark.parametrize(
    "body", ["{}", "[]", '{"request": "RQ-1"}', '{"requests": 7}', '{"requests": [{"money": "QQQ"}]}']
)
def test_a_request_that_is_none_is_told_as_such(world: World, body: str) -> None:
    """On looking it is misstated; on making, nobody knows whether it was made."""
    end = asking(world)
    PROVIDER.misbehave(world, {"call": "requests.search", "kind": "said", "body": body},
                       {"call": "requests.make", "kind": "said", "body": body})  # fmt: skip
    with pytest.raises(Misstated):
        end.find_request("INK:x")
    with pytest.raises(OutcomeUnknown):
        end.make_request(request(), key="k1")


def test_a_page_elsewhere_is_led_to_by_nobody(world: World) -> None:
    """A provider that names another host, or a script, gives no page at all."""
    end = asking(world)
    made = end.make_request(request(), key="k1")
    whole = world.held_by("payment-provider")["request"][0]
    for page in ("https://elsewhere.example/pay", "javascript:alert(1)", 7):
        said = json.dumps({"requests": [{**whole, "page": page}]})
        PROVIDER.misbehave(world, {"call": "requests.search", "kind": "said", "body": said})
        assert end.find_request(made.request.external_reference).page == ""
