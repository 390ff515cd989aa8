"""Which invoices of the books become requests for payment, and where the money stands that is paid on them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from inkwell_bridge.core.books import AccountType
from inkwell_bridge.core.expressions import Condition
from inkwell_bridge.core.values import Code, Text, Value

# The types that each role may use, by trade practice.
REQUEST_ACCOUNT_TYPES: dict[str, frozenset[AccountType]] = {
    "account": frozenset({AccountType.BANK, AccountType.ASSET}),
    "overpaid": frozenset({AccountType.LIABILITY}),
}


class RequestFields(Value):
    """The fields of an invoice in the books that keep its link, the provider's number of the request, and the numbers
    of what was paid on it."""

    link: Text = ""
    number: Text = ""
    transactions: Text = ""


class RequestRules(Value):
    """Requests for payment.

    Shape: ``account`` is what the provider's charges stand on until they are paid out; ``overpaid`` owes the buyer what
    came beyond the invoice, and without it that is held. ``only`` and ``on_file`` are asked of an invoice: whether it
    becomes a request, and whether the method on file is charged. A receipt is dated when it was ``paid``, or when the
    provider had it ``recorded``. ``address`` is where short links begin, in place of the service's own.
    Units: a request is open for ``open_for_days`` after its invoice is due; without that until it is paid or withdrawn.
    """

    account: Code
    overpaid: Code | None = None
    only: Condition | None = None
    on_file: Condition | None = None
    dated: Literal["paid", "recorded"] = "paid"
    open_for_days: int | None = None
    address: Text = ""
    fields: RequestFields = RequestFields()

    @property
    def codes(self) -> Iterator[tuple[str, str]]:
        """Every role that has an account, with that."""
        yield "account", self.account
        if self.overpaid is not None:
            yield "overpaid", self.overpaid

    @property
    def conditions(self) -> Iterator[tuple[str, Condition]]:
        """Every condition, with its JSON Pointer."""
        for name, condition in (("only", self.only), ("on_file", self.on_file)):
            if condition is not None:
                yield f"/requests/{name}", condition
