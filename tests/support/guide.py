"""The commands of the guide, run as they stand there, and what they answer.

A block fenced as ``console`` holds commands after ``$`` and, below each, what it prints on either stream. The blocks of
pages 1 to 7 are one story, in this order, on ``./inkwell demo --empty``. ``python -m tests.support.guide`` writes what
they answer now into the pages.
"""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from inkwell_bridge.launch import places
from inkwell_bridge.launch.cluster import Cluster
from inkwell_bridge.launch.stack import SERVICE_PORT, STANDIN_PORTS
from tests.support.world import wait_for

PAGES = sorted((places.root() / "docs" / "guide").glob("[1-7]-*.md"))
BIN = Path(sys.executable).parent
_BLOCK = re.compile(r"^```console\n(.*?)^```$", re.MULTILINE | re.DOTALL)
# The demo's clock goes on while the commands run.
_TIME = re.compile(r"\b\d{4}-\d\d-\d\d \d\d:\d\d\b")


class Step(NamedTuple):
    """A command, and what stands below it."""

    command: str
    answer: str


def steps_of(block: str) -> list[Step]:
    """The commands of a block; one that ends in a backslash goes on in the next line."""
    steps: list[Step] = []
    lines = iter(block.splitlines())
    for line in lines:
        if not line.startswith("$ "):
            steps[-1] = Step(steps[-1].command, f"{steps[-1].answer}{line}\n")
            continue
        command = line[2:]
        while command.endswith("\\"):
            command += f"\n{next(lines)}"
        steps.append(Step(command, ""))
    return steps


def story() -> list[Step]:
    """Every command of the guide, in order."""
    return [step for page in PAGES for block in _BLOCK.findall(page.read_text("utf-8")) for step in steps_of(block)]


def alike(answer: str) -> str:
    """An answer without what is of the moment."""
    return _TIME.sub("YYYY-MM-DD hh:mm", answer).rstrip()


class Reader:
    """Somebody who follows the guide in a folder of their own, on a demo that runs."""

    def __init__(self, home: Path, folder: Path, environment: Mapping[str, str]) -> None:
        running = json.loads((home / "running.json").read_text("utf-8"))
        wanted = {"service": SERVICE_PORT, **STANDIN_PORTS}
        # The guide has the ports that the demo takes where they are free.
        self._ports = {
            f"127.0.0.1:{wanted[kind]}": address.removeprefix("http://")
            for kind, address in {"service": running["address"], **running["standins"]}.items()
        }
        self._folder = folder
        self._environment = {**environment, "INKWELL_PROFILE": str(home / "profile.json"),
                             "PATH": f"{BIN}:{os.environ['PATH']}"}  # fmt: skip

    def does(self, command: str) -> str:
        """What a command answers, on either stream."""
        for told, real in self._ports.items():
            command = command.replace(told, real)
        done = subprocess.run(
            ["bash", "-c", command], cwd=self._folder, env=self._environment, text=True, stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT, check=False, timeout=120,
        )  # fmt: skip
        answer = done.stdout
        for told, real in self._ports.items():
            answer = answer.replace(real, told)
        return answer


@contextmanager
def empty_demo(home: Path, database_url: str) -> Iterator[dict[str, str]]:
    """``inkwell demo --empty`` while it lasts; answers the environment of who follows it."""
    environment = {**os.environ, "INKWELL_HOME": str(home), "DATABASE_URL": database_url,
                   "INKWELL_ROOT": str(places.root())}  # fmt: skip
    with (home / "demo.log").open("wb") as log:
        demo = subprocess.Popen([BIN / "inkwell", "demo", "--empty"], env=environment, stdout=log, stderr=log)
    try:
        wait_for(lambda: True if b"Ctrl-C" in (home / "demo.log").read_bytes() else None, seconds=200, what="the demo")
        yield environment
    finally:
        demo.send_signal(signal.SIGINT)
        demo.wait(40)


def _written_anew(page: Path, reader: Reader) -> str:
    def answered(found: re.Match[str]) -> str:
        return "```console\n" + "".join(
            f"$ {step.command}\n{_kept(step.answer, reader.does(step.command))}" for step in steps_of(found[1])
        ) + "```"  # fmt: skip

    return _BLOCK.sub(answered, page.read_text("utf-8"))


def _kept(before: str, now: str) -> str:
    """What stands there, where only the moment differs."""
    now = "".join(f"{line.rstrip()}\n" for line in now.splitlines())
    return before if alike(before) == alike(now) else now


def main() -> None:
    """Write what the commands answer now into the pages."""
    base = "/var/lib/postgresql" if os.geteuid() == 0 else None
    with tempfile.TemporaryDirectory(dir=base) as folder, tempfile.TemporaryDirectory() as home:
        Path(folder).chmod(0o711)
        cluster = Cluster(Path(folder) / "cluster", Path(folder) / "keys")
        cluster.start()
        try:
            with empty_demo(Path(home), cluster.database("guide")) as environment:
                (Path(home) / "reader").mkdir()
                reader = Reader(Path(home), Path(home) / "reader", environment)
                for page in PAGES:
                    page.write_text(_written_anew(page, reader), "utf-8")
        finally:
            cluster.remove()


if __name__ == "__main__":
    main()
