"""Notices: what is worth telling of a trouble, when it may be told, and in which words."""

from inkwell_bridge.core.notices.messages import DayOfBridge, Message, ReportedTrouble, TroubleKind, message, summary
from inkwell_bridge.core.notices.reasons import Intervals, LastNotice, Reason, TroubleState, is_quiet, reason_to_send

__all__ = [
    "DayOfBridge",
    "Intervals",
    "LastNotice",
    "Message",
    "Reason",
    "ReportedTrouble",
    "TroubleKind",
    "TroubleState",
    "is_quiet",
    "message",
    "reason_to_send",
    "summary",
]
