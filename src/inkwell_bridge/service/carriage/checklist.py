"""The first set-up of a bridge, in the order of the work: what is done, what is missing, and why it matters."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from inkwell_bridge.core.findings import Level
from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import findings_of, in_force
from inkwell_bridge.service.carriage import opening
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.connections.models import Connection, ConnectionState
from inkwell_bridge.service.links.between import SIDES, Between
from inkwell_bridge.service.links.matching import both_loaded
from inkwell_bridge.service.reference.loading import parts_of
from inkwell_bridge.service.reference.models import Loading, LoadingState

State = Literal["done", "open", "attention"]
_GOOD = (ConnectionState.CONNECTED, ConnectionState.EXPIRING)


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One step. ``needed``: nothing runs without it; all others an expert may leave as they are."""

    id: str
    title: str
    state: State
    text: str
    why: str
    needed: bool = False


def steps(bridge: Bridge) -> list[Step]:
    """Every step of a bridge's set-up."""
    return [
        _connected("connect-source", "Connect the sales side", bridge.source),
        _connected("connect-books", "Connect the books", bridge.books),
        _loaded(bridge),
        *_linked(bridge),
        _ruled(bridge),
        _tried(bridge),
        _dated(bridge),
        _opened(bridge),
        _switched(bridge),
    ]


def _connected(identity: str, title: str, connection: Connection) -> Step:
    state: State = "done" if connection.state in _GOOD else "attention"
    if connection.state == ConnectionState.NEW:
        state = "open"
    company = connection.described.get("company", "")
    text = connection.state_text or (f"{connection.name} answers, as {company}." if company else "Not checked yet.")
    why = "A wrong key or a missing right shows here, not when an order trips on it."
    return Step(id=identity, title=title, state=state, text=text, why=why, needed=True)


def _loaded(bridge: Bridge) -> Step:
    ends = (bridge.source, bridge.books)
    ended = Loading.objects.filter(connection__in=ends, state=LoadingState.ENDED)
    loaded = set(ended.values_list("connection", "part").distinct())
    missing = [
        f"{part.label.lower()} of {end.name}"
        for end in ends
        for part in parts_of(end)
        if (end.pk, part.value) not in loaded
    ]
    text = f"Not loaded yet: {', '.join(missing)}." if missing else "All reference data is loaded."
    why = "Rules are checked against it, and products and customers are linked from it."
    return Step(
        id="load", title="Load the reference data of both ends", state="open" if missing else "done", text=text, why=why
    )


def _linked(bridge: Bridge) -> Iterator[Step]:
    why = {
        LinkKind.PRODUCTS: "An article nobody linked is found by an order, at the worst moment.",
        LinkKind.CUSTOMERS: "A customer nobody linked may become a second contact in the books.",
    }
    for kind in LinkKind:
        sold, kept = SIDES[kind]
        if sold not in parts_of(bridge.source) or kept not in parts_of(bridge.books):
            continue
        between = Between.of(bridge, kind)
        if not both_loaded(between):
            state, text = "open", f"Load the {sold.label.lower()} and the {kept.label.lower()} first."
        else:
            number = between.open().count()
            state = "attention" if number else "done"
            text = (
                f"{number:,} of them wait for an answer." if number else f"All {sold.label.lower()} are answered for."
            )
        yield Step(id=f"link-{kind}", title=f"Link {kind}", state=state, text=text, why=why[kind])  # type: ignore[arg-type]


def _ruled(bridge: Bridge) -> Step:
    version = in_force(bridge)
    why = "The rulebook says which orders cross, and on which accounts and tax codes."
    if version is None:
        drafts = bridge.rulebooks.count()
        text = "A draft is written; publish it." if drafts else "No rulebook is written yet."
        return Step(id="rules", title="Write and publish the rules", state="open", text=text, why=why, needed=True)
    wrong = [finding for finding in findings_of(version) if finding.level is not Level.NOTE]
    state: State = "attention" if wrong else "done"
    text = f"Version {version.number}: {wrong[0].text}" if wrong else f"Version {version.number} is in force."
    return Step(id="rules", title="Write and publish the rules", state=state, text=text, why=why, needed=True)


def _tried(bridge: Bridge) -> Step:
    done = bridge.crossings.filter(state=CrossingState.CARRIED).exists()
    text = (
        "An order was carried." if done else "Look at what one real order would become; then send that one and compare."
    )
    why = "One order compared at both ends shows what a whole month would get wrong."
    return Step(id="try", title="Try one order", state="done" if done else "open", text=text, why=why)


def _dated(bridge: Bridge) -> Step:
    day = bridge.starts_on
    text = (
        f"Orders placed from {day:%d %B %Y} on are carried; earlier ones are adopted or left out."
        if day
        else "No date is set: every order that the sales side hands out is carried, however old."
    )
    why = "What somebody typed into the books before the cut-over must not be posted again."
    return Step(id="start-date", title="Choose the start date", state="done" if day else "open", text=text, why=why)


def _opened(bridge: Bridge) -> Step:
    found = opening.entered(bridge)
    why = "A gift card sold before the cut-over is used after it: without its balance the debt would turn negative."
    text, state = "No opening balances of deposits, gift cards or clearing accounts are entered.", "open"
    if found is not None:
        why_not = " ".join(f"{one['text']} {one['hint']}".strip() for one in found.findings[:1])
        text = f"Opening balances as of {found.business_date:%d %B %Y}: {found.state}. {why_not}".strip()
        state = {CrossingState.CARRIED: "done", CrossingState.WAITING: "open"}.get(
            CrossingState(found.state), "attention"
        )
    return Step(id="opening", title="Enter opening balances", state=state, text=text, why=why)  # type: ignore[arg-type]


def _switched(bridge: Bridge) -> Step:
    kinds = bridge.lanes.filter(on=True).values_list("kind", flat=True)
    on = sorted(kind.replace("_", " ") for kind in kinds)
    text = f"On: {', '.join(on)}." if on else "Every lane is off, so nothing is carried yet."
    why = "Each kind of document is switched on by itself, so that nothing crosses that nobody thought of."
    return Step(
        id="lanes", title="Switch the lanes on", state="done" if on else "open", text=text, why=why, needed=True
    )
