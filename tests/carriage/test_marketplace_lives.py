"""Random lives of a marketplace's sales through the running service, done by its merchant at its own counter: the books
of both companies hold what stays sold, and of the buyers' money what is the seller's."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import HealthCheck, Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import initialize, precondition, rule, run_state_machine_as_test

from inkwell_bridge.demo import lanternfair
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.support.in_books import KINDS, money_in_ledger, money_of, standing, sums_in_ledger, sums_of
from tests.support.machine import ServiceMachine
from tests.support.market_living import FAIRS, UK, MarketLiving
from tests.support.world import LONG, new_world

BRIDGES = ("lanternfair-to-ledger", "lanternfair-to-uk-books")
TOGETHER, BETWEEN_RESTS, BETWEEN_REFUNDS, KINDNESS = 9, 12, 3, 60
STEPS, LIVES = (120, 40) if LONG else (60, 3)
TEMPLATES = {one["sale"]: one for one in lanternfair.first_sales()["sales"]}
which_sale = st.integers(0, TOGETHER - 1)
which_row = st.integers(0, 9)
pieces = st.integers(1, 4)
units = st.sampled_from((4, 8, 20, 40))


class MarketLives(ServiceMachine):
    """Sales that are paid, changed, called off, taken up again, handed back in parts and exchanged."""

    def __init__(self) -> None:
        super().__init__()
        self.sales: list[MarketLiving] = []
        self.steps = 0

    def does(self, sale: MarketLiving, deed: str, **told: Any) -> None:
        """The merchant does it, and nothing turns it away."""
        answer = self.world.after_sale("marketplace", sale.reference, deed, at=self.now(), **told)
        assert answer.status_code == 204, answer.text
        self.steps += 1

    @initialize(rows=st.lists(st.tuples(pieces, units), min_size=TOGETHER, max_size=TOGETHER),
                postage=st.sampled_from([0, 40]))  # fmt: skip
    def made(self, rows: list[tuple[int, int]], postage: int) -> None:
        """Three at each fair, of which two are paid."""
        for place, row in enumerate(rows):
            sale = MarketLiving(self.next(), FAIRS[place % len(FAIRS)], {1: row, 2: (1, 40)}, postage=postage)
            if place >= len(FAIRS):
                sale.paid.append(-sale.owed)
            self.sales.append(sale)
        at = self.now()
        told = [sale.told(TEMPLATES[sale.fair.template], at) for sale in self.sales]
        self.world.put("marketplace", sales=told)
        self.rest()

    @rule(place=which_sale, which=which_row, count=pieces)
    def pieces_change(self, place: int, which: int, count: int) -> None:
        """More or fewer of a row at the same price."""
        sale, row = self.row(place, which)
        sale.rows[row] = (count, sale.rows[row][1])
        self.does(sale, "pieces", row=row, count=count)

    @rule(place=which_sale, which=which_row)
    def a_row_is_called_off(self, place: int, which: int) -> None:
        """One row fewer, as long as there is another."""
        sale, row = self.row(place, which)
        if len(sale.rows) > 1:
            sale.rows.pop(row)
            self.does(sale, "pieces", row=row, count=0)

    @rule(place=which_sale, which=which_row, price=units)
    def a_price_changes(self, place: int, which: int, price: int) -> None:
        """For the pieces that stayed; those that came back had theirs."""
        sale, row = self.row(place, which)
        sale.rows[row] = (sale.rows[row][0], price)
        self.does(sale, "price", row=row, price=cents(price * sale.fair.priced))

    @rule(place=which_sale, count=pieces, price=units)
    def an_article_is_added(self, place: int, count: int, price: int) -> None:
        """A row more."""
        sale = self.sales[place]
        sale.rows[max(sale.rows) + 1] = (count, price)
        self.does(sale, "add", article="YRN-SOCK-FEN", title="Skein", pieces=count,
                  price=cents(price * sale.fair.priced))  # fmt: skip

    @rule(place=which_sale)
    def called_off_or_not(self, place: int) -> None:
        """Called off, or sold after all."""
        sale = self.sales[place]
        sale.called_off = not sale.called_off
        if sale.called_off:
            self.does(sale, "cancel")
            return
        (held,) = (one for one in self.world.held_by("marketplace")["sale"] if one["sale"] == sale.reference)
        self.world.put("marketplace", sales=[{**held, "progress": "to send", "moved": self.now()}])
        self.steps += 1

    @rule(place=which_sale, part=st.integers(1, 2))
    def money_comes(self, place: int, part: int) -> None:
        """What is due, or half of it."""
        sale = self.sales[place]
        if (due := -sale.owed // part) > 0:
            sale.paid.append(due)
            self.does(sale, "pay", amount=cents(due))

    @rule(place=which_sale)
    def money_bounces(self, place: int) -> None:
        """The last payment did not stay, where nothing of the money was handed back."""
        sale = self.sales[place]
        if sale.paid and not sale.repaid:
            sale.paid.pop()
            self.does(sale, "bounce")

    @rule()
    def told_twice(self) -> None:
        """All of them touched without a change, in another order."""
        names = {sale.reference for sale in self.sales}
        held = [one for one in self.world.held_by("marketplace")["sale"] if one["sale"] in names]
        self.world.put("marketplace", sales=[{**one, "moved": self.now()} for one in reversed(held)])

    @precondition(lambda self: self.steps >= BETWEEN_RESTS)
    @rule()
    def rest(self) -> None:
        """All of it is carried, and the books are looked at."""
        self.carry()
        self.compare()

    @precondition(lambda self: self.steps >= BETWEEN_REFUNDS)
    @rule(place=which_sale, which=which_row, part=st.integers(1, 2))
    def money_is_handed_back(self, place: int, which: int, part: int) -> None:
        """What is owed, or half of it; else pieces that were paid for come back, or a kindness."""
        sale, row = self.row(place, which)
        price = sale.rows[row][1] * sale.fair.buyer
        self.carry()
        if sale.owed // part > 0:
            sale.repaid += (back := sale.owed // part)
            self.does(sale, "pay-back", amount=cents(back))
        elif not sale.called_off and sale.stays(row) and price <= sale.left:
            sale.repaid += price
            sale.gone[row] += 1
            self.does(sale, "take-back", row=row, count=1)
        elif not sale.called_off and sale.left > KINDNESS * 2:
            sale.repaid += KINDNESS
            sale.given += KINDNESS
            self.does(sale, "pay-back", amount=cents(KINDNESS))
        self.carry()

    def row(self, place: int, which: int) -> tuple[MarketLiving, int]:
        """One of a sale's rows."""
        sale = self.sales[place]
        return sale, sorted(sale.rows)[which % len(sale.rows)]

    def carry(self) -> None:
        """Bring what the marketplace has to the books."""
        for sale in self.sales:
            # What is called off before it was ever carried is left out.
            sale.carried = sale.carried or not sale.called_off
        self.run_all(*BRIDGES)
        self.steps = 0

    def compare(self) -> None:
        """By account and code, and the money once nothing is owed; nothing is held, nothing stands twice."""
        held = [(one.number, one.cause) for one in self.world.calls.crossings(state=["held", "differs"])]
        assert held == []
        books, ledger = self.world.books(), self.world.held_by("ledger")
        for sale in self.sales:
            in_erp = sale.fair.accounts == UK
            sums = sums_of(books, sale.reference) if in_erp else sums_in_ledger(ledger, sale.reference)
            assert sums == sale.books(), sale
            money = money_of(books, sale.reference) if in_erp else money_in_ledger(ledger, sale.reference)
            if sale.owed == 0:
                assert money == sale.sold, sale
        references = [one["reference"] for kind in KINDS for one in standing(books, kind)]
        assert len(set(references)) == len(references)

    def teardown(self) -> None:
        """At the end everybody pays what is due and gets what is owed; then all the money is looked at too."""
        if not self.sales:
            return
        self.carry()
        for sale in self.sales:
            if sale.owed < 0:
                sale.paid.append(due := -sale.owed)
                self.does(sale, "pay", amount=cents(due))
            elif sale.owed > 0:
                sale.repaid += (back := sale.owed)
                self.does(sale, "pay-back", amount=cents(back))
        self.carry()
        self.compare()


def cents(amount: int) -> str:
    """As the merchant writes it."""
    return f"{amount // 100}.{amount % 100:02}"


@pytest.mark.timeout(3600 if LONG else 900)
def test_the_books_follow_whatever_becomes_of_a_marketplaces_sales(stack: Stack, owner: str) -> None:
    """Near two hundred steps, and twenty-five times as many in the long form."""
    world = new_world(stack, owner)
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    world.put("marketplace", reset=True, company=demo_client.facts()["lanternfair"])
    MarketLives.world = world
    run_state_machine_as_test(
        MarketLives,
        settings=settings(
            max_examples=LIVES, stateful_step_count=STEPS, deadline=None, phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        ),
    )  # fmt: skip
