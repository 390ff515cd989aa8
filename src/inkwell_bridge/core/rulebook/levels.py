"""Settings on levels: a default for the whole bridge, and what goes before it for some sales, in one fixed order.

A single order goes before its articles, an article before its buyer, a buyer before where and how the sale was made:
whoever marks one order by hand knows more than any rule for a kind of them. The order is the same for every setting, so
that an account and a warehouse never disagree about which exception counts.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from typing import Any, NamedTuple

from pydantic import model_validator

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.languages import ranges
from inkwell_bridge.core.record import record
from inkwell_bridge.core.values import Code, Value

# First to last: the first that fits wins, the default comes after all of them.
LEVELS = ("tag", "attribute", "product", "product_type", "customer", "customer_group", "language", "location",
          "channel", "country", "treatment")  # fmt: skip


@record
class Facts:
    """What settings go by, of one line or of a whole order: for each level the values that are met there.

    An attribute is met as ``name=value``; a language (BCP 47) as itself, and as what it begins with. A line has one
    article; a whole order has all those of its lines. Of several values the first that a setting names counts: tags,
    attributes and articles by the alphabet, for neither the order in which a shop hands them out nor that of a
    table's rows has a meaning that anybody could rely on.
    """

    tag: Sequence[str] = ()
    attribute: Sequence[str] = ()
    product: Sequence[str] = ()
    product_type: Sequence[str] = ()
    customer: Sequence[str] = ()
    customer_group: Sequence[str] = ()
    language: Sequence[str] = ()
    location: Sequence[str] = ()
    channel: Sequence[str] = ()
    country: Sequence[str] = ()
    treatment: Sequence[str] = ()

    def met(self, level: str) -> Sequence[str]:
        """The values met at a level."""
        found: Sequence[str] = getattr(self, level)
        return found

    def one(self, level: str) -> str:
        """The value met at a level; the first of several, nothing where there is none."""
        return next(iter(self.met(level)), "")


# How long a name in a table may be: names stand in the pointers by which reasons name their rules.
LONGEST_NAME = 200
# Of a document or line whose rules ask for nothing.
NOTHING = Facts()


def facts_of_order(order: Order) -> Facts:
    """What settings of a whole order go by: all of its articles, those in its kits among them."""
    products = {sku for line in order.lines for sku in (line.sku, *(part.sku for part in line.components))}
    types = {line.product_type for line in order.lines}
    return _facts(order, sorted(products - {""}), sorted(types - {""}), "")


def facts_of_charge(order: Order, *, product: str = "", product_type: str = "", location: str = "") -> Facts:
    """What settings of one line of an order go by; goods of no location of their own are at that of the order."""
    return _facts(order, (product,) if product else (), (product_type,) if product_type else (), location)


def _facts(order: Order, products: Sequence[str], types: Sequence[str], location: str) -> Facts:
    # Made for every line of every order, of which hardly any have tags, attributes or a language.
    buyer, tags, attributes = order.buyer, order.tags, order.attributes
    account = buyer.account_id if buyer else None
    place = location or order.location
    return Facts(
        tag=sorted(tags) if tags else (),
        # One too long to be named by a rule is as good as none.
        attribute=sorted(said for one in attributes if len(said := f"{one.name}={one.value}") <= LONGEST_NAME),
        product=products,
        product_type=types,
        customer=(account,) if account else (),
        customer_group=(order.customer_group,) if order.customer_group else (),
        language=ranges(buyer.language) if buyer and buyer.language else (),
        location=(place,) if place else (),
        channel=(order.channel,) if order.channel else (),
        country=(order.country,) if order.country else (),
        treatment=(str(order.treatment),) if order.treatment else (),
    )


class Chosen(NamedTuple):
    """A code, the rule that chose it (a JSON Pointer into the rulebook), and why, in words."""

    code: str
    rule: str
    text: str


class Level(NamedTuple):
    """One level of a setting, as it was asked: the value that ``fits``, where one does, and what it ``gave``."""

    name: str
    met: Sequence[str]
    fits: str
    gave: str

    @property
    def said(self) -> str:
        """What was met, in words."""
        return f"{self.name.replace('_', ' ')} '{self.fits}'"


class Levelled(Value):
    """A setting that some sales have otherwise."""

    by_tag: dict[str, Code] = {}
    by_attribute: dict[str, Code] = {}
    by_product: dict[str, Code] = {}
    by_product_type: dict[str, Code] = {}
    by_customer: dict[str, Code] = {}
    by_customer_group: dict[str, Code] = {}
    by_language: dict[str, Code] = {}
    by_location: dict[str, Code] = {}
    by_channel: dict[str, Code] = {}
    by_country: dict[str, Code] = {}
    by_treatment: dict[str, Code] = {}

    @cached_property
    def overrides(self) -> dict[str, dict[str, Code]]:
        """The codes that go before the default, by what they go by, in the order in which they are asked."""
        return tables(self, LEVELS)

    def asked(self, facts: Facts) -> Iterator[Level]:
        """Every level that says anything, in their order."""
        for name, codes in self.overrides.items():
            met = facts.met(name)
            fits = next((one for one in met if one in codes), "")
            yield Level(name, met, fits, codes.get(fits, ""))

    def exception(self, facts: Facts) -> Level | None:
        """The level that goes before the default; nothing where none does."""
        # Most settings have no exception at all, and are asked for every line.
        if not self.overrides:
            return None
        return next((level for level in self.asked(facts) if level.gave), None)

    def exceptions(self, at: str) -> Iterator[tuple[str, str]]:
        """Every code that goes before the default, with its JSON Pointer."""
        for name, codes in self.overrides.items():
            for met, code in codes.items():
                yield rule_of(at, name, met), code


class Defaulted(Levelled):
    """A setting with a default, which may be written alone."""

    default: Code

    @model_validator(mode="before")
    @classmethod
    def _default_alone(cls, given: Any) -> Any:
        return {"default": given} if isinstance(given, str) else given


def rule_of(at: str, level: str, met: str) -> str:
    """The JSON Pointer of a row of a setting's table."""
    return f"{at}/by_{level}/{escaped(met)}"


def tables(rule: Value, names: Sequence[str]) -> dict[str, dict[str, Code]]:
    """The tables of a rule that say anything, by what they go by, in the order in which they are asked."""
    every: Mapping[str, dict[str, Code]] = {name: getattr(rule, f"by_{name}") for name in names}
    return {name: codes for name, codes in every.items() if codes}
