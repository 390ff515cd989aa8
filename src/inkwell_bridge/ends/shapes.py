"""What goes to and fro between an end and the program, besides the documents themselves."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Self

from pydantic import ValidationError

from inkwell_bridge.core.books import AccountEntry, Brief, Contact, Item, PaymentRequest
from inkwell_bridge.core.commerce import Dispatch, Payment, PayoutEntry, SourceDocument, SourceKind, StockLevel
from inkwell_bridge.core.completeness import ListedDocument, Told
from inkwell_bridge.core.values import Code, Exact, Moment, Text, Value
from inkwell_bridge.ends.errors import Away


class Permission(Value):
    """One right that the work needs; ``remedy`` says what to change at the other end where it is missing."""

    name: Text
    granted: bool
    remedy: Text = ""


class Check(Value):
    """What a reachable end says of itself; ``key_expires_at`` where it tells when the key it knows us by ends."""

    company: Text
    currency: Code
    time_zone: Text
    languages: tuple[Text, ...] = ()
    permissions: tuple[Permission, ...] = ()
    key_expires_at: Moment | None = None

    @classmethod
    def of(cls, said: Mapping[str, Any], *, needed: Sequence[str], remedy: str) -> Self:
        """From what an end said of itself: name, currency, time zone, languages and the rights we have.

        Raises:
            Away: it did not say so.
        """
        try:
            granted = tuple(said.get("permissions", ()))
            return cls(
                company=said["name"],
                currency=said["currency"],
                time_zone=said["time_zone"],
                languages=tuple(said.get("languages", ())),
                key_expires_at=said.get("key_expires_at") or None,
                permissions=tuple(
                    Permission(name=name, granted=name in granted, remedy="" if name in granted else remedy)
                    for name in needed
                ),
            )
        except (KeyError, TypeError, AttributeError, ValidationError) as error:
            raise Away("the end did not say whose it is: name, currency and time zone were expected") from error

    @property
    def missing(self) -> tuple[Permission, ...]:
        """The rights that are not there."""
        return tuple(permission for permission in self.permissions if not permission.granted)


@dataclass(frozen=True, slots=True, kw_only=True)
class Fetched:
    """One source document. Where it could not be understood, ``problem`` says why and ``document`` is absent;
    ``parent_id`` is the document that it says it belongs to all the same."""

    id: str
    number: str
    changed_at: datetime | None
    document: SourceDocument | None
    problem: str = ""
    parent_id: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Page:
    """Some source documents in the order of their change; ``next`` leads on, and is absent on the last page.

    ``total`` is how many there are on all pages, where the end tells.
    """

    documents: tuple[Fetched, ...]
    next: str | None
    total: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Entered:
    """An item or a contact that the books have, under their own id; ``code`` is what people know it by."""

    id: str
    code: str
    what: Item | Contact


@dataclass(frozen=True, slots=True, kw_only=True)
class DirectoryPage:
    """Some entries of a long list, in the order of their ids; see ``Page``."""

    entries: tuple[Entered, ...]
    next: str | None
    total: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class BriefPage:
    """Some documents of the books, each in a line, in the order of their ids; see ``Page``."""

    documents: tuple[Brief, ...]
    next: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class EntriesPage:
    """Some entries of an account of the books; see ``Page``."""

    entries: tuple[AccountEntry, ...]
    next: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class NotPaidOutPage:
    """Some entries of a provider's ledger that stand in no payout, and its currency; see ``Page``."""

    currency: Code
    entries: tuple[PayoutEntry, ...]
    next: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PeriodPage:
    """Some documents of a period, each in a line, in no order; and what the end counts of the whole period itself, on
    any of the pages, where it does. See ``Page``."""

    documents: tuple[ListedDocument, ...]
    next: str | None
    told: Told | None = None


class StandingRequest(Value):
    """A request for payment as it stands at the provider.

    Shape: ``request`` is what it says, in our words. ``page`` is where the buyer pays, until ``page_ends_at``;
    ``link`` where the merchant sees it.
    Units: ``paid`` in its currency, all that came in on it.
    """

    id: Code
    number: Code
    request: PaymentRequest
    paid: Exact
    page: Text = ""
    page_ends_at: Moment | None = None
    link: Text = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class AddTag:
    """Tag a source document; a tag that is there already stays once."""

    id: str
    tag: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AddNote:
    """Write a note on a source document; the same note is written once."""

    id: str
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AddDispatch:
    """Tell the buyer's order that goods left, with carrier and tracking; the same dispatch is told once."""

    id: str
    dispatch: Dispatch


@dataclass(frozen=True, slots=True, kw_only=True)
class SetStock:
    """Set stock levels at the sales side."""

    levels: tuple[StockLevel, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class AddPayment:
    """Tell an order of money that was received for it; the same transaction is told once."""

    id: str
    payment: Payment


@dataclass(frozen=True, slots=True, kw_only=True)
class SetFields:
    """Write fields on an invoice of the books, beside its own; the same fields are written once."""

    id: str
    fields: Mapping[str, str]


WriteBack = AddTag | AddNote | AddDispatch | SetStock | AddPayment | SetFields


@dataclass(frozen=True, slots=True, kw_only=True)
class SignedCall:
    """A call from outside, as it came in; nothing in it is believed before its signature is checked."""

    headers: Mapping[str, str]
    body: bytes


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """What a call told: that something happened to a document, which is then fetched; never more is believed.

    ``kind`` is nothing where books called: what stands there under that number is then read again.
    """

    id: str
    kind: SourceKind | None
    number: str
    at: datetime
