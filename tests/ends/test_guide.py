"""The dialect that the guide writes is one: it is read from the guide, run, and spoken to over HTTP."""

from __future__ import annotations

import json
import re
import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

import pytest

from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.ends.contract import EndKind
from inkwell_bridge.ends.errors import NotOffered, Refused
from inkwell_bridge.ends.opening import Limits, Opening
from inkwell_bridge.ends.shapes import AddTag
from inkwell_bridge.launch import places
from inkwell_bridge.launch.places import LOOPBACK

GUIDE = places.root() / "docs" / "guide" / "8-new-dialect.md"
ANSWERS: dict[str, Any] = {
    "/fair": {"name": "Marrowby at the fair", "currency": "GBP", "time_zone": "Europe/London",
              "permissions": ["read orders"]},
    "/orders": [
        {"stall": 1, "at": "2026-10-03T10:00:00+01:00", "what": "Shawl pin", "for": "7.00"},
        {"stall": 2, "at": "2026-10-03T11:00:00+01:00", "what": "Yarn bowl", "for": "32.00"},
        {"stall": 3, "at": "yesterday", "what": "Skein", "for": "9.99"},
    ],
}  # fmt: skip


class Fair(BaseHTTPRequestHandler):
    """The fair's office."""

    def do_GET(self) -> None:
        """Answer whoever has the token."""
        good = self.headers.get("Authorization") == "Bearer right"
        self.send_response(200 if good else 401)
        self.send_header("Content-Type", "application/json")
        self.end_headers()
        self.wfile.write(json.dumps(ANSWERS[self.path] if good else {"error": "who are you"}).encode())

    def log_message(self, *_: object) -> None:
        """Say nothing."""


@pytest.fixture(scope="module")
def kind() -> EndKind:
    """The dialect, from the guide's own text."""
    (code,) = re.findall(r"```python\n(.*?)```", GUIDE.read_text("utf-8"), re.DOTALL)
    names: dict[str, Any] = {}
    exec(compile(code, str(GUIDE), "exec"), names)  # noqa: S102 it is our own text
    found = names["END"]
    assert isinstance(found, EndKind)
    return found


@pytest.fixture(scope="module")
def address() -> Iterator[str]:
    """Where the fair is."""
    server = ThreadingHTTPServer(("127.0.0.1", 0), Fair)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()


def test_the_guides_dialect_works(kind: EndKind, address: str) -> None:
    """Checked, listed, fetched; what it cannot understand is not lost; what it cannot do is said."""
    fair = kind.open(Opening(address=address, credentials={"token": "right"}, limits=Limits(), guard=LOOPBACK))
    assert fair.check().missing == ()
    documents = fair.documents(SourceKind.ORDERS, changed_since=None).documents
    assert [one.number for one in documents] == ["1", "2", "3"]
    assert [bool(one.problem) for one in documents] == [False, False, True]
    since = documents[1].changed_at
    assert [one.number for one in fair.documents(SourceKind.ORDERS, changed_since=since).documents] == ["2", "3"]
    assert fair.fetch_by_ids(SourceKind.ORDERS, ["2"]) == (documents[1],)
    assert fair.document(SourceKind.ORDERS, "2").document.total == documents[1].document.total
    with pytest.raises(NotOffered):
        fair.write_back(AddTag(id="1", tag="x"))
    with pytest.raises(Refused, match="who are you"):
        kind.open(Opening(address=address, credentials={"token": "wrong"}, limits=Limits(), guard=LOOPBACK)).check()
