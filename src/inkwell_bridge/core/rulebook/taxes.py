"""Tax codes: by the shop's classes, and the exceptions that go before them."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import Literal, NamedTuple

from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.rulebook.levels import Chosen, Facts
from inkwell_bridge.core.values import Code, Country, Text, Value


class Supply(NamedTuple):
    """What a tax code goes by besides the facts of its line: ``country`` is the one that the tax is due in."""

    country: str
    tax_class: str
    nature: str


# The levels that an exception can ask for by a name of its own; a country is that of the tax, not of the goods.
_ASKED = ("tag", "attribute", "product", "product_type", "customer", "customer_group", "location", "channel",
          "treatment")  # fmt: skip


class TaxException(Value):
    """A code for lines that all of these fit; what is not named fits any. An attribute is asked for as
    ``name=value``."""

    tag: Text = ""
    attribute: Text = ""
    product: Text = ""
    product_type: Text = ""
    customer: Text = ""
    customer_group: Text = ""
    location: Text = ""
    channel: Text = ""
    treatment: Text = ""
    country: Country = ""
    tax_class: Text = ""
    nature: Text = ""
    code: Code

    @cached_property
    def levels(self) -> dict[str, str]:
        """What it asks of the facts of a line, by the level."""
        return {name: wanted for name in _ASKED if (wanted := getattr(self, name))}

    def fits(self, facts: Facts, supply: Supply) -> bool:
        """Whether it is for such a line."""
        return (
            self.country in {"", supply.country}
            and self.tax_class in {"", supply.tax_class}
            and self.nature in {"", supply.nature}
            and all(wanted in facts.met(name) for name, wanted in self.levels.items())
        )

    @property
    def said(self) -> str:
        """What it asks for, in words."""
        asked = {**self.levels, "country": self.country, "tax class": self.tax_class, "nature": self.nature}
        return ", ".join(f"{name.replace('_', ' ')} '{value}'" for name, value in asked.items() if value) or "any line"


class TaxRules(Value):
    """Tax codes of the books.

    Shape: ``exceptions`` are tried first, from top to bottom, then ``by_class``. ``carry`` says whether a line bears
    its tax itself or the order's whole tax stands on one line; ``as_lines`` names classes whose taxes each stand on
    a line of their own (state, county, city). ``outside`` is the code outside tax altogether. ``amounts`` says whether
    taxes stand as the shop charged them or are worked out from the rates of the codes; then ``rounded`` names the
    figure that is rounded in a price that includes tax (the other is what remains), and ``rounded_by`` whether that
    happens line by line or once for all lines of a rate. ``other_rates`` says what becomes of a tax as charged that is
    not that of its code.
    """

    by_class: dict[str, Code]
    outside: Code
    exceptions: tuple[TaxException, ...] = ()
    carry: Literal["on lines", "one line", "books compute"] = "on lines"
    amounts: Literal["as charged", "worked out"] = "as charged"
    rounded: Literal["tax", "net"] = "tax"
    rounded_by: Literal["line", "document"] = "line"
    as_lines: tuple[Code, ...] = ()
    kept: Literal["leave out", "hold"] = "hold"
    other_rates: Literal["hold", "warn"] = "hold"
    tax_numbers: Literal["check", "trust"] = "check"

    def chosen(self, facts: Facts, supply: Supply) -> Chosen | None:
        """The code of a line; nothing where no rule has one."""
        # From top to bottom, so that the author decides which of two that fit goes before the other.
        for place, exception in enumerate(self.exceptions):
            if exception.fits(facts, supply):
                text = f"The code for {exception.said} is {exception.code}."
                return Chosen(exception.code, f"/tax_codes/exceptions/{place}", text)
        code = self.by_class.get(supply.tax_class)
        if code is None:
            return None
        text = f"Tax class '{supply.tax_class}' has the code {code}."
        return Chosen(code, f"/tax_codes/by_class/{escaped(supply.tax_class)}", text)

    @cached_property
    def by_article(self) -> bool:
        """Whether two lines of one class and nature may have two codes, for what they are or where they lie."""
        return any(one.product or one.product_type or one.location for one in self.exceptions)

    @property
    def works_out(self) -> bool:
        """Whether taxes come from the rates of the codes, and not from the shop."""
        return self.amounts == "worked out" or self.carry == "books compute"

    def stands_on_lines(self, tax_class: str) -> bool:
        """Whether the taxes of a class stand on lines of their own."""
        return self.carry == "one line" or tax_class in self.as_lines

    def codes(self) -> Iterator[tuple[str, str]]:
        """Every code it names, with its JSON Pointer."""
        for name, code in self.by_class.items():
            yield f"/tax_codes/by_class/{escaped(name)}", code
        for place, exception in enumerate(self.exceptions):
            yield f"/tax_codes/exceptions/{place}/code", exception.code
        yield "/tax_codes/outside", self.outside
