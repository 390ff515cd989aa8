"""Taking a table of links in: judged whole, every bad row named, the rest put in place in one change."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from decimal import Decimal, InvalidOperation

from django.db.models import QuerySet

from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.changing import Target, put
from inkwell_bridge.service.links.models import Change, What
from inkwell_bridge.service.links.table_reading import Row, sides
from inkwell_bridge.service.links.tables import CHUNK, NONE
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.reference.models import Entry

MOST_NAMED = 200
_MOST_QUANTITY = Decimal(1_000_000)
_DIGITS = Decimal("0.000001")


@dataclass(frozen=True, slots=True, kw_only=True)
class BadRow:
    """A row that cannot be taken, and why."""

    row: int
    column: str
    text: str


class _Bad(Exception):
    def __init__(self, column: str, text: str) -> None:
        self.column = column
        super().__init__(text)


@dataclass(slots=True, kw_only=True)
class Preview:
    """What an import would change, or has changed; of many bad rows the first are named, and all are counted."""

    rows: int = 0
    added: int = 0
    changed: int = 0
    unchanged: int = 0
    unanswered: int = 0
    bad_rows: int = 0
    bad: list[BadRow] = field(default_factory=list)
    applied: bool = False
    change: Change | None = None


@dataclass(frozen=True, slots=True)
class _Names:
    """Entries of one side, by id and by code; a code may be that of several."""

    by_id: dict[str, Entry]
    by_code: dict[str, list[Entry]]

    def one(self, identity: str, code: str, side: str) -> Entry:
        """The one that a row means."""
        if identity:
            if identity not in self.by_id:
                raise _Bad(f"{side}_id", f"there is no {side} with the id {identity!r}")
            return self.by_id[identity]
        found = self.by_code.get(code.casefold(), [])
        if not found:
            raise _Bad(f"{side}_code", f"there is no {side} with the code {code!r}")
        if len(found) > 1:
            raise _Bad(f"{side}_code", f"{len(found)} have the code {code!r}; name the one that is meant by {side}_id")
        return found[0]


def take_in(between: Between, rows: Iterable[Row], person: Person, *, apply: bool) -> Preview:
    """Judge every row; with ``apply``, put those in place that are good.

    Of a kit with a bad row nothing is taken: half a kit is worse than none. Rows that lead nowhere are unanswered,
    and leave what stands as it is.
    """
    table = list(rows)
    sold, kept = sides(between.kind)
    sold_names = _names(between.sold(), table, sold)
    kept_names = _names(between.kept(), table, kept)
    preview, answers, spoiled = Preview(rows=len(table)), _Answers(), set()
    for row in table:
        key = ""
        try:
            key = sold_names.one(row.cells.get(f"{sold}_id", ""), row.cells.get(f"{sold}_code", ""), sold).source_id
            target = _target(row, kept_names, kept)
            if target is None:
                preview.unanswered += 1
            else:
                answers.add(key, target, kept)
        except _Bad as bad:
            preview.bad_rows += 1
            if len(preview.bad) < MOST_NAMED:
                preview.bad.append(BadRow(row=row.number, column=bad.column, text=str(bad)))
            spoiled.add(key)
    good = {key: targets for key, targets in answers.found.items() if key not in spoiled}
    _count(between, good, preview)
    if apply:
        preview.applied = True
        preview.change = put(between, good, what=What.IMPORTED, person=person)
    return preview


class _Answers:
    """What each key is to lead to."""

    def __init__(self) -> None:
        self.found: dict[str, list[Target]] = {}

    def add(self, key: str, target: Target, kept: str) -> None:
        """One more, unless it stands there or contradicts what stands there."""
        there = self.found.setdefault(key, [])
        if any(other.id == target.id for other in there):
            raise _Bad(f"{kept}_code", "an earlier row says this already")
        if there and (not target.id or not there[0].id):
            raise _Bad(f"{kept}_code", f"one row says “{NONE}” and another names one")
        there.append(target)


def _target(row: Row, names: _Names, side: str) -> Target | None:
    identity, code = row.cells.get(f"{side}_id", ""), row.cells.get(f"{side}_code", "")
    if not identity and not code:
        return None
    if not identity and code.casefold() == NONE:
        return Target(rule="import")
    entry = names.one(identity, code, side)
    quantity = _number(row, "quantity", least=_DIGITS) or Decimal(1)
    return Target(
        id=entry.source_id, code=entry.code, quantity=quantity, share=_number(row, "share", least=Decimal(0)),
        rule="import",
    )  # fmt: skip


def _number(row: Row, column: str, *, least: Decimal) -> Decimal | None:
    text = row.cells.get(column, "")
    if not text:
        return None
    try:
        number = Decimal(text)
    except InvalidOperation:
        number = Decimal("nan")
    if not number.is_finite() or not least <= number <= _MOST_QUANTITY or number != number.quantize(_DIGITS):
        raise _Bad(column, f"expected a number from {least:f} to {_MOST_QUANTITY:,}, with at most six decimals,"
                           f" got {text[:60]!r}")  # fmt: skip
    return number


def _names(entries: QuerySet[Entry], table: Sequence[Row], side: str) -> _Names:
    ids = sorted({identity for row in table if (identity := row.cells.get(f"{side}_id", ""))})
    codes = sorted({code.casefold() for row in table if (code := row.cells.get(f"{side}_code", ""))})
    by_id: dict[str, Entry] = {}
    by_code: dict[str, list[Entry]] = {}
    for start in range(0, len(ids), CHUNK):
        by_id |= {one.source_id: one for one in entries.filter(source_id__in=ids[start : start + CHUNK])}
    for start in range(0, len(codes), CHUNK):
        for one in entries.filter(code_key__in=codes[start : start + CHUNK]):
            by_code.setdefault(one.code_key, []).append(one)
    return _Names(by_id, by_code)


def _count(between: Between, good: dict[str, list[Target]], preview: Preview) -> None:
    keys = list(good)
    for start in range(0, len(keys), CHUNK):
        chunk = keys[start : start + CHUNK]
        there: dict[str, set[tuple[str, Decimal, Decimal | None]]] = {}
        for link in between.links().filter(key__in=chunk):
            there.setdefault(link.key, set()).add((link.target_id, link.quantity, link.share))
        for key in chunk:
            wanted = {(target.id, target.quantity, target.share) for target in good[key]}
            if key not in there:
                preview.added += 1
            elif there[key] == wanted:
                preview.unchanged += 1
            else:
                preview.changed += 1
