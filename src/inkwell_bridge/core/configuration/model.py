"""A bridge's configuration as one document (bridge-configuration-1)."""

from __future__ import annotations

from decimal import Decimal
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from inkwell_bridge.core.notices import TroubleKind
from inkwell_bridge.core.rulebook.reader import BASE_NAME
from inkwell_bridge.core.timetable import LONGEST_RULE, Timetable, Zone, from_rule
from inkwell_bridge.core.values import Code, Country, Exact, Text, Value

LONGEST_RULES = 200_000
MOST_LINKS = 200_000
MOST_BASES, MOST_LANES, MOST_NOTICES = 20, 100, 100
LinkKindName = Literal["products", "customers"]
BaseName = Annotated[str, Field(pattern=BASE_NAME)]
# A time of the day, such as 07:30.
Clock = Annotated[str, Field(pattern=r"^([01][0-9]|2[0-3]):[0-5][0-9]$")]
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


class Telling(Value):
    """Somebody who is told of a bridge's troubles, how and when.

    ``to`` is a person's e-mail, or the address of a signed call; what that is signed with is a secret, and stands in no
    configuration. Of all ``kinds`` and ``lanes``, where none is named. Times are by the clocks of ``time_zone``.
    """

    channel: Literal["mail", "call"]
    to: Annotated[str, Field(min_length=1, max_length=500)]
    kinds: tuple[TroubleKind, ...] = ()
    lanes: Annotated[tuple[Code, ...], Field(max_length=MOST_LANES)] = ()
    at_once: bool = True
    digest_at: Clock | None = None
    summary_at: Clock | None = None
    quiet_from: Clock | None = None
    quiet_until: Clock | None = None
    time_zone: Zone

    @model_validator(mode="after")
    def _says_when(self) -> Self:
        if (self.quiet_from is None) != (self.quiet_until is None):
            raise ValueError("expected both ends of the quiet hours, or neither")
        if not self.at_once and self.digest_at is None and self.summary_at is None:
            raise ValueError("expected at once, a digest or a summary")
        return self


class Configuration(Value):
    """What a bridge was set up with.

    ``source`` and ``books`` are the kinds of its ends, ``country`` and ``currency`` those of its company: rules that
    were made for others seldom fit. ``rulebook`` is the text of the version in force (of the newest, where none is),
    ``bases`` are the texts that it builds on. ``lane_timetables`` are those of lanes that run apart from the others.
    ``notices`` are who is told of its troubles. ``without_code`` counts the links of which one side has no code of its
    own; they stay behind.
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
    notices: Annotated[tuple[Telling, ...], Field(max_length=MOST_NOTICES)] = ()
    links: dict[LinkKindName, Annotated[tuple[LinkedCode, ...], Field(max_length=MOST_LINKS)]] = {}
    without_code: dict[LinkKindName, int] = {}
