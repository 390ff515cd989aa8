"""What changed at the sales side after something was posted, and the documents that made it good."""

from __future__ import annotations

from collections import defaultdict
from typing import Any

from rest_framework import serializers

from inkwell_bridge.core.commerce import changes
from inkwell_bridge.service.carriage.models import Crossing, Document, Snapshot


class SourceChangeSerializer(serializers.Serializer[Any]):
    """One value of the source document that is another now."""

    what = serializers.CharField()
    before = serializers.CharField(allow_null=True)
    after = serializers.CharField(allow_null=True)


class AmendmentSerializer(serializers.Serializer[Any]):
    """One change after something was posted: what is another since the change before it, and the documents of it by
    their references."""

    number = serializers.IntegerField()
    at = serializers.DateTimeField(allow_null=True, help_text="When its documents were posted.")
    documents = serializers.ListField(child=serializers.CharField())
    changes = SourceChangeSerializer(many=True)
    put_right = serializers.BooleanField(
        help_text="That nothing changed at the sales side: its documents put right what differed in the books."
    )


def changes_since_posted(crossing: Crossing) -> list[Any]:
    """What is another in the newest reading, where it was read again since something was posted; nothing where either
    reading was not understood."""
    # Most are read once and posted from that: only of the others is the older reading fetched as well.
    if crossing.posted_snapshot_id in (None, crossing.snapshot_id):
        return []
    return _between(crossing.posted_snapshot, crossing.snapshot)


def amendments_of(crossing: Crossing) -> list[dict[str, Any]]:
    """The changes that were made good, the first first. One statement, and none for the many that never changed."""
    by_number: dict[int, list[Document]] = defaultdict(list)
    for document in crossing.documents_in_order:
        by_number[document.amendment].append(document)
    if not any(by_number):
        return []
    # Money that came in later was made from a later reading: what was posted first tells what was read first.
    made_from = {number: _first_reading(documents) for number, documents in by_number.items()}
    rows = Snapshot.objects.filter(workspace=crossing.workspace_id)
    snapshots = rows.in_bulk([key for key in made_from.values() if key is not None])
    before, found = snapshots.get(made_from.get(0) or 0), []
    for number in sorted(filter(None, by_number)):
        after = snapshots.get(made_from[number] or 0)
        posted = [one.posting_at for one in by_number[number] if one.posting_at]
        found.append({
            "number": number,
            "at": min(posted, default=None),
            "documents": [one.external_reference for one in by_number[number]],
            "changes": _between(before, after),
            # Made from the reading that was posted before it: a person had what differed in the books put right.
            "put_right": before is not None and before is after,
        })  # fmt: skip
        before = after
    return found


def _first_reading(documents: list[Document]) -> int | None:
    return min((one.snapshot_id for one in documents if one.snapshot_id is not None), default=None)


def _between(before: Snapshot | None, after: Snapshot | None) -> list[Any]:
    if before is None or after is None or not before.content or not after.content:
        return []
    return changes(before.content, after.content)
