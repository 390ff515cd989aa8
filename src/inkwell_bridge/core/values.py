"""What every value of the core has in common: frozen, closed, exact."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import datetime
from decimal import Decimal, InvalidOperation
from typing import Annotated, Any, ClassVar, Self

from pydantic import (
    AfterValidator,
    AwareDatetime,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    GetCoreSchemaHandler,
    ValidationError,
    WithJsonSchema,
)
from pydantic_core import CoreSchema, core_schema

from inkwell_bridge.core.errors import DocumentInvalid

MOST_DIGITS_BEFORE = 15
MOST_DIGITS_AFTER = 20


def _exact(value: Any) -> Decimal:
    """An exact number: no binary fraction, for 0.1 as a float is already not 0.1; a hundred is written in one way only.

    One function in place of a chain of checks: no other is called so often.
    """
    if isinstance(value, float | bool):
        raise ValueError('an exact decimal, written as text such as "9.99"')
    try:
        number = value if isinstance(value, Decimal) else Decimal(value)
    except (InvalidOperation, TypeError, ValueError) as error:
        raise ValueError("a decimal number") from error
    if not number.is_finite():
        raise ValueError("a finite number")
    # Beyond these the database has no room, and sums would lose digits without a word. A nought too: 0E-400000000 is
    # short as it comes, and four hundred million digits once it is written out.
    if not -MOST_DIGITS_AFTER <= number.adjusted() < MOST_DIGITS_BEFORE:
        raise ValueError(f"a number of at most {MOST_DIGITS_BEFORE} digits before the point")
    text = str(number)
    if len(text) > MOST_DIGITS_BEFORE + MOST_DIGITS_AFTER:
        raise ValueError(f"a number of at most {MOST_DIGITS_AFTER} digits after the point")
    return Decimal(f"{number:f}") if "E+" in text else number


def _that_fits(said: Any) -> Any:
    """What we say of something quotes it, however long that is; the end is cut off where it would not fit."""
    too_long = isinstance(said, str) and len(said) > LONGEST_TEXT
    return f"{said[: LONGEST_TEXT - 1]}…" if too_long else said


_EXACT_TEXT = {"type": "string", "pattern": r"^-?[0-9]+(\.[0-9]+)?$"}


class _ExactNumber:
    """How pydantic reads and writes an exact number."""

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        written = core_schema.to_string_ser_schema(when_used="json")
        return core_schema.no_info_plain_validator_function(_exact, serialization=written)


Exact = Annotated[Decimal, _ExactNumber(), WithJsonSchema(_EXACT_TEXT)]
FIRST_YEAR, LAST_YEAR = 1900, 2200


def _of_our_time(moment: datetime) -> datetime:
    """Moments of other centuries are mistakes; those at the ends of the calendar have no day in some time zones."""
    if not FIRST_YEAR <= moment.year <= LAST_YEAR:
        raise ValueError(f"a moment between the years {FIRST_YEAR} and {LAST_YEAR}")
    return moment


Moment = Annotated[AwareDatetime, AfterValidator(_of_our_time)]
LONGEST_TEXT = 2000
LONGEST_CODE = 120
Text = Annotated[str, Field(max_length=LONGEST_TEXT)]
Code = Annotated[str, Field(min_length=1, max_length=LONGEST_CODE)]
# A code, or nothing where there is none.
CodeIfAny = Annotated[str, Field(max_length=LONGEST_CODE)]
# Our own names, which have codes of others in them.
ExternalReference = Annotated[str, Field(min_length=1, max_length=250)]
Said = Annotated[Text, BeforeValidator(_that_fits)]
Country = Annotated[str, Field(pattern="^([A-Z]{2})?$", description="ISO 3166-1 alpha-2, or empty.")]


class Value(BaseModel):
    """A frozen value that refuses what it does not know.

    Example:
        >>> class Point(Value):
        ...     x: Exact
        >>> Point.read({"x": "1.50"}).written()
        '{"x":"1.50"}'
    """

    # Built when first read: a process that starts seldom meets every kind of document.
    model_config = ConfigDict(frozen=True, extra="forbid", ser_json_timedelta="iso8601", defer_build=True)

    # The fields that tell who somebody is; they are kept, expire and are erased apart from the rest.
    PERSONAL: ClassVar[frozenset[str]] = frozenset()

    @classmethod
    def read(cls, data: Any, *, file: str = "") -> Self:
        """Read from JSON: values, or text with ``file`` for its name.

        Raises:
            DocumentInvalid: naming file, the first place that is wrong, and what was expected there.
        """
        try:
            return cls.model_validate_json(data) if isinstance(data, str | bytes) else cls.model_validate(data)
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            pointer = "".join(f"/{part}" for part in first["loc"])
            # What a check of ours said stands behind a word of pydantic's.
            raise DocumentInvalid(pointer, first["msg"].removeprefix("Value error, "), file=file) from error

    def as_json(self) -> dict[str, Any]:
        """The value as JSON values; amounts are text, so that nothing rounds them."""
        return self.model_dump(mode="json")

    def written(self) -> str:
        """One canonical line of JSON: the same value gives the same bytes."""
        return canonical(self.as_json())

    def printed(self) -> str:
        """The value as a file for people: indented, in the order of its schema, without what was never said."""
        said = self.model_dump(mode="json", exclude_unset=True)
        return json.dumps(said, indent=2, ensure_ascii=False) + "\n"

    def without_people(self) -> Self:
        """The value without what tells who somebody is."""
        return self.model_copy(update={name: self._absent(name) for name in self.PERSONAL})

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy with other fields; what was worked out of the old ones is worked out anew."""
        copied = super().model_copy(update=update, deep=deep)
        for name in copied.__dict__.keys() - type(self).model_fields.keys():
            del copied.__dict__[name]
        return copied

    @classmethod
    def _absent(cls, name: str) -> Any:
        return cls.model_fields[name].get_default(call_default_factory=True)


def canonical(data: Any) -> str:
    """JSON with sorted keys and no spare space, for checksums and comparison."""
    return json.dumps(data, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
