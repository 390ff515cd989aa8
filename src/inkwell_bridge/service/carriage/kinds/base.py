"""What most kinds have in common, and how the versions that a plan is made under are found."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from functools import cached_property
from typing import Any

from inkwell_bridge.core import rulebook as rules
from inkwell_bridge.core.books import BooksDocument
from inkwell_bridge.core.commerce import SourceDocument, SourceKind
from inkwell_bridge.core.findings import Cause, Finding
from inkwell_bridge.core.planner import Articles, Outcome, Plan, PlanningContext
from inkwell_bridge.core.proof import Section
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.ends.shapes import WriteBack
from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.bridges.rules import in_force, parsed
from inkwell_bridge.service.carriage.articles import finds_items, never_loaded
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.kinds.protocol import Concluded, Direction, Gathered
from inkwell_bridge.service.carriage.models import Crossing, Document
from inkwell_bridge.service.carriage.steps import STEPS
from inkwell_bridge.service.connections.ends import dialect_of
from inkwell_bridge.service.connections.models import ReferenceLoad
from inkwell_bridge.service.reference.pinned import load_master_data, master_data_of, newest_master_data


class BaseKind:
    """Defaults for a kind: from the sales side to the books, with a lane, under the rules in force, by the common
    steps. A kind says what it is called and what it reads, and has ``listed`` and ``plan`` of its own."""

    name: str
    source_kind: SourceKind
    direction = Direction.SALES_TO_BOOKS
    has_lane = True
    latest_only = False
    passing_causes: frozenset[Cause] = frozenset()
    section = Section.NONE
    is_money_alone = False
    hears_of_money = False
    names_missing = False
    parent_kind = ""
    steps: Sequence[Any] = STEPS

    def passes_over(self, source: SourceDocument) -> bool:
        """None."""
        return False

    def rules_missing(self, rulebook: Rulebook) -> str:
        """Nothing."""
        return ""

    def ends_cannot(self, bridge: Bridge) -> str:
        """A sales side that hands them out, where they come from there."""
        hands_out = self.source_kind in dialect_of(bridge.source).capabilities.lists
        needs_it = self.direction is Direction.SALES_TO_BOOKS and self.has_lane
        return f"{bridge.source.name} has no {self.name}" if needs_it and not hands_out else ""

    def lock_names(self, crossing: Crossing) -> Sequence[str]:
        """Itself alone."""
        return ()

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """The versions that each stands under, checked against the books once a version."""
        return gathered_under(carryings)

    def amended(self, carrying: Carrying, gathered: Gathered, theirs: Mapping[str, BooksDocument]) -> Plan:
        """A person looks: nothing is gathered for it."""
        raise NotImplementedError(f"{carrying.crossing.kind} are not amended")

    def given_up(self, carryings: Sequence[tuple[Carrying, Plan]]) -> Sequence[Plan]:
        """Nothing is."""
        return [plan for _, plan in carryings]

    def before_posting(self, planned: Sequence[tuple[Carrying, Plan]]) -> Sequence[Exception | None]:
        """Nothing goes first."""
        return [None] * len(planned)

    def written_back(self, carrying: Carrying) -> Sequence[WriteBack]:
        """Nothing is."""
        return ()

    def after(self, concluded: Sequence[Concluded]) -> None:
        """Nothing follows."""

    def look_again(self) -> None:
        """There is nothing that could come."""

    def is_cancelled(self, source: SourceDocument) -> bool:
        """It cannot be."""
        return False


class Versions:
    """The rulebook and the master data to plan under: those that something was posted under, the version of a trial, or
    else those in force now.

    So a changed rule never changes what was posted. What is in force is looked up once for all documents of a bridge;
    the books' master data is loaded where there is none.
    """

    def __init__(self, bridge: Bridge) -> None:
        self._bridge = bridge

    @cached_property
    def now(self) -> tuple[RulebookVersion, ReferenceLoad]:
        """Those in force."""
        version = in_force(self._bridge)
        if version is None:
            raise RuntimeError(f"bridge {self._bridge.pk} runs without a published rulebook")
        books = self._bridge.books
        return version, newest_master_data(books) or load_master_data(books)

    def of(self, crossing: Crossing, documents: Sequence[Document]) -> tuple[RulebookVersion, ReferenceLoad]:
        """Those of one crossing."""
        if any(document.posting_at for document in documents) and crossing.rulebook and crossing.master_data:
            return crossing.rulebook, crossing.master_data
        if crossing.tried_under_id is not None and crossing.tried_under is not None:
            books = self._bridge.books
            return crossing.tried_under, newest_master_data(books) or load_master_data(books)
        return self.now

    @cached_property
    def locked_until(self) -> date | None:
        """Up to when the books are locked, as far as anybody here knows."""
        return master_data_of(self.now[1]).locked_until

    @cached_property
    def items_never_loaded(self) -> Finding | None:
        """The error where lines are to stand on items that nobody has loaded yet."""
        return never_loaded(self._bridge)


def gathered_under(carryings: Sequence[Carrying]) -> list[Gathered]:
    """What is gathered under its versions for each: ready to be held where the rules name what the books do not
    have."""
    versions = Versions(carryings[0].crossing.bridge)
    return [_under(versions, *(one.under or versions.of(one.crossing, one.documents))) for one in carryings]


def gathered_with_rules(carryings: Sequence[Carrying]) -> list[Gathered]:
    """The same, with a ``PlanningContext`` for what is planned by the rules for orders and needs nothing besides."""
    found = gathered_under(carryings)
    return [
        gathered
        if gathered.ready is not None
        else replace(
            gathered,
            context=planning_context(
                one.crossing.bridge, gathered.rulebook, gathered.master_data, locked_until=gathered.locked_until
            ),
        )
        for one, gathered in zip(carryings, found, strict=True)
    ]


def _under(versions: Versions, version: RulebookVersion, master_data: ReferenceLoad) -> Gathered:
    book = parsed(version)
    wrong = against_books(versions, version, master_data)
    return Gathered(
        version=version,
        rulebook=book,
        master_data=master_data,
        ready=Plan(outcome=Outcome.HOLD, findings=wrong) if wrong else None,
        # A period may have been locked since the version that something was posted under.
        locked_until=None if book.periods.locked == "hold" else versions.locked_until,
    )


# The findings of a rulebook against master data, by the keys of both: neither ever changes.
_checked: dict[tuple[int, int], tuple[Finding, ...]] = {}
MOST_CHECKED = 256


def against_books(
    versions: Versions, version: RulebookVersion, master_data: ReferenceLoad
) -> tuple[Finding, ...]:  # fmt: skip
    """What a version of the rules names that the books do not have; looked for once a version, whatever is planned."""
    book = parsed(version)
    key = (version.pk, master_data.pk)
    found = _checked.get(key)
    if found is None:
        found = rules.check(book, master_data_of(master_data))
        # One that is only tried has no key, and is another each time.
        if version.pk is not None:
            if len(_checked) >= MOST_CHECKED:
                _checked.clear()
            _checked[key] = found
    missing = versions.items_never_loaded if finds_items(book.items) else None
    return (*found, *([missing] if missing else []))


def planning_context(
    bridge: Bridge, book: Rulebook, master_data: ReferenceLoad, articles: Articles | None = None, **more: Any
) -> PlanningContext:
    """All that a plan depends on besides its source document."""
    return PlanningContext(
        source=bridge.source.slug,
        books=bridge.books.slug,
        rulebook=book.for_orders,
        master_data=master_data_of(master_data),
        capabilities=dialect_of(bridge.books).capabilities,
        time_zone=bridge.company.time_zone,
        country=bridge.company.country,
        articles=articles or Articles(),
        **more,
    )
