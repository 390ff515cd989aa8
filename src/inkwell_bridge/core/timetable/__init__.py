"""When a bridge runs by itself."""

from inkwell_bridge.core.timetable.moments import coming, next_after
from inkwell_bridge.core.timetable.rules import LONGEST_RULE, from_rule, to_rule
from inkwell_bridge.core.timetable.timetable import Days, Hours, Season, Times, Timetable, Zone
from inkwell_bridge.core.timetable.words import LONGEST_WORDS, from_words, in_words

__all__ = [
    "LONGEST_RULE",
    "LONGEST_WORDS",
    "Days",
    "Hours",
    "Season",
    "Times",
    "Timetable",
    "Zone",
    "coming",
    "from_rule",
    "from_words",
    "in_words",
    "next_after",
    "to_rule",
]
