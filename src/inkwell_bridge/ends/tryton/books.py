"""Calls to books kept in Tryton."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.core.books import (
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
    Standing,
    Step,
)
from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.ends.account_entries import balance_of, entries_of
from inkwell_bridge.ends.directory import ENTRIES
from inkwell_bridge.ends.errors import Away, Misstated, NotOffered, Refused
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.shapes import BriefPage, Check, DirectoryPage, EntriesPage, Page, Permission
from inkwell_bridge.ends.tryton import moves, notes, trade
from inkwell_bridge.ends.tryton.families import FAMILIES, Family, record
from inkwell_bridge.ends.tryton.goods import Goods
from inkwell_bridge.ends.tryton.names import Names
from inkwell_bridge.ends.tryton.people import People
from inkwell_bridge.ends.tryton.rpc import TrytonRpc
from inkwell_bridge.ends.unsupported_fields import unsupported_fields
from inkwell_bridge.ends.without_invoices import WithoutInvoices

NAME = "Tryton"
CAPABILITIES = BooksCapabilities(
    contacts_by=STEPS,
    documents=tuple(FAMILIES),
    drafts=tuple(FAMILIES),
    items=True,
    tax="computed",
    tax_rounded_by="line",
    price_digits=4,
    warehouses=True,
    sale_accounts=(AccountType.INCOME,),
    numbers_in_date_order=True,
    tells_accounts=True,
    tells_accounts_of_sales=True,
)
# Each right that the work needs: what it is for, the model, and what may be done with it there.
NEEDED = (
    ("read the chart of accounts", "account.account", "read"),
    ("read taxes", "account.tax", "read"),
    ("read periods", "account.period", "read"),
    ("read parties", "party.party", "read"),
    ("make parties", "party.party", "create"),
    ("read products", "product.product", "read"),
    ("make invoices", "account.invoice", "create"),
    ("post to the ledger", "account.move", "create"),
)
REMEDY = ("In Tryton, Administration > Users > Users: give the user the groups Account, Accounting Party, Sales and "
          "Product Administration.")  # fmt: skip
BY_LINE = "taxes rounded by line"
# What is set against invoices.
_SETTLES = frozenset({Role.PAYMENT, Role.REFUND_PAYMENT, Role.WRITE_OFF})


class TrytonBooks(WithoutInvoices):
    """The connected books of one company."""

    END_NAME = NAME

    def __init__(self, opening: Opening) -> None:
        self._rpc = TrytonRpc(opening)
        self._names = Names(self._rpc)
        self._people, self._goods = People(self._rpc, self._names), Goods(self._rpc, self._names)
        slowest = 2 * opening.limits.timeout_seconds
        self.capabilities = CAPABILITIES.model_copy(update={"slowest_answer_seconds": slowest})

    def check(self) -> Check:
        """See ``BooksEnd.check``. Taxes must be rounded by line, or the books compute others than were foreseen."""
        try:
            company = self._names.company()
            access = self._rpc.read("model.ir.model.access.get_access", sorted({model for _, model, _ in NEEDED}))
            granted = {name: bool(access[model][right]) for name, model, right in NEEDED}
            permissions = [_permission(name, granted[name], REMEDY) for name in granted]
            if granted["read the chart of accounts"]:
                permissions.append(self._rounds_by_line())
            return Check(company=company["name"], currency=company["currency"], time_zone=company["time_zone"],
                         languages=(self._rpc.context["language"],), permissions=tuple(permissions))  # fmt: skip
        except (DocumentInvalid, KeyError, TypeError, ValueError, AttributeError) as error:
            raise Away(f"Tryton's account of itself lacks or misstates {error}") from error

    def _rounds_by_line(self) -> Permission:
        found = self._rpc.search("account.configuration", [], ["tax_rounding"])
        by_line = bool(found) and found[0]["tax_rounding"] == "line"
        return _permission(BY_LINE, by_line, "In Tryton, Financial > Configuration: set Tax Rounding to Per Line.")

    def master_data(self) -> MasterData:
        """See ``BooksEnd.master_data``."""
        try:
            return self._names.master_data()
        except (DocumentInvalid, KeyError, TypeError, AttributeError) as error:
            raise Away(f"Tryton's list of names lacks or misstates {error}") from error

    def directory(self, kind: Directory, *, page: str | None = None) -> DirectoryPage:
        """See ``BooksEnd.directory``."""
        after = int(page or 0)
        try:
            entries = self._goods.listed(after) if kind is Directory.ITEMS else self._people.listed(after)
        except (DocumentInvalid, KeyError, TypeError, AttributeError) as error:
            raise Away(f"Tryton's {kind} lack or misstate {error}") from error
        return DirectoryPage(entries=entries, next=entries[-1].id if len(entries) == ENTRIES else None)

    def find_contacts(self, contact: Contact, by: Step = "email") -> tuple[str, ...]:
        """See ``BooksEnd.find_contacts``."""
        return self._people.find(contact, by)

    def create_contact(self, contact: Contact, *, key: str) -> str:
        """See ``BooksEnd.create_contact``."""
        return self._people.create(contact)

    def amend_contact(self, contact_id: str, contact: Contact, only: Sequence[Particular] = PARTICULARS) -> None:
        """See ``BooksEnd.amend_contact``."""
        self._people.amend(contact_id, contact, only)

    def find_items(self, item: Item) -> tuple[str, ...]:
        """See ``BooksEnd.find_items``."""
        return self._goods.find(item)

    def create_item(self, item: Item, *, key: str) -> str:
        """See ``BooksEnd.create_item``."""
        return self._goods.create(item)

    def find(self, role: Role, external_references: Sequence[str]) -> tuple[BooksRecord, ...]:
        """See ``BooksEnd.find``."""
        family = _family(role)
        self._names.company()
        domain = [*family.kind, [family.external_reference, "in", list(external_references)]]
        found = self._rpc.search(family.model, domain, family.fields, order=[["id", "ASC"]])
        return tuple(record(role, one, self._names) for one in found)

    def find_by_order_number(self, role: Role, order_numbers: Sequence[str]) -> tuple[Brief, ...]:
        """See ``BooksEnd.find_by_order_number``. Ours say the number in their comment; what somebody typed has it for a
        reference or description."""
        numbers = list(order_numbers)
        # "like" takes signs for any letter, so what it finds is looked at again.
        ours = [["comment", "like", f"%{notes.written({'Order': number})}%"] for number in numbers]
        typed = [["reference", "in", numbers], ["description", "in", numbers]]
        found = self._briefs(role, ["OR", *typed, *ours])
        return tuple(one for one in found if one.order_number in numbers)

    def list_by_reference_prefix(self, role: Role, prefix: str, *, page: str | None = None) -> BriefPage:
        """See ``BooksEnd.list_by_reference_prefix``."""
        family = _family(role)
        found = self._briefs(
            role, [["id", ">", int(page or 0)], [family.external_reference, "like", f"{prefix}%"]], most=ENTRIES
        )
        return BriefPage(documents=found, next=found[-1].id if len(found) == ENTRIES else None)

    def _briefs(self, role: Role, domain: list[Any], *, most: int | None = None) -> tuple[Brief, ...]:
        family = _family(role)
        if family.model == "account.move":
            raise NotOffered(NAME, f"list of {role}s by order")
        self._names.company()
        date = "sale_date" if family.model == "sale.sale" else "invoice_date"
        fields = [*trade.BRIEF_FIELDS, date]
        rows = self._rpc.read(
            f"model.{family.model}.search_read", [*family.kind, domain], 0, most, [["id", "ASC"]], fields
        )
        try:
            found = [Brief.read(trade.brief(one, family.states, date)) for one in rows]
        except (DocumentInvalid, KeyError, TypeError, AttributeError) as error:
            raise Misstated(f"Tryton's list of {role}s lacks or misstates {error}") from error
        # A credit note is an invoice below zero there.
        credit = role is Role.CREDIT_NOTE
        return tuple(one for one in found if (one.gross is not None and one.gross < 0) == credit)

    def read(self, role: Role, record_id: str) -> BooksRecord:
        """See ``BooksEnd.read``."""
        return record(role, self._found(_family(role), record_id), self._names)

    def create(self, document: BooksDocument, *, contact_id: str, key: str) -> BooksRecord:
        """See ``BooksEnd.create``. A draft may be dated in a closed period in Tryton; we make none there."""
        role = Role(document.role)
        family = _family(role)
        self._names.company()
        self._names.open_period(document.date)
        words = self._words(document, contact_id)
        words["lines"] = [["create", words["lines"]]]
        made = self._rpc.change(f"model.{family.model}.create", [words])
        return self.read(role, str(made[0]))

    def amend(self, record: BooksRecord, document: BooksDocument) -> BooksRecord:
        """See ``BooksEnd.amend``."""
        role = Role(document.role)
        family = _family(role)
        self._names.open_period(document.date)
        there = self._found(family, record.id)
        words = self._words(document, record.contact_id)
        old = [line["id"] for line in there["lines."]]
        words["lines"] = [["delete", old], ["create", words["lines"]]]
        read_at = {"_timestamp": {f"{family.model},{record.id}": record.version}} if record.version else {}
        self._rpc.change(f"model.{family.model}.write", [int(record.id)], words, context=read_at)
        return self.read(role, record.id)

    def post(self, record: BooksRecord) -> BooksRecord:
        """See ``BooksEnd.post``. What a payment is set against is settled along with it, or when it is posted again."""
        role = Role(record.document.role)
        family = _family(role)
        there = self._found(family, record.id)
        standing = family.states[there["state"]]
        if standing is Standing.VOID:
            raise Refused(f"Tryton's {role} {record.id} is void")
        lines = moves.unsettled(there) if role in _SETTLES else []
        unsettled = [self._invoice_to_settle(there, line, external_reference) for line, external_reference in lines]
        if standing is Standing.DRAFT:
            self._names.open_period(record.document.date)
            for button in family.posts:
                self._rpc.change(f"model.{family.model}.{button}", [int(record.id)])
            if role is Role.SALES_ORDER:
                self._process(family.model, int(record.id))
        for invoice, line in unsettled:
            self._settle(invoice, line)
        return self.read(role, record.id)

    def void(self, record: BooksRecord) -> BooksRecord:
        """See ``BooksEnd.void``. A draft move cannot stand as void: it is deleted."""
        role = Role(record.document.role)
        family = _family(role)
        standing = family.states[self._found(family, record.id)["state"]]
        if standing is Standing.POSTED:
            # Tryton would cancel it, with a counter-entry of its own.
            raise Refused(f"Tryton's {role} {record.number or record.id} is posted")
        if family.model != "account.move":
            self._rpc.change(f"model.{family.model}.cancel", [int(record.id)])
            return self.read(role, record.id)
        self._rpc.change(f"model.{family.model}.delete", [int(record.id)])
        return record.model_copy(update={"standing": Standing.VOID})

    def unsupported_fields(self, document: BooksDocument) -> tuple[str, ...]:
        """See ``BooksEnd.unsupported_fields``."""
        return unsupported_fields(document, _family(Role(document.role)).no_place)

    def documents(self, kind: SourceKind, *, changed_since: datetime | None, page: str | None = None) -> Page:
        """See ``BooksEnd.documents``."""
        raise NotOffered(NAME, f"list of {kind}")

    def account_balance(self, account: str, day: date) -> Decimal:
        """See ``BooksEnd.account_balance``. Tryton works it out, what earlier years brought forward with it."""
        self._names.company()
        number = self._names.one("account", account)
        # Drafts are no part of the books yet.
        until = {"date": day, "posted": True, "cumulate": True}
        (found,) = self._rpc.read("model.account.account.read", [number], ["balance"], context=until)
        return balance_of(found, end=NAME)

    def account_entries(self, account: str, first: date, last: date, *, page: str | None = None) -> EntriesPage:
        """See ``BooksEnd.account_entries``."""
        self._names.company()
        domain = [["id", ">", int(page or 0)], ["account", "=", self._names.one("account", account)],
                  ["move.state", "=", "posted"], ["move.date", ">=", first], ["move.date", "<=", last]]  # fmt: skip
        rows = self._rpc.read(
            "model.account.move.line.search_read", domain, 0, ENTRIES, [["id", "ASC"]], moves.ENTRY_FIELDS
        )
        onward = rows[-1]["id"] if len(rows) == ENTRIES else None
        return entries_of({"entries": rows, "onward": onward}, moves.entry, end=NAME)

    def _words(self, document: BooksDocument, contact_id: str) -> dict[str, Any]:
        return _family(Role(document.role)).to_words(document, self._names, int(contact_id or 0))

    def _found(self, family: Family, record_id: str) -> Any:
        self._names.company()
        found = self._rpc.search(family.model, [["id", "=", int(record_id)]], family.fields)
        if not found:
            raise Refused(f"Tryton has no {family.model} {record_id}", why="not found")
        return found[0]

    def _invoice_to_settle(self, payment: Any, line_id: int, external_reference: str) -> tuple[Any, int]:
        """The posted invoice that a line of a payment is set against.

        Raises:
            Refused: there is none, or it would be paid with more than it asks for.
        """
        domain = [["type", "=", "out"], ["reference", "=", external_reference], ["state", "in", ["posted", "paid"]]]
        fields = ["number", "total_amount", "amount_to_pay", "lines_to_pay", "payment_lines"]
        found = self._rpc.search("account.invoice", domain, fields)
        if not found:
            raise Refused(f"Tryton has nothing posted under {external_reference}")
        (invoice, *_) = found
        (line,) = [one for one in payment["lines."] if one["id"] == line_id]
        amount = line["debit"] + line["credit"]
        total, open_ = abs(invoice["total_amount"]), abs(invoice["amount_to_pay"])
        if amount > open_:
            raise Refused(f"{invoice['number']} would be paid with {total - open_ + amount} of {total}")
        return invoice, line_id

    def _settle(self, invoice: Any, line_id: int) -> None:
        """Set a posted line against its invoice; where nothing is left open, the two are reconciled."""
        self._rpc.change("model.account.invoice.write", [invoice["id"]], {"payment_lines": [["add", [line_id]]]})
        lines = [*invoice["lines_to_pay"], *invoice["payment_lines"], line_id]
        rows = self._rpc.search("account.move.line", [["id", "in", lines], ["reconciliation", "=", None]],
                                ["debit", "credit"])  # fmt: skip
        if sum((row["debit"] - row["credit"] for row in rows), Decimal(0)):
            return
        self._reconcile([row["id"] for row in rows])
        self._process("account.invoice", invoice["id"])

    def _process(self, model: str, number: int) -> None:
        """Let a sale or a paid invoice go on: with its queue on and no worker, Tryton does so only when asked.

        A user without that right leaves it to Tryton's own worker; the document stands as it is meanwhile.
        """
        try:
            self._rpc.change(f"model.{model}.process", [number])
        except Refused as refused:
            if refused.why != "permission":
                raise

    def _reconcile(self, lines: Sequence[int]) -> None:
        chosen = {"active_model": "account.move.line", "active_ids": list(lines), "active_id": lines[0]}
        session, start, _ = self._rpc.change("wizard.account.move.reconcile_lines.create", context=chosen)
        self._rpc.change("wizard.account.move.reconcile_lines.execute", session, {}, start, context=chosen)


def _permission(name: str, granted: bool, remedy: str) -> Permission:
    return Permission(name=name, granted=granted, remedy="" if granted else remedy)


def _family(role: Role) -> Family:
    if role not in FAMILIES:
        raise NotOffered(NAME, f"{role}s")
    return FAMILIES[role]
