"""Both sides of a period by tax code, by account and by tender."""

from __future__ import annotations

import os
import subprocess
import sys
from datetime import date
from decimal import Decimal
from functools import partial
from typing import Any

import pytest

from inkwell_bridge.client import ApiError, Conflict
from inkwell_bridge.client.models import TieOut
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_completeness import ended, of_orders
from tests.carriage.test_money import FIRST, crossing, refund
from tests.carriage.test_reading_again import edit, of_order, read_again
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for, with_holds

OCTOBER = {"first": date(2026, 10, 1), "last": date(2026, 10, 31)}
PENNY = Decimal("0.01")


@pytest.fixture
def paid(stack: Stack, owner: str) -> World:
    """One order of 13.94, paid by card, of which a skein of 9.99 came back; what changes is for a person."""
    world = new_world(stack, owner, rules=with_holds(rulebook_text(BRIDGE)))
    world.put_orders(shop_order(FIRST), reset=True)
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    return world


def codes(found: TieOut) -> dict[str, tuple[str, ...]]:
    """Net and tax on both sides, by tax code."""
    return {
        row.tax_code: tuple(str(amount) for side in (row.source, row.books) for amount in (side.net, side.tax))
        for row in found.tax_codes
    }


def test_a_sale_by_tax_code_and_tender(paid: World) -> None:
    """9.99 hold 1.67 in the shop and 1.66 in the books, 3.95 hold 0.66; the penny stands outside tax."""
    found = paid.calls.tie_out(**OCTOBER)
    assert codes(found) == {"S20": ("11.61", "2.33", "11.61", "2.32"), "OUT": ("0.00", "0.00", "0.01", "0.00")}
    assert sum((row.difference.gross for row in found.tax_codes), Decimal(0)) == 0
    (card,) = found.tenders
    assert (card.tender, card.source.count, card.books.count, card.parts) == ("card", 1, 1, [])
    assert (card.source.gross, card.books.gross) == (Decimal("13.94"), Decimal("13.94"))


def by_account(found: TieOut) -> dict[tuple[str, str], tuple[str, str]]:
    """What the rules put on each account, and what stands there."""
    return {(row.account, row.section): (str(row.source.net), str(row.books.net)) for row in found.accounts}


def test_a_sale_by_account(paid: World) -> None:
    """9.99 and 3.95 less 1.67 and 0.66 of tax; the penny of tax stands on the account for rounding."""
    found = paid.calls.tie_out(**OCTOBER)
    assert by_account(found) == {
        ("4000", "both"): ("8.32", "8.32"), ("4100", "both"): ("3.29", "3.29"), ("8200", "both"): ("0.00", "0.01"),
        ("1250", "money"): ("13.94", "13.94"),
    }  # fmt: skip
    assert all(row.ties for row in found.accounts)
    assert {row.account: (row.name, row.used_for) for row in found.accounts} == {
        "4000": ("Sales of yarn and dyes", ["sales"]), "4100": ("Carriage charged", ["shipping"]),
        "8200": ("Rounding", ["rounding"]), "1250": ("Weirgate clearing", ["money of buyers"]),
    }  # fmt: skip
    (penny,) = next(row for row in found.accounts if row.account == "8200").parts
    assert (penny.reason, penny.net) == ("rounding by rule", -PENNY)


