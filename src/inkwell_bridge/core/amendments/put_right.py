"""A document that somebody changed, voided or deleted in the books, put right by further documents.

What stands there is never touched, whoever changed it: what it lacks is posted beside it, or all of it is credited and
the document made anew. Afterwards it counts as the books have it, and both together make what was planned.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from decimal import Decimal

from inkwell_bridge.core.amendments.correcting_lines import corrections, turned
from inkwell_bridge.core.amendments.difference import differences, sums_of
from inkwell_bridge.core.amendments.each_way import each_way
from inkwell_bridge.core.amendments.taken_back import mirror
from inkwell_bridge.core.books import (
    Application,
    BooksDocument,
    BooksRecord,
    CreditNote,
    DocumentLine,
    Invoice,
    Journal,
    LedgerDocument,
    Payment,
    Role,
    Standing,
)
from inkwell_bridge.core.money import rounded
from inkwell_bridge.core.planner.pricing import priced
from inkwell_bridge.core.proof import as_changed

_COMMON = ("date", "order_number", "link", "currency", "rate", "rate_from", "base_currency", "organisational_unit",
           "price_list", "delivery_method", "sales_person", "language")  # fmt: skip
# Which role takes a document off again.
_TAKES_OFF = {Role.INVOICE: Role.CREDIT_NOTE, Role.CREDIT_NOTE: Role.INVOICE, Role.PAYMENT: Role.REFUND_PAYMENT,
              Role.REFUND_PAYMENT: Role.PAYMENT, Role.JOURNAL: Role.JOURNAL}  # fmt: skip
ZERO = Decimal(0)
_BY_HAND = "Mend it in the books: the next reading finds it right."


class CannotPutRight(Exception):
    """No further document makes it what was planned; ``hint`` says what does."""

    def __init__(self, text: str, hint: str = _BY_HAND) -> None:
        super().__init__(text)
        self.hint = hint


@dataclass(frozen=True, slots=True, kw_only=True)
class Differing:
    """One document that differs: as it was ``planned``, as it was ``settled`` when it was posted, and as the books have
    it by now (``there``), unless it does not stand there any more.

    ``at`` are JSON Pointers of what differs, ``number`` is what people know it by, ``contact_id`` whom it was made out
    to.
    """

    planned: BooksDocument
    settled: BooksDocument
    there: BooksRecord | None
    at: tuple[str, ...]
    number: str
    contact_id: str

    @property
    def role(self) -> Role:
        """What it is."""
        return Role(self.planned.role)

    @property
    def stands(self) -> bool:
        """Whether the books have it still."""
        return self.there is not None and self.there.standing is not Standing.VOID


@dataclass(frozen=True, slots=True, kw_only=True)
class Further:
    """A further document, whom it is made out to, and why it is made; ``again`` names the document that it takes the
    place of."""

    document: BooksDocument
    contact_id: str
    why: str
    again: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Names:
    """What further documents are known by: a reference for each role, another each time it is asked for; and the legal
    number, where that is not the books' own to give."""

    reference: Callable[[Role], str]
    number: Callable[[], str]


def put_back(one: Differing, names: Names, *, together: bool, price_digits: int) -> list[Further]:
    """What the books lack of a document: all of one that does not stand there any more; of one whose lines somebody
    changed, an invoice of what went up and a credit note of what went down; with ``together`` one of both.

    Raises:
        CannotPutRight: it differs in more than its lines, or is none with lines.
    """
    if not one.stands:
        return [_anew(one, names, {})]
    of_lines = all(at.startswith("/lines") or at in ("/net", "/tax", "/gross") for at in one.at)
    hint = "Credit it and make it anew, or mend it in the books."
    if not isinstance(one.settled, LedgerDocument) or one.role not in _TAKES_OFF:
        raise CannotPutRight(f"{one.number} is a {one.role}, of which no part is posted by itself.", hint)
    if not of_lines:
        raise CannotPutRight(f"{one.number} differs in more than its lines.", hint)
    there = as_it_stands(one)
    assert isinstance(there, LedgerDocument)
    # As invoices both, for pieces and amounts are above zero on either: more of a credit note is more to be credited.
    wanted = _as_invoice(one.settled)
    found = differences([_as_invoice(there)], sums_of([wanted]), wanted.lines)
    up, down = each_way(corrections(found, wanted.currency, price_digits), together=together)
    lacking, too_much = tuple(line for _, line in up), tuple(turned(line) for _, line in down)
    made: list[Further] = []
    if lacking:
        document = _ledger_document(one.settled, one.role, lacking, names)
        made.append(Further(document=document, contact_id=one.contact_id,
                            why=f"What {one.number} lacks in the books of what was planned."))  # fmt: skip
    if too_much:
        document = _ledger_document(one.settled, _TAKES_OFF[one.role], too_much, names)
        made.append(Further(document=document, contact_id=one.contact_id,
                            why=f"What {one.number} has too much of in the books."))  # fmt: skip
    if not made:
        raise CannotPutRight(f"What differs on {one.number} is no amount, account or code.", hint)
    return made


