"""An installation of its own for one benchmark: a database, the service, its workers and the stand-ins."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import psycopg

from inkwell_bridge.launch import demo_client, places
from inkwell_bridge.launch.cluster import Cluster
from inkwell_bridge.launch.stack import Stack

DATABASE = "bench"
OWNER, PASSWORD = "owner@inkwell.example", "a-password-for-one-run"


@contextmanager
def installation(
    *, workers: int = 1, processes: int = 1, settings: Sequence[str] = ()
) -> Iterator[tuple[Stack, psycopg.Connection[Any]]]:
    """Start one, with these settings of PostgreSQL; answers it, and a session of who administers its database.

    It is removed at the end.
    """
    base = "/var/lib/postgresql" if os.geteuid() == 0 else None
    with tempfile.TemporaryDirectory(prefix="inkwell-bench-", dir=base) as folder:
        # As root the cluster belongs to another user, who must be able to enter its folder.
        Path(folder).chmod(0o711)
        cluster = Cluster(Path(folder) / "cluster", Path(folder) / "keys", settings=tuple(settings))
        cluster.start()
        stack = Stack(database_url=cluster.database(DATABASE), home=Path(folder) / "home", console=places.console(),
                      workers=workers, processes=processes)  # fmt: skip
        try:
            stack.administer("migrate", "--verbosity", "0")
            demo_client.set_clock(stack)
            stack.start()
            with psycopg.connect(cluster.administration(DATABASE), autocommit=True) as db:
                yield stack, db
        finally:
            stack.stop()
            cluster.remove()


def tell(stack: Stack, world: str, kind: str, contents: dict[str, Any], *, reset: bool = False) -> None:
    """Put something into a stand-in."""
    address = f"{stack.standin(kind)}/{world}/control/contents"
    said = {**contents, **({"reset": True} if reset else {})}
    httpx.put(address, json=said, timeout=120, verify=False).raise_for_status()  # noqa: S501 plain HTTP


def most_memory(process: int) -> int:
    """The most memory that a process ever took, in MiB."""
    status = Path(f"/proc/{process}/status").read_text("utf-8")
    return next(int(line.split()[1]) for line in status.splitlines() if line.startswith("VmHWM")) // 1024
