"""Their databases: each made and filled once per version, kept as a template, and copied from there."""

from __future__ import annotations

import datetime
import subprocess
from collections.abc import Callable
from importlib import resources
from pathlib import Path

import psycopg

from inkwell_bridge.demo.facts import facts
from inkwell_bridge.ends.opening import Limits, Opening
from inkwell_bridge.ends.tryton.rpc import TrytonRpc
from inkwell_bridge.ends.vendure.graphql import GraphQL
from inkwell_bridge.launch.cluster import Cluster
from inkwell_bridge.launch.places import LOOPBACK
from peers.install import PYTHON, digest
from peers.places import TRYTON, VENDURE, home
from peers.servers import serving, start_tryton, start_vendure, tryton_configuration
from peers.tryton.fill import fill as fill_tryton
from peers.vendure.fill import fill as fill_vendure

Say = Callable[[str], None]
ADMIN, ADMIN_PASSWORD = "admin", "admin-of-a-made-up-company"
PATIENT = Limits(timeout_seconds=60, longest_answer_seconds=120)
MODULES = ("party", "product", "company", "currency", "account", "account_invoice", "account_product", "sale", "stock",
           "stock_lot", "carrier", "sale_shipment_cost")  # fmt: skip
_FACTS = Path(str(resources.files("inkwell_bridge.demo").joinpath("facts.yaml")))


class SetUpFailed(Exception):
    """A database could not be made; the text ends with what was said."""


def tryton_template(cluster: Cluster, say: Say) -> str:
    """The name of the filled Tryton database; made where it is not there."""
    bare = f"tryton_bare_{digest(TRYTON / 'requirements.txt')}"
    year = datetime.datetime.now(datetime.UTC).year
    filled = f"tryton_{year}_{digest(TRYTON / 'requirements.txt', TRYTON / 'fill.py', _FACTS)}"
    if _there(cluster, filled):
        return filled
    if not _there(cluster, bare):
        say("Making Tryton's database; this takes two or three minutes, once.")
        _make(cluster, bare, _activate_modules)
    say("Filling Tryton with the demo's company.")
    _make(cluster, filled, _fill_tryton, template=bare)
    return filled


def vendure_template(cluster: Cluster, say: Say) -> str:
    """The name of the filled Vendure database; made where it is not there."""
    files = [VENDURE / name for name in ("package-lock.json", "start.mjs", "fill.py")]
    filled = f"vendure_{digest(*files, _FACTS)}"
    if not _there(cluster, filled):
        say("Filling Vendure with the demo's shop and placing its orders.")
        _make(cluster, filled, _fill_vendure)
    return filled


def _make(cluster: Cluster, name: str, work: Callable[[str], None], *, template: str = "") -> None:
    """Make a database under another name and give it its own only when all is done: half a one is never taken."""
    making = f"{name}_making"
    url = cluster.copy(template, making) if template else cluster.database(making, fresh=True)
    work(url)
    cluster.copy(making, name)


def _there(cluster: Cluster, name: str) -> bool:
    with psycopg.connect(cluster.database("peers")) as db:
        return bool(db.execute("SELECT 1 FROM pg_database WHERE datname = %s", [name]).fetchone())


def _activate_modules(url: str) -> None:
    configuration = tryton_configuration(url, "tryton-making")
    secret = home() / "tryton-admin"
    secret.touch(mode=0o600)
    secret.write_text(ADMIN_PASSWORD, "utf-8")
    command = [str(PYTHON / "python"), str(PYTHON / "trytond-admin"), "-c", str(configuration), "-d", _name(url),
               "-u", *MODULES, "--activate-dependencies", "--email", "admin@marrowby.example"]  # fmt: skip
    done = subprocess.run(command, env={"TRYTONPASSFILE": str(secret), "PATH": "/usr/bin:/bin"}, text=True,
                          capture_output=True, check=False)  # fmt: skip
    if done.returncode:
        raise SetUpFailed(f"Tryton's database could not be made:\n{(done.stdout + done.stderr)[-1500:]}")


def _fill_tryton(url: str) -> None:
    with serving(start_tryton(tryton_configuration(url, "tryton-making"))) as server:
        rpc = TrytonRpc(_opening(f"{server.address}{_name(url)}/", ADMIN, ADMIN_PASSWORD))
        fill_tryton(rpc, **_user("tryton"))


def _fill_vendure(url: str) -> None:
    with serving(start_vendure(url, user=ADMIN, password=ADMIN_PASSWORD, make_schema=True)) as server:
        graphql = GraphQL(_opening(f"{server.address}/admin-api", ADMIN, ADMIN_PASSWORD))
        fill_vendure(graphql, f"{server.address}/shop-api", **_user("vendure"))


def _opening(address: str, user: str, password: str) -> Opening:
    return Opening(address=address, credentials={"user": user, "password": password}, limits=PATIENT, guard=LOOPBACK)


def _user(peer: str) -> dict[str, str]:
    return {name: facts()[peer][name] for name in ("user", "password")}


def _name(url: str) -> str:
    return url.rpartition("/")[2]
