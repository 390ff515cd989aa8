"""What documents are posted into: books, or the sales side, behind the few calls that posting and proof make.

Books are such a target as they are (``ends.contract.BooksEnd``). A sales side takes what is written back to it: of that
``SalesTarget`` makes documents that can be made, looked for by our reference and read back, so that a dispatch is
carried to a shop as an invoice is to books.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import UTC, datetime, time
from typing import Any, Protocol, cast

from inkwell_bridge.core import commerce
from inkwell_bridge.core.books import (
    PIECE,
    BooksDocument,
    BooksRecord,
    Dispatch,
    GoodsLine,
    Payment,
    PaymentRequest,
    Role,
    Standing,
    StockLevel,
)
from inkwell_bridge.core.commerce import SourceKind, WriteBackKind
from inkwell_bridge.ends.contract import SalesEnd, TakesRequests
from inkwell_bridge.ends.errors import NotOffered, Refused
from inkwell_bridge.ends.shapes import AddDispatch, AddPayment, SetStock, StandingRequest
from inkwell_bridge.service.carriage.models import Document
from inkwell_bridge.service.connections.ends import books_end, dialect_of, sales_end
from inkwell_bridge.service.connections.models import Connection


class TargetCapabilities(Protocol):
    """What posting asks of a target before it decides how to go on after an unknown outcome."""

    @property
    def idempotency_keys(self) -> bool:
        """Whether the same call may be made again."""

    @property
    def slowest_answer_seconds(self) -> float:
        """After so long a call that was cut off can no longer take effect."""


class Target(Protocol):
    """An end that documents are posted into; each call as in ``ends.contract.BooksEnd``, with the same errors."""

    @property
    def capabilities(self) -> TargetCapabilities:
        """What it can do."""

    def find(self, role: Role, external_references: Sequence[str]) -> Sequence[BooksRecord]:
        """What stands there in a role under any of these references."""

    def create(self, document: BooksDocument, *, contact_id: str, key: str) -> BooksRecord:
        """Make a document."""

    def amend(self, record: BooksRecord, document: BooksDocument) -> BooksRecord:
        """Make a draft hold what ``document`` says."""

    def post(self, record: BooksRecord) -> BooksRecord:
        """Post a draft."""

    def void(self, record: BooksRecord) -> BooksRecord:
        """Throw a draft away, or cancel a posted document of a role that the capabilities say can be."""

    def unsupported_fields(self, document: BooksDocument) -> Sequence[str]:
        """JSON Pointers of what has no place there."""


def target_end(connection: Connection) -> Target:
    """The end behind a connection, open, as something to post into.

    Raises:
        Unreadable: no key opens its credentials any more.
    """
    if dialect_of(connection).side == "books":
        return books_end(connection)
    return SalesTarget(connection)


class _Repeatable:
    """Whatever is written back may be written again: it then changes nothing (``SalesEnd.write_back``)."""

    idempotency_keys = True
    slowest_answer_seconds = 0.0


class SalesTarget:
    """A sales side that dispatches, payments, stock levels and requests are written to.

    A dispatch stands there under our reference, which is its number. A stock level has no reference there: which
    article and place one is of says our own row, and a level that says something else than planned counts as a draft,
    which posting sets right. So does a request for payment, which stands there under our reference.
    """

    capabilities = _Repeatable()

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._end: SalesEnd = sales_end(connection)

    def __eq__(self, other: object) -> bool:
        """One connection is one target, so that what many documents ask of it is asked together."""
        return isinstance(other, SalesTarget) and other._connection.pk == self._connection.pk

    def __hash__(self) -> int:
        """See ``__eq__``."""
        return hash(self._connection.pk)

    def find(self, role: Role, external_references: Sequence[str]) -> tuple[BooksRecord, ...]:
        """See ``Target.find``. Dispatches: a call each, for shops list them by number only. Stock: as the rows say."""
        # A dispatch bears our reference there; a level bears nothing, so that our own rows are asked what it is of.
        if role is Role.DISPATCH:
            return tuple(record for one in external_references for record in self._dispatch(one))
        if role is Role.PAYMENT_REQUEST:
            return tuple(record for one in self._planned(role, external_references) for record in self._request(one))
        if role is Role.PAYMENT:
            return tuple(record for one in self._planned(role, external_references) for record in self._payment(one))
        return tuple(record for one in self._planned(role, external_references) for record in self._level(one))

    def _planned(self, role: Role, external_references: Sequence[str]) -> Iterator[Any]:
        """What our own rows say that documents there are of."""
        rows = Document.objects.filter(
            workspace=self._connection.workspace_id, connection=self._connection, role=role,
            external_reference__in=external_references,
        )  # fmt: skip
        return (role.shape.read(row.planned) for row in rows)

    def create(self, document: BooksDocument, *, contact_id: str, key: str) -> BooksRecord:
        """See ``Target.create``. Nothing is a draft at a sales side. Calls: two for a dispatch, one for a level or a
        request."""
        if isinstance(document, PaymentRequest):
            return _request_read(self._asking.make_request(document, key=key), document)
        return self._written(document)

    def amend(self, record: BooksRecord, document: BooksDocument) -> BooksRecord:
        """See ``Target.amend``: a level or a request that says something else is set to what ``document`` says."""
        return self._written(document, record.id)

    def post(self, record: BooksRecord) -> BooksRecord:
        """See ``Target.post``. Calls: none, for what was written stands."""
        return record.model_copy(update={"standing": Standing.POSTED})

    def void(self, record: BooksRecord) -> BooksRecord:
        """See ``Target.void``. Calls: none. A parcel that was told of is never a draft, and a level stands until the
        next one is set."""
        return record.model_copy(update={"standing": Standing.VOID})

    def unsupported_fields(self, document: BooksDocument) -> tuple[str, ...]:
        """See ``Target.unsupported_fields``: a shop counts in its own units, and knows nothing of a sales order."""
        if not isinstance(document, Dispatch):
            return ()
        units = (f"/lines/{index}/unit" for index, line in enumerate(document.lines) if line.unit != PIECE)
        return (*(["/sales_order"] if document.sales_order else []), *units)

    def _written(self, document: BooksDocument, request_id: str = "") -> BooksRecord:
        if isinstance(document, Dispatch):
            self._takes(WriteBackKind.DISPATCH)
            # Books know an order by its number, shops write to it by their id.
            order = self._end.document(SourceKind.ORDERS, document.order_number)
            self._end.write_back(AddDispatch(id=order.id, dispatch=_told(document)))
        elif isinstance(document, Payment):
            self._takes(WriteBackKind.PAYMENT)
            order = self._end.document(SourceKind.ORDERS, document.order_number)
            self._end.write_back(AddPayment(id=order.id, payment=_money(document)))
        elif isinstance(document, StockLevel):
            self._takes(WriteBackKind.STOCK)
            self._end.write_back(SetStock(levels=(_set(document),)))
        elif isinstance(document, PaymentRequest):
            return _request_read(self._asking.set_request(request_id, document), document)
        else:
            raise NotOffered(self._connection.name, f"place for a {document.role}")
        return BooksRecord(id=document.external_reference, standing=Standing.POSTED, document=document)

    def _takes(self, what: WriteBackKind) -> None:
        if what not in self._end.capabilities.writes_back:
            raise NotOffered(self._connection.name, f"place for a {what}")

    def _dispatch(self, reference: str) -> Iterator[BooksRecord]:
        try:
            found = self._end.document(SourceKind.DISPATCHES, reference)
        except Refused as error:
            if error.why == "not found":
                return
            raise
        if isinstance(found.document, commerce.Dispatch):
            yield BooksRecord(
                id=reference, number=found.number, standing=Standing.POSTED, document=_dispatch_read(found.document)
            )

    def _payment(self, planned: Payment) -> Iterator[BooksRecord]:
        """The money that an order there has under our reference."""
        found = self._end.document(SourceKind.ORDERS, planned.order_number).document
        money = [one for one in found.payments if one.transaction == planned.external_reference] if isinstance(
            found, commerce.Order) else []  # fmt: skip
        for one in money:
            # The account and the day are the books' own: a shop keeps neither as they do.
            said = planned.model_copy(update={"amount": one.amount, "currency": found.currency})
            yield BooksRecord(id=planned.external_reference, number=one.method, standing=Standing.POSTED, document=said)

    @property
    def _asking(self) -> TakesRequests:
        """The end, as one that asks for money."""
        if not self._end.capabilities.takes_requests:
            raise NotOffered(self._connection.name, "place for a request for payment")
        return cast(TakesRequests, self._end)

    def _request(self, planned: PaymentRequest) -> Iterator[BooksRecord]:
        found = self._asking.find_request(planned.external_reference)
        if found is not None:
            yield _request_read(found, planned)

    def _level(self, planned: StockLevel) -> Iterator[BooksRecord]:
        number = _level_number(planned)
        try:
            found = self._end.document(SourceKind.STOCK, number).document
        except Refused as error:
            if error.why == "not found":
                return
            raise
        if not isinstance(found, commerce.StockLevel):
            return
        said = StockLevel(
            external_reference=planned.external_reference, date=planned.date, item=found.sku, warehouse=found.location,
            on_hand=found.on_hand, available=found.available,
        )  # fmt: skip
        # Whoever set it so: a level that says what is wanted needs nothing more.
        standing = Standing.POSTED if said == planned else Standing.DRAFT
        yield BooksRecord(id=planned.external_reference, number=number, standing=standing, document=said)


def _request_read(found: StandingRequest, planned: PaymentRequest) -> BooksRecord:
    """A request as it stands there; one that asks for something else than wanted counts as a draft."""
    standing = Standing.POSTED if found.request.asks_as(planned) else Standing.DRAFT
    return BooksRecord(id=found.id, number=found.number, standing=standing, document=found.request,
                       gross=found.request.amount, link=found.link)  # fmt: skip


# A dispatch of the books has a day, one of a shop a moment: at noon it is the same day on nearly every clock.
_NOON = time(12, tzinfo=UTC)


def _money(payment: Payment) -> commerce.Payment:
    """Money of the books in the sales side's shape; our reference is its transaction there, so that it is known again
    when the order is read."""
    return commerce.Payment(
        transaction=payment.external_reference,
        method=f"books {payment.text}".strip(),
        amount=payment.amount,
        paid_at=datetime.combine(payment.date, _NOON),
    )


def _told(dispatch: Dispatch) -> commerce.Dispatch:
    """A dispatch in the sales side's shape; our reference is its number there."""
    at = datetime.combine(dispatch.date, _NOON)
    return commerce.Dispatch(
        id=dispatch.external_reference,
        number=dispatch.external_reference,
        order_number=dispatch.order_number,
        dispatched_at=at,
        changed_at=at,
        location=dispatch.warehouse,
        carrier=dispatch.carrier,
        tracking_number=dispatch.tracking_number,
        lines=tuple(
            commerce.DispatchLine(
                line=line.line_reference, sku=line.item, quantity=line.quantity, serials=line.serials,
                lots=(commerce.Lot(code=line.lot, quantity=line.quantity),) if line.lot else (),
            )
            for line in dispatch.lines
        ),
    )  # fmt: skip