def test_a_line_that_somebody_put_on_another_account(paid: World) -> None:
    """Under the same code with the same amounts: every total ties, and neither account does."""
    invoice = of_order(paid, "invoice")
    moved = [{**line, "account": "4100"} if line["account"] == "4000" else line for line in invoice["lines"]]
    edit(paid, "invoice", invoice["id"], lines=moved)
    read_again(paid)
    sheet = paid.calls.sheet(**OCTOBER)
    found = sheet.read()
    assert by_account(found)["4000", "both"] == ("8.32", "0.00")
    assert by_account(found)["4100", "both"] == ("3.29", "11.61")
    parts = {row.account: [(part.reason, str(part.net)) for part in row.parts] for row in found.accounts if row.parts}
    assert parts == {
        "4000": [("changed in the books", "8.32")], "4100": [("changed in the books", "-8.32")],
        "8200": [("rounding by rule", "-0.01")],
    }  # fmt: skip
    assert all(row.ties for row in (*found.rows, *found.tax_codes, *found.tenders))
    assert not found.ties
    asked = {"connection": "uk-books", "account": "4100", "currency": "GBP"}
    (behind,) = sheet.documents(**asked)
    assert (behind.number, str(behind.source.net), str(behind.books.net)) == (FIRST, "3.29", "11.61")
    assert [one.number for one in sheet.documents(**asked, reason="changed in the books")] == [FIRST]
    assert list(sheet.documents(**asked, section="money")) == []
    (money,) = sheet.documents(account="1250", section="money")
    assert (str(money.source.net), str(money.books.net)) == ("13.94", "13.94")
    # A person may leave it as it is there: that is settled then, and told still.
    paid.calls.decide(behind.id, "accept difference", "Carriage was wanted there.")
    paid.settled()
    after = sheet.read()
    assert after.ties
    (carriage,) = [row for row in after.accounts if row.account == "4100"]
    assert [(part.reason, part.settled, str(part.net)) for part in carriage.parts] == [
        ("accepted by a person", True, "-8.32")
    ]


def test_what_came_back_counts_against(paid: World) -> None:
    """The skein's 8.32 and 1.67 are taken off on both sides, and its 9.99 of the card."""
    paid.put("web-shop", refunds=[refund()])
    paid.run()
    found = paid.calls.tie_out(**OCTOBER)
    assert codes(found)["S20"] == ("3.29", "0.66", "3.29", "0.66")
    assert (found.tenders[0].source.gross, found.tenders[0].books.gross) == (Decimal("3.95"), Decimal("3.95"))


def test_another_bridge_and_another_month_have_nothing_of_it(paid: World) -> None:
    """What is asked for is what counts."""
    paid.calls.create_bridge(slug="another", name="Another", source="web-shop", books="uk-books",
                             company=paid.calls.bridge(BRIDGE).read().company)  # fmt: skip
    other = paid.calls.tie_out(**OCTOBER, bridge="another")
    assert (other.tax_codes, other.accounts, other.tenders) == ([], [], [])
    before = paid.calls.tie_out(first=date(2026, 9, 1), last=date(2026, 9, 30))
    assert (before.tax_codes, before.tenders) == ([], [])


def cancelled_later() -> dict[str, Any]:
    """The order, cancelled after it was carried."""
    return shop_order(FIRST, state="cancelled", last_change="2026-10-31T19:50:00+00:00")


def made_cheaper() -> dict[str, Any]:
    """The skein for 5.99 in place of 9.99, which hold 1.00 of tax: 9.94 in all, of which 1.66 is tax."""
    order = shop_order(FIRST, last_change="2026-10-31T19:50:00+00:00", total="9.94", tax="1.66")
    (line,) = order["basket"]
    tax = {**line["tax"], "sum": "1.00"}
    return {**order, "basket": [{**line, "price": "5.99", "sum": "5.99", "tax": tax}]}


def test_an_order_that_is_held_while_its_invoice_stands_is_counted_once(paid: World) -> None:
    """Both sides say 13.94 of it, so nothing stands between them, and nothing is unexplained."""
    paid.put_orders(cancelled_later())
    assert paid.run().counts.held == 1
    (sides,) = paid.calls.tie_out(**OCTOBER).sales
    assert (sides.source.gross, sides.books.gross) == (Decimal("13.94"), Decimal("13.94"))
    taxed = sides.part("tax computed otherwise by the books")
    assert (sides.part("held").gross, sides.part("held").count, taxed.tax) == (0, 0, PENNY)
    assert (sides.unexplained.gross, sides.unexplained.tax, sides.unexplained.count) == (0, 0, 0)


