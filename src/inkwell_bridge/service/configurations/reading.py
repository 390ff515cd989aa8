"""What a bridge was set up with, read from where it stands."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from django.db.models import OuterRef, Subquery

from inkwell_bridge.core.configuration import Configuration, LinkedCode, Timing
from inkwell_bridge.core.configuration.model import MOST_LINKS
from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.bridges.lanes import lane_names
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import in_force, newest_version
from inkwell_bridge.service.bridges.timetables import EVERY_LANE
from inkwell_bridge.service.configurations.notices import notices_of
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.refusal import Refusal


class TooManyLinks(Refusal):
    """A configuration has more links than one document holds."""

    code = "too-many-links"
    hint = "Take the links out as a table (links export), and the rest without them: links=false."


def configuration_of(bridge: Bridge, *, links: bool = True) -> Configuration:
    """The configuration of a bridge: the rules in force (the newest, where none are), lanes, timetable, notices, links
    by code.

    Raises:
        TooManyLinks: more than one document holds.
    """
    version = in_force(bridge) or newest_version(bridge)
    on = dict(bridge.lanes.values_list("kind", "on"))
    timings = {one.kind: Timing(rule=one.rule, time_zone=one.time_zone) for one in bridge.timetables.order_by("kind")}
    found = {kind: _Links(Between.of(bridge, kind)) for kind in LinkKind} if links else {}
    return Configuration(
        name=bridge.name,
        source=bridge.source.kind,
        books=bridge.books.kind,
        country=bridge.company.country,
        currency=bridge.company.currency,
        rulebook=version.text if version else "",
        bases={layer["name"]: layer["text"] for layer in version.layers} if version else {},
        lanes={kind: on.get(kind, False) for kind in lane_names()},
        timetable=timings.pop(EVERY_LANE, None),
        lane_timetables=timings,
        notices=notices_of(bridge),
        links={kind.value: one.by_code for kind, one in found.items() if one.by_code},
        without_code={kind.value: one.without_code for kind, one in found.items() if one.without_code},
    )


class _Links:
    """The links of one kind by the codes of both sides, and how many have no code of their own there."""

    def __init__(self, between: Between) -> None:
        self.without_code = 0
        self.by_code = tuple(self._read(between))

    def _read(self, between: Between) -> Iterator[LinkedCode]:
        code = between.sold().filter(source_id=OuterRef("key")).values("code")[:1]
        rows = between.links().annotate(code=Subquery(code)).order_by("code", "target_code", "pk")
        if rows.count() > MOST_LINKS:
            raise TooManyLinks(f"There are more than {MOST_LINKS:,} links of {between.kind.value} here.")
        found = list(rows.values("key", "code", "target_id", "target_code", "quantity", "share"))
        keys: dict[str, set[str]] = defaultdict(set)
        for row in found:
            # Without the spaces that people type around codes, as everything looks for them.
            row["code"], row["target_code"] = (row["code"] or "").strip(), row["target_code"].strip()
            keys[row["code"].casefold()].add(row["key"])
        for row in found:
            # Two products of one code would be taken for a kit of both their items.
            if (
                not row["code"]
                or len(keys[row["code"].casefold()]) > 1
                or (row["target_id"] and not row["target_code"])
            ):
                self.without_code += 1
                continue
            share = row["share"]
            yield LinkedCode(
                code=row["code"], to=row["target_code"] if row["target_id"] else "",
                quantity=row["quantity"].normalize(), share=None if share is None else share.normalize(),
            )  # fmt: skip
