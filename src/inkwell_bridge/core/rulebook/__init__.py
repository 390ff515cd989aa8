"""The rules of a bridge: their shape, reading them with line numbers, checking them against the books."""

from inkwell_bridge.core.rulebook.check import check, check_source
from inkwell_bridge.core.rulebook.model import NoRulesForOrders, OrderRulebook, Rulebook
from inkwell_bridge.core.rulebook.reader import read
from inkwell_bridge.core.rulebook.schema import SCHEMA

__all__ = ["SCHEMA", "NoRulesForOrders", "OrderRulebook", "Rulebook", "check", "check_source", "read"]
