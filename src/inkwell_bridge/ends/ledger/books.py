"""Calls to the ledger."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, datetime
from decimal import Decimal
from typing import Any
from urllib.parse import quote

import httpx

from inkwell_bridge.core.books import (
    HEADER_CODES,
    PARTICULARS,
    STEPS,
    BooksCapabilities,
    BooksDocument,
    BooksRecord,
    Brief,
    Contact,
    CreditNote,
    Directory,
    Invoice,
    Item,
    MasterData,
    Particular,
    Role,
    Standing,
    Step,
)
from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.ends.account_entries import balance_of, entries_of
from inkwell_bridge.ends.at_once import at_once
from inkwell_bridge.ends.directory import ENTRIES, briefs_of, page_of
from inkwell_bridge.ends.entered import with_marks
from inkwell_bridge.ends.entries import news_of_books
from inkwell_bridge.ends.errors import Away, Misstated, NotOffered, OutcomeUnknown, Refused
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.ledger import mapping
from inkwell_bridge.ends.ledger.ubl import Category, from_ubl, to_ubl
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.pages import page_at
from inkwell_bridge.ends.particulars import chosen, same
from inkwell_bridge.ends.reading import Unreadable, read_json, read_xml
from inkwell_bridge.ends.shapes import BriefPage, Check, DirectoryPage, EntriesPage, Page
from inkwell_bridge.ends.unsupported_fields import unsupported_fields
from inkwell_bridge.ends.without_invoices import WithoutInvoices

NAME = "the ledger"
NEEDED = ("read", "contacts", "documents", "release")
_LISTS = {Role.INVOICE: "invoices", Role.CREDIT_NOTE: "credit-notes", Role.PAYMENT: "payments-in",
          Role.REFUND_PAYMENT: "payments-out", Role.WRITE_OFF: "write-offs", Role.JOURNAL: "journals"}  # fmt: skip
_TABLES = {Role.PAYMENT: mapping.PAYMENT, Role.REFUND_PAYMENT: mapping.PAYMENT, Role.WRITE_OFF: mapping.WRITE_OFF,
           Role.JOURNAL: mapping.JOURNAL}  # fmt: skip
# How the ledger names a number that another document bears already.
_NUMBER_TAKEN = "number-taken:"
_UBL = frozenset({Role.INVOICE, Role.CREDIT_NOTE})
CAPABILITIES = BooksCapabilities(
    contacts_by=STEPS,
    documents=tuple(_LISTS),
    drafts=tuple(_LISTS),
    items=True,
    tax="given",
    tax_rounded_by="document",
    price_digits=6,
    idempotency_keys=True,
    exchange_rates=True,
    tells_of_receipts=True,
    tells_accounts=True,
    takes_numbers=True,
    most_dimensions=3,
)
# Fields of our documents that the ledger has no place for: it keeps no stock, and no fields but its own.
NO_PLACE = frozenset({"warehouse", "lot", "fields", *HEADER_CODES})
_STANDING = {"draft": Standing.DRAFT, "released": Standing.POSTED, "void": Standing.VOID}


class LedgerBooks(WithoutInvoices):
    """The connected ledger of one company."""

    END_NAME = NAME

    def __init__(self, opening: Opening) -> None:
        self._http = Http(opening)
        self._token = opening.credentials["token"]
        self._names: dict[str, Any] = {}
        slowest = 2 * opening.limits.timeout_seconds
        self.capabilities = CAPABILITIES.model_copy(update={"slowest_answer_seconds": slowest})

    def check(self) -> Check:
        """See ``BooksEnd.check``."""
        return Check.of(self._get("/company"), needed=NEEDED, remedy="In the ledger, give this right to the token.")

    def master_data(self) -> MasterData:
        """See ``BooksEnd.master_data``."""
        self._names = self._get("/names")
        try:
            return mapping.reference(self._names)
        except (DocumentInvalid, KeyError, TypeError) as error:
            raise Away(f"the ledger's list of names lacks or misstates {error}") from error

    def directory(self, kind: Directory, *, page: str | None = None) -> DirectoryPage:
        """See ``BooksEnd.directory``."""
        answer = self._get(f"/{kind}", params={"after": page or 0, "limit": ENTRIES})
        reads = mapping.item_read if kind is Directory.ITEMS else mapping.CONTACT.read
        return page_of(answer, reads, end=NAME, kind=kind)

    def find_contacts(self, contact: Contact, by: Step = "email") -> tuple[str, ...]:
        """See ``BooksEnd.find_contacts``."""
        if contact.house_code:
            found = self._get("/contacts", params={"code": contact.house_code})["contacts"]
            return tuple(str(one["id"]) for one in found)
        wanted = {"email": {"email": contact.email}, "tax number": {"vat": contact.tax_number},
                  "name and postcode": {"postcode": contact.postcode}}[by]  # fmt: skip
        return same(self._get("/contacts", params=wanted)["contacts"], mapping.CONTACT.read, contact, by)

    def create_contact(self, contact: Contact, *, key: str) -> str:
        """See ``BooksEnd.create_contact``."""
        return str(self._change("POST", "/contacts", key=key, json=mapping.CONTACT.write(contact))["id"])

    def amend_contact(self, contact_id: str, contact: Contact, only: Sequence[Particular] = PARTICULARS) -> None:
        """See ``BooksEnd.amend_contact``."""
        said = chosen(mapping.CONTACT.write(contact), mapping.CONTACT.places, only)
        self._change("PUT", f"/contacts/{quote(contact_id, safe='')}", json=said)

    def find_items(self, item: Item) -> tuple[str, ...]:
        """See ``BooksEnd.find_items``; the ledger knows no barcodes."""
        return tuple(str(found["id"]) for found in self._get("/items", params={"code": item.code})["items"])

    def create_item(self, item: Item, *, key: str) -> str:
        """See ``BooksEnd.create_item``."""
        return str(self._change("POST", "/items", key=key, json=mapping.item(item))["id"])

    def find(self, role: Role, external_references: Sequence[str]) -> tuple[BooksRecord, ...]:
        """See ``BooksEnd.find``. The ledger names what it has, and hands each out by itself: those at the same time."""
        found = self._get(f"/{_list(role)}", params={"reference": list(external_references)})["ids"]
        return at_once(lambda number: self.read(role, str(number)), found)

    def find_by_order_number(self, role: Role, order_numbers: Sequence[str]) -> tuple[Brief, ...]:
        """See ``BooksEnd.find_by_order_number``."""
        answer = self._get(f"/{_list(role)}", params={"orders": ",".join(order_numbers)})
        return briefs_of(answer, _brief, end=NAME, role=role).documents

    def list_by_reference_prefix(self, role: Role, prefix: str, *, page: str | None = None) -> BriefPage:
        """See ``BooksEnd.list_by_reference_prefix``."""
        answer = self._get(f"/{_list(role)}", params={"prefix": prefix, "after": page or 0, "limit": ENTRIES})
        return briefs_of(answer, _brief, end=NAME, role=role)

    def read(self, role: Role, record_id: str) -> BooksRecord:
        """See ``BooksEnd.read``."""
        return self._call("GET", _at(role, record_id), role, changes=False)

    def create(self, document: BooksDocument, *, contact_id: str, key: str) -> BooksRecord:
        """See ``BooksEnd.create``."""
        role = Role(document.role)
        headers = {"Idempotency-Key": key}
        return self._call("POST", f"/{_list(role)}", role, headers=headers, **self._said(document, contact_id))

    def amend(self, record: BooksRecord, document: BooksDocument) -> BooksRecord:
        """See ``BooksEnd.amend``."""
        role = Role(document.role)
        headers = {"If-Match": record.version}
        return self._call("PUT", _at(role, record.id), role, headers=headers, **self._said(document, record.contact_id))

    def post(self, record: BooksRecord) -> BooksRecord:
        """See ``BooksEnd.post``."""
        role = Role(record.document.role)
        try:
            return self._call("POST", f"{_at(role, record.id)}/release", role)
        except Refused as error:
            if _NUMBER_TAKEN in str(error):
                raise Refused(str(error), why="number") from error
            raise

    def void(self, record: BooksRecord) -> BooksRecord:
        """See ``BooksEnd.void``."""
        role = Role(record.document.role)
        return self._call("POST", f"{_at(role, record.id)}/void", role)

    def unsupported_fields(self, document: BooksDocument) -> tuple[str, ...]:
        """See ``BooksEnd.unsupported_fields``."""
        return unsupported_fields(document, NO_PLACE)

    def documents(self, kind: SourceKind, *, changed_since: datetime | None, page: str | None = None) -> Page:
        """See ``BooksEnd.documents``."""
        if kind is not SourceKind.RECEIPTS:
            raise NotOffered(NAME, f"list of {kind}")
        since = changed_since.isoformat() if changed_since else ""
        answer = self._get(f"/{_LISTS[Role.PAYMENT]}", params={"changed_since": since, "onward": page or ""})
        return news_of_books(kind, answer, mapping.received, end=NAME)

    def account_balance(self, account: str, day: date) -> Decimal:
        """See ``BooksEnd.account_balance``."""
        answer = self._get(f"{_account(account)}/balance", params={"day": day.isoformat()})
        return balance_of(answer, end=NAME)

    def account_entries(self, account: str, first: date, last: date, *, page: str | None = None) -> EntriesPage:
        """See ``BooksEnd.account_entries``."""
        days = {"first": first.isoformat(), "last": last.isoformat()}
        answer = self._get(f"{_account(account)}/entries", params={**days, "after": page or 0, "limit": ENTRIES})
        return entries_of(answer, mapping.entry, end=NAME)

    def _said(self, document: BooksDocument, contact_id: str) -> dict[str, Any]:
        """The body of a call: UBL where the ledger wants it, else JSON."""
        if isinstance(document, Invoice | CreditNote):
            codes = {line.tax_code for line in document.lines}
            content = to_ubl(
                document,
                company=self._known("name", codes),
                contact_id=contact_id,
                categories=self._categories(codes),
            )
            return {"content": content, "headers_more": {"Content-Type": "application/xml"}}
        said = _TABLES[Role(document.role)].write(document)
        return {"json": {**said, "contact": int(contact_id)} if contact_id else said}

    def _categories(self, codes: set[str]) -> dict[str, Category]:
        known = mapping.categories(self._names)
        missing = sorted(codes - known.keys())
        if missing:
            raise Refused(f"the ledger has no tax code {', '.join(missing)}")
        return known

    def _known(self, name: str, codes: set[str]) -> Any:
        """A name of the ledger's; its names are asked for again when a code is not among them."""
        if not self._names or codes - mapping.categories(self._names).keys():
            self._names = self._get("/names")
        return self._names[name]

    def _get(self, path: str, **request: Any) -> Any:
        answer, _ = self._http.call("GET", path, changes=False, headers=self._signed({}), **request)
        return answer

    def _change(self, method: str, path: str, *, key: str = "", **request: Any) -> Any:
        headers = {**request.pop("headers", {}), **({"Idempotency-Key": key} if key else {})}
        answer, _ = self._http.call(method, path, changes=True, headers=self._signed(headers), **request)
        return answer

    def _call(self, method: str, path: str, role: Role, *, changes: bool = True, **request: Any) -> BooksRecord:
        headers = {**request.pop("headers", {}), **request.pop("headers_more", {})}
        reads, kind = (read_xml, "xml") if role in _UBL else (read_json, "json")
        answer, response = self._http.call(
            method, path, changes=changes, reads=reads, kind=kind, headers=self._signed(headers), **request
        )
        try:
            return _held(role, answer, response)
        except (DocumentInvalid, Unreadable, KeyError, TypeError, AttributeError, StopIteration) as error:
            message = f"the ledger's {role} lacks or misstates {error}"
            raise (OutcomeUnknown(message) if changes else Misstated(message)) from error

    def _signed(self, headers: dict[str, str]) -> dict[str, str]:
        return {**headers, "Authorization": f"Bearer {self._token}"}


