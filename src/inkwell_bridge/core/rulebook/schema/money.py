"""Keys of payments, refunds and the penny."""

from __future__ import annotations

from inkwell_bridge.core.rulebook.schema.shapes import choice, code_of, group, keyed_by, offered, referred, table

# Who may tell of money, where it is not the sales side.
_TELLER = {"enum": ["sales side", "provider", "bank"]}
# Money comes in on bank and clearing accounts; gift cards that are used, on what they are owed under.
_TYPES = ("asset", "bank", "liability")
_ACCOUNT, _OFFERED = code_of("books", "accounts", *_TYPES), offered("books", "accounts", *_TYPES)

PAYMENTS = {
    "description": "What happens to payments: left for later, or carried, each onto an account of its own.",
    "oneOf": [
        {"const": "later"},
        group(
            "Payments are carried.",
            {
                "accounts": group(
                    "The account that money comes in on: bank or clearing, for a gift card that of accounts: "
                    "gift_cards. An account by card brand goes before one by gateway, then method, tender, default.",
                    examples=[{"by_tender": {"card": "1250"}}],
                    properties={
                        "default": referred(
                            "code",
                            "The account where nothing below fits; without it, a hold.",
                            examples=["1250"],
                            **_OFFERED,
                        ),
                        "by_brand": table(
                            "By the brand of the card.",
                            _ACCOUNT,
                            example={"Kestrel": "1251"},
                            **keyed_by("source", "card-brands"),
                        ),
                        "by_gateway": table(
                            "By the gateway, in the shop's words.", _ACCOUNT, example={"Weirgate": "1250"}
                        ),
                        "by_method": table(
                            "By the method, in the shop's words.",
                            _ACCOUNT,
                            example={"bank": "1200"},
                            **keyed_by("source", "payment-methods"),
                        ),
                        "by_tender": table("By the tender.", _ACCOUNT, example={"card": "1250", "gift card": "2310"}),
                    },
                ),
                "told_by": group(
                    "Who is believed of money, so that it is posted once: the sales side; the provider, whose charges "
                    "are then told to their orders (lane charges); or the bank, whose lines are matched to the open "
                    "invoices. What the sales side says of money that another tells of posts nothing. In the same "
                    "order as accounts: brand, gateway, method, tender, default.",
                    {
                        "default": choice("Of money that nothing below fits.", "sales side", "provider", "bank"),
                        "by_brand": table(
                            "By the brand of the card.",
                            _TELLER,
                            example={"Kestrel": "sales side"},
                            **keyed_by("source", "card-brands"),
                        ),
                        "by_gateway": table(
                            "By the gateway, in the shop's words.", _TELLER, example={"Weirgate": "sales side"}
                        ),
                        "by_method": table(
                            "By the method, in the shop's words.",
                            _TELLER,
                            example={"bank": "bank"},
                            **keyed_by("source", "payment-methods"),
                        ),
                        "by_tender": table("By the tender.", _TELLER, example={"bank transfer": "bank"}),
                    },
                    required=(),
                    examples=[{"by_tender": {"bank transfer": "bank"}}],
                    **{"x-findings": ["PAY-E005"]},
                ),
                "vouchers": group(
                    "Vouchers for one known thing at one known rate, taxed when they were sold: on the document that "
                    "they pay they are deducted with that tax. Without it, a voucher is money like any other.",
                    {
                        "taxed_as": referred(
                            "code",
                            "The tax class that they were sold under.",
                            examples=["standard"],
                            **offered("source", "tax-classes"),
                        )
                    },
                    required=("taxed_as",),
                    examples=[{"taxed_as": "standard"}],
                    **{"x-findings": ["PLAN-E002", "TAX-E001", "PAY-E003"]},
                ),
            },
            required=("accounts",),
        ),
    ],
    "default": "later",
    "examples": [{"accounts": {"by_tender": {"card": "1250", "gift card": "2310"}}}],
    "x-findings": ["REF-E001", "REF-E002", "PAY-E002"],
}
REFUNDS = {
    "description": "What happens to refunds: left for later, or carried as credit notes and the money that went back.",
    "oneOf": [
        {"const": "later"},
        group(
            "Refunds are carried.",
            {
                "arrive": choice("Whether they are posted, or left as drafts to be looked over.", "posted", "draft"),
                "beyond_paid": choice(
                    "A refund of an amount that goes beyond what was charged or paid: a person looks, or it is a "
                    "kindness like any other. One of lines or carriage is a person's in any case.",
                    "hold",
                    "goodwill",
                ),
                "money_differs": choice(
                    "Money back that is not what was credited: a person looks, or the difference stays open on the "
                    "customer's account. A credit without any money is neither.",
                    "hold",
                    "leave open",
                ),
            },
        ),
    ],
    "default": "later",
    "examples": [{"arrive": "posted"}],
    "x-findings": ["REFUND-E001", "REFUND-E002", "REFUND-E003", "REFUND-E007", "REFUND-E008", "REFUND-E009"],
}
PENNY = group(
    "What happens when the books compute another total than the shop.",
    {
        "allowance": {
            "description": "The largest difference that is settled by rule, in the company's own currency; in others "
            "as many of their minor units.",
            "type": ["number", "integer"],
            "minimum": 0,
            "maximum": 100,
            "examples": [0.05],
            "x-findings": ["PENNY-E002"],
        },
        "by_currency": table(
            "The largest difference in other currencies.",
            {"type": ["number", "integer"], "minimum": 0, "maximum": 100_000},
            example={"JPY": 10},
        ),
        "goes_to": choice(
            "A line outside tax on the rounding account, or on the account of the largest line of goods; or a hold.",
            "rounding account",
            "largest line",
            "hold",
        ),
    },
    required=("allowance",),
)
