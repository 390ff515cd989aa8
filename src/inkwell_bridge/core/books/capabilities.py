"""What a books end can and cannot do; the planner and the carriage ask, never guess."""

from __future__ import annotations

from typing import Literal

from inkwell_bridge.core.books.contact import Step
from inkwell_bridge.core.books.document import Role
from inkwell_bridge.core.books.master_data import AccountType
from inkwell_bridge.core.values import Value


class BooksCapabilities(Value):
    """The traits of one kind of books.

    Shape: ``documents`` are the roles it takes, ``drafts`` those of them that can stand as a draft first, ``cancels``
    those that can be cancelled once they are posted;
    ``most_dimensions`` tells how many reporting dimensions a line can have; ``further_fields`` tells books that keep
    fields beside their own; ``header_codes`` names what they keep of ``trade.HEADER_CODES``;
    ``sale_accounts`` are the types of account that stand on documents of a sale;
    ``contacts_by`` is what contacts can be looked for by; ``mixes_signs`` tells books that take lines above and below
    zero on one document, ``exchange_rates`` books that take the rate of a document from outside, and with a payment
    what was gained or lost, ``tells_of_receipts`` books that hand out money which somebody entered there;
    ``tells_of_invoices`` books that hand out their posted invoices with what is open, and take fields on them after;
    ``tells_accounts`` books that tell what stands on an account, entry by entry, and what it comes to at the end of a
    day, ``tells_accounts_of_sales`` those that do so of income and expenses as well;
    ``signed_calls`` books that call in when a document of theirs changes, ``registers_calls`` those whose address to
    call can be set through their interface;
    ``takes_numbers`` books that let a document bear a number from outside; ``numbers_in_date_order`` books that refuse
    to number a document dated before the last one numbered.
    Units: ``price_digits`` digits after the point of a unit price; ``slowest_answer_seconds`` is the time after which
    a call that was cut off can no longer take effect.
    """

    documents: tuple[Role, ...] = (Role.INVOICE,)
    drafts: tuple[Role, ...] = (Role.INVOICE,)
    cancels: tuple[Role, ...] = ()
    contacts: bool = True
    contacts_by: tuple[Step, ...] = ("email",)
    items: bool = False
    tax: Literal["computed", "given"] = "computed"
    tax_rounded_by: Literal["line", "document"] = "line"
    price_digits: int = 4
    idempotency_keys: bool = False
    search_by_reference: bool = True
    most_dimensions: int = 0
    further_fields: bool = False
    header_codes: tuple[str, ...] = ()
    sale_accounts: tuple[AccountType, ...] = (AccountType.INCOME, AccountType.EXPENSE, AccountType.LIABILITY)
    warehouses: bool = False
    mixes_signs: bool = True
    exchange_rates: bool = False
    tells_of_receipts: bool = False
    tells_accounts: bool = False
    tells_accounts_of_sales: bool = False
    tells_of_invoices: bool = False
    signed_calls: bool = False
    registers_calls: bool = False
    takes_numbers: bool = False
    numbers_in_date_order: bool = False
    slowest_answer_seconds: float = 20.0