def credit_and_reissue(
    one: Differing, names: Names, *, renamed: Mapping[str, str], price_digits: int
) -> list[Further]:  # fmt: skip
    """What takes a document off again as the books have it, on its own day there and of its own contact; and the
    document anew as it was planned. ``renamed`` are documents that were made anew before it, by their references: money
    is set against these.

    Raises:
        CannotPutRight: nothing takes off a document of its kind.
    """
    if one.role not in _TAKES_OFF:
        raise CannotPutRight(f"{one.number} is a document of its own kind: {one.role}; nothing takes it off again.")
    made = [_taken_off(one, names, price_digits)] if one.stands else []
    return [*made, _anew(one, names, renamed)]


def as_it_stands(one: Differing) -> BooksDocument:
    """A document as the books have it, with what is sent nowhere of each line.

    Raises:
        CannotPutRight: its lines do not make its totals there, so that nobody can say what would take it off.
    """
    assert one.there is not None
    document = one.there.document
    if not isinstance(document, LedgerDocument) or not isinstance(one.settled, LedgerDocument):
        return document
    theirs = (one.there.net, one.there.tax, one.there.gross)
    if one.there.gross is not None and theirs != (document.net, document.tax, document.gross):
        raise CannotPutRight(
            f"The lines of {one.number} come to {document.gross} in the books, and its total there is "
            f"{one.there.gross}."
        )
    before = one.there.model_copy(update={"document": one.settled})
    known = as_changed(one.settled, before, one.there)
    assert isinstance(known, LedgerDocument)
    return document.model_copy(update={"lines": known.lines})


def restated(one: Differing, *, credited: bool) -> BooksDocument:
    """What a document that stands there counts as having been planned as, from now on.

    Where all of it is ``credited`` it is what the books have. Where only the difference is posted, it is what was
    planned with what somebody changed of it: whatever settled its penny still does.
    """
    if credited or one.there is None:
        return as_it_stands(one)
    return as_changed(one.planned, one.there.model_copy(update={"document": one.settled}), one.there)


def _at_its_price(line: DocumentLine, currency: str, price_digits: int) -> DocumentLine:
    """A line whose price makes its amount: somebody may have changed the one and not the other."""
    if rounded(line.quantity * line.unit_price, currency) == line.net:
        return line
    count, unit_price, text = priced(line.quantity, line.net, line.text, currency, price_digits)
    return line.model_copy(update={"quantity": count, "unit_price": unit_price, "text": text})


def _taken_off(one: Differing, names: Names, price_digits: int) -> Further:
    there = as_it_stands(one)
    assert one.there is not None
    role = _TAKES_OFF[one.role]
    if isinstance(there, LedgerDocument):
        lines = tuple(_at_its_price(line, there.currency, price_digits) for line in there.lines)
        document: BooksDocument = _ledger_document(there, role, lines, names)
    else:
        assert isinstance(there, Payment | Journal)
        document = mirror(there, names.reference(role), there.date)
    # On the account of whom it stands there for, or nothing would be taken off that.
    return Further(document=document, contact_id=one.there.contact_id or one.contact_id,
                   why=f"Takes {one.number} off, as it stands in the books.")  # fmt: skip


def _as_invoice(document: LedgerDocument) -> Invoice:
    said = {name: getattr(document, name) for name in _COMMON}
    return Invoice(**said, external_reference=document.external_reference, lines=document.lines)


def _ledger_document(
    like: LedgerDocument, role: Role, lines: tuple[DocumentLine, ...], names: Names
) -> Invoice | CreditNote:
    """An invoice or credit note with these lines, otherwise as the one that it corrects."""
    said = {name: getattr(like, name) for name in _COMMON}
    said |= {"external_reference": names.reference(role), "lines": lines, "number": names.number()}
    if role is Role.INVOICE:
        return Invoice(**said)
    credited = like.credits if isinstance(like, CreditNote) else like.external_reference
    return CreditNote(**said, credits=credited, reason="It was changed in the books.")


def _anew(one: Differing, names: Names, renamed: Mapping[str, str]) -> Further:
    document = one.planned
    update: dict[str, object] = {"external_reference": names.reference(one.role)}
    if isinstance(document, LedgerDocument):
        # The number of the first one is taken for good, though it stands there no more.
        update["number"] = names.number()
    if isinstance(document, Invoice):
        update["sales_order"] = ""
    if isinstance(document, Payment):
        update["applied"] = tuple(_applied_anew(document, one, renamed))
    return Further(document=document.model_copy(update=update), contact_id=one.contact_id,
                   why=f"{one.number} anew, as it was planned.", again=document.external_reference)  # fmt: skip


def _applied_anew(document: Payment, one: Differing, renamed: Mapping[str, str]) -> Iterator[Application]:
    """What money that is entered anew is set against: not against what the books set the first against still."""
    still = one.there.document.applied if one.there is not None and isinstance(one.there.document, Payment) else ()
    settled = {part.external_reference: part.amount for part in still if part.external_reference}
    for part in document.applied:
        reference = renamed.get(part.external_reference, part.external_reference)
        left = part.amount - settled.get(part.external_reference, ZERO)
        if left > 0:
            yield part.model_copy(update={"external_reference": reference, "amount": left})
