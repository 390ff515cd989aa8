"""PostgreSQL restarted, its sessions ended, jobs lost, a backlog before the door: the work goes on by itself."""

from __future__ import annotations

import json
import os
import shutil
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch import places
from inkwell_bridge.launch.cluster import Cluster
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_crashes import assert_all_stand_once
from tests.carriage.test_money import FIRST, refund
from tests.support.world import (
    BRIDGE,
    FAST,
    World,
    first_owner,
    new_world,
    running,
    shop_order,
    wait_for,
    with_few_orders,
)

ENDED = (
    "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
    "WHERE datname = current_database() AND pid <> pg_backend_pid()"
)
JOBS_MADE = "SELECT last_value FROM procrastinate_jobs_id_seq"
BACKLOG = 6000


@pytest.fixture(scope="module")
def cluster() -> Iterator[Cluster]:
    """A PostgreSQL of one's own, that may be restarted with nobody else noticing."""
    base = "/var/lib/postgresql" if os.geteuid() == 0 else None
    folder = tempfile.mkdtemp(prefix="inkwell-restarts-", dir=base)
    Path(folder).chmod(0o711)
    made = Cluster(Path(folder) / "cluster", Path(folder) / "keys", settings=("fsync = off", "full_page_writes = off"))
    made.start()
    yield made
    made.remove()
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="module")
def stack(cluster: Cluster, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stack]:
    """Service and worker on it."""
    made = Stack(database_url=cluster.database("restarts"), home=tmp_path_factory.mktemp("restarts"),
                 console=places.console(), extra=FAST)  # fmt: skip
    made.administer("migrate", "--verbosity", "0")
    with running(made):
        yield made


@pytest.fixture(scope="module")
def owner(stack: Stack) -> str:
    """Somebody who may open workspaces there."""
    return first_owner(stack)


@pytest.fixture
def few(stack: Stack, owner: str) -> World:
    """A client with half of October."""
    return with_few_orders(new_world(stack, owner))


def database(world: World) -> psycopg.Connection[tuple[object, ...]]:
    """The service's own database."""
    return psycopg.connect(world.stack.environment["DATABASE_URL"], autocommit=True)


def quiet_for(db: psycopg.Connection[tuple[object, ...]], seconds: float) -> bool:
    """Whether no job is made for so long."""
    jobs = db.execute(JOBS_MADE).fetchone()
    time.sleep(seconds)
    return db.execute(JOBS_MADE).fetchone() == jobs


def under_way(world: World, share: float) -> None:
    """Wait until so much of the orders is in the books."""
    wait_for(lambda: len(world.invoices()) >= share * 28 or None, seconds=30, what="a part of the run")


def the_run_ends(world: World) -> None:
    """The run that is under way ends, whatever the service said meanwhile."""

    def look() -> bool | None:
        try:
            return None if any(run.under_way for run in world.calls.runs()) else True
        except Exception:
            return None

    wait_for(look, seconds=90, what="the run")


def test_every_session_is_ended_again_and_again(few: World) -> None:
    """Also those that hold locks, and those of the queue: no document is lost, none is made twice."""
    few.calls.bridge(BRIDGE).run()
    for share in (0.05, 0.3, 0.6):
        under_way(few, share)
        with database(few) as db:
            db.execute(ENDED)
    the_run_ends(few)
    few.settled()
    assert_all_stand_once(few)


def test_postgresql_is_restarted_under_a_run(few: World, cluster: Cluster) -> None:
    """Gone for a moment, then back: the worker stays up, and the run ends by itself."""
    few.calls.bridge(BRIDGE).run()
    under_way(few, 0.2)
    cluster.stop()
    time.sleep(1)
    cluster.start()
    the_run_ends(few)
    few.settled(seconds=90)
    assert_all_stand_once(few)


def test_a_job_that_was_lost_is_queued_anew(few: World) -> None:
    """Documents wait, and no job is there for them: the sweeper finds them, and says so in their history."""
    few.run()
    lost = [row.id for row in few.calls.crossings()][:3]
    with database(few) as db:
        db.execute(
            "UPDATE carriage_crossing SET state = 'waiting', updated_at = now() - interval '1 minute' "
            "WHERE id = ANY(%s)",
            [lost],
        )
    few.settled()
    for number in lost:
        assert "requeued" in {event.kind for event in few.calls.crossing(number).history}
    assert_all_stand_once(few)


