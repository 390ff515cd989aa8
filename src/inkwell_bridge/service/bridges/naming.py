"""Bridges by the names that people give in filters."""

from __future__ import annotations

from collections.abc import Sequence

from rest_framework import serializers

from inkwell_bridge.service.api.not_here import not_here
from inkwell_bridge.service.bridges.models import Bridge


def named(workspace_id: int, slug: str) -> Sequence[Bridge]:
    """The bridges that have or had that name in a workspace: what crossed one that was removed is still to be found.

    Raises:
        ValidationError: there never was one; the near one is named, or all that there are.
    """
    found = list(Bridge.objects.filter(workspace=workspace_id, slug=slug))
    if not found:
        here = Bridge.current.filter(workspace=workspace_id)
        raise serializers.ValidationError({"bridge": not_here("bridge", slug, here)})
    return found
