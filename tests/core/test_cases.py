"""Orders and refunds worked out by hand, in files that anyone may extend: tests/core/cases."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from decimal import Decimal
from functools import cache
from pathlib import Path
from typing import Any

import pytest
import yaml

from inkwell_bridge.core.books import BooksCapabilities, DocumentLine, Invoice, MasterData, Payment, TradeDocument
from inkwell_bridge.core.commerce import Order, Refund
from inkwell_bridge.core.findings import Level
from inkwell_bridge.core.money import exact
from inkwell_bridge.core.planner import (
    Articles,
    LinkedItem,
    Outcome,
    Plan,
    PlanningContext,
    articles_of,
    plan_order,
    plan_refund,
)
from inkwell_bridge.core.rulebook import OrderRulebook, check, read

CASES = Path(__file__).parent / "cases"
BASE = (CASES / "base.yaml").read_text("utf-8")
PLACED = "2026-10-05T13:20:00+00:00"
Json = dict[str, Any]


class _Exact(yaml.SafeLoader):
    """Numbers as they are written: 9.90 stays 9.90."""


_Exact.add_constructor("tag:yaml.org,2002:float", lambda loader, node: str(node.value))
_Exact.add_constructor("tag:yaml.org,2002:int", lambda loader, node: str(node.value))
_Exact.add_constructor("tag:yaml.org,2002:timestamp", lambda loader, node: str(node.value))


def load(name: str) -> Any:
    """One file of cases."""
    return yaml.load((CASES / name).read_text("utf-8"), Loader=_Exact)  # noqa: S506 a safe loader that rounds nothing


def cases() -> Iterator[Any]:
    """Every case of every file."""
    for file in sorted(CASES.glob("*.yaml")):
        if file.name not in {"base.yaml", "books.yaml"}:
            for case in load(file.name):
                yield pytest.param(case, id=f"{file.stem}: {case['case']}")


EVERY = list(cases())


@cache
def books() -> MasterData:
    """The reference data of every case's books."""
    return MasterData.read(load("books.yaml"))


def rules(case: Json) -> OrderRulebook:
    """The base rules with what the case says otherwise, through the reader."""
    text = "rulebook: 1\nbased_on: base.yaml\n"
    own = case.get("rules")
    text += yaml.safe_dump(_numbers(own), allow_unicode=True, sort_keys=False) if own else ""
    book, _ = read(text, file="case.yaml", base=lambda name: BASE if name == "base.yaml" else None)
    return book.for_orders


def _numbers(own: Any) -> Any:
    """Days and counts are numbers in a rulebook, codes are not."""
    if isinstance(own, dict):
        return {
            name: int(value) if name in {"due_after_days", "JPY"} else _numbers(value) for name, value in own.items()
        }
    return [_numbers(one) for one in own] if isinstance(own, list) else own


def context(case: Json) -> PlanningContext:
    """All that a plan depends on."""
    return PlanningContext(
        source="web-shop",
        rulebook=rules(case),
        master_data=books(),
        capabilities=BooksCapabilities(
            tax="given",
            most_dimensions=2,
            warehouses=True,
            items=True,
            further_fields=case.get("further_fields", False),
        ),
        time_zone="Europe/London",
        country="GB",
        articles=articles_of(order(case["order"]), books(), links(case)) if "order" in case else Articles(),
        refunds_before_invoice=tuple(refund(one, order(case["order"])) for one in case.get("gone", [])),
    )


def links(case: Json) -> dict[str, tuple[LinkedItem, ...]]:
    """The link table of a case, by SKU."""
    return {
        sku: tuple(
            LinkedItem(code=one["item"], quantity=Decimal(one.get("count", "1")),
                       share=Decimal(one["part"]) if "part" in one else None)
            for one in items
        )
        for sku, items in case.get("links", {}).items()
    }  # fmt: skip


def taxes(said: Json) -> list[Json]:
    """The taxes of a charge: several, or one at 20 %."""
    if "taxes" in said:
        return [
            {"name": one["name"], "jurisdiction": one.get("area", ""), "rate_percent": one["rate"],
             "amount": one["sum"], "kept": one.get("kept", False)}
            for one in said["taxes"]
        ]  # fmt: skip
    if "tax" not in said:
        return []
    return [{"rate_percent": said.get("rate", "20"), "amount": said["tax"]}]


def charge(said: Json, identity: str, title: str) -> Json:
    """What every charge has in common."""
    return {
        "id": identity,
        "title": title,
        "amount": said["sum"],
        "discount": said.get("less", "0"),
        "tax_class": said.get("class", "standard" if "tax" in said or "taxes" in said else ""),
        "taxes": taxes(said),
    }


def _each(said: Json) -> str:
    """The price of a piece, as exact as a shop writes it."""
    return str((Decimal(said["sum"]) / (Decimal(said.get("count", "1")) or 1)).quantize(Decimal("0.00001")))


