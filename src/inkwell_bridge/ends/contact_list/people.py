"""Calls to a contact list.

A person has an id that the list gives out; an order has the name we give it, so that writing it twice
leaves it once. The list keeps no ledger: amounts stand on an order as they were, accounts and codes nowhere.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, datetime
from decimal import Decimal
from typing import Any
from urllib.parse import quote

from inkwell_bridge.core.books import (
    PARTICULARS,
    BooksCapabilities,
    BooksDocument,
    BooksRecord,
    Brief,
    Contact,
    Directory,
    DocumentLine,
    Item,
    MasterData,
    Particular,
    Role,
    SalesOrder,
    Standing,
    Step,
)
from inkwell_bridge.core.commerce import Address, SourceKind
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.ends.directory import ENTRIES, briefs_of, page_of
from inkwell_bridge.ends.errors import Away, Misstated, NotOffered, OutcomeUnknown
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.particulars import chosen
from inkwell_bridge.ends.shapes import BriefPage, Check, DirectoryPage, EntriesPage, Page
from inkwell_bridge.ends.unsupported_fields import unsupported_fields
from inkwell_bridge.ends.without_invoices import WithoutInvoices

NAME = "the contact list"
NEEDED = ("read", "write")
CAPABILITIES = BooksCapabilities(
    documents=(Role.SALES_ORDER,), drafts=(), tax="given", price_digits=6, idempotency_keys=True
)
# Fields of our documents that an address book has no place for.
NO_PLACE = frozenset({"account", "item", "unit", "unit_price", "tax_code", "warehouse", "lot", "dimensions",
                      "deliver_on", "kind", "number", "fields"})  # fmt: skip


class ContactList(WithoutInvoices):
    """A connected contact list."""

    END_NAME = NAME

    def __init__(self, opening: Opening) -> None:
        self._http = Http(opening)
        self._headers = {"Authorization": f"Bearer {opening.credentials['token']}"}
        slowest = 2 * opening.limits.timeout_seconds
        self.capabilities = CAPABILITIES.model_copy(update={"slowest_answer_seconds": slowest})

    def check(self) -> Check:
        """See ``BooksEnd.check``."""
        return Check.of(self._get("/list"), needed=NEEDED, remedy="In the contact list, give this right to the token.")

    def master_data(self) -> MasterData:
        """See ``BooksEnd.master_data``; a contact list has nothing but its name and the currency of its amounts."""
        said = self._get("/list")
        return MasterData(company=said["name"], currency=said["currency"], accounts=(), tax_codes=())

    def directory(self, kind: Directory, *, page: str | None = None) -> DirectoryPage:
        """See ``BooksEnd.directory``."""
        if kind is not Directory.CONTACTS:
            raise NotOffered(NAME, f"list of {kind}")
        answer = self._get("/people", params={"after": page or 0, "limit": ENTRIES})
        return page_of(answer, _contact, end=NAME, kind=kind)

    def find_contacts(self, contact: Contact, by: Step = "email") -> tuple[str, ...]:
        """See ``BooksEnd.find_contacts``; the list knows people by their e-mail alone."""
        if contact.house_code or by != "email":
            return ()
        return tuple(str(found["id"]) for found in self._get("/people", params={"email": contact.email})["people"])

    def create_contact(self, contact: Contact, *, key: str) -> str:
        """See ``BooksEnd.create_contact``."""
        headers = {"Idempotency-Key": key}
        return str(self._change("POST", "/people", headers=headers, json=_person(contact))["id"])

    def amend_contact(self, contact_id: str, contact: Contact, only: Sequence[Particular] = PARTICULARS) -> None:
        """See ``BooksEnd.amend_contact``."""
        said = chosen(_person(contact), _PLACES, only)
        self._change("PUT", f"/people/{quote(contact_id, safe='')}", json=said)

    def find_items(self, item: Item) -> tuple[str, ...]:
        """See ``BooksEnd.find_items``."""
        raise NotOffered(NAME, "items")

    def create_item(self, item: Item, *, key: str) -> str:
        """See ``BooksEnd.create_item``."""
        raise NotOffered(NAME, "items")

    def find(self, role: Role, external_references: Sequence[str]) -> tuple[BooksRecord, ...]:
        """See ``BooksEnd.find``."""
        _only_orders(role)
        answer = self._get("/orders", params={"name": list(external_references)})
        return tuple(_held(found) for found in answer["orders"])

    def find_by_order_number(self, role: Role, order_numbers: Sequence[str]) -> tuple[Brief, ...]:
        """See ``BooksEnd.find_by_order_number``."""
        _only_orders(role)
        answer = self._get("/orders", params={"numbers": ",".join(order_numbers)})
        return briefs_of(answer, _brief, end=NAME, role=role).documents

    def list_by_reference_prefix(self, role: Role, prefix: str, *, page: str | None = None) -> BriefPage:
        """See ``BooksEnd.list_by_reference_prefix``."""
        _only_orders(role)
        answer = self._get("/orders", params={"prefix": prefix, "after": page or 0, "limit": ENTRIES})
        return briefs_of(answer, _brief, end=NAME, role=role)

    def read(self, role: Role, record_id: str) -> BooksRecord:
        """See ``BooksEnd.read``."""
        _only_orders(role)
        return _held(self._get(f"/orders/{quote(record_id, safe='')}"))

    def create(self, document: BooksDocument, *, contact_id: str, key: str) -> BooksRecord:
        """See ``BooksEnd.create``; the order's name is the key."""
        return self._put(document, contact_id)

    def amend(self, record: BooksRecord, document: BooksDocument) -> BooksRecord:
        """See ``BooksEnd.amend``."""
        return self._put(document, record.contact_id)

    def post(self, record: BooksRecord) -> BooksRecord:
        """See ``BooksEnd.post``; an order in a list is there or not."""
        return record

    def void(self, record: BooksRecord) -> BooksRecord:
        """See ``BooksEnd.void``."""
        raise NotOffered(NAME, "drafts")

    def unsupported_fields(self, document: BooksDocument) -> tuple[str, ...]:
        """See ``BooksEnd.unsupported_fields``."""
        return unsupported_fields(document, NO_PLACE)

    def documents(self, kind: SourceKind, *, changed_since: datetime | None, page: str | None = None) -> Page:
        """See ``BooksEnd.documents``."""
        raise NotOffered(NAME, f"list of {kind}")

    def account_balance(self, account: str, day: date) -> Decimal:
        """See ``BooksEnd.account_balance``."""
        raise NotOffered(NAME, "accounts")

    def account_entries(self, account: str, first: date, last: date, *, page: str | None = None) -> EntriesPage:
        """See ``BooksEnd.account_entries``."""
        raise NotOffered(NAME, "accounts")

    def _put(self, document: BooksDocument, contact_id: str) -> BooksRecord:
        _only_orders(Role(document.role))
        assert isinstance(document, SalesOrder)
        said = self._change(
            "PUT", f"/orders/{quote(document.external_reference, safe='')}", json=_order(document, contact_id)
        )
        try:
            return _held(said)
        except Away as error:
            raise OutcomeUnknown(str(error)) from error

    def _get(self, path: str, **request: Any) -> Any:
        answer, _ = self._http.call("GET", path, changes=False, headers=self._headers, **request)
        return answer

    def _change(self, method: str, path: str, *, headers: Mapping[str, str] | None = None, **request: Any) -> Any:
        given = {**self._headers, **(headers or {})}
        answer, _ = self._http.call(method, path, changes=True, headers=given, **request)
        return answer


