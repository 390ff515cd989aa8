"""Keys of tax codes."""

from __future__ import annotations

from inkwell_bridge.core.commerce import Nature, Treatment
from inkwell_bridge.core.rulebook.schema.levels import BY
from inkwell_bridge.core.rulebook.schema.shapes import (
    MOST_ENTRIES,
    choice,
    code_of,
    group,
    keyed_by,
    offered,
    referred,
    text,
)

_OFFERED = {
    "product": offered("source", "products"),
    "product_type": offered("source", "product-types"),
    "customer_group": offered("source", "customer-groups"),
    "location": offered("source", "locations"),
}
# A country is that of the tax, and how a sale is taxed one of a few words: both are said below in their own way. What
# language somebody speaks is no ground for a tax.
_BY_LEVEL = {
    level: text(f"{meaning[0].upper()}{meaning[1:]}.", longest=120, example=met, **_OFFERED.get(level, {}))
    for level, (meaning, met) in BY.items()
    if level not in {"treatment", "country", "language"}
}
TAX_CODES = group(
    "Tax codes of the books.",
    {
        "by_class": {
            "description": "From each tax class of the shop to a tax code of the books.",
            "type": "object",
            "minProperties": 1,
            "maxProperties": MOST_ENTRIES,
            "additionalProperties": code_of("books", "tax-codes"),
            **keyed_by("source", "tax-classes"),
            "examples": [{"standard": "S20", "zero": "Z00"}],
            "x-findings": ["REF-E003", "REF-W007", "REF-W009", "TAX-E001"],
        },
        "exceptions": {
            "description": "Codes that go before by_class; the first that a line fits counts.",
            "type": "array",
            "maxItems": MOST_ENTRIES,
            "items": group(
                "What a line must fit, all of it; what is not named fits any.",
                {
                    **_BY_LEVEL,
                    "treatment": {
                        "description": "How the sales side says that the sale is taxed.",
                        "enum": [str(one) for one in Treatment],
                        "examples": ["one-stop scheme"],
                    },
                    "country": text(
                        "Where the goods go (ISO 3166); for what is digital, where the buyer lives.",
                        pattern="^[A-Z]{2}$",
                        longest=2,
                        example="DE",
                    ),
                    "tax_class": referred(
                        "code", "The shop's tax class.", examples=["books"], **offered("source", "tax-classes")
                    ),
                    "nature": {
                        "description": "What kind of supply it is.",
                        "enum": [str(one) for one in Nature],
                        "examples": ["digital"],
                    },
                    "code": referred("code", "The tax code.", examples=["DE19"], **offered("books", "tax-codes")),
                },
                required=("code",),
            ),
            "examples": [[{"treatment": "export", "code": "X00"}]],
            "x-findings": ["REF-E003"],
        },
        "outside": referred(
            "code",
            "The code outside tax, for rounding lines and for what bears no tax.",
            examples=["OUT"],
            **{"x-findings": ["REF-E003", "REF-E004"]},
            **offered("books", "tax-codes"),
        ),
        "carry": choice(
            "Whether each line bears its tax, the order's whole tax stands on one line of accounts: tax, or the books "
            "compute it from the codes, rounding as they do; a difference goes where penny says.",
            "on lines",
            "one line",
            "books compute",
            **{"x-findings": ["CAN-E009", "TAX-E005"]},
        ),
        "amounts": choice(
            "Whether taxes stand as the shop charged them line by line, or are worked out from the rates of the codes, "
            "such as where the shop tells the whole tax alone.",
            "as charged",
            "worked out",
            **{"x-findings": ["TAX-E005", "TAX-N001"]},
        ),
        "rounded": choice(
            "Where tax is worked out of a price that includes it: the figure that is rounded; the other is what "
            "remains. 9.99 at 20 % is 1.67 of tax and 8.32, or 8.33 and 1.66 of tax.",
            "tax",
            "net",
        ),
        "rounded_by": choice(
            "Whether tax that is worked out is rounded line by line, or once for all lines of a rate and then shared.",
            "line",
            "document",
        ),
        "as_lines": {
            "description": "Classes whose taxes each stand on a line of their own of accounts: tax, such as state, "
            "county and city tax.",
            "type": "array",
            "maxItems": 50,
            "uniqueItems": True,
            "items": code_of("source", "tax-classes"),
            "examples": [["us-sales"]],
        },
        "kept": choice(
            "What becomes of a tax that a marketplace collects and remits itself: it never is the seller's.",
            "hold",
            "leave out",
            **{"x-findings": ["PLAN-E002"]},
        ),
        "other_rates": choice(
            "What becomes of a line whose tax, as the shop charged it, is not that of its code: another rate, none "
            "under a code that has one, some under a code that has none. A penny of rounding is no other rate.",
            "hold",
            "warn",
            **{"x-findings": ["TAX-E007", "TAX-W007"]},
        ),
        "tax_numbers": choice(
            "Whether the form of a buyer's tax number is held against how the sale was taxed; that it is registered "
            "is never proved by its form.",
            "check",
            "trust",
            **{"x-findings": ["TAX-W005", "TAX-W006"]},
        ),
    },
    required=("by_class", "outside"),
)
