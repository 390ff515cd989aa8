"""What random lives through the running service have in common: numbers and moments that no other thing has."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from hypothesis.stateful import RuleBasedStateMachine

from tests.support.world import World

EVENING = datetime(2026, 10, 31, 12, tzinfo=UTC)


MOST_RUNS = 5


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

    def run_all(self, *bridges: str) -> None:
        """Run these bridges; one whose end was too slow to be read just then runs again, as its timetable would."""
        for _ in range(MOST_RUNS):
            begun = {bridge: self.world.calls.bridge(bridge).run() for bridge in bridges}
            ended = {bridge: self.world.ended(run, seconds=120) for bridge, run in begun.items()}
            bridges = tuple(bridge for bridge, run in ended.items() if run.state != "ended")
            if not bridges:
                break
        assert not bridges, ended
        self.world.settled(seconds=120)
