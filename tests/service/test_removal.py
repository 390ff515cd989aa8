"""Removing bridges, connections and people; erasing a buyer; bringing back what a switch ended."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import psycopg
import pytest

from inkwell_bridge.client import Client, Conflict, NotConfirmed, NotFound
from inkwell_bridge.client.models import Erasure
from inkwell_bridge.demo.facts import facts
from tests.support.ends import CUSTOMER, PRODUCT, STOCKED
from tests.support.world import BRIDGE, World, few_orders, joined, wait_for


def held(order: dict[str, Any], **fields: Any) -> dict[str, Any]:
    """The same order, with a tax class that the rules do not know."""
    line = order["basket"][0]
    return {**order, "basket": [{**line, "tax": {**line["tax"], "class": "unheard-of"}}], **fields}


def erased(world: World, email: str) -> Erasure:
    """An erasure that came to its end."""
    asked = world.calls.erase_buyer(email)
    return wait_for(
        lambda: found if (found := world.calls.erasure(asked.id)).ended_at else None, seconds=30, what="the erasure"
    )


def sealed(world: World, number: str) -> list[bool]:
    """Whether who bought is still kept, for each snapshot of an order."""
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as database:
        rows = database.execute(
            "SELECT personal.sealed IS NOT NULL FROM carriage_personaldata personal "
            "JOIN carriage_snapshot snapshot ON snapshot.id = personal.snapshot_id "
            "JOIN people_workspace workspace ON workspace.id = personal.workspace_id "
            "WHERE snapshot.number = %s AND workspace.slug = %s",
            [number, world.slug],
        )
        return [row[0] for row in rows]


def test_a_bridge_is_removed_and_what_it_carried_stays(world: World) -> None:
    """It says first what ends; what is held is left out, the name is free, and the documents are found under it."""
    carried = few_orders()[1]
    world.put_orders(carried, held(carried, id=777, reference="MW-777"), reset=True)
    assert world.run().counts.carried == 1
    (still,) = world.calls.crossings(search="MW-777")
    assert still.state == "held"
    bridge = world.calls.bridge(BRIDGE)
    with pytest.raises(NotConfirmed) as refused:
        bridge.remove()
    assert refused.value.ends == [
        "These lanes will be switched off: orders.",
        "1 document held or waiting will be left out; drafts are voided.",
        "1 carried document will stay in the books, and here under the bridge's name.",
    ]
    assert bridge.read().name, "nothing has ended yet"
    bridge.remove(confirm=True)
    with pytest.raises(NotFound, match=f"no bridge '{BRIDGE}' here"):
        bridge.read()
    world.settled()
    rows = {row.number: (row.state, row.left_out_by) for row in world.calls.crossings(bridge=BRIDGE)}
    assert rows == {carried["reference"]: ("carried", ""), "MW-777": ("left out", "removal of the bridge")}
    assert world.calls.today().holds == []
    assert [one.slug for one in world.calls.today().bridges] == []
    assert world.calls.release(crossings=[still.id]) == 0
    again = world.calls.create_bridge(
        slug=BRIDGE, name="Once more", source="web-shop", books="uk-books", company="marrowby-uk"
    )
    assert again.name == "Once more"


def test_a_bridge_that_runs_is_not_removed(world: World) -> None:
    """It is stopped first, or waited for."""
    world.put_orders(*few_orders()[:2], reset=True)
    world.misbehave("web-shop", {"call": "orders", "kind": "latency", "seconds": 1.2})
    run = world.calls.bridge(BRIDGE).run()
    with pytest.raises(Conflict, match=f"is running, as run {run.id}"):
        world.calls.bridge(BRIDGE).remove(confirm=True)
    world.ended(run)


def test_a_connection_is_removed_once_nothing_stands_on_it(world: World) -> None:
    """Its credentials are erased, what was loaded is forgotten, and its name is free."""
    world.put("erp", articles=STOCKED["articles"])
    world.put("web-shop", products=[PRODUCT])
    assert world.matched("products").linked == 1
    books = world.calls.connection("uk-books")
    with pytest.raises(Conflict, match=f"is an end of {BRIDGE}"):
        books.remove(confirm=True)
    world.calls.bridge(BRIDGE).remove(confirm=True)
    with pytest.raises(NotConfirmed) as refused:
        books.remove()
    assert refused.value.ends[0] == "Its credentials are erased."
    assert refused.value.ends[2] == "1 link to or from it can no longer be used."
    books.remove(confirm=True)
    with pytest.raises(NotFound, match="no connection 'uk-books' here"):
        books.read()
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as database:
        names = database.execute(
            "SELECT count(*) FROM reference_entry entry JOIN connections_connection books ON books.id = "
            "entry.connection_id JOIN people_workspace workspace ON workspace.id = books.workspace_id "
            "WHERE workspace.slug = %s AND books.slug = 'uk-books'", [world.slug],
        ).fetchone()  # fmt: skip
    assert names == (0,)
    again = world.calls.create_connection(
        slug="uk-books", name="New books", kind="erp", address=f"{world.stack.erp}/{world.slug}",
        credentials={"user": facts()["books"]["user"], "password": facts()["books"]["password"]},
    )  # fmt: skip
    assert again.state == "connected"


def test_the_last_owner_stays(world: World) -> None:
    """Neither removed nor given a lower role; anybody else can go, and may do nothing from then on."""
    (owner,) = [one for one in world.calls.people() if one.role == "own"]
    with pytest.raises(Conflict, match="is the only owner"):
        world.calls.remove_person(owner.id)
    with pytest.raises(Conflict, match="is the only owner"):
        world.calls.give_role(email=owner.email, role="see")
    email, password = f"leaver@{world.slug}.example", "a long enough password"
    member = joined(world.calls, email=email, role="edit", name="Somebody", password=password)
    token = Client(world.stack.address).make_token(email=email, password=password, name="t", workspace=world.slug)
    theirs = Client(world.stack.address, token=token).workspace(world.slug)
    assert list(theirs.bridges())
    world.calls.remove_person(member.id)
    with pytest.raises(Exception, match=r"sign in|token|not valid|credentials"):
        list(theirs.bridges())
    assert [one.email for one in world.calls.people()] == [owner.email]
    assert next(iter(world.calls.trail())).action == "role.taken"


def test_a_buyer_is_erased_and_the_figures_stay(world: World) -> None:
    """Who bought goes from every order that has crossed and from the loaded names; nobody else is touched."""
    mine, other = few_orders()[1:3]
    assert mine["shopper"]["email"] != other["shopper"]["email"]
    world.put_orders(mine, other, reset=True)
    world.put("web-shop", customers=[{**CUSTOMER, "email": mine["shopper"]["email"]}])
    world.loaded("web-shop", "customers")
    world.run()
    before = world.calls.tie_out(first=None, last=None).model_dump()
    (crossing,) = world.calls.crossings(search=mine["reference"])
    assert world.calls.crossing(crossing.id).buyer["email"] == mine["shopper"]["email"]
    done = erased(world, f" {mine['shopper']['email'].upper()} ")
    assert (done.snapshots, done.names, done.kept) == (1, 1, [])
    assert world.calls.crossing(crossing.id).buyer is None
    assert (sealed(world, mine["reference"]), sealed(world, other["reference"])) == ([False], [True])
    assert [one.name for one in world.calls.connection("web-shop").names("customers")] == [""]
    assert world.calls.tie_out(first=None, last=None).model_dump() == before
    assert all(mine["shopper"]["email"] not in str(entry.model_dump()) for entry in world.calls.trail())
    assert erased(world, mine["shopper"]["email"]).snapshots == 0


def test_a_contact_that_tells_of_the_buyer_by_name_alone_is_erased_too(world: World) -> None:
    """The books' contact has no e-mail; the customer is linked to it, and the next order of theirs is found anew."""
    order = few_orders()[0]
    email = order["shopper"]["email"]
    world.put("erp", contacts=[{"code": "C-77", "name": "Their Own Name", "email": ""}])
    world.put_orders(order, reset=True)
    world.put("web-shop", customers=[{**CUSTOMER, "id": order["shopper"]["account"], "email": email}])
    world.loaded("web-shop", "customers")
    world.loaded("uk-books", "contacts")
    world.calls.bridge(BRIDGE).links("customers").answer("C-912", "C-77")
    world.run()
    assert erased(world, email).names == 2
    assert "Their Own Name" not in str([one.name for one in world.calls.connection("uk-books").names("contacts")])
    (crossing,) = world.calls.crossings()
    contact = world.calls.crossing(crossing.id).contact
    assert contact is not None
    assert (contact.code, contact.name) == ("C-77", "")