def test_what_was_posted_is_kept_by_a_decision_until_the_order_changes_again(paid: World) -> None:
    """The shop takes 4.00 off; the books keep the invoice of 13.94, and the 4.00 have a name."""
    before = paid.invoices()
    paid.put_orders(made_cheaper())
    paid.run()
    (found,) = paid.calls.crossings(search=FIRST, kind="orders")
    assert (found.state, found.cause) == ("held", "source-changed")
    changed = {one.what: (one.before, one.after) for one in paid.calls.crossing(found.id).changes}
    assert changed["total"] == ("13.94", "9.94")
    assert changed["lines, Sock yarn skein, Fenland: amount"] == ("9.99", "5.99")
    (sides,) = paid.calls.tie_out(**OCTOBER).sales
    assert (sides.part("held").gross, sides.part("kept as posted").gross) == (Decimal("-4.00"), 0)
    assert sides.unexplained.gross == 0
    paid.calls.decide(found.id, "keep posted", "4.00 were given back in cash.")
    wait_for(lambda: paid.calls.crossing(found.id).state == "carried" or None, seconds=30, what="the order")
    assert "given back in cash" in paid.calls.crossing(found.id).findings[0].text
    (sides,) = paid.calls.tie_out(**OCTOBER).sales
    kept = sides.part("kept as posted")
    amounts = (sides.source.gross, sides.books.gross, kept.gross, kept.count, sides.unexplained.gross)
    assert amounts == (Decimal("9.94"), Decimal("13.94"), Decimal("-4.00"), 0, 0)
    assert (sides.unexplained.net, sides.unexplained.tax, paid.invoices()) == (0, 0, before)
    # Read again as it is, it stays; taken back, or changed once more, it is asked about again.
    assert paid.run().counts.held == 0
    paid.calls.take_decision_back(found.id)
    wait_for(lambda: paid.calls.crossing(found.id).state == "held" or None, seconds=30, what="the order to be held")
    paid.calls.decide(found.id, "keep posted", "Once more.")
    wait_for(lambda: paid.calls.crossing(found.id).state == "carried" or None, seconds=30, what="the order")
    paid.put_orders({**cancelled_later(), "last_change": "2026-10-31T19:55:00+00:00"})
    paid.run()
    assert paid.calls.crossing(found.id).cause == "source-changed"
    assert paid.invoices() == before


def test_only_what_changed_after_it_was_posted_is_kept(paid: World) -> None:
    """What is held by something else has nothing to keep."""
    paid.put_orders(shop_order("MW-10006", currency="KWD"))
    paid.run()
    (held,) = paid.calls.crossings(state="held")
    with pytest.raises(Conflict, match="another cause"):
        paid.calls.decide(held.id, "keep posted", "No.")


def test_payments_left_for_later_are_set_aside(world: World) -> None:
    """The shop has the money, the books have none of it yet, and that is no difference."""
    world.put_orders(shop_order(FIRST), reset=True)
    world.run()
    (card,) = world.calls.tie_out(**OCTOBER).tenders
    assert (card.source.gross, card.books.gross, card.ties) == (Decimal("13.94"), 0, True)
    assert card.part("not as money").gross == Decimal("13.94")


def test_a_voucher_that_was_taxed_before_is_named(stack: Stack, owner: str) -> None:
    """13.94 paid by a voucher: the sale and the deduction cancel out, and both sides say so by name."""
    vouchers = "payments:\n  vouchers: {taxed_as: standard}\n  accounts:"
    text = rulebook_text(BRIDGE).replace("payments:\n  accounts:", vouchers)
    text = text.replace('  gift_cards: "2310"\n', '  gift_cards: "2310"\n  vouchers: "2310"\n')
    order = shop_order(FIRST)
    money = [{**order["received"][0], "with": "voucher", "by": "voucher"}]
    world = new_world(stack, owner, rules=text)
    world.put_orders({**order, "received": money}, reset=True)
    world.run()
    found = world.calls.tie_out(**OCTOBER)
    (sides,) = found.sales
    vouchers_taxed = sides.part("vouchers taxed when sold")
    # 13.94 / 6 = 2.32 (2.323), so 11.62 of the debt.
    assert (vouchers_taxed.net, vouchers_taxed.tax, vouchers_taxed.gross) == (
        Decimal("11.62"), Decimal("2.32"), Decimal("13.94"),
    )  # fmt: skip
    assert (sides.books.gross, sides.unexplained.gross, sides.unexplained.count) == (0, 0, 0)
    (voucher,) = found.tenders
    not_money = voucher.part("not as money").gross
    assert (voucher.tender, not_money, voucher.books.gross) == ("voucher", Decimal("13.94"), 0)
    assert world.books().get("receipt", []) == []


