"""Whom a document is made out to: how a contact is found, what happens without one, and what it takes on."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import field_validator

from inkwell_bridge.core.books import PARTICULARS, Particular, Step
from inkwell_bridge.core.commerce.buyer import Language
from inkwell_bridge.core.languages import ranges
from inkwell_bridge.core.values import Code, Text, Value


class CustomerRules(Value):
    """Whom a document is made out to.

    Shape: ``find_by`` are the steps in which a contact is looked for: the first that finds exactly one wins.
    ``house`` is the contact that stands for the buyers of ``house_for``; ``without_email`` for buyers of whom nothing
    is known that a step asks for. ``update`` names the particulars that a contact which exists takes on from the
    shop; every other stays as the books have it. ``languages``, ``groups`` and ``terms`` lead from the shop's words to
    the books'; what they do not name goes along as it is.
    """

    find_by: tuple[Step, ...] = ("email",)
    not_found: Literal["create", "hold", "house"] = "create"
    without_email: Code | None = None
    house: Code | None = None
    house_for: Literal["nobody", "guests", "everybody"] = "nobody"
    update: tuple[Particular, ...] = ()
    languages: dict[str, Language] = {}
    groups: dict[str, Text] = {}
    terms: dict[str, Code] = {}

    def language(self, said: str) -> tuple[str, str] | None:
        """The row for a language of the shop, and what the books call it; nothing where no row is for it."""
        rows = ((row, self.languages[row]) for row in (said, *ranges(said)) if row in self.languages)
        return next(rows, None)

    @field_validator("find_by", mode="before")
    @classmethod
    def _one_step(cls, given: Any) -> Any:
        return (given,) if isinstance(given, str) else given

    @field_validator("update", mode="before")
    @classmethod
    def _all_or_none(cls, given: Any) -> Any:
        return {"never": (), "always": PARTICULARS}.get(given, given) if isinstance(given, str) else given
