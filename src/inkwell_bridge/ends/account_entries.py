"""Reading what books tell of one account: its entries, and what they come to."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from decimal import Decimal
from typing import Any

from pydantic import TypeAdapter, ValidationError

from inkwell_bridge.core.books import AccountEntry
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.values import Exact
from inkwell_bridge.ends.errors import Misstated
from inkwell_bridge.ends.shapes import EntriesPage

_AMOUNT: TypeAdapter[Decimal] = TypeAdapter(Exact)


def entries_of(answer: Any, reads: Callable[[Mapping[str, Any]], Mapping[str, Any]], *, end: str) -> EntriesPage:
    """The entries that ``answer`` holds, said by ``reads`` in the words of ``AccountEntry``.

    Raises:
        Misstated: the answer is no such page. An entry that cannot be read makes it so: a sum without it is no sum.
    """
    try:
        onward = answer["onward"]
        entries = tuple(AccountEntry.read(reads(one)) for one in answer["entries"])
    except (DocumentInvalid, LookupError, TypeError, ValueError, AttributeError, ArithmeticError) as error:
        raise Misstated(f"{end}'s entries of an account lack or misstate {error}") from error
    return EntriesPage(entries=entries, next=str(onward) if onward else None)


def balance_of(answer: Any, *, end: str) -> Decimal:
    """The ``balance`` that ``answer`` holds.

    Raises:
        Misstated: there is none, or it is no exact number.
    """
    try:
        return _AMOUNT.validate_python(answer["balance"])
    except (ValidationError, LookupError, TypeError) as error:
        raise Misstated(f"{end}'s balance of an account lacks or misstates {error}") from error
