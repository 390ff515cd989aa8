"""Connections go to the processes of the service evenly, and to the others where one is gone."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from collections import Counter
from collections.abc import Iterator
from http.client import HTTPConnection
from pathlib import Path

import pytest

from inkwell_bridge.launch import ports
from tests.support.world import wait_for

# Answers with the process that answers.
APP = """
import os
def application(environ, start_response):
    body = str(os.getpid()).encode()
    start_response("200 OK", [("Content-Length", str(len(body)))])
    return [body]
"""


@pytest.fixture
def port(tmp_path: Path) -> Iterator[int]:
    """Two processes of a small application."""
    (tmp_path / "answering.py").write_text(APP, "utf-8")
    port = ports.free()
    command = [sys.executable, "-m", "gunicorn", "--bind", f"127.0.0.1:{port}", "--workers", "2", "--threads", "4",
               "--keep-alive", "30", "--graceful-timeout", "1", "--no-control-socket", "--worker-class",
               "inkwell_bridge.service.even_worker.EvenWorker", "answering"]  # fmt: skip
    with (tmp_path / "log").open("w") as log:
        process = subprocess.Popen(command, cwd=tmp_path, stdout=log, stderr=log)
        try:
            yield port
        finally:
            process.terminate()
            process.wait(timeout=30)


def person(port: int) -> HTTPConnection:
    """A connection that stays open, once somebody listens."""

    def look() -> HTTPConnection | None:
        made = HTTPConnection("127.0.0.1", port, timeout=10)
        try:
            made.connect()
        except ConnectionRefusedError:
            return None
        return made

    return wait_for(look, seconds=20, what="the service")


def answered_by(connection: HTTPConnection) -> int:
    """The process that answers on a connection."""
    connection.request("GET", "/")
    return int(connection.getresponse().read())


def test_each_process_has_its_share_of_those_who_stay(port: int) -> None:
    """Forty come: twenty each, give or take what was on its way at the same moment."""
    processes = set()
    while len(processes) < 2:
        # Until both are there.
        first = person(port)
        processes.add(answered_by(first))
        first.close()
    staying = [person(port) for _ in range(40)]
    found = Counter(map(answered_by, staying))
    assert set(found) == processes
    assert abs(found.most_common()[0][1] - 20) <= 6, found


def test_a_process_that_was_killed_is_not_waited_for(port: int) -> None:
    """Its row is never cleared by itself."""
    before = [person(port) for _ in range(10)]
    killed = min(map(answered_by, before))
    os.kill(killed, signal.SIGKILL)
    after = [person(port) for _ in range(20)]
    found = Counter(map(answered_by, after))
    assert killed not in found
    assert found.total() == 20
