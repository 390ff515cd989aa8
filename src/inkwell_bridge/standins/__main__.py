"""Serve one stand-in: ``python -m inkwell_bridge.standins web-shop --port 8101 --store shop.sqlite``."""

from __future__ import annotations

import argparse
from pathlib import Path

import uvicorn

from inkwell_bridge.standins import erp, web_shop
from inkwell_bridge.standins.store import Store

KINDS = {"web-shop": web_shop.application, "erp": erp.application}


def main() -> None:
    """Read the arguments and serve until told to stop."""
    parser = argparse.ArgumentParser(prog="inkwell_bridge.standins", description=__doc__)
    parser.add_argument("kind", choices=sorted(KINDS))
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--store", default=":memory:", help="SQLite file that keeps the stand-in's state")
    given = parser.parse_args()
    store = Store(given.store if given.store == ":memory:" else Path(given.store))
    uvicorn.run(
        KINDS[given.kind](store), host="127.0.0.1", port=given.port, log_level="critical", timeout_graceful_shutdown=1
    )


if __name__ == "__main__":
    main()
