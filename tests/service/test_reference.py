"""Reference data of both ends: loaded in the background, looked through, and what changed since the last time."""

from __future__ import annotations

from typing import Any

import pytest

from inkwell_bridge.demo.facts import facts, rulebook_text
from tests.support.ends import CUSTOMER, PRODUCT, STOCKED
from tests.support.world import World, wait_for


@pytest.fixture
def filled(world: World) -> World:
    """Ends that have a few of everything."""
    world.put("erp", articles=STOCKED["articles"])
    world.put("web-shop", customers=[CUSTOMER], products=[PRODUCT])
    return world


def kinds(world: World, connection: str) -> dict[str, tuple[int, int, int, int]]:
    """Count, added, changed and gone of each list."""
    found = world.calls.connection(connection).name_kinds()
    return {one.kind: (one.count, one.added, one.changed, one.gone) for one in found}


def test_everything_that_the_books_have_a_name_for(filled: World) -> None:
    """Each list with its entries; a first loading adds nothing worth telling."""
    loadings = filled.loaded("uk-books")
    assert {one.part: (one.state, one.first) for one in loadings} == dict.fromkeys(
        ("lists", "items", "contacts"), ("ended", True)
    )
    assert kinds(filled, "uk-books") == {
        "accounts": (len(facts()["books"]["accounts"]), 0, 0, 0),
        "tax-codes": (7, 0, 0, 0), "warehouses": (2, 0, 0, 0), "terms": (2, 0, 0, 0),
        "units": (2, 0, 0, 0), "price-lists": (2, 0, 0, 0), "delivery-methods": (2, 0, 0, 0),
        "sales-people": (2, 0, 0, 0), "languages": (3, 0, 0, 0), "currencies": (3, 0, 0, 0), "periods": (3, 0, 0, 0),
        "items": (1, 0, 0, 0), "contacts": (2, 0, 0, 0),
    }  # fmt: skip
    accounts = list(filled.calls.connection("uk-books").names("accounts"))
    assert [(one.code, one.name, one.details) for one in accounts][:2] == [
        ("1100", "Trade debtors", {"type": "asset"}),
        ("1200", "Current account", {"type": "bank"}),
    ]


def test_everything_that_the_shop_has_a_name_for(filled: World) -> None:
    """Tax classes with each of their taxes, and the long lists."""
    loadings = {one.part: one for one in filled.loaded("web-shop")}
    assert (loadings["customers"].read, loadings["customers"].expected) == (1, 1)
    found = kinds(filled, "web-shop")
    assert set(found) >= {"tax-classes", "payment-methods", "card-brands", "shipping-methods", "order-statuses"}
    assert set(found) >= {"locations", "product-types", "attributes", "customer-groups", "discount-codes", "products"}
    (us_sales,) = filled.calls.connection("web-shop").names("tax-classes", q="us-sales")
    assert us_sales.details["rates"] == (
        "State tax 2.9 % (Colorado); County tax 1.185 % (Boulder County); City tax 3.86 % (Boulder)"
    )


def test_what_was_added_changed_and_has_gone(filled: World) -> None:
    """Since the last time; what has gone keeps its code and nothing that tells of a person."""
    filled.loaded("uk-books")
    accounts = [one for one in facts()["books"]["accounts"] if one["code"] != "7500"]
    accounts = [{**one, "type": "asset"} if one["code"] == "8200" else one for one in accounts]
    filled.put("erp", accounts=[*accounts, {"code": "4600", "name": "Sales of books", "type": "income"}])
    (lists,) = filled.loaded("uk-books", "lists")
    assert (lists.first, lists.added, lists.changed, lists.gone) == (False, 1, 1, 1)
    assert kinds(filled, "uk-books")["accounts"] == (len(accounts) + 1, 1, 1, 1)
    books = filled.calls.connection("uk-books")
    told = {change: [one.code for one in books.names("accounts", change=change)] for change in ("added", "changed",
                                                                                                "gone")}  # fmt: skip
    assert told == {"added": ["4600"], "changed": ["8200"], "gone": ["7500"]}
    assert "7500" not in [one.code for one in books.names("accounts")]
    filled.loaded("uk-books", "lists")
    assert kinds(filled, "uk-books")["accounts"] == (len(accounts) + 1, 0, 0, 0)


def test_a_customer_who_has_gone_is_forgotten(filled: World) -> None:
    """Name and e-mail at once; and back again, it is new."""
    filled.loaded("web-shop", "customers")
    shop = filled.calls.connection("web-shop")
    assert [one.name for one in shop.names("customers", q="thimble")] == ["Aoife O'Driscoll"]
    filled.put("web-shop", reset=True, shop=facts()["web_shop"])
    filled.loaded("web-shop", "customers")
    (gone,) = shop.names("customers", change="gone")
    assert (gone.code, gone.name, gone.details, gone.gone) == ("C-912", "", {}, True)
    filled.put("web-shop", customers=[CUSTOMER])
    filled.loaded("web-shop", "customers")
    assert [one.name for one in shop.names("customers", change="added")] == ["Aoife O'Driscoll"]


