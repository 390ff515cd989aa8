"""Who is told of a bridge's troubles, as a configuration has it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import time

from inkwell_bridge.core.configuration import Configuration, Telling
from inkwell_bridge.service.bridges.lanes import lane_names
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.notices.models import Channel, NoticeRule
from inkwell_bridge.service.people.models import Membership, Person
from inkwell_bridge.service.people.trail import record

_TIMES = ("digest_at", "summary_at", "quiet_from", "quiet_until")


def notices_of(bridge: Bridge) -> tuple[Telling, ...]:
    """Who is told of a bridge: by rules that name it, and by those for every bridge."""
    rows = NoticeRule.objects.select_related("person").filter(workspace=bridge.workspace_id, on=True).order_by("pk")
    # Two rules may differ in their bridges alone.
    found = [_telling(rule) for rule in rows if not rule.bridges or bridge.slug in rule.bridges]
    return tuple(dict.fromkeys(found))


def _telling(rule: NoticeRule) -> Telling:
    times = {name: getattr(rule, name) for name in _TIMES}
    return Telling(
        channel="mail" if rule.channel == Channel.MAIL else "call",
        to=rule.person.email if rule.person else rule.address,
        kinds=rule.kinds,
        lanes=rule.lanes,
        at_once=rule.at_once,
        **{name: f"{one:%H:%M}" if one else None for name, one in times.items()},
        time_zone=rule.time_zone,
    )


def missing_notices(bridge: Bridge, here: Configuration, there: Configuration) -> Iterator[str]:
    """What a configuration has of notices that cannot be made here, in words."""
    people = _people(bridge)
    hindrances = (_hindrance(one, people) for one in _new(here, there))
    return (said for said in hindrances if said)


def _new(here: Configuration, there: Configuration) -> Iterator[Telling]:
    return (one for one in there.notices if one not in here.notices)


def _hindrance(one: Telling, people: Mapping[str, Person]) -> str:
    """Why it cannot be made here; nothing where it can."""
    if one.channel == "call":
        return f"A signed call to {one.to} needs a secret of its own: add it by hand."
    if one.to.casefold() not in people:
        return f"Nobody here has the e-mail {one.to}, so nobody is told."
    unknown = sorted(set(one.lanes) - set(lane_names()))
    return f"There is no lane for {unknown[0]} here, of which {one.to} would be told." if unknown else ""


def tell(bridge: Bridge, here: Configuration, there: Configuration, person: Person) -> None:
    """Have those told by e-mail who are not told yet; rules that are only here stay."""
    people = _people(bridge)
    for one in _new(here, there):
        if _hindrance(one, people):
            continue
        who = people[one.to.casefold()]
        times = {name: getattr(one, name) for name in _TIMES}
        NoticeRule.objects.create(
            workspace=bridge.workspace,
            channel=Channel.MAIL,
            person=who,
            made_by=person,
            bridges=[bridge.slug],
            kinds=[kind.value for kind in one.kinds],
            lanes=list(one.lanes),
            at_once=one.at_once,
            **{name: time.fromisoformat(text) if text else None for name, text in times.items()},
            time_zone=one.time_zone,
        )
        record(bridge.workspace, person, "notice rule.made", who.email)


def _people(bridge: Bridge) -> dict[str, Person]:
    rows = Membership.objects.select_related("person").filter(workspace=bridge.workspace_id)
    return {row.person.email.casefold(): row.person for row in rows}
