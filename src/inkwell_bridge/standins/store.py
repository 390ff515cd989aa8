"""Where a stand-in keeps its worlds: documents in SQLite, so that they outlive the process."""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path
from typing import Any

_SCHEMA = """
create table if not exists document (
    world text not null, kind text not null, id integer not null, body text not null,
    find text not null default '', sort text not null default '',
    primary key (world, kind, id)
);
create index if not exists document_find on document (world, kind, find);
create index if not exists document_sort on document (world, kind, sort, id);
create index if not exists document_order on document (world, kind, json_extract(body, '$.order'));
"""


class Store:
    """Documents by world, kind and number.

    ``find`` is one text that a document is searched by, ``sort`` one that lists are ordered by.
    """

    def __init__(self, path: Path | str) -> None:
        self._db = sqlite3.connect(path, isolation_level=None, check_same_thread=False)
        self._db.execute("pragma journal_mode=wal")
        self._db.execute("pragma synchronous=off")
        self._db.executescript(_SCHEMA)

    def put(self, world: str, kind: str, number: int, body: dict[str, Any], *, find: str = "", sort: str = "") -> None:
        """Write a document, in place of one with the same number."""
        self._db.execute(
            "insert or replace into document values (?, ?, ?, ?, ?, ?)",
            (world, kind, number, json.dumps(body), find, sort),
        )

    def add(self, world: str, kind: str, body: dict[str, Any], *, find: str = "", sort: str = "") -> int:
        """Write a document under the next free number, which also becomes its ``id``."""
        number = self.highest(world, kind) + 1
        self.put(world, kind, number, {**body, "id": number}, find=find, sort=sort)
        return number

    def get(self, world: str, kind: str, number: int) -> dict[str, Any] | None:
        """One document, or nothing."""
        row = self._db.execute(
            "select body from document where world = ? and kind = ? and id = ?", (world, kind, number)
        ).fetchone()
        return json.loads(row[0]) if row else None

    def edit(self, world: str, kind: str, number: int, fields: dict[str, Any]) -> None:
        """Change fields of a document in its place, as somebody would by hand; it is found as before."""
        body = {**(self.get(world, kind, number) or {}), **fields}
        self._db.execute(
            "update document set body = ? where world = ? and kind = ? and id = ?",
            (json.dumps(body), world, kind, number),
        )

    def remove(self, world: str, kind: str, number: int) -> None:
        """Take a document away, as though it had never been there."""
        self._db.execute("delete from document where world = ? and kind = ? and id = ?", (world, kind, number))

    def search(self, world: str, kind: str, *find: str) -> list[dict[str, Any]]:
        """All documents found by one of these texts, oldest first."""
        marks = ", ".join("?" * len(find))
        rows = self._db.execute(
            f"select body from document where world = ? and kind = ? and find in ({marks}) order by id",  # noqa: S608
            (world, kind, *find),
        )
        return [json.loads(row[0]) for row in rows]

    def has(self, world: str, kind: str, find: str) -> bool:
        """Whether there is a document found by that text."""
        query = "select 1 from document where world = ? and kind = ? and find = ? limit 1"
        return self._db.execute(query, (world, kind, find)).fetchone() is not None

    def count(self, world: str, kind: str) -> int:
        """How many documents there are of a kind."""
        query = "select count(*) from document where world = ? and kind = ?"
        return int(self._db.execute(query, (world, kind)).fetchone()[0])

    def highest(self, world: str, kind: str) -> int:
        """The highest number of a kind; 0 where there is none."""
        query = "select coalesce(max(id), 0) from document where world = ? and kind = ?"
        return int(self._db.execute(query, (world, kind)).fetchone()[0])

    def newest(self, world: str, kind: str) -> str:
        """What sorts last of a kind; nothing where there is none."""
        query = "select coalesce(max(sort), '') from document where world = ? and kind = ?"
        return str(self._db.execute(query, (world, kind)).fetchone()[0])

    def behind(self, world: str, kind: str, *, after: int, limit: int) -> dict[str, Any]:
        """Documents by number, behind one: ``entries``, the number to go on ``onward`` from, and the ``total``."""
        rows = self._db.execute(
            "select body from document where world = ? and kind = ? and id > ? order by id limit ?",
            (world, kind, after, limit + 1),
        )
        found = [json.loads(row[0]) for row in rows]
        entries = found[:limit]
        onward = entries[-1]["id"] if len(found) > limit else None
        return {"entries": entries, "onward": onward, "total": self.count(world, kind)}

    def bearing(self, world: str, kind: str, numbers: list[str]) -> list[dict[str, Any]]:
        """All documents of these orders, or found by one of these texts, oldest first."""
        marks = ", ".join("?" * len(numbers))
        condition = f"(find in ({marks}) or json_extract(body, '$.order') in ({marks}))"
        rows = self._db.execute(
            f"select body from document where world = ? and kind = ? and {condition} order by id",  # noqa: S608
            (world, kind, *numbers, *numbers),
        )
        return [json.loads(row[0]) for row in rows]

    def found_behind(self, world: str, kind: str, prefix: str, *, after: int, limit: int) -> dict[str, Any]:
        """Documents whose ``find`` begins so, by number, behind one; see ``behind``."""
        rows = self._db.execute(
            "select body from document where world = ? and kind = ? and id > ? and substr(find, 1, ?) = ? "
            "order by id limit ?",
            (world, kind, after, len(prefix), prefix, limit + 1),
        )
        found = [json.loads(row[0]) for row in rows]
        return {"entries": found[:limit], "onward": found[limit - 1]["id"] if len(found) > limit else None}

    def page(self, world: str, kind: str, *, after: tuple[str, int], limit: int) -> list[dict[str, Any]]:
        """Documents behind a place in the order, at most ``limit``."""
        rows = self._db.execute(
            "select body from document where world = ? and kind = ? and (sort, id) > (?, ?) order by sort, id limit ?",
            (world, kind, *after, limit),
        )
        return [json.loads(row[0]) for row in rows]

    def all(self, world: str, kind: str) -> list[dict[str, Any]]:
        """Every document of a kind, by number."""
        rows = self._db.execute("select body from document where world = ? and kind = ? order by id", (world, kind))
        return [json.loads(row[0]) for row in rows]

    def contents(self, world: str) -> dict[str, list[dict[str, Any]]]:
        """Everything in a world, by kind; what is secret in it stays out."""
        rows = self._db.execute(
            "select kind, body from document where world = ? and kind not in "
            "('session', 'company', 'shop', 'hook', 'key', 'code', 'token', 'grant') order by kind, id",
            (world,),
        )
        result: dict[str, list[dict[str, Any]]] = {"contact": [], "invoice": []}
        for kind, body in rows:
            result.setdefault(kind, []).append(json.loads(body))
        return result

    def forget(self, world: str, kind: str) -> None:
        """Forget all documents of a kind."""
        self._db.execute("delete from document where world = ? and kind = ?", (world, kind))

    def clear(self, world: str) -> None:
        """Forget a world."""
        self._db.execute("delete from document where world = ?", (world,))