def test_a_code_that_the_books_gave_another_rate_holds_however_little_it_comes_to(stack: Stack, owner: str) -> None:
    """3.29 at 21 % are 0.69 for 0.66, and a penny rule would settle 0.05: no rounding, and nothing posted.
    Loaded, the rules say so before; with the old rate again the order goes, and October ties."""
    world = new_world(stack, owner)
    order = shop_order(FIRST, total="3.95", tax="0.66")
    order["basket"] = [{**order["basket"][0], "price": "3.95", "sum": "3.95",
                        "tax": {**order["basket"][0]["tax"], "sum": "0.66"}}]  # fmt: skip
    order["carriage"] = {**order["carriage"], "sum": "0.00", "tax": {**order["carriage"]["tax"], "sum": "0.00"}}
    order["received"] = [{**order["received"][0], "sum": "3.95"}]
    world.put_orders(order, reset=True)
    codes = demo_client.facts()["books"]["tax_codes"]
    # A run asks for the rates first; these change while an order of it waits.
    world.misbehave("erp", {"call": "invoices.create", "kind": "busy", "times": 99})
    world.run()
    world.put("erp", tax_codes=[{**one, "rate": "21"} if one["code"] == "S20" else one for one in codes])
    world.misbehave("erp")
    world.settled()
    held = crossing(world, FIRST)
    assert (held.state, held.cause) == ("held", "code-rate-changed")
    (finding,) = [one for one in held.findings if one.level == "error"]
    assert "computed 0.69 of tax on 3.29 GBP" in finding.text
    assert [one["state"] for one in world.invoices()] == ["draft"]
    sheet = world.calls.tie_out(**OCTOBER)
    assert {(part.reason, part.detail) for row in sheet.sales for part in row.parts} == {("held", "code-rate-changed")}
    with pytest.raises(Conflict, match="difference"):
        world.calls.decide(held.id, "accept difference", "It is but pennies.")
    world.loaded("uk-books")
    world.calls.release(cause="code-rate-changed")
    world.settled()
    assert crossing(world, FIRST).cause == "tax-unclear"
    world.put("erp", tax_codes=codes)
    world.loaded("uk-books")
    world.calls.release(cause="tax-unclear")
    world.settled()
    assert [(one["state"], one["gross"]) for one in world.invoices()] == [("posted", "3.95")]
    assert world.calls.tie_out(**OCTOBER).ties


def test_a_shop_in_another_time_zone_has_its_own_midnight(stack: Stack, owner: str) -> None:
    """Placed at 3 in the morning of 15 October in London, at 22:00 of the 14th by the clocks of a shop in New York: on
    the sales side it is of the 14th, as in the shop's own reports, and in the books of the 15th. Both days tie."""
    world = new_world(stack, owner)
    there = {**demo_client.facts()["web_shop"], "time_zone": "America/New_York"}
    placed, paid_at = "2026-10-15T02:00:00+00:00", "2026-10-15T02:01:00+00:00"
    order = shop_order(FIRST, placed=placed, last_change=paid_at)
    order["received"] = [{**order["received"][0], "when": paid_at}]
    world.put("web-shop", reset=True, shop=there, orders=[order])
    assert world.calls.connection("web-shop").check().described.time_zone == "America/New_York"  # type: ignore[union-attr]
    world.run()
    assert [one["date"] for one in world.invoices()] == ["2026-10-15"]
    days = {f"{row.day}": row for row in world.calls.sheet(**OCTOBER).days()}
    assert {day: (f"{row.source.gross}", f"{row.books.gross}") for day, row in days.items()} == {
        "2026-10-14": ("13.94", "0.00"), "2026-10-15": ("0.00", "13.94"),
    }  # fmt: skip
    assert {day: f"{row.part('on another day in the books').gross}" for day, row in days.items()} == {
        "2026-10-14": "13.94", "2026-10-15": "-13.94",
    }  # fmt: skip
    assert all(row.ties for row in days.values())
    the_14th = world.calls.tie_out(first=date(2026, 10, 14), last=date(2026, 10, 14))
    (card,) = the_14th.tenders
    assert (f"{card.source.gross}", f"{card.books.gross}", the_14th.ties) == ("13.94", "0.00", True)
    assert [part.reason for row in world.calls.tie_out(**OCTOBER).rows for part in row.parts] == [
        "rounding by rule", "tax computed otherwise by the books",
    ]  # fmt: skip
    # Asked for its 14th, the shop lists it; for its 15th it does not, and nothing is gone.
    for day, listed in ((14, 1), (15, 0)):
        one_day = {"first": date(2026, 10, day), "last": date(2026, 10, day)}
        asked = world.calls.completeness.check(bridge=BRIDGE, **one_day)
        found = of_orders(wait_for(partial(ended, world, asked.id), seconds=60, what="the check"))
        assert (sum(one.count for one in found.listed), sum(one.count for one in found.here)) == (listed, listed)
        assert (found.documents, world.calls.tie_out(**OCTOBER).ties) == ([], True)


