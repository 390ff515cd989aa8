"""Calls to the ERP's books."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.core.books import (
    HEADER_CODES,
    PARTICULARS,
    STEPS,
    AccountType,
    BooksCapabilities,
    BooksDocument,
    BooksRecord,
    Brief,
    Contact,
    Directory,
    Item,
    MasterData,
    Particular,
    Role,
    Step,
)
from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.ends.account_entries import balance_of, entries_of
from inkwell_bridge.ends.directory import ENTRIES, briefs_of, page_of
from inkwell_bridge.ends.entries import Translate, news_of_books
from inkwell_bridge.ends.erp import goods, mapping, money
from inkwell_bridge.ends.erp.families import FAMILIES, brief, record
from inkwell_bridge.ends.erp.rpc import Rpc
from inkwell_bridge.ends.errors import Away, NotOffered, Refused
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.particulars import chosen, same
from inkwell_bridge.ends.shapes import (
    BriefPage,
    Check,
    DirectoryPage,
    EntriesPage,
    Event,
    Fetched,
    Page,
    SignedCall,
)
from inkwell_bridge.ends.signed_calls import event_of
from inkwell_bridge.ends.unsupported_fields import unsupported_fields

NAME = "the ERP"
NEEDED = ("read accounts", "read contacts", "write contacts", "write invoices", "post invoices")
CAPABILITIES = BooksCapabilities(
    contacts_by=STEPS,
    documents=tuple(FAMILIES),
    drafts=tuple(FAMILIES),
    cancels=(Role.SALES_ORDER,),
    items=True,
    tax="computed",
    tax_rounded_by="line",
    price_digits=4,
    warehouses=True,
    further_fields=True,
    exchange_rates=True,
    tells_of_receipts=True,
    tells_accounts=True,
    tells_accounts_of_sales=True,
    tells_of_invoices=True,
    signed_calls=True,
    registers_calls=True,
    header_codes=HEADER_CODES,
    sale_accounts=(AccountType.INCOME, AccountType.LIABILITY),
)
_DIRECTORIES: dict[Directory, tuple[str, Callable[[mapping.Json], Item | Contact]]] = {
    Directory.ITEMS: ("articles.list", mapping.item_read),
    Directory.CONTACTS: ("contacts.list", mapping.CONTACT.read),
}
MOST_IDS = 100
# Fields of our documents that the ERP has no place for.
NO_PLACE = frozenset({"dimensions", "number"})
_LISTS: dict[SourceKind, tuple[str, Translate]] = {
          SourceKind.STOCK: ("stock.list", goods.stock_level),
          SourceKind.DISPATCHES: ("dispatches.list", goods.dispatched),
          SourceKind.RECEIPTS: ("receipts.changed", money.received)}  # fmt: skip


class ErpBooks:
    """The connected books of one company."""

    def __init__(self, opening: Opening) -> None:
        self._rpc = Rpc(opening)
        self._address = opening.address
        # An answer can come no later than our own patience, and the ERP's work no later than as long again.
        slowest = 2 * opening.limits.timeout_seconds
        self.capabilities = CAPABILITIES.model_copy(update={"slowest_answer_seconds": slowest})

    def parse_webhook(self, call: SignedCall, secrets: Sequence[str] = ()) -> Event:
        """See ``CallsIn.parse_webhook``."""
        return event_of(call, secrets=secrets, end=NAME)

    def calls_go_to(self) -> str:
        """See ``RegistersCalls.calls_go_to``."""
        said = self._rpc.read("calls.read")
        address = said.get("address") if isinstance(said, dict) else None
        return address if isinstance(address, str) else ""

    def register_calls(self, address: str, secret: str) -> None:
        """See ``RegistersCalls.register_calls``."""
        self._rpc.change("calls.set", address=address, secret=secret)

    def end_calls(self) -> None:
        """See ``RegistersCalls.end_calls``."""
        self._rpc.change("calls.set", address="", secret="")

    def check(self) -> Check:
        """See ``BooksEnd.check``."""
        remedy = "In the ERP, give this right to the user that Inkwell Bridge signs in as."
        return Check.of(self._rpc.read("company.describe"), needed=NEEDED, remedy=remedy)

    def master_data(self) -> MasterData:
        """See ``BooksEnd.master_data``."""
        try:
            return mapping.reference(self._rpc.read("company.describe"), self._rpc.read("company.names"))
        except (DocumentInvalid, KeyError, TypeError) as error:
            raise Away(f"the ERP's list of names lacks or misstates {error}") from error

    def directory(self, kind: Directory, *, page: str | None = None) -> DirectoryPage:
        """See ``BooksEnd.directory``."""
        method, reads = _DIRECTORIES[kind]
        answer = self._rpc.read(method, after=int(page or 0), limit=ENTRIES)
        return page_of(answer, reads, end=NAME, kind=kind)

    def find_contacts(self, contact: Contact, by: Step = "email") -> tuple[str, ...]:
        """See ``BooksEnd.find_contacts``."""
        if contact.house_code:
            found = self._rpc.read("contacts.search", code=contact.house_code)
            return tuple(str(one["id"]) for one in found)
        wanted = {"email": {"email": contact.email}, "tax number": {"tax_number": contact.tax_number},
                  "name and postcode": {"postcode": contact.postcode}}[by]  # fmt: skip
        return same(self._rpc.read("contacts.search", **wanted), mapping.CONTACT.read, contact, by)

    def create_contact(self, contact: Contact, *, key: str) -> str:
        """See ``BooksEnd.create_contact``."""
        return str(self._rpc.change("contacts.create", **mapping.CONTACT.write(contact), code="")["id"])

    def amend_contact(self, contact_id: str, contact: Contact, only: Sequence[Particular] = PARTICULARS) -> None:
        """See ``BooksEnd.amend_contact``."""
        said = chosen(mapping.CONTACT.write(contact), mapping.CONTACT.places, only)
        self._rpc.change("contacts.amend", id=int(contact_id), **said)

    def find_items(self, item: Item) -> tuple[str, ...]:
        """See ``BooksEnd.find_items``."""
        found = self._rpc.read("articles.search", code=item.code, barcode=item.barcode)
        return tuple(str(one["id"]) for one in found)

    def create_item(self, item: Item, *, key: str) -> str:
        """See ``BooksEnd.create_item``."""
        return str(self._rpc.change("articles.create", **mapping.item(item))["id"])

    def find(self, role: Role, external_references: Sequence[str]) -> tuple[BooksRecord, ...]:
        """See ``BooksEnd.find``."""
        answer = self._rpc.read(f"{_family(role)}.search", references=list(external_references))
        return tuple(record(role, found, self._address) for found in answer)

    def find_by_order_number(self, role: Role, order_numbers: Sequence[str]) -> tuple[Brief, ...]:
        """See ``BooksEnd.find_by_order_number``."""
        answer = self._rpc.read(f"{_family(role)}.list", orders=list(order_numbers))
        return briefs_of(answer, brief, end=NAME, role=role).documents

    def list_by_reference_prefix(self, role: Role, prefix: str, *, page: str | None = None) -> BriefPage:
        """See ``BooksEnd.list_by_reference_prefix``."""
        answer = self._rpc.read(f"{_family(role)}.list", prefix=prefix, after=int(page or 0), limit=ENTRIES)
        return briefs_of(answer, brief, end=NAME, role=role)

    def read(self, role: Role, record_id: str) -> BooksRecord:
        """See ``BooksEnd.read``."""
        return record(role, self._rpc.read(f"{_family(role)}.read", id=int(record_id)), self._address)

    def create(self, document: BooksDocument, *, contact_id: str, key: str) -> BooksRecord:
        """See ``BooksEnd.create``."""
        said = _said(document)
        if contact_id:
            said["contact"] = int(contact_id)
        return self._change(Role(document.role), "create", **said)

    def amend(self, record: BooksRecord, document: BooksDocument) -> BooksRecord:
        """See ``BooksEnd.amend``."""
        return self._change(Role(document.role), "amend", id=int(record.id), **_said(document))

    def post(self, record: BooksRecord) -> BooksRecord:
        """See ``BooksEnd.post``."""
        return self._change(Role(record.document.role), "post", id=int(record.id))

    def void(self, record: BooksRecord) -> BooksRecord:
        """See ``BooksEnd.void``."""
        return self._change(Role(record.document.role), "void", id=int(record.id))

    def unsupported_fields(self, document: BooksDocument) -> tuple[str, ...]:
        """See ``BooksEnd.unsupported_fields``."""
        return unsupported_fields(document, NO_PLACE)

    def documents(self, kind: SourceKind, *, changed_since: datetime | None, page: str | None = None) -> Page:
        """See ``BooksEnd.documents``."""
        method, translate = self._listed(kind)
        since = changed_since.isoformat() if changed_since else ""
        # All that were ever paid are of no use to anybody who begins now.
        only = {"open": True} if kind is SourceKind.INVOICES and changed_since is None else {}
        answer = self._rpc.read(method, changed_since=since, after=page or "", **only)
        return news_of_books(kind, answer, translate, end=NAME, ours=kind is SourceKind.INVOICES)

    def document(self, kind: SourceKind, number: str) -> Fetched:
        """See ``BooksEnd.document``."""
        found = self._some(kind, number=number)
        if not found:
            raise Refused(f"{NAME} has no invoice {number}", why="not found")
        return found[0]

    def fetch_by_ids(self, kind: SourceKind, ids: Sequence[str]) -> tuple[Fetched, ...]:
        """See ``BooksEnd.fetch_by_ids``."""
        parts = (ids[start : start + MOST_IDS] for start in range(0, len(ids), MOST_IDS))
        return tuple(one for part in parts for one in self._some(kind, ids=list(part)))

    def note_on(self, role: Role, record_id: str, fields: Mapping[str, str]) -> None:
        """See ``BooksEnd.note_on``."""
        if role is not Role.INVOICE:
            raise NotOffered(NAME, f"fields on a posted {role}")
        self._rpc.change("sales_ledger.note", id=int(record_id), further=dict(fields))

    def _some(self, kind: SourceKind, **asked: Any) -> tuple[Fetched, ...]:
        if kind is not SourceKind.INVOICES:
            raise NotOffered(NAME, f"{kind} by their ids")
        page = {"entries": self._rpc.read("sales_ledger.some", **asked), "onward": None}
        return news_of_books(kind, page, self._listed(kind)[1], end=NAME, ours=True).documents

    def _listed(self, kind: SourceKind) -> tuple[str, Translate]:
        if kind is SourceKind.INVOICES:
            return "sales_ledger.changed", lambda found: money.invoiced(found, self._address)
        if kind not in _LISTS:
            raise NotOffered(NAME, f"list of {kind}")
        return _LISTS[kind]

    def account_balance(self, account: str, day: date) -> Decimal:
        """See ``BooksEnd.account_balance``."""
        answer = self._rpc.read("accounts.balance", account=account, day=day.isoformat())
        return balance_of(answer, end=NAME)

    def account_entries(self, account: str, first: date, last: date, *, page: str | None = None) -> EntriesPage:
        """See ``BooksEnd.account_entries``."""
        days = {"from": first.isoformat(), "to": last.isoformat()}
        answer = self._rpc.read("accounts.entries", account=account, after=int(page or 0), limit=ENTRIES, **days)
        return entries_of(answer, _entry, end=NAME)

    def _change(self, role: Role, call: str, **params: Any) -> BooksRecord:
        return record(role, self._rpc.change(f"{_family(role)}.{call}", **params), self._address)


# The role of each family of documents.
_ROLES = {family.name: role for role, family in FAMILIES.items()}


def _entry(found: Mapping[str, Any]) -> dict[str, Any]:
    return {**money.entry(dict(found)), "role": _ROLES.get(found["family"])}


def _family(role: Role) -> str:
    if role not in FAMILIES:
        raise NotOffered(NAME, f"place for a {role}")
    return FAMILIES[role].name


def _said(document: BooksDocument) -> dict[str, Any]:
    return FAMILIES[Role(document.role)].to_words(document)
