"""What mending a cause would free, and what became of what was let go."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass

from django.db import transaction

from inkwell_bridge.core.findings import Level
from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.core.planner import Outcome, Plan
from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.links import changing
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.changing import Target
from inkwell_bridge.service.links.models import What
from inkwell_bridge.service.people.models import Workspace
from inkwell_bridge.service.rehearsals.planning import Rules, in_chunks

# So many are planned while somebody waits; of more it is said that these were the first.
MOST_TRIED = 200
MOST_FOLLOWED = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class Again:
    """Why some of them would be, or were, held again, and how many."""

    text: str
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Freed:
    """How many of a group were planned, how many would go, and why the others would not."""

    of: int
    tried: int
    would_go: int
    left_out: int
    again: list[Again]


def preview(
    bridge: Bridge,
    version: RulebookVersion,
    chosen: Sequence[int],
    *,
    links: Mapping[str, Sequence[Target]],
) -> Freed:
    """Plan documents as last fetched under a version of the rules, and as if ``links`` of products stood; nothing is
    sent and nothing kept.

    What only the books can say (who a buyer is, whether they take it) is not asked.
    """
    # Made before, for where nobody loaded the books' lists yet it asks them, which no transaction waits for.
    rules, outcomes, why = Rules(version, bridge), Counter[Outcome](), Counter[str]()
    with _supposing(bridge, links):
        for past in in_chunks(Crossing.objects.filter(workspace=bridge.workspace_id, pk__in=chosen[:MOST_TRIED])):
            for planned in rules.plan(past):
                outcomes[planned.plan.outcome] += 1
                if planned.plan.outcome is Outcome.HOLD:
                    why[_why(planned.plan)] += 1
    tried = sum(outcomes.values())
    return Freed(
        of=len(chosen), tried=tried, would_go=outcomes[Outcome.CARRY], left_out=outcomes[Outcome.LEFT_OUT],
        again=_again(why),
    )  # fmt: skip


@contextmanager
def _supposing(bridge: Bridge, links: Mapping[str, Sequence[Target]]) -> Iterator[None]:
    """A transaction in which these links stand, and which is never kept: planning reads them as any others."""
    if not links:
        yield
        return
    with transaction.atomic():
        changing.put(Between.of(bridge, LinkKind.PRODUCTS), links, what=What.ANSWERED, person=None)
        yield
        transaction.set_rollback(True)


def _why(plan: Plan) -> str:
    errors = [finding.text for finding in plan.findings if finding.level is Level.ERROR]
    return errors[0] if errors else "It waits for another document."


@dataclass(frozen=True, slots=True, kw_only=True)
class Became:
    """What became of documents that were let go: how many are in each state, and why some are held again."""

    states: dict[str, int]
    again: list[Again]


def became(workspace: Workspace, chosen: Sequence[int]) -> Became:
    """Where these documents are now."""
    states, why = Counter[str](), Counter[str]()
    rows = Crossing.objects.filter(workspace=workspace, pk__in=chosen[:MOST_FOLLOWED])
    for state, findings in rows.values_list("state", "findings"):
        states[state] += 1
        if state in (CrossingState.HELD, CrossingState.DIFFERS):
            errors = [finding["text"] for finding in findings if finding["level"] == Level.ERROR.value]
            why[errors[0] if errors else state] += 1
    return Became(states=dict(states), again=_again(why))


def _again(why: Counter[str]) -> list[Again]:
    return [Again(text=text, count=count) for text, count in why.most_common(20)]
