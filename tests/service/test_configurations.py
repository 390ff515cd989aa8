"""A bridge's whole configuration, taken from a trial to the real thing: compared in words, applied in one step."""

from __future__ import annotations

import json
from datetime import date
from typing import Any

import pytest

from inkwell_bridge.client import Client, Conflict, Forbidden, Invalid
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.service.test_links import ARTICLES, SOLD, product
from tests.support.world import BRIDGE, HTTP, OWNER, PASSWORD, World, invoices_alone, joined

LIVE = "live-shop-to-live-books"
BASE = "house.yaml"
RULES = invoices_alone()


@pytest.fixture
def world(world: World) -> World:
    """A bridge that was tried, and beside it one between other ends, with the same articles under other ids."""
    demo_client.fill_standins(world.stack.standin, world=f"{world.slug}-live")
    world.put("erp", articles=ARTICLES)
    world.put("web-shop", products=SOLD)
    world.put("erp", place="-live", articles=list(reversed(ARTICLES)))
    world.put("web-shop", place="-live", products=[{**one, "id": one["id"] + 100} for one in SOLD])
    books, shop = facts()["books"], facts()["web_shop"]
    world.calls.create_connection(
        slug="live-shop", name="Live shop", kind="web-shop", address=f"{world.stack.shop}/{world.slug}-live/api",
        credentials={"key": shop["key"], "secret": shop["secret"]}, company="marrowby-uk",
    )  # fmt: skip
    world.calls.create_connection(
        slug="live-books", name="Live books", kind="erp", address=f"{world.stack.erp}/{world.slug}-live",
        credentials={"user": books["user"], "password": books["password"]}, company="marrowby-uk",
    )  # fmt: skip
    world.calls.create_bridge(slug=LIVE, name="Live", source="live-shop", books="live-books", company="marrowby-uk")
    world.calls.bridge(LIVE).change(starts_on=date(2026, 11, 1))
    for connection in ("web-shop", "uk-books", "live-shop", "live-books"):
        world.loaded(connection)
    return world


@pytest.fixture
def tried(world: World) -> World:
    """The trial's own: rules on a base, a lane on, a timetable, a link that no rule would make."""
    bridge = world.calls.bridge(BRIDGE)
    # The penny is every bridge's own business no more: it stands in the house's base.
    text, _, penny = RULES.partition("\npenny:")
    world.calls.write_base_rulebook(BASE, f"rulebook: 1\npenny:{penny}")
    version = bridge.write_rulebook(text.replace("rulebook: 1\n", f"rulebook: 1\nbased_on: {BASE}\n", 1))
    bridge.publish_rulebook(version.number)
    bridge.switch_lane("orders", on=True)
    bridge.set_timetable(daily_at="18:30", time_zone="Europe/London")
    table = "product_code,item_code,quantity\nBOWL-ASH,BWL-OAK,2\nGIFT,none,\n"
    bridge.links("products").take_in("links.csv", table.encode(), apply=True)
    return world


def links_of(world: World, bridge: str) -> dict[str, list[tuple[str, str]]]:
    """What each product leads to, by codes."""
    return {one.code: [(part.code, f"{part.quantity.normalize():f}") for part in one.links]
            for one in world.calls.bridge(bridge).links("products").all()}  # fmt: skip


def test_it_holds_everything_and_no_secret(tried: World) -> None:
    """Rules as they were written, what they build on, lanes, timetable, links by code."""
    found = tried.calls.bridge(BRIDGE).configuration()
    assert (found["configuration"], found["source"], found["books"]) == (1, "web-shop", "erp")
    assert f"based_on: {BASE}" in found["rulebook"]
    assert list(found["bases"]) == [BASE]
    assert found["lanes"]["orders"] is True
    assert found["timetable"] == {"rule": "FREQ=DAILY;BYHOUR=18;BYMINUTE=30;BYSECOND=0", "time_zone": "Europe/London"}
    by_code = {one["code"]: (one["to"], one["quantity"]) for one in found["links"]["products"]}
    assert by_code["BOWL-ASH"] == ("BWL-OAK", "2")
    assert by_code["GIFT"] == ("", "1")
    text = json.dumps(found)
    assert facts()["web_shop"]["secret"] not in text
    assert facts()["books"]["password"] not in text
    assert tried.calls.bridge(BRIDGE).configuration(links=False)["links"] == {}


