"""The JSON Schema (2020-12) of a rulebook; docs/formats publishes it as a file."""

from __future__ import annotations

from typing import Any

SCHEMA: dict[str, Any] = {
    "$schema": "https://json-schema.org/draft/2020-12/schema",
    "$id": "https://inkwell-bridge.example/formats/rulebook-1.schema.json",
    "title": "Rulebook",
    "description": "The rules by which a bridge turns orders into documents in the books. Written as YAML.",
    "type": "object",
    "additionalProperties": False,
    "required": ["rulebook"],
    "anyOf": [{"required": ["orders"]}, {"required": ["customers"]}],
    "dependentRequired": {"orders": ["accounts", "tax_codes", "penny"]},
    "properties": {
        "rulebook": {
            "description": "Version of this format.",
            "const": 1,
        },
        "name": {
            "description": "What people call these rules.",
            "type": "string",
            "maxLength": 200,
        },
        "orders": {
            "description": "Which orders cross, and as what.",
            "type": "object",
            "additionalProperties": False,
            "required": ["statuses"],
            "properties": {
                "become": {
                    "description": "The document an order becomes.",
                    "enum": ["invoice"],
                    "default": "invoice",
                },
                "arrive": {
                    "description": "Whether the document is posted, or left as a draft to be looked over.",
                    "enum": ["posted", "draft"],
                    "default": "posted",
                },
                "statuses": {
                    "description": "Orders in these statuses cross; all others are left out and counted.",
                    "type": "array",
                    "minItems": 1,
                    "maxItems": 50,
                    "uniqueItems": True,
                    "items": {
                        "type": "string",
                        "minLength": 1,
                        "maxLength": 120,
                    },
                },
                "placed_from": {
                    "description": "Orders placed before this day, in the company's time zone, are left out.",
                    "type": "string",
                    "format": "date",
                    "pattern": "^[0-9]{4}-[0-9]{2}-[0-9]{2}$",
                },
            },
        },
        "customers": {
            "description": "Whom a document is made out to.",
            "type": "object",
            "additionalProperties": False,
            "properties": {
                "find_by": {
                    "description": "What a contact is found by.",
                    "enum": ["email"],
                    "default": "email",
                },
                "not_found": {
                    "description": "What happens when the books have no such contact.",
                    "enum": ["create", "hold"],
                    "default": "create",
                },
                "update": {
                    "description": "Whether a contact that exists takes on what changed at the shop; "
                    "for the lane that carries customers.",
                    "enum": ["never", "always"],
                    "default": "never",
                },
                "without_email": {
                    "description": "Code of the contact for buyers without an e-mail; without this rule they are held.",
                    "type": "string",
                    "minLength": 1,
                    "maxLength": 120,
                },
            },
        },
        "accounts": {
            "description": "Ledger accounts by role, by their code in the books.",
            "type": "object",
            "additionalProperties": False,
            "required": ["sales", "shipping", "rounding"],
            "properties": {
                "sales": {
                    "$ref": "#/$defs/code",
                    "description": "Income from goods and services.",
                },
                "shipping": {
                    "$ref": "#/$defs/code",
                    "description": "Income from carriage charged to buyers.",
                },
                "rounding": {
                    "$ref": "#/$defs/code",
                    "description": "Where a penny goes that the books compute differently.",
                },
            },
        },
        "tax_codes": {
            "description": "Tax codes of the books.",
            "type": "object",
            "additionalProperties": False,
            "required": ["by_class", "outside"],
            "properties": {
                "by_class": {
                    "description": "From each tax class of the shop to a tax code of the books.",
                    "type": "object",
                    "minProperties": 1,
                    "maxProperties": 200,
                    "additionalProperties": {
                        "$ref": "#/$defs/code",
                    },
                },
                "outside": {
                    "$ref": "#/$defs/code",
                    "description": "The code outside tax, for rounding lines.",
                },
            },
        },
        "payments": {
            "description": "What happens to payments; for now they are left for later.",
            "enum": ["later"],
            "default": "later",
        },
        "penny": {
            "description": "What happens when the books compute another total than the shop.",
            "type": "object",
            "additionalProperties": False,
            "required": ["allowance"],
            "properties": {
                "allowance": {
                    "description": "The largest difference that is settled by rule, in the order's currency.",
                    "type": ["number", "integer"],
                    "minimum": 0,
                    "maximum": 100,
                },
                "goes_to": {
                    "description": "A line on the rounding account, or a hold for a person.",
                    "enum": ["rounding account", "hold"],
                    "default": "rounding account",
                },
            },
        },
    },
    "$defs": {
        "code": {
            "type": "string",
            "minLength": 1,
            "maxLength": 120,
        },
    },
}
