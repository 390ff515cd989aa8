"""What the bridges of a client build their rules on: base rulebooks, each a row of versions under a name.

A bridge's version keeps the texts that it was written on, so a new version of a base changes no rules by itself: the
bridges that build on it are drafted anew, looked at, and published one by one.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from django.db import transaction
from django.db.models import Max, OuterRef, QuerySet, Subquery

from inkwell_bridge.core import rulebook as rules
from inkwell_bridge.service.bridges.models import BaseRulebook, Bridge, RulebookVersion
from inkwell_bridge.service.people.models import Person, Workspace
from inkwell_bridge.service.people.trail import record


@dataclass(slots=True)
class Below:
    """Finds the newest base rulebook of a name, and remembers which were asked for."""

    workspace: Workspace
    used: list[dict[str, Any]] = field(default_factory=list)

    def __call__(self, name: str) -> str | None:
        found = newest(self.workspace, name)
        if found is None:
            return None
        # Kept with the version: rules that were published must not change because their base did.
        self.used.append({"name": found.name, "number": found.number, "text": found.text})
        return found.text


def as_written_on(layers: list[dict[str, Any]]) -> rules.Base:
    """The base rulebooks that a version was written on."""
    texts = {layer["name"]: layer["text"] for layer in layers}
    return texts.get


def newest(workspace: Workspace, name: str) -> BaseRulebook | None:
    """The newest version under a name."""
    return BaseRulebook.objects.filter(workspace=workspace, name=name).order_by("-number").first()


def newest_of_each(rows: QuerySet[BaseRulebook]) -> QuerySet[BaseRulebook]:
    """Of each name the newest version."""
    later = BaseRulebook.objects.filter(workspace=OuterRef("workspace"), name=OuterRef("name")).order_by("-number")
    return rows.filter(pk=Subquery(later.values("pk")[:1]))


@transaction.atomic
def write(workspace: Workspace, person: Person | None, name: str, text: str) -> BaseRulebook:
    """Keep a new version of a base.

    Raises:
        RulebookInvalid: a line of it could stand in no rulebook; every error with its line.
    """
    rules.read_base(text, file=name, base=Below(workspace))
    # A base that has no version yet has no row to lock.
    Workspace.objects.select_for_update().get(pk=workspace.pk)
    number = (
        BaseRulebook.objects.filter(workspace=workspace, name=name).aggregate(last=Max("number"))["last"] or 0
    ) + 1
    written = BaseRulebook.objects.create(workspace=workspace, name=name, number=number, text=text, author=person)
    record(workspace, person, "base.written", f"{name} version {number}")
    return written


def built_on(base: BaseRulebook) -> list[RulebookVersion]:
    """The newest version of each bridge that builds on a base, on whichever version of it."""
    last = RulebookVersion.objects.filter(bridge=OuterRef("pk")).order_by("-number")
    bridges = Bridge.current.filter(workspace=base.workspace).annotate(last=Subquery(last.values("pk")[:1]))
    return list(
        RulebookVersion.objects.select_related("bridge__books", "bridge__source", "bridge__workspace")
        .filter(pk__in=bridges.values("last"), layers__contains=[{"name": base.name}])
        .order_by("bridge__slug")
    )
