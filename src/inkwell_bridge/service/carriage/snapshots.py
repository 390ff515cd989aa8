"""Keeping what was fetched: figures on one side, who it is about sealed on the other."""

from __future__ import annotations

import json
from collections.abc import Sequence
from datetime import datetime

from inkwell_bridge.core.commerce import Buyer, SourceDocument, SourceKind, checksum, fingerprint
from inkwell_bridge.core.values import canonical
from inkwell_bridge.ends.shapes import Fetched
from inkwell_bridge.service.carriage.models import PersonalData, Snapshot
from inkwell_bridge.service.connections import vault
from inkwell_bridge.service.connections.models import Connection

UNREADABLE = "0:"


def mark_of(fetched: Fetched) -> str:
    """By what a change is told: the fingerprint, or for a document not understood what is wrong with it."""
    return fingerprint(fetched.document) if fetched.document else f"{UNREADABLE}{checksum(fetched.problem)}"


def keep(
    connection: Connection, kind: SourceKind, documents: Sequence[Fetched], *, at: datetime
) -> dict[str, Snapshot]:
    """Keep snapshots of documents, by their id at the source, in two statements."""
    snapshots = [_snapshot(connection, kind, fetched, at) for fetched in documents]
    Snapshot.objects.bulk_create(snapshots)
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


def _snapshot(connection: Connection, kind: SourceKind, fetched: Fetched, at: datetime) -> Snapshot:
    content = fetched.document.without_people().as_json() if fetched.document else None
    return Snapshot(
        workspace_id=connection.workspace_id,
        connection=connection,
        kind=kind.value,
        source_id=fetched.id,
        number=fetched.number,
        fetched_at=at,
        content=content,
        checksum=checksum(content),
        fingerprint=mark_of(fetched),
        problem=fetched.problem,
    )


def document_of(snapshot: Snapshot) -> SourceDocument:
    """The document as fetched, with who it is about where the personal data is still there."""
    kind = SourceKind(snapshot.kind)
    personal = PersonalData.objects.filter(workspace_id=snapshot.workspace_id, snapshot=snapshot).first()
    if personal is None or personal.sealed is None:
        return kind.shape.read(snapshot.content)
    people = vault.unseal(personal.sealed, owner=_owner(personal.workspace_id))
    return kind.shape.read({**snapshot.content, **{name: json.loads(text) for name, text in people.items()}})


def buyer_of(personal: PersonalData | None) -> Buyer | None:
    """Who bought, unless that was erased."""
    if personal is None or personal.sealed is None:
        return None
    people = vault.unseal(personal.sealed, owner=_owner(personal.workspace_id))
    found = people.get("buyer") or people.get("person")
    return Buyer.read(json.loads(found)) if found else None


def _people(document: SourceDocument) -> dict[str, str]:
    """What tells who the document is about, each part as JSON; nothing where nothing does."""
    said = document.model_dump(mode="json", include=set(document.PERSONAL))
    return {name: canonical(value) for name, value in said.items() if value}


def _owner(workspace_id: int) -> str:
    return f"personal data of workspace {workspace_id}"