def _dispatch_read(said: commerce.Dispatch) -> Dispatch:
    """The same, read back."""
    return Dispatch(
        external_reference=said.number,
        date=said.dispatched_at.astimezone(UTC).date(),
        order_number=said.order_number,
        warehouse=said.location,
        carrier=said.carrier,
        tracking_number=said.tracking_number,
        lines=tuple(part for line in said.lines for part in _goods_read(line)),
    )


def _goods_read(line: commerce.DispatchLine) -> Iterator[GoodsLine]:
    """One line for each lot, as the books keep them."""
    for lot in line.lots or (None,):
        yield GoodsLine(
            line_reference=line.line, item=line.sku, quantity=lot.quantity if lot else line.quantity,
            lot=lot.code if lot else "", serials=line.serials,
        )  # fmt: skip


def _set(level: StockLevel) -> commerce.StockLevel:
    """A level in the sales side's shape."""
    return commerce.StockLevel(
        id=level.external_reference,
        number=_level_number(level),
        sku=level.item,
        location=level.warehouse,
        on_hand=level.on_hand,
        available=level.available,
        changed_at=datetime.combine(level.date, _NOON),
    )


def _level_number(level: StockLevel) -> str:
    """What every sales side numbers a level by."""
    return f"{level.item} {level.warehouse}"