def test_another_bridge_is_compared_in_words_and_nothing_is_kept(tried: World) -> None:
    """First rules, a lane, a timetable, links: each said once."""
    live = tried.calls.bridge(LIVE)
    found = live.compare_configuration(BRIDGE)
    assert (found.applied, found.rulebook, found.missing) == (False, None, [])
    said = {(one.of, one.text) for one in found.differences}
    assert ("rules", "There are no rules here yet; these would be the first.") in said
    assert ("lanes", "Orders would be switched on.") in said
    assert ("timetable", "It would run daily at 18:30 (Europe/London); there is none now.") in said
    assert any(of == "links of products" and "BOWL-ASH" in text for of, text in said)
    assert list(live.rulebooks()) == []
    assert live.read().timetable is None


def test_it_is_applied_in_one_step_and_then_there_is_no_difference(tried: World) -> None:
    """By code, whatever the ids there; applied again it does nothing."""
    live = tried.calls.bridge(LIVE)
    found = live.apply_configuration(BRIDGE)
    assert (found.applied, found.rulebook) == (True, 1)
    assert links_of(tried, LIVE) == links_of(tried, BRIDGE)
    assert links_of(tried, LIVE)["BOWL-ASH"] == [("BWL-OAK", "2")]
    bridge = live.read()
    assert bridge.rulebook_in_force == 1
    assert {lane.kind: lane.on for lane in bridge.lanes}["orders"] is True
    assert bridge.timetable is not None
    assert bridge.timetable.rule == "FREQ=DAILY;BYHOUR=18;BYMINUTE=30;BYSECOND=0"
    assert live.compare_configuration(BRIDGE).differences == []
    again = live.apply_configuration(tried.calls.bridge(BRIDGE).configuration())
    assert again.rulebook is None
    assert len(list(live.rulebooks())) == 1
    assert "configuration.applied" in {one.action for one in tried.calls.trail()}


def test_who_is_told_goes_with_it_and_what_needs_a_secret_is_named(tried: World) -> None:
    """By e-mail of this bridge alone; a signed call is added by hand; a person who is not here is told of nothing."""
    live, calls = tried.calls.bridge(LIVE), tried.calls
    calls.add_notice_rule(channel="mail", kinds=["held", "end"], bridges=[BRIDGE], at_once=False, digest_at="07:30",
                          quiet_from="18:00", quiet_until="07:00")  # fmt: skip
    hook = calls.add_notice_rule(channel="call", address="https://ops.marrowby.example/hook", bridges=[BRIDGE])
    document = tried.calls.bridge(BRIDGE).configuration()
    mail, called = document["notices"]
    assert (mail["to"], mail["kinds"], mail["digest_at"], mail["at_once"]) == (OWNER, ["held", "end"], "07:30", False)
    assert called["to"] == hook.address
    assert hook.secret not in json.dumps(document)
    found = live.compare_configuration(document)
    assert f"{OWNER} would be told by e-mail of held, end." in {one.text for one in found.differences}
    assert [one.text for one in found.missing] == [
        "A signed call to https://ops.marrowby.example/hook needs a secret of its own: add it by hand."
    ]
    away = {**mail, "to": "nobody@marrowby.example"}
    for given, said in (({**document, "notices": [away]}, "Nobody here has the e-mail"),
                        ({**document, "notices": [{**mail, "lanes": ["llamas"]}]}, "no lane for llamas"),
                        (document, "needs a secret")):  # fmt: skip
        with pytest.raises(Conflict, match=said):
            live.apply_configuration(given)
    assert live.apply_configuration(document, leave_missing=True).applied
    told = [rule for rule in calls.notice_rules() if rule.bridges == [LIVE]]
    assert [(rule.person, rule.kinds, rule.digest_at, rule.at_once) for rule in told] == [
        (OWNER, ["held", "end"], "07:30", False)
    ]
    assert {one.of for one in live.compare_configuration(document).differences} == {"notices"}
    live.apply_configuration(document, leave_missing=True)
    assert len([rule for rule in calls.notice_rules() if rule.bridges == [LIVE]]) == 1
    with pytest.raises(Invalid, match="digest_at"):
        live.compare_configuration({**document, "notices": [{**mail, "digest_at": "half past"}]})


def test_lanes_stay_off_where_no_start_date_is_set(tried: World) -> None:
    """Or every order there ever was would cross with the next run; the rest can be applied without them."""
    live = tried.calls.bridge(LIVE)
    live.change(starts_on=None)
    found = live.compare_configuration(BRIDGE)
    assert [one.of for one in found.missing] == ["start date"]
    with pytest.raises(Conflict, match="No start date is set here"):
        live.apply_configuration(BRIDGE)
    assert live.apply_configuration(BRIDGE, leave_missing=True).applied
    assert not any(lane.on for lane in live.read().lanes)
    assert live.read().rulebook_in_force == 1


