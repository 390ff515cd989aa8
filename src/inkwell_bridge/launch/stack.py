"""The whole program on one machine, as one thing to start and stop."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Mapping
from pathlib import Path

import httpx

from inkwell_bridge.launch import places, ports
from inkwell_bridge.launch.supervisor import Part, Supervisor

START_TIMEOUT_SECONDS = 60.0
SERVICE_PORT = 8642
STANDIN_PORTS = {"web-shop": 8651, "erp": 8652, "ledger": 8653, "contact-list": 8654, "passage": 8655,
                 "marketplace": 8656, "payment-provider": 8657}  # fmt: skip


class Stack:
    """Service, worker and stand-ins over one database.

    ``home`` holds keys, clock and logs; ``stores`` is a folder where the stand-ins keep their state,
    or nothing where they keep it in memory.
    """

    def __init__(
        self,
        *,
        database_url: str,
        home: Path,
        console: Path,
        stores: Path | None = None,
        extra: Mapping[str, str] | None = None,
        fixed_ports: bool = False,
        workers: int = 1,
        processes: int = 1,
    ) -> None:
        self.home = home
        self._stores, self._workers, self._processes = stores, workers, processes
        self.logs = home / "logs"
        self.logs.mkdir(parents=True, exist_ok=True)
        self.service_port = ports.free(SERVICE_PORT if fixed_ports else 0)
        self._standin_ports = {kind: ports.free(port if fixed_ports else 0) for kind, port in STANDIN_PORTS.items()}
        self.environment = {
            "DATABASE_URL": database_url,
            "INKWELL_HOME": str(home),
            "INKWELL_PUBLIC_ADDRESS": self.address,
            "INKWELL_CONSOLE": str(console),
            "INKWELL_CLOCK_FILE": str(home / "clock"),
            "DJANGO_SETTINGS_MODULE": "inkwell_bridge.service.settings",
            "INKWELL_END_NETWORKS": ",".join(places.LOOPBACK_NETWORKS),
            "PYTHONUNBUFFERED": "1",
            **(extra or {}),
        }
        self.supervisor = Supervisor(self._parts())

    @property
    def address(self) -> str:
        """Where the service is."""
        return f"http://127.0.0.1:{self.service_port}"

    def standin(self, kind: str) -> str:
        """Where a stand-in is."""
        return f"http://127.0.0.1:{self._standin_ports[kind]}"

    @property
    def shop(self) -> str:
        """Where the web shop stand-in is."""
        return self.standin("web-shop")

    @property
    def erp(self) -> str:
        """Where the ERP stand-in is."""
        return self.standin("erp")

    def start(self) -> None:
        """Start everything and wait until it answers."""
        self.supervisor.start()
        self._wait(f"{self.address}/alive")
        for kind in STANDIN_PORTS:
            self._wait(f"{self.standin(kind)}/none/control/misbehaviour")

    def stop(self) -> None:
        """Stop everything."""
        self.supervisor.stop()

    def administer(self, *arguments: str, given: str = "") -> str:
        """Run an administration command of the service; answers what it printed.

        Raises:
            RuntimeError: with what it said, where it failed.
        """
        done = subprocess.run(
            [sys.executable, "-m", "inkwell_bridge.service", *arguments],
            input=given,
            text=True,
            capture_output=True,
            env={**os.environ, **self.environment},
            check=False,
        )
        if done.returncode:
            raise RuntimeError(f"{arguments[0]} failed:\n{(done.stdout + done.stderr)[-2000:]}")
        return done.stdout

    def worker(self, name: str) -> Part:
        """A worker of this stack, not started yet."""
        return self._part(name, "-m", "inkwell_bridge.service", "work")

    def _parts(self) -> list[Part]:
        gunicorn = (
            "-m",
            "gunicorn",
            "--bind",
            f"127.0.0.1:{self.service_port}",
            "--workers",
            str(self._processes),
            # Above our own, so that we answer an address that is too long as any other fault.
            "--limit-request-line",
            "8190",
            # Longer than clients and proxies keep theirs (httpx 5 s, nginx 60 s): whoever closes first must not be we,
            # for a request that is on its way just then is lost.
            "--keep-alive",
            "75",
            "--timeout",
            "120",
            "--worker-class",
            "inkwell_bridge.service.even_worker.EvenWorker",
            "--threads",
            "16",
            "--worker-tmp-dir",
            "/dev/shm",  # noqa: S108 gunicorn's own heartbeat file, which must not wait for a disk
            "--no-control-socket",
            "inkwell_bridge.service.wsgi",
        )
        return [
            self._standins(),
            self._part("service", *gunicorn),
            *(self.worker(f"worker-{number}") for number in range(1, self._workers + 1)),
        ]

    def _standins(self) -> Part:
        served = [f"{kind}={port}" for kind, port in self._standin_ports.items()]
        stores = ("--stores", str(self._stores)) if self._stores else ()
        return self._part("stand-ins", "-m", "inkwell_bridge.standins", *served, *stores)

    def _part(self, name: str, *arguments: str) -> Part:
        return Part(
            name=name, command=(sys.executable, *arguments), environment=self.environment, log=self.logs / f"{name}.log"
        )

    def _wait(self, address: str) -> None:
        deadline = time.monotonic() + START_TIMEOUT_SECONDS
        while True:
            try:
                httpx.get(address, timeout=5, trust_env=False, verify=False)  # noqa: S501 plain HTTP on loopback
                return
            except httpx.HTTPError:
                self.supervisor.look_after()
                if time.monotonic() > deadline:
                    raise TimeoutError(f"{address} did not answer; the logs are in {self.logs}") from None
                time.sleep(0.1)
