"""Which orders cross, as what, and how their lines are said."""

from __future__ import annotations

import re
from datetime import date
from typing import Literal

from inkwell_bridge.core.expressions import Condition
from inkwell_bridge.core.rulebook.levels import Defaulted, Facts
from inkwell_bridge.core.values import Code, Text, Value

# What a further invoice or credit note of an order is called: {n} counts its documents in the ledger.
FURTHER_NUMBERS = "{number}-{n}"


class LeaveOut(Value):
    """Orders that are left out, counted under a name of their own."""

    name: Code
    when: Condition


Become = Literal["invoice", "sales order", "cash sale"]
Arrive = Literal["posted", "draft"]
Moment = Literal["placed", "paid", "dispatched"]


class ByLevel(Defaulted):
    """What becomes of orders, and of some otherwise."""

    def of(self, facts: Facts) -> str:
        """What becomes of an order."""
        level = self.exception(facts)
        return level.gave if level else self.default

    @property
    def every(self) -> frozenset[str]:
        """Everything that can become of one."""
        return frozenset({self.default, *(what for _, what in self.exceptions(""))})


class BecomeRule(ByLevel):
    """The document that an order becomes."""

    default: Become = "invoice"


class ArriveRule(ByLevel):
    """Whether that document is posted, or left as a draft."""

    default: Arrive = "posted"


class Instead(Value):
    """What some orders become, in place of what all others do."""

    name: Code
    when: Condition
    become: Become = "invoice"
    arrive: Arrive = "posted"


class Follows(Value):
    """A document that follows once ``when`` is true of the order; ``dated`` is the moment that its day comes from."""

    when: Condition
    dated: Moment = "dispatched"
    arrive: Arrive = "posted"


class WrittenBack(Value):
    """What the sales side is told of an order that was carried: a ``tag``, and a ``note`` with the number and link of
    its document in the books in place of ``{number}`` and ``{link}``."""

    tag: Text = ""
    note: Text = ""

    def note_of(self, number: str, link: str) -> str:
        """The note on one order."""
        # One after the other: a number of the books may hold braces of its own.
        parts = re.split(r"(\{number\}|\{link\})", self.note)
        return "".join({"{number}": number, "{link}": link}.get(part, part) for part in parts).strip()


class OrderRules(Value):
    """Which orders cross, and as what.

    Shape: an order crosses in one of ``statuses``, from ``placed_from`` on, where ``only`` holds and nothing of
    ``leave_out`` does. Of ``instead`` the first that is true goes before ``become`` and ``arrive``. A sales order is
    ``invoiced`` later; deposits are ``delivered`` by a final invoice that deducts them, and ``deposits`` says which of
    both bears their tax. ``dated`` and ``tax_point`` are the moment that the document's day and its tax's day come
    from; ``numbered`` says whose number is the legal one, ``written_back`` what the sales side is told afterwards.
    ``edited`` and ``cancelled`` say what becomes of an order that changes after it was posted, ``differences`` on how
    many documents the difference stands; ``further_numbers`` is what these are called where the shop's number is the
    legal one.
    """

    become: BecomeRule = BecomeRule()
    arrive: ArriveRule = ArriveRule()
    instead: tuple[Instead, ...] = ()
    invoiced: Follows | None = None
    delivered: Follows | None = None
    deposits: Literal["taxed when paid", "taxed when delivered"] = "taxed when paid"
    numbered: Literal["books", "shop"] = "books"
    statuses: tuple[Code, ...]
    placed_from: date | None = None
    only: Condition | None = None
    leave_out: tuple[LeaveOut, ...] = ()
    currencies: Literal["own", "kept", "converted"] = "own"
    dated: Moment = "placed"
    tax_point: Literal["document", "placed", "paid", "dispatched"] = "document"
    due_after_days: int | None = None
    discounts: Literal["in lines", "own lines"] = "in lines"
    kits: Literal["as sold", "components"] = "as sold"
    packs: Literal["as sold", "pieces"] = "as sold"
    written_back: WrittenBack | None = None
    edited: Literal["amend", "hold"] = "amend"
    cancelled: Literal["credit", "hold"] = "credit"
    differences: Literal["one each way", "one document"] = "one each way"
    further_numbers: Text = FURTHER_NUMBERS

    def became(self, name: str) -> str:
        """The role of the document that stands for the sale in the ledger, of an order that became ``name``."""
        return "invoice" if name == "sales order" and self.invoiced else name
