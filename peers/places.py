"""Where the two systems lie on this machine, and where they say that they are."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

from inkwell_bridge.launch import places
from inkwell_bridge.launch.cluster import Cluster

SOURCE = Path(__file__).resolve().parent
TRYTON, VENDURE = SOURCE / "tryton", SOURCE / "vendure"
FAST_DISK = ("fsync = off", "synchronous_commit = off", "full_page_writes = off")


def home() -> Path:
    """The folder of their state: ignored by git, for its owner alone."""
    folder = places.peers()
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    return folder


def cluster() -> Cluster:
    """A PostgreSQL cluster of their own. What is lost with the power is filled again, so the disk is not waited for."""
    folder = home() / "postgresql" if os.geteuid() else places.cluster().with_name(f"{places.cluster().name}-peers")
    made = Cluster(folder, home(), settings=FAST_DISK)
    if folder.exists() and not (home() / "postgresql-password-inkwell_admin").exists():
        # Its passwords went with an earlier checkout of the same place; all in it can be made anew.
        made.remove()
    return made


def running() -> dict[str, Any]:
    """What was written down when they were started; nothing where they were not."""
    told = home() / "running.json"
    return dict(json.loads(told.read_text("utf-8"))) if told.exists() else {}


def write_running(said: dict[str, Any]) -> None:
    """Write down where they are; nothing once they are stopped."""
    told = home() / "running.json"
    if said:
        told.write_text(json.dumps(said), "utf-8")
    else:
        told.unlink(missing_ok=True)
