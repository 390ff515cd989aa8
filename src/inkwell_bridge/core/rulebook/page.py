"""The rulebook's reference page, from its schema: every key with its meaning, where it is needed, its default, an
example and its findings."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Sequence
from typing import Any, NamedTuple

from inkwell_bridge.core.rulebook.levels import LEVELS
from inkwell_bridge.core.rulebook.schema import SCHEMA

_HEAD = """# Rulebook

YAML, described by the JSON Schema [`rulebook-1.schema.json`](../formats/rulebook-1.schema.json) (2020-12). Aliases,
tags and repeated keys are refused. Numbers are read as exact decimals; codes stand in quotes. This page is made from
the schema.

`based_on` names a rulebook that this one builds on: for the command line a file beside it, in the service one of the
client's base rulebooks, as it was when the rules were written. Groups are put together name by name; anything else said
here goes before what is said there, and a key with nothing behind it takes away what is said there. A cycle is refused.

**Conditions** (`only`, `when`) are expressions of the Common Expression Language, or a group of
`all`, `any` or `none` with a list of them. **Fields** (`from`, and what stands in braces in a `template`) are
expressions too. They see `order.number, channel, location, status, currency, country, customer_group, payment_terms,
treatment, placed_on, paid_on, dispatched_on, link, shipping_method, total, tax_total, shipping_total, discount_total,
paid_total, prices_include_tax, tags, attributes, lines, payments`,
`buyer.email, tax_number, company, language, town, region, postcode, is_guest`, and in lines and dimensions
`line.sku, barcode, title, product_type, nature, tax_class, location, unit, amount, properties`. Amounts are whole
numbers of the minor unit: 19.99 GBP is 1999. Names and types are checked when a rulebook is written.

"""
_SAID_OF_LEVELS = """What most orders have alike, some can have otherwise. Accounts, warehouses, dimensions, payment
terms and all other fields, and the document that an order becomes (`orders.become`, `orders.arrive`) take these tables
beside their default, and are asked in this order: the single order first, then its article, its buyer, and where and
how the sale was made; the default comes last. Tax codes know the same levels as `tax_codes.exceptions`, where the order
of the list counts, and a condition of `orders.instead` goes before every level. A line has one article. A setting of a
whole document (its terms, what it becomes) goes by the articles of all its lines; of several that a table names, as of
several tags, the first by the alphabet counts. An order beside the rules in the console, and `inkwell try`, show which
levels were asked and which one answered."""
_LEVELS = {f"by_{level}" for level in LEVELS}
_TABLE = "| key | meaning | needed | default | example | findings |\n|---|---|---|---|---|---|\n"


def page() -> str:
    """The page, in Markdown."""
    parts = [_HEAD]
    for name, schema in SCHEMA["properties"].items():
        below = list(_below(schema))
        whole = [] if below and "examples" not in schema else [_row(name, schema, _needed_at_top(name))]
        meaning = f"{schema['description']} {_said_of_group(name)}".strip()
        parts.append(_section(name, meaning, [*whole, *_rows(name, below)]))
    role = SCHEMA["properties"]["accounts"]["properties"]["sales"]
    field, condition = (list(_below(SCHEMA["$defs"][name])) for name in ("field", "condition"))
    tables = [_row(name, one, "") for name, one in role["oneOf"][1]["properties"].items() if name in _LEVELS]
    parts.append(_section("Settings on levels", _SAID_OF_LEVELS, tables))
    said = "A text that is always the same, or a group of these; settings on levels go before them."
    parts.append(_section("A field", said, _rows("", field)))
    parts.append(_section("A condition", "An expression, or a group of one of these.", _rows("", condition)))
    return "".join(parts).rstrip() + "\n"


def _section(name: str, meaning: str, rows: Iterable[str]) -> str:
    return f"## {name}\n\n{meaning}\n\n{_TABLE}{''.join(rows)}\n"


class _Key(NamedTuple):
    """A key of a group, and whether the group cannot do without it."""

    name: str
    schema: dict[str, Any]
    needed: bool


def _rows(at: str, below: Sequence[_Key]) -> Iterator[str]:
    """A row for each of these keys, then for those below it; what an account can be is told once."""
    for one in below:
        key = f"{at}.{one.name}".removeprefix(".")
        yield _row(key, one.schema, f"in `{at}`" if one.needed and at else "")
        if at != "accounts":
            yield from _rows(key, list(_below(one.schema)))


def _below(schema: dict[str, Any]) -> Iterator[_Key]:
    """The keys of a group, of the entries of a list of groups, or of the group that a key may be."""
    for shape in (schema, schema.get("items", {}), *schema.get("oneOf", [])):
        for name, one in shape.get("properties", {}).items():
            # What is the same for every setting is told once.
            if name not in _LEVELS:
                yield _Key(name, one, name in shape.get("required", ()))


def _needed_at_top(name: str) -> str:
    return "always" if name in SCHEMA["required"] else ""


def _said_of_group(name: str) -> str:
    """When a whole group must be there."""
    goes_with = [other for other, needs in SCHEMA["dependentRequired"].items() if name in needs]
    if goes_with:
        return f"Needed with `{'`, `'.join(goes_with)}`."
    either = [one["required"][0] for one in SCHEMA["anyOf"]]
    return f"A rulebook has `{'` or `'.join(either)}`." if name in either else ""


def _row(at: str, schema: dict[str, Any], needed: str) -> str:
    meaning = schema.get("description", "").replace("|", "\\|")
    default = f"`{_plain(schema['default'])}`" if "default" in schema else ""
    example = f"`{_plain(schema['examples'][0])}`" if schema.get("examples") else ""
    findings = ", ".join(schema.get("x-findings", ()))
    cells = (
        f"`{at}`",
        f"{meaning} {_takes(schema)}".strip(),
        needed,
        default,
        example.replace("|", chr(92) + "|"),
        findings,
    )
    return f"| {' | '.join(cells)} |\n"


def _takes(schema: dict[str, Any]) -> str:
    if "enum" in schema:
        return f"One of {', '.join(f'`{one}`' for one in schema['enum'])}."
    return ""


def _plain(value: Any) -> str:
    return value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
