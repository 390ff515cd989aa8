"""For each role of a document: Tryton's model for it, how it is said there, read back and brought along."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from inkwell_bridge.core.books import HEADER_CODES, BooksDocument, BooksRecord, Role, Standing
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.ends.entered import with_marks
from inkwell_bridge.ends.errors import Misstated
from inkwell_bridge.ends.tryton import moves, trade
from inkwell_bridge.ends.tryton.names import Names
from inkwell_bridge.ends.tryton.rpc import Json

_Words = Callable[[BooksDocument, Names, int], dict[str, Any]]
_DRAFT, _POSTED, _VOID = Standing.DRAFT, Standing.POSTED, Standing.VOID
_NOT_ON_LINES = ("warehouse", "lot", "dimensions", "fields")


@dataclass(frozen=True, slots=True, kw_only=True)
class Family:
    """One family of Tryton's records.

    ``external_reference`` is the field that holds our external reference; ``kind`` tells its records from others of the
    model; ``posts`` are the buttons that post a draft, in their order; ``no_place`` what of ours has no field.
    """

    model: str
    external_reference: str
    fields: tuple[str, ...]
    states: Mapping[str, Standing]
    to_words: _Words
    document: Callable[[Json, Names], dict[str, Any]]
    totals: Callable[[Json], dict[str, Any]]
    kind: tuple[Any, ...] = ()
    number: str = "number"
    posts: tuple[str, ...] = ("post",)
    no_place: frozenset[str] = frozenset()


_INVOICE_STATES = {"draft": _DRAFT, "validated": _DRAFT, "posted": _POSTED, "paid": _POSTED, "cancelled": _VOID}
_SALE_STATES = {"draft": _DRAFT, "quotation": _DRAFT, "confirmed": _POSTED, "processing": _POSTED, "done": _POSTED,
                "cancelled": _VOID}  # fmt: skip
_MOVE_STATES = {"draft": _DRAFT, "posted": _POSTED}


def _invoice(*, credit: bool) -> Family:
    return Family(
        model="account.invoice",
        external_reference="reference",
        kind=(["type", "=", "out"],),
        fields=trade.INVOICE_FIELDS,
        states=_INVOICE_STATES,
        to_words=lambda document, names, party: trade.invoice_words(document, names) | names.invoiced(party),
        document=lambda found, _: trade.invoice_document(found, credit=credit),
        totals=lambda found: trade.totals(found, credit=credit),
        no_place=frozenset({"number", "tax_point", "due_on", *_NOT_ON_LINES, *HEADER_CODES}),
    )


def _between_account_and_party(
    to_words: _Words, document: Callable[[Json, Names], dict[str, Any]], no_place: frozenset[str] = frozenset()
) -> Family:
    return Family(
        model="account.move",
        external_reference="description",
        fields=moves.MOVE_FIELDS,
        states=_MOVE_STATES,
        number="post_number",
        to_words=to_words,
        document=document,
        totals=moves.payment_totals,
        no_place=no_place,
    )


_PAYMENT = _between_account_and_party(moves.payment_words, moves.payment_document)


FAMILIES = {
    Role.SALES_ORDER: Family(
        model="sale.sale",
        external_reference="reference",
        fields=trade.SALE_FIELDS,
        states=_SALE_STATES,
        posts=("quote", "confirm"),
        to_words=lambda document, names, party: trade.sale_words(document, names) | names.sold_to(party),
        document=lambda found, _: trade.sale_document(found),
        totals=trade.totals,
        no_place=frozenset({"account", "lot", "dimensions", "fields", *HEADER_CODES}),
    ),
    Role.INVOICE: _invoice(credit=False),
    Role.CREDIT_NOTE: _invoice(credit=True),
    Role.PAYMENT: _PAYMENT,
    Role.REFUND_PAYMENT: _PAYMENT,
    Role.WRITE_OFF: _between_account_and_party(
        moves.write_off_words, moves.write_off_document, frozenset({"rate", "rate_from"})
    ),
    Role.JOURNAL: Family(
        model="account.move",
        external_reference="description",
        fields=moves.MOVE_FIELDS,
        states=_MOVE_STATES,
        number="post_number",
        to_words=lambda document, names, _: moves.journal_words(document, names),
        document=moves.journal_document,
        totals=lambda _: {},
        no_place=frozenset({"link", "rate_from", "tax_code", "dimensions"}),
    ),
}


def record(role: Role, found: Json, names: Names) -> BooksRecord:
    """A document read back, with Tryton's own totals."""
    family = FAMILIES[role]
    try:
        contact = found.get("party") or (moves.party_of(found) if family.model == "account.move" else "")
        return BooksRecord.read(
            {
                "id": str(found["id"]),
                "number": found[family.number] or "",
                "standing": family.states[found["state"]],
                "contact_id": str(contact),
                "document": {
                    "role": role.value,
                    **with_marks(role, family.document(found, names), found[family.number], f"draft {found['id']}"),
                },
                "version": found["_timestamp"] or "",
                **family.totals(found),
            }
        )
    except (DocumentInvalid, KeyError, TypeError, ValueError, AttributeError) as error:
        raise Misstated(f"Tryton's {role} lacks or misstates {error}") from error