def test_an_order_that_has_not_crossed_keeps_its_buyer(world: World) -> None:
    """Without them it would go to the wrong contact; it is named, and erased once it has crossed."""
    order = few_orders()[1]
    world.put_orders(held(order), reset=True)
    world.run()
    done = erased(world, order["shopper"]["email"])
    assert (done.snapshots, done.kept) == (0, [order["reference"]])
    assert sealed(world, order["reference"]) == [True]


@pytest.fixture
def switched(world: World) -> Callable[[str], None]:
    """A client with one linked product, and a way to let the books say that they are another company's."""
    world.put("erp", articles=STOCKED["articles"])
    world.put("web-shop", products=[PRODUCT])
    assert world.matched("products").linked == 1

    def named(company: str) -> None:
        world.change_books(name=company)
        world.calls.connection("uk-books").check()

    return named


def test_a_switch_says_what_ends_and_is_taken_back(world: World, switched: Callable[[str], None]) -> None:
    """The same company is refused; after a mistake the links stand again, and the lanes are on again."""
    books, links = world.calls.connection("uk-books"), world.calls.bridge(BRIDGE).links("products")
    with pytest.raises(Conflict, match="belongs to Marrowby UK books already"):
        books.switch("Marrowby UK books", confirm=True)
    with pytest.raises(Conflict, match="was not switched in the last 24 hours"):
        books.switch_back()
    switched("Marrowby Ireland books")
    with pytest.raises(NotConfirmed) as refused:
        books.switch("Marrowby Ireland books")
    assert refused.value.what == "Marrowby UK books would go from Marrowby UK books to Marrowby Ireland books."
    assert refused.value.ends == [
        f"1 link of products over {BRIDGE} will end.",
        f"These lanes will be switched off: orders over {BRIDGE}.",
        "All of this can be brought back for a day.",
    ]
    assert links.counts().linked == 1, "nothing has ended yet"
    books.switch("Marrowby Ireland books", confirm=True)
    assert links.counts().linked == 0
    with pytest.raises(Conflict, match="says that it belongs to Marrowby Ireland books"):
        books.switch_back()
    # What is linked meanwhile belongs to the other company, and ends when it goes.
    answered = next(iter(links.all())).source_id
    links.answer(answered)
    switched("Marrowby UK books")
    found = books.switch_back()
    assert (found.state, found.settled_company) == ("connected", "Marrowby UK books")
    assert (links.counts().linked, links.counts().none) == (1, 0)
    assert [lane.kind for lane in world.calls.bridge(BRIDGE).read().lanes if lane.on] == ["orders"]
    with pytest.raises(Conflict, match="was not switched in the last 24 hours"):
        books.switch_back()
