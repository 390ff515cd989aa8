"""Every expression of a rulebook, held against the names and types that it may use."""

from __future__ import annotations

from collections.abc import Iterator

from inkwell_bridge.core.expressions import INVOICE, LINE, ORDER, Condition, NotUsable, compiled
from inkwell_bridge.core.expressions.expression import Names
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.rulebook.model import Rulebook
from inkwell_bridge.core.rulebook.near import near_miss
from inkwell_bridge.core.rulebook.orders import OrderRules


def wrong_expressions(book: Rulebook) -> Iterator[tuple[str, str, str]]:
    """Each expression that cannot be used: its JSON Pointer, what is wrong, and what would be right."""
    for at, source, names, wanted in _expressions(book):
        try:
            kind = compiled(source, names).kind
        except NotUsable as error:
            yield at, str(error), _hint(str(error), names)
            continue
        if wanted == "bool" and kind not in {"bool", "any"}:
            yield at, f"expected an expression that is true or false, got a {kind}", ""


def _expressions(book: Rulebook) -> Iterator[tuple[str, str, Names, str]]:
    """Pointer, text, the names it may use, and what it must come to."""
    if book.orders is not None:
        for at, condition in conditions_of(book.orders):
            yield from ((where, one, ORDER, "bool") for where, one in condition.expressions(at))
    for at, condition in book.requests.conditions if book.requests else ():
        yield from ((where, one, INVOICE, "bool") for where, one in condition.expressions(at))
    for where, field in book.fields.every:
        names = LINE if where.startswith("/fields/line_") else ORDER
        yield from ((at, one, names, "") for at, one in field.expressions(where))
    for name, field in book.dimensions.items():
        yield from ((at, one, LINE, "") for at, one in field.expressions(f"/dimensions/{escaped(name)}"))


def conditions_of(rules: OrderRules) -> Iterator[tuple[str, Condition]]:
    """Every condition that orders are asked by, with its JSON Pointer."""
    if rules.only is not None:
        yield "/orders/only", rules.only
    for name in ("leave_out", "instead"):
        for place, rule in enumerate(getattr(rules, name)):
            yield f"/orders/{name}/{place}/when", rule.when
    for name in ("invoiced", "delivered"):
        follows = getattr(rules, name)
        if follows is not None:
            yield f"/orders/{name}/when", follows.when


def _hint(said: str, names: Names) -> str:
    if "undeclared reference to '" not in said:
        return ""
    return near_miss(said.partition("undeclared reference to '")[2].partition("'")[0], names.known)
