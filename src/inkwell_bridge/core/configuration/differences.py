"""Two configurations compared, in words: what a bridge would become if the other's were applied to it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from decimal import Decimal

from inkwell_bridge.core.configuration.model import Configuration, LinkedCode, Timing
from inkwell_bridge.core.rulebook import Rulebook, read
from inkwell_bridge.core.rulebook.compare import compare
from inkwell_bridge.core.timetable import in_words
from inkwell_bridge.core.values import Text, Value

MOST_NAMED = 5


class Difference(Value):
    """One thing that would change; ``of`` is the part of the configuration, ``at`` a place in it."""

    of: Text
    text: Text
    at: Text = ""


def differences(
    here: Configuration, there: Configuration, *, bases: Mapping[str, str] | None = None
) -> tuple[Difference, ...]:  # fmt: skip
    """What would change here if the configuration from there were applied; links and bases that are only here stay.

    ``bases`` are the base rules as they are here by now, also those that others build on; without it, those of here.

    Raises:
        RulebookInvalid: a rulebook of one of them can be none.
    """
    return (
        *_made_for(here, there),
        *_rules(here, there),
        *_bases(here.bases if bases is None else bases, there),
        *_lanes(here, there),
        *_timetables(here, there),
        *_notices(here, there),
        *_links(here, there),
    )


def _made_for(here: Configuration, there: Configuration) -> Iterator[Difference]:
    """What applying changes nothing of, and what may be why the rules do not fit."""
    for of, was, now in (
        ("kind of sales side", there.source, here.source),
        ("kind of books", there.books, here.books),
        ("country", there.country, here.country),
        ("currency", there.currency, here.currency),
    ):
        if was != now:
            yield Difference(of="made for", text=f"It was made for another {of}: {was or 'none'}; here it is {now}.")


def _rules(here: Configuration, there: Configuration) -> Iterator[Difference]:
    if not there.rulebook:
        return
    after = _effective(there)
    if not here.rulebook:
        yield Difference(of="rules", text="There are no rules here yet; these would be the first.")
        return
    changes = compare(_effective(here), after)
    yield from (Difference(of="rules", text=change.text, at=change.at) for change in changes)
    if not changes and here.rulebook != there.rulebook:
        yield Difference(of="rules", text="They say the same in other words: comments, order or spelling.")


def _effective(configuration: Configuration) -> Rulebook:
    """Its rules with all that they build on.

    Raises:
        RulebookInvalid: they are none.
    """
    return read(configuration.rulebook, base=configuration.bases.get)[0]


def _bases(here: Mapping[str, str], there: Configuration) -> Iterator[Difference]:
    for name, text in there.bases.items():
        if name not in here:
            yield Difference(of="base rules", text=f"{name} would be written here.", at=name)
        elif here[name] != text:
            yield Difference(of="base rules", text=f"{name} would get a new version.", at=name)


def _lanes(here: Configuration, there: Configuration) -> Iterator[Difference]:
    for kind, on in there.lanes.items():
        if here.lanes.get(kind, False) != on:
            yield Difference(
                of="lanes", text=f"{kind.capitalize()} would be switched {'on' if on else 'off'}.", at=kind
            )


def _timetables(here: Configuration, there: Configuration) -> Iterator[Difference]:
    yield from _timetable("It", here.timetable, there.timetable, "only when somebody starts it")
    for kind in sorted({*here.lane_timetables, *there.lane_timetables}):
        ours, theirs = here.lane_timetables.get(kind), there.lane_timetables.get(kind)
        yield from _timetable(f"The {kind} lane", ours, theirs, "whenever the bridge does", at=kind)


def _timetable(
    who: str, here: Timing | None, there: Timing | None, without: str, *, at: str = ""
) -> Iterator[Difference]:
    if (here and here.table) == (there and there.table):
        return
    was = f"now {in_words(here.table)}" if here else "there is none now" if at == "" else f"now {without}"
    will = in_words(there.table) if there else without
    yield Difference(of="timetable", text=f"{who} would run {will}; {was}.", at=at)


def _notices(here: Configuration, there: Configuration) -> Iterator[Difference]:
    for one in there.notices:
        if one not in here.notices:
            how = "by e-mail" if one.channel == "mail" else "by signed calls"
            of = ", ".join(one.kinds) or "every kind of trouble"
            yield Difference(of="notices", text=f"{one.to} would be told {how} of {of}.", at=one.to)


def _links(here: Configuration, there: Configuration) -> Iterator[Difference]:
    for kind, links in there.links.items():
        before, after = _by_code(here.links.get(kind, ())), _by_code(links)
        # As they are written there, however they are written here.
        written = {link.code.casefold(): link.code for link in links}
        added = [code for code in after if code not in before]
        changed = [code for code in after if code in before and before[code] != after[code]]
        for codes, what in ((added, "would be linked"), (changed, "would be linked otherwise")):
            if codes:
                yield Difference(
                    of=f"links of {kind}", text=f"{len(codes)} {what}: {_named([written[code] for code in codes])}."
                )
    for kind, count in there.without_code.items():
        if count:
            text = f"{count} have no code of their own on one side, and stay behind."
            yield Difference(of=f"links of {kind}", text=text)


_Target = tuple[str, Decimal, Decimal | None]


def _by_code(links: tuple[LinkedCode, ...]) -> dict[str, set[_Target]]:
    """What each code leads to; case does not matter, as wherever codes are looked for."""
    found: dict[str, set[_Target]] = {}
    for link in links:
        found.setdefault(link.code.casefold(), set()).add((link.to.casefold(), link.quantity, link.share))
    return found


def _named(codes: list[str]) -> str:
    more = f" and {len(codes) - MOST_NAMED:,} more" if len(codes) > MOST_NAMED else ""
    return f"{', '.join(codes[:MOST_NAMED])}{more}"
