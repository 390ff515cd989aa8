"""How a bank lays out its statements as tables, described once for an account."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from inkwell_bridge.core.values import Value

Column = Annotated[str, Field(max_length=100)]
DAYS = {"yyyy-mm-dd": "%Y-%m-%d", "dd/mm/yyyy": "%d/%m/%Y", "dd.mm.yyyy": "%d.%m.%Y", "mm/dd/yyyy": "%m/%d/%Y",
        "dd-mm-yyyy": "%d-%m-%Y", "dd mmm yyyy": "%d %b %Y"}  # fmt: skip


class TableLayout(Value):
    """The columns of a table (RFC 4180), each by what its first line calls it.

    Shape: money stands in ``amount`` with its sign, or in ``paid_in`` and ``paid_out`` without. ``text`` may be several
    columns, put together. ``skip`` are lines above the columns' names. ``account`` and ``currency`` are compared with
    the account's own, where there are such columns. The newest line may stand first or last.
    """

    separator: Literal[",", ";", "\t", "|"] = ","
    decimal: Literal[".", ","] = "."
    days: Literal["yyyy-mm-dd", "dd/mm/yyyy", "dd.mm.yyyy", "mm/dd/yyyy", "dd-mm-yyyy", "dd mmm yyyy"] = "yyyy-mm-dd"
    encoding: Literal["utf-8", "iso-8859-1", "windows-1252"] = "utf-8"
    skip: Annotated[int, Field(ge=0, le=50)] = 0
    booked_on: Annotated[Column, Field(min_length=1)]
    value_on: Column = ""
    amount: Column = ""
    paid_in: Column = ""
    paid_out: Column = ""
    reference: Column = ""
    end_to_end: Column = ""
    name: Column = ""
    text: tuple[Column, ...] = ()
    balance: Column = ""
    account: Column = ""
    currency: Column = ""

    @model_validator(mode="after")
    def _has_money(self) -> Self:
        both = bool(self.paid_in) and bool(self.paid_out)
        if bool(self.amount) == both or bool(self.paid_in) != bool(self.paid_out):
            raise ValueError("either amount, or both paid_in and paid_out")
        return self

    @property
    def columns(self) -> tuple[str, ...]:
        """Every column that it names."""
        named = (self.booked_on, self.value_on, self.amount, self.paid_in, self.paid_out, self.reference,
                 self.end_to_end, self.name, *self.text, self.balance, self.account, self.currency)  # fmt: skip
        return tuple(dict.fromkeys(filter(None, named)))
