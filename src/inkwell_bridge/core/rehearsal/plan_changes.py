"""Two plans of the same document compared: every value that is another."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice
from typing import Any

from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.planner import Plan
from inkwell_bridge.core.values import Said, Text, Value

MOST_CHANGES = 200
LONGEST_SHOWN = 200
# Reasons follow from the values that they explain; of findings the rehearsal tells which come and go.
_OF_NOBODY = {"language", "group", "terms"}
_COMPARED = ("outcome", "left_out_by", "contact", "documents", "drafts", "open_balance")


class PlanChange(Value):
    """A value of a plan that is another; ``at`` is a JSON Pointer into it. Nothing where there was none, or is none."""

    at: Text
    before: Said | None = None
    after: Said | None = None


def plan_changes(before: Plan, after: Plan) -> tuple[PlanChange, ...]:
    """What differs in the second of two plans, the first ``MOST_CHANGES`` of it.

    Documents are compared with those of the same reference, wherever they stand; their lines one by one in their
    order. A whole line or document that comes or goes is one change.
    """
    if before == after:
        return ()
    found = _changes(_compared(before), _compared(after), "")
    return tuple(islice((_without_people(one) for one in found), MOST_CHANGES))


def _without_people(change: PlanChange) -> PlanChange:
    """Of a contact only that something of it is another: who bought stands with the order, and nowhere else."""
    at = change.at.split("/")
    if at[1] != "contact" or (len(at) > 2 and at[2] in _OF_NOBODY):
        return change
    return PlanChange(at=change.at)


def _compared(plan: Plan) -> dict[str, Any]:
    said = plan.model_dump(mode="json", include=set(_COMPARED), exclude_none=True)
    said["documents"] = {one["external_reference"]: one for one in said.get("documents", ())}
    return said


def _changes(before: Any, after: Any, at: str) -> Iterator[PlanChange]:
    if before == after:
        return
    if isinstance(before, dict) and isinstance(after, dict):
        for name in (*before, *(name for name in after if name not in before)):
            yield from _changes(before.get(name), after.get(name), f"{at}/{escaped(name)}")
    elif isinstance(before, list) and isinstance(after, list):
        for place in range(max(len(before), len(after))):
            yield from _changes(_at(before, place), _at(after, place), f"{at}/{place}")
    else:
        yield PlanChange(at=at[:2000], before=_shown(before), after=_shown(after))


def _at(values: list[Any], place: int) -> Any:
    return values[place] if place < len(values) else None


def _shown(value: Any) -> str | None:
    """A value in a few words: of a document its role, of a line its text and amounts."""
    if value is None or value == "":
        return None
    if isinstance(value, dict):
        named = [str(value[name]) for name in ("role", "title", "text", "account", "tax_code", "net", "tax", "amount")
                 if value.get(name)]  # fmt: skip
        value = ", ".join(named) or ", ".join(f"{name} {one}" for name, one in value.items() if one)
    elif isinstance(value, list):
        value = ", ".join(filter(None, map(_shown, value)))
    text = str(value)
    return text if len(text) <= LONGEST_SHOWN else f"{text[: LONGEST_SHOWN - 1]}…"