def _only_orders(role: Role) -> None:
    if role is not Role.SALES_ORDER:
        raise NotOffered(NAME, str(role))


def _person(contact: Contact) -> dict[str, Any]:
    return {
        "name": contact.name or contact.company or contact.email,
        "firm": contact.company,
        "email": contact.email,
        "phone": contact.phone,
        "language": contact.language,
        "group": contact.group,
        "address": _address(contact.delivery or contact.billing),
    }


_PLACES: dict[Particular, tuple[str, ...]] = {
    "name": ("name", "firm"),
    "email": ("email",),
    "phone": ("phone",),
    "language": ("language",),
    "group": ("group",),
    "billing": ("address",),
    "delivery": ("address",),
}


def _contact(said: Mapping[str, Any]) -> Contact:
    return Contact.read(
        {
            "email": str(said.get("email") or "").strip().lower(),
            "company": said.get("firm") or "",
            **{name: said.get(name) or "" for name in ("name", "phone", "language", "group")},
        }
    )


def _address(address: Address | None) -> str:
    if address is None:
        return ""
    town = f"{address.postcode} {address.town}".strip()
    return "\n".join(part for part in (*address.lines, town, address.region, address.country) if part)


def _order(document: SalesOrder, contact_id: str) -> dict[str, Any]:
    return {
        "person": int(contact_id),
        "day": document.date.isoformat(),
        "number": document.order_number,
        "page": document.link,
        "text": document.text,
        "currency": document.currency,
        "rows": [_row(line) for line in document.lines],
    }


def _row(line: DocumentLine) -> dict[str, str]:
    return {
        "note": line.line_reference,
        "what": line.text,
        "count": f"{line.quantity:f}",
        "net": f"{line.net:f}",
        "tax": f"{line.tax:f}",
        "number": line.order_number,
        "page": line.link,
    }


def _brief(found: Mapping[str, Any]) -> dict[str, Any]:
    return {
        **{name: found[name] for name in ("currency", "net", "tax", "gross")},
        "id": found["name"],
        "number": found["number"],
        "standing": Standing.POSTED,
        "external_reference": found["name"],
        "order_number": found["number"],
        "date": found["day"],
        "link": found["page"],
    }


def _held(found: Any) -> BooksRecord:
    try:
        return BooksRecord.read(
            {
                "id": found["name"],
                "number": found["number"],
                "standing": Standing.POSTED,
                "contact_id": str(found["person"]),
                "net": found["net"],
                "tax": found["tax"],
                "gross": found["gross"],
                "document": {
                    "role": Role.SALES_ORDER.value,
                    "external_reference": found["name"],
                    "date": found["day"],
                    "order_number": found["number"],
                    "link": found["page"],
                    "text": found["text"],
                    "currency": found["currency"],
                    "lines": [_line(row) for row in found["rows"]],
                },
            }
        )
    except (DocumentInvalid, KeyError, TypeError, AttributeError) as error:
        raise Misstated(f"{NAME}'s order lacks or misstates {error}") from error


def _line(row: Mapping[str, Any]) -> dict[str, Any]:
    return {
        "kind": "goods",
        "line_reference": row["note"],
        "text": row["what"],
        "quantity": row["count"],
        "unit_price": "0",
        "net": row["net"],
        "tax": row["tax"],
        "order_number": row.get("number", ""),
        "link": row.get("page", ""),
    }
