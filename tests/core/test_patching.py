"""A rulebook changed by a patch: the values are those that the patch asked for, and all else in the text stays."""

from __future__ import annotations

from copy import deepcopy
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from inkwell_bridge.core.rulebook.patching import NotPatched, Operation, patched
from inkwell_bridge.core.rulebook.yaml_lines import read_with_lines
from inkwell_bridge.demo.facts import rulebook_text

WEB_SHOP = rulebook_text("web-shop-to-uk-books")


def put(path: str, value: Any) -> Operation:
    """To set a value."""
    return Operation(op="replace", path=path, value=value)


def line_of(text: str, pointer: str) -> str:
    """The line that a pointer stands on."""
    return text.splitlines()[read_with_lines(text)[1][pointer] - 1]


@pytest.mark.parametrize(
    ("operations", "gone", "new"),
    [
        ([put("/accounts/sales", "4010")], ['  sales: "4000"'], ['  sales: "4010"']),
        (
            [put("/accounts/sales", {"default": "4000", "by_country": {"NO": "4030"}})],
            ['  sales: "4000"'],
            ["  sales:", '    default: "4000"', "    by_country:", '      "NO": "4030"'],
        ),
        ([Operation(op="add", path="/tax_codes/by_class/reduced", value="S05")], [], ["    reduced: S05"]),
        (
            [Operation(op="add", path="/tax_codes/exceptions/0", value={"country": "DE", "code": "DE19"})],
            [],
            ["    - {country: DE, code: DE19}"],
        ),
        ([put("/orders/statuses", ["paid"])], ["  statuses: [paid, completed]"], ["  statuses: [paid]"]),
        (
            [Operation(op="remove", path="/tax_codes/exceptions/0")],
            ["  exceptions:", "    - {treatment: reverse charge, code: R00}"],
            ["  exceptions: []"],
        ),
        (
            [put("/tax_codes/as_lines/0", "us")],
            ["  as_lines: [us-sales]          # state, county and city tax, each on a line of its own"],
            ["  as_lines: [us]          # state, county and city tax, each on a line of its own"],
        ),
        (
            [put("/payments/accounts/by_method/gift card", "23")],
            ['      gift card: "2310"         # what was a debt when the card was sold is paid back with it'],
            ['      gift card: "23"           # what was a debt when the card was sold is paid back with it'],
        ),
        ([put("/penny/allowance", Decimal("0.10"))], ["  allowance: 0.05"], ["  allowance: 0.10"]),
        (
            [Operation(op="add", path="/fields", value={"terms": "NET30", "text": 'a "b"'})],
            [],
            ["", "fields:", "  terms: NET30", '  text: "a \\"b\\""'],
        ),
        ([Operation(op="remove", path="/refunds")], ["refunds:", "  arrive: posted", ""], []),
    ],
)
def test_only_the_lines_that_say_it_change(operations: list[Operation], gone: list[str], new: list[str]) -> None:
    """All other lines are as they were, and in their order."""
    before, after = WEB_SHOP.splitlines(), patched(WEB_SHOP, operations).splitlines()
    same = 0
    while same < min(len(before), len(after)) and before[same] == after[same]:
        same += 1
    tail = 0
    while tail < min(len(before), len(after)) - same and before[-1 - tail] == after[-1 - tail]:
        tail += 1
    # Equal lines side by side may be counted on either end.
    assert sorted(before[same : len(before) - tail]) == sorted(gone)
    assert sorted(after[same : len(after) - tail]) == sorted(new)


def test_a_group_that_is_replaced_keeps_the_comments_of_what_stays() -> None:
    """Only what differs is exchanged."""
    wanted = {"card": "1251", "bank": "1200", "gift card": "2310", "cheque": "1260"}
    text = patched(WEB_SHOP, [put("/payments/accounts/by_method", wanted)])
    assert read_with_lines(text)[0]["payments"]["accounts"]["by_method"] == wanted
    assert "# what was a debt when the card was sold is paid back with it" in line_of(
        text, "/payments/accounts/by_method/gift card"
    )


