"""The two servers as processes: how each is started, waited for and stopped."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import httpx

from inkwell_bridge.launch import ports
from peers.install import PYTHON
from peers.places import VENDURE, home

START_TIMEOUT_SECONDS = 90.0
STOP_TIMEOUT_SECONDS = 20.0


class ServerFailed(Exception):
    """A server did not come up; the text ends with what it said last."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Server:
    """A server that was started, by its process."""

    name: str
    pid: int
    address: str

    def alive(self) -> bool:
        """Whether its process is there."""
        try:
            return "Z" not in Path(f"/proc/{self.pid}/stat").read_text().rpartition(")")[2][:3]
        except OSError:
            return False

    def stop(self) -> None:
        """Stop it; one that does not listen is killed."""
        for number in (signal.SIGTERM, signal.SIGKILL):
            try:
                os.killpg(self.pid, number)
            except ProcessLookupError:
                return
            deadline = time.monotonic() + STOP_TIMEOUT_SECONDS
            while self.alive() and time.monotonic() < deadline:
                _reap(self.pid)
                time.sleep(0.05)

    def kill(self) -> None:
        """End it at once, as a power cut would."""
        os.killpg(self.pid, signal.SIGKILL)
        while self.alive():
            _reap(self.pid)
            time.sleep(0.02)


def _reap(pid: int) -> None:
    """Take note of a child's end; of somebody else's child the kernel keeps track."""
    try:
        os.waitpid(pid, os.WNOHANG)
    except ChildProcessError:
        return


def tryton_configuration(database_url: str, name: str = "tryton") -> Path:
    """Tryton's configuration, readable by its owner alone; its databases are all those of the cluster.

    What posting leads to is queued, not done in the same call: a document is ten times faster posted, and
    an invoice that is paid, or a sale that is posted, goes on when it is processed by an explicit call.
    """
    uri, _, _ = database_url.rpartition("/")
    (files := home() / "tryton-files").mkdir(exist_ok=True)
    lines = ["[database]", f"uri = {uri}", f"path = {files}", "[queue]", "worker = True", "[session]",
             "authentications = password"]  # fmt: skip
    return _private(home() / f"{name}.conf", "\n".join(lines) + "\n")


def start_tryton(configuration: Path, *, port: int = 0) -> Server:
    """Tryton, on a free port of loopback."""
    port = ports.free(port)
    web = {"TRYTOND_WEB__LISTEN": f"127.0.0.1:{port}"}
    command = [str(PYTHON / "python"), str(PYTHON / "trytond"), "-c", str(configuration)]
    return _start("tryton", command, f"http://127.0.0.1:{port}/", web)


def start_vendure(database_url: str, *, user: str, password: str, make_schema: bool = False) -> Server:
    """Vendure, on a free port of loopback."""
    port = ports.free()
    settings = {"port": port, "user": user, "password": password, "database": database_url, "synchronise": make_schema}
    file = _private(home() / "vendure.json", json.dumps(settings))
    address = f"http://127.0.0.1:{port}"
    return _start("vendure", ["node", str(VENDURE / "start.mjs"), str(file)], address,
                  {"VENDURE_DISABLE_TELEMETRY": "true"}, ready=f"{address}/health")  # fmt: skip


@contextmanager
def serving(server: Server) -> Iterator[Server]:
    """A server for a while."""
    try:
        yield server
    finally:
        server.stop()


def _start(name: str, command: Sequence[str], address: str, extra: dict[str, str], *, ready: str = "") -> Server:
    log = home() / f"{name}.log"
    path = f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}"
    with log.open("ab") as output:
        process = subprocess.Popen(command, env={**os.environ, "PATH": path, **extra}, stdin=subprocess.DEVNULL,
                                   stdout=output, stderr=output, cwd=home(), start_new_session=True)  # fmt: skip
    server = Server(name=name, pid=process.pid, address=address)
    deadline = time.monotonic() + START_TIMEOUT_SECONDS
    while time.monotonic() < deadline:
        try:
            httpx.get(ready or address, timeout=5, trust_env=False, verify=False)  # noqa: S501 plain HTTP on loopback
            return server
        except httpx.HTTPError:
            if process.poll() is not None:
                break
            time.sleep(0.1)
    server.stop()
    raise ServerFailed(f"{name} did not come up. It said last:\n{log.read_text('utf-8', errors='replace')[-1500:]}")


def _private(path: Path, text: str) -> Path:
    path.touch(mode=0o600)
    path.write_text(text, "utf-8")
    return path
