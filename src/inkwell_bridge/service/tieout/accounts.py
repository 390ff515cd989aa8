"""The accounts on the sheet: what the books call them, and what the rules use them for."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from inkwell_bridge.core.proof import Section, SheetRow
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.core.rulebook.accounts import AccountRules
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import all_in_force
from inkwell_bridge.service.people.models import Workspace
from inkwell_bridge.service.reference.pinned import master_data_of, newest_master_data

MONEY = "money of buyers"


class AccountRow(NamedTuple):
    """A row of the sheet with what its account is; ``used_for`` are the roles that rules in force give it there: for
    sales and refunds, or for money."""

    row: SheetRow
    name: str
    used_for: tuple[str, ...]


def named(rows: Sequence[SheetRow], workspace: Workspace) -> list[AccountRow]:
    """These rows with what their accounts are. A statement for each books and a few more, whatever their number."""
    on_sheet = {row.place.connection for row in rows}
    if not on_sheet:
        return []
    bridges = Bridge.current.filter(workspace=workspace, books__slug__in=on_sheet).select_related("books")
    used: dict[tuple[str, str], set[str]] = defaultdict(set)
    names: dict[str, dict[str, str]] = {}
    for bridge, rules in all_in_force(bridges):
        for code, role in _roles(rules):
            used[bridge.books.slug, code].add(role)
        if bridge.books.slug not in names:
            load = newest_master_data(bridge.books)
            accounts = master_data_of(load).accounts if load else ()
            names[bridge.books.slug] = {one.code: one.name for one in accounts}
    return [
        AccountRow(row, names.get(place.connection, {}).get(place.account, ""),
                   tuple(role for role in of_section if role in used[place.connection, place.account]))
        for row in rows
        for place in [row.place]
        for of_section in [(MONEY,) if place.section == Section.MONEY else tuple(_ROLES.values())]
    ]  # fmt: skip


_ROLES = {role: role.replace("_", " ") for role in AccountRules.model_fields}


def _roles(rules: Rulebook) -> Iterator[tuple[str, str]]:
    """Every account that rules name for sales, refunds or money of buyers, with what for."""
    for role, words in _ROLES.items() if rules.accounts is not None else ():
        rule = rules.accounts.rule(role)
        for _, code in rule.codes(role) if rule is not None else ():
            yield code, words
    if rules.payments is not None:
        for _, code in rules.payments.accounts.codes():
            yield code, MONEY
