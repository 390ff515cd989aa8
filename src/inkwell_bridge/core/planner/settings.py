"""What a document and each of its lines say besides amounts, by rule: texts, terms, warehouses, dimensions, fields."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Self

from inkwell_bridge.core.books import Dimension, DocumentLine, Field, Invoice, SalesOrder, TradeDocument
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.expressions import LINE, ORDER, EvaluationContext, evaluation_of_line
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.planner.plan import Reason
from inkwell_bridge.core.planner.planned_lines import PlannedLine
from inkwell_bridge.core.record import record
from inkwell_bridge.core.rulebook import OrderRulebook
from inkwell_bridge.core.rulebook.fields import FieldRule, Seen
from inkwell_bridge.core.rulebook.levels import NOTHING, Facts, Levelled, facts_of_charge, facts_of_order, rule_of
from inkwell_bridge.core.values import LONGEST_CODE


@record
class HeaderSettings:
    """The settings of the documents of one order; ``evaluation`` is what expressions see of it."""

    rules: OrderRulebook
    facts: Facts
    evaluation: EvaluationContext

    @classmethod
    def of(cls, order: Order, rules: OrderRulebook, evaluation: EvaluationContext) -> Self:
        """The settings of an order's documents."""
        facts = facts_of_order(order) if rules.asks_of_documents else NOTHING
        return cls(rules=rules, facts=facts, evaluation=evaluation)

    @property
    def seen(self) -> Seen:
        """What rules for fields see."""
        return Seen(ORDER, self.evaluation, self.facts)

    def field(self, rule: FieldRule | None) -> str:
        """What a rule for a field comes to; nothing where there is none."""
        return rule.of(self.seen) if rule else ""

    def fields(self) -> tuple[Field, ...]:
        """The fields that the books keep beside their own."""
        return further(self.rules.fields.further, self.seen)

    def header_codes(self) -> dict[str, str]:
        """What a document's header bears by rule, by the name of each field."""
        return {name: self.field(rule) for name, rule in self.rules.fields.header_codes.items()}

    def warehouse(self) -> str:
        """The warehouse of a whole sales order."""
        return self.rules.warehouses.of(self.facts)

    def reasons(self, document: TradeDocument, index: int) -> Iterator[Reason]:
        """Why everything that a document is put down to is as it is; and its terms and warehouse, where most sales have
        them otherwise."""
        at = f"/documents/{index}"
        for name, rule in self.rules.fields.header_codes.items():
            # Of a code that came to nothing there is nothing to say: the books take their own.
            if value := getattr(document, name):
                where, said = (f"{at}/{name}", ""), name.replace("_", " ")
                otherwise = [*why_otherwise(rule, f"/fields/{name}", self.facts, *where, what=said, value=value)]
                usual = Reason(target=f"{at}/{name}", sources=("",), rule=f"/fields/{name}",
                               text=f"The {said} is {value} by the rule for it.")  # fmt: skip
                yield from otherwise or (usual,)
        if isinstance(document, Invoice) and self.rules.fields.terms:
            yield from why_otherwise(self.rules.fields.terms, "/fields/terms", self.facts, f"{at}/terms", "",
                                     what="payment terms", value=document.terms)  # fmt: skip
        if isinstance(document, SalesOrder):
            yield from why_otherwise(self.rules.warehouses, "/warehouses", self.facts, f"{at}/warehouse", "",
                                     what="warehouse", value=document.warehouse)  # fmt: skip


@record
class LineSettings:
    """The settings of one line; ``seen`` is what rules for fields see of it, nothing for a line of no charge."""

    rules: OrderRulebook
    facts: Facts
    seen: Seen | None

    @classmethod
    def of(cls, part: PlannedLine, order: Order, rules: OrderRulebook, evaluation: EvaluationContext) -> Self:
        """The settings of a line to be."""
        fields, charge = rules.fields, part.charge
        # Gathered only where a rule asks: it is half of the work on a line.
        asked = bool(fields.line_text or fields.line_further or rules.dimensions)
        if not asked and not rules.warehouses.any:
            return cls(rules=rules, facts=NOTHING, seen=None)
        if charge is None:
            return cls(rules=rules, facts=facts_of_charge(order), seen=None)
        facts = facts_of_charge(order, product=charge.sku, product_type=charge.product_type, location=charge.location)
        seen = Seen(LINE, evaluation_of_line(charge.charge, order.currency, evaluation), facts) if asked else None
        return cls(rules=rules, facts=facts, seen=seen)

    def text(self) -> str:
        """The text of the line by rule; nothing where its title is to stand."""
        rule = self.rules.fields.line_text
        return rule.of(self.seen) if rule and self.seen is not None else ""

    def warehouse(self) -> str:
        """The warehouse that the goods leave from."""
        return self.rules.warehouses.of(self.facts)

    def fields(self) -> tuple[Field, ...]:
        """The fields that the books keep beside their own."""
        return further(self.rules.fields.line_further, self.seen) if self.seen is not None else ()

    def dimensions(self) -> tuple[Dimension, ...]:
        """The reporting dimensions that come to something."""
        if self.seen is None:
            return ()
        rules = self.rules.dimensions.items()
        values = ((name, rule.of(self.seen, longest=LONGEST_CODE)) for name, rule in rules)
        return tuple(Dimension(name=name, value=value) for name, value in values if value)

    def reasons(self, line: DocumentLine, target: str, source: str) -> Iterator[Reason]:
        """Why settings are as they are that most sales have otherwise; ``line`` stands at ``target``."""
        rules = self.rules
        if rules.warehouses.overrides:
            yield from why_otherwise(rules.warehouses, "/warehouses", self.facts, f"{target}/warehouse", source,
                                     what="warehouse", value=line.warehouse)  # fmt: skip
        for place, one in enumerate(line.dimensions):
            at = f"/dimensions/{escaped(one.name)}"
            yield from why_otherwise(rules.dimensions[one.name], at, self.facts, f"{target}/dimensions/{place}/value",
                                     source, what=one.name, value=one.value)  # fmt: skip


def why_otherwise(
    rule: Levelled, at: str, facts: Facts, target: str, source: str, *, what: str, value: str
) -> Iterator[Reason]:
    """The reason for a setting that this sale has otherwise than most; the usual needs none."""
    level = rule.exception(facts) if value else None
    if level is not None:
        text = f"The {what} is {value} for {level.said}."
        yield Reason(target=target, sources=(source,), rule=rule_of(at, level.name, level.fits), text=text)


def further(rules: Mapping[str, FieldRule], seen: Seen) -> tuple[Field, ...]:
    """The fields that the books keep beside their own; one that comes to nothing is none."""
    values = ((name, rule.of(seen)) for name, rule in rules.items())
    return tuple(Field(name=name, value=value) for name, value in values if value)
