"""What the shop has and was never read, what it has no more, and what it counts and does not list: each is found."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

import psycopg
import pytest

from inkwell_bridge.client.errors import ApiError
from inkwell_bridge.client.models import CompletenessCheck, CompletenessCheckHead, KindCompleteness
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_changed_orders import OCTOBER
from tests.carriage.test_money import crossing, live
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for

DAYS = {"first": date(2026, 10, 1), "last": date(2026, 10, 31)}
NUMBERS = [f"MW-{number}" for number in range(10001, 10008)]
LOST, OTHER = "MW-10004", "MW-10005"


def orders(**of_lost: Any) -> list[dict[str, Any]]:
    """Seven orders, numbered one after the other; one of them as is said."""
    template = shop_order(OTHER)
    found = []
    for place, number in enumerate(NUMBERS):
        said = {**template, "reference": number, "id": 91_000 + place, "received": []}
        found.append(said | (of_lost if number == LOST else {}))
    return found


@pytest.fixture
def shop(stack: Stack, owner: str) -> World:
    """A shop with seven orders, of 21.75 each, all carried but the one that its list of changes has lost."""
    world = new_world(stack, owner)
    world.put_orders(*orders(lost=True), reset=True)
    world.run()
    return world


def ended(world: World, number: int) -> CompletenessCheck | None:
    """A check that goes on no more."""
    found = world.calls.completeness.read(number)
    return None if found.under_way else found


def checked(world: World) -> CompletenessCheck:
    """A check of October that has ended."""
    asked = world.calls.completeness.check(bridge=BRIDGE, **DAYS)
    found = wait_for(lambda: ended(world, asked.id), seconds=60, what="the check")
    assert found.state == "ended", found.trouble
    world.settled()
    return found


def of_orders(found: CompletenessCheck) -> KindCompleteness:
    """What was found of orders."""
    assert found.result is not None
    (kind,) = found.result.kinds
    assert kind.kind == "orders"
    return kind


def became(kind: KindCompleteness) -> dict[str, str]:
    """What became of each that was not the same."""
    return {one.number: one.became for one in kind.documents}


def lacking(world: World) -> list[tuple[str, str, int]]:
    """What is known to be lacking."""
    return [(one.reason, one.number, one.count) for one in world.calls.completeness.lacking(**DAYS)]


def test_an_order_that_no_list_of_changes_told_is_fetched(shop: World) -> None:
    """The month tied without it, for nobody knew of it; it is read, and carried."""
    assert LOST not in {one.number for one in shop.calls.crossings()}
    assert shop.calls.tie_out(**OCTOBER).ties
    found = checked(shop)
    kind = of_orders(found)
    # 7 times 21.75.
    assert [(one.currency, one.count, one.gross) for one in kind.listed] == [("GBP", 7, Decimal("152.25"))]
    assert kind.told == kind.listed == kind.here
    assert became(kind) == {LOST: "fetched"}
    assert found.complete
    assert crossing(shop, LOST).state == "carried"
    assert len(live(shop, "invoice")) == 7
    # Asked again there is nothing to do.
    assert became(of_orders(checked(shop))) == {}


def test_an_order_that_is_counted_and_not_listed_is_named_by_its_number(shop: World) -> None:
    """No list shows it; the shop's own report has it, and its number is missing."""
    shop.put_orders(*orders(unlisted=True))
    found = checked(shop)
    kind = of_orders(found)
    assert not found.complete
    assert [(one.currency, one.count, one.gross) for one in kind.counted_otherwise] == [("GBP", 1, Decimal("21.75"))]
    assert [(one.number, one.after) for one in kind.gaps] == [(LOST, "MW-10003")]
    assert lacking(shop) == [("counted and not listed", "", 1)]
    # All that is here ties, and the month does not.
    sheet = shop.calls.tie_out(**OCTOBER)
    assert [(one.reason, one.documents) for one in sheet.differing] == [("counted and not listed", 1)]
    assert not sheet.ties
    month = shop.calls.month("marrowby-uk", "2026-10").read()
    assert [one.reason for one in month.items] == ["counted and not listed"]
    # Read by its number it is here; the shop lists it again, and nothing is lacking.
    shop.put_orders(*orders())
    assert checked(shop).complete
    assert lacking(shop) == []
    assert shop.calls.tie_out(**OCTOBER).ties


