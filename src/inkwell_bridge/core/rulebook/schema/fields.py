"""Keys of fields, dimensions and warehouses."""

from __future__ import annotations

from inkwell_bridge.core.rulebook.schema.levels import levels
from inkwell_bridge.core.rulebook.schema.shapes import Json, code_of, group, offered, referred, table, text

_FINDINGS = {"x-findings": ["RULE-E005", "RULE-E006"]}
_PUT_DOWN = {"x-findings": ["CAN-E011", "REF-E012", "RULE-E005", "RULE-E006"]}
_FURTHER = {"x-findings": ["CAN-E010", "RULE-E005", "RULE-E006"]}
_LEVELS = levels({"$ref": "#/$defs/code"}, "FAIR")
FIELD: Json = {
    "oneOf": [
        {"type": "string", "minLength": 1, "maxLength": 500},
        {
            "type": "object",
            "additionalProperties": False,
            "properties": {
                "fixed": text("The same value always.", example="Web shop"),
                "from": referred("expression", "What it is copied or computed from.", examples=["order.channel"]),
                "template": text("A text with an expression, or the name of a part, in braces; a doubled brace "
                                 "stands for itself.", example="Order {order.number} of {day}"),
                "parts": table("Parts of a template that are looked up or written in a way of their own.",
                               {"$ref": "#/$defs/field"},
                               example={"day": {"from": "order.placed_on", "date": "d MMMM yyyy"}}),
                "table": table("From what is met to the value.", {"type": "string", "maxLength": 500},
                               example={"web": "Web shop"}),
                "default": text("The value where the rest gives none.", example="Other"),
                "date": text("A date written by this pattern of Unicode CLDR.", longest=60, example="d MMMM yyyy"),
                "amount": text("An amount written by this pattern of Unicode CLDR.", longest=60,
                               example="#,##0.00"),
                "language": text("The language that dates and amounts are written in; else that of in_language, or "
                                 "English.", longest=35, example="en-GB"),
                "in_language": table("The whole field for buyers of another language (BCP 47; de is for de-AT as "
                                     "well).", {"$ref": "#/$defs/field"},
                                     example={"de": {"template": "Bestellung {order.number}"}}),
                **_LEVELS,
            },
            "anyOf": [{"required": [one]} for one in ("fixed", "from", "template", "default", *_LEVELS)],
        },
    ]
}  # fmt: skip
FIELDS = group(
    "Fields of the documents; the order's number, its link and our own reference stand there always.",
    {
        "text": referred(
            "field", "The document's own text.", examples=[{"from": '"Sold at " + order.channel'}], **_FINDINGS
        ),
        "terms": referred(
            "field",
            "Code of the payment terms.",
            examples=[{"from": "order.payment_terms", "table": {"30 days": "NET30"}, "default": "CASH"}],
            **_FINDINGS,
        ),
        "organisational_unit": referred(
            "field", "Code of the organisational unit that a sale is put down to.",
            examples=[{"from": "order.channel", "table": {"fair": "TRADE"}, "default": "RETAIL"}], **_PUT_DOWN,
        ),
        "price_list": referred(
            "field", "Code of the price list that a sale was made by.",
            examples=[{"from": "order.customer_group", "table": {"trade": "TRADE"}, "default": "RETAIL"}], **_PUT_DOWN,
        ),
        "delivery_method": referred(
            "field", "Code of the way that the goods go.",
            examples=[{"from": "order.shipping_method", "table": {"parcel": "PARCEL"}, "default": "COLLECT"}],
            **_PUT_DOWN,
        ),
        "sales_person": referred(
            "field", "Code of whoever sold it.", examples=[{"from": "order.channel", "table": {"fair": "IF"}}],
            **_PUT_DOWN,
        ),
        "language": referred(
            "field", "Language that the document is printed in, by its code in the books.",
            examples=[{"default": "en-GB", "by_language": {"de": "de-DE"}}], **_PUT_DOWN,
        ),
        "further": table(
            "Fields that the books keep beside their own, by their name there.", {"$ref": "#/$defs/field"},
            example={"channel": {"from": "order.channel"}}, **_FURTHER,
        ),
        "line_further": table(
            "The same on each line.", {"$ref": "#/$defs/field"},
            example={"colour": {"from": 'has(line.properties.colour) ? line.properties.colour : ""'}}, **_FURTHER,
        ),
        "line_text": referred(
            "field", "The text of a line; else its title.", examples=[{"from": 'line.sku + ": " + line.title'}],
            **_FINDINGS,
        ),
    },
)  # fmt: skip
DIMENSIONS = table(
    "Reporting dimensions of the books, each with where its value comes from, line by line.",
    {"$ref": "#/$defs/field"},
    example={"channel": {"from": "order.channel", "table": {"web shop": "shop"}, "default": "shop"}},
    **{"x-findings": ["REF-E006", "REF-E007", "RULE-E005", "RULE-E006"]},
)
WAREHOUSES: Json = {
    **group(
        "The books' warehouse that goods leave from: mostly by the sales side's location, or by what else goes before "
        "that (see Settings on levels).",
        {
            "default": text("The warehouse where nothing below fits.", longest=120, example="DYEHOUSE",
                            **offered("books", "warehouses")),
            **levels(code_of("books", "warehouses"), "MILL"),
        },
    ),
    "x-findings": ["REF-E008"],
}  # fmt: skip
