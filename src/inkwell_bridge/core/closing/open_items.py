"""What keeps a month from closing: each open difference, and each document that differs, until a person accepts it.

An acceptance is of what somebody saw. It holds for exactly these documents with exactly these amounts: once another
document comes in, or an amount changes, somebody has to look again.
"""

from __future__ import annotations

import hashlib
import operator
from collections.abc import Collection, Iterable, Sequence
from decimal import Decimal
from typing import Annotated, NamedTuple

from pydantic import Field

from inkwell_bridge.core.proof import Reason, Table, Totals
from inkwell_bridge.core.values import Text, Value, canonical

# Not written where there is none, so that what was frozen before it was told still has the checksum that it had.
AccountIfAny = Annotated[Text, Field(exclude_if=operator.not_)]


class PartAmount(Value):
    """What an open item comes to in one place of the sheet. Units: in ``currency``."""

    table: Table
    section: Text
    currency: Text
    tax_code: Text = ""
    tender: Text = ""
    account: AccountIfAny = ""
    totals: Totals


class OpenItem(Value):
    """One open reason of a month, with all its documents.

    Shape: ``detail`` is the cause of a hold; ``documents`` how many source documents are in it; ``amounts`` what it
    comes to in each place of the sheet, of none where only something else than an amount differs; ``fingerprint`` tells
    it from the same item with other documents or other amounts.
    """

    reason: Reason
    detail: Text = ""
    documents: int
    amounts: tuple[PartAmount, ...] = ()
    fingerprint: Text

    @property
    def in_short(self) -> Sequence[PartAmount]:
        """What it comes to in sales and refunds; where that is nothing, by tax code and tender, or by account."""
        totals = [one for one in self.amounts if one.table is Table.TOTALS]
        others = [one for one in self.amounts if one.table is not Table.ACCOUNTS]
        return totals or others or self.amounts


class OpenDocument(NamedTuple):
    """What one source document has in one place of the sheet that is open; of one that differs and has nothing
    there, ``table`` is none."""

    reason: Reason
    detail: str
    document: int
    table: Table | None = None
    section: str = ""
    currency: str = ""
    tax_code: str = ""
    tender: str = ""
    account: str = ""
    totals: Totals = Totals()


def open_items(rows: Iterable[OpenDocument]) -> list[OpenItem]:
    """The items that these make, by reason and detail. Each is read once, and none is kept: there may be very many.

    Expects the rows in an order that the same documents always come in.
    """
    making: dict[tuple[Reason, str], _Making] = {}
    for row in rows:
        key = row.reason, row.detail
        making.setdefault(key, _Making(*key)).add(row)
    # As on the sheet, so that nobody looks for an item in another place.
    order = list(Reason)
    return [making[key].item() for key in sorted(making, key=lambda key: (order.index(key[0]), key[1]))]


def not_accepted(items: Sequence[OpenItem], fingerprints: Collection[str]) -> list[OpenItem]:
    """The items that nobody has accepted as they are now, by the fingerprints of what was accepted."""
    return [item for item in items if item.fingerprint not in fingerprints]


class _Making:
    """An item while its rows come in."""

    def __init__(self, reason: Reason, detail: str) -> None:
        self._reason, self._detail = reason, detail
        self._documents: set[int] = set()
        # The same documents with the same amounts, held for another cause, are not what somebody looked at.
        self._digest = hashlib.sha256(canonical([reason, detail]).encode() + b"\n")
        self._amounts: dict[tuple[Table, str, str, str, str, str], Totals] = {}

    def add(self, row: OpenDocument) -> None:
        self._documents.add(row.document)
        amounts = [_plain(amount) for amount in (row.totals.net, row.totals.tax, row.totals.gross)]
        # Row by row, so that a backlog of any length needs no more room than the numbers of its documents.
        said = [row.document, row.table, row.section, row.currency, row.tax_code, row.tender, row.totals.count]
        # As it was written down before anything was told by account.
        said += [row.account] if row.account else []
        self._digest.update(canonical([*said, *amounts]).encode() + b"\n")
        # One that only differs (a contact, an account) is a document of the item, and comes to nothing.
        if row.table is not None:
            place = (row.table, row.section, row.currency, row.tax_code, row.tender, row.account)
            self._amounts[place] = self._amounts.get(place, Totals()).plus(row.totals)

    def item(self) -> OpenItem:
        amounts = (
            PartAmount(
                table=table,
                section=section,
                currency=currency,
                tax_code=code,
                tender=tender,
                account=account,
                totals=totals,
            )
            for (table, section, currency, code, tender, account), totals in sorted(self._amounts.items())
        )
        return OpenItem(
            reason=self._reason, detail=self._detail, documents=len(self._documents), amounts=tuple(amounts),
            fingerprint=self._digest.hexdigest(),
        )  # fmt: skip


def _plain(amount: Decimal) -> str:
    """The same amount in one way only, however many noughts it came with."""
    return f"{amount.normalize():f}"
