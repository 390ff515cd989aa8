"""What a kind of document says of itself. All that is particular to a kind stands behind this, in its own module."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from decimal import Decimal
from enum import StrEnum
from typing import Any, NamedTuple, Protocol

from inkwell_bridge.core.books import BooksDocument
from inkwell_bridge.core.commerce import Buyer, MoneyState, Payment, PayoutEntry, SourceDocument, SourceKind
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import Plan, PlanningContext
from inkwell_bridge.core.proof import Section
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.ends.shapes import WriteBack
from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.carriage.carrying import Carrying, Step
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.connections.models import Connection, ReferenceLoad


class Direction(StrEnum):
    """From which end of a bridge a kind of document goes to which."""

    SALES_TO_BOOKS = "sales to books"
    BOOKS_TO_SALES = "books to sales"


@dataclass(frozen=True, slots=True, kw_only=True)
class Listed:
    """What lists and totals show of a source document.

    Shape: ``moment`` is when it happened at its origin; the day follows from it on the company's clocks.
    ``parent_source_id`` is the document that it belongs to; ``money`` what moved, ``sign`` -1 where it went back, and
    ``paid_out`` are entries of a payout by which money of others went on its way; absent where it is no payout.
    ``ties`` is whether its amounts are of the sales side's totals: what the books tell of has its place in theirs.
    Units: in ``currency``; positive also for what comes back.
    """

    moment: datetime | None = None
    currency: str = ""
    net: Decimal | None = None
    tax: Decimal | None = None
    gross: Decimal | None = None
    parent_source_id: str = ""
    money: Sequence[Payment] = ()
    paid_out: Sequence[PayoutEntry] | None = None
    sign: int = 1
    ties: bool = True

    @property
    def received(self) -> Iterator[Payment]:
        """The money that really moved."""
        return (one for one in self.money if one.state is MoneyState.RECEIVED and one.amount)


@dataclass(frozen=True, slots=True, kw_only=True)
class Gathered:
    """All that planning one document depends on besides the document, looked up before.

    Shape: ``ready`` is the plan, where it is known without planning (its order is missing, say). ``buyer`` is who a
    person or a rule may have linked to a contact. ``pinned`` is kept with the crossing, so that planning again gives
    the same. ``on_trial`` tells that nothing of it may be posted. ``earlier`` is what ``Kind.amended`` needs, absent
    where a person is to look at one that changed after it was posted. ``more_is_known`` tells one that did not change,
    and was posted without something that is known by now. ``locked_until`` is the newest lock date of the books, where
    ``master_data`` is older.
    """

    version: RulebookVersion
    rulebook: Rulebook
    master_data: ReferenceLoad
    context: Any = None
    ready: Plan | None = None
    buyer: Buyer | None = None
    pinned: dict[str, Any] = field(default_factory=dict)
    on_trial: bool = False
    earlier: Any = None
    more_is_known: bool = False
    locked_until: date | None = None

    @property
    def planning(self) -> PlanningContext | None:
        """The context of those that are planned by the rules for orders."""
        found = self.context.get("context") if isinstance(self.context, dict) else self.context
        return found if isinstance(found, PlanningContext) else None


class Concluded(NamedTuple):
    """A crossing that was brought to an end, where, and why where it was stopped."""

    crossing: Crossing
    state: CrossingState
    cause: Cause | None


class Kind(Protocol):
    """One kind of document.

    Registered once (``kinds.register``), it has a lane, is read, carried, adopted, listed and totalled; nothing else
    asks which kind a document is.
    """

    name: str
    """As in lanes, API, command line and console."""
    source_kind: SourceKind
    """What its origin hands out for it."""
    direction: Direction
    has_lane: bool
    """Whether it is read from its origin; what a person enters has none."""
    steps: Sequence[Step]
    """How one of them is carried: the common steps, with its own between."""
    latest_only: bool
    """Whether a later state takes the place of an earlier one, as a stock level does: a change is a further document
    then, and no reason to ask a person."""
    passing_causes: frozenset[Cause]
    """Causes that one is held for only until something else has come: ``after`` looks whether it has."""
    parent_kind: str
    """The kind of the documents that these belong to, by its name; nothing where they belong to none."""
    hears_of_money: bool
    """Whether others than its origin may tell of its money: it is carried with what they told."""
    names_missing: bool
    """Whether one that is held for its order tells that an order is lacking here."""
    section: Section
    """The part of the tie-out that its documents stand in."""
    is_money_alone: bool
    """Whether it is money that stands in no section, of no sale of its own: a period does not tie while some of it has
    not crossed."""

    def listed(self, source: SourceDocument) -> Listed:
        """What lists and totals show of one."""

    def passes_over(self, source: SourceDocument) -> bool:
        """Whether one that was never read before is not worth keeping: nothing could come of it as it is."""

    def rules_missing(self, rulebook: Rulebook) -> str:
        """What a rulebook lacks for this kind, in a sentence; nothing where it may run."""

    def ends_cannot(self, bridge: Bridge) -> str:
        """What the ends of a bridge cannot do for this kind, in words; nothing where it may run."""

    def lock_names(self, crossing: Crossing) -> Sequence[str]:
        """What nobody else may touch while one is carried, besides itself."""

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """Look up what planning needs, for many of one bridge at once: as many statements for a hundred as for one.

        Reads the database; may load the books' master data where there is none. Among the answers stands ``TryLater``
        for one that something goes before, ``Hold`` for one that needs a person.
        """

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """Plan one: pure, the same input gives the same plan."""

    def amended(self, carrying: Carrying, gathered: Gathered, theirs: Mapping[str, BooksDocument]) -> Plan:
        """The plan that makes good what changed since it was posted: what stands there, and what is missing. Pure.

        ``theirs`` are documents that count as the books have them, and not as they were planned, by their references.
        Asked only where ``gathered`` has what was ``earlier``.

        Raises:
            TryLater: something that belongs to it goes first.
        """

    def given_up(self, carryings: Sequence[tuple[Carrying, Plan]]) -> Sequence[Plan]:
        """The plans by which these stand in the books unchanged, each with what is to be given up of it by now."""

    def before_posting(self, planned: Sequence[tuple[Carrying, Plan]]) -> Sequence[Exception | None]:
        """What must end before the documents of each plan go: ``TryLater`` where that goes on by itself, ``Hold`` where
        it needs a person."""

    def written_back(self, carrying: Carrying) -> Sequence[WriteBack]:
        """What the sales side is to hear of, once all documents of one are proved; asked again after an interruption.

        Reads what is known here: each document of ``carrying`` has its number and link by then.
        """

    def after(self, concluded: Sequence[Concluded]) -> None:
        """What follows once these were brought to their ends: wake what waited for them."""

    def look_again(self) -> None:
        """What upkeep does for it now and then: carry what was brought to its end without something that came since."""

    def is_cancelled(self, source: SourceDocument) -> bool:
        """Whether its origin has cancelled it."""


def origin_of(kind: Kind, bridge: Bridge) -> Connection:
    """The connection that documents of a kind come from."""
    return bridge.source if kind.direction is Direction.SALES_TO_BOOKS else bridge.books


def target_of(kind: Kind, bridge: Bridge) -> Connection:
    """The connection that they go to."""
    return bridge.books if kind.direction is Direction.SALES_TO_BOOKS else bridge.source
