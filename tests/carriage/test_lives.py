"""Random lives of orders through the running service into two kinds of books: at every rest both hold what the orders
are."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest
from hypothesis import HealthCheck, Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import initialize, precondition, rule, run_state_machine_as_test

from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.support.in_books import KINDS, money_in_ledger, money_of, standing, sums_in_ledger, sums_of
from tests.support.living import MOST_PIECES, PRICES, Living
from tests.support.machine import ServiceMachine
from tests.support.world import BRIDGE, LONG, World, new_world

# Orders that live beside each other, and what happens to them between two rests.
TOGETHER, BETWEEN_RESTS = 12, 25
STEPS, LIVES = (200, 50) if LONG else (100, 8)
RULES = rulebook_text(BRIDGE).replace("penny:\n", "periods: {locked: first open day}\n\npenny:\n").replace(
    "taken_from: [order, payment]", "taken_from: table")  # fmt: skip
TO_LEDGER = "lives-to-ledger"
LEDGER_RULES = """
rulebook: 1
orders: {statuses: [paid, completed], currencies: converted}
customers: {find_by: email, without_email: WEB-GUEST}
accounts: {sales: "400", shipping: "410", goodwill: "490", rounding: "790", exchange_differences: "795"}
tax_codes: {by_class: {standard: FR20}, outside: NONE}
payments: {accounts: {by_method: {card: "115"}}}
refunds: {arrive: posted}
exchange_rates: {taken_from: table}
penny: {allowance: 0.00, goes_to: hold}
"""
# Everything is dated on a day of October; one rate is there for all of it, and changes now and then.
FIRST_DAY, COMPANY = "2026-10-01", "marrowby-uk"
Json = dict[str, Any]


class Lives(ServiceMachine):
    """Orders that are paid, edited, cancelled, given back and taken up again, late, twice and out of order."""

    sales = "4000"
    rate = 2

    def __init__(self) -> None:
        super().__init__()
        self.orders: list[Living] = []
        self.told: dict[str, Json] = {}
        self.moved: list[Json] = []
        self.steps = 0

    @initialize(rows=st.lists(st.tuples(st.integers(1, MOST_PIECES), st.sampled_from(PRICES)), min_size=TOGETHER,
                              max_size=TOGETHER), carriage=st.sampled_from([0, 360]))  # fmt: skip
    def placed(self, rows: list[tuple[int, int]], carriage: int) -> None:
        """They are placed, and every second is paid."""
        for place, row in enumerate(rows):
            order = Living(self.next(), {1: row, 2: (1, 600)}, carriage=carriage, currency=self.currency())
            if place % 2:
                self.money(order, order.total)
            self.orders.append(order)
            self.tell(order)
        self.rest()

    def currency(self) -> str:
        """Every third order is in EUR."""
        return "GBP" if self.counter % 3 else "EUR"

    def money(self, order: Living, pence: int) -> None:
        """Money comes in; of EUR so much that a quarter of it is no fraction."""
        pence -= pence % 4
        order.received.append({"transaction": f"lv_{self.next()}", "pence": pence, "state": "received"})

    def tell(self, order: Living) -> None:
        """The shop has it so from now on."""
        self.told[order.reference] = order.shop(self.now())
        self.steps += 1

    @rule(place=st.integers(0, TOGETHER - 1), count=st.integers(1, MOST_PIECES), price=st.sampled_from(PRICES))
    def a_line_is_added(self, place: int, count: int, price: int) -> None:
        """An article more."""
        order = self.orders[place]
        order.next_row += 1
        order.rows[order.next_row] = (count, price)
        self.tell(order)

    @rule(place=st.integers(0, TOGETHER - 1), which=st.integers(0, 9), count=st.integers(1, MOST_PIECES))
    def pieces_change(self, place: int, which: int, count: int) -> None:
        """More or fewer of one line, at the same price."""
        order = self.orders[place]
        row = sorted(order.rows)[which % len(order.rows)]
        order.rows[row] = (count, order.rows[row][1])
        self.tell(order)

    @rule(place=st.integers(0, TOGETHER - 1), which=st.integers(0, 9), price=st.sampled_from(PRICES))
    def a_price_changes(self, place: int, which: int, price: int) -> None:
        """Another price for the same pieces; one that came back has its own."""
        order = self.orders[place]
        row = sorted(order.rows)[which % len(order.rows)]
        order.rows[row] = (order.rows[row][0], price)
        self.tell(order)

    @rule(place=st.integers(0, TOGETHER - 1), which=st.integers(0, 9))
    def a_line_goes(self, place: int, which: int) -> None:
        """One line fewer, as long as there is another."""
        order = self.orders[place]
        if len(order.rows) > 1:
            order.rows.pop(sorted(order.rows)[which % len(order.rows)])
            self.tell(order)

    @rule(place=st.integers(0, TOGETHER - 1), carriage=st.sampled_from([0, 360, 480]))
    def carriage_changes(self, place: int, carriage: int) -> None:
        """Free, or dearer."""
        self.orders[place].carriage = carriage
        self.tell(self.orders[place])

    @rule(place=st.integers(0, TOGETHER - 1))
    def cancelled_or_not(self, place: int) -> None:
        """Called off, or an order again."""
        self.orders[place].cancelled = not self.orders[place].cancelled
        self.tell(self.orders[place])

    @rule(place=st.integers(0, TOGETHER - 1), part=st.integers(1, 3))
    def money_comes(self, place: int, part: int) -> None:
        """A part of what is owed, or all of it; by chance too much."""
        order = self.orders[place]
        self.money(order, max(-order.owed, 360) // part)
        self.tell(order)

    @rule(place=st.integers(0, TOGETHER - 1))
    def money_bounces(self, place: int) -> None:
        """The last payment did not stay, where nothing of it was given back."""
        order = self.orders[place]
        stays = [one for one in order.received if one["state"] == "received"]
        if stays and not order.refunds:
            stays[-1]["state"] = "failed"
            self.tell(order)

    @rule(place=st.integers(0, TOGETHER - 1), row=st.tuples(st.integers(1, MOST_PIECES), st.sampled_from(PRICES)))
    def another_is_placed(self, place: int, row: tuple[int, int]) -> None:
        """In place of one that is looked at no more; under the rules that are in force by now."""
        if self.orders[place].reference not in self.told:
            self.orders[place] = Living(self.next(), {1: row}, currency=self.currency())
            self.tell(self.orders[place])

    @precondition(lambda self: not self.told)
    @rule()
    def rules_change(self) -> None:
        """Sales stand on another account from now on; what was posted keeps its own."""
        type(self).sales = "4100" if self.sales == "4000" else "4000"
        bridge = self.world.calls.bridge(BRIDGE)
        text = RULES.replace('sales: "4000"', f'sales: "{self.sales}"')
        bridge.publish_rulebook(bridge.write_rulebook(text).number)

    @precondition(lambda self: not self.told)
    @rule()
    def the_rate_changes(self) -> None:
        """A euro is worth a half from now on, or a quarter: what was posted keeps its own."""
        self.use_rate(4 if self.rate == 2 else 2)

    def use_rate(self, rate: int) -> None:
        """Put it into the table of the company."""
        type(self).rate = rate
        said = {"currency": "EUR", "rate": str(Decimal(1) / rate)}
        days = ("2026-09-30", FIRST_DAY, "2026-10-08", "2026-10-15", "2026-10-22", "2026-10-29", "2026-11-05")
        self.world.calls.exchange_rates(COMPANY).keep([{**said, "day": day} for day in days])

    @rule(locked=st.booleans())
    def a_month_is_locked(self, locked: bool) -> None:
        """Or opened again: what is dated in it takes the first open day, and comes to the same."""
        self.world.change_books(locked_until="2026-10-31" if locked else None)

    @rule(place=st.integers(0, TOGETHER - 1))
    def told_twice(self, place: int) -> None:
        """Touched without a change."""
        self.tell(self.orders[place])

    @precondition(lambda self: self.steps >= BETWEEN_RESTS)
    @rule()
    def rest(self) -> None:
        """All of it is carried, the newest told first; then the books are looked at."""
        self.carry()
        self.compare()

    @precondition(lambda self: self.steps >= BETWEEN_RESTS)
    @rule(place=st.integers(0, TOGETHER - 1), which=st.integers(0, 9))
    def something_goes_back(self, place: int, which: int) -> None:
        """What is owed; or else pieces of a line that were paid for, or a kindness. Told after all that came before."""
        self.carry()
        order = self.orders[place]
        left = min(order.paid - order.repaid, max(order.total, order.paid) - sum(one["pence"] for one in order.refunds))
        row = sorted(order.rows)[which % len(order.rows)]
        price = order.rows[row][1]
        if not order.sales:
            back = None
        elif order.owed > 0:
            back = order.refund(self.next(), self.now(), min(order.owed, left)) if left > 0 else None
        elif not order.cancelled and order.stays(row) and price <= left:
            back = order.refund(self.next(), self.now(), price, row=row, count=1)
            order.gone[row] += 1
            order.credited += price
        elif not order.cancelled and left > 120:
            back = order.refund(self.next(), self.now(), 60)
            order.given += 60
            order.credited += 60
        else:
            back = None
        if back is not None:
            self.moved.append(back)
        self.carry()
        self.compare()

    def carry(self) -> None:
        """Bring what the shop has to the books."""
        for order in self.orders:
            # What is called off before it was ever carried is left out; the rules count that are in force then.
            if not order.sales and not order.cancelled:
                order.sales = self.sales
                order.rate = self.rate if order.currency == "EUR" else 1
        newest_first = sorted(self.told.values(), key=lambda one: one["last_change"], reverse=True)
        self.world.put("web-shop", orders=newest_first, refunds=self.moved)
        self.told, self.moved, self.steps = {}, [], 0
        self.run_all(BRIDGE, TO_LEDGER)

    def compare(self) -> None:
        """By account and code, and the money; nothing is held, nothing stands twice."""
        held = [(one.number, one.cause) for one in self.world.calls.crossings(state=["held", "differs"])]
        assert held == []
        books = self.world.books()
        ledger = self.world.held_by("ledger")
        for order in self.orders:
            assert sums_of(books, order.reference) == order.books(), order
            assert money_of(books, order.reference) == order.money_in_books, order
            assert sums_in_ledger(ledger, order.reference) == order.books(ledger=True), order
            assert money_in_ledger(ledger, order.reference) == order.money_in_books, order
        references = [one["reference"] for kind in KINDS for one in standing(books, kind)]
        assert len(set(references)) == len(references)
        assert all(Decimal(one["gross"]) >= 0 for kind in ("invoice", "credit_note") for one in standing(books, kind))

    def teardown(self) -> None:
        """At the end, whatever was not looked at yet."""
        if self.told:
            self.carry()
            self.compare()


def lay_to_ledger(world: World) -> None:
    """A second bridge from the same shop, into a ledger in GBP that takes tax as given."""
    entries = facts()["irish_books"]
    company = {name: value for name, value in entries.items() if name not in demo_client.LISTS}
    world.put("ledger", company={**company, "currency": "GBP", "time_zone": "Europe/London"})
    calls = world.calls
    address = f"{world.stack.standin('ledger')}/{world.slug}"
    calls.create_connection(slug="gbp-ledger", name="GBP ledger", kind="ledger", company=COMPANY, address=address,
                            credentials={"token": entries["token"]})  # fmt: skip
    calls.connection("gbp-ledger").load_master_data()
    calls.create_bridge(slug=TO_LEDGER, name=TO_LEDGER, source="web-shop", books="gbp-ledger", company=COMPANY)
    bridge = calls.bridge(TO_LEDGER)
    bridge.publish_rulebook(bridge.write_rulebook(LEDGER_RULES).number)
    for lane in ("orders", "refunds"):
        bridge.switch_lane(lane, on=True)


@pytest.mark.timeout(3600 if LONG else 900)
def test_the_books_follow_whatever_becomes_of_orders(stack: Stack, owner: str) -> None:
    """Eight hundred steps, and more than ten times as many in the long form."""
    world = new_world(stack, owner, rules=RULES)
    world.put_orders(reset=True)
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    lay_to_ledger(world)
    Lives.world = world
    Lives().use_rate(2)
    run_state_machine_as_test(
        Lives,
        settings=settings(
            max_examples=LIVES, stateful_step_count=STEPS, deadline=None, phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        ),
    )  # fmt: skip
