"""Calls about the links of one kind over one bridge."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal
from typing import Any

from inkwell_bridge.client import models
from inkwell_bridge.client.transport import Transport


class LinkCalls:
    """Which product is which item, or which customer is which contact."""

    def __init__(self, transport: Transport, path: str) -> None:
        self._transport, self._path = transport, path

    def all(self, **filters: Any) -> Iterator[models.Linked]:
        """Everything of the sales side, with where it leads; filters: q, state (linked, none, open), active."""
        return self._transport.pages(models.Linked, self._path, filters)

    def counts(self) -> models.LinkCounts:
        """How far the linking is."""
        return self._transport.one(models.LinkCounts, "GET", f"{self._path}/counts")

    def questions(self, *, limit: int = 10, after: int | None = None, q: str = "") -> list[models.Question]:
        """What a person must say next, each with what it may be."""
        query = {"limit": limit, "after": after, "q": q}
        return self._transport.several(models.Question, "GET", f"{self._path}/questions", query=query)

    def answer(self, key: str, *targets: str | tuple[str, Decimal]) -> models.LinkChange:
        """Say what one is: one target or several, each with how many of it; none, where there is no counterpart."""
        named = [(target, Decimal(1)) if isinstance(target, str) else target for target in targets]
        told = [{"id": identity, "quantity": f"{quantity:f}"} for identity, quantity in named]
        return self.answer_all([{"key": key, "targets": told, "none": not told}])

    def answer_all(self, answers: Sequence[dict[str, Any]]) -> models.LinkChange:
        """Say what several are, all together or not at all."""
        body = {"answers": list(answers)}
        return self._transport.one(models.LinkChange, "POST", f"{self._path}/answers", body=body)

    def create(self, key: str) -> models.LinkChange:
        """Make in the books what one has no counterpart for, and link it."""
        return self._transport.one(models.LinkChange, "POST", f"{self._path}/create", body={"key": key})

    def undo(self, change: int | None = None) -> models.LinkChange:
        """Take a change back; without a number, the newest of one's own."""
        body = {"change": change} if change is not None else {}
        return self._transport.one(models.LinkChange, "POST", f"{self._path}/undo", body=body)

    def changes(self) -> Iterator[models.LinkChange]:
        """The history, newest first."""
        return self._transport.pages(models.LinkChange, f"{self._path}/changes")

    def match(self) -> models.LinkCounts:
        """Let the rules link what is certain, in the background."""
        return self._transport.one(models.LinkCounts, "POST", f"{self._path}/match")

    def table(self, form: str = "csv") -> bytes:
        """The table, as csv or xlsx."""
        return self._transport.content(f"{self._path}/table", query={"form": form})

    def take_in(self, name: str, content: bytes, *, apply: bool = False) -> models.ImportPreview:
        """Judge a table, named as its file is; with ``apply``, put its good rows in place."""
        told = {"apply": "true" if apply else "false"}
        return self._transport.one(
            models.ImportPreview, "POST", f"{self._path}/import", form=told, file=("file", name, content)
        )
