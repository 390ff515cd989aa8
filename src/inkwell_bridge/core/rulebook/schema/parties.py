"""Keys of customers and items: who buys, and what the books call what is sold."""

from __future__ import annotations

from typing import get_args

from inkwell_bridge.core.books import PARTICULARS, STEPS
from inkwell_bridge.core.rulebook.items import Way
from inkwell_bridge.core.rulebook.schema.shapes import Json, choice, code_of, group, keyed_by, offered, referred, table

_FINDINGS: Json = {"x-findings": ["CAN-E008"]}


def _steps(description: str, options: tuple[str, ...], default: list[str], example: list[str], finding: str) -> Json:
    return {
        "description": description,
        "oneOf": [
            {"enum": list(options)},
            {"type": "array", "minItems": 1, "uniqueItems": True, "items": {"enum": list(options)}},
        ],
        "default": default,
        "examples": [example],
        "x-findings": [finding],
    }


CUSTOMERS = group(
    "Whom a document is made out to.",
    {
        "find_by": _steps(
            "The steps in which a contact is looked for: the first that finds exactly one wins, two are a question "
            "for a person. Case, spaces and punctuation do not matter. One of "
            + ", ".join(f"`{one}`" for one in STEPS) + ", or a list of them.",
            STEPS, ["email"], ["email", "tax number"], "CAN-E007",
        ),
        "not_found": choice("What happens when the books have no such contact.", "create", "hold", "house",
                            **{"x-findings": ["CUST-E004"]}),
        "without_email": referred(
            "code",
            "Code of the contact for buyers of whom nothing is known that they could be found by; without this rule "
            "they are held.",
            examples=["WEB-GUEST"],
            **offered("books", "contacts"),
            **{"x-findings": ["REF-E005", "CUST-E001"]},
        ),
        "house": referred(
            "code",
            "Code of the contact that stands for the buyers of house_for.",
            examples=["WEB-HOUSE"],
            **offered("books", "contacts"),
            **{"x-findings": ["REF-E005"]},
        ),
        "house_for": choice("Whose orders go to the house contact.", "nobody", "guests", "everybody"),
        "update": {
            "description": "What a contact that exists takes on where it changed at the shop, in the lane that "
            "carries customers: `never`, `always`, or a list of " + ", ".join(f"`{one}`" for one in PARTICULARS)
            + ". What is not named stays as the books have it.",
            "oneOf": [
                {"enum": ["never", "always"]},
                {"type": "array", "uniqueItems": True, "items": {"enum": list(PARTICULARS)}},
            ],
            "default": "never",
            "examples": [["phone", "billing", "delivery"]],
        },
        "languages": table("From the shop's languages to those of the books (BCP 47), de for de-AT as well; others go "
                           "along as they are.",
                           {"type": "string", "maxLength": 35}, example={"en-IE": "en-GB"},
                           **keyed_by("source", "languages")),
        "groups": table("From the shop's groups of customers to those of the books; others go along as they are.",
                        {"type": "string", "maxLength": 120}, example={"trade": "TRADE"},
                        **keyed_by("source", "customer-groups")),
        "terms": table("From the shop's payment terms to codes of the books; what the books do not know is left out.",
                       code_of("books", "terms"), example={"30 days": "NET30"},
                       **{"x-findings": ["REF-E010", "CUST-N006"]}),
    },
    dependentRequired={"house_for": ["house"]},
)  # fmt: skip
ITEMS = group(
    "Lines of goods on the books' items; without this group they are plain text on their account. A link of one "
    "article to several items shares its price out; a quantity on a link is its factor.",
    {
        "find_by": _steps(
            "The ways in which the item of an article is looked for: the first that finds exactly one wins. One of "
            + ", ".join(f"`{one}`" for one in get_args(Way)) + ", or a list of them.",
            get_args(Way), list(get_args(Way)), ["link", "sku"], "ITEM-E002",
        ),
        "not_found": choice("What becomes of an article that the books have no item for.", "text line", "catch-all",
                            "hold", **{"x-findings": ["ITEM-E001"]}),
        "catch_all": referred("code", "Code of the item that stands for what the books have no item for.",
                              examples=["SUNDRY"], **offered("books", "items"), **{"x-findings": ["REF-E009"]}),
    },
    allOf=[
        {
            "if": {"properties": {"not_found": {"const": "catch-all"}}, "required": ["not_found"]},
            "then": {"required": ["catch_all"]},
        }
    ],
    **_FINDINGS,
)  # fmt: skip
