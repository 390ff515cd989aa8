"""What a merchant does to a sale after it was made, in any shop: it is changed, cancelled, paid, bounced, paid back.

A shop says in its own words how a row, money and a refund look; what each deed makes of them is the same for all. The
deeds are asked for at ``POST /{world}/control/after-sale``; money and refunds are of the moment ``at``.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from decimal import ROUND_HALF_UP, Decimal, InvalidOperation
from typing import Any

from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

Json = dict[str, Any]
ZERO = Decimal(0)


class CannotBeDone(Exception):
    """The shop does not do that; the text says why."""


class NoSuchSale(CannotBeDone):
    """The shop has no sale of that number."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Back:
    """What goes back: rows, or an amount ``without_row``; ``paid`` is the money of it."""

    rows: tuple[Json, ...] = ()
    without_row: Decimal = ZERO
    paid: Decimal


class AfterSale(ABC):
    """The deeds, and how one shop's words are read and written. Amounts are in the sale's currency."""

    @abstractmethod
    def find(self, world: str, number: str) -> Json:
        """The sale of that number; ``NoSuchSale`` where there is none."""

    @abstractmethod
    def keep(self, world: str, kind: str, entry: Json, at: str) -> None:
        """Keep a changed sale or a new refund, as changed at that moment, and tell whoever asked to be told."""

    @abstractmethod
    def rows(self, sale: Json) -> list[Json]:
        """The articles of a sale."""

    @abstractmethod
    def numbered(self, row: Json) -> int:
        """The number of a row."""

    @abstractmethod
    def worth(self, sale: Json, row: Json) -> Decimal:
        """What a row comes to for the buyer, tax in it."""

    @abstractmethod
    def priced(self, sale: Json, row: Json, *, count: int, price: Decimal | None) -> Json:
        """A row of so many pieces, at a price of its own or the one it has, with its taxes."""

    @abstractmethod
    def with_rows(self, sale: Json, rows: list[Json]) -> Json:
        """The sale with these articles, added up anew."""

    @abstractmethod
    def with_money(self, sale: Json, amount: Decimal, at: str) -> Json:
        """The sale with so much money more, received at that moment."""

    @abstractmethod
    def with_money_bounced(self, sale: Json) -> Json:
        """The sale with its last money taken back by whoever paid it."""

    @abstractmethod
    def called_off(self, sale: Json) -> Json:
        """The sale, cancelled."""

    @abstractmethod
    def refund(self, world: str, sale: Json, back: Back, at: str) -> Json:
        """A refund of that moment."""

    def cancel(self, world: str, sale: Json, told: Json) -> None:
        """All of it."""
        self.keep(world, "sale", self.called_off(sale), _at(told))

    def pieces(self, world: str, sale: Json, told: Json) -> None:
        """Another number of pieces of a row; none takes it off, which cancels the sale in part."""
        self._change_row(world, sale, told, count=_whole(told["count"]), price=None)

    def price(self, world: str, sale: Json, told: Json) -> None:
        """Another price of a row."""
        self._change_row(world, sale, told, count=None, price=_amount(told["price"]))

    def add(self, world: str, sale: Json, told: Json) -> None:
        """An article more, taxed as the first row is."""
        self.keep(world, "sale", self._with_another(sale, told), _at(told))

    def pay(self, world: str, sale: Json, told: Json) -> None:
        """Money comes in."""
        self.keep(world, "sale", self.with_money(sale, _amount(told["amount"]), _at(told)), _at(told))

    def bounce(self, world: str, sale: Json, told: Json) -> None:
        """The last money is taken back by whoever paid it."""
        self.keep(world, "sale", self.with_money_bounced(sale), _at(told))

    def pay_back(self, world: str, sale: Json, told: Json) -> None:
        """Money goes back without a word of what for."""
        amount = _amount(told["amount"])
        self.keep(
            world, "refund", self.refund(world, sale, Back(without_row=amount, paid=amount), _at(told)), _at(told)
        )

    def take_back(self, world: str, sale: Json, told: Json) -> None:
        """Pieces come back and are paid back."""
        back = self._back(sale, told)
        paid = Back(rows=(back,), paid=self.worth(sale, back))
        self.keep(world, "refund", self.refund(world, sale, paid, _at(told)), _at(told))

    def exchange(self, world: str, sale: Json, told: Json) -> None:
        """Pieces come back, another article goes out, and the difference is paid or paid back."""
        back, changed = self._back(sale, told), self._with_another(sale, told)
        owing = self.worth(sale, self.rows(changed)[-1]) - self.worth(sale, back)
        paid = Back(rows=(back,), paid=max(-owing, ZERO))
        self.keep(world, "refund", self.refund(world, sale, paid, _at(told)), _at(told))
        self.keep(world, "sale", self.with_money(changed, owing, _at(told)) if owing > 0 else changed, _at(told))

    def _change_row(self, world: str, sale: Json, told: Json, *, count: int | None, price: Decimal | None) -> None:
        wanted = self._row(sale, told)
        pieces = self.pieces_of(wanted) if count is None else count
        changed = [
            self.priced(sale, row, count=pieces, price=price) if row is wanted else row
            for row in self.rows(sale)
            if row is not wanted or pieces
        ]
        self.keep(world, "sale", self.with_rows(sale, changed), _at(told))

    def _row(self, sale: Json, told: Json) -> Json:
        number = _whole(told["row"])
        for row in self.rows(sale):
            if self.numbered(row) == number:
                return row
        raise CannotBeDone(f"the sale has no row {number}")

    def _back(self, sale: Json, told: Json) -> Json:
        row, count = self._row(sale, told), _whole(told["count"])
        if not 0 < count <= self.pieces_of(row):
            raise CannotBeDone(f"row {told['row']} has {self.pieces_of(row)} pieces; {count} cannot come back")
        return self.priced(sale, row, count=count, price=None)

    def _with_another(self, sale: Json, told: Json) -> Json:
        rows = self.rows(sale)
        if not rows:
            raise CannotBeDone("the sale has no row to tax another as")
        like = self.another(rows[0], max(map(self.numbered, rows)) + 1, str(told["article"]), str(told["title"]))
        added = self.priced(sale, like, count=_whole(told.get("pieces", 1)), price=_amount(told["price"]))
        return self.with_rows(sale, [*rows, added])

    @abstractmethod
    def pieces_of(self, row: Json) -> int:
        """How many pieces a row has."""

    @abstractmethod
    def another(self, row: Json, number: int, article: str, title: str) -> Json:
        """A row like this one, of another article."""


