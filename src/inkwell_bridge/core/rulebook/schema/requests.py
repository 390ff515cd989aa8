"""Keys of requests for payment."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.core.expressions import INVOICE
from inkwell_bridge.core.rulebook.requests import REQUEST_ACCOUNT_TYPES
from inkwell_bridge.core.rulebook.schema.shapes import choice, code_of, group, text

_MEANT = {
    "account": "The account that the provider's charges stand on until they are paid out.",
    "overpaid": "What buyers paid beyond their invoice, and are owed; without it such a payment is held.",
}
_SHOWN = {"account": "1250", "overpaid": "2340"}
_SEEN = f"An expression of `{'`, `'.join(INVOICE.known)}`; amounts are whole numbers of the minor unit."


def _role(role: str) -> dict[str, Any]:
    types = REQUEST_ACCOUNT_TYPES[role]
    return {**code_of("books", "accounts", *types),
            "description": f"{_MEANT[role]} An account of type {' or '.join(sorted(types))}.",
            "examples": [_SHOWN[role]], "x-findings": ["REQUEST-E003", "REF-E001", "REF-E002"]}  # fmt: skip


def _asked(description: str, example: str) -> dict[str, Any]:
    return text(f"{description} {_SEEN}", longest=1000, example=example, **{"x-findings": ["RULE-E005", "RULE-E006"]})


REQUESTS = group(
    "Invoices of the books that buyers are asked to pay at the provider, each under a short link of its own.",
    {
        **{role: _role(role) for role in REQUEST_ACCOUNT_TYPES},
        "only": _asked("Which invoices become requests; without it every one that has something open.",
                       'invoice.fields["payment"] == "by link"'),
        "on_file": _asked("Of which of these the buyer's method on file is charged at once; a page takes its place "
                          "where that fails.", 'invoice.fields["payment"] == "on file"'),
        "dated": choice("Whether a receipt has the day on which the buyer paid, or the one on which the provider had "
                        "recorded it.", "paid", "recorded"),
        "open_for_days": {
            "description": "So many days after its invoice is due a request takes nothing more. Without it, it stays "
            "open until it is paid or withdrawn.",
            "type": "integer", "minimum": 0, "maximum": 3650, "examples": [90],
        },
        "address": {
            **text("Where short links begin, such as the client's own host; in place of the service's own address.",
                   longest=200, example="https://pay.marrowby.example"),
            # In the clear on this machine alone: who listens in could lead buyers elsewhere.
            "pattern": "^(https://[A-Za-z0-9.-]+|http://(127\\.0\\.0\\.1|localhost))(:[0-9]+)?(/[A-Za-z0-9._~-]+)*$",
        },
        "fields": group(
            "Fields of the invoice in the books that are written after.",
            {
                "link": text("The field for the short link.", longest=120, example="payment_link"),
                "number": text("The field for the provider's number of the request.", longest=120,
                               example="payment_request"),
                "transactions": text("The field for the provider's numbers of what was paid.", longest=120,
                                     example="paid_with"),
            },
            examples=[{"link": "payment_link"}],
        ),
    },
    required=("account",),
    examples=[{"account": "1250", "only": 'invoice.fields["payment"] == "by link"'}],
)  # fmt: skip
