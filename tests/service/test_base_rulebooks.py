"""What a client's rulebooks build on, and what a change of rules changes."""

from __future__ import annotations

import psycopg
import pytest

from inkwell_bridge.client import Invalid, NotFound
from tests.support.world import BRIDGE, World, invoices_alone, shop_order

FIRST = "MW-10003"
ON_BASE = (
    "rulebook: 1\nbased_on: client.yaml\n# What is said here goes before the base.\naccounts: {shipping: '4000'}\n"
)


@pytest.fixture
def based(world: World) -> World:
    """A client whose one bridge has a draft that builds on a base."""
    world.put_orders(shop_order(FIRST), reset=True)
    world.calls.write_base_rulebook("client.yaml", invoices_alone())
    world.calls.bridge(BRIDGE).write_rulebook(ON_BASE)
    return world


def test_a_bridges_rules_go_before_those_of_the_base(based: World) -> None:
    """Carriage goes where the bridge says, all else where the base says; the text is kept as it was written."""
    calls = based.calls.bridge(BRIDGE)
    draft = calls.rulebook(2)
    assert (draft.text, draft.findings) == (ON_BASE, [])
    assert [(layer.name, layer.number, layer.newest) for layer in draft.layers] == [("client.yaml", 1, 1)]
    assert [change.text for change in calls.rule_changes(2)] == [
        "based on: now 'client.yaml'; nothing was said before.",
        "accounts, shipping: was '4100', is '4000'.",
    ]
    calls.publish_rulebook(2)
    based.run()
    assert {line["account"] for line in based.invoices()[0]["lines"]} == {"4000", "8200"}


def test_a_new_base_changes_nothing_before_it_is_published(based: World) -> None:
    """What was written stays on the version it was written on; a redraft builds on the newest."""
    calls = based.calls.bridge(BRIDGE)
    calls.publish_rulebook(2)
    changed = invoices_alone().replace("standard: S20", "standard: S21")
    assert changed != invoices_alone()
    written = based.calls.write_base_rulebook("client.yaml", changed)
    (there,) = written.bridges
    assert (there.bridge, there.rulebook, there.on, there.published, there.errors) == (BRIDGE, 2, 1, True, 0)
    assert [(layer.number, layer.newest) for layer in calls.rulebook(2).layers] == [(1, 2)]
    based.run()
    assert {line["tax_code"] for line in based.invoices()[0]["lines"]} == {"S20", "OUT"}

    (again,) = based.calls.write_base_rulebook("client.yaml", changed, redraft=True).bridges
    assert (again.rulebook, again.on, again.published, again.errors) == (3, 3, False, 1)
    (finding,) = calls.rulebook(3).findings
    assert finding.text.startswith("client.yaml, line ")
    assert "tax code S21 is not in the books" in finding.text
    assert calls.rulebook(3).text == ON_BASE
    assert calls.read().rulebook_in_force == 2


def test_a_base_that_is_not_there_is_named(world: World) -> None:
    """With the line that asks for it."""
    with pytest.raises(Invalid) as caught:
        world.calls.bridge(BRIDGE).write_rulebook("rulebook: 1\nbased_on: clent.yaml\n", file="uk.yaml")
    (item,) = caught.value.problem.errors
    assert (item.line, item.detail) == (2, "uk.yaml, line 2: there is no rulebook 'clent.yaml' to build on")
    with pytest.raises(NotFound):
        world.calls.base_rulebook("clent.yaml")