def test_an_entry_is_moved_with_all_that_it_says() -> None:
    """The order of a list can matter, and is changed by moving."""
    text = "list:\n  - {a: 1}\n  # the second\n  - b: 2\n    c: 3   # three\n  - {d: 4}\n"
    moved = patched(text, [Operation(op="move", from_path="/list/1", path="/list/0")])
    assert read_with_lines(moved)[0] == {"list": [{"b": 2, "c": 3}, {"a": 1}, {"d": 4}]}
    assert "# the second" in moved


@pytest.mark.parametrize(
    ("operation", "at"),
    [
        (Operation(op="remove", path="/accounts/nothing"), "/accounts/nothing"),
        (Operation(op="remove", path="/orders/statuses/2"), "/orders/statuses/2"),
        (Operation(op="remove", path=""), ""),
        (put("/orders/statuses/x", "paid"), "/orders/statuses/x"),
        (put("/no/where/at/all", 1), "/no/where/at/all"),
        (put("/name/below", 1), "/name/below"),
        (Operation(op="move", from_path="/none", path="/name"), "/none"),
    ],
)
def test_a_pointer_that_leads_nowhere_is_refused(operation: Operation, at: str) -> None:
    """With the pointer; nothing is changed."""
    with pytest.raises(NotPatched) as caught:
        patched(WEB_SHOP, [operation])
    assert caught.value.at == at


def test_what_cannot_be_changed_without_harm_is_refused() -> None:
    """Lists begun on one line are right YAML, and nothing that this can add to at the front."""
    text = "a:\n  - - 1\n    - 2\n"
    with pytest.raises(NotPatched, match="change it in the text"):
        patched(text, [Operation(op="add", path="/a/0/0", value=0)])
    assert patched(text, [Operation(op="remove", path="/a/0/0")]) == "a:\n  - - 2\n"


def test_too_much_at_a_time_is_refused() -> None:
    """The text is read for each operation."""
    with pytest.raises(NotPatched, match="at most 26 operations"):
        patched(f"name: {'a' * 190_000}\n", [put("/name", "b")] * 30)


NAMES = st.sampled_from(["a", "b", "c d", "no", "12", "x/y", "~", "é", "true", "#", "- z"])
SCALARS = st.one_of(
    st.integers(-10, 10**6),
    st.booleans(),
    st.decimals(-100, 100, places=2),
    st.none(),
    st.text(st.characters(exclude_categories=["Cs", "Cc"]), max_size=12),
    st.sampled_from(
        ["4000", "no", "2026-10-01", "1:30", "a: b", "a #b", " x ", "'", '"', "multi\nline", "\x85", "{", "~"]
    ),
)
VALUES = st.recursive(
    SCALARS, lambda inner: st.lists(inner, max_size=3) | st.dictionaries(NAMES, inner, max_size=3), max_leaves=6
)
SPELLINGS = ("1", "word", '"4000"', "'x'", "0.05", "two words")


@st.composite
def texts(draw: st.DrawFn) -> str:
    """A group in many spellings, with a comment on each line that can have one."""
    lines: list[str] = []

    def add(line: str) -> None:
        lines.append(f"{line}  # c{len(lines)}" if draw(st.booleans()) else line)

    for name in draw(st.lists(st.sampled_from("pqrstuvw"), min_size=1, max_size=5, unique=True)):
        if draw(st.booleans()):
            lines.append(f"# above {name}")
        kind = draw(st.sampled_from(["scalar", "group", "list", "flow", "list of groups", "folded", "empty"]))
        if kind == "scalar":
            add(f"{name}: {draw(st.sampled_from(SPELLINGS))}")
        elif kind == "group":
            add(f"{name}:")
            for below in draw(st.lists(st.sampled_from("abcd"), min_size=1, max_size=3, unique=True)):
                add(f"  {below}: {draw(st.sampled_from(['1', 'w', '[a, b]', '{a: 1, b: {c: 2}}']))}")
        elif kind == "list":
            add(f"{name}:")
            for _ in range(draw(st.integers(1, 3))):
                add(f"  - {draw(st.sampled_from(['1', 'w', '[a, b]', '{a: 1}']))}")
        elif kind == "list of groups":
            add(f"{name}:")
            for _ in range(draw(st.integers(1, 2))):
                add("- a: 1")
                add("  b: [x]")
        elif kind == "flow":
            add(f"{name}: {draw(st.sampled_from(['{a: 1, b: [1, 2]}', '[]', '{}', '[a, {b: 1}]']))}")
        elif kind == "folded":
            lines.extend([f"{name}: >", "  some text", "  that goes on"])
        else:
            add(f"{name}:")
    return "\n".join(lines) + ("\n" if draw(st.booleans()) else "")


