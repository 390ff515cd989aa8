"""Where things lie on this machine."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

from inkwell_bridge.ends.guard import Guard

# The stand-ins, and the real systems that are started beside them, are on this machine.
LOOPBACK_NETWORKS = ("127.0.0.0/8", "::1/128")
LOOPBACK = Guard.of(hosts=("*",), networks=LOOPBACK_NETWORKS)


def root() -> Path:
    """The checkout (``./inkwell`` names it), or the folder one stands in."""
    return Path(os.environ.get("INKWELL_ROOT", ".")).resolve()


def home() -> Path:
    """The folder for keys, logs and state: ignored by git, for its owner alone."""
    folder = Path(os.environ.get("INKWELL_HOME", root() / ".inkwell")).resolve()
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    return folder


def cluster() -> Path:
    """The folder of the private PostgreSQL cluster.

    PostgreSQL refuses to run as root. As root it runs under the system's postgres user, in that user's
    own folder: the checkout may lie where others cannot enter.
    """
    if os.geteuid() != 0:
        return home() / "postgresql"
    name = hashlib.blake2b(str(home()).encode(), digest_size=6).hexdigest()
    return Path("/var/lib/postgresql") / f"inkwell-{name}"


def peers() -> Path:
    """The folder where the two real systems keep their state and say where they are."""
    return Path(os.environ.get("INKWELL_PEERS_HOME", root() / ".inkwell" / "peers"))


def console() -> Path:
    """The built console."""
    return root() / "console" / "dist"