def line(said: Json, number: int) -> Json:
    """A line of an order."""
    return {
        **charge(said, said.get("id", str(number)), f"Line {number}"),
        "sku": said.get("sku", ""),
        "barcode": said.get("barcode", ""),
        "product_type": said.get("type", ""),
        "nature": said.get("nature", "goods"),
        "location": said.get("location", ""),
        "quantity": said.get("count", "1"),
        "pack_of": said.get("pack", "1"),
        "unit_price": said.get("price") or _each(said),
        "components": [
            {"sku": one["sku"], "quantity": one["count"], "share": one.get("part"), "tax_class": one.get("class", "")}
            for one in said.get("contents", [])
        ],
    }


def payment(said: Json, number: int) -> Json:
    """Money that moved."""
    tender = said["tender"]
    return {
        "transaction": f"wg_{number}",
        "method": said.get("method", tender),
        "tender": tender,
        "brand": said.get("brand", ""),
        "gateway": said.get("gateway", ""),
        "amount": said["sum"],
        "state": said.get("state", "received"),
        "paid_at": said.get("at", PLACED),
    }


def whole_tax(said: Json, charges: list[Json]) -> Decimal:
    """The whole tax that the shop told: the sum of all, where nothing else is said."""
    if "whole_tax" in said:
        return Decimal(said["whole_tax"])
    return sum((Decimal(one["amount"]) for part in charges for one in part["taxes"]), Decimal(0))


def order(said: Json) -> Order:
    """The order of a case; its totals are the sums of what stands in it."""
    inclusive = said.get("prices", "with tax") == "with tax"
    lines = [line(one, number) for number, one in enumerate(said["lines"], start=1)]
    shipping = [charge(said["carriage"], "carriage", "Parcel")] if "carriage" in said else []
    extras = [{**charge(one, f"extra {number}", one["kind"]), "kind": one["kind"]}
              for number, one in enumerate(said.get("extras", []))]  # fmt: skip
    charges = [*lines, *shipping, *extras]
    tax = whole_tax(said, charges)
    total = sum((Decimal(part["amount"]) - Decimal(part["discount"]) for part in charges), Decimal(0))
    off = [one if isinstance(one, dict) else {"sum": one} for one in said.get("less", [])]
    total -= sum((Decimal(one["sum"]) for one in off), Decimal(0))
    total += Decimal(said.get("rounding", "0")) + (Decimal(0) if inclusive else tax)
    buyer = {"email": "Wren@Loom.example", "name": "Wren Dalby", **said.get("buyer", {})}
    billing = {"country": buyer.pop("billing_country", ""), "postcode": buyer.pop("postcode", "")}
    sent = [{"id": "1", "kind": "dispatched", "at": said["sent"]}] if "sent" in said else []
    return Order.read({
        "id": "501", "number": "MW-501", "status": said.get("status", "paid"), "channel": said.get("channel", ""),
        "placed_at": said.get("placed", PLACED), "changed_at": said.get("changed", PLACED),
        "currency": said.get("currency", "GBP"),
        "prices_include_tax": inclusive, "treatment": said.get("treatment"), "country": said.get("country", "GB"),
        "customer_group": said.get("group", ""), "payment_terms": said.get("terms", ""), "tags": said.get("tags", []),
        "attributes": [{"name": name, "value": value} for name, value in said.get("attributes", {}).items()],
        "buyer": {**buyer, "billing": billing if any(billing.values()) else None}, "history": sent,
        "lines": lines, "shipping": shipping, "extras": extras, "cash_rounding": said.get("rounding", "0"),
        "discounts": [{"title": "Off", "amount": one["sum"], "applies_to": one.get("for", [])} for one in off],
        "payments": [payment(one, number) for number, one in enumerate(said.get("paid", []), start=1)],
        "tax_total": str(tax), "total": str(total),
    })  # fmt: skip


def refund(said: Json, of: Order) -> Refund:
    """The refund of a case."""
    lines = [{"line": one["line"], "sku": one.get("sku", ""), "quantity": one.get("count", "1"),
              "amount": one["sum"], "taxes": taxes(one)} for one in said.get("lines", [])]  # fmt: skip
    shipping = [charge(said["carriage"], "carriage", "Parcel")] if "carriage" in said else []
    goodwill = [charge(one, f"goodwill {number}", "Sorry") for number, one in enumerate(said.get("goodwill", []))]
    charges = [*lines, *shipping, *goodwill]
    return Refund.read({
        "id": "801", "number": "MW-R-801", "order_id": of.id, "order_number": of.number,
        "refunded_at": said.get("at", PLACED),
        "changed_at": PLACED, "currency": of.currency, "prices_include_tax": of.prices_include_tax, "lines": lines,
        "shipping": shipping, "goodwill": goodwill,
        "payments": [payment(one, 80 + number) for number, one in enumerate(said.get("paid", []), start=1)],
        "tax_total": str(whole_tax(said, charges)),
        "total": said.get("total") or str(sum((Decimal(part["amount"]) for part in charges), Decimal(0))
                     + Decimal(said.get("rounding", "0"))
                     + (Decimal(0) if of.prices_include_tax else whole_tax(said, charges))),
        "cash_rounding": said.get("rounding", "0"),
    })  # fmt: skip