def _brief(found: Mapping[str, Any]) -> dict[str, Any]:
    return {
        **{name: found[name] for name in ("net", "tax", "gross")},
        **{name: found[name] or "" for name in ("number", "currency")},
        "id": str(found["id"]),
        "standing": _STANDING[found["state"]],
        "external_reference": found["reference"] or "",
        "order_number": found["order"] or "",
        "date": found["day"],
    }


def _list(role: Role) -> str:
    if role not in _LISTS:
        raise NotOffered(NAME, str(role))
    return _LISTS[role]


def _account(code: str) -> str:
    return f"/accounts/{quote(code, safe='')}"


def _at(role: Role, record_id: str) -> str:
    return f"/{_list(role)}/{quote(record_id, safe='')}"


def _held(role: Role, answer: Any, response: httpx.Response) -> BooksRecord:
    """A document read back; with UBL, what is the ledger's own stands in the headers."""
    if role in _UBL:
        said, state, identity = from_ubl(answer), response.headers["Document-State"], response.headers["Document-Id"]
    else:
        read = _TABLES[role].read
        gross = {} if role is Role.JOURNAL else {"gross": answer["sum"]}
        said = {"number": answer["number"], "contact_id": str(answer.get("contact") or ""), **gross,
                "document": {"role": role.value, **read(answer)}}  # fmt: skip
        state, identity = answer["state"], str(answer["id"])
    said["document"] = with_marks(role, said["document"], said["number"], f"draft {identity}")
    return BooksRecord.read({**said, "id": identity, "standing": _STANDING[state], "version": response.headers["ETag"],
                             "link": page_at(str(response.url), response.headers.get("Document-Page"))})  # fmt: skip
