"""Reading a rulebook file: every error with its line and what was expected there."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from copy import deepcopy
from decimal import Decimal
from functools import cache
from typing import Any

from jsonschema import Draft202012Validator
from jsonschema.exceptions import ValidationError

from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.json_pointer import escaped, parts_of
from inkwell_bridge.core.rulebook.expressions import wrong_expressions
from inkwell_bridge.core.rulebook.invalid import RulebookInvalid
from inkwell_bridge.core.rulebook.model import Rulebook
from inkwell_bridge.core.rulebook.near import near_miss
from inkwell_bridge.core.rulebook.schema import SCHEMA
from inkwell_bridge.core.rulebook.source_map import SourceMap
from inkwell_bridge.core.rulebook.yaml_lines import NotYaml, read_with_lines

BASED_ON = "based_on"
MOST_LAYERS = 5
# What a rulebook that others build on may be called; never a path.
BASE_NAME = r"^[a-z0-9][a-z0-9._-]{0,99}$"
# Answers the text of the rulebook that another builds on; nothing where there is none of that name.
Base = Callable[[str], str | None]
# Of so many shapes that would do people are told; the reference has the rest.
_MOST_SHAPES = 5
_TYPE_NAMES = {
    "object": "a group of named values",
    "array": "a list",
    "string": "text",
    "number": "a number",
    "integer": "a whole number",
    "boolean": "true or false",
}


def nothing_below(name: str) -> str | None:
    """Where no rulebook can build on another."""
    return None


def read(text: str, *, file: str = "rulebook.yaml", base: Base = nothing_below) -> tuple[Rulebook, SourceMap]:
    """Read a rulebook with those that it builds on; also answers where each of its JSON Pointers stands.

    Raises:
        RulebookInvalid: with one finding per error, in the order of the file's lines.
    """
    data, source_map = _layered(text, file, base, ())
    findings = list(_schema_findings(data, source_map))
    # A misspelt key hides nothing: without it the rest is read as far as it can be.
    pruned = _without(data, [one.at for one in findings if one.id == "RULE-E002"]) if findings else data
    if any(one.id != "RULE-E002" for one in findings) or (findings and any(_schema_findings(pruned, source_map))):
        raise RulebookInvalid(_in_file_order(findings))
    try:
        book = Rulebook.read(pruned)
    except DocumentInvalid as error:
        findings.append(_finding("RULE-E004", source_map, error.expected, error.at))
        raise RulebookInvalid(_in_file_order(findings)) from error
    findings += [_finding("RULE-E005", source_map, said, at, hint) for at, said, hint in wrong_expressions(book)]
    findings += _contradictions(book, source_map)
    if findings:
        raise RulebookInvalid(_in_file_order(findings), without_unknown=(book, source_map))
    return book, source_map


def inherited(text: str, *, base: Base = nothing_below) -> Any:
    """What the rulebooks say that a text builds on, all of them together; nothing where it builds on none.

    Raises:
        RulebookInvalid: it is no YAML, or what it builds on cannot be found.
    """
    name = _named_base(values_of(text))
    if name is None:
        return None
    source_map = SourceMap.of_file({}, "rulebook.yaml")
    return _layered(_base_of(name, base, source_map), name, base, (name,))[0]


def values_of(text: str, *, file: str = "rulebook.yaml") -> Any:
    """What a text says as plain values, be it a rulebook or not.

    Raises:
        RulebookInvalid: it is no YAML, with the line from which on it cannot be read.
    """
    return _read(text, file)[0]


def _in_file_order(findings: Sequence[Finding]) -> tuple[Finding, ...]:
    return tuple(sorted(findings, key=lambda finding: (finding.line or 0, finding.text)))


def _without(data: Any, pointers: Sequence[str]) -> Any:
    """The values without the keys at these pointers."""
    left = deepcopy(data)
    for pointer in pointers:
        *way, last = parts_of(pointer)
        there = left
        for part in way:
            there = there[int(part)] if isinstance(there, list) else there.get(part, {})
        if isinstance(there, dict):
            there.pop(last, None)
    return left


def _contradictions(book: Rulebook, source_map: SourceMap) -> Iterator[Finding]:
    """Rules that are each right, and do not go together."""
    rules = book.orders
    if rules is not None and rules.deposits == "taxed when delivered" and rules.delivered is None:
        text = "the tax of what is paid ahead waits for its delivery, and no rule says when that is"
        yield _finding("RULE-E009", source_map, text, "/orders/deposits", "Add orders: delivered, with its condition.")
    if rules is None:
        return
    if rules.currencies == "converted" and book.exchange_rates is None:
        text = "orders cross in the company's own currency, and no rule says where their rates come from"
        yield _finding("RULE-E010", source_map, text, "/orders/currencies", "Add exchange_rates: taken_from.")
    # Money comes at another rate than its invoice sooner or later, and then there is no time to look for an account.
    paid = book.exchange_rates is not None and rules.currencies != "own" and book.payments is not None
    if paid and book.accounts is not None and book.accounts.exchange_differences is None:
        text = "money comes at other rates than its documents, and accounts names none for exchange_differences"
        yield _finding("RULE-E010", source_map, text, "/exchange_rates", "Add accounts: exchange_differences.")
    if book.write_offs is not None and book.payments is None:
        text = "balances are given up, and payments are left for later, so that nobody knows what is open"
        yield _finding("RULE-E011", source_map, text, "/write_offs", "Carry payments, or leave this group out.")
    if book.write_offs is not None and book.accounts is not None and book.accounts.write_offs is None:
        text = "balances are given up, and accounts names none for write_offs"
        yield _finding("RULE-E011", source_map, text, "/write_offs", "Add accounts: write_offs.")


def read_base(text: str, *, file: str, base: Base = nothing_below) -> None:
    """See whether a text can be built on: each of its lines could stand in a rulebook, though much may be missing.

    Raises:
        RulebookInvalid: with one finding per error, in the order of the file's lines.
    """
    data, source_map = _layered(text, file, base, (file,))
    found = (one for error in _lenient().iter_errors(data) for one in _told(error, "", source_map))
    findings = sorted(found, key=lambda finding: (finding.line or 0, finding.text))
    if findings:
        raise RulebookInvalid(tuple(findings))


def _layered(text: str, file: str, base: Base, above: tuple[str, ...]) -> tuple[Any, SourceMap]:
    """The values of a file over those of the file that it builds on."""
    data, source_map = _read(text, file)
    name = _named_base(data)
    if name is None:
        return data, source_map
    # Two that build on each other would be read for ever, and each further layer is one more place to look for a rule.
    if name in above or len(above) >= MOST_LAYERS:
        said = f"'{name}' builds on itself" if name in above else f"more than {MOST_LAYERS} rulebooks on each other"
        raise RulebookInvalid((_finding("RULE-E007", source_map, said, f"/{BASED_ON}"),))
    below = _base_of(name, base, source_map)
    under, places_below = _layered(below, name, base, (*above, name))
    return _merged(under, data), source_map.over(places_below)


def _read(text: str, file: str) -> tuple[Any, SourceMap]:
    try:
        data, lines = read_with_lines(text)
    except NotYaml as error:
        source_map = SourceMap.of_file({"": error.line}, file)
        raise RulebookInvalid((_finding("RULE-E001", source_map, error.reason),)) from error
    return data, SourceMap.of_file(lines, file)


def _named_base(data: Any) -> str | None:
    name = data.get(BASED_ON) if isinstance(data, dict) else None
    return name if isinstance(name, str) else None


def _base_of(name: str, base: Base, source_map: SourceMap) -> str:
    below = base(name)
    if below is None:
        said, hint = f"there is no rulebook '{name}' to build on", "Write it first, or leave this key out."
        raise RulebookInvalid((_finding("RULE-E008", source_map, said, f"/{BASED_ON}", hint),))
    return below


def _merged(under: Any, over: Any) -> Any:
    """Groups are put together name by name; anything else that is said above stands alone, and nothing takes away."""
    if not isinstance(under, dict) or not isinstance(over, dict):
        return over
    # A key with nothing behind it takes away what the base says, so that a bridge can do without a rule of all others.
    kept = {name: value for name, value in under.items() if name != BASED_ON and over.get(name, "") is not None}
    said = {name: value for name, value in over.items() if value is not None or name not in under}
    return {**kept, **{name: _merged(kept.get(name), value) for name, value in said.items()}}


@cache
def _lenient() -> Draft202012Validator:
    return Draft202012Validator(_without_needs(SCHEMA))


def _without_needs(schema: Any) -> Any:
    """A schema that lets anything be missing."""
    if isinstance(schema, list):
        return [_without_needs(one) for one in schema]
    if not isinstance(schema, dict):
        return schema
    # A base says part of the rules alone: what goes with what is asked of the whole, when a bridge builds on it.
    needs = {"required", "dependentRequired", "allOf", "minProperties"}
    if all(isinstance(one, dict) and set(one) == {"required"} for one in schema.get("anyOf", ())):
        needs |= {"anyOf"}
    return {name: _without_needs(value) for name, value in schema.items() if name not in needs or name == "properties"}


@cache
def _validator() -> Draft202012Validator:
    return Draft202012Validator(SCHEMA)


def _schema_findings(data: Any, source_map: SourceMap) -> Iterator[Finding]:
    for error in _validator().iter_errors(data):
        yield from _told(error, "", source_map)


def _told(error: ValidationError, above: str, source_map: SourceMap) -> Iterator[Finding]:
    parts = (escaped(str(part)) for part in error.relative_path)
    pointer = above + "".join(f"/{part}" for part in parts)
    if error.validator == "additionalProperties":
        yield from _unknown_keys(error, pointer, source_map)
    elif error.validator == "oneOf" and (meant := _of_the_shape_meant(error)):
        for one in meant:
            yield from _told(one, pointer, source_map)
    else:
        yield _finding("RULE-E003", source_map, f"{pointer or '/'}: {_expected(error)}", pointer, _quotes(error))


def _of_the_shape_meant(error: ValidationError) -> list[ValidationError]:
    """What is wrong with a value that can have several shapes: of the one that it has, a group or a text."""
    if not isinstance(error.instance, dict | str):
        return []
    # Of all shapes the validator tells what is wrong with each; "is no text" helps nobody who wrote a group.
    other_shapes = {"type", "const", "enum"} if isinstance(error.instance, dict) else {"type", "const"}
    return [one for one in error.context or () if one.relative_path or one.validator not in other_shapes]


def _quotes(error: ValidationError) -> str:
    """What to do about a code of digits that was read as a number, where a text was expected."""
    instance: Any = error.instance
    takes_text = error.validator == "type" and error.validator_value == "string"
    takes_text |= error.validator == "oneOf" and "text" in _shapes(error.validator_value)
    is_number = isinstance(instance, int | Decimal) and not isinstance(instance, bool)
    return f'Codes stand in quotes: "{instance}".' if takes_text and is_number else ""


def _unknown_keys(error: ValidationError, pointer: str, source_map: SourceMap) -> Iterator[Finding]:
    schema: Any = error.schema
    known = schema["properties"]
    instance: Any = error.instance
    for key in instance:
        if key not in known:
            below = f"{pointer}/{key}"
            yield _finding("RULE-E002", source_map, f"the key '{key}' is not known here", below, near_miss(key, known))


def _expected(error: ValidationError) -> str:
    met = "nothing" if error.instance is None else repr(_plain(error.instance))
    rule: Any = error.validator_value
    match error.validator:
        case "required":
            # One error comes for each missing name, which only its message tells.
            return f"expected {error.message.partition(' is a required')[0]}, which is missing"
        case "dependentRequired":
            missing, _, given = error.message.partition(" is a dependency of ")
            return f"expected {missing}, which goes with {given}"
        case "anyOf" if not error.absolute_path:
            return "expected orders, customers, payouts or requests: what the bridge carries"
        case "oneOf" | "anyOf":
            shapes = list(_shapes(rule))
            several = " or ".join(
                shapes if len(shapes) <= _MOST_SHAPES else [*shapes[:_MOST_SHAPES], "another of its keys"]
            )
            return f"expected {several}, got {met}"
        case "pattern" if "propertyNames" in error.schema_path:
            return f"expected names such as occasion=fair, got {met}"
        case "type":
            kinds = [rule] if isinstance(rule, str) else rule
            return f"expected {_TYPE_NAMES.get(kinds[0], kinds[0])}, got {met}"
        case "enum":
            return f"expected one of {', '.join(map(str, rule))}, got {met}"
        case "maxLength":
            return f"expected at most {rule} characters, got {len(str(error.instance))}"
        case "const":
            return f"expected {rule}, got {met}"
        case _:
            return f"{error.message.replace('Decimal', '')[:300]}"


def _shapes(options: Any) -> Iterator[str]:
    """The shapes that would do, in words."""
    for option in options:
        if "const" in option:
            yield f"'{option['const']}'"
        elif option.get("type") == "object":
            yield _TYPE_NAMES["object"]
        elif "required" in option:
            yield " and ".join(option["required"])
        else:
            yield _TYPE_NAMES["string"]


def _plain(value: Any) -> Any:
    text = str(value)
    return text if len(text) <= 60 else text[:57] + "..."


def _finding(code: str, source_map: SourceMap, text: str, at: str = "", hint: str = "") -> Finding:
    file, line = source_map.find(at)
    told = f"{file}, line {line}: {text}"
    return Finding(id=code, level=Level.ERROR, text=told, hint=hint, at=at, line=line)
