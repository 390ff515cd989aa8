"""Holds mended in place: an article linked, a contact chosen, a difference in the books accepted."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

import pytest

from inkwell_bridge.client import Conflict, Invalid
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_documents import FIRST, SOCK, a_world, crossing, facts, live, product, rules
from tests.service.test_holds import of, state_of
from tests.support.ends import BENCHES
from tests.support.world import BRIDGE, World, shop_order, wait_for


@pytest.fixture
def unlinked(stack: Stack, owner: str) -> World:
    """One order of an article that the books' items do not have under its SKU; the rules hold such."""
    text = rules(("accounts:\n  sales", "items:\n  not_found: hold\n\naccounts:\n  sales"))
    world = a_world(stack, owner, text)
    world.put("erp", articles=facts()["articles"])
    world.put("web-shop", products=[product(31, SOCK, "Sock yarn skein, Fenland"), product(32, "BOWL-ASH", "Bowl")])
    world.matched("products")
    world.run()
    return world


def test_an_article_that_is_no_item_is_linked_and_everything_behind_it_goes(unlinked: World) -> None:
    """Grouped by its SKU; looked at before, with nothing kept; linked, and carried on the item."""
    (group,) = unlinked.calls.holds()
    assert (group.cause, group.aspect, group.value, group.linked_as) == ("item-unclear", "product", SOCK, "products")
    chosen = {"bridge": BRIDGE, "cause": "item-unclear", "value": SOCK}
    assert unlinked.calls.preview_holds(**chosen).would_go == 0
    links = unlinked.calls.bridge(BRIDGE).links("products")
    before = links.counts()
    answer = {"key": SOCK, "targets": [{"id": "SOCK-FEN"}]}
    freed = unlinked.calls.preview_holds(**chosen, links=[answer])
    assert (freed.tried, freed.would_go) == (1, 1)
    assert links.counts() == before
    with pytest.raises(Invalid, match="NO-SUCH-ITEM"):
        unlinked.calls.preview_holds(**chosen, links=[{"key": SOCK, "targets": [{"id": "NO-SUCH-ITEM"}]}])
    links.answer("31", ("SOCK-FEN", Decimal(1)))
    let_go = unlinked.calls.release_holds(**chosen)
    unlinked.settled()
    assert unlinked.calls.became(let_go.crossings).states == {"carried": 1}
    assert live(unlinked, "invoice")[0]["lines"][0]["article"] == "SOCK-FEN"


# -- contacts ----------------------------------------------------------------------------------------------------------


def twins(world: World, **shopper: object) -> None:
    """Two orders of one buyer, of whom the books have two contacts with that e-mail; the contacts are loaded."""
    order = shop_order(FIRST)
    order = {**order, "shopper": {**order["shopper"], **shopper}}
    email = order["shopper"]["email"]
    names = {"C-9": "Ellis Pryce", "C-10": "E. Pryce Ltd"}
    world.put("erp", contacts=[{"code": code, "name": name, "email": email} for code, name in names.items()])
    world.put_orders(order, {**order, "id": 88_001, "reference": "MW-88001"}, reset=True)
    world.loaded("uk-books", "contacts")
    world.run()


@pytest.mark.parametrize("shopper", [{"account": None}, {"account": 4711}], ids=["a guest", "an account"])
def test_the_contact_of_a_buyer_is_chosen_once_for_all_that_waits(
    stack: Stack, owner: str, shopper: dict[str, object]
) -> None:
    """Both orders go to the one that was chosen, and so does the next; nobody is made."""
    world = a_world(stack, owner, rules())
    twins(world, **shopper)
    made = len(world.books()["contact"])
    first, second = of(world, FIRST), of(world, "MW-88001")
    assert crossing(world, FIRST).findings[0].id == "CUST-E002"
    choice = world.calls.contact_choice(first)
    assert (choice.number, choice.loaded) == (FIRST, True)
    assert [(one.code, one.points) for one in choice.offered] == [("C-10", 96), ("C-9", 96)]
    with pytest.raises(Invalid, match="C-77"):
        world.calls.choose_contact(first, "C-77")
    let_go = world.calls.choose_contact(first, "C-9")
    assert (let_go.released, let_go.crossings) == (2, sorted([first, second]))
    world.settled()
    assert world.calls.became(let_go.crossings).states == {"carried": 2}
    chosen = next(one["id"] for one in world.books()["contact"] if one["code"] == "C-9")
    assert {one["contact"] for one in live(world, "invoice")} == {chosen}
    order = shop_order(FIRST)
    world.put_orders({**order, "id": 88_002, "reference": "MW-88002", "shopper": {**order["shopper"], **shopper}})
    world.run()
    assert {one["contact"] for one in live(world, "invoice")} == {chosen}
    assert len(world.books()["contact"]) == made
    with pytest.raises(Conflict, match="does not wait for its contact"):
        world.calls.choose_contact(first, "C-10")
    (entry,) = [one for one in world.calls.trail() if one.action == "contact.chosen"]
    assert order["shopper"]["email"] not in str(entry)


def test_where_none_is_found_one_is_chosen(stack: Stack, owner: str) -> None:
    """Nobody in the books has that e-mail, and the rules make nobody: a person knows under which name they are kept."""
    world = a_world(stack, owner, rules(("not_found: create", "not_found: hold")))
    world.put("erp", contacts=[{"code": "C-9", "name": "Thimble Ltd", "email": "office@thimble.example"}])
    world.loaded("uk-books", "contacts")
    world.run()
    order = of(world, FIRST)
    assert crossing(world, FIRST).findings[0].id == "CUST-E004"
    world.calls.choose_contact(order, "C-9")
    assert state_of(world, order, "waiting") == "carried"
    chosen = next(one["id"] for one in world.books()["contact"] if one["code"] == "C-9")
    assert [one["contact"] for one in live(world, "invoice")] == [chosen]