DEEDS = ("cancel", "pieces", "price", "add", "pay", "bounce", "pay-back", "take-back", "exchange")


def after_sale_route(shop: AfterSale) -> Route:
    """``{"sale": number, "does": a deed, …}``; what does not fit is turned away with its reason and changes nothing."""

    async def endpoint(request: Request) -> Response:
        try:
            told = await request.json()
            world, deed = request.path_params["world"], str(told["does"])
            if deed not in DEEDS:
                raise CannotBeDone(f"a merchant does one of {', '.join(DEEDS)}, not {deed}")
            do: Callable[[str, Json, Json], None] = getattr(shop, deed.replace("-", "_"))
            do(world, shop.find(world, str(told["sale"])), told)
        except (CannotBeDone, KeyError, TypeError, ValueError, AttributeError, InvalidOperation) as wrong:
            said = str(wrong) if isinstance(wrong, CannotBeDone) else f"the call does not fit: {wrong!r}"
            return JSONResponse({"error": said}, 404 if isinstance(wrong, NoSuchSale) else 422)
        return Response(status_code=204)

    return Route("/{world}/control/after-sale", endpoint, methods=["POST"])


def tax_of(amount: Decimal, percent: Decimal, *, inside: bool, step: Decimal) -> Decimal:
    """The tax in an amount, or on top of it, rounded half up."""
    whole = 100 + percent if inside else Decimal(100)
    return (amount * percent / whole).quantize(step, ROUND_HALF_UP)


def _at(told: Json) -> str:
    """When the merchant did it: now, unless the call says another moment."""
    given = told.get("at")
    return (datetime.fromisoformat(given) if given else datetime.now(UTC)).isoformat()


def _whole(value: Any) -> int:
    number = int(value)
    if not 0 <= number <= 10_000:
        raise CannotBeDone(f"{number} pieces are more than a row has")
    return number


def _amount(value: Any) -> Decimal:
    amount = Decimal(str(value))
    if not ZERO < amount <= 1_000_000:
        raise CannotBeDone(f"{value} is no amount between 0 and 1,000,000")
    return amount
