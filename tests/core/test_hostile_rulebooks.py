"""Rulebooks that mean harm, or are merely wrong: refused with their line, before anything was worked out by them."""

from __future__ import annotations

import pytest

from inkwell_bridge.core.planner import Outcome, plan_order
from inkwell_bridge.core.rulebook import read
from inkwell_bridge.core.rulebook.invalid import RulebookInvalid
from tests.core.test_cases import BASE, context, order

HEAD = "rulebook: 1\nbased_on: base.yaml\n"


def refused(text: str, **others: str) -> list[tuple[str, int | None, str]]:
    """Id, line and text of everything found."""
    files = {"base.yaml": BASE, **others}
    with pytest.raises(RulebookInvalid) as caught:
        read(text, file="rules.yaml", base=files.get)
    return [(finding.id, finding.line, finding.text) for finding in caught.value.findings]


@pytest.mark.parametrize(("condition", "said"), [
    ("order.totl > 5", "undeclared reference to 'order.totl' (character 6)"),
    ("order.total > 'five'", "found no matching overload for '_>_' applied to '(int, string)'"),
    ("order.total > 19.99", "expected no number with a point"),
    ("order.total >", "Syntax error"),
    ("order.total", "expected an expression that is true or false, got a number"),
    ("[order.total]", "expected true or false, a text, or a whole number"),
    ("(" * 200 + "true" + ")" * 200, "nested too deeply"),
    ("true" + " && true" * 200, "expected at most 1000 characters, got 1604"),
    ("open('/etc/passwd')", "undeclared reference to 'open'"),
    ("line.sku == 'X'", "undeclared reference to 'line.sku'"),
])  # fmt: skip
def test_an_expression_that_cannot_be_used(condition: str, said: str) -> None:
    """A wrong name, type or syntax; too deep, too long, or of another world."""
    text = f'{HEAD}orders:\n  statuses: [paid]\n  only: "{condition}"\n'
    ((code, line, told),) = refused(text)
    assert (code in {"RULE-E005", "RULE-E003"}, line) == (True, 5)
    assert said in told


def test_a_near_name_is_suggested() -> None:
    """Of what an expression may name."""
    with pytest.raises(RulebookInvalid) as caught:
        read(f"{HEAD}orders:\n  statuses: [paid]\n  only: order.totl > 5\n", base=lambda name: BASE)
    assert caught.value.findings[0].hint == "Did you mean 'order.total'?"


def test_an_expression_that_would_take_for_ever_comes_to_nothing() -> None:
    """Three rounds over a long list each within the other: bounded, and told as not worked out."""
    rounds = "order.lines.all(a, order.lines.all(b, order.lines.all(c, a.amount + b.amount + c.amount >= 0)))"
    book = read(f"{HEAD}orders:\n  statuses: [paid]\n  only: {rounds}\n", base=lambda name: BASE)[0].for_orders
    given = order({"lines": [{"sum": "12.00", "tax": "2.00"}] * 400})
    found = plan_order(given, context({}).model_copy(update={"rulebook": book}))
    assert (found.outcome, found.findings[0].id) == (Outcome.HOLD, "RULE-E006")


def test_a_cycle_of_rulebooks_is_refused() -> None:
    """Each builds on the other."""
    ((code, line, told),) = refused("rulebook: 1\nbased_on: a.yaml\n", **{"a.yaml": "based_on: b.yaml\n",
                                                                         "b.yaml": "based_on: a.yaml\n"})  # fmt: skip
    assert (code, line) == ("RULE-E007", 1)
    assert told.startswith("b.yaml, line 1: 'a.yaml' builds on itself")


def test_too_many_layers_are_refused() -> None:
    """Six on each other."""
    layers = {f"{number}.yaml": f"based_on: {number + 1}.yaml\n" for number in range(9)}
    ((code, _, told),) = refused("rulebook: 1\nbased_on: 0.yaml\n", **layers)
    assert (code, "more than 5 rulebooks" in told) == ("RULE-E007", True)


def test_a_rulebook_to_build_on_that_is_not_there() -> None:
    """With the line that names it."""
    assert refused("rulebook: 1\nbased_on: nowhere.yaml\n") == [
        ("RULE-E008", 2, "rules.yaml, line 2: there is no rulebook 'nowhere.yaml' to build on")
    ]


def test_an_error_below_names_the_file_below() -> None:
    """The line is that of the file in which it stands."""
    below = BASE.replace("{arrive: posted}", "{arrive: soon}")
    ((code, line, told),) = refused("rulebook: 1\nbased_on: a.yaml\n", **{"a.yaml": below})
    assert code == "RULE-E003"
    assert told.startswith(f"a.yaml, line {line}: /refunds/arrive: expected one of posted, draft, got 'soon'")


def test_what_is_said_above_goes_before_what_is_said_below() -> None:
    """Groups are put together, lists and codes are not; and nothing takes away."""
    text = f'{HEAD}orders:\n  statuses: [shipped]\naccounts:\n  sales: "4010"\n  tips:\n'
    book = read(text, base=lambda name: BASE)[0].for_orders
    assert book.orders.statuses == ("shipped",)
    assert (book.accounts.sales.default, book.accounts.shipping.default, book.accounts.tips) == ("4010", "4100", None)


@pytest.mark.parametrize("text", [
    "a: &a [1]\n" + "".join(f"b{number}: &b{number} [*a, *a]\n" for number in range(9)),
    "x: " + "[" * 50_000,
    "rulebook: 1\n" * 20_000,
    "orders: {statuses: [" + "paid, " * 40_000 + "]}",
    "\x00rulebook: 1",
])  # fmt: skip
def test_a_file_that_would_grow_is_not_read(text: str) -> None:
    """Aliases, depth, length, repeats, control characters."""
    assert all(line for _, line, _ in refused(text))


def test_tax_cannot_wait_for_a_delivery_that_no_rule_tells_of() -> None:
    """Each of the two rules is right by itself."""
    text = f"{HEAD}orders:\n  statuses: [paid]\n  deposits: taxed when delivered\n"
    ((code, line, told),) = refused(text)
    assert (code, line) == ("RULE-E009", text.splitlines().index("  deposits: taxed when delivered") + 1)
    assert told.endswith("the tax of what is paid ahead waits for its delivery, and no rule says when that is")


def test_a_file_of_too_many_parts_is_refused_at_once() -> None:
    """It has the length of a long one, and a hundred times its parts."""
    ((code, line, told),) = refused(HEAD + "x: [" + "1," * 60_000 + "1]\n")
    assert (code, line) == ("RULE-E001", HEAD.count("\n") + 1)
    assert told.endswith("the file has more than 20,000 keys and values")


def test_of_a_thousand_mistakes_the_first_are_named() -> None:
    """And the others counted."""
    text = HEAD + "".join(f"wrong{number}: 1\n" for number in range(1_000))
    with pytest.raises(RulebookInvalid, match="800 more are not named; correct these first") as caught:
        read(text, file="rules.yaml", base={"base.yaml": BASE}.get)
    assert len(caught.value.findings) == 200
