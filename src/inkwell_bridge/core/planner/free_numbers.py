"""Legal numbers that the books have given to another document meanwhile."""

from __future__ import annotations

from collections.abc import Collection

from inkwell_bridge.core.books import BooksDocument, LedgerDocument
from inkwell_bridge.core.planner.plan import Plan
from inkwell_bridge.core.rulebook.orders import OrderRules


def further_number(rules: OrderRules, order_number: str, n: int) -> str:
    """The number of the ``n``-th invoice or credit note of an order, by the rules' pattern."""
    return rules.further_numbers.replace("{number}", order_number).replace("{n}", str(n))


def with_free_numbers(
    plan: Plan, order_number: str, rules: OrderRules, taken: Collection[str], *, keep: Collection[str]
) -> Plan:
    """The plan in which no further document asks for a number that is ``taken``: each has the next one that is free.

    Documents to ``keep`` stand in the books under theirs. The first invoice bears the order's own number, which nobody
    here may change: it is not among those that are renumbered.
    """
    used = {*taken, *(one.number for one in plan.documents if isinstance(one, LedgerDocument))}
    documents: list[BooksDocument] = []
    count = 0
    for one in plan.documents:
        if isinstance(one, LedgerDocument):
            count += 1
            if one.number in taken and one.number != order_number and one.external_reference not in keep:
                n = count
                while (number := further_number(rules, order_number, n)) in used:
                    n += 1
                used.add(number)
                one = one.model_copy(update={"number": number})
        documents.append(one)
    return plan.model_copy(update={"documents": tuple(documents)})
