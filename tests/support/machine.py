"""What random lives through the running service have in common: numbers and moments that no other thing has."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from hypothesis.stateful import RuleBasedStateMachine

from tests.support.world import World

EVENING = datetime(2026, 10, 31, 12, tzinfo=UTC)


class ServiceMachine(RuleBasedStateMachine):
    """A state machine over one world that all its runs share."""

    world: World
    counter = 0

    def next(self) -> int:
        """A number that no other thing has."""
        type(self).counter += 1
        return type(self).counter

    def now(self) -> str:
        """A moment after every other."""
        return (EVENING + timedelta(seconds=self.next())).isoformat()
