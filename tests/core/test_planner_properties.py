"""Any order under any rules: nothing is lost, nothing is guessed, nothing escapes."""

from __future__ import annotations

import json
from decimal import Decimal
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from inkwell_bridge.core.books import Payment, TradeDocument
from inkwell_bridge.core.commerce import Component, Nature, Order, OrderLine
from inkwell_bridge.core.findings import Level
from inkwell_bridge.core.planner import (
    LinkedItem,
    Outcome,
    Plan,
    PlanningContext,
    articles_of,
    is_final_invoice,
    plan_order,
)
from inkwell_bridge.core.rulebook import OrderRulebook, read
from inkwell_bridge.core.rulebook.accounts import ALLOWED_TYPES, OF_MONEY
from inkwell_bridge.core.rulebook.fields import FieldRule
from inkwell_bridge.core.values import Value
from tests.core.test_cases import BASE, books, context
from tests.support.orders import orders

OPTIONAL = sorted(set(ALLOWED_TYPES) - {"sales", "shipping", "rounding"} - OF_MONEY)


def mostly(usual: Any, *others: Any) -> st.SearchStrategy[Any]:
    """What orders seldom trip on, most of the time: else hardly one of them would be carried."""
    return st.sampled_from([*[usual] * 4 * max(len(others), 1), *others])


@st.composite
def rulebooks(draw: st.DrawFn) -> OrderRulebook:
    """Rules of every kind, over the base of the cases; some roles have no account."""
    pick = draw
    rules: dict[str, Any] = {
        "rulebook": 1,
        "based_on": "base.yaml",
        "orders": {
            "become": pick(st.sampled_from(["invoice", "sales order", "cash sale"])),
            "currencies": pick(mostly("kept", "own")),
            "discounts": pick(st.sampled_from(["in lines", "own lines"])),
            "kits": pick(st.sampled_from(["as sold", "components"])),
            "packs": pick(st.sampled_from(["as sold", "pieces"])),
            "dated": pick(mostly("placed", "paid", "dispatched")),
            "instead": pick(st.lists(st.fixed_dictionaries({
                "name": st.just("Some"), "when": st.sampled_from(["order.total > 4000", "buyer.is_guest"]),
                "become": st.sampled_from(["invoice", "sales order"]), "arrive": st.sampled_from(["posted", "draft"]),
            }), max_size=2)),
            **pick(st.dictionaries(st.sampled_from(["invoiced", "delivered"]), follows())),
            **pick(mostly({}, {"deposits": "taxed when delivered", "delivered": {"when": "true", "dated": "placed"}})),
            "only": pick(mostly("order.lines.all(l, l.amount >= 0)", "order.lines.exists(l, l.nothing == 1)",
                                "order.total > 5000")),
        },
        "tax_codes": {
            "carry": pick(st.sampled_from(["on lines", "one line", "books compute"])),
            "amounts": pick(st.sampled_from(["as charged", "worked out"])),
            "rounded": pick(st.sampled_from(["tax", "net"])),
            "rounded_by": pick(st.sampled_from(["line", "document"])),
            "as_lines": pick(st.lists(st.sampled_from(["standard", "reduced"]), unique=True)),
            "kept": pick(mostly("leave out", "hold")),
            "other_rates": pick(mostly("warn", "hold")),
        },
        "accounts": dict.fromkeys(pick(mostly([], OPTIONAL[:4], OPTIONAL[4:]))),
        "penny": {"allowance": pick(st.sampled_from([0, 0.05, 100])),
                  "goes_to": pick(st.sampled_from(["rounding account", "largest line", "hold"]))},
        "payments": pick(st.sampled_from(["later", {"accounts": {"default": "1250"}}, {"accounts": {}},
                                          {"accounts": {"default": "1250"}, "vouchers": {"taxed_as": "standard"}}])),
        "fields": {"further": {"note": {"template": "{order.number} {{{day}}}", "parts": {"day": {
            "from": "order.placed_on", "date": "d MMM"}}}}},
        "items": pick(st.fixed_dictionaries({
            "find_by": st.sampled_from(["sku", ["barcode"], ["link", "sku"]]), "catch_all": st.just("SUNDRY"),
            "not_found": mostly("text line", "catch-all", "hold"),
        })),
        "customers": {"house": "WEB-HOUSE", "house_for": pick(st.sampled_from(["nobody", "guests", "everybody"]))},
    }  # fmt: skip
    return read(json.dumps(rules), base=lambda name: BASE)[0].for_orders


