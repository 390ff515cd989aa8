"""Calls to the ERP's books."""

from __future__ import annotations

from inkwell_bridge.core.books import BooksCapabilities, Contact, Held, Invoice, Reference
from inkwell_bridge.ends.contract import Check, Opening
from inkwell_bridge.ends.erp import translate
from inkwell_bridge.ends.erp.rpc import Rpc

NEEDED = ("read accounts", "read contacts", "write contacts", "write invoices", "post invoices")


class ErpBooks:
    """The connected books of one company."""

    def __init__(self, opening: Opening) -> None:
        self._rpc = Rpc(opening)
        # An answer can come no later than our own patience, and the ERP's work no later than as long again.
        self.capabilities = BooksCapabilities(slowest_answer_seconds=2 * opening.limits.timeout_seconds)

    def check(self) -> Check:
        """See ``BooksEnd.check``."""
        remedy = "In the ERP, give this right to the user that Inkwell Bridge signs in as."
        return Check.of(self._rpc.read("company.describe"), needed=NEEDED, remedy=remedy)

    def reference(self) -> Reference:
        """See ``BooksEnd.reference``."""
        company = self._rpc.read("company.describe")
        return translate.reference(
            company,
            self._rpc.read("accounts.list"),
            self._rpc.read("tax_codes.list"),
            self._rpc.read("contacts.list_codes"),
        )

    def find_contacts(self, contact: Contact) -> tuple[str, ...]:
        """See ``BooksEnd.find_contacts``."""
        wanted = {"code": contact.house_code} if contact.house_code else {"email": contact.email}
        return tuple(str(found["id"]) for found in self._rpc.read("contacts.search", **wanted))

    def create_contact(self, contact: Contact) -> str:
        """See ``BooksEnd.create_contact``."""
        return str(self._rpc.change("contacts.create", **translate.contact(contact))["id"])

    def find_invoices(self, mark: str) -> tuple[Held, ...]:
        """See ``BooksEnd.find_invoices``."""
        return tuple(translate.held(found) for found in self._rpc.read("invoices.search", reference=mark))

    def create_draft(self, invoice: Invoice, *, contact_id: str) -> Held:
        """See ``BooksEnd.create_draft``."""
        return translate.held(self._rpc.change("invoices.create", **translate.invoice(invoice, contact_id)))

    def replace_lines(self, held_id: str, invoice: Invoice) -> Held:
        """See ``BooksEnd.replace_lines``."""
        lines = [translate.line(line) for line in invoice.lines]
        return translate.held(self._rpc.change("invoices.replace_lines", id=int(held_id), lines=lines))

    def post(self, held_id: str) -> Held:
        """See ``BooksEnd.post``."""
        return translate.held(self._rpc.change("invoices.post", id=int(held_id)))

    def void(self, held_id: str) -> Held:
        """See ``BooksEnd.void``."""
        return translate.held(self._rpc.change("invoices.void", id=int(held_id)))
