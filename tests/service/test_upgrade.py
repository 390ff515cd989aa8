"""An upgrade keeps what an earlier version kept."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import psycopg
import pytest


@pytest.fixture
def migrate(new_database: Callable[[str], str], tmp_path: Path) -> tuple[str, Callable[..., None]]:
    """A database of one's own, and the way to bring it to a version."""
    url = new_database("upgrade")

    def to(*where: str) -> None:
        subprocess.run(
            [sys.executable, "-m", "inkwell_bridge.service", "migrate", *where, "--verbosity", "0"],
            env={**os.environ, "DATABASE_URL": url, "INKWELL_HOME": str(tmp_path)}, check=True,
        )  # fmt: skip

    return url, to


def test_documents_and_bridges_of_the_first_version_go_on(migrate: tuple[str, Callable[..., None]]) -> None:
    """What the books held of an invoice is found under its new name; each bridge has a lane for customers, off."""
    url, to = migrate
    to("links", "zero")
    to("reference", "zero")
    to("carriage", "0002")
    to("connections", "0002")
    to("bridges", "0002")
    with psycopg.connect(url) as db:
        _first_version(db)
    to()
    with psycopg.connect(url) as db:
        (record,) = db.execute("SELECT record FROM carriage_document").fetchone() or ({},)
        lanes = db.execute('SELECT kind, "on" FROM bridges_lane ORDER BY kind').fetchall()
    assert record["document"] == {"external_reference": "INK:x", "lines": [], "role": "invoice"}
    assert "invoice" not in record
    assert lanes == [("customers", False), ("orders", True), ("refunds", False)]


def _first_version(db: psycopg.Connection) -> None:
    """A bridge with one document, as the first version wrote them."""

    def put(table: str, **fields: object) -> int:
        names, marks = ", ".join(f'"{name}"' for name in fields), ", ".join(["%s"] * len(fields))
        row = db.execute(
            f"INSERT INTO {table} ({names}) VALUES ({marks}) RETURNING id", list(fields.values())
        ).fetchone()
        assert row is not None
        return int(row[0])

    now = "2026-10-05T10:00:00Z"
    at = {"workspace_id": put("people_workspace", slug="w", name="W", created_at=now)}
    company = put("people_company", slug="c", name="C", country="GB", currency="GBP", time_zone="Europe/London", **at)
    ends = {"credentials": b"", "state": "new", "state_text": "", "described": "{}", "version": 1, "address": "x", **at}
    source = put("connections_connection", slug="s", name="S", kind="web-shop", side="sales", **ends)
    books = put("connections_connection", slug="b", name="B", kind="erp", side="books", **ends)
    bridge = put("bridges_bridge", slug="b", name="B", source_id=source, books_id=books, company_id=company,
                 created_at=now, **at)  # fmt: skip
    put("bridges_lane", bridge_id=bridge, kind="orders", on=True, **at)
    shot = put("carriage_snapshot", connection_id=source, kind="orders", source_id="1", number="1", fetched_at=now,
                   checksum="x", fingerprint="1:x", problem="", **at)  # fmt: skip
    crossing = put("carriage_crossing", bridge_id=bridge, kind="orders", source_id="1", number="1", snapshot_id=shot,
                   findings="[]", state="carried", cause="", left_out_by="", trouble="", tries=0, currency="GBP",
                   updated_at=now, **at)  # fmt: skip
    held = json.dumps({"id": "7", "invoice": {"mark": "INK:x", "lines": []}})
    put("carriage_document", crossing_id=crossing, connection_id=books, role="invoice", part=1, mark="INK:x",
        state="proved", planned="{}", reasons="[]", held=held, contact_id="1", books_id="7", books_number="SI-1",
        link="", currency="GBP", **at)  # fmt: skip
