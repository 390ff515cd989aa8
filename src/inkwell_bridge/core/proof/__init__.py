"""Proving what was carried: document by document, and in total."""

from inkwell_bridge.core.proof.document import prove
from inkwell_bridge.core.proof.totals import Totals

__all__ = ["Totals", "prove"]
