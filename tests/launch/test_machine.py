"""PostgreSQL and processes on one machine."""

from __future__ import annotations

import os
import shutil
import socket
import stat
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from inkwell_bridge.launch import ports
from inkwell_bridge.launch.cluster import Cluster
from inkwell_bridge.launch.supervisor import Part, ProcessFailed, Supervisor
from tests.support.world import wait_for


@pytest.fixture
def cluster() -> Iterator[Cluster]:
    """A cluster of one's own."""
    base = "/var/lib/postgresql" if os.geteuid() == 0 else None
    folder = Path(tempfile.mkdtemp(prefix="inkwell-test-", dir=base))
    folder.chmod(0o711)
    made = Cluster(folder / "cluster", folder / "keys", settings=("fsync = off",))
    yield made
    made.remove()
    shutil.rmtree(folder)


def test_data_that_nobody_can_open_any_more_is_put_aside(cluster: Cluster) -> None:
    """A checkout was removed while its database ran, and made anew at the same place: it starts, nothing is lost."""
    cluster.start()
    cluster.database("first")
    # What a checkout keeps goes with it; as root the data stands elsewhere.
    shutil.rmtree(cluster._keys)
    assert cluster.start() is True
    with psycopg.connect(cluster.database("second")) as db:
        names = {name for (name,) in db.execute("SELECT datname FROM pg_database")}
    assert ("second" in names, "first" in names) == (True, False)
    (aside,) = cluster._folder.parent.glob("cluster-without-keys-*")
    assert (aside / "data" / "PG_VERSION").exists()


def test_a_cluster_is_private_and_lasts(cluster: Cluster) -> None:
    """Loopback alone, a password that only its owner can read, data that outlives a restart."""
    assert cluster.start() is True
    assert cluster.start() is False
    url = cluster.database("first")
    with psycopg.connect(url) as db:
        db.execute("CREATE TABLE kept (x int)")
        assert db.execute("SHOW listen_addresses").fetchone() == ("127.0.0.1",)
        assert db.execute("SELECT rolsuper FROM pg_roles WHERE rolname = current_user").fetchone() == (False,)
    with pytest.raises(psycopg.OperationalError, match="password"):
        psycopg.connect(url.replace(url.split(":")[2].split("@")[0], "wrong"))
    cluster.stop()
    assert cluster.running() is False
    cluster.start()
    with psycopg.connect(cluster.database("first")) as db:
        assert db.execute("SELECT count(*) FROM kept").fetchone() == (0,)
    with psycopg.connect(cluster.database("first", fresh=True)) as db, pytest.raises(psycopg.errors.UndefinedTable):
        db.execute("SELECT * FROM kept")


def test_its_passwords_are_for_their_owner_alone(cluster: Cluster) -> None:
    """Every file of them."""
    cluster.start()
    keys = [path for path in cluster._keys.iterdir() if "password" in path.name]
    assert len(keys) == 2
    assert {stat.S_IMODE(path.stat().st_mode) for path in keys} == {0o600}


def test_a_port_that_is_taken_is_not_given_out() -> None:
    """Another free one is."""
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        number = taken.getsockname()[1]
        assert ports.free(number) != number
    assert ports.free(0) > 1023


def part(tmp_path: Path, code: str, name: str = "part") -> Part:
    """A process that runs some Python."""
    return Part(name=name, command=(sys.executable, "-c", code), environment={}, log=tmp_path / f"{name}.log")


def test_what_dies_is_started_again(tmp_path: Path) -> None:
    """As another process."""
    living = part(tmp_path, "import time; time.sleep(60)")
    supervisor = Supervisor([living])
    supervisor.start()
    assert living.process
    first = living.process.pid
    living.process.kill()
    living.process.wait()
    supervisor.look_after()
    assert living.process.pid != first
    supervisor.stop()
    assert living.process.poll() is not None


def test_what_will_not_stay_up_is_given_up_with_its_last_words(tmp_path: Path) -> None:
    """Not restarted for ever."""
    dying = part(tmp_path, "raise SystemExit('the reason why')")
    supervisor = Supervisor([dying])
    supervisor.start()

    def look() -> ProcessFailed | None:
        try:
            supervisor.look_after()
        except ProcessFailed as failure:
            return failure
        return None

    failure = wait_for(look, seconds=30, what="giving up")
    assert "part does not stay up" in str(failure)
    assert "the reason why" in str(failure)


def test_what_does_not_listen_is_killed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """After a fair time."""
    monkeypatch.setattr("inkwell_bridge.launch.supervisor.STOP_TIMEOUT_SECONDS", 0.5)
    code = (
        "import signal, time; signal.signal(signal.SIGTERM, signal.SIG_IGN); print('deaf', flush=True); time.sleep(60)"
    )
    deaf = part(tmp_path, code)
    supervisor = Supervisor([deaf])
    supervisor.start()
    wait_for(lambda: "deaf" in deaf.last_words() or None, seconds=20, what="the deaf one")
    began = time.monotonic()
    supervisor.stop()
    assert time.monotonic() - began < 10
    assert deaf.process
    assert deaf.process.returncode == -9
