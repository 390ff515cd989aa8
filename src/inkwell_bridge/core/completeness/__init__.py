"""Whether everything that a sales side has of some days was read: what it lists, what it counts, what was fetched."""

from inkwell_bridge.core.completeness.listed import ListedDocument, SumIn, Told
from inkwell_bridge.core.completeness.numbering import NumberGap, number_gaps
from inkwell_bridge.core.completeness.result import (
    Became,
    CompletenessResult,
    EnteredInBooks,
    KindCompleteness,
    NamedDocument,
    NotCompared,
    counted_otherwise,
)

__all__ = ["Became", "CompletenessResult", "EnteredInBooks", "KindCompleteness", "ListedDocument", "NamedDocument",
           "NotCompared", "NumberGap", "SumIn", "Told", "counted_otherwise", "number_gaps"]  # fmt: skip
