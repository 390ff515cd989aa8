"""What starts work: timetables of lanes, switches that pause, runs of some days, and runs once more."""

from __future__ import annotations

import time
from datetime import date

import psycopg
import pytest

from inkwell_bridge.client import Conflict, Invalid, NotFound
from inkwell_bridge.client.models import Run
from tests.support.world import BRIDGE, FEW, World, invoices_alone, wait_for


def due(world: World, *kinds: str) -> None:
    """Let the timetables of these lanes (all where none is named) have come while nothing ran."""
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        db.execute(
            "UPDATE bridges_timetable SET next_at = next_at - interval '5 days' WHERE (kind = ANY(%s) OR %s) AND "
            "workspace_id = (SELECT id FROM people_workspace WHERE slug = %s)",
            [list(kinds), not kinds, world.slug],
        )


def by_timetable(world: World, number: int) -> list[Run]:
    """The runs that started by themselves, once there are so many."""

    def look() -> list[Run] | None:
        found = [run for run in world.calls.runs() if run.by_timetable]
        return found if len(found) >= number else None

    return [world.ended(run) for run in wait_for(look, seconds=30, what="the timetable")]


def test_a_lane_with_a_timetable_of_its_own_runs_apart(small: World) -> None:
    """The others run when the bridge does; those that are due together run together."""
    calls = small.calls.bridge(BRIDGE)
    calls.switch_lane("customers", on=True)
    calls.set_timetable("daily at 18:30")
    calls.set_timetable("every hour", lane="customers")
    due(small, "customers")
    (own,) = by_timetable(small, 1)
    assert (own.lanes, len(small.invoices())) == (["customers"], 0)
    due(small, "")
    others = by_timetable(small, 2)[0]
    assert (others.lanes, len(small.invoices())) == (["orders"], FEW)
    due(small)
    both = by_timetable(small, 3)[0]
    assert set(both.lanes) == {"customers", "orders"}
    lanes = {lane.kind: lane.timetable for lane in calls.read().lanes}
    own_table = lanes["customers"]
    assert own_table is not None
    assert (own_table.words, lanes["orders"]) == ("every hour", None)
    with pytest.raises(NotFound):
        calls.set_timetable("every hour", lane="parcels")


def test_a_time_that_comes_while_a_run_is_under_way_is_made_up_for_once(small: World) -> None:
    """It waits for the end of that run, and is not lost."""
    calls = small.calls.bridge(BRIDGE)
    small.misbehave("shop", {"call": "orders", "kind": "latency", "seconds": 1.2})
    under_way = calls.run()
    calls.set_timetable(every_minutes=60)
    due(small)
    time.sleep(1.5)
    assert [run.id for run in small.calls.runs()] == [under_way.id]
    small.misbehave("shop")
    (made_up,) = by_timetable(small, 1)
    assert (made_up.id > under_way.id, small.ended(under_way).state) == (True, "ended")
    time.sleep(1.5)
    assert len(list(small.calls.runs())) == 2


def test_a_paused_bridge_starts_nothing_and_what_waits_goes_on_afterwards(small: World) -> None:
    """Neither by hand nor by itself; what it missed is made up for by one run."""
    calls = small.calls.bridge(BRIDGE)
    assert calls.pause().paused_at is not None
    with pytest.raises(Conflict, match=r"is paused since .* UTC by .*@inkwell.example. Let it go on first."):
        calls.run()
    calls.set_timetable(every_minutes=60)
    due(small)
    time.sleep(1.5)
    assert list(small.calls.runs()) == []
    assert calls.go_on().paused_at is None
    due(small)
    (run,) = by_timetable(small, 1)
    assert run.counts.carried + run.counts.left_out + run.counts.held == run.counts.read
    actions = [entry.action for entry in small.calls.trail()]
    assert (actions.count("bridge.paused"), actions.count("bridge.went on")) == (1, 1)


def test_documents_wait_while_an_end_is_paused_and_go_once_it_goes_on(small: World) -> None:
    """What was read stays read; no call goes to the books meanwhile."""
    small.misbehave("erp", {"call": "invoices.create", "kind": "busy", "times": 100_000})
    run = small.calls.bridge(BRIDGE).run()
    wait_for(lambda: small.calls.run(run.id).counts.waiting or None, seconds=30, what="the first that waits")
    small.calls.connection("uk-books").pause()
    small.ended(run)
    small.misbehave("erp")
    time.sleep(2)
    assert small.invoices() == []
    waiting = next(iter(small.calls.crossings(state=["waiting"])))
    assert waiting.number
    small.calls.connection("uk-books").go_on()
    small.settled()
    assert len(small.invoices()) == FEW


def test_a_run_of_some_days_reads_those_and_moves_no_place(small: World) -> None:
    """Fifth and sixth of October, by the clocks of London; what is older and newer comes with the next run."""
    calls = small.calls.bridge(BRIDGE)
    found = small.ended(calls.run(first_day=date(2026, 10, 5), last_day=date(2026, 10, 6)))
    days = {crossing.business_date for crossing in small.calls.crossings()}
    assert days == {date(2026, 10, 5), date(2026, 10, 6)}
    assert found.counts.read == len(list(small.calls.crossings()))
    assert {lane.read_up_to for lane in calls.read().lanes} == {None}
    small.run()
    assert len(small.invoices()) == FEW
    with pytest.raises(Invalid, match=r"2026-10-06 or later"):
        calls.run(first_day=date(2026, 10, 6), last_day=date(2026, 10, 5))
    with pytest.raises(Invalid, match="numbers, or lanes and days"):
        calls.run("MW-10006", lanes=["orders"])


def test_a_first_load_from_a_day_begins_there(small: World) -> None:
    """And the next run goes on from the place that it reached."""
    calls = small.calls.bridge(BRIDGE)
    small.ended(calls.run(lanes=["orders"], first_day=date(2026, 10, 7)))
    assert min(crossing.business_date for crossing in small.calls.crossings() if crossing.business_date) == date(
        2026, 10, 7
    )
    reached = {lane.kind: lane.read_up_to for lane in calls.read().lanes}
    assert reached["orders"] is not None
    assert reached["refunds"] is None
    posted = len(small.invoices())
    assert 0 < posted < FEW
    small.run()
    assert len(small.invoices()) == posted
    calls.switch_lane("refunds", on=False)
    with pytest.raises(Conflict, match=r"The refunds lane of .* is off"):
        calls.run(lanes=["refunds"])


def test_what_is_held_of_a_run_is_run_again(world: World) -> None:
    """Two orders of a class without a code; mapped, the same run again carries them and touches nothing else."""
    first = world.run()
    assert (first.counts.held, first.counts.carried) == (2, 55)
    calls = world.calls.bridge(BRIDGE)
    reduced = invoices_alone().replace("    zero: Z00\n", "    zero: Z00\n    reduced: R05\n", 1)
    calls.publish_rulebook(calls.write_rulebook(reduced).number)
    again = world.ended(world.calls.run_again(first.id))
    assert (again.again, again.outcomes) == (first.id, ["differs", "held"])
    assert (again.counts.read, again.counts.carried) == (2, 2)
    left_out = world.ended(world.calls.run_again(first.id, "left out"))
    assert left_out.counts.read == left_out.counts.left_out == first.counts.left_out > 0
    carried = world.ended(world.calls.run_again(first.id, "carried"))
    assert (carried.counts.read, carried.counts.unchanged, carried.counts.carried) == (55, 55, 0)
    assert len(world.invoices()) == 57
