"""Records: what is made by the thousand on the way to a plan, out of values that were checked before."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeVar, dataclass_transform

_Kind = TypeVar("_Kind")


@dataclass_transform(kw_only_default=True, frozen_default=True)
def record(kind: type[_Kind]) -> type[_Kind]:
    """Make a class a record, made by keywords. It is never changed: the type checker sees to that.

    A frozen dataclass sees to it at run time, and takes nearly four times as long to be made.
    """
    return dataclass(slots=True, kw_only=True)(kind)