@pytest.mark.parametrize(
    ("text", "line", "told"),
    [
        ("rulebook: 1\nordes: {}\n", 2, "the key 'ordes' is not known here"),
        ("rulebook: 1\norders: {arrive: someday}\n", 2, "expected one of posted, draft, got 'someday'"),
        ("rulebook: 1\nbased_on: client.yaml\n", 2, "'client.yaml' builds on itself"),
        ("rulebook: [1\n", 2, "expected"),
    ],
)
def test_a_base_may_lack_much_and_holds_nothing_wrong(based: World, text: str, line: int, told: str) -> None:
    """Each line must be able to stand in a rulebook; nothing is kept of one that is wrong."""
    with pytest.raises(Invalid) as caught:
        based.calls.write_base_rulebook("client.yaml", text)
    (item,) = caught.value.problem.errors
    assert (item.line, told in str(item.detail)) == (line, True), item.detail
    assert [(one.name, one.number) for one in based.calls.base_rulebooks()] == [("client.yaml", 1)]


def test_a_base_may_build_on_another(based: World) -> None:
    """The nearest goes before."""
    based.calls.write_base_rulebook("shops.yaml", "rulebook: 1\nbased_on: client.yaml\naccounts: {shipping: '4010'}\n")
    text = "rulebook: 1\nbased_on: shops.yaml\n"
    written = based.calls.bridge(BRIDGE).write_rulebook(text)
    assert [layer.name for layer in written.layers] == ["shops.yaml", "client.yaml"]
    changes = based.calls.bridge(BRIDGE).rule_changes(written.number, since=2)
    assert [change.text for change in changes if "shipping" in change.text] == [
        "accounts, shipping: was '4000', is '4010'."
    ]


def test_the_database_keeps_a_base_as_it_was_written(based: World) -> None:
    """What rules were made under stays provable."""
    with (
        psycopg.connect(based.stack.environment["DATABASE_URL"]) as db,
        pytest.raises(psycopg.errors.RaiseException, match="kept as it was written"),
    ):
        db.execute("UPDATE bridges_baserulebook SET text = 'x'")


def test_a_name_is_plain(world: World) -> None:
    """It stands in addresses and files."""
    with pytest.raises(Invalid):
        world.calls.write_base_rulebook("../client.yaml", "rulebook: 1\n")


def test_a_base_is_edited_value_by_value_and_says_whom_a_change_reaches(based: World) -> None:
    """A comment stays; a bridge that says the same key itself is named with what it says; nothing is kept."""
    text = invoices_alone().replace('  shipping: "4100"', '  shipping: "4100"   # agreed')
    put = {"op": "replace", "path": "/accounts/shipping", "value": "4200"}
    edited = based.calls.edit_base_rulebook("client.yaml", text, [put])
    assert edited.text == text.replace('"4100"   # agreed', '"4200"   # agreed')
    assert edited.values is not None
    assert (edited.values["accounts"]["shipping"], edited.inherited, edited.findings) == ("4200", None, [])
    (bridge,) = edited.bridges
    assert bridge.bridge == BRIDGE
    assert bridge.values is not None
    assert bridge.values["accounts"] == {"shipping": "4000"}
    wrong = based.calls.edit_base_rulebook("client.yaml", text, [{**put, "path": "/orders/become", "value": "poem"}])
    (finding,) = wrong.findings
    assert (finding.id, finding.at) == ("RULE-E003", "/orders/become")
    # One that does not exist yet can be written by fields as well, and nobody builds on it.
    assert based.calls.edit_base_rulebook("other.yaml", "rulebook: 1\n").bridges == []
    with pytest.raises(Invalid):
        based.calls.edit_base_rulebook("client.yaml", "rulebook: [1\n")
    assert based.calls.base_rulebook("client.yaml").number == 1


def test_an_edit_of_a_bridges_rules_tells_what_they_inherit(based: World) -> None:
    """Beside what they say themselves, and what both say together."""
    edited = based.calls.bridge(BRIDGE).edit_rulebook(ON_BASE)
    assert edited.values == {"rulebook": 1, "based_on": "client.yaml", "accounts": {"shipping": "4000"}}
    assert edited.inherited is not None
    assert edited.effective is not None
    assert edited.inherited["accounts"]["shipping"] == "4100"
    assert edited.effective["accounts"]["shipping"]["default"] == "4000"
    assert based.calls.bridge(BRIDGE).edit_rulebook(invoices_alone()).inherited is None