def planned(case: Json) -> Plan:
    """The plan of a case's order or refund."""
    given = order(case["order"])
    if "back" not in case:
        return plan_order(given, context(case))
    return plan_refund(refund(case["back"], given), given, context(case),
                       refunded_before=[refund(one, given) for one in case.get("before", [])],
                       final_invoice="final_invoice" not in case["back"])  # fmt: skip


def shown(plan: Plan, currency: str, place: int = 0) -> list[str]:
    """The lines of the sale (or of the document in another place), as the files write them."""
    document = plan.documents[place]
    assert isinstance(document, TradeDocument)
    return [f"{one.kind} {one.account} {one.tax_code} {exact(one.net, currency)} {exact(one.tax, currency)}"
            for one in document.lines]  # fmt: skip


def as_written(expected: list[str], currency: str) -> list[str]:
    """The lines of a file with every digit of the currency."""
    made = []
    for text in expected:
        *words, net, tax = text.split()
        made.append(" ".join([*words, str(exact(net, currency)), str(exact(tax, currency))]))
    return made


@pytest.mark.parametrize("case", EVERY)
def test_it_comes_out_as_worked_out_by_hand(case: Json) -> None:
    """Outcome, lines, money, what is withheld and what stays open."""
    assert case["work"], "each case says how it was worked out"
    plan = planned(case)
    said = [finding.id for finding in plan.findings if finding.level is not Level.NOTE]
    if "left_out" in case:
        assert (plan.outcome, plan.left_out_by) == (Outcome.LEFT_OUT, case["left_out"])
        return
    if "held" in case:
        assert (plan.outcome, case["held"] in said, plan.cause is not None) == (Outcome.HOLD, True, True), plan.findings
        return
    assert plan.outcome is Outcome.CARRY, plan.findings
    currency = case["order"].get("currency", "GBP")
    assert shown(plan, currency) == as_written(case["lines"], currency)
    money = [one for one in plan.documents if isinstance(one, Payment)]
    if "money" in case:
        assert [f"{one.account} {one.amount}" for one in money] == case["money"]
        assert plan.open_balance == Decimal(case["open"])
    kept = sum((part.amount for part in plan.withheld), Decimal(0))
    assert kept == Decimal(case.get("kept", "0"))
    _others(case, plan, [finding.id for finding in plan.findings])


def _others(case: Json, plan: Plan, said: list[str]) -> None:
    """What only some of the cases ask for."""
    sale = plan.documents[0]
    assert isinstance(sale, TradeDocument)
    if "says" in case:
        assert [one for one in said if not one.startswith("PENNY-N")] == case["says"]
    _documents(case, plan)
    for name, value in case.get("header", {}).items():
        assert str(getattr(sale, name)) == value
    if "contact" in case:
        assert plan.contact is not None
        assert case["contact"] in {plan.contact.house_code, plan.contact.email}
    for name, value in case.get("buyer", {}).items():
        assert getattr(plan.contact, name) == value
    if "further" in case:
        assert " ".join(f"{one.name}={one.value}" for one in sale.fields) == case["further"]
    for step, key in case.get("keys", {}).items():
        assert plan.contact is not None
        assert plan.contact.key(step) == key
    for name, of in OF_LINES.items():
        if name in case:
            assert [of(one) for one in sale.lines] == case[name]


def _documents(case: Json, plan: Plan) -> None:
    """What an order became besides its first document."""
    made = [one for one in plan.documents if isinstance(one, TradeDocument)]
    if "documents" in case:
        assert [f"{one.role} {one.date} {one.gross:.2f}" for one in made] == case["documents"]  # type: ignore[attr-defined]
    if "then" in case:
        assert shown(plan, "GBP", len(made) - 1) == as_written(case["then"], "GBP")
    for name in ("then_counts", "then_warehouses"):
        if name in case:
            assert [OF_LINES[name.removeprefix("then_")](one) for one in made[-1].lines] == case[name]
    if "untaxed" in case:
        assert (plan.untaxed or Decimal(0)) == Decimal(case["untaxed"])
    if "drafts" in case:
        assert [one.role for one in plan.documents if one.external_reference in plan.drafts] == case["drafts"]


OF_LINES: dict[str, Callable[[DocumentLine], str]] = {
    "counts": lambda one: f"{one.quantity.normalize():f}",
    "texts": lambda one: one.text,
    "items": lambda one: one.item,
    "warehouses": lambda one: one.warehouse,
    "orders": lambda one: one.order_number,
    "line_further": lambda one: " ".join(f"{part.name}={part.value}" for part in one.fields),
    "dimensions": lambda one: " ".join(f"{part.name}={part.value}" for part in one.dimensions),
}


@pytest.mark.parametrize("case", EVERY)
def test_its_rules_fit_the_books(case: Json) -> None:
    """No case rests on an account or a code that the books do not have, but those that say so."""
    assert [finding.id for finding in check(rules(case), books())] == case.get("refused", [])


def test_there_are_enough_of_them() -> None:
    """Eighty and more, each with its working."""
    every = [param.values[0] for param in EVERY]
    assert len(every) >= 80
    assert len({case["case"] for case in every}) == len(every)
    assert isinstance(plan_order(order(every[0]["order"]), context(every[0])).documents[0], Invoice)
