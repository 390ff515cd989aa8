"""The demo: everything on this machine, on data that is made up."""

from __future__ import annotations

import fcntl
import json
import os
import secrets
import shutil
import signal
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import psycopg

from inkwell_bridge.client import Client, profile
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.launch import demo_client, demo_peers, places
from inkwell_bridge.launch.cast import October, WithPeers
from inkwell_bridge.launch.cluster import Cluster
from inkwell_bridge.launch.demo_once import example_with_peers, whole_example
from inkwell_bridge.launch.stack import STANDIN_PORTS, Stack
from inkwell_bridge.service import clock

Say = Callable[[str], None]
SIGN_IN_FILE = "demo-password"


class AlreadyRunning(Exception):
    """The demo runs already; the text says where."""


@contextmanager
def _alone(home: Path) -> Iterator[None]:
    """Hold the right to run the demo; it ends with this process, however that ends."""
    with (home / "lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            running = json.loads((home / "running.json").read_text("utf-8")) if (home / "running.json").exists() else {}
            where = running.get("address", "an address that it has not said yet: it is still starting")
            raise AlreadyRunning(f"The demo is running already, at {where}") from None
        yield
        (home / "running.json").unlink(missing_ok=True)


@contextmanager
def database(name: str, say: Say, *, fresh: bool, owned: bool = False) -> Iterator[str]:
    """The address of a database: of ``DATABASE_URL`` where that is given, else on a private cluster.

    The cluster is stopped afterwards by whoever started it, and by its owner in any case.
    """
    given = os.environ.get("DATABASE_URL")
    if given:
        yield given
        return
    cluster = Cluster(places.cluster(), places.home())
    started = cluster.start()
    if started:
        say("PostgreSQL is running on loopback.")
    try:
        yield cluster.database(name, fresh=fresh)
    finally:
        if started or owned:
            cluster.stop()


def serve(say: Say, cast: October | WithPeers, *, fresh: bool = False) -> None:
    """Run the demo until a signal comes, with ``cast`` at its ends.

    Raises:
        AlreadyRunning: it is running already.
    """
    home = places.home()
    # A shell starts what it puts in the background deaf to Ctrl-C; and a SIGTERM ends the demo just so.
    signal.signal(signal.SIGINT, signal.default_int_handler)
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    with _alone(home), database(cast.database, say, fresh=fresh, owned=True) as url:
        stores = home / cast.stores
        if fresh:
            shutil.rmtree(stores, ignore_errors=True)
        stores.mkdir(exist_ok=True)
        stack = Stack(
            database_url=url,
            home=home,
            console=places.console(),
            stores=stores,
            fixed_ports=True,
            processes=os.cpu_count() or 1,
            extra={"INKWELL_PROFILE": str(home / "profile.json")},
        )
        try:
            _bring_up(stack, cast, say)
            while True:
                time.sleep(1)
                stack.supervisor.look_after()
        except KeyboardInterrupt:
            say("Stopping.")
        finally:
            stack.stop()


def reset() -> None:
    """Put the running demo's outside systems back to the October month; the service keeps what it has.

    Raises:
        RuntimeError: no demo is running.
    """
    demo_client.fill_standins(_running_standins().__getitem__, whole_month=True)


def change_afterwards() -> None:
    """Let customers of the running demo's web shop change their minds about orders of October.

    Raises:
        RuntimeError: no demo is running.
    """
    demo_client.change_afterwards(_running_standins().__getitem__)


def do_after_sale(told: dict[str, Any]) -> None:
    """Let a merchant of the running demo do something to a sale, at the moment of the demo's clock.

    Raises:
        RuntimeError: no demo is running, no shop has that sale, or the shop does not do that.
    """
    at = clock.of_file(places.home() / "clock").isoformat()
    demo_client.do_after_sale(_running_standins().__getitem__, {**told, "at": at})


def _running_standins() -> dict[str, str]:
    told = places.home() / "running.json"
    if not told.exists():
        raise RuntimeError("The demo is not running. Start it with: ./inkwell demo")
    standins: dict[str, str] = json.loads(told.read_text("utf-8"))["standins"]
    return standins


def kept() -> list[Path]:
    """Where the demo keeps anything on this machine: its home, and its PostgreSQL where that lies elsewhere."""
    return [folder for folder in dict.fromkeys((places.home(), places.cluster())) if folder.exists()]


def remove() -> None:
    """Remove everything that the demo keeps on this machine; a database that ``DATABASE_URL`` names is not ours.

    Raises:
        AlreadyRunning: it is running.
        RuntimeError: the folder is none in which a demo was ever started.
    """
    home = places.home()
    # INKWELL_HOME may have been mistyped, and lead to somebody's own folder.
    if not (home / SIGN_IN_FILE).exists():
        raise RuntimeError(f"No demo was ever started in {home}, so nothing is removed.")
    with _alone(home):
        Cluster(places.cluster(), home).remove()
        shutil.rmtree(home, ignore_errors=True)


def _bring_up(stack: Stack, cast: October | WithPeers, say: Say) -> None:
    stack.administer("migrate", "--verbosity", "0")
    password = _password(stack.home)
    cast.set_clock(stack)
    stack.start()
    _load(stack, cast, password, say)
    standins = {kind: stack.standin(kind) for kind in STANDIN_PORTS}
    told = {"pid": os.getpid(), "address": stack.address, "standins": standins}
    (stack.home / "running.json").write_text(json.dumps(told), "utf-8")
    owner = facts()["people"][0]["email"]
    for line in (
        "",
        f"Inkwell Bridge   {stack.address}",
        f"Sign in          {owner}",
        f"Password         {password}",
        *cast.lines(stack),
        "",
        "Ctrl-C stops everything.",
    ):
        say(line)


def _password(home: Path) -> str:
    path = home / SIGN_IN_FILE
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(12), "utf-8")
    return path.read_text("utf-8")


def _load(stack: Stack, cast: October | WithPeers, password: str, say: Say) -> None:
    """Load the demo where it is not loaded; point what is there at this start's ports."""
    slug, email = facts()["workspace"]["slug"], facts()["people"][0]["email"]
    token = demo_client.open_workspace(stack, password, workspace=slug, email=email)
    calls = Client(stack.address, token=token).workspace(slug)
    if not cast.is_set_up(calls):
        cast.set_up(stack, calls)
        demo_client.give_roles(calls, password)
        say(cast.loaded)
    cast.point_at(stack, calls, say)
    os.environ["INKWELL_PROFILE"] = str(stack.home / "profile.json")
    profile.save(profile.Profile(address=stack.address, token=token, workspace=slug))


def _must_be_empty(url: str) -> None:
    with psycopg.connect(url) as db:
        if db.execute("SELECT 1 FROM people_workspace LIMIT 1").fetchone():
            raise RuntimeError("The database in DATABASE_URL holds work already; the example needs an empty one.")


def once(say: Say, *, peers: bool = False) -> dict[str, Any]:
    """Run the whole example from nothing and end; answers what was found, for the comparison."""
    if peers:
        demo_peers.addresses()
    with (
        tempfile.TemporaryDirectory(prefix="inkwell-once-") as folder,
        database("inkwell_once", say, fresh=True) as url,
    ):
        stack = Stack(database_url=url, home=Path(folder), console=places.console())
        stack.administer("migrate", "--verbosity", "0")
        _must_be_empty(url)
        if not peers:
            demo_client.set_clock(stack)
        try:
            stack.start()
            return example_with_peers(stack, say) if peers else whole_example(stack, say)
        finally:
            stack.stop()