def test_both_sides_day_by_day_and_bridge_by_bridge(paid: World) -> None:
    """13.94 on the third; 9.99 came back on another day, and each day's parts make its own difference."""
    paid.put("web-shop", refunds=[refund()])
    paid.put_orders(shop_order("MW-10006", currency="KWD"))
    paid.run()
    sheet = paid.calls.sheet(**OCTOBER)
    days = {(f"{row.day}", row.section, row.currency): (f"{row.source.gross}", f"{row.books.gross}", row.ties)
            for row in sheet.days()}  # fmt: skip
    assert days["2026-10-03", "sales", "GBP"] == ("13.94", "13.94", True)
    (back,) = [row for row in sheet.days() if row.section == "refunds"]
    assert (f"{back.source.gross}", f"{back.books.gross}") == ("-9.99", "-9.99")
    kuwait = [row for row in sheet.days() if row.currency == "KWD"]
    assert [(row.section, row.ties, row.part("held").count) for row in kuwait] == [("sales", False, 1)]
    bridges = {(row.bridge, row.section, row.currency): f"{row.books.gross}" for row in sheet.bridges()}
    assert bridges == {(BRIDGE, "sales", "GBP"): "13.94", (BRIDGE, "refunds", "GBP"): "-9.99",
                       (BRIDGE, "both", "GBP"): "3.95", (BRIDGE, "sales", "KWD"): "0.000"}  # fmt: skip


def test_the_documents_behind_every_amount(paid: World) -> None:
    """Of a reason, of a tax code, of a tender; and all of a section."""
    paid.put("web-shop", refunds=[refund()])
    paid.put_orders(shop_order("MW-10006", currency="KWD"))
    paid.run()
    sheet = paid.calls.sheet(**OCTOBER)

    def behind(**amount: str) -> list[tuple[str, str, str]]:
        return [(one.number, f"{one.source.gross}", f"{one.books.gross}") for one in sheet.documents(**amount)]

    assert behind(section="sales", currency="GBP") == [(FIRST, "13.94", "13.94")]
    assert behind(section="refunds") == [("MW-R-801", "-9.99", "-9.99")]
    held = list(sheet.documents(reason="held", detail="rate-missing"))
    assert [(one.number, one.reasons, one.detail) for one in held] == [("MW-10006", ["held"], "rate-missing")]
    assert behind(reason="held", detail="penny-over-allowance") == []
    # 11.61 and 2.33 less 8.32 and 1.67: of the books 0.01 less tax on either.
    assert behind(section="both", tax_code="S20", currency="GBP") == [
        (FIRST, "13.94", "13.93"), ("MW-R-801", "-9.99", "-9.98")]  # fmt: skip
    assert behind(section="money", tender="card", currency="GBP") == [
        (FIRST, "13.94", "13.94"), ("MW-R-801", "-9.99", "-9.99")]  # fmt: skip
    assert [one[0] for one in behind(section="sales", reason="rounding by rule")] == [FIRST]
    assert behind(section="sales", reason="waiting") == []


