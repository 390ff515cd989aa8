"""Keeping what was fetched: figures on one side, who it is about sealed on the other.

Whatever comes from outside is made fit to be kept first: an id of ten thousand characters, U+0000 or half a surrogate
pair would fail the statement that keeps a whole page. Such a document is held by itself.
"""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from typing import Any

from inkwell_bridge.core.commerce import (
    Buyer,
    Order,
    PostedInvoice,
    SourceDocument,
    books_digest,
    checksum,
    content_digest,
)
from inkwell_bridge.core.text import UNFIT, fit_line, fit_name
from inkwell_bridge.core.values import canonical
from inkwell_bridge.ends.shapes import Fetched
from inkwell_bridge.service import vault
from inkwell_bridge.service.carriage.kinds import kind_named
from inkwell_bridge.service.carriage.models import PersonalData, Snapshot
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.rows import insert_rows

NOT_UNDERSTOOD = "0:"
LONGEST_PROBLEM = 2000
_ESCAPED_NUL = re.compile(r"(?<!\\)(?:\\\\)*\\u0000")


def fit_to_keep(fetched: Fetched) -> Fetched:
    """The document with an id, a number and a problem that can be kept; one whose content cannot is not understood."""
    fit = replace(
        fetched,
        id=fit_name(fetched.id),
        number=fit_name(fetched.number or fetched.id),
        problem=fit_line(fetched.problem, LONGEST_PROBLEM),
        parent_id=fit_name(fetched.parent_id) if fetched.parent_id else "",
    )
    if fit.document is not None and (fit.id != fetched.id or not _can_be_kept(fit.document)):
        problem = "it holds characters that no text may hold (U+0000, or half of a surrogate pair)"
        return replace(fit, document=None, problem=problem)
    return fit


def _can_be_kept(document: SourceDocument) -> bool:
    text = canonical(document.as_json())
    return not _ESCAPED_NUL.search(text) and not UNFIT.search(text)


def digests_of(fetched: Fetched) -> tuple[str, str]:
    """The books' digest and that of all content; of a document not understood, what is wrong with it."""
    if fetched.document is None:
        problem = f"{NOT_UNDERSTOOD}{checksum(fetched.problem)}"
        return problem, problem
    return books_digest(fetched.document), content_digest(fetched.document)


def is_unchanged(snapshot: Snapshot, fetched: Fetched, written_back: Sequence[Mapping[str, Any]] = ()) -> bool:
    """Whether nothing that a rule can read has changed, but for what we have written there ourselves; a snapshot of an
    earlier version kept one digest only."""
    of_books, of_content = digests_of(fetched)
    # Who bought and how it is tagged is asked by rules, so it counts until something is posted.
    if not snapshot.content_digest:
        return snapshot.books_digest == of_books
    if snapshot.content_digest == of_content:
        return True
    if not written_back or not isinstance(fetched.document, Order | PostedInvoice):
        return False
    return snapshot.content_digest == content_digest(_without_ours(fetched.document, written_back))


def _without_ours(
    document: Order | PostedInvoice, written_back: Sequence[Mapping[str, Any]]
) -> Order | PostedInvoice:  # fmt: skip
    if isinstance(document, PostedInvoice):
        ours = {pair for said in written_back for pair in said.get("fields", {}).items()}
        kept = tuple(one for one in document.fields if (one.name, one.value) not in ours)
        return document.model_copy(update={"fields": kept})
    return _order_without_ours(document, written_back)


def _order_without_ours(order: Order, written_back: Sequence[Mapping[str, Any]]) -> Order:
    tags = {said["tag"] for said in written_back if "tag" in said}
    notes = {said["text"] for said in written_back if "text" in said}
    kept = {
        "tags": tuple(tag for tag in order.tags if tag not in tags),
        "notes": tuple(note for note in order.notes if note.text not in notes),
    }
    return order.model_copy(update=kept)


def keep(connection: Connection, kind: str, documents: Sequence[Fetched], *, at: datetime) -> dict[str, Snapshot]:
    """Keep snapshots of documents, by their id at the origin, in two statements."""
    snapshots = [_snapshot(connection, kind, fetched, at) for fetched in documents]
    insert_rows(snapshots)
    personal = [
        (snapshot, _people(fetched.document))
        for snapshot, fetched in zip(snapshots, documents, strict=True)
        if fetched.document
    ]
    PersonalData.objects.bulk_create(
        PersonalData(
            workspace_id=connection.workspace_id,
            snapshot=snapshot,
            sealed=vault.seal(people, owner=_owner(connection.workspace_id)),
        )
        for snapshot, people in personal
        if people
    )
    return {snapshot.source_id: snapshot for snapshot in snapshots}


def _snapshot(connection: Connection, kind: str, fetched: Fetched, at: datetime) -> Snapshot:
    # People stand sealed in a row of their own, so that they can be erased and the figures stay.
    content = fetched.document.without_people().as_json() if fetched.document else None
    of_books, of_content = digests_of(fetched)
    return Snapshot(
        workspace_id=connection.workspace_id,
        connection=connection,
        kind=kind,
        source_id=fetched.id,
        number=fetched.number,
        fetched_at=at,
        content=content,
        checksum=checksum(content),
        books_digest=of_books,
        content_digest=of_content,
        problem=fetched.problem,
    )


def document_of(snapshot: Snapshot) -> SourceDocument:
    """The document as fetched, with who it is about where the personal data is still there."""
    shape = kind_named(snapshot.kind).source_kind.shape
    personal = getattr(snapshot, "personal", None)
    if personal is None or personal.sealed is None:
        return shape.read(snapshot.content)
    people = people_of(personal)
    return shape.read({**snapshot.content, **{name: json.loads(text) for name, text in people.items()}})


def buyer_of(personal: PersonalData | None) -> Buyer | None:
    """Who bought, unless that was erased."""
    if personal is None or personal.sealed is None:
        return None
    people = people_of(personal)
    found = people.get("buyer") or people.get("person")
    return Buyer.read(json.loads(found)) if found else None


def people_of(personal: PersonalData) -> dict[str, str]:
    """What is kept of who a document is about, each part as JSON; nothing once it was erased."""
    if personal.sealed is None:
        return {}
    return vault.unseal(personal.sealed, owner=_owner(personal.workspace_id))


def _people(document: SourceDocument) -> dict[str, str]:
    """What tells who the document is about, each part as JSON; nothing where nothing does."""
    said = document.model_dump(mode="json", include=set(document.PERSONAL))
    return {name: canonical(value) for name, value in said.items() if value}


def _owner(workspace_id: int) -> str:
    return f"personal data of workspace {workspace_id}"
