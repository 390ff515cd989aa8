"""Serve stand-ins: ``python -m inkwell_bridge.standins web-shop=8101 erp=8102 --stores some/folder``."""

from __future__ import annotations

import argparse
import asyncio
from pathlib import Path

import uvicorn

from inkwell_bridge.standins import contact_list, erp, ledger, marketplace, passage, payment_provider, web_shop
from inkwell_bridge.standins.store import Store

KINDS = {
    "web-shop": web_shop.application,
    "erp": erp.application,
    "ledger": ledger.application,
    "contact-list": contact_list.application,
    "marketplace": marketplace.application,
    "passage": passage.application,
    "payment-provider": payment_provider.application,
}


def main() -> None:
    """Read the arguments and serve until told to stop."""
    parser = argparse.ArgumentParser(prog="inkwell_bridge.standins", description=__doc__)
    parser.add_argument("served", nargs="+", metavar="KIND=PORT", help=f"kinds: {', '.join(KINDS)}")
    parser.add_argument("--stores", type=Path, help="folder for the SQLite files that keep their state")
    given = parser.parse_args()
    asyncio.run(_serve([one.partition("=") for one in given.served], given.stores))


async def _serve(served: list[tuple[str, str, str]], stores: Path | None) -> None:
    servers = [_server(kind, int(port), stores) for kind, _, port in served]
    await asyncio.gather(*(server.serve() for server in servers))


def _server(kind: str, port: int, stores: Path | None) -> uvicorn.Server:
    store = Store(stores / f"{kind}.sqlite" if stores else ":memory:")
    settings = uvicorn.Config(
        KINDS[kind](store), host="127.0.0.1", port=port, log_level="critical", timeout_graceful_shutdown=1
    )
    return uvicorn.Server(settings)


if __name__ == "__main__":
    main()