def test_an_order_that_vanished_at_the_shop_counts_there_no_more(shop: World) -> None:
    """It stands in the books, and the shop has it no more: what it comes to is a difference of its own."""
    shop.put("web-shop", removed={"orders": [91_001]})
    found = checked(shop)
    assert became(of_orders(found)) == {"MW-10002": "gone", LOST: "fetched"}
    assert not found.complete
    sheet = shop.calls.tie_out(**OCTOBER)
    (total,) = sheet.sales
    gone = total.part("gone at the sales side")
    assert (gone.count, gone.gross) == (-1, Decimal("-21.75"))
    assert (total.source.count, total.books.count, total.unexplained.gross) == (6, 7, 0)
    assert not sheet.ties
    (behind,) = shop.calls.sheet(**DAYS).documents(reason="gone at the sales side")
    assert (behind.number, behind.state) == ("MW-10002", "carried")
    assert [one.kind for one in crossing(shop, "MW-10002").history][-1] == "gone"
    # Its money is nobody's either, on the sales side.
    assert not [part for row in sheet.tenders for part in row.parts if part.reason == "not as money"]
    # Handed out again as it was, it counts as before.
    shop.put_orders(*orders())
    assert checked(shop).complete
    assert [one.kind for one in crossing(shop, "MW-10002").history][-1] == "back"
    assert shop.calls.tie_out(**OCTOBER).ties


def test_an_order_that_is_in_no_list_is_asked_for_by_its_id(shop: World) -> None:
    """The shop lists it no more, and has it: it stays what it is."""
    assert checked(shop).complete
    shop.put_orders(*orders(unlisted=True))
    found = checked(shop)
    kind = of_orders(found)
    assert became(kind) == {LOST: "there"}
    assert [one.count for one in kind.counted_otherwise] == [1]
    (total,) = shop.calls.tie_out(**OCTOBER).sales
    assert total.difference.count == 0


def test_an_order_that_changed_unheard_is_read_anew(shop: World) -> None:
    """The shop's list of changes never told of another total; its list of the month does."""
    changed = next(one for one in orders() if one["reference"] == OTHER)
    lines = [{**changed["basket"][0]}, *changed["basket"][1:]]
    more = {**changed, "basket": lines, "carriage": None, "lost": True}
    more["total"] = f"{sum(Decimal(row['sum']) for row in lines):.2f}"
    shop.put_orders(*orders(), more)
    found = checked(shop)
    named = became(of_orders(found))
    assert named[OTHER] == "read anew"
    (there,) = [one for one in shop.calls.crossings(search=OTHER) if one.number == OTHER]
    assert f"{there.gross}" == more["total"]


def test_what_cannot_be_fetched_is_lacking(shop: World) -> None:
    """Listed, and not handed out by its id: nothing of it can cross, and the sheet says so."""
    shop.misbehave("shop", {"call": "orders", "kind": "said", "body": '{"orders": []}'})
    asked = shop.calls.completeness.check(bridge=BRIDGE, **DAYS)
    wait_for(lambda: shop.calls.completeness.read(asked.id).complete is not None or None, seconds=60, what="it")
    shop.misbehave("shop")
    assert lacking(shop) == [("listed and not fetched", LOST, 1)]
    assert [one.reason for one in shop.calls.tie_out(**OCTOBER).differing] == ["listed and not fetched"]
    assert checked(shop).complete
    assert lacking(shop) == []


def test_what_cannot_be_checked_says_why(shop: World) -> None:
    """A lane that is off, and one that is on and was never read."""
    shop.calls.bridge(BRIDGE).switch_lane("orders", on=False)
    with pytest.raises(ApiError, match="Nothing was read"):
        shop.calls.completeness.check(bridge=BRIDGE, **DAYS)
    shop.calls.bridge(BRIDGE).switch_lane("orders", on=True)
    shop.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    found = checked(shop)
    assert found.result is not None
    assert [(one.kind, one.why) for one in found.result.not_compared] == [("refunds", "Nothing was read yet")]
    assert not found.complete


