"""One crossing on its way through the steps: what each reads, and what it leaves for the next."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from django.utils import timezone

from inkwell_bridge.core.commerce import SourceDocument
from inkwell_bridge.core.findings import Finding
from inkwell_bridge.core.planner import Plan
from inkwell_bridge.ends.contract import BooksEnd
from inkwell_bridge.service.carriage.effects import Effects
from inkwell_bridge.service.carriage.models import Crossing, CrossingEvent, Document, DocumentSource, Exchange
from inkwell_bridge.service.carriage.states import CrossingState, EventKind, Trial
from inkwell_bridge.service.carriage.target import Target, target_end
from inkwell_bridge.service.connections.ends import books_end
from inkwell_bridge.service.connections.models import Connection, ReferenceLoad
from inkwell_bridge.service.rows import insert_rows

if TYPE_CHECKING:
    from inkwell_bridge.service.bridges.models import RulebookVersion
    from inkwell_bridge.service.carriage.kinds.protocol import Gathered, Kind
    from inkwell_bridge.service.carriage.posting import PostedDocument


@dataclass(frozen=True, slots=True, kw_only=True)
class Conclusion:
    """Where a crossing ends for now. A step that answers one is the last."""

    state: CrossingState
    findings: Sequence[Finding] = ()
    left_out_by: str = ""


@dataclass(slots=True, kw_only=True, eq=False)
class Carrying:
    """What is known of one crossing while it is carried.

    Shape: ``source`` is the document as it was fetched, once it was read; ``documents`` are its documents in the order
    of the plan, ``shares`` what it has in them; ``posted`` what the end holds of each, by its reference;
    ``never_made`` tells that the books were asked, and hold nothing of it yet; ``events`` and ``exchanges`` are written
    together when the crossing ends or waits. ``under`` are the versions to plan under where it is not carried but
    rehearsed; then nothing of it counts as posted.
    """

    crossing: Crossing
    kind: Kind
    target: Connection
    documents: list[Document]
    shares: list[DocumentSource]
    source: SourceDocument | None = None
    under: tuple[RulebookVersion, ReferenceLoad] | None = None
    plan: Plan | None = None
    gathered: Gathered | None = None
    contact_id: str = ""
    never_made: bool = False
    posted: dict[str, PostedDocument] = field(default_factory=dict)
    findings: list[Finding] = field(default_factory=list)
    events: list[CrossingEvent] = field(default_factory=list)
    exchanges: list[Exchange] = field(default_factory=list)

    @property
    def end(self) -> Target:
        """The end that it goes to, open, for its documents to be posted into.

        Raises:
            Unreadable: no key opens its credentials any more.
        """
        return target_end(self.target)

    @property
    def books(self) -> BooksEnd:
        """The bridge's books, open, whichever way the document goes.

        Raises:
            Unreadable: no key opens their credentials any more.
        """
        return books_end(self.crossing.bridge.books)

    @property
    def decided(self) -> bool:
        """Whether something of it was posted, or left as a draft by rule: that it crosses is asked no more."""
        # A draft of a trial was left by no rule.
        left = self.crossing.trial == Trial.NONE
        return any(document.posting_at or (left and document.proved_at) for document in self.documents)

    def plan_kept(self) -> Plan | None:
        """The plan of this attempt, or the one that was kept where nothing was planned anew."""
        if self.plan is not None or self.crossing.planned is None:
            return self.plan
        return Plan.read(self.crossing.planned)

    def happened(self, kind: EventKind, *, document: Document | None = None, **detail: Any) -> None:
        """Note what happened; it is written with the outcome."""
        self.events.append(
            CrossingEvent(
                workspace_id=self.crossing.workspace_id,
                crossing_id=self.crossing.pk,
                at=timezone.now(),
                kind=kind,
                document=document.external_reference if document else "",
                detail=detail,
            )
        )


def write_down(carryings: Sequence[Carrying]) -> None:
    """Write what happened and which calls were made; two statements at most, in the transaction around."""
    insert_rows([event for carrying in carryings for event in carrying.events])
    insert_rows([exchange for carrying in carryings for exchange in carrying.exchanges])
    for carrying in carryings:
        carrying.events, carrying.exchanges = [], []


Step = Callable[[Carrying], Effects[Conclusion | None] | Conclusion | None]
"""A step of carrying. It looks at what is written down, does what is missing and writes down what it did, so that it
may be repeated after any interruption; it answers nothing to go on, or where the crossing ends. What it needs of the
database and of an end it asks for (``effects.py``), so that it is done for many documents together; one that needs
nothing is a plain function.

Raises (any step): ``TryLater`` to go on at a later moment, ``Hold`` for a person, an end's errors as they came.
"""