def test_a_rule_whose_account_changed_its_type_is_told_before_an_order_trips_on_it(filled: World) -> None:
    """In the bridge's set-up and on the rulebook itself."""
    filled.loaded("uk-books")
    accounts = [{**one, "type": "asset"} if one["code"] == "8200" else one for one in facts()["books"]["accounts"]]
    filled.put("erp", accounts=accounts)
    filled.loaded("uk-books", "lists")
    bridge = filled.calls.bridge("web-shop-to-uk-books")
    found = bridge.rulebook(1).findings
    # Neither the right type for rounding, nor one that stands on a sale there.
    assert [finding.id for finding in found] == ["CAN-E005", "REF-E002"]
    rules = next(step for step in bridge.setup() if step.id == "rules")
    assert rules.state == "attention"
    assert "account 8200" in rules.text
    assert "of type asset" in rules.text


@pytest.mark.parametrize(
    ("rule", "state"),
    [
        ({"call": "contacts.list", "kind": "busy", "seconds": 0.1}, "ended"),
        ({"call": "contacts.list", "kind": "broken", "times": 2}, "ended"),
        ({"call": "contacts.list", "kind": "cut"}, "ended"),
        ({"call": "contacts.list", "kind": "forbidden", "times": 99}, "failed"),
    ],
)
def test_trouble_on_the_way(filled: World, rule: dict[str, Any], state: str) -> None:
    """What passes is tried again by itself; what does not ends it, and says why."""
    filled.misbehave("erp", rule)
    (found,) = filled.loaded("uk-books", "contacts")
    assert found.state == state
    if state == "failed":
        assert "refused" in found.trouble
    else:
        assert (found.read, kinds(filled, "uk-books")["contacts"][0]) == (2, 2)


def test_one_loading_of_a_part_at_a_time(filled: World) -> None:
    """Asked for again, it is the one that is under way."""
    filled.misbehave("erp", {"call": "articles.list", "kind": "latency", "seconds": 0.8})
    books = filled.calls.connection("uk-books")
    first, second = books.load("items"), books.load("items")
    assert first[0].id == second[0].id
    wait_for(lambda: None if next(books.loadings()).under_way else True, seconds=20, what="the loading")


def test_lists_are_searched_by_any_of_their_words(filled: World) -> None:
    """Code, name or both, in any order."""
    filled.loaded("uk-books")
    books = filled.calls.connection("uk-books")
    assert [one.code for one in books.names("accounts", q="vat")] == ["2200"]
    assert [one.code for one in books.names("accounts", q="dyes sales")] == ["4000"]
    assert list(books.names("accounts", q="nothing of the kind")) == []


def test_what_the_shop_no_longer_has_is_a_warning(filled: World) -> None:
    """A tax class and a status; nothing is refused for it, as an old order may have them."""
    filled.loaded("web-shop", "lists")
    shop = facts()["web_shop"]
    names = {**shop["names"], "states": ["awaiting payment", "payed", "completed", "cancelled"],
             "taxes": [one for one in shop["names"]["taxes"] if one["class"] != "export"]}  # fmt: skip
    filled.put("web-shop", shop={**shop, "names": names})
    filled.loaded("web-shop", "lists")
    found = {one.id: one for one in filled.calls.bridge("web-shop-to-uk-books").rulebook(1).findings}
    assert set(found) == {"REF-W007", "REF-W008"}
    assert "tax class export is not known at the sales side" in found["REF-W007"].text
    assert "order status paid is not known" in found["REF-W008"].text
    assert found["REF-W008"].line


def test_a_house_contact_that_the_books_do_not_have_is_told(filled: World) -> None:
    """Once the contacts are loaded; with a near one."""
    filled.loaded("uk-books", "contacts")
    text = rulebook_text("web-shop-to-uk-books").replace("WEB-GUEST", "WEB-GUESTS")
    (finding,) = filled.calls.bridge("web-shop-to-uk-books").write_rulebook(text).findings
    assert (finding.id, "WEB-GUEST" in finding.hint) == ("REF-E005", True)


def test_a_list_that_is_suddenly_empty_is_not_believed_at_once(filled: World) -> None:
    """An end that answers with next to nothing would end every link; twice the same, it is believed."""
    filled.put("erp", articles=[{"code": f"I-{one}", "name": f"Item {one}"} for one in range(40)])
    filled.loaded("uk-books", "items")
    filled.put("erp", reset=True)
    filled.change_books()
    (slip,) = filled.loaded("uk-books", "items")
    assert (slip.state, slip.trouble) == (
        "failed",
        "41 of 41 were missing all at once, so nothing was marked as gone. If that is right, load once more.",
    )
    assert kinds(filled, "uk-books")["items"][0] == 41
    (meant,) = filled.loaded("uk-books", "items")
    assert (meant.state, meant.gone) == ("ended", 41)


def test_what_cannot_be_understood_this_time_is_not_gone(filled: World) -> None:
    """It stays as it was known, and is counted."""
    filled.loaded("web-shop", "products")
    filled.put("web-shop", products=[{**PRODUCT, "price": "no price"}])
    (found,) = filled.loaded("web-shop", "products")
    assert (found.read, found.unreadable, found.gone) == (0, 1, 0)
    assert [one.name for one in filled.calls.connection("web-shop").names("products")] == ["Merino"]
