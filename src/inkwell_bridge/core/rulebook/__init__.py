"""The rules of a bridge: their shape, reading them with line numbers, checking them against both ends."""

from inkwell_bridge.core.rulebook.check import check
from inkwell_bridge.core.rulebook.check_capabilities import check_capabilities
from inkwell_bridge.core.rulebook.check_source import check_source, check_written_back
from inkwell_bridge.core.rulebook.model import NoRulesForOrders, OrderRulebook, Rulebook
from inkwell_bridge.core.rulebook.reader import Base, inherited, read, read_base, values_of
from inkwell_bridge.core.rulebook.schema import SCHEMA
from inkwell_bridge.core.rulebook.source_map import Place, SourceMap

__all__ = [
           "SCHEMA",
           "Base",
           "NoRulesForOrders",
           "OrderRulebook",
           "Place",
           "Rulebook",
           "SourceMap",
           "check",
           "check_capabilities",
           "check_source",
    "check_written_back",
           "inherited",
           "read",
           "read_base",
           "values_of",
]  # fmt: skip
