"""Linking what is certain: what nobody has answered yet and a rule finds exactly one of on the other side."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from django.db.models import Exists, OuterRef, Q

from inkwell_bridge.core.linking import KEYS, RULES, Known, LinkKind, Rule, certain
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.links.between import SIDES, Between
from inkwell_bridge.service.links.changing import Target, put
from inkwell_bridge.service.links.models import What
from inkwell_bridge.service.reference.entries import known_of
from inkwell_bridge.service.reference.models import Entry, Loading, LoadingState

CHUNK = 500


def match_all(workspace_id: int, connection_id: int) -> int:
    """Match whatever can be linked to or from a connection; answers how many were linked."""
    return sum(match(between) for between in _all_between(workspace_id, connection_id))


def _all_between(workspace_id: int, connection_id: int) -> Iterator[Between]:
    bridges = Bridge.current.filter(Q(source=connection_id) | Q(books=connection_id), workspace=workspace_id)
    seen = set()
    for bridge in bridges.select_related("workspace", "source__workspace", "books__workspace").order_by("pk"):
        if (bridge.source_id, bridge.books_id) not in seen:
            seen.add((bridge.source_id, bridge.books_id))
            yield from (between for kind in LinkKind if both_loaded(between := Between.of(bridge, kind)))


def both_loaded(between: Between) -> bool:
    """Whether both lists were gone over at least once; before, nothing could be told to be missing."""
    sold, kept = SIDES[between.kind]
    ended = Loading.objects.filter(workspace=between.workspace, state=LoadingState.ENDED)
    return (
        ended.filter(connection=between.source, part=sold).exists()
        and ended.filter(connection=between.books, part=kept).exists()
    )


def match(between: Between) -> int:
    """Link what is certain, and open again what led to something that has gone."""
    _open_what_lost_its_target(between)
    number, last = 0, 0
    while batch := list(between.open().filter(pk__gt=last).order_by("pk")[:CHUNK]):
        last = batch[-1].pk
        answers = _certain(between, batch)
        if answers and put(between, answers, what=What.MATCHED, person=None, only_open=True):
            number += len(answers)
    return number


def _certain(between: Between, batch: Sequence[Entry]) -> dict[str, list[Target]]:
    found = _found(between, batch)
    answers = {}
    for entry in batch:
        match = certain(between.kind, {rule: found[rule].get(_key(entry, rule), []) for rule in found})
        if match:
            same = found[match.rule][_key(entry, match.rule)]
            code = next(one.code for one in same if one.id == match.id)
            answers[entry.source_id] = [Target(id=match.id, code=code, rule=match.rule.value)]
    return answers


def _found(between: Between, batch: Sequence[Entry]) -> dict[Rule, dict[str, list[Known]]]:
    """For each rule, those of the books by their key: one statement a rule."""
    result: dict[Rule, dict[str, list[Known]]] = {}
    for rule in RULES[between.kind]:
        keys = {_key(entry, rule) for entry in batch} - {""}
        result[rule] = {}
        for entry in between.kept().filter(**{f"{KEYS[rule]}__in": keys}) if keys else ():
            result[rule].setdefault(_key(entry, rule), []).append(known_of(entry))
    return result


def _key(entry: Entry, rule: Rule) -> str:
    return str(getattr(entry, KEYS[rule]))


def _open_what_lost_its_target(between: Between) -> None:
    gone = Entry.objects.filter(
        connection=between.books, kind=SIDES[between.kind][1], source_id=OuterRef("target_id"), gone_in__isnull=False
    )
    keys = list(between.links().filter(Exists(gone)).values_list("key", flat=True).distinct())
    if keys:
        put(between, {}, what=What.MATCHED, person=None, ends=keys, text="what they led to has gone from the books")
