"""``./inkwell peers``: the two real systems, installed, filled, started and stopped."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import click

from inkwell_bridge.launch.cluster import ClusterFailed
from peers.databases import ADMIN, ADMIN_PASSWORD, SetUpFailed, tryton_template, vendure_template
from peers.install import InstallFailed, install_tryton, install_vendure
from peers.places import cluster, home, running, write_running
from peers.servers import Server, ServerFailed, start_tryton, start_vendure, tryton_configuration

FAILURES = (InstallFailed, SetUpFailed, ServerFailed, ClusterFailed)
TRYTON_DATABASE, VENDURE_DATABASE = "marrowby", "marrowby_shop"


@click.group()
def peers() -> None:
    """Two real systems to stand at the ends: Tryton (books) and Vendure (a storefront)."""


@peers.command()
def start() -> None:
    """Install, fill and start both; what is there already is taken as it is."""
    if _alive():
        click.echo("Both are running already.")
        _tell()
        return
    try:
        _start(fresh=False)
    except FAILURES as error:
        raise click.ClickException(str(error)) from error
    _tell()


@peers.command()
def stop() -> None:
    """Stop both, and their database."""
    _stop()
    cluster().stop()
    click.echo("Both are stopped.")


@peers.command()
def status() -> None:
    """Say where they are; ends with status 1 where one of them is not."""
    if not _alive():
        raise click.ClickException("They are not running. Start them with: ./inkwell peers start")
    _tell()


@peers.command()
def reset() -> None:
    """Put both back to what they were after filling."""
    try:
        _start(fresh=True)
    except FAILURES as error:
        raise click.ClickException(str(error)) from error
    _tell()


def _start(*, fresh: bool) -> None:
    _stop()
    with ThreadPoolExecutor(2) as both:
        for done in [both.submit(install_tryton, click.echo), both.submit(install_vendure, click.echo)]:
            done.result()
    databases = cluster()
    databases.start()
    # Both ask it for the names of the templates; two could not make it at the same time.
    databases.database("peers")
    with ThreadPoolExecutor(2) as both:
        tryton, vendure = both.submit(tryton_template, databases, click.echo), both.submit(vendure_template, databases,
                                                                                           click.echo)  # fmt: skip
        templates = {TRYTON_DATABASE: tryton.result(), VENDURE_DATABASE: vendure.result()}
    urls = {name: _database(name, template, fresh=fresh) for name, template in templates.items()}
    servers = [start_tryton(tryton_configuration(urls[TRYTON_DATABASE])),
               start_vendure(urls[VENDURE_DATABASE], user=ADMIN, password=ADMIN_PASSWORD)]  # fmt: skip
    write_running({
        **{server.name: {"pid": server.pid, "address": server.address} for server in servers},
        "tryton_database": TRYTON_DATABASE,
        "tryton_template": templates[TRYTON_DATABASE],
    })  # fmt: skip


def _database(name: str, template: str, *, fresh: bool) -> str:
    """The database of that name, as it was left, or as a new copy; a newer template is always taken."""
    databases, known = cluster(), _copied_from()
    if not fresh and known.get(name) == template:
        return databases.database(name)
    url = databases.copy(template, name)
    _remember(name, template)
    return url


def _copied_from() -> dict[str, str]:
    """Which template each database was copied from."""
    file = home() / "copied-from"
    lines = file.read_text("utf-8").splitlines() if file.exists() else []
    return dict(line.split(" ", 1) for line in lines)


def _remember(name: str, template: str) -> None:
    known = {**_copied_from(), name: template}
    (home() / "copied-from").write_text("\n".join(f"{one} {other}" for one, other in known.items()), "utf-8")


def _servers() -> list[Server]:
    said = running()
    return [Server(name=name, **said[name]) for name in ("tryton", "vendure") if name in said]


def _alive() -> bool:
    servers = _servers()
    return bool(servers) and all(server.alive() for server in servers)


def _stop() -> None:
    for server in _servers():
        server.stop()
    write_running({})


def _tell() -> None:
    said = running()
    click.echo(f"Tryton    {said['tryton']['address']}{said['tryton_database']}/")
    click.echo(f"Vendure   {said['vendure']['address']}/admin-api")


if __name__ == "__main__":
    peers(prog_name="inkwell peers")