def test_only_of_a_company_or_a_bridge_that_there_is(paid: World) -> None:
    """A name that is none is told, with the near one."""
    company = paid.calls.bridge(BRIDGE).read().company
    assert [row.section for row in paid.calls.sheet(**OCTOBER, company=company).read().rows] == ["sales"]
    with pytest.raises(ApiError, match=f"There is no company '{company}s' here"):
        paid.calls.sheet(**OCTOBER, company=f"{company}s").read()
    with pytest.raises(ApiError, match="at most 427 days"):
        paid.calls.sheet(first=date(2020, 1, 1), last=date(2026, 10, 31)).days()
    with pytest.raises(ApiError, match="reason"):
        list(paid.calls.sheet(**OCTOBER).documents(reason="magic"))


def test_totals_of_days_are_put_together_and_stay_what_they_were(paid: World) -> None:
    """However often an order changes, a day is a few rows; the sheet says the same before and after."""
    for number in range(3):
        paid.put_orders(shop_order(FIRST, last_change=f"2026-10-31T19:5{number}:00+00:00", state="completed"))
        paid.run()
    before = paid.calls.tie_out(**OCTOBER).model_dump()
    days = paid.calls.sheet(**OCTOBER).days()
    merged = (
        "import django; django.setup()\n"
        "from inkwell_bridge.service.carriage import day_totals\n"
        "from inkwell_bridge.service.carriage.models import DayTotal\n"
        "day_totals.merge()\n"
        f"rows = DayTotal.objects.filter(workspace__slug={paid.slug!r})\n"
        "print(rows.count(), rows.filter(merged=False).count())\n"
        "key = ('bridge', 'grain', 'section', 'date', 'currency', 'tax_code', 'tender', 'side', 'role', 'account')\n"
        "print(rows.values(*key).distinct().count())\n"
    )
    environment = {**os.environ, **paid.stack.environment, "DJANGO_SETTINGS_MODULE": "inkwell_bridge.service.settings"}
    done = subprocess.run([sys.executable, "-c", merged], env=environment, capture_output=True, text=True, check=True)
    there, left, different = (int(number) for number in done.stdout.split())
    assert (left, there) == (0, different)
    assert paid.calls.tie_out(**OCTOBER).model_dump() == before
    assert paid.calls.sheet(**OCTOBER).days() == days


def test_a_penny_has_its_name_also_where_posting_was_not_answered(stack: Stack, owner: str) -> None:
    """What was settled before the books fell silent is what they hold; its penny is by rule, and the month ties."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.put_orders(shop_order(FIRST), reset=True)
    world.misbehave("erp", {"call": "invoices.post", "kind": "cut"})
    world.run()
    sheet = world.calls.tie_out(**OCTOBER)
    (sides,) = sheet.sales
    penny, taxed = sides.part("rounding by rule"), sides.part("tax computed otherwise by the books")
    assert (penny.net, taxed.tax, sheet.ties) == (-PENNY, PENNY, True)


def test_money_that_is_open_alone_does_not_tie_and_today_says_so_too(paid: World) -> None:
    """By now the shop says that it was paid in cash: the sale is the same on both sides, the money is not."""
    order = shop_order(FIRST, last_change="2026-10-31T19:50:00+00:00")
    paid.put_orders({**order, "received": [{**order["received"][0], "with": "cash", "by": "till"}]})
    assert paid.run().counts.held == 1
    sheet, today = paid.calls.tie_out(**OCTOBER), paid.calls.today()
    (sales,) = sheet.sales
    assert (sales.ties, sheet.ties, today.ties) == (True, False, False)
    assert {row.tender: (f"{row.source.gross}", f"{row.books.gross}", row.ties) for row in sheet.tenders} == {
        "card": ("0.00", "13.94", False), "cash": ("13.94", "0.00", False)}  # fmt: skip
    (bridge,) = [one for one in today.bridges if one.slug == BRIDGE]
    assert [(f"{one.day}", one.ties) for one in bridge.days if not one.ties] == [("2026-10-03", False)]
