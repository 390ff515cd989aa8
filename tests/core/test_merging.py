"""What two people wrote on one version, put together."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from inkwell_bridge.core.rulebook.merging import merged
from inkwell_bridge.core.rulebook.patching import Operation, patched
from inkwell_bridge.core.rulebook.yaml_lines import read_with_lines
from inkwell_bridge.demo.facts import rulebook_text

TEXT = rulebook_text("web-shop-to-uk-books")


def put(path: str, value: object) -> str:
    """The rules with one value set."""
    return patched(TEXT, [Operation(op="replace", path=path, value=value)])


def test_changes_of_other_values_stand_side_by_side() -> None:
    """With the comments of whoever wrote first."""
    theirs = put("/accounts/shipping", "4200").replace("# The rules", "# Agreed. The rules")
    both = merged(TEXT, put("/tax_codes/by_class/reduced", "R05"), theirs)
    assert both.conflicts == ()
    assert both.text == theirs.replace("    us-sales: X00\n", "    us-sales: X00\n    reduced: R05\n")


def test_what_both_changed_otherwise_is_named_and_stays_theirs() -> None:
    """Also where one of both made a group of it."""
    both = merged(TEXT, put("/accounts/shipping", "4300"), put("/accounts/shipping", "4200"))
    assert both == (put("/accounts/shipping", "4200"), ("/accounts/shipping",))
    group = {"default": "4100", "by_country": {"US": "4200"}}
    assert merged(TEXT, put("/accounts/shipping", "4300"), put("/accounts/shipping", group)).conflicts == (
        "/accounts/shipping",
    )


def test_the_same_change_is_none_to_ask_about() -> None:
    """Both added the same code."""
    one = put("/tax_codes/by_class/reduced", "R05")
    assert merged(TEXT, one, one) == (one, ())


def test_a_list_is_one_value_where_both_changed_it() -> None:
    """Its places mean something else after each change; where one alone did, it is taken."""
    mine, theirs = put("/orders/statuses", ["paid"]), put("/orders/statuses", ["paid", "completed", "sent"])
    assert merged(TEXT, mine, theirs) == (theirs, ("/orders/statuses",))
    assert read_with_lines(merged(TEXT, mine, TEXT).text)[0]["orders"]["statuses"] == ["paid"]


PATHS = st.sampled_from(["/accounts/sales", "/accounts/tips", "/tax_codes/by_class/zero", "/tax_codes/by_class/new",
                         "/orders/become", "/penny/goes_to", "/orders/statuses"])  # fmt: skip
CHANGES = st.dictionaries(PATHS, st.sampled_from("abc"), max_size=4)


@settings(max_examples=100)
@given(CHANGES, CHANGES)
def test_each_value_is_that_of_who_changed_it(mine: dict[str, str], theirs: dict[str, str]) -> None:
    """Where both did, theirs; and it is named unless they agree."""

    def with_all(changes: dict[str, str]) -> str:
        return patched(TEXT, [Operation(op="replace", path=path, value=value) for path, value in changes.items()])

    both = merged(TEXT, with_all(mine), with_all(theirs))
    assert read_with_lines(both.text)[0] == read_with_lines(with_all({**mine, **theirs}))[0]
    assert set(both.conflicts) == {path for path in mine.keys() & theirs.keys() if mine[path] != theirs[path]}


def test_more_than_a_person_could_look_at_stays_theirs() -> None:
    """Every section that was changed is named."""
    many = "\n".join(f'    class {number}: "S20"' for number in range(9_000))
    mine = TEXT.replace("    standard: S20\n", f"    standard: S20\n{many}\n").replace('"4100"', '"4200"')
    assert merged(TEXT, mine, TEXT) == (TEXT, ("/accounts", "/tax_codes"))
