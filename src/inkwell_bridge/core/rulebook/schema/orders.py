"""Keys of which orders cross, and to whom."""

from __future__ import annotations

from inkwell_bridge.core.rulebook.schema.shapes import CODE, choice, group, referred, text

ORDERS = group(
    "Which orders cross, and as what.",
    {
        "become": choice("The document an order becomes.", "invoice", "sales order", "cash sale"),
        "arrive": choice("Whether the document is posted, or left as a draft to be looked over.", "posted", "draft"),
        "statuses": {
            "description": "Orders in these statuses cross; all others are left out and counted.",
            "type": "array",
            "minItems": 1,
            "maxItems": 50,
            "uniqueItems": True,
            "items": CODE,
            "examples": [["paid", "completed"]],
            "x-findings": ["REF-W008"],
        },
        "placed_from": text(
            "Orders placed before this day, in the company's time zone, are left out.",
            format="date",
            pattern="^[0-9]{4}-[0-9]{2}-[0-9]{2}$",
            example="2026-10-01",
        ),
        "only": referred(
            "condition",
            "Orders of which this is not true are left out, counted under /orders/only.",
            examples=['order.currency == "EUR"'],
            **{"x-findings": ["RULE-E005", "RULE-E006"]},
        ),
        "leave_out": {
            "description": "Orders of which one of these is true are left out, counted under its name.",
            "type": "array",
            "maxItems": 100,
            "items": group(
                "One reason to leave an order out.",
                {
                    "name": text("The name they are counted under.", longest=100),
                    "when": referred("condition", "What must be true."),
                },
                required=("name", "when"),
            ),
            "examples": [[{"name": "Samples", "when": 'order.total == 0 && "sample" in order.tags'}]],
            "x-findings": ["RULE-E005", "RULE-E006"],
        },
        "currencies": choice(
            "Whether orders in other currencies than the company's own are held, or cross where the books keep them.",
            "own",
            "kept",
            **{"x-findings": ["SRC-E003"]},
        ),
        "dated": choice(
            "The moment that the document's day comes from, in the company's time zone.",
            "placed",
            "paid",
            **{"x-findings": ["DATE-E001"]},
        ),
        "tax_point": choice(
            "The moment that the tax falls on; the document's own day where nothing is said.",
            "document",
            "placed",
            "paid",
            **{"x-findings": ["DATE-E001"]},
        ),
        "due_after_days": {
            "description": "The document is due so many days after its own day.",
            "type": "integer",
            "minimum": 0,
            "maximum": 365,
            "examples": [14],
        },
        "discounts": choice(
            "Whether an order's discounts reduce the lines, or stand on lines of their own below.",
            "in lines",
            "own lines",
        ),
        "kits": choice(
            "Whether a kit is one line, or a line for each article in it, its price shared out.",
            "as sold",
            "components",
            **{"x-findings": ["TAX-E004"]},
        ),
        "packs": choice("Whether two packs of six are two, or twelve pieces.", "as sold", "pieces"),
    },
    required=("statuses",),
)
CUSTOMERS = group(
    "Whom a document is made out to.",
    {
        "find_by": choice("What a contact is found by; case and spaces do not matter.", "email"),
        "not_found": choice("What happens when the books have no such contact.", "create", "hold", "house"),
        "without_email": referred(
            "code",
            "Code of the contact for buyers without an e-mail; without this rule they are held.",
            examples=["WEB-GUEST"],
            **{"x-findings": ["REF-E005", "CUST-E001"]},
        ),
        "house": referred(
            "code",
            "Code of the contact that stands for the buyers of house_for.",
            examples=["WEB-HOUSE"],
            **{"x-findings": ["REF-E005"]},
        ),
        "house_for": choice("Whose orders go to the house contact.", "nobody", "guests", "everybody"),
        "update": choice(
            "Whether a contact that exists takes on what changed at the shop; for the lane that carries customers.",
            "never",
            "always",
        ),
    },
    dependentRequired={"house_for": ["house"]},
)
