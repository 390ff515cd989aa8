"""An upgrade keeps what an earlier version kept."""

from __future__ import annotations

import gzip
import json
import os
import subprocess
import sys
from collections.abc import Callable
from decimal import Decimal
from pathlib import Path

import psycopg
import pytest
import yaml

from inkwell_bridge.launch import places


@pytest.fixture
def migrate(empty_database: Callable[[str], str], tmp_path: Path) -> tuple[str, Callable[..., None]]:
    """A database of one's own with nothing in it, and the way to bring it to a version."""
    url = empty_database("upgrade")

    def to(*where: str) -> None:
        subprocess.run(
            [sys.executable, "-m", "inkwell_bridge.service", "migrate", *where, "--verbosity", "0"],
            env={**os.environ, "DATABASE_URL": url, "INKWELL_HOME": str(tmp_path)}, check=True,
        )  # fmt: skip

    return url, to


def test_documents_and_bridges_of_the_first_version_go_on(migrate: tuple[str, Callable[..., None]]) -> None:
    """What the books held of an invoice is found under its new name; each bridge has a lane for customers, off."""
    url, to = migrate
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


def test_a_month_of_an_earlier_version_ties_as_it_did(
    new_database: Callable[[str], str], tmp_path: Path, migrate: tuple[str, Callable[..., None]]
) -> None:
    """The demo's October as the version before kept it, brought over with its history: every figure is as it was."""
    url, to = migrate
    with psycopg.connect(url, autocommit=True) as db:
        db.execute("DROP SCHEMA public CASCADE; CREATE SCHEMA public; SET client_min_messages = error")
        db.execute(gzip.decompress(DUMP.read_bytes()).decode())  # type: ignore[arg-type]
        db.execute("SET search_path = public")
        before = dict(db.execute("SELECT kind || ' ' || state, count(*) FROM carriage_crossing GROUP BY 1").fetchall())
        sums = db.execute(_BOOKS_BEFORE).fetchall()
    to()
    with psycopg.connect(url) as db:
        after = dict(db.execute("SELECT kind || ' ' || state, count(*) FROM carriage_crossing GROUP BY 1").fetchall())
        assert after == before
        assert db.execute(_BOOKS_AFTER).fetchall() == sums
        # Every document has its crossings, and the shares of these add up to it.
        assert db.execute(
            "SELECT count(*) FROM carriage_document AS document LEFT JOIN (SELECT document_id, sum(gross) AS gross "
            "FROM carriage_documentsource GROUP BY 1) AS shares ON shares.document_id = document.id "
            "WHERE shares.document_id IS NULL OR shares.gross IS DISTINCT FROM document.gross"
        ).fetchone() == (0,)
        left = db.execute("SELECT count(*) FROM carriage_document WHERE planned::text LIKE '%\"mark\": %'").fetchone()
        assert left == (0,)
        assert db.execute("SELECT count(*) FROM carriage_document WHERE planned ? 'final'").fetchone() != (None,)
        events = dict(db.execute("SELECT kind, count(*) FROM carriage_crossingevent GROUP BY 1").fetchall())
        assert events["staged"] == sum(before.values())
        assert events["carried"] == sum(number for name, number in before.items() if name.endswith(" carried"))
    _ties(url, tmp_path)


def _ties(url: str, home: Path) -> None:
    """The service's own tie-out of that month, asked within a process of its own, beside the figures of the demo."""
    asked = (
        "import django, json; django.setup()\n"
        "from datetime import date\n"
        "from inkwell_bridge.service.people.models import Workspace\n"
        "from inkwell_bridge.service.tieout import sheet\n"
        "from inkwell_bridge.service.tieout.scope import Scope\n"
        "one = Scope(Workspace.objects.get(slug='marrowby'), date(2026, 10, 1), date(2026, 10, 31),\n"
        "            'web-shop-to-uk-books')\n"
        "totals = next(row for row in sheet.headline(one) if row.place[:2] == ('sales', 'GBP'))\n"
        "say = lambda side: [str(amount + 0) for amount in (side.net, side.tax, side.gross)]\n"
        "print(json.dumps({'totals': {name: say(getattr(totals, name)) for name in ('books', 'unexplained')},\n"
        "    'codes': {row.place.tax_code: [*say(row.source)[:2], *say(row.books)[:2], *say(row.unexplained)]\n"
        "              for row in sheet.whole(one).tax_codes},\n"
        "    'tenders': {row.place.tender: str(row.books.gross) for row in sheet.whole(one).tenders\n"
        "                if row.place.currency == 'GBP'}}))\n"
    )
    environment = {**os.environ, "DATABASE_URL": url, "INKWELL_HOME": str(home),
                   "DJANGO_SETTINGS_MODULE": "inkwell_bridge.service.settings"}  # fmt: skip
    done = subprocess.run([sys.executable, "-c", asked], env=environment, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    said = json.loads(done.stdout)
    month = yaml.safe_load((places.root() / "src/inkwell_bridge/demo/month.yaml").read_text("utf-8"))
    wanted = month["web-shop-to-uk-books"]

    def exact(amounts: list[str]) -> list[Decimal]:
        return [Decimal(amount) for amount in amounts]

    # Two orders in EUR cross by today's rules, each as 16.09 untaxed; their money came to 16.17 and 16.02.
    since = {"books": Decimal("32.18"), "tenders": Decimal("32.19")}
    net, tax, gross = exact([wanted["books"][name] for name in ("net", "tax", "gross")])
    assert exact(said["totals"]["books"]) == [net - since["books"], tax, gross - since["books"]]
    assert exact(said["totals"]["unexplained"]) == [0, 0, 0]
    codes = {
        code: exact(
            [one["source"]["net"], one["source"]["tax"], one["books"]["net"], one["books"]["tax"], "0", "0", "0"]
        )
        for code, one in wanted["tax_codes"].items()
    }
    codes["X00"] = [codes["X00"][0] - since["books"], 0, codes["X00"][2] - since["books"], 0, 0, 0, 0]  # type: ignore[list-item]
    assert {code: exact(amounts) for code, amounts in said["codes"].items()} == codes
    tenders = {tender: Decimal(one["books"]) for tender, one in wanted["tenders"].items()}
    tenders["card"] -= since["tenders"]
    assert {tender: Decimal(amount) for tender, amount in said["tenders"].items()} == tenders


DUMP = Path(__file__).parents[1] / "data" / "october-0.1.0.sql.gz"
# The documents that stand for sales, of a sales order and its invoice the invoice, by bridge; as both versions say it.
_BOOKS_BEFORE = """
    SELECT bridge.slug, count(*), sum(document.net), sum(document.tax), sum(document.gross)
    FROM carriage_document AS document JOIN carriage_crossing AS crossing ON crossing.id = document.crossing_id
    JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id
    WHERE document.role = 'invoice' AND document.gross IS NOT NULL AND crossing.state = 'carried' GROUP BY 1 ORDER BY 1
"""
_BOOKS_AFTER = """
    SELECT bridge.slug, sum(figure.count), sum(figure.net), sum(figure.tax), sum(figure.gross)
    FROM carriage_figure AS figure
    JOIN bridges_bridge AS bridge ON bridge.id = figure.bridge_id JOIN carriage_crossing AS crossing
    ON crossing.id = figure.crossing_id WHERE side = 'books' AND grain = 'document' AND role = 'invoice'
    AND crossing.state = 'carried' GROUP BY 1 ORDER BY 1
"""
