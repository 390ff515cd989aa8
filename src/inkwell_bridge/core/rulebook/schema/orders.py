"""Keys of which orders cross, and as what."""

from __future__ import annotations

from inkwell_bridge.core.rulebook.orders import FURTHER_NUMBERS
from inkwell_bridge.core.rulebook.schema.levels import levels
from inkwell_bridge.core.rulebook.schema.shapes import Json, choice, code_of, group, referred, text

_MOMENTS = ("placed", "paid", "dispatched")
_ARRIVE = choice("Whether the document is posted, or left as a draft to be looked over.", "posted", "draft",
                 **{"x-findings": ["CAN-E002"]})  # fmt: skip
_BECOME = choice("The document an order becomes.", "invoice", "sales order", "cash sale",
                 **{"x-findings": ["CAN-E001"]})  # fmt: skip


def _by_level(one: Json, description: str) -> Json:
    """One for all orders, or a default and what goes before it for some."""
    plain = {"enum": one["enum"]}
    other = one["enum"][1]
    said = {"description": "Where nothing below fits.", "examples": [other]}
    default = {**plain, "default": one["default"], **said}
    return {
        "description": f"{description} One for all, or a default and what goes before it (see Settings on levels).",
        "oneOf": [plain, group("A default, and what goes before it.", {"default": default, **levels(plain, other)})],
        "default": one["default"],
        "examples": [{"default": one["default"], "by_customer_group": {"trade": other}}],
        "x-findings": one["x-findings"],
    }


def _follows(description: str, example: str) -> Json:
    return group(
        description,
        {
            "when": referred("condition", "What must be true of the order.", examples=[example]),
            "dated": choice("The moment that its day comes from.", "dispatched", "placed", "paid"),
            "arrive": _ARRIVE,
        },
        required=("when",),
        examples=[{"when": example}],
        **{"x-findings": ["CAN-E001", "DATE-E001", "RULE-E005", "RULE-E006"]},
    )


ORDERS = group(
    "Which orders cross, and as what.",
    {
        "become": _by_level(_BECOME, _BECOME["description"]),
        "arrive": _by_level(_ARRIVE, _ARRIVE["description"]),
        "instead": {
            "description": "What some orders become in place of that, by conditions; the first that is true counts.",
            "type": "array",
            "maxItems": 50,
            "items": group(
                "One kind of order.",
                {
                    "name": text("What people call such orders.", longest=100, example="Trade"),
                    "when": referred("condition", "What must be true.", examples=['order.customer_group == "trade"']),
                    "become": _BECOME,
                    "arrive": _ARRIVE,
                },
                required=("name", "when"),
            ),
            "examples": [[{"name": "Trade", "when": 'order.customer_group == "trade"', "become": "sales order"}]],
            "x-findings": ["CAN-E001", "CAN-E002", "RULE-E005", "RULE-E006"],
        },
        "invoiced": _follows(
            "When a sales order is invoiced; without this rule the books do it. Its money crosses with the invoice.",
            'order.dispatched_on != ""',
        ),
        "delivered": _follows(
            "When what was paid ahead as a deposit is delivered: a final invoice turns it into a sale and deducts it, "
            "net and tax. Without this rule it stays a deposit.",
            '"workshop held" in order.tags',
        ),
        "deposits": choice(
            "Whether what is paid ahead for one known thing is taxed when it is paid, where the law makes a payment "
            "the tax point, or only once it is delivered; until then all of it is a debt outside tax.",
            "taxed when paid",
            "taxed when delivered",
            **{"x-findings": ["RULE-E009"]},
        ),
        "numbered": choice(
            "Whether invoices bear the books' own numbers, or the shop's order number as the legal one.",
            "books",
            "shop",
            **{"x-findings": ["CAN-E006"]},
        ),
        "statuses": {
            "description": "Orders in these statuses cross; all others are left out and counted.",
            "type": "array",
            "minItems": 1,
            "maxItems": 50,
            "uniqueItems": True,
            "items": code_of("source", "order-statuses"),
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
                    "name": text("The name they are counted under.", longest=100, example="Samples"),
                    "when": referred("condition", "What must be true.", examples=['"sample" in order.tags']),
                },
                required=("name", "when"),
            ),
            "examples": [[{"name": "Samples", "when": 'order.total == 0 && "sample" in order.tags'}]],
            "x-findings": ["RULE-E005", "RULE-E006"],
        },
        "currencies": choice(
            "Whether orders in other currencies than the company's own are held, cross in their currency where the "
            "books keep it, or cross in the company's own at their rate (see exchange_rates).",
            "own",
            "kept",
            "converted",
            **{"x-findings": ["SRC-E003", "RATE-E001", "RULE-E010"]},
        ),
        "dated": choice(
            "The moment that the document's day comes from, in the company's time zone.",
            *_MOMENTS,
            **{"x-findings": ["DATE-E001"]},
        ),
        "tax_point": choice(
            "The moment that the tax falls on; the document's own day where nothing is said.",
            "document",
            *_MOMENTS,
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
        "edited": choice(
            "What becomes of an order whose lines, prices, taxes, discounts or carriage change after it was posted: "
            "the difference is posted as further documents, or a person looks.",
            "amend",
            "hold",
            **{"x-findings": ["AMEND-E001", "AMEND-E002", "AMEND-E003", "AMEND-E004", "SRC-E011"]},
        ),
        "cancelled": choice(
            "What becomes of an order that is cancelled after it was posted: what is left of it is credited, or a "
            "person looks.",
            "credit",
            "hold",
            **{"x-findings": ["AMEND-E002", "AMEND-E004", "SRC-E011"]},
        ),
        "differences": choice(
            "Whether what went up stands on a further invoice and what went down on a credit note, or all of a "
            "difference on the one that its sum asks for.",
            "one each way",
            "one document",
        ),
        "further_numbers": text(
            "What further invoices and credit notes of one order are called, where the shop's number is the legal one: "
            "{number} is the order's own, {n} counts its invoices and credit notes.",
            longest=50,
            pattern="^[^{}]*\\{number\\}[^{}]*\\{n\\}[^{}]*$",
            default=FURTHER_NUMBERS,
            example="{number}/{n}",
        ),
        "written_back": group(
            "What the shop is told of an order once its documents stand in the books and are proved: a tag, a note, or "
            "both. Told again, nothing changes there; failing to tell never repeats a posting.",
            {
                "tag": text("A tag (or label) put on the order.", longest=100, example="in the books"),
                "note": text(
                    "A note on the order; {number} and {link} are those of its document in the books.",
                    longest=500,
                    example="Invoice {number}: {link}",
                ),
            },
            examples=[{"tag": "in the books", "note": "Invoice {number}: {link}"}],
            **{"x-findings": ["CAN-E012", "BACK-W001"]},  # type: ignore[arg-type]
        ),
    },
    required=("statuses",),
)
