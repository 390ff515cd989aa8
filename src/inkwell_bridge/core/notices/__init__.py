"""Notices: what is worth telling of a trouble, when it may be told, and in which words."""

from inkwell_bridge.core.notices.telling import Patience, Reason, Standing, Told, is_quiet, reason_to_tell
from inkwell_bridge.core.notices.wording import DayOfBridge, Described, Message, TroubleKind, message, summary

__all__ = [
    "DayOfBridge",
    "Described",
    "Message",
    "Patience",
    "Reason",
    "Standing",
    "Told",
    "TroubleKind",
    "is_quiet",
    "message",
    "reason_to_tell",
    "summary",
]
