"""A bridge's configuration as one document (bridge-configuration-1)."""

from __future__ import annotations

from decimal import Decimal
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from inkwell_bridge.core.rulebook.reader import BASE_NAME
from inkwell_bridge.core.timetable import LONGEST_RULE, Timetable, Zone, from_rule
from inkwell_bridge.core.values import Code, Country, Exact, Text, Value

LONGEST_RULES = 200_000
MOST_LINKS = 200_000
MOST_BASES, MOST_LANES = 20, 100
LinkKindName = Literal["products", "customers"]
BaseName = Annotated[str, Field(pattern=BASE_NAME)]
RulesText = Annotated[str, Field(max_length=LONGEST_RULES)]


class Timing(Value):
    """When a bridge, or a lane of it, runs by itself: rules of RFC 5545 in a time zone of IANA."""

    rule: Annotated[str, Field(min_length=1, max_length=LONGEST_RULE)]
    time_zone: Zone

    @model_validator(mode="after")
    def _understood(self) -> Self:
        from_rule(self.rule, self.time_zone)
        return self

    @property
    def table(self) -> Timetable:
        """It, in fields."""
        return from_rule(self.rule, self.time_zone)


class LinkedCode(Value):
    """A product or customer and what it is in the books, both by code: ids are another at every end.

    Without ``to`` it has no counterpart, and somebody has said so. Units: one sold is ``quantity`` of the item;
    ``share`` is its part of a kit's price.
    """

    code: Code
    to: Text = ""
    quantity: Exact = Decimal(1)
    share: Exact | None = None


class Configuration(Value):
    """What a bridge was set up with.

    ``source`` and ``books`` are the kinds of its ends, ``country`` and ``currency`` those of its company: rules that
    were made for others seldom fit. ``rulebook`` is the text of the version in force (of the newest, where none is),
    ``bases`` are the texts that it builds on. ``lane_timetables`` are those of lanes that run apart from the others.
    ``without_code`` counts the links of which one side has no
    code of its own; they stay behind.
    """

    configuration: Literal[1] = 1
    name: Text = ""
    source: Code
    books: Code
    country: Country = ""
    currency: Text = ""
    rulebook: RulesText = ""
    bases: Annotated[dict[BaseName, RulesText], Field(max_length=MOST_BASES)] = {}
    lanes: Annotated[dict[Code, bool], Field(max_length=MOST_LANES)] = {}
    timetable: Timing | None = None
    lane_timetables: Annotated[dict[Code, Timing], Field(max_length=MOST_LANES)] = {}
    links: dict[LinkKindName, Annotated[tuple[LinkedCode, ...], Field(max_length=MOST_LINKS)]] = {}
    without_code: dict[LinkKindName, int] = {}
