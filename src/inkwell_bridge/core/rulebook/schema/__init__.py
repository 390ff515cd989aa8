"""The JSON Schema (2020-12) of a rulebook; docs/formats publishes it as a file, docs/reference as a page."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.core.rulebook.schema.accounts import ACCOUNTS
from inkwell_bridge.core.rulebook.schema.bank import BANK
from inkwell_bridge.core.rulebook.schema.exchange_rates import EXCHANGE_RATES
from inkwell_bridge.core.rulebook.schema.fields import DIMENSIONS, FIELD, FIELDS, WAREHOUSES
from inkwell_bridge.core.rulebook.schema.money import PAYMENTS, PENNY, REFUNDS
from inkwell_bridge.core.rulebook.schema.orders import ORDERS
from inkwell_bridge.core.rulebook.schema.parties import CUSTOMERS, ITEMS
from inkwell_bridge.core.rulebook.schema.payouts import PAYOUTS
from inkwell_bridge.core.rulebook.schema.periods import PERIODS
from inkwell_bridge.core.rulebook.schema.requests import REQUESTS
from inkwell_bridge.core.rulebook.schema.shapes import DEFINITIONS, text
from inkwell_bridge.core.rulebook.schema.taxes import TAX_CODES
from inkwell_bridge.core.rulebook.schema.write_offs import WRITE_OFFS

SCHEMA: dict[str, Any] = {
    "$schema": "https://json-schema.org/draft/2020-12/schema",
    "$id": "https://inkwell-bridge.example/formats/rulebook-1.schema.json",
    "title": "Rulebook",
    "description": "The rules by which a bridge turns orders into documents in the books. Written as YAML.",
    "type": "object",
    "additionalProperties": False,
    "required": ["rulebook"],
    "anyOf": [{"required": ["orders"]}, {"required": ["customers"]}, {"required": ["payouts"]},
              {"required": ["requests"]}],
    "dependentRequired": {"orders": ["accounts", "tax_codes", "penny"]},
    "properties": {
        "rulebook": {"description": "Version of this format.", "const": 1, "examples": [1]},
        "name": text("What people call these rules.", longest=200, example="Web shop orders as posted invoices"),
        "based_on": text(
            "The rulebook that this one builds on: what is said here goes before what is said there.",
            longest=200, example="client.yaml",
        ),
        "orders": ORDERS,
        "customers": CUSTOMERS,
        "items": ITEMS,
        "accounts": ACCOUNTS,
        "tax_codes": TAX_CODES,
        "payments": PAYMENTS,
        "refunds": REFUNDS,
        "payouts": PAYOUTS,
        "bank": BANK,
        "requests": REQUESTS,
        "penny": PENNY,
        "exchange_rates": EXCHANGE_RATES,
        "write_offs": WRITE_OFFS,
        "periods": PERIODS,
        "fields": FIELDS,
        "dimensions": DIMENSIONS,
        "warehouses": WAREHOUSES,
    },
    "$defs": {**DEFINITIONS, "field": FIELD},
}  # fmt: skip
