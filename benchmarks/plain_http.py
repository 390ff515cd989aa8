"""Plain HTTP/1.1 over connections that are kept, so that asking takes as little as may be of the cores it shares."""

from __future__ import annotations

import asyncio
import time
from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from dataclasses import dataclass, field
from statistics import quantiles
from urllib.parse import urlsplit

# Nobody waits for an answer any longer.
PATIENCE_SECONDS = 60.0
_LOST = (OSError, TimeoutError, asyncio.IncompleteReadError, ValueError)


@dataclass(slots=True)
class Answers:
    """What so many people were answered."""

    seconds: list[float] = field(default_factory=list)
    failed: int = 0

    def told(self, took: float) -> str:
        """A line of figures."""
        cuts = quantiles(self.seconds, n=100) if len(self.seconds) > 1 else [0.0] * 99
        return (f"{len(self.seconds) / took:>8.0f} a second   p50 {1000 * cuts[49]:>7.0f} ms   "
                f"p95 {1000 * cuts[94]:>7.0f} ms   failed {self.failed}")  # fmt: skip


class Asker:
    """One connection to the service; opened anew where the service closed it."""

    def __init__(self, address: str, answers: Answers) -> None:
        at = urlsplit(address)
        self._host, self._port = at.hostname or "", at.port
        self._answers = answers
        self._there: tuple[asyncio.StreamReader, asyncio.StreamWriter] | None = None

    async def ask(self, request: bytes) -> None:
        """Send a request as it stands, and count its answer."""
        began = time.perf_counter()
        try:
            async with asyncio.timeout(PATIENCE_SECONDS):
                self._there = self._there or await asyncio.open_connection(self._host, self._port)
                status, closes = await _exchange(*self._there, request)
        except _LOST as error:
            status, closes = repr(error), True
        if status.startswith("2"):
            self._answers.seconds.append(time.perf_counter() - began)
        else:
            self._answers.failed += 1
            print(f"  failed: {status}")
        if closes:
            self.close()

    def request(self, method: str, path: str, headers: dict[str, str], body: bytes = b"") -> bytes:
        """A request, written out."""
        said = {"Host": self._host, **headers, **({"Content-Length": str(len(body))} if body else {})}
        head = "".join(f"{name}: {value}\r\n" for name, value in said.items())
        return f"{method} {path} HTTP/1.1\r\n{head}\r\n".encode() + body

    def close(self) -> None:
        """Hang up."""
        if self._there:
            self._there[1].close()
        self._there = None


@asynccontextmanager
async def askers(address: str, number: int, answers: Answers) -> AsyncIterator[Sequence[Asker]]:
    """So many connections."""
    made = [Asker(address, answers) for _ in range(number)]
    try:
        yield made
    finally:
        for one in made:
            one.close()


async def _exchange(reader: asyncio.StreamReader, writer: asyncio.StreamWriter, request: bytes) -> tuple[str, bool]:
    """Ask once; answers the status, and whether the connection closes."""
    writer.write(request)
    await writer.drain()
    head = (await reader.readuntil(b"\r\n\r\n")).decode("latin-1").lower()
    if "content-length:" in head:
        await reader.readexactly(int(head.split("content-length:", 1)[1].split("\r\n", 1)[0]))
    elif "transfer-encoding: chunked" in head:
        while size := int((await reader.readuntil(b"\r\n")).strip(), 16):
            await reader.readexactly(size + 2)
        await reader.readuntil(b"\r\n")
    return head.split(" ", 2)[1], "connection: close" in head
