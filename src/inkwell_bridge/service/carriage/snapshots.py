"""Keeping what was fetched: figures on one side, the buyer sealed on the other."""

from __future__ import annotations

import json
from collections.abc import Sequence
from datetime import datetime

from inkwell_bridge.core.commerce import Buyer, Order, checksum, fingerprint
from inkwell_bridge.ends.contract import Fetched
from inkwell_bridge.service.carriage.models import PersonalData, Snapshot
from inkwell_bridge.service.connections import vault
from inkwell_bridge.service.connections.models import Connection

UNREADABLE = "0:"


def mark_of(fetched: Fetched) -> str:
    """By what a change is told: the fingerprint, or for a document not understood what is wrong with it."""
    return fingerprint(fetched.order) if fetched.order else f"{UNREADABLE}{checksum(fetched.problem)}"


def keep(connection: Connection, documents: Sequence[Fetched], *, at: datetime) -> dict[str, Snapshot]:
    """Keep snapshots of documents, by their id at the source, in two statements."""
    snapshots = [_snapshot(connection, fetched, at) for fetched in documents]
    Snapshot.objects.bulk_create(snapshots)
    PersonalData.objects.bulk_create(
        PersonalData(
            workspace_id=connection.workspace_id, snapshot=snapshot, sealed=_sealed(fetched.order.buyer, connection)
        )
        for snapshot, fetched in zip(snapshots, documents, strict=True)
        if fetched.order and fetched.order.buyer
    )
    return {snapshot.source_id: snapshot for snapshot in snapshots}


def _snapshot(connection: Connection, fetched: Fetched, at: datetime) -> Snapshot:
    content = fetched.order.model_copy(update={"buyer": None}).as_json() if fetched.order else None
    return Snapshot(
        workspace_id=connection.workspace_id,
        connection=connection,
        kind="orders",
        source_id=fetched.id,
        number=fetched.number,
        fetched_at=at,
        content=content,
        checksum=checksum(content),
        fingerprint=mark_of(fetched),
        problem=fetched.problem,
    )


def order_of(snapshot: Snapshot) -> Order:
    """The order as fetched, with its buyer where the personal data is still there."""
    order = Order.read(snapshot.content)
    personal = PersonalData.objects.filter(workspace_id=snapshot.workspace_id, snapshot=snapshot).first()
    buyer = buyer_of(personal)
    return order.model_copy(update={"buyer": buyer}) if buyer else order


def buyer_of(personal: PersonalData | None) -> Buyer | None:
    """Who bought, unless that was erased."""
    if personal is None or personal.sealed is None:
        return None
    return Buyer.read(json.loads(vault.unseal(personal.sealed, owner=_owner(personal.workspace_id))["buyer"]))


def _sealed(buyer: Buyer, connection: Connection) -> bytes:
    return vault.seal({"buyer": buyer.written()}, owner=_owner(connection.workspace_id))


def _owner(workspace_id: int) -> str:
    return f"personal data of workspace {workspace_id}"
