"""Reading what a sales side lists of some days."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from inkwell_bridge.core.completeness import ListedDocument, Told
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.ends.errors import Misstated
from inkwell_bridge.ends.shapes import PeriodPage


def period_page(
    answer: Any,
    reads: Callable[[Mapping[str, Any]], Mapping[str, Any]],
    counts: Callable[[Mapping[str, Any]], Sequence[Mapping[str, Any]] | None],
    *,
    end: str,
) -> PeriodPage:
    """The ``entries`` of an answer that goes ``onward``, said by ``reads`` in the words of ``ListedDocument``, and what
    the end counts itself by ``counts`` in those of ``SumIn``.

    Raises:
        Misstated: the answer is no such page. An entry that cannot be read makes it so: a list without it is no list.
    """
    try:
        onward, told = answer["onward"], counts(answer)
        documents = tuple(ListedDocument.read(reads(one)) for one in answer["entries"])
        sums = None if told is None else Told.read({"sums": list(told)})
    except (DocumentInvalid, LookupError, TypeError, ValueError, AttributeError, ArithmeticError) as error:
        raise Misstated(f"{end}'s list of some days lacks or misstates {error}") from error
    return PeriodPage(documents=documents, next=str(onward) if onward else None, told=sums)
