"""When a bridge runs by itself."""

from inkwell_bridge.core.timetable.recurrence import coming, daily, every, in_words, next_after

__all__ = ["coming", "daily", "every", "in_words", "next_after"]
