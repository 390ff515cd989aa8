"""One PostgreSQL cluster for all tests; each worker process has a database, a service and stand-ins of its own."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from hypothesis import Phase, settings

from inkwell_bridge.launch import demo_client, places
from inkwell_bridge.launch.cluster import Cluster
from inkwell_bridge.launch.stack import Stack
from tests.support.world import FAST, World, first_owner, new_world, running, with_few_orders

# A machine that runs all tests at once may be slow at any example; no test is about time.
# What fails is told in its smallest form; tracing every line besides would take longer than a test may.
settings.register_profile("untimed", deadline=None, phases=(Phase.explicit, Phase.reuse, Phase.generate, Phase.shrink))
settings.load_profile("untimed")
TEMPLATE = "inkwell_template"
FAST_DISK = ("fsync = off", "synchronous_commit = off", "full_page_writes = off")


def _cluster(folder: str) -> Cluster:
    return Cluster(Path(folder) / "cluster", Path(folder) / "keys", settings=FAST_DISK)


def pytest_configure(config: pytest.Config) -> None:
    """Start the cluster and make the database that all others are copied from, once for all processes."""
    if hasattr(config, "workerinput") or config.option.collectonly:
        return
    # As root the cluster belongs to the postgres user, who must be able to enter its folder.
    base = "/var/lib/postgresql" if os.geteuid() == 0 else None
    folder = tempfile.mkdtemp(prefix="inkwell-test-", dir=base)
    Path(folder).chmod(0o711)
    cluster = _cluster(folder)
    cluster.start()
    url = cluster.database(TEMPLATE)
    subprocess.run(
        [sys.executable, "-m", "inkwell_bridge.service", "migrate", "--verbosity", "0"],
        env={**os.environ, "DATABASE_URL": url, "INKWELL_HOME": f"{folder}/home"},
        check=True,
    )
    os.environ["INKWELL_TEST_CLUSTER"] = folder


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What drives running processes is tried once more when it fails; what fails twice is wrong.

    Three test processes share two cores with services, workers and browsers of their own, so any of these may be late
    for the one that looks. The core has no process to wait for: a test of it that fails has failed. Tests that were run
    again are counted in the last line.
    """
    core = Path(__file__).parent / "core"
    for item in items:
        if core not in item.path.parents:
            item.add_marker(pytest.mark.flaky(reruns=1))


def pytest_unconfigure(config: pytest.Config) -> None:
    """Take the cluster away."""
    folder = os.environ.get("INKWELL_TEST_CLUSTER")
    if folder and not hasattr(config, "workerinput"):
        _cluster(folder).remove()
        shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session")
def worker_name(request: pytest.FixtureRequest) -> str:
    """The name of this test process."""
    return getattr(request.config, "workerinput", {}).get("workerid", "alone")


@pytest.fixture(scope="session")
def new_database(worker_name: str) -> Callable[[str], str]:
    """A migrated, empty database under a name."""
    cluster = _cluster(os.environ["INKWELL_TEST_CLUSTER"])
    return lambda name: cluster.copy(TEMPLATE, f"test_{name}_{worker_name}")


@pytest.fixture(scope="session")
def empty_database(worker_name: str) -> Callable[[str], str]:
    """A database with nothing in it, under a name."""
    cluster = _cluster(os.environ["INKWELL_TEST_CLUSTER"])
    return lambda name: cluster.database(f"test_{name}_{worker_name}", fresh=True)


@pytest.fixture(scope="session")
def stack(new_database: Callable[[str], str], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stack]:
    """The whole program, running: service, worker, stand-ins."""
    made = Stack(
        database_url=new_database("main"),
        home=tmp_path_factory.mktemp("home"),
        console=places.root() / "console" / "dist",
        extra=FAST,
    )
    demo_client.set_clock(made)
    with running(made):
        yield made


@pytest.fixture(scope="session")
def owner(stack: Stack) -> str:
    """A token of somebody who may open workspaces."""
    return first_owner(stack)


@pytest.fixture
def world(stack: Stack, owner: str) -> World:
    """A client of one's own, with shop and books of its own, set up and ready to run."""
    return new_world(stack, owner)


@pytest.fixture
def small(world: World) -> World:
    """The same with half of October, for what needs no more."""
    return with_few_orders(world)


@pytest.fixture(scope="session")
def october(stack: Stack, owner: str) -> World:
    """A world whose October was carried, for tests that only look at it, or leave it as it was."""
    world = new_world(stack, owner)
    world.run()
    return world