def test_products_of_one_code_are_not_taken_for_a_kit(tried: World) -> None:
    """Two yarns of one code, each its own item: by code nobody could tell them apart, so their links stay behind."""
    twins = [product(41, "TWIN", "Twin, left"), product(42, "Twin ", "Twin, right")]
    tried.put("web-shop", products=[*SOLD, *twins])
    tried.loaded("web-shop")
    links = tried.calls.bridge(BRIDGE).links("products")
    table = "product_id,product_code,item_code\n41,TWIN,BWL-OAK\n42,Twin,BWL-ASH\n"
    assert links.take_in("twins.csv", table.encode(), apply=True).bad_rows == 0
    found = tried.calls.bridge(BRIDGE).configuration()
    assert found["without_code"] == {"products": 2}
    assert not [one for one in found["links"]["products"] if one["code"].casefold() == "twin"]
    assert any("2 have no code of their own" in one.text
               for one in tried.calls.bridge(LIVE).compare_configuration(BRIDGE).differences)  # fmt: skip


def test_base_rules_that_others_build_on_are_compared_as_they_are(tried: World) -> None:
    """The bridge builds on none yet; the client has the base all the same, so nothing would be written of it."""
    live = tried.calls.bridge(LIVE)
    assert "base rules" not in {one.of for one in live.compare_configuration(BRIDGE).differences}
    document = tried.calls.bridge(BRIDGE).configuration()
    other = {**document, "bases": {BASE: document["bases"][BASE].replace("rulebook: 1", "# Agreed.\nrulebook: 1")}}
    said = [one.text for one in live.compare_configuration(other).differences if one.of == "base rules"]
    assert said == [f"{BASE} would get a new version."]
    again = {**document, "bases": {"new.yaml": document["bases"][BASE]},
             "rulebook": document["rulebook"].replace(BASE, "new.yaml")}  # fmt: skip
    said = [one.text for one in live.compare_configuration(again).differences if one.of == "base rules"]
    assert said == ["new.yaml would be written here."]


def test_codes_are_the_same_in_any_case(tried: World) -> None:
    """As wherever they are looked for: applied once, there is nothing left to change."""
    live, document = tried.calls.bridge(LIVE), tried.calls.bridge(BRIDGE).configuration()
    lower = [{**one, "code": one["code"].lower(), "to": one["to"].lower()} for one in document["links"]["products"]]
    live.apply_configuration({**document, "links": {"products": lower}})
    assert live.compare_configuration(document).differences == []


def test_a_change_of_one_rule_is_the_only_difference(tried: World) -> None:
    """Said as every comparison of rules says it."""
    live = tried.calls.bridge(LIVE)
    live.apply_configuration(BRIDGE)
    document = tried.calls.bridge(BRIDGE).configuration()
    changed = document["rulebook"].replace('sales: "4000"', 'sales: "4100"')
    assert changed != document["rulebook"]
    found = live.compare_configuration({**document, "rulebook": changed})
    assert [(one.of, one.at) for one in found.differences] == [("rules", "/accounts/sales/default")]
    assert "4000" in found.differences[0].text
    assert "4100" in found.differences[0].text


def test_what_is_not_there_is_named_first_and_stops_it(tried: World) -> None:
    """An account that these books lack, and an article; nothing is half done."""
    live, document = tried.calls.bridge(LIVE), tried.calls.bridge(BRIDGE).configuration()
    others = [{"code": "STARTER", "to": "NO-SUCH"}, {"code": "NEVER-SOLD", "to": "BWL-OAK"}]
    lacking = {**document, "links": {"products": [*document["links"]["products"], *others]}}
    found = live.compare_configuration(lacking)
    assert [(one.of, one.text) for one in found.missing] == [
        ("links of products", "There is no item with the code 'NO-SUCH'."),
        ("links of products", "There is no product with the code 'NEVER-SOLD'."),
    ]
    with pytest.raises(Conflict, match="Nothing was applied: There is no item with the code 'NO-SUCH'"):
        live.apply_configuration(lacking)
    assert list(live.rulebooks()) == []
    assert links_of(tried, LIVE)["BOWL-ASH"] != [("BWL-OAK", "2")]
    assert live.apply_configuration(lacking, leave_missing=True).applied
    assert links_of(tried, LIVE)["BOWL-ASH"] == [("BWL-OAK", "2")]
    wrong = {**document, "rulebook": document["rulebook"].replace('sales: "4000"', 'sales: "4999"')}
    found = live.compare_configuration(wrong)
    assert found.missing[0].of == "rules"
    assert "4999" in found.missing[0].text
    before = len(list(live.rulebooks()))
    with pytest.raises(Invalid, match="4999"):
        live.apply_configuration(wrong, leave_missing=True)
    assert len(list(live.rulebooks())) == before
    draft = live.apply_configuration(wrong, leave_missing=True, publish=False)
    assert draft.rulebook == before + 1
    assert live.read().rulebook_in_force == before