def pointers(values: Any, at: str = "") -> list[str]:
    """Every pointer into these values, the whole left out."""
    below = values.items() if isinstance(values, dict) else enumerate(values) if isinstance(values, list) else ()
    found: list[str] = []
    for name, value in below:
        here = f"{at}/{str(name).replace('~', '~0').replace('/', '~1')}"
        found += [here, *pointers(value, here)]
    return found


def applied(values: Any, operation: Operation) -> Any:
    """RFC 6902 in a few lines, apart from the program's own."""
    values = deepcopy(values)
    *above, last = [one.replace("~1", "/").replace("~0", "~") for one in operation.path.split("/")[1:]]
    there = values
    for name in above:
        there = there[int(name)] if isinstance(there, list) else there[name]
    if operation.op == "remove":
        del there[int(last) if isinstance(there, list) else last]
    elif isinstance(there, list) and operation.op == "add":
        there.insert(len(there) if last == "-" else int(last), operation.value)
    else:
        there[int(last) if isinstance(there, list) else last] = operation.value
    return values


@settings(max_examples=400)
@given(texts(), st.data())
def test_whatever_is_patched_says_so_and_keeps_the_rest(text: str, data: st.DataObject) -> None:
    """Any values, any order of operations: the values are the patch's, the comments of what was not named stay."""
    for _ in range(data.draw(st.integers(1, 4))):
        values, lines = read_with_lines(text)
        there = pointers(values)
        if not there:
            return
        path = data.draw(st.sampled_from(there))
        op = data.draw(st.sampled_from(["replace", "remove", "add"]))
        if op == "add":
            group = applied({"at": values}, put("/at", values))["at"]
            for part in path.split("/")[1:]:
                part = part.replace("~1", "/").replace("~0", "~")
                group = group[int(part)] if isinstance(group, list) else group[part]
            if isinstance(group, list):
                path = f"{path}/{data.draw(st.sampled_from(['-', '0']))}"
            elif isinstance(group, dict):
                path = f"{path}/new"
            else:
                op = "replace"
        if op == "remove" and path.count("/") == 1 and len(values) == 1:
            return
        operation = Operation(op=op, path=path, value=None if op == "remove" else data.draw(VALUES))
        before = text.splitlines()
        text = patched(text, [operation])
        changed, _ = read_with_lines(text)
        assert changed == applied(values, operation)
        in_list = any(part.isdecimal() or part == "-" for part in path.split("/"))
        for pointer, line in lines.items():
            # Where a place of a list goes or comes, those behind it have other pointers.
            if in_list or pointer == path or pointer.startswith(f"{path}/") or path.startswith(f"{pointer}/"):
                continue
            comment = before[line - 1].partition("  # ")[2]
            if comment and pointer:
                # One line can bear several values; its comment stays as long as one of them does.
                assert comment in text or any(path.startswith(other) for other, at in lines.items() if at == line)
        for line in before:
            if line.startswith("# above"):
                assert line in text.splitlines()


def test_a_group_of_too_many_values_is_refused() -> None:
    """One operation can exchange thousands of values, each of which the text is read for."""
    many = {f"class {number}": "S20" for number in range(20_000)}
    with pytest.raises(NotPatched, match="too many values at a time"):
        patched(WEB_SHOP, [put("/tax_codes/by_class", many)])
    rows = {f"class {number}": "S20" for number in range(300)}
    assert read_with_lines(patched(WEB_SHOP, [put("/tax_codes/by_class", rows)]))[0]["tax_codes"]["by_class"] == rows
