"""A rulebook that says what somebody did by hand: learnt from orders and their documents, and held against them."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from inkwell_bridge.core.books import BooksCapabilities, MasterData
from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.examples.agreement import differences
from inkwell_bridge.core.examples.example import Example
from inkwell_bridge.core.examples.learning import Learnt, rules_of
from inkwell_bridge.core.examples.observing import Observed, observe
from inkwell_bridge.core.examples.skeleton import Structure, skeleton, structures
from inkwell_bridge.core.examples.writing import text_of
from inkwell_bridge.core.planner import PlanningContext, plan_order
from inkwell_bridge.core.rulebook.reader import read
from inkwell_bridge.core.values import Code, Said, Text, Value

# So many orders show how lines are said; all of them are learnt from.
SAMPLE = 200
Advance = Callable[[int], None]


class NothingLearnt(InkwellError):
    """The examples tell too little for a rulebook; the text says what is missing."""


class LearntRule(Value):
    """A rule with its JSON Pointer; ``supported`` and ``contradicted`` count examples, or ``note`` says why it is
    proposed without any. One without ``value`` stays open."""

    at: Text
    value: Text = ""
    supported: int | None = None
    contradicted: int = 0
    note: Said = ""


class ExampleDiffers(Value):
    """An order of which the books hold something else than the proposed rules make."""

    number: Code
    books_number: Text = ""
    differs: tuple[Said, ...]


class Proposal(Value):
    """A rulebook that was learnt.

    Shape: of ``examples`` orders ``explained`` come to what the books hold; the others are ``exceptions``.
    """

    text: str
    rules: tuple[LearntRule, ...]
    examples: int
    explained: int
    exceptions: tuple[ExampleDiffers, ...]


def propose(
    name: str, examples: Sequence[Example], books: MasterData, capabilities: BooksCapabilities, *,
    time_zone: str, country: str = "", source: str = "source", least: int = 2, advance: Advance = lambda done: None,
) -> Proposal:  # fmt: skip
    """The smallest rulebook that explains these examples, and those which it does not.

    ``least`` is how many examples a rule beside the usual one must have. ``advance`` hears how many examples were gone
    over, of twice their number. The same examples give the same proposal.

    Raises:
        NothingLearnt: no order has a document whose lines could be told, or none with a tax code.
    """
    sold = [example for example in examples if example.sale is not None]
    if not sold:
        raise NothingLearnt("None of the orders has a document in the books, so there is nothing to learn from.")

    orders = [example.order for example in examples]
    statuses = {order.status for order in orders}
    classes = {charge.tax_class for order in orders for charge in order.charges if charge.tax_class} or {"none"}
    currencies = sorted({order.currency for order in orders} - {books.currency})
    # Whatever the books keep: an order in another currency is looked at too, and told where it does not agree.
    reading = books.model_copy(update={"currencies": tuple(currencies)})

    def bare(structure: Structure) -> PlanningContext:
        return PlanningContext(source=source, rulebook=skeleton(structure, statuses, classes), master_data=reading,
                               capabilities=capabilities, time_zone=time_zone, country=country)  # fmt: skip

    structure = _best_structure(sold[:SAMPLE], bare)
    context = bare(structure)
    observed = observe(examples, context)
    advance(len(examples))
    learnt = rules_of(observed, examples, books, structure, least)
    if not any(rule.at[:2] == ("tax_codes", "by_class") and rule.value for rule in learnt):
        raise NothingLearnt(_why_nothing(observed, examples))
    rules = read(text_of(name, learnt, books, head=()))[0].for_orders
    # Who a document is made out to is found as orders come; here only what stands on it is compared.
    anybody = rules.model_copy(update={"customers": context.rulebook.customers})
    learnt_context = context.model_copy(update={"rulebook": anybody, "master_data": books})
    exceptions = _exceptions(examples, learnt_context, advance)
    explained = len(examples) - len(exceptions)
    head = (
        f"Rules learnt from {len(examples)} orders and what the books hold for them: they explain {explained}.",
        'Each choice says how many examples speak for it, and how many against. "proposed" stands until somebody has',
        "looked at it, and takes the mark away.",
    )
    return Proposal(
        text=text_of(name, learnt, books, head=head),
        rules=tuple(_told(rule) for rule in learnt),
        examples=len(examples),
        explained=explained,
        exceptions=exceptions,
    )


def _best_structure(sold: Sequence[Example], bare: Callable[[Structure], PlanningContext]) -> Structure:
    """The form whose lines stand in the books most often; of several the plainest."""
    forms = list(structures([example.order for example in sold]))
    if len(forms) == 1:
        return forms[0]
    # The first of the largest: forms come from the plainest on.
    return max(forms, key=lambda form: observe(sold, bare(form)).fitting)


def _exceptions(examples: Sequence[Example], context: PlanningContext, advance: Advance) -> tuple[ExampleDiffers, ...]:
    found = []
    by_items = context.rulebook.items is not None
    for done, example in enumerate(examples, start=1):
        own = context.model_copy(update={"articles": example.articles}) if by_items else context
        if differs := differences(plan_order(example.order, own), example):
            found.append(ExampleDiffers(number=example.order.number, books_number=example.sale_number,
                                        differs=tuple(differs)))  # fmt: skip
        if not done % 100:
            advance(len(examples) + done)
    return tuple(sorted(found, key=lambda one: one.number))


def _why_nothing(observed: Observed, examples: Sequence[Example]) -> str:
    first = next(iter(observed.unexplained.items()), None)
    why = f" Of {examples[first[0]].order.number}: {'; '.join(first[1])}." if first else ""
    return f"No line of the documents in the books could be told to be an amount of its order.{why}"


def _told(rule: Learnt) -> LearntRule:
    value = "" if rule.value is None else _words(rule.value)
    return LearntRule(at=rule.pointer, value=value, supported=rule.supported, contradicted=rule.contradicted,
                      note=rule.note)  # fmt: skip


def _words(value: object) -> str:
    if isinstance(value, dict):
        return ", ".join(f"{name}: {below}" for name, below in value.items())
    return ", ".join(map(str, value)) if isinstance(value, list) else str(value)
