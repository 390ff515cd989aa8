"""Bridges by the names that people give in filters."""

from __future__ import annotations

from rest_framework import serializers

from inkwell_bridge.core.rulebook.near import near_miss
from inkwell_bridge.service.bridges.models import Bridge


def named(workspace_id: int, slug: str) -> Bridge:
    """The bridge of that name in a workspace.

    Raises:
        ValidationError: there is none; the near one is named, or all that there are.
    """
    found = Bridge.objects.filter(workspace=workspace_id, slug=slug).first()
    if found is None:
        slugs = Bridge.objects.filter(workspace=workspace_id).order_by("slug").values_list("slug", flat=True)[:50]
        raise serializers.ValidationError(
            {"bridge": f"There is no bridge {slug!r} here. {near_miss(slug, slugs)}".rstrip()}
        )
    return found