def test_it_is_looked_at_each_day_without_anybody_asking(shop: World) -> None:
    """Of a bridge that is a day old: the month so far, or as here the one that was over yesterday."""
    with psycopg.connect(shop.stack.environment["DATABASE_URL"], autocommit=True) as db:
        of_world = "workspace_id = (SELECT id FROM people_workspace WHERE slug = %s)"
        db.execute(f"UPDATE bridges_bridge SET created_at = '2026-10-01' WHERE {of_world}", [shop.slug])

    def look() -> CompletenessCheckHead | None:
        return next((one for one in shop.calls.completeness.checks(bridge=BRIDGE) if not one.under_way), None)

    found = wait_for(look, seconds=90, what="the check of the day")
    # The program's clock stands at the evening of 31 October.
    assert (found.asked_by, found.first, found.last) == ("", date(2026, 10, 1), date(2026, 10, 30))
    assert found.complete
    assert LOST in {one.number for one in shop.calls.crossings()}
    # One a day, and no more.
    assert len(list(shop.calls.completeness.checks())) == 1


def entered(world: World, *documents: dict[str, Any], kind: str = "invoice") -> None:
    """Somebody enters documents at the books' own screen, like one that is there."""
    world.put("erp", entered={kind: list(documents)})


# What an invoice has and a credit note has not.
OF_INVOICES = ("tax_point", "due", "terms", "sales_order", "final")


def by_hand(there: dict[str, Any], number: int, **fields: Any) -> dict[str, Any]:
    """A document like that one, with a number and a reference of its own."""
    return {**there, "id": 900 + number, "number": f"SI-9{number:04}", "reference": "", "order": "", **fields}


def test_what_was_entered_in_the_books_by_hand_counts_there_as_what_it_is(shop: World) -> None:
    """An invoice on accounts of sales, one under our reference that nothing here made, a credit note, and a journal:
    that counts amounts and no document. What stands on other accounts, or on other days, is no matter."""
    assert checked(shop).complete
    there = live(shop, "invoice")[0]
    elsewhere = [{**line, "account": "8200"} for line in there["lines"]]
    entered(
        shop, by_hand(there, 1), by_hand(there, 2, reference="INK:web-shop:77:invoice:1"),
        by_hand(there, 3, lines=elsewhere), by_hand(there, 4, date="2026-11-02"),
    )  # fmt: skip
    back = {name: value for name, value in there.items() if name not in OF_INVOICES}
    entered(shop, by_hand(back, 5), kind="credit_note")
    line = {"account": "4000", "text": "Sales of the fair", "note": "1", "currency": "GBP", "rate_from": "",
            "tax_code": "", "debit": "0.00", "credit": "40.00", "amount": "-40.00", "rate": None}  # fmt: skip
    entered(shop, {"id": 906, "number": "JN-90006", "reference": "", "state": "posted", "date": "2026-10-09",
                   "currency": "GBP", "memo": "The fair", "order": "", "link": "", "changed": "",
                   "lines": [line, {**line, "account": "1200", "debit": "40.00", "credit": "0.00"}]},
            kind="journal")  # fmt: skip
    found = checked(shop)
    assert found.complete
    assert found.result is not None
    assert (found.result.in_books.by_hand, found.result.in_books.not_posted_here) == (3, 1)
    sheet = shop.calls.tie_out(**OCTOBER)
    sales, refunds, _ = sheet.rows
    hand, ours = sales.part("entered by hand"), sales.part("under our reference, and not posted from here")
    # 21.75 of the invoice and 40.00 of the journal; the books have it, so it is less.
    assert (hand.count, hand.gross) == (-1, Decimal("-61.75"))
    assert (ours.count, ours.gross) == (-1, Decimal("-21.75"))
    assert (sales.source.count, sales.books.count, sales.unexplained.gross) == (7, 9, 0)
    assert (refunds.part("entered by hand").count, refunds.part("entered by hand").gross) == (1, Decimal("21.75"))
    assert not sheet.ties
    numbers = {one.number: one.books.gross for one in shop.calls.sheet(**DAYS).documents(reason="entered by hand")}
    assert numbers == {
        "SI-90001": Decimal("21.75"), "SI-90005": Decimal("-21.75"), "JN-90006": Decimal("40.00"),
    }  # fmt: skip
    # By tax code it stands where the books have it.
    (standard,) = [one for one in sheet.tax_codes if one.tax_code == there["lines"][0]["tax_code"]]
    assert standard.unexplained.gross == 0
    # Accepted in a month it closes with it; taken away in the books it counts no more.
    items = {one.reason: one.documents for one in shop.calls.month("marrowby-uk", "2026-10").read().items}
    assert items == {"entered by hand": 3, "under our reference, and not posted from here": 1}
    shop.put("erp", deleted={"invoice": [901, 902], "credit_note": [905], "journal": [906]})
    checked(shop)
    assert shop.calls.tie_out(**OCTOBER).ties
    entered(shop, by_hand(there, 1))
    checked(shop)
    (total,) = shop.calls.tie_out(**OCTOBER).sales
    assert total.part("entered by hand").gross == Decimal("-21.75")