def test_a_refund_that_nobody_woke_goes_by_itself(stack: Stack, owner: str) -> None:
    """A worker was killed after it wrote down that the order is carried, and before it let the order's refund go."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.put_orders(shop_order(FIRST), reset=True)
    world.put("web-shop", refunds=[refund()])
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    (one,) = [one for one in world.calls.crossings(state=["carried"]) if one.kind == "refunds"]
    with database(world) as db:
        db.execute(
            "UPDATE carriage_crossing SET state = 'held', cause = 'order-first', "
            "updated_at = now() - interval '1 minute' WHERE id = %s",
            [one.id],
        )
    wait_for(lambda: world.calls.crossing(one.id).state == "carried" or None, seconds=30, what="the refund")
    assert [note["state"] for note in world.books()["credit_note"]] == ["posted"]


def test_a_job_that_its_living_worker_forgot_is_taken_up(few: World) -> None:
    """The queue believes that it is being done; its worker lives, and knows nothing of it."""
    few.run()
    with database(few) as db:
        (worker,) = db.execute("SELECT max(id) FROM procrastinate_workers").fetchone() or (None,)
        crossing = next(iter(few.calls.crossings())).id
        db.execute("UPDATE carriage_crossing SET state = 'waiting' WHERE id = %s", [crossing])
        arguments = db.execute("SELECT workspace_id, id FROM carriage_crossing WHERE id = %s", [crossing]).fetchone()
        assert arguments is not None
        said = json.dumps({"workspace_id": arguments[0], "crossing_ids": [arguments[1]]})
        db.execute(
            "INSERT INTO procrastinate_jobs (queue_name, task_name, lock, args, status, worker_id, priority) "
            "VALUES ('carrying', 'carry', 'forgotten', %s, 'doing', %s, 0)",
            [said, worker],
        )
    wait_for(lambda: few.calls.crossing(crossing).state == "carried" or None, seconds=30, what="the forgotten document")


def test_a_small_client_has_its_turn_before_a_backlog(few: World, stack: Stack, owner: str) -> None:
    """Thousands of documents of one client wait; another's run ends long before, and a timetable starts."""
    few.run()
    crossing = next(iter(few.calls.crossings())).id
    with database(few) as db:
        db.execute(
            "INSERT INTO procrastinate_jobs (queue_name, task_name, lock, args, status, priority) "
            "SELECT 'carrying', 'carry', NULL, jsonb_build_object('workspace_id', workspace_id, "
            "'crossing_ids', jsonb_build_array(id)), "
            "'todo', -(n / 20) FROM carriage_crossing, generate_series(0, %s) AS n WHERE id = %s",
            [BACKLOG, crossing],
        )
        small = with_few_orders(new_world(stack, owner))
        run = small.run(seconds=60)
        (left,) = db.execute("SELECT count(*) FROM procrastinate_jobs WHERE status = 'todo'").fetchone() or (0,)
        assert run.counts.carried == 28
        assert left > BACKLOG / 2, "the backlog was gone before the small client came"
        small.calls.bridge(BRIDGE).set_timetable(every_minutes=1)
        db.execute("UPDATE bridges_timetable SET next_at = now() - interval '1 hour'")
        wait_for(lambda: any(one.by_timetable for one in small.calls.runs()) or None, seconds=20, what="the timetable")
        db.execute("DELETE FROM bridges_timetable")
        db.execute("DELETE FROM procrastinate_jobs WHERE status = 'todo' AND lock IS NULL")


def test_a_run_can_be_stopped(few: World) -> None:
    """By a person; the bridge starts another at once, and what the first one read is carried all the same."""
    few.misbehave("erp", {"call": "invoices.create", "kind": "hold", "times": 100})
    run = few.calls.bridge(BRIDGE).run()
    wait_for(lambda: few.misbehaved("erp")[0]["waiting"] or None, seconds=30, what="a first document")
    stopped = few.calls.stop_run(run.id)
    assert (stopped.state, stopped.trouble) == ("stopped", "Stopped by first.owner@inkwell.example.")
    few.misbehave("erp")
    few.run()
    few.settled()
    assert_all_stand_once(few)
    with pytest.raises(Exception, match="nothing to stop"):
        few.calls.stop_run(run.id)


def written(db: psycopg.Connection[tuple[object, ...]], seconds: float) -> int:
    """How many bytes of log are written in so long."""
    (before,) = db.execute("SELECT pg_current_wal_insert_lsn()").fetchone() or (None,)
    time.sleep(seconds)
    (number,) = db.execute("SELECT pg_wal_lsn_diff(pg_current_wal_insert_lsn(), %s)", [before]).fetchone() or (0,)
    return int(str(number))


def test_a_service_that_has_nothing_to_do_writes_nothing(few: World) -> None:
    """But for the workers' sign of life, twice a second in the tests: some forty rows in ten seconds."""
    few.run()
    with database(few) as db:
        # An end that another test had slowed down is looked at each second until it is found well.
        wait_for(lambda: quiet_for(db, 3) or None, seconds=60, what="an end of all work")
        # What other tests threw away is tidied up first, for PostgreSQL does it at a moment of its own.
        db.execute("VACUUM ANALYZE")
        # Upkeep puts the totals of the days together and looks at the days that tied, each once in half a minute.
        wait_for(lambda: written(db, 10) < 40 * 1024 or None, seconds=90, what="an end of upkeep's work")
        jobs = db.execute(JOBS_MADE).fetchone()
        # A whole round of upkeep later it is as quiet.
        assert written(db, 40) < 4 * 40 * 1024
        assert db.execute(JOBS_MADE).fetchone() == jobs
