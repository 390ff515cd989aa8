"""What an end must offer. A new dialect is a folder that does this, and an entry point that names it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from functools import cache
from importlib.metadata import entry_points
from typing import Any, Literal, Protocol

from inkwell_bridge.core.books import (
    PARTICULARS,
    BooksCapabilities,
    BooksDocument,
    BooksRecord,
    Brief,
    Contact,
    Directory,
    Item,
    MasterData,
    Particular,
    PaymentRequest,
    Role,
    Step,
)
from inkwell_bridge.core.commerce import SalesCapabilities, SalesMasterData, SourceKind
from inkwell_bridge.ends.consent import Consent
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.pace import Rate
from inkwell_bridge.ends.shapes import (
    BriefPage,
    Check,
    DirectoryPage,
    EntriesPage,
    Event,
    Fetched,
    NotPaidOutPage,
    Page,
    PeriodPage,
    SignedCall,
    StandingRequest,
    WriteBack,
)

Side = Literal["sales", "books"]


class SalesEnd(Protocol):
    """A connected sales side. What its capabilities do not name is refused with ``NotOffered``."""

    capabilities: SalesCapabilities

    def check(self) -> Check:
        """Reach it, sign in, and say whose it is and what we may do."""

    def master_data(self) -> SalesMasterData:
        """Everything of this side that a rulebook may name."""

    def documents(self, kind: SourceKind, *, changed_since: datetime | None, page: str | None = None) -> Page:
        """Documents changed at or after a moment, oldest change first; ``page`` takes up where a page led on."""

    def document(self, kind: SourceKind, number: str) -> Fetched:
        """One document by the number that people know."""

    def fetch_by_ids(self, kind: SourceKind, ids: Sequence[str]) -> tuple[Fetched, ...]:
        """The documents with these ids as they are now, in no order; one that is gone is left out."""

    def write_back(self, what: WriteBack) -> None:
        """Write something back; writing the same again changes nothing."""

    def parse_webhook(self, call: SignedCall, secrets: Sequence[str] = ()) -> Event:
        """What a call from outside told, once its signature was checked: by one of these ``secrets``, or by the one
        among the credentials. Calls nobody.

        Raises:
            Refused: with ``why`` credentials, for a call that is not signed by this end, or too old.
        """


class CallsIn(Protocol):
    """An end that calls when something happens there: one whose capabilities say ``signed_calls``."""

    def parse_webhook(self, call: SignedCall, secrets: Sequence[str] = ()) -> Event:
        """See ``SalesEnd.parse_webhook``."""


class RegistersCalls(Protocol):
    """An end that is told whom to call: one whose capabilities say ``registers_calls``."""

    def calls_go_to(self) -> str:
        """The address that this end calls when something happens; empty where it calls nobody."""

    def register_calls(self, address: str, secret: str) -> None:
        """Let it call that address, signed with that secret, and no other; repeated, nothing changes."""

    def end_calls(self) -> None:
        """Let it call nobody."""


class TakesRequests(Protocol):
    """A sales side that asks buyers for money: one whose capabilities say ``takes_requests``."""

    def find_request(self, external_reference: str) -> StandingRequest | None:
        """The request under our reference, as it stands there; nothing where there is none."""

    def make_request(self, request: PaymentRequest, *, key: str) -> StandingRequest:
        """Make a request, once under each key; one ``on_file`` charges the method that the buyer has there."""

    def set_request(self, request_id: str, request: PaymentRequest) -> StandingRequest:
        """Let a request ask for something else, or nothing any more; saying the same again changes nothing.

        Raises:
            Refused: it asks for less than was paid on it.
        """

    def fresh_page(self, request_id: str) -> StandingRequest:
        """The request with a page that can be paid on now, in place of one that has run out."""


class TellsNotPaidOut(Protocol):
    """A sales side that tells what it has not paid out: one whose capabilities say ``tells_not_paid_out``."""

    def not_paid_out(self, day: date, *, page: str | None = None) -> NotPaidOutPage:
        """The entries of its ledger up to the end of a day, on its own clocks, that stood in no payout made by then."""


class ListsPeriods(Protocol):
    """A sales side that lists what it has of some days: the kinds that its capabilities name in ``lists_periods``."""

    def of_period(self, kind: SourceKind, first: datetime, before: datetime, *, page: str | None = None) -> PeriodPage:
        """Every document placed (a refund: made) at or after ``first`` and before ``before``, whatever became of it
        since, each in a line, page by page."""


class BooksEnd(Protocol):
    """Connected books. Calls that change something raise ``OutcomeUnknown`` when no answer came.

    ``key`` is the idempotency key of a call: with the same key the same call is done once, where the
    capabilities say so; other books leave it aside.
    """

    capabilities: BooksCapabilities

    def check(self) -> Check:
        """Reach it, sign in, and say whose books these are and what we may do."""

    def master_data(self) -> MasterData:
        """Everything a rulebook may name, but for the long lists: see ``directory``."""

    def directory(self, kind: Directory, *, page: str | None = None) -> DirectoryPage:
        """The books' items or contacts, page by page."""

    def find_contacts(self, contact: Contact, by: Step = "email") -> tuple[str, ...]:
        """The books' ids of all contacts with its house code; of one without, those that are the same ``by`` a step."""

    def create_contact(self, contact: Contact, *, key: str) -> str:
        """Make a contact; answers its id."""

    def amend_contact(self, contact_id: str, contact: Contact, only: Sequence[Particular] = PARTICULARS) -> None:
        """Give a contact these particulars of ``contact``; all others stay."""

    def find_items(self, item: Item) -> tuple[str, ...]:
        """The books' ids of all items with that code, or that barcode."""

    def create_item(self, item: Item, *, key: str) -> str:
        """Make an item; answers its id."""

    def find(self, role: Role, external_references: Sequence[str]) -> tuple[BooksRecord, ...]:
        """Everything the books hold in a role under any of these external references, oldest first; in as few calls as
        the end allows."""

    def find_by_order_number(self, role: Role, order_numbers: Sequence[str]) -> tuple[Brief, ...]:
        """What the books hold in a role for these orders, whoever entered it: under the number of the order, or with
        that number for a reference; each says which, as ``order_number`` or ``external_reference``."""

    def list_by_reference_prefix(self, role: Role, prefix: str, *, page: str | None = None) -> BriefPage:
        """Everything in a role whose external reference begins with ``prefix``, page by page."""

    def read(self, role: Role, held_id: str) -> BooksRecord:
        """One document as it stands now."""

    def create(self, document: BooksDocument, *, contact_id: str, key: str) -> BooksRecord:
        """Make a document: a draft where the books have drafts of its role, else posted at once."""

    def amend(self, record: BooksRecord, document: BooksDocument) -> BooksRecord:
        """Make a draft hold what ``document`` says.

        Raises:
            Refused: with ``why`` changed, where somebody changed the draft since ``record`` was read.
        """

    def post(self, record: BooksRecord) -> BooksRecord:
        """Post a draft; posting what is posted changes nothing."""

    def void(self, record: BooksRecord) -> BooksRecord:
        """Throw a draft away, or cancel a posted document of a role that the capabilities say can be."""

    def unsupported_fields(self, document: BooksDocument) -> tuple[str, ...]:
        """JSON Pointers of what is on the document and has no place in these books; nothing is sent."""

    def documents(self, kind: SourceKind, *, changed_since: datetime | None, page: str | None = None) -> Page:
        """What the books hand out themselves (stock levels, dispatches, receipts, invoices), as a sales side hands out
        orders. Of invoices, without a moment to begin from, those alone of which something is open."""

    def document(self, kind: SourceKind, number: str) -> Fetched:
        """One of these by the number that people know; of invoices, where the capabilities say that they tell."""

    def fetch_by_ids(self, kind: SourceKind, ids: Sequence[str]) -> tuple[Fetched, ...]:
        """Those with these ids as they are now, in no order; one that is gone is left out. See ``document``."""

    def note_on(self, role: Role, record_id: str, fields: Mapping[str, str]) -> None:
        """Write fields beside its own on a posted document, and change nothing else of it; writing the same again
        changes nothing."""

    def account_balance(self, account: str, day: date) -> Decimal:
        """What an account comes to at the end of a day, a debit positive, in the company's own currency; where the
        capabilities say that they tell."""

    def account_entries(self, account: str, first: date, last: date, *, page: str | None = None) -> EntriesPage:
        """What posted documents put on an account from day to day, whoever entered them, page by page in no order; see
        ``account_balance``."""


@dataclass(frozen=True, slots=True, kw_only=True)
class EndKind:
    """A dialect: its name, its form (a JSON Schema of what it takes to open it), what it can do, how to open it.

    ``rate`` is how fast it may be called, where it says so; ``consent`` opens the page that people sign in through,
    where it has one.
    """

    name: str
    title: str
    side: Side
    credentials_schema: Mapping[str, Any]
    capabilities: SalesCapabilities | BooksCapabilities
    open: Callable[[Opening], Any]
    rate: Rate | None = None
    consent: Callable[[Opening], Consent] | None = None


@cache
def kinds() -> dict[str, EndKind]:
    """Every dialect that is installed, by name; looked up once, for it reads the packages' files."""
    return {point.name: point.load() for point in entry_points(group="inkwell_bridge.ends")}
