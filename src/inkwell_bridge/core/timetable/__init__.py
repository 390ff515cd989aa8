"""When a bridge runs by itself."""

from inkwell_bridge.core.timetable.recurrence import daily, every, next_after

__all__ = ["daily", "every", "next_after"]
