"""Reading a rulebook file: every error with its line and what was expected there."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Iterator
from typing import Any

from jsonschema import Draft202012Validator
from jsonschema.exceptions import ValidationError

from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.rulebook.invalid import RulebookInvalid
from inkwell_bridge.core.rulebook.model import Rulebook
from inkwell_bridge.core.rulebook.schema import SCHEMA
from inkwell_bridge.core.rulebook.yaml_places import NotYaml, read_places

_TYPE_NAMES = {
    "object": "a group of named values",
    "array": "a list",
    "string": "text",
    "number": "a number",
    "integer": "a whole number",
    "boolean": "true or false",
}


def read(text: str, *, file: str = "rulebook.yaml") -> tuple[Rulebook, dict[str, int]]:
    """Read a rulebook; also answers on which line each of its JSON Pointers stands.

    Raises:
        RulebookInvalid: with one finding per error, in the order of the file's lines.
    """
    try:
        data, places = read_places(text)
    except NotYaml as error:
        raise RulebookInvalid((_finding("RULE-E001", file, error.line, error.reason),)) from error
    findings = sorted(_schema_findings(data, places, file), key=lambda finding: (finding.line or 0, finding.text))
    if findings:
        raise RulebookInvalid(tuple(findings))
    try:
        return Rulebook.read(data), places
    except DocumentInvalid as error:
        line = line_of(error.at, places)
        raise RulebookInvalid((_finding("RULE-E004", file, line, error.expected, error.at),)) from error


def line_of(pointer: str, places: dict[str, int]) -> int:
    """The line of ``pointer``, or of the nearest thing around it that stands in the file."""
    while pointer and pointer not in places:
        pointer = pointer.rpartition("/")[0]
    return places.get(pointer, 1)


def near_miss(word: str, known: Iterable[str]) -> str:
    """A hint that names the known word closest to ``word``, or all of them where none is close."""
    names = [str(name) for name in known]
    close = difflib.get_close_matches(word, names, n=1, cutoff=0.6)
    if close:
        return f"Did you mean '{close[0]}'?"
    return f"Known here: {', '.join(names[:12])}." if names else ""


def _schema_findings(data: Any, places: dict[str, int], file: str) -> Iterator[Finding]:
    for error in Draft202012Validator(SCHEMA).iter_errors(data):
        pointer = "".join(f"/{str(part).replace('~', '~0').replace('/', '~1')}" for part in error.absolute_path)
        if error.validator == "additionalProperties":
            yield from _unknown_keys(error, pointer, places, file)
        else:
            expected = _expected(error)
            yield _finding("RULE-E003", file, line_of(pointer, places), f"{pointer or '/'}: {expected}", pointer)


def _unknown_keys(error: ValidationError, pointer: str, places: dict[str, int], file: str) -> Iterator[Finding]:
    schema: Any = error.schema
    known = schema["properties"]
    instance: Any = error.instance
    for key in instance:
        if key not in known:
            below = f"{pointer}/{key}"
            text = f"the key '{key}' is not known here"
            yield _finding("RULE-E002", file, line_of(below, places), text, below, near_miss(key, known))


def _expected(error: ValidationError) -> str:
    met = "nothing" if error.instance is None else repr(_plain(error.instance))
    rule: Any = error.validator_value
    match error.validator:
        case "required":
            # One error comes for each missing name, which only its message tells.
            return f"expected {error.message.partition(' is a required')[0]}, which is missing"
        case "dependentRequired":
            return f"expected {error.message.partition(' is a dependency')[0]}, which orders need"
        case "anyOf":
            return "expected orders or customers: what the bridge carries"
        case "type":
            kinds = [rule] if isinstance(rule, str) else rule
            return f"expected {_TYPE_NAMES.get(kinds[0], kinds[0])}, got {met}"
        case "enum":
            return f"expected one of {', '.join(map(str, rule))}, got {met}"
        case "const":
            return f"expected {rule}, got {met}"
        case _:
            return f"{error.message.replace('Decimal', '')}"


def _plain(value: Any) -> Any:
    text = str(value)
    return text if len(text) <= 60 else text[:57] + "..."


def _finding(code: str, file: str, line: int, text: str, at: str = "", hint: str = "") -> Finding:
    return Finding(id=code, level=Level.ERROR, text=f"{file}, line {line}: {text}", hint=hint, at=at, line=line)
