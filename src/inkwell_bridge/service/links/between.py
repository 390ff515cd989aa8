"""The two ends that links are between, and what stands there now."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.db.models import Exists, OuterRef, QuerySet

from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.links.models import Change, Link
from inkwell_bridge.service.people.models import Workspace
from inkwell_bridge.service.reference.models import Entry, Part

# The lists of both sides that each kind of link is between.
SIDES = {LinkKind.PRODUCTS: (Part.PRODUCTS, Part.ITEMS), LinkKind.CUSTOMERS: (Part.CUSTOMERS, Part.CONTACTS)}


@dataclass(frozen=True, slots=True, kw_only=True)
class Between:
    """One kind of link between one sales side and one set of books."""

    workspace: Workspace
    source: Connection
    books: Connection
    kind: LinkKind

    @classmethod
    def of(cls, bridge: Bridge, kind: LinkKind) -> Between:
        """Of a bridge's ends."""
        return cls(workspace=bridge.workspace, source=bridge.source, books=bridge.books, kind=kind)

    @property
    def place(self) -> dict[str, Any]:
        """The fields that every row between these two has."""
        return {"workspace": self.workspace, "source": self.source, "books": self.books, "kind": self.kind.value}

    @property
    def lock(self) -> str:
        """The name of the lock under which links here are changed."""
        return f"links:{self.source.pk}:{self.books.pk}:{self.kind}"

    def links(self) -> QuerySet[Link]:
        """The links that stand."""
        return Link.objects.filter(**self.place, ended_in__isnull=True)

    def changes(self) -> QuerySet[Change]:
        """Every change there was, newest first."""
        return Change.objects.filter(**self.place).order_by("-pk")

    def sold(self) -> QuerySet[Entry]:
        """What the sales side has."""
        return Entry.objects.filter(
            workspace=self.workspace, connection=self.source, kind=SIDES[self.kind][0], gone_in__isnull=True
        )

    def sold_with_answers(self) -> QuerySet[Entry]:
        """The same, each with whether it is ``answered``, and whether the answer is that there is ``none``."""
        links = self.links().filter(key=OuterRef("source_id"))
        return self.sold().annotate(answered=Exists(links), none=Exists(links.filter(target_id="")))

    def kept(self) -> QuerySet[Entry]:
        """What the books have."""
        return Entry.objects.filter(
            workspace=self.workspace, connection=self.books, kind=SIDES[self.kind][1], gone_in__isnull=True
        )

    def open(self) -> QuerySet[Entry]:
        """What the sales side has and nobody has linked yet."""
        answered = self.links().filter(key=OuterRef("source_id"))
        return self.sold().filter(~Exists(answered), active=True)
