"""What an end must offer. A new dialect is a folder that does this, and an entry point that names it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from importlib.metadata import entry_points
from typing import Any, Literal, Protocol, Self

from inkwell_bridge.core.books import BooksCapabilities, Contact, Held, Invoice, Reference
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.values import Code, Text, Value
from inkwell_bridge.ends.http import Limits

Side = Literal["sales", "books"]


class Permission(Value):
    """One right that the work needs; ``remedy`` says what to change at the other end where it is missing."""

    name: Text
    granted: bool
    remedy: Text = ""


class Check(Value):
    """What a reachable end says of itself."""

    company: Text
    currency: Code
    time_zone: Text
    languages: tuple[Text, ...] = ()
    permissions: tuple[Permission, ...] = ()

    @classmethod
    def of(cls, said: Mapping[str, Any], *, needed: Sequence[str], remedy: str) -> Self:
        """From what an end said of itself: name, currency, time zone, languages and the rights we have."""
        granted = said.get("permissions", ())
        return cls(
            company=said["name"],
            currency=said["currency"],
            time_zone=said["time_zone"],
            languages=tuple(said.get("languages", ())),
            permissions=tuple(
                Permission(name=name, granted=name in granted, remedy="" if name in granted else remedy)
                for name in needed
            ),
        )

    @property
    def missing(self) -> tuple[Permission, ...]:
        """The rights that are not there."""
        return tuple(permission for permission in self.permissions if not permission.granted)


@dataclass(frozen=True, slots=True, kw_only=True)
class Fetched:
    """One source document. Where it could not be understood, ``problem`` says why and ``order`` is absent."""

    id: str
    number: str
    changed_at: datetime | None
    order: Order | None
    problem: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Page:
    """Some source documents in the order of their change; ``next`` leads on, and is absent on the last page."""

    documents: tuple[Fetched, ...]
    next: str | None


class SalesEnd(Protocol):
    """A connected sales side."""

    def check(self) -> Check:
        """Reach it, sign in, and say whose it is and what we may do."""

    def orders(self, *, changed_since: datetime | None, page: str | None = None) -> Page:
        """Orders changed at or after a moment, oldest change first; ``page`` takes up where a page led on."""

    def order(self, number: str) -> Fetched:
        """One order by the number its buyer knows."""


class BooksEnd(Protocol):
    """Connected books. Calls that change something raise ``OutcomeUnknown`` when no answer came."""

    capabilities: BooksCapabilities

    def check(self) -> Check:
        """Reach it, sign in, and say whose books these are and what we may do."""

    def reference(self) -> Reference:
        """Everything a rulebook may name."""

    def find_contacts(self, contact: Contact) -> tuple[str, ...]:
        """The books' ids of all contacts that match."""

    def create_contact(self, contact: Contact) -> str:
        """Make a contact; answers its id."""

    def find_invoices(self, mark: str) -> tuple[Held, ...]:
        """Everything the books hold under a mark, oldest first."""

    def create_draft(self, invoice: Invoice, *, contact_id: str) -> Held:
        """Make a draft invoice."""

    def replace_lines(self, held_id: str, invoice: Invoice) -> Held:
        """Give a draft the lines of ``invoice``."""

    def post(self, held_id: str) -> Held:
        """Post a draft; posting what is posted changes nothing."""

    def void(self, held_id: str) -> Held:
        """Throw a draft away."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Opening:
    """What it takes to speak to an end."""

    address: str
    credentials: Mapping[str, str]
    limits: Limits


@dataclass(frozen=True, slots=True, kw_only=True)
class EndKind:
    """A dialect: its name, its form (a JSON Schema of its credentials), and how to open it."""

    name: str
    title: str
    side: Side
    credentials_schema: Mapping[str, Any]
    open: Callable[[Opening], Any]


def kinds() -> dict[str, EndKind]:
    """Every dialect that is installed, by name."""
    return {point.name: point.load() for point in entry_points(group="inkwell_bridge.ends")}
