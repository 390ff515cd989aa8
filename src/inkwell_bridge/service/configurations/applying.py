"""Holding a configuration against a bridge, and applying it there: all of it, or nothing."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from django.db import transaction

from inkwell_bridge.core.configuration import Configuration, Difference, LinkedCode, differences
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.bridges import bases, rules
from inkwell_bridge.service.bridges.lanes import lane_names, switch
from inkwell_bridge.service.bridges.models import BaseRulebook, Bridge, RulebookVersion
from inkwell_bridge.service.bridges.timetables import EVERY_LANE, remove_timetable, set_timetable
from inkwell_bridge.service.configurations.notices import missing_notices, tell
from inkwell_bridge.service.configurations.reading import configuration_of
from inkwell_bridge.service.links import importing
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.table_reading import Row, sides
from inkwell_bridge.service.links.tables import NONE
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

MOST_MISSING = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class Missing:
    """Something that a configuration names and that is not here."""

    of: str
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """What a configuration comes to on a bridge: what is not there, what would change, what is found in its rules.

    ``missing_count`` counts all of what is missing, ``missing`` names the first ``MOST_MISSING``. ``rulebook`` is the
    version that was written, where it was applied and its rules are other ones.
    """

    missing: list[Missing]
    missing_count: int
    differences: tuple[Difference, ...]
    findings: tuple[Finding, ...]
    applied: bool = False
    rulebook: RulebookVersion | None = None


class NotAllThere(Refusal):
    """A configuration names what is not here."""

    status = 409
    code = "not-all-there"
    hint = "Make it at the ends and load their reference data; or apply the configuration without it (leave_missing)."

    def __init__(self, comparison: Comparison) -> None:
        self.comparison = comparison
        first = comparison.missing[0]
        others = comparison.missing_count - 1
        more = f" {others} more {'is' if others == 1 else 'are'} missing." if others else ""
        super().__init__(f"Nothing was applied: {first.text}{more}")

    def members(self) -> dict[str, Any]:
        """What is missing."""
        missing = [{"of": one.of, "text": one.text} for one in self.comparison.missing]
        return {"missing": missing, "missing_count": self.comparison.missing_count}


def compared(bridge: Bridge, there: Configuration, person: Person) -> Comparison:
    """What would change on a bridge, and what is not there; nothing is kept.

    Raises:
        RulebookInvalid: its rulebook is none.
    """
    return _comparison(bridge, configuration_of(bridge), there, person, link=False)


@transaction.atomic
def applied(
    bridge: Bridge, there: Configuration, person: Person, *, leave_missing: bool, publish: bool
) -> Comparison:  # fmt: skip
    """Let a bridge be set up like that: base rules, a version of the rules (in force with ``publish``), lanes,
    timetable, notices, links; in one transaction, so that nothing is half done. Links and notices that are only here
    stay.

    Raises:
        RulebookInvalid: its rulebook is none, or, with ``publish``, names what the books do not have.
        NotAllThere: and ``leave_missing`` was not said.
    """
    # Of two who apply at once, the second compares with what the first has made. Not the lock that also waits for rows
    # which only point to the bridge: then the locks of links, base rules and drafts follow, always in this order.
    Bridge.objects.select_for_update(no_key=True).get(pk=bridge.pk)
    here = configuration_of(bridge)
    # Links are put in place while they are judged: where anything is missing, the transaction takes them back.
    comparison = _comparison(bridge, here, there, person, link=True)
    if comparison.missing and not leave_missing:
        raise NotAllThere(comparison)
    now = _bases_here(bridge, there)
    for name, text in there.bases.items():
        if now.get(name) != text:
            bases.write(bridge.workspace, person, name, text)
    version = _rules(bridge, there, person, publish=publish)
    for kind, on in _switched(here, there).items():
        if not on or bridge.starts_on is not None:
            switch(bridge, person, kind, on=on)
    ours = {EVERY_LANE: here.timetable, **here.lane_timetables}
    theirs = {EVERY_LANE: there.timetable, **there.lane_timetables}
    # A lane that is not here is named as missing; it has no timetable either.
    for kind in (EVERY_LANE, *lane_names()):
        timing = theirs.get(kind)
        if timing is None and ours.get(kind) is not None:
            remove_timetable(bridge, person, kind=kind)
        elif timing is not None and timing != ours.get(kind):
            set_timetable(bridge, person, timing.table, kind=kind)
    tell(bridge, here, there, person)
    record(bridge.workspace, person, "configuration.applied", bridge.slug, made_for=there.name)
    return replace(comparison, applied=True, rulebook=version)


def _rules(bridge: Bridge, there: Configuration, person: Person, *, publish: bool) -> RulebookVersion | None:
    """The version that its rules become; none where they are in force here already, on the same bases."""
    if not there.rulebook:
        return None
    now = rules.in_force(bridge)
    if now and now.text == there.rulebook and {one["name"]: one["text"] for one in now.layers} == dict(there.bases):
        return None
    note = f"From the configuration of {there.name}." if there.name else "From a configuration."
    version = rules.write_draft(bridge, person, there.rulebook, file="rulebook.yaml", note=note[:500])
    return rules.publish(version, person) if publish else version


def _comparison(
    bridge: Bridge, here: Configuration, there: Configuration, person: Person, *, link: bool
) -> Comparison:  # fmt: skip
    found = differences(here, there, bases=_bases_here(bridge, there))
    findings = _findings(bridge, there)
    missing = [
        *(Missing(of="rules", text=one.text) for one in findings if one.level is Level.ERROR),
        *_lanes_missing(bridge, here, there),
        *(Missing(of="notices", text=text) for text in missing_notices(bridge, here, there)),
        *_links_missing(bridge, there, person, link=link),
    ]
    return Comparison(missing=missing[:MOST_MISSING], missing_count=len(missing), differences=found, findings=findings)


def _bases_here(bridge: Bridge, there: Configuration) -> dict[str, str]:
    """What the base rules that a configuration brings say here by now, whichever bridge builds on them."""
    rows = BaseRulebook.objects.filter(workspace=bridge.workspace_id, name__in=list(there.bases))
    return dict(bases.newest_of_each(rows).values_list("name", "text"))


def _switched(here: Configuration, there: Configuration) -> dict[str, bool]:
    """The lanes that would be switched, and which way; those that are not here are none."""
    return {kind: on for kind, on in there.lanes.items() if here.lanes.get(kind, on) != on}


def _lanes_missing(bridge: Bridge, here: Configuration, there: Configuration) -> Iterator[Missing]:
    for kind in there.lanes:
        if kind not in here.lanes:
            yield Missing(of="lanes", text=f"There is no lane for {kind} here.")
    # By hand a person switches a lane on and sees that no day is set; here it would go unseen among all else.
    if bridge.starts_on is None and any(_switched(here, there).values()):
        text = (
            "No start date is set here, and lanes would be switched on: every document that the sales side hands out "
            "would be carried, however old. Set the day first; without it the lanes stay off."
        )
        yield Missing(of="start date", text=text)


def _findings(bridge: Bridge, there: Configuration) -> tuple[Finding, ...]:
    """What both ends of the bridge do not have of what the rules name."""
    if not there.rulebook:
        return ()
    layers = [{"name": name, "number": 0, "text": text} for name, text in there.bases.items()]
    version = RulebookVersion(workspace=bridge.workspace, bridge=bridge, text=there.rulebook, layers=layers)
    return rules.findings_of(version)


def _links_missing(bridge: Bridge, there: Configuration, person: Person, *, link: bool) -> Iterator[Missing]:
    """The links of which a code is not here, or stands for several; with ``link`` the others are put in place."""
    for kind in LinkKind:
        links = there.links.get(kind.value, ())
        if not links:
            continue
        between = Between.of(bridge, kind)
        preview = importing.take_in(between, _table(between, links), person, apply=link)
        yield from (Missing(of=f"links of {kind.value}", text=f"{bad.text[:1].upper()}{bad.text[1:]}.")
                    for bad in preview.bad)  # fmt: skip
        # All are counted, and the first are named.
        for _ in range(preview.bad_rows - len(preview.bad)):
            yield Missing(of=f"links of {kind.value}", text="Another is not here.")


def _table(between: Between, links: tuple[LinkedCode, ...]) -> Iterator[Row]:
    sold, kept = sides(between.kind)
    for number, link in enumerate(links, start=1):
        share = "" if link.share is None else f"{link.share:f}"
        cells = {f"{sold}_code": link.code, f"{kept}_code": link.to or NONE, "share": share,
                 "quantity": f"{link.quantity:f}"}  # fmt: skip
        yield Row(number=number, cells=cells)
