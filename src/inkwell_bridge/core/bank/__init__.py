"""What a bank tells: its statements as files, whether one joins the others, and what its lines are of."""

from inkwell_bridge.core.bank.camt import read_camt
from inkwell_bridge.core.bank.joining import Moved, Stretch, gaps_beside, join
from inkwell_bridge.core.bank.layout import TableLayout
from inkwell_bridge.core.bank.matching import Awaited, Fit, OpenLine, fits
from inkwell_bridge.core.bank.statement import StatementHead, StatementInvalid, StatementLine, StatementPart
from inkwell_bridge.core.bank.table import read_table

__all__ = ["Awaited", "Fit", "Moved", "OpenLine", "StatementHead", "StatementInvalid", "StatementLine",
           "StatementPart", "Stretch", "TableLayout", "fits", "gaps_beside", "join", "read_camt",
           "read_table"]  # fmt: skip