def follows() -> st.SearchStrategy[dict[str, str]]:
    """When a document follows, and how it is dated."""
    return st.fixed_dictionaries({
        "when": st.sampled_from(["true", "false", 'order.dispatched_on != ""', "order.paid_total == order.total"]),
        "dated": mostly("placed", "paid", "dispatched"), "arrive": st.sampled_from(["posted", "draft"]),
    })  # fmt: skip


@st.composite
def odd_orders(draw: st.DrawFn) -> Order:
    """Orders that add up, with extras, taxes that are kept, kits, packs, and money in every state."""
    made = draw(orders())
    unit = Decimal(1).scaleb(-{"JPY": 0, "GBP": 2, "KWD": 3}[made.currency])
    lines = tuple(
        line.model_copy(update={
            "taxes": tuple(tax.model_copy(update={"kept": draw(st.booleans())}) for tax in line.taxes),
            "pack_of": Decimal(draw(st.integers(1, 12))),
            "nature": draw(st.sampled_from([Nature.GOODS, Nature.DIGITAL, Nature.VOUCHER, Nature.DEPOSIT])),
            "components": draw(mostly((), kit(None), kit(unit))),
            "sku": draw(mostly("YRN-MERINO", "", "NEEDLE", "SET", "NO-SUCH")),
            "barcode": draw(mostly("", "4006381333931")),
        })
        for line in made.lines
    )  # fmt: skip
    back = unit * draw(mostly(0, 1, 300))
    if back:
        # Something taken back in the same order.
        taken = {"id": "back", "title": "Back", "quantity": "1", "unit_price": -back, "amount": -back,
                 "tax_class": "zero"}  # fmt: skip
        lines = (*lines, OrderLine.model_validate(taken))
    off = [
        {**one.model_dump(), "applies_to": draw(st.lists(st.sampled_from([line.id for line in lines]), unique=True))}
        for one in made.discounts
    ]
    tip, rounding = unit * draw(st.integers(0, 500)), unit * draw(st.integers(-2, 2))
    extras = [{"id": "tip", "title": "Tip", "kind": draw(st.sampled_from(["tip", "donation", "duty"])),
               "amount": str(tip)}] if tip else []  # fmt: skip
    total = made.total + tip + rounding - back
    money = [
        {"transaction": f"wg_{number}", "method": "card", "amount": str(abs(total) / 2 // unit * unit),
         "tender": draw(st.sampled_from(["card", "marketplace", "gift card", "voucher", "other"])),
         "state": draw(st.sampled_from(["received", "promised", "failed"])), "paid_at": made.placed_at}
        for number in range(draw(st.integers(0, 2)))
    ]  # fmt: skip
    said = made.model_copy(update={"lines": lines}).model_dump()
    sent = [{"id": "1", "kind": "dispatched", "at": made.placed_at}] if draw(st.booleans()) else []
    return Order.read(
        {
            **said,
            "discounts": off,
            "history": sent,
            "extras": extras,
            "cash_rounding": rounding,
            "total": total,
            "payments": money,
        }
    )


def kit(unit: Decimal | None) -> tuple[Component, ...]:
    """Two articles, with shares of a price or without, the second in a class of its own."""
    return (
        Component(sku="A", quantity=Decimal(1), share=unit and 2 * unit),
        Component(sku="B", quantity=Decimal(2), share=unit, tax_class="zero"),
    )


def planned(order: Order, rules: OrderRulebook) -> tuple[Plan, PlanningContext]:
    """The plan of an order under rules, and what it was made under."""
    links = {"SET": (LinkedItem(code="YRN-MERINO", quantity=Decimal(2)), LinkedItem(code="BOWL-OAK")), "NO-SUCH": ()}
    articles = articles_of(order, books(), links)
    given = context({}).model_copy(update={"rulebook": rules, "articles": articles})
    return plan_order(order, given), given


@settings(max_examples=40)
@given(odd_orders(), rulebooks())
def test_every_order_under_every_rules_comes_to_a_plan(order: Order, rules: OrderRulebook) -> None:
    """A plan that conserves, or findings that say why not: never anything else, and twice the same bytes."""
    found, given_ = planned(order, rules)
    assert "PLAN-E001" not in {finding.id for finding in found.findings}, found.findings
    assert found.written() == plan_order(order, given_).written()
    match found.outcome:
        case Outcome.LEFT_OUT:
            assert found.left_out_by
        case Outcome.HOLD:
            assert found.cause
            assert any(finding.level is Level.ERROR and finding.hint for finding in found.findings)
        case Outcome.CARRY:
            _whole(order, found)


@settings(max_examples=30)
@given(odd_orders(), rulebooks(), st.sampled_from(["{order.link}", "{order.link}{order.link}", "{line.title}"]))
def test_the_longest_words_come_to_a_plan_too(order: Order, rules: OrderRulebook, template: str) -> None:
    """Every name and text of the order as long as it may be, and rules that write them one after the other."""
    field = FieldRule.model_validate({"template": template})
    of_lines = {"line_text": field, "line_further": {"note": field}}
    wordy = rules.model_copy(update={
        "fields": rules.fields.model_copy(update=of_lines), "dimensions": {"region": field}
    })  # fmt: skip
    for book in (rules, wordy):
        found, _ = planned(stretched(order), book)
        assert found.outcome is Outcome.LEFT_OUT or found.findings or found.documents
        assert Plan.read(found.written()).documents == found.documents


def stretched(value: Any) -> Any:
    """A value with each of its free texts as long as its schema lets it be."""
    if isinstance(value, tuple):
        return tuple(stretched(part) for part in value)
    if not isinstance(value, Value):
        return value
    update = {}
    for name, field in type(value).model_fields.items():
        met, longest = getattr(value, name), [one.max_length for one in field.metadata if hasattr(one, "max_length")]
        free = longest and type(met) is str and name not in {"tax_class", "currency", "status", "sku"}
        update[name] = met.ljust(longest[0], "x") if free else stretched(met)
    return value.model_copy(update=update)


def _whole(order: Order, found: Plan) -> None:
    """Both equations by plain sums, and no account of a type that its role does not allow."""
    sales = [one for one in found.documents if isinstance(one, TradeDocument)]
    money = found.documents[len(sales) :]
    withheld = sum((part.amount for part in found.withheld), Decimal(0))
    withheld += sum((part.gross for part in found.deducted), Decimal(0))
    for sale in sales:
        ends = is_final_invoice(sale)
        assert sale.net + sale.tax == (0 if ends else order.total - withheld)
    if money:
        paid = sum((one.amount for one in money if isinstance(one, Payment)), Decimal(0))
        assert paid + withheld + (found.open_balance or Decimal(0)) == order.total
    for line in (line for sale in sales for line in sale.lines):
        account = books().account(line.account)
        assert account is not None
        assert account.type in {"income", "liability"}
        assert books().tax_code(line.tax_code) is not None
    assert all(len({line.line_reference for line in sale.lines}) == len(sale.lines) for sale in sales)


@settings(max_examples=40)
@given(odd_orders(), rulebooks())
def test_no_amount_ever_is_a_float(order: Order, rules: OrderRulebook) -> None:
    """Neither in the plan nor in what is written of it."""
    found, _ = planned(order, rules)
    said = json.loads(found.written(), parse_float=_refuse)
    for document in said["documents"]:
        for line in document.get("lines", []):
            assert all(isinstance(line[name], str) for name in ("net", "tax", "unit_price", "quantity"))


def _refuse(text: str) -> Any:
    raise AssertionError(f"{text} is a binary fraction")


@settings(max_examples=40)
@given(odd_orders(), rulebooks())
def test_every_amount_has_a_reason(order: Order, rules: OrderRulebook) -> None:
    """With the rule that put it there, and where it was taken from."""
    found, _ = planned(order, rules)
    if found.outcome is not Outcome.CARRY:
        return
    reasons = {reason.target: reason for reason in found.reasons}
    for place, document in enumerate(found.documents):
        for number, _line in enumerate(getattr(document, "lines", ())):
            reason = reasons[f"/documents/{place}/lines/{number}/net"]
            assert reason.rule
            assert reason.text
            assert reason.sources
        if isinstance(document, Payment):
            assert reasons[f"/documents/{place}/account"].rule.startswith("/payments/accounts")