def test_of_an_order_that_names_nobody_no_contact_is_chosen(stack: Stack, owner: str) -> None:
    """Every other nameless order would go to the same one."""
    order = shop_order(FIRST)
    nameless = {**order, "shopper": {**order["shopper"], "account": None, "email": ""}}
    world = a_world(stack, owner, rules(("  without_email: WEB-GUEST\n", "")), nameless)
    world.run()
    assert crossing(world, FIRST).findings[0].id == "CUST-E001"
    with pytest.raises(Conflict, match="does not wait for its contact to be chosen"):
        world.calls.choose_contact(of(world, FIRST), "WEB-GUEST")


def test_only_what_waits_for_its_contact_has_one_chosen(unlinked: World) -> None:
    """That of an article does not."""
    with pytest.raises(Conflict, match="does not wait for its contact"):
        unlinked.calls.contact_choice(of(unlinked, FIRST))


# -- what the books hold is something else -----------------------------------------------------------------------------


@pytest.fixture
def differing(stack: Stack, owner: str) -> World:
    """An invoice whose posting was not answered, and whose skein somebody put under 5 % meanwhile.

    Of its 9.98, 9.50 are net in place of 8.32, and 0.48 tax in place of 1.66.
    """
    world = a_world(stack, owner, rules())
    world.misbehave("erp", {"call": "invoices.post", "kind": "cut"},
                    {"call": "invoices.list", "kind": "broken", "times": 3})  # fmt: skip
    world.calls.bridge(BRIDGE).run()
    invoice = wait_for(
        lambda: next((one for one in live(world, "invoice") if one["state"] == "posted"), None),
        seconds=20, what="the invoice",
    )  # fmt: skip
    skein = {**invoice["lines"][0], "tax_code": "R05", "net": "9.50", "tax": "0.48"}
    changed(world, lines=[skein, *invoice["lines"][1:]], net="12.80", tax="1.14")
    world.misbehave("erp")
    wait_for(lambda: world.calls.crossing(of(world, FIRST)).state == "differs" or None, seconds=60, what="the proof")
    return world


def changed(world: World, **fields: object) -> None:
    """Change the invoice in the books."""
    invoice = wait_for(lambda: next(iter(live(world, "invoice")), None), seconds=20, what="the invoice")
    world.put("erp", edited={"invoice": {invoice["id"]: fields}})


def test_a_difference_in_the_books_is_accepted_and_named(differing: World) -> None:
    """11.61 and 2.33 at the shop are 12.80 and 1.14 in the books: all of it is posted otherwise than planned, and no
    penny of it is rounding."""
    order = of(differing, FIRST)
    assert differing.calls.crossing(order).cause == "not-proved"
    with pytest.raises(Conflict, match="stands in the books"):
        differing.calls.decide(order, "leave out", "x")
    assert unnamed(differing) == ("-1.19", "1.19", "0.00")
    differing.calls.decide(order, "accept difference", "Agreed with the buyer.")
    assert state_of(differing, order, "waiting") == "carried"
    notes = {one.id: one.text for one in differing.calls.crossing(order).findings}
    assert "Agreed with the buyer." in notes["PROOF-N004"]
    assert {"PROOF-E002"} < set(notes)
    assert unnamed(differing) == ("0.00", "0.00", "0.00")
    assert unnamed(differing, "accepted by a person") == ("-1.19", "1.19", "0.00")
    differing.calls.take_decision_back(order)
    assert state_of(differing, order, "waiting") == "differs"


def unnamed(world: World, name: str = "posted otherwise than planned") -> tuple[str, ...]:
    """Net, tax and gross of October's difference under a name."""
    (sums,) = world.calls.tie_out(first=date(2026, 10, 1), last=date(2026, 10, 31)).sales
    found = sums.part(name)
    return str(found.net), str(found.tax), str(found.gross)


def test_another_difference_than_the_accepted_is_asked_about_again(differing: World) -> None:
    """Somebody changes it there once more, before it is read again."""
    order = of(differing, FIRST)
    differing.calls.decide(order, "accept difference", "Agreed with the buyer.")
    assert state_of(differing, order, "waiting") == "carried"
    differing.calls.take_decision_back(order)
    changed(differing, date="2026-12-24")
    assert state_of(differing, order, "waiting") == "differs"
    differing.calls.release(crossings=[order])
    assert state_of(differing, order, "waiting") == "differs"
    assert any("2026-12-24" in one.text for one in differing.calls.crossing(order).findings)


def test_what_stands_twice_in_the_books_cannot_be_accepted(differing: World) -> None:
    """Somebody typed it in once more, under the same reference."""
    order = of(differing, FIRST)
    (invoice,) = live(differing, "invoice")
    calls = BENCHES["erp"].open(differing)._rpc
    names = ("contact", "date", "currency", "reference", "order", "link", "memo", "lines")
    twin = calls.change("invoices.create", **{name: invoice[name] for name in names})
    calls.change("invoices.post", id=twin["id"])
    differing.calls.release(crossings=[order])
    assert state_of(differing, order, "waiting") == "differs"
    with pytest.raises(Conflict, match="stands there twice"):
        differing.calls.decide(order, "accept difference", "x")
