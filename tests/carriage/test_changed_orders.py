"""Orders that change after they were posted: the books hold the order as it is, by further documents."""

from __future__ import annotations

from collections import defaultdict
from datetime import date
from decimal import Decimal

import pytest

from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_money import crossing, live, refund
from tests.support.changing import FIRST, as_it_was, cancelled, cheaper, three_skeins
from tests.support.world import BRIDGE, World, new_world, shop_order

OCTOBER = {"first": date(2026, 10, 1), "last": date(2026, 10, 31)}
ZERO = Decimal(0)


@pytest.fixture
def posted(stack: Stack, owner: str) -> World:
    """One order of 13.94, invoiced and paid by card."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.put_orders(shop_order(FIRST), reset=True)
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    return world


def by_account(world: World) -> dict[str, str]:
    """What the books hold on each account, without tax: invoices less credit notes."""
    sums: dict[str, Decimal] = defaultdict(Decimal)
    for kind, sign in (("invoice", 1), ("credit_note", -1)):
        for line in (line for one in live(world, kind) for line in one["lines"]):
            sums[line["account"]] += sign * Decimal(line["net"])
    return {account: str(amount) for account, amount in sorted(sums.items()) if amount}


def whole(world: World) -> Decimal:
    """What the books hold of the sale, tax included."""
    return sum((Decimal(one["gross"]) for one in live(world, "invoice")), ZERO) - sum(
        (Decimal(one["gross"]) for one in live(world, "credit_note")), ZERO
    )


def tied(world: World) -> None:
    """Nothing of October is unexplained."""
    (sides,) = world.calls.tie_out(**OCTOBER).totals
    left = sides.unexplained
    assert (left.gross, left.net, left.tax, left.count) == (0, 0, 0, 0), sides


def test_what_was_added_is_a_further_invoice(posted: World) -> None:
    """Two skeins more: 29.97 less 9.99 are 19.98, of which 5.00 less 1.67 are tax."""
    posted.put_orders(three_skeins())
    assert posted.run().counts.carried == 1
    first, further = live(posted, "invoice")
    (line, *penny) = further["lines"]
    assert (line["quantity"], line["net"], line["account"], line["tax_code"]) == ("2", "16.65", "4000", "S20")
    # 16.65 at 20 % is 3.33, which is what the shop says.
    assert (further["gross"], penny, further["date"]) == ("19.98", [], "2026-10-31")
    assert (first["gross"], whole(posted)) == ("13.94", Decimal("33.92"))
    found = crossing(posted, FIRST)
    assert [(one.role, one.amendment) for one in found.documents] == [("invoice", 0), ("payment", 0), ("invoice", 1)]
    tied(posted)
    # Read again as it is, nothing more comes of it.
    posted.run()
    assert len(live(posted, "invoice")) == 2


def test_what_became_cheaper_is_a_credit_note(posted: World) -> None:
    """4.00 less for the skein, of which 0.67 is tax: on no item, for none came back."""
    posted.put_orders(cheaper())
    posted.run()
    (note,) = live(posted, "credit_note")
    line = note["lines"][0]
    assert (line["quantity"], line["net"], line["article"]) == ("1", "3.33", "")
    assert (note["gross"], whole(posted)) == ("4.00", Decimal("9.94"))
    (invoice,) = live(posted, "invoice")
    assert note["credits"] == invoice["reference"]
    said = {finding.id: finding.text for finding in crossing(posted, FIRST).findings}
    assert "4.00 GBP of what was paid is owed to the buyer" in said["AMEND-N002"]
    tied(posted)


def test_cancelled_it_comes_off_and_taken_back_it_is_an_order_again(posted: World) -> None:
    """The credit note takes off all; once the cancellation is withdrawn a further invoice of that day has it again."""
    posted.put_orders(cancelled())
    posted.run()
    (note,) = live(posted, "credit_note")
    assert (note["gross"], whole(posted), by_account(posted)) == ("13.94", ZERO, {})
    (sides,) = posted.calls.tie_out(**OCTOBER).totals
    assert (sides.cancelled.gross, sides.cancelled.tax) == (Decimal("13.94"), Decimal("2.33"))
    tied(posted)
    posted.put_orders(as_it_was())
    posted.run()
    assert (len(live(posted, "invoice")), whole(posted)) == (2, Decimal("13.94"))
    assert by_account(posted) == {"4000": "8.32", "4100": "3.29", "8200": "0.01"}
    tied(posted)


def test_a_refund_and_a_cancellation_credit_it_once(posted: World) -> None:
    """The skein came back before; with the cancellation only the carriage comes off, and nothing is left."""
    posted.put("web-shop", refunds=[refund()])
    posted.run()
    posted.put_orders(cancelled(55))
    posted.run()
    posted.settled()
    assert sorted(one["gross"] for one in live(posted, "credit_note")) == ["3.95", "9.99"]
    assert by_account(posted) == {}
    tied(posted)


def test_edited_and_cancelled_in_turn_the_books_follow(posted: World) -> None:
    """Each state counts, whatever came before it."""
    for state, total in ((three_skeins(50), "33.92"), (cheaper(51), "9.94"), (cancelled(52), "0.00"),
                         (three_skeins(53), "33.92"), (as_it_was(54), "13.94")):  # fmt: skip
        posted.put_orders(state)
        posted.run()
        assert whole(posted) == Decimal(total)
        assert crossing(posted, FIRST).state == "carried"
        tied(posted)
    references = [one["reference"] for kind in ("invoice", "credit_note") for one in live(posted, kind)]
    assert len(set(references)) == len(references)
