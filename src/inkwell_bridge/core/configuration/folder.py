"""A configuration as the files of a folder, so that a repository shows what changed in it line by line.

``configuration.yaml`` has the lanes, the timetable, what it was made for, and the names of the rules that its own build
on; ``rulebook.yaml`` has the rules with their comments, and those that they build on stand beside it under their own
names, as ``inkwell rulebook check`` looks for them; ``links-products.csv`` and ``links-customers.csv`` (RFC 4180) name
both sides by code.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from typing import Any

import yaml

from inkwell_bridge.core.configuration.model import Configuration
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.rulebook.yaml_lines import NotYaml, read_with_lines

HEAD, RULES = "configuration.yaml", "rulebook.yaml"
_COLUMNS = ("code", "to", "quantity", "share")
_IN_FILES = {"rulebook", "bases", "links"}
_KINDS = ("products", "customers")
NONE = "none"


def as_folder(configuration: Configuration) -> dict[str, str]:
    """The text of each file by its name; what is empty has none.

    Raises:
        DocumentInvalid: base rules have the name of one of the other files.
    """
    head = configuration.model_dump(mode="json", exclude=_IN_FILES, exclude_none=True)
    for name in ("without_code", "notices"):
        if not head[name]:
            del head[name]
    if clash := {HEAD, RULES, *map(_of_links, _KINDS)} & set(configuration.bases):
        expected = f"no base rules under the name {min(clash)}, which is that of another file"
        raise DocumentInvalid(at="/bases", expected=expected)
    if configuration.bases:
        head["bases"] = sorted(configuration.bases)
    files = {HEAD: yaml.safe_dump(head, sort_keys=False, allow_unicode=True), **configuration.bases}
    if configuration.rulebook:
        files[RULES] = configuration.rulebook
    for kind, links in configuration.links.items():
        text = io.StringIO(newline="")
        table = csv.writer(text, lineterminator="\n")
        table.writerow(_COLUMNS)
        for link in links:
            share = "" if link.share is None else f"{link.share:f}"
            table.writerow((link.code, link.to or NONE, f"{link.quantity:f}" if link.to else "", share))
        files[_of_links(kind)] = text.getvalue()
    return files


def from_folder(files: Mapping[str, str]) -> Configuration:
    """The configuration that files hold; those that belong to none are passed over.

    Raises:
        DocumentInvalid: a file is missing or not right, which is named.
    """
    if HEAD not in files:
        raise DocumentInvalid(at="", expected=f"a file {HEAD}, as inkwell bridges pull writes it", file=HEAD)
    try:
        head, _ = read_with_lines(files[HEAD])
    except NotYaml as error:
        raise DocumentInvalid(at="", expected=str(error), file=HEAD) from error
    if not isinstance(head, dict) or {"rulebook", "links"} & set(head):
        raise DocumentInvalid(at="", expected="lanes, timetable, and what it was made for", file=HEAD)
    names = head.pop("bases", [])
    if not isinstance(names, list) or not all(isinstance(name, str) for name in names):
        raise DocumentInvalid(at="/bases", expected="a list of names", file=HEAD)
    for name in names:
        if name not in files:
            raise DocumentInvalid(at="/bases", expected=f"a file {name} beside it", file=HEAD)
    links = {kind: _links(files[_of_links(kind)], _of_links(kind)) for kind in _KINDS if _of_links(kind) in files}
    bases = {name: files[name] for name in names}
    return Configuration.read({**head, "rulebook": files.get(RULES, ""), "bases": bases, "links": links}, file=HEAD)


def _of_links(kind: str) -> str:
    return f"links-{kind}.csv"


def _links(text: str, file: str) -> list[dict[str, Any]]:
    reader = csv.DictReader(io.StringIO(text, newline=""))
    missing = {"code", "to"} - set(reader.fieldnames or ())
    if missing:
        raise DocumentInvalid(at="", expected=f"the columns {', '.join(_COLUMNS)}", file=file)
    return [
        {
            "code": row["code"],
            "to": "" if row["to"] == NONE else row["to"],
            **{name: row[name] for name in ("quantity", "share") if row.get(name)},
        }
        for row in reader
        if row["code"] and row["to"]
    ]