def test_what_cannot_be_read_in_the_books_stops_nothing_else(shop: World) -> None:
    """A document that is no such thing counts by its amounts alone; and books that do not answer are told of."""
    there = live(shop, "invoice")[0]
    entered(shop, by_hand(there, 1, due="the day after tomorrow"), by_hand(there, 2))
    assert of_orders(checked(shop)).complete
    (total,) = shop.calls.tie_out(**OCTOBER).sales
    hand = total.part("entered by hand")
    # One document of 21.75 with its tax, and of the other what stands on the accounts: 20.79 without tax.
    assert (hand.count, hand.net, hand.gross) == (-1, Decimal("-41.58"), Decimal("-42.54"))
    shop.misbehave("erp", {"call": "accounts.entries", "kind": "forbidden", "times": 20})
    found = checked(shop)
    assert found.result is not None
    assert of_orders(found).complete
    assert "right" in found.result.in_books.why_not


@pytest.mark.parametrize(
    "body",
    [
        '{"entries": [], "onward": 7}',
        '{"entries": [{"id": 1, "reference": "MW-1", "when": "yesterday", "last_change": null, "currency": "GBP", '
        '"total": "1.00"}], "onward": null}',
        '{"entries": [{"id": 1, "reference": "MW-1", "when": "2026-10-01T08:00:00Z", "last_change": null, '
        '"currency": "GBP", "total": "1e9999"}], "onward": null}',
        '{"entries": [], "onward": null, "in_all": [{"currency": "GBP", "number": "many", "total": "1.00"}]}',
        '{"entries": null}',
    ],
    ids=["leads back", "no moment", "too many digits", "no count", "no list"],
)
def test_a_list_that_cannot_be_understood_ends_the_check_and_changes_nothing(shop: World, body: str) -> None:
    """A part of a list is no list: nothing is taken for gone, or for complete."""
    shop.misbehave("shop", {"call": "placed.orders", "kind": "said", "body": body, "times": 3})
    asked = shop.calls.completeness.check(bridge=BRIDGE, **DAYS)
    found = wait_for(lambda: ended(shop, asked.id), seconds=60, what="the check")
    assert found.state == "failed"
    assert "list of some days" in found.trouble
    assert found.complete is None
    assert found.result is None
    assert lacking(shop) == []
    assert shop.calls.tie_out(**OCTOBER).ties


def test_a_shop_that_lists_next_to_nothing_is_not_believed(shop: World) -> None:
    """Its key may have lost a right, or it has cleared its archive: nothing is taken for gone."""
    template = shop_order(OTHER)
    more = [{**template, "reference": f"MX-{place}", "id": 92_000 + place, "received": []} for place in range(20)]
    shop.put_orders(*orders(), *more)
    assert checked(shop).complete
    shop.put("web-shop", removed={"orders": [92_000 + place for place in range(20)] + [91_000, 91_001]})
    asked = shop.calls.completeness.check(bridge=BRIDGE, **DAYS)
    found = wait_for(lambda: ended(shop, asked.id), seconds=60, what="the check")
    assert found.state == "failed"
    assert "lists only 5 of the 27 orders that were read of these days. Nothing was taken for gone" in found.trouble
    assert shop.calls.tie_out(**OCTOBER).ties
    # One of a few is believed, and so are many of more.
    shop.put_orders(*orders(), *more[:19])
    assert became(of_orders(checked(shop))) == {"MX-19": "gone"}