def test_rules_made_for_other_ends_are_said_to_be(tried: World) -> None:
    """Kind, country and currency."""
    document = {**tried.calls.bridge(BRIDGE).configuration(), "books": "ledger", "country": "IE", "currency": "EUR"}
    said = [one.text for one in tried.calls.bridge(LIVE).compare_configuration(document).differences]
    assert said[:3] == [
        "It was made for another kind of books: ledger; here it is erp.",
        "It was made for another country: IE; here it is GB.",
        "It was made for another currency: EUR; here it is GBP.",
    ]


@pytest.mark.parametrize(("content", "said"), [
    (b"\xff", "The file is no JSON in UTF-8."),
    (b"[" * 200_000, "The file is no JSON in UTF-8."),
    (b"[]", "The file is no configuration"),
    (b'{"configuration": 1, "source": "web-shop", "books": "erp", "name": "a\\u0000b"}', "what no text may hold"),
    (b'{"configuration": 1, "source": "web-shop", "books": "erp", "rulebook": "\\ud800"}', "what no text may hold"),
    (b'{"configuration": 2, "source": "erp", "books": "erp"}', "/configuration"),
    (b'{"configuration": 1, "source": "web-shop", "books": "erp", "bases": {"../etc": "x"}}', "/bases"),
    (json.dumps({"configuration": 1, "source": "web-shop", "books": "erp",
                 "bases": {f"b{number}.yaml": "rulebook: 1" for number in range(21)}}).encode(), "/bases"),
    (b'{"configuration": 1, "source": "web-shop", "books": "erp", "timetable": '
     b'{"rule": "FREQ=SECONDLY", "time_zone": "UTC"}}', "/timetable: FREQ=MINUTELY or FREQ=DAILY"),
    (b'{"configuration": 1, "source": "web-shop", "books": "erp", "timetable": '
     b'{"rule": "FREQ=MINUTELY;INTERVAL=5", "time_zone": "Mars/Base"}}', "/timetable"),
    (b'{"configuration": 1, "source": "web-shop", "books": "erp", "timetable": '
     b'{"rule": "FREQ=MINUTELY;INTERVAL=0", "time_zone": "UTC"}}', "/timetable"),
])  # fmt: skip
def test_a_wrong_file_is_refused_and_changes_nothing(world: World, content: bytes, said: str) -> None:
    """With what is wrong, and where."""
    path = f"{world.stack.address}/api/v1/workspaces/{world.slug}/bridges/{LIVE}/configuration"
    for what in ("compare", "apply"):
        answer = HTTP.post(f"{path}/{what}", headers={"Authorization": f"Bearer {world.token}"},
                           files={"file": ("c.json", content)})  # fmt: skip
        assert answer.status_code == 422, answer.text
        assert said in answer.json()["detail"]
    assert world.calls.bridge(LIVE).read().timetable is None


@pytest.mark.parametrize("form", [{}, {"bridge": "no-such"}, {"bridge": "Not A Slug!"}])
def test_what_is_meant_must_be_said(world: World, form: dict[str, Any]) -> None:
    """A file, or a bridge of this workspace."""
    path = f"{world.stack.address}/api/v1/workspaces/{world.slug}/bridges/{LIVE}/configuration/compare"
    answer = HTTP.post(path, headers={"Authorization": f"Bearer {world.token}"}, data=form)
    assert answer.status_code in {400, 404}, answer.text


def test_who_applies_must_be_allowed_to_publish(stack: Stack, world: World) -> None:
    """Whoever may see may compare."""
    email = f"editor@{world.slug}.example"
    joined(world.calls, email=email, role="edit")
    token = Client(stack.address).make_token(email=email, password=PASSWORD, name="test")
    live = Client(stack.address, token=token).workspace(world.slug).bridge(LIVE)
    assert live.compare_configuration(BRIDGE).differences
    with pytest.raises(Forbidden, match="Publish rules"):
        live.apply_configuration(BRIDGE)
