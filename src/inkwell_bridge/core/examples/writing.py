"""What was learnt, as the text of a rulebook: each choice with the examples that speak for it and against it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from inkwell_bridge.core.books import MasterData
from inkwell_bridge.core.examples.learning import Learnt
from inkwell_bridge.core.rulebook.accounts import ALLOWED_TYPES
from inkwell_bridge.core.rulebook.proposing import account_of_role
from inkwell_bridge.core.rulebook.starter import MARK, UNKNOWN
from inkwell_bridge.core.rulebook.yaml_writing import commented, flow, scalar

# Without these no rulebook is one: where no example tells them they are proposed by name, and say so.
_NEEDED = (("accounts", "sales"), ("accounts", "shipping"), ("accounts", "rounding"), ("tax_codes", "outside"))
_SECTIONS = ("orders", "customers", "items", "accounts", "tax_codes", "payments", "fields", "dimensions", "warehouses")


def text_of(name: str, learnt: Sequence[Learnt], books: MasterData, *, head: Sequence[str]) -> str:
    """The rulebook in YAML; ``head`` are comments to stand first."""
    lines = [*(f"# {line}" for line in head), "rulebook: 1", f"name: {scalar(name)}"]
    for section in _SECTIONS:
        rules = [_needed(one, books) for one in learnt if one.at[0] == section]
        if rules:
            lines += ["", *_group(section, rules, 0)]
    lines += ["", "refunds:", commented("arrive", "posted", "no example tells it", indent=2)]
    lines += ["", "penny:", commented("allowance", "0.05", "no example tells it", indent=2)]
    lines += [commented("goes_to", "rounding account", "no example tells it", indent=2)]
    return "\n".join(lines) + "\n"


def _needed(rule: Learnt, books: MasterData) -> Learnt:
    """A rule that must be there, by its name where no example has one."""
    if rule.value is not None or rule.at not in _NEEDED:
        return rule
    if rule.at[0] == "tax_codes":
        outside = next((code for code in books.tax_codes if code.outside), None)
        code, called = (outside.code, outside.name) if outside else (UNKNOWN, "name the code for what bears no tax")
    else:
        role = rule.at[1]
        found = account_of_role(role, books.accounts)
        types = " or ".join(sorted(ALLOWED_TYPES[role]))
        code, called = (found.code, found.name) if found else (UNKNOWN, f"name an account of type {types}")
    return rule._replace(value=code, note=f"{rule.note}; by its name: {called}")


def _group(name: str, rules: Sequence[Learnt], depth: int) -> Iterator[str]:
    """The lines under one key; what lies below it in ``rules`` begins at ``depth`` + 1 of their keys."""
    below = depth + 1
    if len(rules) == 1 and len(rules[0].at) == below:
        yield _leaf(name, rules[0], depth)
        return
    if all(rule.value is None for rule in rules):
        # Of a group in which everything is open only comments would be left, which YAML takes for nothing at all.
        yield f"{'  ' * depth}# {scalar(name)}:"
    else:
        yield f"{'  ' * depth}{scalar(name)}:"
    names = dict.fromkeys(rule.at[below] for rule in rules)
    listed = all(isinstance(rule.value, dict) and len(rule.at) == below + 1 for rule in rules)
    for key in names:
        some = [rule for rule in rules if rule.at[below] == key]
        if listed:
            yield commented("", f"- {flow(some[0].value)}", _why(some[0]), indent=2 * below)
        else:
            yield from _group(key, some, below)


def _leaf(name: str, rule: Learnt, depth: int) -> str:
    if rule.value is None:
        return commented(f"# {scalar(name)}", '"..."', rule.note, indent=2 * depth)
    return commented(scalar(name), flow(rule.value), _why(rule), indent=2 * depth)


def _why(rule: Learnt) -> str:
    if rule.supported is None:
        return f"{MARK}: {rule.note}"
    examples = "1 example" if rule.supported == 1 else f"{rule.supported} examples"
    against = f", {rule.contradicted} against" if rule.contradicted else ""
    note = f"; {rule.note}" if rule.note else ""
    return f"{MARK}: {examples}{against}{note}"
