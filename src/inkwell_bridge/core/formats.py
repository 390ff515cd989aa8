"""The canonical documents as published formats: the JSON Schema (2020-12) of each, by name."""

from __future__ import annotations

import re
from typing import Any

from inkwell_bridge.core.books import BooksRecord, Contact, Item, MasterData, Role
from inkwell_bridge.core.closing import ClosedReport
from inkwell_bridge.core.commerce import SalesMasterData, SourceKind
from inkwell_bridge.core.configuration import Configuration
from inkwell_bridge.core.values import Value

VERSION = 1
BASE = "https://inkwell-bridge.example/formats"


def formats() -> dict[str, type[Value]]:
    """Every published format by its name: of the ``sales-`` side, of the ``books-``, of the ``bridge-`` between, and
    the report of a month."""
    found: dict[str, type[Value]] = {f"sales-{_named(kind.shape)}": kind.shape for kind in SourceKind}
    found["sales-master-data"] = SalesMasterData
    found |= {f"books-{_named(shape)}": shape for shape in (Contact, Item, MasterData)}
    found |= {f"books-{_named(role.shape)}": role.shape for role in Role}
    found["books-record"] = BooksRecord
    found["bridge-configuration"] = Configuration
    found["month-report"] = ClosedReport
    return dict(sorted(found.items()))


def schema_of(name: str) -> dict[str, Any]:
    """The schema of a format. Amounts and quantities are text, so that nothing rounds them."""
    schema = formats()[name].model_json_schema(mode="serialization")
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": f"{BASE}/{name}-{VERSION}.schema.json",
        **schema,
    }


def _named(shape: type[Value]) -> str:
    return re.sub(r"(?<!^)(?=[A-Z])", "-", shape.__name__).lower()
