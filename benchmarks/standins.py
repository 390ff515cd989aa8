"""How many requests a second the stand-ins answer: ``.venv/bin/python benchmarks/standins.py``.

Prints each as a ratio to the floor below which a stand-in would be the bottleneck of other benchmarks.
"""

from __future__ import annotations

import asyncio
import subprocess
import sys
import time
from typing import Any

import httpx

from inkwell_bridge.demo import month
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.launch import ports
from inkwell_bridge.launch.demo_client import LISTS

FLOOR_REQUESTS_PER_SECOND = 1000.0
REQUESTS, AT_ONCE = 3000, 8


def raw(port: int, path: str, headers: dict[str, str], body: bytes = b"") -> float:
    """The same over bare connections: what the stand-in can do, without a client's own work."""
    method = "POST" if body else "GET"
    lines = [f"{method} {path} HTTP/1.1", "Host: x", *(f"{name}: {value}" for name, value in headers.items())]
    if body:
        lines += ["Content-Type: application/json", f"Content-Length: {len(body)}"]
    request = ("\r\n".join(lines) + "\r\n\r\n").encode() + body
    return asyncio.run(_raw(port, request))


async def _raw(port: int, request: bytes) -> float:
    left = iter(range(REQUESTS))

    async def caller() -> None:
        reader, writer = await asyncio.open_connection("127.0.0.1", port)
        for _ in left:
            writer.write(request)
            head = await reader.readuntil(b"\r\n\r\n")
            assert b" 200 " in head.split(b"\r\n")[0], head
            length = next(line for line in head.lower().split(b"\r\n") if line.startswith(b"content-length"))
            await reader.readexactly(int(length.split(b":")[1]))
        writer.close()

    started = time.perf_counter()
    await asyncio.gather(*(caller() for _ in range(AT_ONCE)))
    return REQUESTS / (time.perf_counter() - started)


def main() -> None:
    """Start the stand-ins, ask them, print the ratios."""
    kinds = {kind: ports.free(0) for kind in ("web-shop", "erp", "ledger", "contact-list")}
    served = [f"{kind}={port}" for kind, port in kinds.items()]
    process = subprocess.Popen([sys.executable, "-m", "inkwell_bridge.standins", *served])
    try:
        _fill(kinds)
        for name, rate in _rates(kinds):
            ratio = rate / FLOOR_REQUESTS_PER_SECOND
            print(f"{name:<34} {rate:8.0f} a second   {ratio:5.2f} of the floor of {FLOOR_REQUESTS_PER_SECOND:g}")
    finally:
        process.terminate()
        process.wait()


def _rates(kinds: dict[str, int]) -> list[tuple[str, float]]:
    basic = httpx.BasicAuth(facts()["web_shop"]["key"], facts()["web_shop"]["secret"])
    shop = {"Authorization": basic._auth_header}
    call = b'{"jsonrpc":"2.0","id":1,"method":"session.open","params":{"user":"%s","password":"%s"}}' % (
        facts()["books"]["user"].encode(), facts()["books"]["password"].encode(),
    )  # fmt: skip
    session = httpx.post(f"http://127.0.0.1:{kinds['erp']}/b/rpc", content=call, verify=False).json()["result"]  # noqa: S501
    erp = {"Authorization": f"Session {session['session']}"}
    search = b'{"jsonrpc":"2.0","id":1,"method":"invoices.search","params":{"reference":"INK:x"}}'
    create = (
        b'{"jsonrpc":"2.0","id":1,"method":"invoices.create","params":{"contact":1,"date":"2026-10-05","currency":"GBP",'
        b'"reference":"INK:x:1","order":"1","link":"","memo":"","lines":[{"text":"Skein","note":"goods:1",'
        b'"account":"4000","quantity":"1","unit_price":"8.32","tax_code":"S20"}]}}'
    )
    ledger = {"Authorization": f"Bearer {facts()['irish_books']['token']}"}
    contacts = {"Authorization": f"Bearer {facts()['contact_list']['token']}"}
    return [
        ("web shop: one order", raw(kinds["web-shop"], "/b/api/orders/MW-10003", shop)),
        ("ERP: search by reference", raw(kinds["erp"], "/b/rpc", erp, search)),
        ("ERP: make an invoice", raw(kinds["erp"], "/b/rpc", erp, create)),
        ("ledger: search by reference", raw(kinds["ledger"], "/b/invoices?reference=INK:x", ledger)),
        ("contact list: search by e-mail", raw(kinds["contact-list"], "/b/people?email=a@b.example", contacts)),
    ]


def _fill(kinds: dict[str, int]) -> None:
    deadline = time.monotonic() + 30
    for kind, port in kinds.items():
        contents: dict[str, Any] = month.web_shop()
        if kind != "web-shop":
            entries = facts()[{"erp": "books", "ledger": "irish_books", "contact-list": "contact_list"}[kind]]
            company = {name: value for name, value in entries.items() if name not in LISTS}
            contents = {"company": company, **{name: value for name, value in entries.items() if name in LISTS}}
        while True:
            try:
                url = f"http://127.0.0.1:{port}/b/control/contents"
                httpx.put(url, json=contents, verify=False).raise_for_status()  # noqa: S501 plain HTTP on loopback
                break
            except httpx.ConnectError:
                if time.monotonic() > deadline:
                    raise
                time.sleep(0.2)


if __name__ == "__main__":
    main()
